using Microsoft.Net.Http.Headers;
using Zandrik.Storage;

namespace Zandrik.Web.Front;

/// <summary>Notes every file that a signed-in person was handed: a record, a sheet, a list.</summary>
public sealed class ExportAudit(RequestDelegate next)
{
    /// <summary>Goes on, and notes what came of it.</summary>
    public async Task InvokeAsync(HttpContext context, AuditStore audit)
    {
        await next(context);
        if (context.Response.StatusCode == StatusCodes.Status200OK && context.Items[typeof(Visit)] is Visit visit
            && context.Response.Headers.ContentDisposition.ToString() is var name && name.StartsWith("attachment", StringComparison.OrdinalIgnoreCase))
        {
            var file = ContentDispositionHeaderValue.TryParse(name, out var named) ? HeaderUtilities.RemoveQuotes(named.FileName).ToString() : context.Request.Path.ToString();
            // The answer is on its way: whoever hangs up now has it all the same.
            await audit.NoteAsync(visit.Who, AuditStore.Exported, file, cancel: CancellationToken.None);
        }
    }
}
