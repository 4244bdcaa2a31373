namespace Screeline.Core.Motion;

/// <summary>Heights a tip may take.</summary>
/// <param name="Low">Lowest, mm above the cowl line.</param>
/// <param name="High">Highest.</param>
public readonly record struct TipSpan(double Low, double High);

/// <summary>What the gap at the crank leaves open at the blade tips.</summary>
public static class ParkTolerance
{
    /// <summary>
    /// Lowest and highest place of each tip at park while the crank's gap lies anywhere in its tolerance: the linkage is solved over
    /// the whole stretch, so that a dead centre inside it counts.
    /// </summary>
    /// <param name="linkage">The linkage; must have a gauge.</param>
    /// <param name="gapLow">Smallest gap, mm.</param>
    /// <param name="gapHigh">Largest gap, mm.</param>
    /// <param name="place">Which of the places it parks in.</param>
    public static IReadOnlyList<TipSpan> Spans(WiperLinkage linkage, double gapLow, double gapHigh, int place = 0)
    {
        const int Steps = 60;
        var heights = Enumerable.Range(0, Steps + 1).Select(i => linkage.TipHeights(linkage.Park[place] + GaugeOf(linkage).DegreesAt(gapLow + i * (gapHigh - gapLow) / Steps))).ToList();
        return [.. linkage.Rockers.Select((_, r) => new TipSpan(heights.Min(h => h[r]), heights.Max(h => h[r])))];
    }

    /// <summary>The stretch of gaps, around the one that is wanted or nearest to it, over which every tip holds its band; null when none does.</summary>
    public static (double Low, double High)? AllHold(WiperLinkage linkage, int place = 0)
    {
        var gauge = GaugeOf(linkage);
        bool Holds(double gap) => linkage.At(linkage.Park[place] + gauge.DegreesAt(gap)) is { } at
            && at.Rockers.Select((p, r) => linkage.Rockers[r].Band.Holds(linkage.Glass.HeightAbove(p.Tip))).All(h => h);
        var (least, most) = (gauge.Gap - 0.9 * gauge.Radius, gauge.Gap + 0.9 * gauge.Radius);
        const double Step = 0.05;
        var start = Enumerable.Range(0, (int)((most - least) / Step)).Select(i => i % 2 == 0 ? gauge.Gap + i / 2 * Step : gauge.Gap - (i + 1) / 2 * Step)
            .Cast<double?>().FirstOrDefault(g => g >= least && g <= most && Holds(g!.Value));
        if (start is not { } inside)
        {
            return null;
        }

        double Edge(double towards)
        {
            var (held, direction) = (inside, Math.Sign(towards - inside));
            while ((towards - held) * direction > Step && Holds(held + direction * Step))
            {
                held += direction * Step;
            }

            var (good, bad) = (held, held + direction * Step);
            for (var i = 0; i < 30; i++)
            {
                var middle = (good + bad) / 2;
                (good, bad) = Holds(middle) ? (middle, bad) : (good, middle);
            }

            return good;
        }

        return (Edge(least), Edge(most));
    }

    private static CrankGauge GaugeOf(WiperLinkage linkage) => linkage.Gauge ?? throw new MotionException("This linkage has no gap that is measured.");
}

/// <summary>A linkage with one thing otherwise.</summary>
public static class Change
{
    /// <summary>The crank turned on the motor's shaft, degrees: where the motor stops and turns back stays, where the crank is then does not.</summary>
    public static WiperLinkage Crank(WiperLinkage linkage, double degrees) => linkage with
    {
        Park = [.. linkage.Park.Select(p => p + degrees)],
        Ends = linkage.Ends is { } ends ? (ends.From + degrees, ends.To + degrees) : null,
    };

    /// <summary>An arm turned on its shaft, degrees.</summary>
    public static WiperLinkage Arm(WiperLinkage linkage, int rocker, double degrees) => Rocker(linkage, rocker, r => r with { Arm = r.Arm with { Angle = r.Arm.Angle + degrees } });

    /// <summary>A longer or shorter link, mm.</summary>
    public static WiperLinkage Link(WiperLinkage linkage, int rocker, double millimetres) => Rocker(linkage, rocker, r => r with { Link = r.Link + millimetres });

    /// <summary>A longer or shorter lever, mm.</summary>
    public static WiperLinkage Lever(WiperLinkage linkage, int rocker, double millimetres) => Rocker(linkage, rocker, r => r with { Lever = r.Lever + millimetres });

    /// <summary>Another arm: its tip nearer or farther, mm.</summary>
    public static WiperLinkage Tip(WiperLinkage linkage, int rocker, double millimetres) =>
        Rocker(linkage, rocker, r => r with { Arm = r.Arm with { Tip = r.Arm.Tip + millimetres, Heel = Math.Max(0, r.Arm.Heel + millimetres) } });

    private static WiperLinkage Rocker(WiperLinkage linkage, int rocker, Func<WiperRocker, WiperRocker> change) =>
        linkage with { Rockers = [.. linkage.Rockers.Select((r, i) => i == rocker ? change(r) : r)] };
}
