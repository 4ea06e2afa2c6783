using System.Globalization;
using System.Security.Claims;
using System.Security.Cryptography;
using System.Text;
using System.Threading.RateLimiting;

namespace Zandrik.Web.Front;

/// <summary>
/// Nobody takes the server from the others: so many calls of the API for each token, so many files at once for each person. Who
/// has to wait is told for how long; a tablet's outbox waits by itself. Tries to sign in are counted in the database.
/// </summary>
public static class RateLimits
{
    /// <summary>Calls of the API a second that one token may make, on the long run, where ZANDRIK_API_RATE says nothing else.</summary>
    public const int CallsASecond = 300;

    // As many at once as in ten seconds: a script that catches up is not held up.
    private const int SecondsAtOnce = 10;

    /// <summary>Files one person, or one token, sends at once.</summary>
    public const int FilesAtOnce = 3;

    private const int FilesThatWait = 6;

    /// <summary>Adds the limits. ZANDRIK_API_RATE 0 is none on the API.</summary>
    public static void Add(IServiceCollection services, IConfiguration configuration) => services.AddRateLimiter(o =>
    {
        var rate = int.TryParse(configuration["ZANDRIK_API_RATE"], NumberStyles.None, CultureInfo.InvariantCulture, out var set) ? set : CallsASecond;
        o.GlobalLimiter = PartitionedRateLimiter.CreateChained(
            PartitionedRateLimiter.Create<HttpContext, string>(http => rate == 0 || !http.Request.Path.StartsWithSegments("/api", StringComparison.Ordinal) ? RateLimitPartition.GetNoLimiter("")
                : RateLimitPartition.GetTokenBucketLimiter(Sender(http), _ => new TokenBucketRateLimiterOptions
                {
                    TokenLimit = rate * SecondsAtOnce, TokensPerPeriod = rate, ReplenishmentPeriod = TimeSpan.FromSeconds(1), QueueLimit = 0,
                })),
            PartitionedRateLimiter.Create<HttpContext, string>(http => !http.Request.HasFormContentType || http.Request.ContentType?.StartsWith("multipart/", StringComparison.OrdinalIgnoreCase) != true ? RateLimitPartition.GetNoLimiter("")
                : RateLimitPartition.GetConcurrencyLimiter(Sender(http), _ => new ConcurrencyLimiterOptions { PermitLimit = FilesAtOnce, QueueLimit = FilesThatWait })));
        o.OnRejected = async (rejected, cancel) =>
        {
            var http = rejected.HttpContext;
            var wait = rejected.Lease.TryGetMetadata(MetadataName.RetryAfter, out var after) ? after : TimeSpan.FromSeconds(5);
            var seconds = Math.Max(1, (int)Math.Ceiling(wait.TotalSeconds));
            http.Response.Headers.RetryAfter = seconds.ToString(CultureInfo.InvariantCulture);
            await Results.Problem($"Too much at once. Send it again in {seconds} s.", statusCode: StatusCodes.Status429TooManyRequests).ExecuteAsync(http);
        };
    });

    // Whoever is signed in, else the token (its hash: no secret is a key), else the address.
    private static string Sender(HttpContext http) => http.User.FindFirstValue(ClaimTypes.NameIdentifier) is { } person ? $"person {person}"
        : http.Request.Headers.Authorization.ToString() is { Length: > 0 } token ? $"token {Convert.ToHexString(SHA256.HashData(Encoding.UTF8.GetBytes(token)).AsSpan(0, 8))}"
        : $"address {http.Connection.RemoteIpAddress}";
}
