using Screeline.Data;

namespace Screeline.Web.Api;

/// <summary>Whether the process lives, and whether it can work.</summary>
public static class Health
{
    /// <summary>Maps /health/live and /health/ready.</summary>
    public static void MapHealth(this IEndpointRouteBuilder app)
    {
        app.MapGet("/health/live", () => Results.Text("live"));
        app.MapGet("/health/ready", async (Database database, CancellationToken cancel) =>
            await database.NotReadyAsync(cancel) is { } reason ? Results.Text(reason, statusCode: StatusCodes.Status503ServiceUnavailable) : Results.Text("ready"));
    }
}
