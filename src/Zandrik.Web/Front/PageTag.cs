using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.Net.Http.Headers;
using Zandrik.Storage;

namespace Zandrik.Web.Front;

/// <summary>
/// The tag of a page that follows from its job, or from the jobs of a list, alone: a browser that shows the tag of what
/// it has is told "not modified" before anything is loaded. Equal tags mean equal pages: made of what the jobs stand
/// at, who asks with which cookies (form tokens stand in the page), the address, the day, and this start of the program.
/// </summary>
public static class PageTag
{
    // Pages that show nothing but what a stamp covers. A sheet says when it was made, a capture's columns are remembered
    // from other jobs, a form of the intake keeps what is typed: these are made anew each time.
    private static readonly HashSet<string> Pages = new(StringComparer.Ordinal)
    {
        "/Index", "/Jobs/Dry", "/Jobs/LeakDown", "/Jobs/Wet", "/Jobs/Running", "/Jobs/Prepare", "/Jobs/Plugs", "/Jobs/Checks", "/Jobs/Liquid", "/Jobs/Refit", "/Jobs/Judgement", "/Jobs/Verdict", "/Jobs/Plan",
    };

    private static readonly string Start = Guid.NewGuid().ToString("N");

    /// <summary>The tag of the page that is asked for; absent where it has none.</summary>
    /// <param name="context">The request.</param>
    /// <param name="visit">Who asks, and what the jobs stand at.</param>
    /// <param name="clock">The clock.</param>
    public static string? Of(HttpContext context, Visit visit, TimeProvider clock)
    {
        var request = context.Request;
        if (!HttpMethods.IsGet(request.Method) || context.GetEndpoint()?.Metadata.GetMetadata<PageActionDescriptor>() is not { } page || !Pages.Contains(page.ViewEnginePath)
            || request.Query.ContainsKey("handler") || (visit.Jobs.Count == 0 && page.ViewEnginePath != "/Index")
            // What was just done is said once, on the page that comes next.
            || request.Cookies.Keys.Any(k => k.Contains("TempData", StringComparison.Ordinal)))
        {
            return null;
        }
        var text = new StringBuilder(Start).Append('|').Append(request.Path).Append(request.QueryString).Append('|').Append(request.IsHtmx()).Append('|')
            .Append(request.Headers.Cookie).Append('|').Append(visit.Who.Role).AppendJoin(',', visit.Who.Setup).Append('|').Append(ShopText.Today(clock, visit.Who).ToString("O", CultureInfo.InvariantCulture));
        foreach (var job in visit.Jobs)
        {
            text.Append('|').Append(job.Number).Append(' ').Append(job.Stamp);
        }
        foreach (var person in visit.People)
        {
            text.Append('|').Append(person.Id).Append(' ').Append(person.Name);
        }
        return $"W/\"{Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(text.ToString())))[..32]}\"";
    }

    /// <summary>Answers "not modified" where the browser shows the tag; else the page will carry it. True when it is answered.</summary>
    /// <param name="context">The request.</param>
    /// <param name="tag">The page's tag.</param>
    public static bool IsAnswered(HttpContext context, string tag)
    {
        var (request, response) = (context.Request, context.Response);
        if (request.Headers.IfNoneMatch.Any(t => t == tag))
        {
            response.StatusCode = StatusCodes.Status304NotModified;
            Say(response, tag);
            return true;
        }
        response.OnStarting(() =>
        {
            // A cookie that is set with this very answer is not in its tag: the next one has it. Taking back what was never said is no change.
            if (response.StatusCode == StatusCodes.Status200OK && response.Headers.SetCookie.All(c => c!.Contains("TempData", StringComparison.Ordinal)))
            {
                Say(response, tag);
            }
            return Task.CompletedTask;
        });
        return false;
    }

    private static void Say(HttpResponse response, string tag)
    {
        response.Headers.ETag = tag;
        // Kept by the browser only, and asked for before each use.
        response.Headers.CacheControl = "private, no-cache";
        response.Headers.Append(HeaderNames.Vary, "Cookie, HX-Request");
    }
}
