using Screeline.Core.Quantities;

namespace Screeline.Core.Fastening;

/// <summary>How good a source of a figure is, the best first.</summary>
public enum SourceGrade
{
    /// <summary>The vehicle's maker.</summary>
    Maker,
    /// <summary>Whoever made the part.</summary>
    PartMaker,
    /// <summary>A handbook.</summary>
    Handbook,
    /// <summary>Somebody says so.</summary>
    Hearsay,
}

/// <summary>A torque as one source gives it.</summary>
/// <param name="Value">Number and unit, unaltered.</param>
/// <param name="Source">Who says so.</param>
/// <param name="Grade">How good that source is.</param>
public sealed record SourcedTorque(Figure Value, string Source, SourceGrade Grade);

/// <summary>Which of several figures is used.</summary>
/// <param name="Chosen">The one to set; null when the work stops until the maker's figure is there.</param>
/// <param name="Why">The rule that chose, in words; null when there is nothing to choose.</param>
/// <param name="Others">The ones that stand beside it.</param>
public sealed record TorqueChoice(SourcedTorque? Chosen, string? Why, IReadOnlyList<SourcedTorque> Others)
{
    /// <summary>Figures closer than this share of the greater one say the same.</summary>
    public const double Agreement = 0.03;

    /// <summary>
    /// The better source wins. Where equally good ones differ: on a structural joint nothing is chosen, otherwise the lower value.
    /// </summary>
    /// <param name="figures">At least one.</param>
    /// <param name="structural">Whether somebody is hurt when the joint fails.</param>
    public static TorqueChoice Choose(IReadOnlyList<SourcedTorque> figures, bool structural)
    {
        if (figures.Count == 0)
        {
            throw new ArgumentException("At least one figure.", nameof(figures));
        }

        var ordered = figures.OrderBy(f => f.Grade).ThenBy(f => f.Value.Base).ToList();
        var lowest = ordered[0];
        var equals = ordered.Where(f => f.Grade == lowest.Grade).ToList();
        TorqueChoice Choose(SourcedTorque? chosen, string? why) => new(chosen, why, [.. figures.Where(f => f != chosen)]);
        if (figures.Count == 1)
        {
            return Choose(lowest, null);
        }

        if (equals.All(f => Agree(f, lowest)))
        {
            return ordered.Where(f => f.Grade != lowest.Grade).All(f => Agree(f, lowest)) ? Choose(lowest, "The sources agree.")
                : Choose(lowest, $"Because {Words(lowest.Grade)} comes before {Words(ordered.First(f => !Agree(f, lowest)).Grade)}.");
        }

        return structural ? Choose(null, "Stop: equally good sources differ on a structural joint. Get the maker's figure.")
            : Choose(lowest, "Because equally good sources differ, the lower one is used.");
    }

    private static bool Agree(SourcedTorque a, SourcedTorque b) => Math.Abs((double)(a.Value.Base - b.Value.Base)) <= Agreement * Math.Max((double)a.Value.Base, (double)b.Value.Base);

    /// <summary>A grade in words.</summary>
    public static string Words(SourceGrade grade) => grade switch
    {
        SourceGrade.Maker => "the maker's figure",
        SourceGrade.PartMaker => "the part maker's figure",
        SourceGrade.Handbook => "a handbook",
        _ => "hearsay",
    };
}
