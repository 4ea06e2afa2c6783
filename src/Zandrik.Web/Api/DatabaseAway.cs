using Npgsql;

namespace Zandrik.Web.Api;

/// <summary>What a script is told while the database does not answer: that it is not its request, and to send it again.</summary>
public static class DatabaseAway
{
    private const string RetryAfterS = "5";

    // Classes of SQLSTATE in which the server cannot serve anybody: connection, resources, not in that state, operator.
    private static readonly string[] Classes = ["08", "53", "55", "57"];

    /// <summary>The status of an answer to a request that broke: 503 where the database is away, 500 for anything else.</summary>
    public static int StatusOf(Exception broken) => IsAway(broken) ? StatusCodes.Status503ServiceUnavailable : StatusCodes.Status500InternalServerError;

    /// <summary>Fills in what is said with a 503.</summary>
    public static void Say(ProblemDetailsContext context)
    {
        if (context.ProblemDetails.Status == StatusCodes.Status503ServiceUnavailable)
        {
            context.ProblemDetails.Title = "The database does not answer.";
            context.ProblemDetails.Detail = "Send the same request again in a moment, with the same Idempotency-Key if it has one.";
            context.HttpContext.Response.Headers.RetryAfter = RetryAfterS;
        }
    }

    private static bool IsAway(Exception broken) => broken switch
    {
        PostgresException said => Classes.Contains(said.SqlState[..2]),
        NpgsqlException => true,
        _ => broken.InnerException is { } inner && IsAway(inner),
    };
}
