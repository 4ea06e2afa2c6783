using System.Globalization;
using System.Security.Claims;
using Microsoft.AspNetCore.Authentication;
using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Zandrik.Storage;

namespace Zandrik.Web.Front;

/// <summary>
/// Looks the person of the sign-in cookie up, with each page, and treats a cookie that is no longer good as
/// none. It stands behind the cookie's own check, because a failure in there is remembered for the whole
/// request, and the page that says so would fail with it.
/// </summary>
public sealed class SessionMiddleware(RequestDelegate next)
{
    /// <summary>Looks and goes on; figures for people are written in the shop's style from here on.</summary>
    public async Task InvokeAsync(HttpContext context, SignInStore signIn, LiveJobs live, TimeProvider clock)
    {
        // Styles, fonts and the pages open to anybody need no look at the database.
        if (context.GetEndpoint()?.Metadata is { } metadata && metadata.GetMetadata<IAuthorizeData>() is not null
            && metadata.GetMetadata<IAllowAnonymous>() is null && context.User.Identity?.IsAuthenticated == true)
        {
            // Before anything is read: what changes from here on, the page is told.
            context.Items[typeof(LiveJobs)] = live.Mark;
            int? Number(string claim) => int.TryParse(context.User.FindFirstValue(claim), NumberStyles.None, CultureInfo.InvariantCulture, out var n) ? n : null;
            var visit = Number(Authentication.ShopClaim) is { } shop && Number(ClaimTypes.NameIdentifier) is { } person
                && Guid.TryParse(context.User.FindFirstValue(Authentication.StampClaim), out var stamp)
                && Guid.TryParse(context.User.FindFirstValue(Authentication.SessionClaim), out var session)
                ? await signIn.VisitAsync(new SessionKey(shop, person, stamp, session), clock.GetUtcNow(), AboutOf(context), context.RequestAborted)
                : null;
            if (visit is null)
            {
                await context.SignOutAsync();
                context.User = new ClaimsPrincipal(new ClaimsIdentity());
            }
            else
            {
                context.Items[typeof(Visit)] = visit;
                if (clock.GetUtcNow() - visit.SeenAt > Noted)
                {
                    await signIn.TouchSessionAsync(visit.Who, SessionOf(context), clock.GetUtcNow(), context.RequestAborted);
                }
                CultureInfo.CurrentCulture = ShopText.Culture(visit.Who);
                if (PageTag.Of(context, visit, clock) is { } tag && PageTag.IsAnswered(context, tag))
                {
                    return;
                }
            }
        }
        await next(context);
    }

    /// <summary>The session of the cookie.</summary>
    internal static Guid SessionOf(HttpContext context) => Guid.TryParse(context.User.FindFirstValue(Authentication.SessionClaim), out var session) ? session : Guid.Empty;

    // So long a session is in use without that being written down.
    private static readonly TimeSpan Noted = TimeSpan.FromMinutes(5);

    // What the page is about is asked in the same round trip: the job of its address, or the list of the bays.
    private static VisitAbout? AboutOf(HttpContext context)
    {
        if (int.TryParse(context.GetRouteValue("number") as string, NumberStyles.None, CultureInfo.InvariantCulture, out var number))
        {
            return new VisitAbout(number);
        }
        int? Asked(string name) => int.TryParse(context.Request.Query[name], NumberStyles.None, CultureInfo.InvariantCulture, out var n) ? n : null;
        return HttpMethods.IsGet(context.Request.Method) && context.GetEndpoint()?.Metadata.GetMetadata<PageActionDescriptor>()?.ViewEnginePath == "/Index"
            ? new VisitAbout(null, Pages.IndexModel.Showing(Asked("by"), Asked("after")), Pages.IndexModel.JobsOnAPage) : null;
    }
}
