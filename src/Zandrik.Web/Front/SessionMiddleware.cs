using System.Globalization;
using System.Security.Claims;
using Microsoft.AspNetCore.Authentication;
using Microsoft.AspNetCore.Authorization;
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
    public async Task InvokeAsync(HttpContext context, SignInStore door, LiveJobs live)
    {
        // Styles, fonts and the pages open to anybody need no look at the database.
        if (context.GetEndpoint()?.Metadata is { } metadata && metadata.GetMetadata<IAuthorizeData>() is not null
            && metadata.GetMetadata<IAllowAnonymous>() is null && context.User.Identity?.IsAuthenticated == true)
        {
            // Before anything is read: what changes from here on, the page is told.
            context.Items[typeof(LiveJobs)] = live.Mark;
            int? Number(string claim) => int.TryParse(context.User.FindFirstValue(claim), NumberStyles.None, CultureInfo.InvariantCulture, out var n) ? n : null;
            var who = Number(Authentication.ShopClaim) is { } shop && Number(ClaimTypes.NameIdentifier) is { } person
                && Guid.TryParse(context.User.FindFirstValue(Authentication.StampClaim), out var stamp)
                ? await door.BySessionAsync(shop, person, stamp, context.RequestAborted)
                : null;
            if (who is null)
            {
                await context.SignOutAsync();
                context.User = new ClaimsPrincipal(new ClaimsIdentity());
            }
            else
            {
                context.Items[typeof(ShopPerson)] = who;
                CultureInfo.CurrentCulture = ShopText.Culture(who);
            }
        }
        await next(context);
    }
}
