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

/// <summary>The two addresses a supervisor asks: is the process alive, and can it do its work.</summary>
public static class HealthAddresses
{
    /// <summary>Maps <c>/health/live</c> and <c>/health/ready</c>.</summary>
    public static void MapHealth(this WebApplication app)
    {
        app.MapHealthChecks("/health/live", new HealthCheckOptions { Predicate = _ => false });
        app.MapHealthChecks("/health/ready", new HealthCheckOptions
        {
            Predicate = c => c.Tags.Contains("ready"),
            // Warming up is no failure, and yet not ready.
            ResultStatusCodes = { [HealthStatus.Degraded] = StatusCodes.Status503ServiceUnavailable },
        });
    }
}
