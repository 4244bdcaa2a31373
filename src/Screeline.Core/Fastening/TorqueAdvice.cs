using Screeline.Core.Quantities;

namespace Screeline.Core.Fastening;

/// <summary>Everything there is to say about tightening one group of fasteners.</summary>
/// <param name="Fastener">The group.</param>
/// <param name="Choice">Which specified figure is used; null when nobody specifies one.</param>
/// <param name="Worked">What to do where none is specified; null when there is one, or no thread is known.</param>
/// <param name="Doubt">A specified figure the thread cannot mean, in words; null when it can.</param>
/// <param name="Settings">Wrenches that reach it, the best first.</param>
/// <param name="WhyNoWrench">Why none does; null when one does.</param>
/// <param name="Order">The order of its members, as indices into their spots.</param>
/// <param name="Passes">Shares of the torque, pass by pass.</param>
public sealed record TorqueAdvice(
    Fastener Fastener, TorqueChoice? Choice, WorkedTorque? Worked, string? Doubt, IReadOnlyList<WrenchSetting> Settings, string? WhyNoWrench, IReadOnlyList<int> Order, IReadOnlyList<decimal> Passes)
{
    /// <summary>The torque to set; null when there is none.</summary>
    public Figure? Target => Choice?.Chosen?.Value;

    /// <summary>Puts it together.</summary>
    /// <param name="fastener">The group.</param>
    /// <param name="wrenches">Torque wrenches owned.</param>
    /// <param name="today">For their calibration.</param>
    public static TorqueAdvice For(Fastener fastener, IReadOnlyList<TorqueWrench> wrenches, DateOnly today)
    {
        var order = TighteningOrder.ForSpots(fastener.Spots, fastener.Torque?.Pattern);
        if (fastener.Torque is not { } torque)
        {
            var worked = fastener.Metric is { } thread && fastener.Kind is not ("clip" or "push-pin" or "clamp" or "pin") ? TighteningTorque.Work(thread, fastener.Joint, StrengthClass.Parse(fastener.Strength) ?? StrengthClass.Parse("8.8")!, Friction(fastener.Treatment)) : null;
            return new TorqueAdvice(fastener, null, worked, null, [], null, order, [1m]);
        }

        var choice = TorqueChoice.Choose(torque.All, fastener.Structural);
        var settings = choice.Chosen is { } chosen ? WrenchChoice.For(chosen.Value, wrenches, fastener.Adaptor, today) : [];
        return new TorqueAdvice(
            fastener, choice, null, choice.Chosen is { } c && fastener.Metric is { } metric ? TorqueDoubt.Find(c.Value, metric, fastener.Joint) : null, settings,
            choice.Chosen is { } none && settings.Count == 0 ? WrenchChoice.WhyNone(none.Value, wrenches) : null, order, TighteningOrder.Passes(fastener.Count, torque.Passes));
    }

    /// <summary>
    /// A doubt about a figure that somebody typed for this group: far from the one specified, or what its thread cannot mean; null when it is neither.
    /// </summary>
    public string? DoubtAbout(Figure set)
    {
        if (Target is { } target && Math.Abs(set.Base - target.Base) > Tolerance * target.Base)
        {
            var same = Units.OfKind(QuantityKind.Torque).FirstOrDefault(u => u != set.Unit && Math.Abs(new Figure(set.Number, u).Base - target.Base) <= Tolerance * target.Base);
            return same is not null ? $"{set}? Specified is {target}: that is {set.Number} {same.Symbol}." : $"{set}? Specified is {target}{(target.Unit == set.Unit ? "" : $", {target.Format(set.Unit)}")}.";
        }

        return Target is null && Fastener.Metric is { } thread ? TorqueDoubt.Find(set, thread, Fastener.Joint) : null;
    }

    /// <summary>How far a value may lie from the one specified before it is asked about, as a share.</summary>
    public const decimal Tolerance = 0.1m;

    private static double Friction(string treatment) => treatment is "grease" or "anti-seize" or "oil" ? (treatment == "oil" ? 0.10 : TighteningTorque.GreasedFriction) : TighteningTorque.UsualFriction;
}
