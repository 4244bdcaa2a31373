using System.Diagnostics;
using Screeline.Core.Jobs;
using Screeline.Data;

namespace Screeline.Web.Infrastructure;

/// <summary>
/// Makes the first look at Find as quick as the second: while the application starts, the open jobs are judged, those that stand at Find first, so
/// that the tables of their vehicles are built and what judges them is compiled. "Ready" waits for it, but not for longer than
/// <see cref="Longest"/>; what is left is done afterwards, with pauses, so that whoever works meanwhile hardly notices.
/// </summary>
public sealed class WarmUp(IServiceProvider services, SummaryStore summaries, JobStore jobs, Settings settings, IHostApplicationLifetime lifetime, ILogger<WarmUp> log)
{
    /// <summary>How long after the start of the process "ready" is said at the latest.</summary>
    public static readonly TimeSpan Longest = TimeSpan.FromSeconds(2);

    // After the start a table is built for one part of the time and nothing for three.
    private const int Pause = 3;

    private readonly TaskCompletionSource _done = new(TaskCreationOptions.RunContinuationsAsynchronously);
    private readonly DateTime _started = Process.GetCurrentProcess().StartTime;

    /// <summary>Whether the open jobs are judged, or their time is up.</summary>
    public bool IsDone => _done.Task.IsCompleted || DateTime.Now - _started > Longest;

    /// <summary>Begins beside the start, which leaves one core free.</summary>
    public void Begin()
    {
        if (settings.WarmUp)
        {
            _ = Task.Run(WorkAsync);
        }
        else
        {
            _done.SetResult();
        }
    }

    private async Task WorkAsync()
    {
        try
        {
            await Task.WhenAll(Task.Run(() => JudgeAsync(lifetime.ApplicationStopping)), AskAsync(lifetime.ApplicationStopping));
        }
        catch (OperationCanceledException)
        {
            // It is stopped before it was done.
        }
        catch (Exception e)
        {
            // Whether the database is there, "ready" tells by itself; the first who looks then waits as long as it takes.
            log.LogWarning(e, "Nothing could be made ready beforehand");
        }
        finally
        {
            _done.TrySetResult();
        }
    }

    // The one page that anybody may ask for: it goes through all that pages go through.
    private async Task AskAsync(CancellationToken cancel)
    {
        var started = new TaskCompletionSource();
        await using var _ = lifetime.ApplicationStarted.Register(started.SetResult);
        await started.Task.WaitAsync(cancel);
        using var client = new HttpClient { BaseAddress = new Uri($"http://127.0.0.1:{settings.Port}") };
        using var answer = await client.GetAsync("/sign-in", cancel);
    }

    private async Task JudgeAsync(CancellationToken cancel)
    {
        var open = (await summaries.OpenAsync(null, take: DiagnosisTables.Most * 4, cancel: cancel)).OrderBy(r => r.Summary.Stage == Stage.Find ? 0 : r.Summary.Stage == Stage.Complaint ? 1 : 2);
        // One table a vehicle and family: the second job of one is judged in no time.
        foreach (var row in open.DistinctBy(r => (r.Summary.Vehicle, r.Summary.Family)).Take(DiagnosisTables.Most))
        {
            if (IsDone)
            {
                _done.TrySetResult();
            }

            var clock = Stopwatch.StartNew();
            using var scope = services.CreateScope();
            if ((await jobs.FindAsync(row.Number, cancel))?.Job is { } job)
            {
                await scope.ServiceProvider.GetRequiredService<Diagnoser>().JudgeAsync(job, cancel);
            }

            if (IsDone)
            {
                await Task.Delay(Pause * clock.Elapsed, cancel);
            }
        }
    }
}
