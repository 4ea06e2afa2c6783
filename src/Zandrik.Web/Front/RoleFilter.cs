using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.Filters;

namespace Zandrik.Web.Front;

/// <summary>Marks a page that only a foreman may open.</summary>
[AttributeUsage(AttributeTargets.Class)]
public sealed class ForemanOnlyAttribute : Attribute;

/// <summary>Marks a page on which a viewer may post too: it changes only the viewer's own sign-in.</summary>
[AttributeUsage(AttributeTargets.Class)]
public sealed class OpenToViewersAttribute : Attribute;

/// <summary>Keeps each person to what the role allows: viewers change nothing, and some pages are the foreman's.</summary>
public sealed class RoleFilter : IAsyncPageFilter
{
    /// <inheritdoc/>
    public Task OnPageHandlerSelectionAsync(PageHandlerSelectedContext context) => Task.CompletedTask;

    /// <inheritdoc/>
    public Task OnPageHandlerExecutionAsync(PageHandlerExecutingContext context, PageHandlerExecutionDelegate next)
    {
        var who = (context.HttpContext.Items[typeof(Storage.Visit)] as Storage.Visit)?.Who;
        var page = context.HandlerInstance.GetType();
        // Whoever is not known is no foreman; posting without being known is for the pages that are open to anybody.
        var refused = (page.IsDefined(typeof(ForemanOnlyAttribute), inherit: false) && who?.MayManage != true)
            || (who is not null && !HttpMethods.IsGet(context.HttpContext.Request.Method) && !HttpMethods.IsHead(context.HttpContext.Request.Method)
                && !who.MayMeasure && !page.IsDefined(typeof(OpenToViewersAttribute), inherit: false));
        if (!refused && who?.LacksCode == true && page.IsDefined(typeof(ForemanOnlyAttribute), inherit: false))
        {
            // A foreman all the same at the engine; the shop itself waits for the phone.
            context.Result = new RedirectResult("/account/code");
            return Task.CompletedTask;
        }
        if (refused)
        {
            context.Result = new StatusCodeResult(StatusCodes.Status403Forbidden);
            return Task.CompletedTask;
        }
        return next();
    }
}
