using Zandrik.Storage;

namespace Zandrik.Web.Front;

/// <summary>Who is looking at a page: the person of the sign-in cookie, looked up once for each request.</summary>
public sealed class Visitor(IHttpContextAccessor http)
{
    /// <summary>The person; absent on the pages that anybody may see.</summary>
    public ShopPerson? Who => http.HttpContext?.Items[typeof(ShopPerson)] as ShopPerson;

    /// <summary>The person.</summary>
    /// <exception cref="InvalidOperationException">Nobody is signed in: the page is open to anybody, which is a fault of the program.</exception>
    public ShopPerson Person => Who ?? throw new InvalidOperationException("This page needs somebody who is signed in.");
}
