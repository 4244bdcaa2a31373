using System.Globalization;

namespace Screeline.Core.Motion;

/// <summary>A kind of setting.</summary>
/// <param name="Id">Its name in addresses, maps and entries.</param>
/// <param name="Title">What people call it.</param>
/// <param name="OnVehicle">Whether it is set on a vehicle and kept in its job; else it only works something out on the bench.</param>
public sealed record SettingKind(string Id, string Title, bool OnVehicle);

/// <summary>All kinds of setting.</summary>
public static class SettingKinds
{
    /// <summary>In the order of the bench.</summary>
    public static IReadOnlyList<SettingKind> All { get; } =
    [
        new("wiper", "Wiper setting", true),
        new("park", "Park, ten stops", true),
        new("window", "Window travel", true),
        new("actuator", "Actuator ends", true),
        new("balance", "Balance", true),
        new("belt", "Belt and pulleys", true),
        new("lengths", "Lengths of a linkage", false),
        new("battery", "Battery", false),
    ];

    /// <summary>Names of those that are set on a vehicle.</summary>
    public static IReadOnlyList<string> OnVehicle { get; } = [.. All.Where(k => k.OnVehicle).Select(k => k.Id)];

    /// <summary>The kind of this name, or null.</summary>
    public static SettingKind? Find(string id) => All.FirstOrDefault(k => k.Id == id);

    /// <summary>What people call a kind; its name when it is not known.</summary>
    public static string Title(string id) => Find(id)?.Title ?? id;
}

/// <summary>What a setting comes to.</summary>
/// <param name="Words">The result in one line; null while there is none.</param>
/// <param name="Holds">Whether it is right, so that the gate of its step may open; null while too little is known.</param>
/// <param name="Because">Why; null where the words say it.</param>
public sealed record SettingVerdict(string? Words, bool? Holds, string? Because = null)
{
    /// <summary>Nothing is known yet.</summary>
    public static SettingVerdict None { get; } = new(null, null);

    /// <summary>A number as verdicts and files print it: rounded, with a point.</summary>
    public static string Number(double number, int digits = 3) => Math.Round(number, digits).ToString(CultureInfo.InvariantCulture);
}

/// <summary>The verdict on each kind of setting: what counts as right, in one place.</summary>
public static class SettingVerdicts
{
    /// <summary>A glass that changes its tilt by more than this on its way jams (common practice, no source), mm.</summary>
    public const double LargestTiltChange = 3;

    /// <summary>Above this many standard errors the lengths found do not explain what was measured (common practice, no source).</summary>
    public const double LargestLengthMisfit = 3;

    /// <summary>State of charge below which a battery is not judged under load (common practice, no source).</summary>
    public const double LeastChargeToJudge = 0.75;

    /// <summary>Right is a wiper whose every tip was measured at park and lies in its band, and that touches nothing.</summary>
    /// <param name="right">The linkage as it should be.</param>
    /// <param name="seen">What was measured.</param>
    /// <param name="answer">What explains it; null when nothing was measured.</param>
    public static SettingVerdict Wiper(WiperLinkage right, IReadOnlyList<TipSeen> seen, SettingAnswer? answer)
    {
        var heights = seen.Where(s => s.What == TipMeasure.ParkHeight).ToList();
        // Where a tip parks twice its band goes with the place.
        bool InBand(TipSeen s) => Math.Abs(s.Value - s.On(right)) <= right.Rockers[s.Arm].Band.Tolerance;
        var all = right.Rockers.Select((_, r) => r).All(r => heights.Any(h => h.Arm == r));
        var touches = seen.Any(s => s.What == TipMeasure.PillarClearance && s.Value <= 0);
        bool? holds = heights.Count == 0 ? null : touches || !heights.All(InBand) ? false : all ? true : null;
        return new(
            holds == true ? "Tips in their bands"
                : answer is null ? null
                : answer.FitsNone ? "No known cause fits these readings"
                : answer.Causes[0].Changes.Count == 0 ? "Turn nothing"
                : string.Join(", then: ", SettingAdvice.For(right, answer.Causes[0]).Select(a => a.Act)),
            holds);
    }

    /// <summary>Right is a wiper that stops at one place, or at two in turn where it is made so.</summary>
    public static SettingVerdict Park(ParkStops stops, int count) => stops.Verdict switch
    {
        ParkVerdict.MoreStops => new($"{ParkStops.Fewest - count} more stops for a verdict", null, "Because fewer cannot tell one place from two."),
        ParkVerdict.Holds => new("Park holds", true, $"Because all stops lie within a spread of {SettingVerdict.Number(stops.Places[0].Spread, 1)} mm; a sound contact stays below {ParkStops.SoundSpread} mm."),
        ParkVerdict.Alternates => new("Two places in turn: alternating park, no fault", true, "Because the controller changes between two rests to spare the rubber. Hold each place to its own band."),
        ParkVerdict.TwoPlaces => new("Two places, not in turn: look at the park contact", false, "Because a crank does not jump there and back; a worn or dirty contact does."),
        ParkVerdict.Creeps => new("It creeps one way: the crank is loose", false, "Because each stop lies beyond the last one: the crank slips on its shaft. Its nut, then its taper."),
        _ => new("It stops anywhere: park contact, or a loose crank", false, $"Because the stops spread by {SettingVerdict.Number(stops.Places[0].Spread, 1)} mm. Hold the crank's nut first: it is seen at once."),
    };

    /// <summary>Right is a window that runs in its bands both ways, does not tilt on its way, has force left for a cold day, and was set in order.</summary>
    /// <param name="answer">What the runs say; null without one.</param>
    /// <param name="bothWays">Whether a run each way was measured.</param>
    /// <param name="tilts">How much lower the rear hangs at each place measured, mm.</param>
    /// <param name="margin">Force there is and force that is needed at low supply in the cold, N; null when not known.</param>
    /// <param name="trap">Closing force on a trapped test piece, N; null when not measured.</param>
    /// <param name="heat">State of the thermal cut-out; null when nothing is said of stalls.</param>
    /// <param name="setInOrder">Whether every step of <see cref="WindowOrder"/> was done.</param>
    public static SettingVerdict Window(WindowAnswer? answer, bool bothWays, IReadOnlyList<double> tilts, (double Available, double Needed)? margin, double? trap, (CutOut State, double SecondsToWait)? heat, bool setInOrder)
    {
        if (heat is { State: not CutOut.Closed } hot)
        {
            return new($"The cut-out {(hot.State == CutOut.Open ? "is open very likely" : "may be open")}: wait {Math.Ceiling(hot.SecondsToWait / 60)} min before you judge the motor", false);
        }

        if (trap > WindowTravel.AntiTrapNewtons)
        {
            return new($"Pinches with {SettingVerdict.Number(trap.Value, 0)} N, {WindowTravel.AntiTrapNewtons} N is the most", false);
        }

        if (answer is null)
        {
            return SettingVerdict.None;
        }

        var tilting = tilts.Count > 1 && tilts.Max() - tilts.Min() > LargestTiltChange;
        var weak = margin is { } m && m.Available < m.Needed;
        var first = answer.Said[0];
        return new(
            first.Bad ? first.What : tilting ? "The glass tilts on its way: set the guide, glass fully up" : weak ? "Right now it goes; at low supply and in the cold it will not" : first.What,
            answer.Said.Any(s => s.Bad) || tilting || weak ? false : bothWays && setInOrder ? true : null);
    }

    /// <summary>Right is an actuator whose ends, stroke and moving current were measured and are as they should be.</summary>
    /// <param name="said">What is said of it.</param>
    /// <param name="currentMeasured">Whether its moving current was measured both ways.</param>
    public static SettingVerdict Actuator(IReadOnlyList<ActuatorSaid> said, bool currentMeasured) =>
        said.FirstOrDefault(s => s.Bad) is { } bad ? new(bad.What, false) : currentMeasured ? new("Ends, stroke and current as they should be", true) : new("Stroke right; current not measured", null);

    /// <summary>Right is a wheel whose residual imbalance is within its grade.</summary>
    /// <param name="result">What the runs come to.</param>
    /// <param name="corrected">Whether the last run was made with the correction on.</param>
    /// <param name="leftOver">Imbalance that the last run shows, g·mm.</param>
    /// <param name="permissible">The most the grade allows, g·mm.</param>
    /// <param name="grade">G, mm/s.</param>
    public static SettingVerdict Balance(Balance result, bool corrected, double leftOver, double permissible, double grade)
    {
        bool? holds = leftOver <= permissible ? true : corrected ? false : null;
        var next = corrected ? result.Addition : result.Correction;
        return new(
            result.Misfit > Motion.Balance.LargestMisfit ? $"The circles miss each other by {100 * result.Misfit:0} %: measure again"
                : holds == true ? $"Within G {SettingVerdict.Number(grade, 1)}: {SettingVerdict.Number(leftOver, 1)} of {SettingVerdict.Number(permissible, 1)} g·mm"
                : $"{(corrected ? "Add" : "Put")} {SettingVerdict.Number(next.Grams, 2)} g at {SettingVerdict.Number(next.Degrees, 0)}°",
            holds);
    }

    /// <summary>Right is a belt whose tension lies within what is wanted.</summary>
    /// <param name="tension">N; null when not measured.</param>
    /// <param name="least">Lowest wanted, N, or null.</param>
    /// <param name="most">Highest wanted, N, or null.</param>
    /// <param name="drivenSpeed">Speed of the driven pulley, rev/min, or null.</param>
    public static SettingVerdict Belt(double? tension, double? least, double? most, double? drivenSpeed)
    {
        if (tension is not { } t)
        {
            return drivenSpeed is { } turns ? new($"{SettingVerdict.Number(turns, 0)} rev/min at the alternator", null) : SettingVerdict.None;
        }

        bool? holds = least is { } low && most is { } high ? t >= low && t <= high : null;
        return new($"{SettingVerdict.Number(t, 0)} N{(holds switch { true => ", within what is wanted", false => t < least ? ": too slack" : ": too tight", _ => "" })}", holds);
    }

    /// <summary>Right are lengths that explain what was measured.</summary>
    /// <param name="found">The fit.</param>
    /// <param name="title">What a length is called.</param>
    public static SettingVerdict Lengths(LinkageFound found, Func<Sought, string> title) => new(
        found.Misfit > LargestLengthMisfit ? $"No lengths near the guesses fit: off by {SettingVerdict.Number(found.Misfit, 1)} times the error of measuring"
            : found.Found.All(f => f.IsFixed) ? "Found"
            : $"Not fixed by these measurements: {string.Join(", ", found.Found.Where(f => !f.IsFixed).Select(f => title(f.Sought).ToLowerInvariant()))}",
        found.Misfit <= LargestLengthMisfit);

    /// <summary>Right is a battery that holds its voltage under load.</summary>
    /// <param name="charge">State of charge from the resting voltage, 0 to 1; NaN for a dead cell; null when not measured.</param>
    /// <param name="load">Voltage after 15 s of load, V; null when not measured.</param>
    /// <param name="least">Lowest voltage that a sound one shows then, V.</param>
    public static SettingVerdict Battery(double? charge, double? load, double least) =>
        charge is not { } share ? SettingVerdict.None
        : double.IsNaN(share) ? new("A dead cell: renew it", false)
        : load >= least ? new("Sound under load", true)
        : share < LeastChargeToJudge ? new(load is null ? $"{100 * share:0} % charged: charge before you judge anything" : "Charge it first, then load it again", null)
        : load is null ? new($"{100 * share:0} % charged", null)
        : new("Weak under load: renew it", false);
}
