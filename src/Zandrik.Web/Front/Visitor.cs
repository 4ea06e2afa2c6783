using Zandrik.Storage;

namespace Zandrik.Web.Front;

/// <summary>Who is looking at a page: the person of the sign-in cookie, looked up once for each request.</summary>
public sealed class Visitor(IHttpContextAccessor http)
{
    /// <summary>The person; absent on the pages that anybody may see.</summary>
    public ShopPerson? Who => Visit?.Who;

    /// <summary>The person.</summary>
    /// <exception cref="InvalidOperationException">Nobody is signed in: the page is open to anybody, which is a fault of the program.</exception>
    public ShopPerson Person => Who ?? throw new InvalidOperationException("This page needs somebody who is signed in.");

    /// <summary>What was looked up with the person; absent on the pages that anybody may see.</summary>
    public Visit? Visit => http.HttpContext?.Items[typeof(Visit)] as Visit;

    /// <summary>What a job stood at when the request came in; absent once this request may have changed it, and where it was not asked.</summary>
    /// <param name="number">The job.</param>
    public JobStamp? StampOf(int number) => http.HttpContext is { } context && HttpMethods.IsGet(context.Request.Method) ? BeforeAnyChange(number) : null;

    /// <summary>The same for whoever asks before the request changes anything.</summary>
    /// <param name="number">The job.</param>
    public JobStamp? BeforeAnyChange(int number) => Visit?.Jobs.FirstOrDefault(j => j.Number == number);
}
