namespace Screeline.Core.Motion;

/// <summary>One stage of a gear train.</summary>
/// <param name="Ratio">Turns of its input for one of its output.</param>
/// <param name="PlayDegrees">Play between its wheels, at its output.</param>
public sealed record GearStage(double Ratio, double PlayDegrees);

/// <summary>What was read at one end of an actuator's travel.</summary>
/// <param name="Counts">Where it stands there.</param>
/// <param name="Amperes">Current against the stop; null when not measured.</param>
public sealed record EndStop(double Counts, double? Amperes);

/// <summary>What is measured on an actuator.</summary>
/// <param name="StrokeCounts">Counts between the stops as specified.</param>
/// <param name="StrokeTolerance">Either way, counts.</param>
/// <param name="Low">The learned lower end.</param>
/// <param name="High">The learned upper end.</param>
/// <param name="CountsPerDegree">Counts for one degree of the output; null when not known.</param>
/// <param name="ReversalCounts">Counts that pass after reversing before the output moves; null when not measured.</param>
/// <param name="LargestBacklash">Allowed play of the output, degrees; null when not given.</param>
/// <param name="MovingAmperes">Current while moving, each direction (up to the high end, down to the low one); null when not measured.</param>
/// <param name="LargestMoving">Highest usual current while moving, A; null when not given.</param>
public sealed record ActuatorMeasured(double StrokeCounts, double StrokeTolerance, EndStop Low, EndStop High, double? CountsPerDegree = null, double? ReversalCounts = null, double? LargestBacklash = null, (double Up, double Down)? MovingAmperes = null, double? LargestMoving = null);

/// <summary>What is said of an actuator.</summary>
/// <param name="What">In one line.</param>
/// <param name="Because">Why.</param>
/// <param name="Bad">Whether it must be put right.</param>
public sealed record ActuatorSaid(string What, string Because, bool Bad);

/// <summary>End stops, stroke, play and currents of an actuator.</summary>
public static class ActuatorSetting
{
    /// <summary>A motor against a stop draws at least so many times what it draws while moving (common practice, no source).</summary>
    public const double StopAgainstMoving = 1.6;
    /// <summary>Currents up and down differ by less than this share when nothing binds one way (common practice, no source).</summary>
    public const double LargestDifference = 0.35;

    /// <summary>Play at the output, degrees: each stage's play, divided by the ratios between it and the output.</summary>
    /// <param name="stages">From the motor to the output.</param>
    public static double Backlash(IReadOnlyList<GearStage> stages)
    {
        var (play, ratio) = (0.0, 1.0);
        foreach (var stage in stages.Reverse())
        {
            play += stage.PlayDegrees / ratio;
            ratio *= stage.Ratio;
        }

        return play;
    }

    /// <summary>Whether worn wheels are renewed singly or with the one they mesh with.</summary>
    /// <param name="wornIsPlastic">Material of the worn wheel.</param>
    /// <param name="mateIsPlastic">Material of the wheel it meshes with.</param>
    /// <param name="mateShowsWear">Whether that one shows wear too: steps, shine on the flanks, points on the teeth.</param>
    /// <returns>In one line with its reason. Common practice, no source.</returns>
    public static (bool Pair, string Why) Renew(bool wornIsPlastic, bool mateIsPlastic, bool mateShowsWear) =>
        mateShowsWear ? (true, "Because the other wheel is worn too: a new tooth on a worn one wears to its shape.")
        : wornIsPlastic && !mateIsPlastic ? (false, "Because metal that shows no wear keeps its shape: the plastic wheel alone.")
        : wornIsPlastic == mateIsPlastic ? (true, "Because wheels of one material wear alike: what one shows the other has begun.")
        : (true, "Because metal that wore on plastic has grit in it: both, and clean the housing.");

    /// <summary>Judges what was measured.</summary>
    public static IReadOnlyList<ActuatorSaid> Judge(ActuatorMeasured m)
    {
        var said = new List<ActuatorSaid>();
        var stroke = m.High.Counts - m.Low.Counts;
        var off = stroke - m.StrokeCounts;
        var moving = m.MovingAmperes is { } a ? (a.Up + a.Down) / 2 : (double?)null;
        bool? Stops(EndStop end) => end.Amperes is { } at && moving is { } usual ? at >= StopAgainstMoving * usual : null;
        var ends = new[] { (End: m.Low, Name: "low"), (End: m.High, Name: "high") };
        var without = ends.Where(e => Stops(e.End) == false).Select(e => e.Name).ToList();
        if (off > m.StrokeTolerance)
        {
            said.Add(without.Count == 1
                ? new($"Runs {off:0} counts over at the {without[0]} end: that stop is missing", "Because the current does not rise there: nothing holds it.", true)
                : new($"Runs {off:0} counts over: a stop is missing or broken", "Because it goes beyond the specified stroke. The end without a rise of current is the one.", true));
        }
        else if (off < -m.StrokeTolerance)
        {
            said.Add(new($"Stops {-off:0} counts short", "Because something holds it before its stop: debris, a wheel a tooth off, a linkage that binds. Free, it goes the whole stroke.", true));
        }
        else
        {
            said.Add(new($"Stroke {stroke:0} of {m.StrokeCounts:0} counts", $"Within {m.StrokeTolerance:0} either way.", false));
            foreach (var name in without)
            {
                said.Add(new($"No rise of current at the {name} end", "Because a motor against its stop draws much more than while it moves: it was stopped by its counter, or the stop gives.", true));
            }
        }

        if (m.ReversalCounts is { } lost)
        {
            var play = m.CountsPerDegree is { } per ? lost / per : (double?)null;
            var inDegrees = play is { } d ? $", {d:0.0}° at the output" : "";
            var tooMuch = play is { } p && m.LargestBacklash is { } most ? p > most : lost > 0.05 * m.StrokeCounts;
            said.Add(new($"Backlash {lost:0} counts{inDegrees}", tooMuch ? "More than allowed: worn teeth, or a loose lever on its shaft." : m.LargestBacklash is null ? "Less than a twentieth of the stroke." : "Within what is allowed.", tooMuch));
        }

        if (m.MovingAmperes is { } amperes)
        {
            var (most, least) = (Math.Max(amperes.Up, amperes.Down), Math.Min(amperes.Up, amperes.Down));
            if (m.LargestMoving is { } limit && most > limit)
            {
                said.Add(new($"Draws {most:0.00} A while moving, usual is up to {limit:0.00} A", "Because what it drives is stiff, or its bearing is: turn the flap or fork by hand, unhooked.", true));
            }
            else if (least > 0 && most / least > 1 + LargestDifference)
            {
                said.Add(new($"Draws {most:0.00} A one way, {least:0.00} A the other", "Because it binds, or lifts against a spring, in one direction.", false));
            }
            else
            {
                said.Add(new($"Draws {least:0.00} to {most:0.00} A while moving", m.LargestMoving is null ? "Alike both ways." : "Within what is usual.", false));
            }
        }

        return said;
    }
}
