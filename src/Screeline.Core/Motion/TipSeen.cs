namespace Screeline.Core.Motion;

/// <summary>What can be measured on the glass.</summary>
public enum TipMeasure
{
    /// <summary>Height of the tip above the cowl line at park, mm.</summary>
    ParkHeight,
    /// <summary>Height of the tip above the cowl line at the lower end of the sweep, mm.</summary>
    LowHeight,
    /// <summary>Angle the arm sweeps, degrees.</summary>
    SweepAngle,
    /// <summary>The tip's smallest clearance to a pillar while it sweeps, mm; 0 or less when it touches.</summary>
    PillarClearance,
}

/// <summary>One thing measured on the glass.</summary>
/// <param name="What">What.</param>
/// <param name="Arm">Which arm.</param>
/// <param name="Value">mm or degrees.</param>
/// <param name="Error">Standard error of measuring it.</param>
/// <param name="Place">Which of the places it parks in, for a height at park.</param>
public sealed record TipSeen(TipMeasure What, int Arm, double Value, double Error, int Place = 0)
{
    /// <summary>Usual standard error with a rule and an angle gauge held to the glass (common practice, no source).</summary>
    public static double UsualError(TipMeasure what) => what switch { TipMeasure.SweepAngle => 1, TipMeasure.PillarClearance => 3, _ => 1.5 };

    /// <summary>How much good vehicles of one kind differ: a third of the band for heights, the rest common practice, no source.</summary>
    internal static double Scatter(TipMeasure what, TipBand band) => what switch { TipMeasure.SweepAngle => 0.7, TipMeasure.PillarClearance => 3, _ => band.Tolerance / 3 };

    /// <summary>What a linkage would show here.</summary>
    /// <exception cref="MotionException">It does not go through its range.</exception>
    public double On(WiperLinkage linkage)
    {
        switch (What)
        {
            case TipMeasure.ParkHeight: return linkage.TipHeights(linkage.Park[Math.Min(Place, linkage.Park.Count - 1)])[Arm];
            case TipMeasure.SweepAngle: return linkage.SweepOf(Arm).Angle;
            case TipMeasure.LowHeight:
                var sweep = linkage.SweepOf(Arm);
                return Math.Min(linkage.TipHeights(sweep.LowCrank)[Arm], linkage.TipHeights(sweep.HighCrank)[Arm]);
            default:
                return linkage.Turn((linkage.Range.To - linkage.Range.From) / 48).Min(p => linkage.Glass.PillarClearance(p.Rockers[Arm].Tip));
        }
    }

    /// <summary>The same thing measured on another vehicle.</summary>
    internal bool IsSame(TipSeen other) => What == other.What && Arm == other.Arm && Place == other.Place;
}
