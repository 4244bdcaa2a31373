using Screeline.Core.Diagnosis;
using Screeline.Library;

namespace Screeline.Web.Infrastructure;

/// <summary>
/// Builds one small table in the background when the application starts, so that the first person who opens Find does not wait
/// for the compiler: cold it takes some four seconds, warm half of one.
/// </summary>
public sealed class WarmUp(ShippedLibrary library, DiagnosisTables tables) : BackgroundService
{
    /// <inheritdoc/>
    protected override Task ExecuteAsync(CancellationToken stoppingToken) => Task.Run(() =>
    {
        var system = library.Systems.OrderBy(s => s.Faults.Count * s.States.Count).ThenBy(s => s.Id, StringComparer.Ordinal).First();
        var engine = tables.For(system, VehicleSetting.Usual.With(VehicleSetting.Volts, 12));
        engine.Judge(new Inquiry(new FindCase(system, 12, [system.Behaviours[0].Id], [])));
    }, stoppingToken);
}
