using System.Globalization;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.Filters;
using Zandrik.Core.Records;
using Zandrik.Core.Shops;
using Zandrik.Storage;

namespace Zandrik.Web.Practice;

/// <summary>
/// Keeps a job of the practice bench on its bench: only whoever practises works on it and the foreman looks on; pages that
/// carry work out of the shop are not there; and a figure comes from the engine, not from the keyboard.
/// </summary>
public sealed class PracticeFilter : IAsyncPageFilter
{
    private static readonly HashSet<string> Pages = new(StringComparer.Ordinal)
    {
        "/Jobs/Plan", "/Jobs/Prepare", "/Jobs/Dry", "/Jobs/Wet", "/Jobs/LeakDown", "/Jobs/Running", "/Jobs/Relative", "/Jobs/Checks", "/Jobs/Judgement", "/Jobs/Air",
        "/Practice/Run", "/Practice/Call", "/Practice/Do",
    };

    // What would be typed on work, and what closes or hands out a job.
    private static readonly HashSet<string> Typed = new(StringComparer.OrdinalIgnoreCase)
    {
        "/Jobs/Dry|Enter", "/Jobs/Dry|Details", "/Jobs/Dry|Confirm", "/Jobs/Dry|Record", "/Jobs/Dry|Close", "/Jobs/Wet|Read", "/Jobs/LeakDown|Read", "/Jobs/LeakDown|Hear", "/Jobs/LeakDown|Silent", "/Jobs/Running|Idle", "/Jobs/Running|Snap", "/Jobs/Running|Held",
        "/Jobs/Relative|Upload", "/Jobs/Checks|",
    };

    /// <inheritdoc/>
    public Task OnPageHandlerSelectionAsync(PageHandlerSelectedContext context) => Task.CompletedTask;

    /// <inheritdoc/>
    public Task OnPageHandlerExecutionAsync(PageHandlerExecutingContext context, PageHandlerExecutionDelegate next)
    {
        var http = context.HttpContext;
        if (http.Items[typeof(Visit)] is not Visit { Who: { Purpose: JobPurpose.Practice } who } visit)
        {
            return next();
        }
        // A page that only says what happened has no job of its own.
        if (http.GetRouteValue("number") is not string number)
        {
            return next();
        }
        if (visit.TraineeId is not { } trainee || (trainee != who.PersonId && !who.MayManage))
        {
            context.Result = new NotFoundResult();
            return Task.CompletedTask;
        }
        var page = context.ActionDescriptor.ViewEnginePath;
        var reads = HttpMethods.IsGet(http.Request.Method) || HttpMethods.IsHead(http.Request.Method);
        if (!Pages.Contains(page))
        {
            context.Result = reads ? new RedirectResult(string.Create(CultureInfo.InvariantCulture, $"/practice/{number}?elsewhere=true")) : new StatusCodeResult(StatusCodes.Status403Forbidden);
            return Task.CompletedTask;
        }
        var handler = $"{page}|{http.Request.Query["handler"]}";
        // Which of two readings counts is chosen, not typed.
        var chooses = page == "/Jobs/Dry" && !reads && http.Request.HasFormContentType && http.Request.Form["kind"] == "Choose";
        if ((trainee != who.PersonId && !reads) || (Typed.Contains(handler) && !chooses && (!reads || handler.EndsWith("Record", StringComparison.OrdinalIgnoreCase))))
        {
            context.Result = new StatusCodeResult(StatusCodes.Status403Forbidden);
            return Task.CompletedTask;
        }
        if (trainee != who.PersonId)
        {
            http.Items[typeof(Visit)] = visit with { Who = who with { Role = ShopRole.Viewer } };
        }
        return next();
    }
}
