using Microsoft.AspNetCore.Antiforgery;
using Screeline.Data;
using Screeline.Web.Infrastructure;

namespace Screeline.Web.Api;

/// <summary>What a page asks beside its forms: what others do on its job, and a form token for what this device kept.</summary>
public static class Live
{
    // Shorter than proxies wait; and the stream ends now and then so that a sign-in that no longer holds ends it for good.
    private static readonly TimeSpan Beat = TimeSpan.FromSeconds(15), Longest = TimeSpan.FromMinutes(5);

    /// <summary>Maps GET /jobs/{number}/live and GET /kept.</summary>
    public static void MapLive(this IEndpointRouteBuilder app)
    {
        app.MapGet("/jobs/{number:long}/live", HeadsAsync).DisableRequestTimeout().ExcludeFromDescription();
        app.MapGet("/kept", (HttpContext context, IAntiforgery antiforgery, CurrentPerson current) =>
            Results.Json(new { token = antiforgery.GetAndStoreTokens(context).RequestToken, who = current.Person!.Name })).ExcludeFromDescription();
    }

    private static async Task HeadsAsync(long number, HttpContext context, JobStore jobs, JobFeed feed)
    {
        var cancel = context.RequestAborted;
        if (await jobs.HeadAsync(number, cancel) is not { } at)
        {
            context.Response.StatusCode = StatusCodes.Status404NotFound;
            return;
        }

        using var listening = feed.Listen(at.Job);
        context.Response.ContentType = "text/event-stream";
        context.Response.Headers["X-Accel-Buffering"] = "no";
        var end = DateTimeOffset.UtcNow + Longest;
        // Whatever came between the page and this stream is told at once.
        var head = (await jobs.HeadAsync(number, cancel))!.Value.Head;
        try
        {
            await SendAsync($"data: {head}\n\n");
            while (DateTimeOffset.UtcNow < end)
            {
                using var beat = CancellationTokenSource.CreateLinkedTokenSource(cancel);
                beat.CancelAfter(Beat);
                try
                {
                    var told = await listening.Heads.ReadAsync(beat.Token);
                    await SendAsync($"data: {(told > 0 ? told : (await jobs.HeadAsync(number, cancel))!.Value.Head)}\n\n");
                }
                catch (OperationCanceledException) when (!cancel.IsCancellationRequested)
                {
                    await SendAsync(": still here\n\n");
                }
            }
        }
        catch (Exception e) when (e is OperationCanceledException or IOException || Database.IsAway(e))
        {
            // Whoever looked has gone, or the database; the browser asks again.
        }

        async Task SendAsync(string text)
        {
            await context.Response.WriteAsync(text, cancel);
            await context.Response.Body.FlushAsync(cancel);
        }
    }
}
