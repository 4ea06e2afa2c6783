using Microsoft.AspNetCore.Diagnostics;
using Zandrik.Storage;

namespace Zandrik.Web.Api;

/// <summary>What a script is told when its request breaks: while the database is away, that it is not its request, and to send it again.</summary>
public static class ApiErrors
{
    private const string RetryAfterS = "5";

    /// <summary>The status: 503 where the database is away, what a request that cannot be read says itself (400, 408, 413), 500 for anything else.</summary>
    /// <param name="broken">What was thrown.</param>
    public static int StatusOf(Exception broken) => broken is BadHttpRequestException request ? request.StatusCode
        : DatabaseAway.Is(broken) ? StatusCodes.Status503ServiceUnavailable : StatusCodes.Status500InternalServerError;

    /// <summary>
    /// True where the log needs no stack for each request: that the database is away is logged by whoever watches it, and fifty
    /// tablets that try again would write megabytes of the same while it is.
    /// </summary>
    /// <param name="broken">What was thrown, and by which request.</param>
    public static bool IsSaidAlready(ExceptionHandlerSuppressDiagnosticsContext broken) => DatabaseAway.Is(broken.Exception);

    /// <summary>Fills in what is said where the database is away, and <c>Retry-After</c>; leaves every other problem as it is.</summary>
    /// <param name="context">The problem that is about to be answered.</param>
    public static void Say(ProblemDetailsContext context)
    {
        if (context.Exception is { } broken && DatabaseAway.Is(broken))
        {
            context.ProblemDetails.Title = "The database does not answer.";
            context.ProblemDetails.Detail = "Send the same request again in a moment, with the same Idempotency-Key if it has one.";
            context.HttpContext.Response.Headers.RetryAfter = RetryAfterS;
        }
    }
}
