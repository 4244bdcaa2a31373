using Screeline.Core.Fastening;
using Screeline.Data;
using Screeline.Library;

namespace Screeline.Web.Infrastructure;

/// <summary>The tools of the shop: what is owned, and the torque wrenches among them with their calibration.</summary>
/// <param name="Owned">Ids.</param>
/// <param name="Wrenches">Torque wrenches owned.</param>
public sealed record OwnedTools(IReadOnlySet<string> Owned, IReadOnlyList<TorqueWrench> Wrenches);

/// <summary>Puts the library's tools and the shop's own together.</summary>
public sealed class ToolCrib(ToolStore tools, ShippedLibrary library)
{
    /// <summary>What the shop owns now.</summary>
    public async Task<OwnedTools> OwnedAsync(CancellationToken cancel)
    {
        var owned = await tools.OwnedAsync(cancel);
        var calibrated = await tools.CalibrationsAsync(cancel);
        return new OwnedTools(owned,
        [
            .. from tool in library.Tools
               let wrench = tool.Wrench
               where wrench is not null && owned.Contains(tool.Id)
               orderby wrench.Unit.ToBase(wrench.High)
               select wrench with { Calibrated = calibrated.TryGetValue(tool.Id, out var day) ? day : null },
        ]);
    }

    /// <summary>Today, for calibrations.</summary>
    public static DateOnly Today => DateOnly.FromDateTime(DateTime.Today);
}
