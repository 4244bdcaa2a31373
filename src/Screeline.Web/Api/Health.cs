using Screeline.Data;
using Screeline.Web.Infrastructure;

namespace Screeline.Web.Api;

/// <summary>Whether the process lives, and whether it can work.</summary>
public static class Health
{
    /// <summary>Maps /health/live and /health/ready.</summary>
    public static void MapHealth(this IEndpointRouteBuilder app)
    {
        app.MapGet("/health/live", () => Results.Text("live"));
        app.MapGet("/health/ready", async (Database database, WarmUp warmUp, CancellationToken cancel) =>
            (await database.NotReadyAsync(cancel) ?? (warmUp.IsDone ? null : "The open jobs are being judged.")) is { } reason ? Results.Text(reason, statusCode: StatusCodes.Status503ServiceUnavailable) : Results.Text("ready"));
    }
}
