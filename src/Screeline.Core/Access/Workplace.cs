using Screeline.Core.Fastening;

namespace Screeline.Core.Access;

/// <summary>
/// Where and with what somebody works. Maps give minutes on stands on the ground, with hand tools; these factors (common
/// practice, no source) turn them into those of a lift and of power tools.
/// </summary>
/// <param name="Lift">Whether the vehicle goes on a lift.</param>
/// <param name="PowerTools">Whether power tools are at hand.</param>
public sealed record Workplace(bool Lift, bool PowerTools)
{
    /// <summary>Work underneath, standing instead of lying.</summary>
    public const decimal UnderneathOnLift = 0.8m;

    /// <summary>Getting it up and down.</summary>
    public const decimal RaisingOnLift = 0.5m;

    /// <summary>Minutes a power tool saves on each bolt, screw or nut that it may turn out; half of that on the way back, where the wrench has the last word.</summary>
    public const decimal SavedPerFastener = 0.15m;

    /// <summary>The greatest share of an operation that it can save.</summary>
    public const decimal MostSaved = 0.35m;

    /// <summary>Ground, hand tools: as maps are written.</summary>
    public static Workplace Plain { get; } = new(false, false);

    /// <summary>The map with this workplace's minutes.</summary>
    public AccessMap On(AccessMap map)
    {
        if (this == Plain)
        {
            return map;
        }

        var underneath = map.Positions.Where(p => p.Kind is { } kind ? Position.UnderneathKinds.Contains(kind) : p.Requires.Contains(AccessMapChecks.Supported)).Select(p => p.Id).ToHashSet(StringComparer.Ordinal);
        decimal Place(string position) => Lift && underneath.Contains(position) ? UnderneathOnLift : 1m;
        Operation On(Operation o)
        {
            var raising = Lift && o.Provides.Contains(AccessMapChecks.Supported) ? RaisingOnLift : Place(o.Position);
            var (apart, back) = (raising * Power(o, o.Minutes, 1m), raising * Power(o, o.CloseMinutes, 0.5m));
            return o with { Minutes = Times(o.Minutes, apart), Close = o.Close with { Minutes = o.Close.Minutes is null && apart == back ? null : Times(o.CloseMinutes, back) } };
        }

        return MapChanges.Copy(map, [.. map.Operations.Select(On)], [.. map.RefitSteps.Select(s => s with { Minutes = Times(s.Minutes, Place(s.Position)) })], map.PrintedRoute);
    }

    private decimal Power(Operation o, Minutes minutes, decimal share)
    {
        var turned = PowerTools ? o.Fasteners.Where(Turned).Sum(f => f.Count) : 0;
        return turned == 0 || minutes.Mean == 0 ? 1m : 1m - Math.Min(MostSaved, SavedPerFastener * share * turned / minutes.Mean);
    }

    // Copper studs, plastics and self-tappers are turned by hand; clips and clamps are not turned at all.
    private static bool Turned(Fastener f) => f.Drive is not null && f.Kind is "bolt" or "screw" or "nut" && f.Joint is Joint.Steel or Joint.LightAlloy;

    private static Minutes Times(Minutes m, decimal factor) => factor == 1m ? m : new Minutes(Math.Round(m.Low * factor, 2), Math.Round(m.Likely * factor, 2), Math.Round(m.High * factor, 2));
}
