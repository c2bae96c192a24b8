using Microsoft.AspNetCore.Diagnostics.HealthChecks;
using Microsoft.Extensions.Diagnostics.HealthChecks;
using Npgsql;

namespace Pelto.Web;

/// <summary>Ready means: start-up is over and the database answers.</summary>
internal sealed class Readiness(NpgsqlDataSource source, StartUp startUp) : IHealthCheck
{
    public async Task<HealthCheckResult> CheckHealthAsync(HealthCheckContext context, CancellationToken cancellationToken = default)
    {
        if (!startUp.IsOver)
            return HealthCheckResult.Unhealthy("Starting up.");
        try
        {
            await using var command = source.CreateCommand("SELECT 1");
            await command.ExecuteScalarAsync(cancellationToken);
            return HealthCheckResult.Healthy();
        }
        catch (NpgsqlException)
        {
            return HealthCheckResult.Unhealthy("The database does not answer.");
        }
    }
}

/// <summary>Routes for those who watch over the application.</summary>
internal static class Health
{
    public static void MapHealth(this WebApplication app)
    {
        app.MapHealthChecks("/health/live", new HealthCheckOptions { Predicate = static _ => false });
        app.MapHealthChecks("/health/ready", new HealthCheckOptions { Predicate = static check => check.Tags.Contains("ready") });
    }
}
