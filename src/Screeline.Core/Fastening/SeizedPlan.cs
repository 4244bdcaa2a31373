namespace Screeline.Core.Fastening;

/// <summary>One way to free a seized fastener.</summary>
/// <param name="What">What to do.</param>
/// <param name="Work">Minutes of work.</param>
/// <param name="Wait">Minutes of waiting.</param>
/// <param name="Frees">Chance that it comes free, when nothing before freed it.</param>
/// <param name="Breaks">Chance that it breaks.</param>
/// <param name="Caution">What can hurt or spoil, or null.</param>
public sealed record FreeingWay(string What, int Work, int Wait, double Frees, double Breaks, string? Caution);

/// <summary>
/// What a seized fastener costs: ways in the order of harm, the mildest first, and what they come to. Minutes and chances are common
/// practice, no source; they are there to be held against another way in.
/// </summary>
/// <param name="Ways">The ways.</param>
public sealed record SeizedPlan(IReadOnlyList<FreeingWay> Ways)
{
    /// <summary>Expected minutes of work and waiting until it is out, whole or in pieces.</summary>
    public double Minutes
    {
        get
        {
            var (left, minutes) = (1.0, 0.0);
            foreach (var way in Ways)
            {
                minutes += left * (way.Work + way.Wait);
                left *= 1 - way.Frees;
            }

            return minutes;
        }
    }

    /// <summary>Chance that it breaks on the way.</summary>
    public double Breaks
    {
        get
        {
            var (left, broken) = (1.0, 0.0);
            foreach (var way in Ways)
            {
                broken += left * way.Breaks;
                left *= 1 - way.Frees;
            }

            return Math.Min(1, broken);
        }
    }

    /// <summary>The plan for a fastener: no heat at plastic or a battery, no shock on copper.</summary>
    public static SeizedPlan For(Fastener fastener)
    {
        var ways = new List<FreeingWay> { new("Penetrating oil, and leave it", 1, 10, 0.45, 0, null) };
        if (fastener.Joint is Joint.CopperStud)
        {
            ways.Add(new FreeingWay("Hold the stud, work the nut back and forth by hand", 3, 0, 0.5, 0.15, "Copper twists off: no impact, no long bar"));
            ways.Add(new FreeingWay("Split the nut", 8, 0, 1, 0.1, "Goggles on; battery lead off"));
            return new SeizedPlan(ways);
        }

        ways.Add(new FreeingWay("One sharp shock on the head, then back and forth", 2, 0, 0.4, 0.03, "Goggles on"));
        if (fastener.Joint is Joint.Steel)
        {
            ways.Add(new FreeingWay("Warm what surrounds it, then turn", 6, 0, 0.5, 0.08, "Nothing that burns near it: fuel, oil, rubber, battery gas. Extinguisher at hand"));
        }

        ways.Add(new FreeingWay("Left-hand drill and extractor", 25, 0, 1, 0.35, "Goggles on; drill on the axis"));
        return new SeizedPlan(ways);
    }
}
