using Screeline.Core.Diagnosis;
using Screeline.Library;

namespace Screeline.Web.Infrastructure;

/// <summary>
/// Builds one small table in the background when the application starts, so that the first person who opens Find does not wait
/// for the compiler: cold it takes some four seconds, warm half of one. It begins when the start is over.
/// </summary>
public sealed class WarmUp(ShippedLibrary library, DiagnosisTables tables, IHostApplicationLifetime lifetime) : BackgroundService
{
    /// <inheritdoc/>
    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        // Not beside the start itself, which somebody waits for.
        var started = new TaskCompletionSource();
        await using var _ = lifetime.ApplicationStarted.Register(started.SetResult);
        await started.Task.WaitAsync(stoppingToken);
        await Task.Run(Build, stoppingToken);
    }

    private void Build()
    {
        var system = library.Systems.OrderBy(s => s.Faults.Count * s.States.Count).ThenBy(s => s.Id, StringComparer.Ordinal).First();
        var engine = tables.For(system, VehicleSetting.Usual.With(VehicleSetting.Volts, 12));
        engine.Judge(new Inquiry(new FindCase(system, 12, [system.Behaviours[0].Id], [])));
    }
}
