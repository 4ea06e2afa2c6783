using Microsoft.AspNetCore.Diagnostics.HealthChecks;
using Microsoft.Extensions.Diagnostics.HealthChecks;
using Zandrik.Storage;

namespace Zandrik.Web.Front;

/// <summary>Ready means that the database answers with the schema in place.</summary>
public sealed class DatabaseCheck(ShopDatabase database) : IHealthCheck
{
    /// <inheritdoc/>
    public async Task<HealthCheckResult> CheckHealthAsync(HealthCheckContext context, CancellationToken cancellationToken = default) =>
        await database.IsReadyAsync(cancellationToken) ? HealthCheckResult.Healthy() : HealthCheckResult.Unhealthy("The database does not answer.");
}

/// <summary>What a supervisor asks: is the process alive, can it do its work, and which version is it.</summary>
public static class HealthAddresses
{
    /// <summary>Maps <c>/health</c> (JSON: version and whether it is ready), <c>/health/live</c> and <c>/health/ready</c> (a word). What is not ready is answered 503.</summary>
    public static void MapHealth(this WebApplication app)
    {
        app.MapHealthChecks("/health", Ready(async (context, report) => await context.Response.WriteAsJsonAsync(new { version = AppVersion.Whole, ready = report.Status == HealthStatus.Healthy })));
        app.MapHealthChecks("/health/live", new HealthCheckOptions { Predicate = _ => false });
        app.MapHealthChecks("/health/ready", Ready());
    }

    private static HealthCheckOptions Ready(Func<HttpContext, HealthReport, Task>? write = null)
    {
        var options = new HealthCheckOptions
        {
            Predicate = c => c.Tags.Contains("ready"),
            // Warming up is no failure, and yet not ready.
            ResultStatusCodes = { [HealthStatus.Degraded] = StatusCodes.Status503ServiceUnavailable },
        };
        options.ResponseWriter = write ?? options.ResponseWriter;
        return options;
    }
}
