using Screeline.Core.Quantities;

namespace Screeline.Core.Diagnosis;

/// <summary>A reading as evidence: a number or an answer to one test.</summary>
/// <param name="Test">The test.</param>
/// <param name="Value">The number, or null.</param>
/// <param name="Choice">The answer, or null.</param>
/// <param name="Celsius">The temperature at the vehicle when it was taken, °C; null when nobody said.</param>
public sealed record Evidence(string Test, Figure? Value, string? Choice, double? Celsius = null);

/// <summary>All that is known when a system is judged.</summary>
/// <param name="System">The family's knowledge.</param>
/// <param name="NominalVolts">12 or 24.</param>
/// <param name="Behaviours">Ids of observed behaviours.</param>
/// <param name="Readings">Readings that stand, oldest first; the latest of a test counts.</param>
public sealed record FindCase(FaultSystem System, decimal NominalVolts, IReadOnlyList<string> Behaviours, IReadOnlyList<Evidence> Readings)
{
    /// <summary>How often it was tried before anything was measured.</summary>
    public int Tried { get; init; }

    /// <summary>How often it failed then.</summary>
    public int Failed { get; init; }

    /// <summary>The latest reading of a test, or null.</summary>
    public Evidence? Latest(string test) => Readings.LastOrDefault(r => r.Test == test);

    /// <summary>
    /// The latest number read in a test, in the base unit; where it was not taken but follows from others by addition, that;
    /// else null.
    /// </summary>
    public decimal? Value(string test)
    {
        if (Latest(test)?.Value is { } figure)
        {
            return figure.Base;
        }

        var from = System.Test(test)?.WorkedOutFrom ?? [];
        return from.Count > 0 && from.All(w => Latest(w.Test)?.Value is not null) ? from.Sum(w => w.Sign * Latest(w.Test)!.Value!.Value.Base) : null;
    }

    /// <summary>The answers given to a test: its latest reading, else what the complaint says.</summary>
    public IReadOnlyList<string> Answers(string test) =>
        Latest(test)?.Choice is { } choice ? [choice] : [.. System.Behaviours.Where(b => b.Test == test && Behaviours.Contains(b.Id)).Select(b => b.Choice)];

    /// <summary>How often a test was read in a row, up to its latest reading, with the same outcome: the same answer, or a number within a fifth and ten errors of its instrument.</summary>
    public int Agreeing(string test)
    {
        Evidence[] taken = [.. Readings.Where(r => r.Test == test)];
        var error = System.Test(test) is { Unit: { } unit } t ? 10 * (decimal)t.Accuracy * unit.Factor : 0;
        bool IsAlike(Evidence r) => r.Choice == taken[^1].Choice && (r.Value is not { } value || Math.Abs(value.Base - taken[^1].Value!.Value.Base) <= error + 0.2m * Math.Max(Math.Abs(value.Base), Math.Abs(taken[^1].Value!.Value.Base)));
        return taken.Reverse().TakeWhile(IsAlike).Count();
    }

    /// <summary>Whether the latest reading of a test is good; null when there is none or it cannot be told.</summary>
    public bool? Good(string test)
    {
        if (System.Test(test) is not { } t)
        {
            return null;
        }

        return t.Unit is null
            ? Answers(test) is [var first, ..] ? t.IsGood(null, first, NominalVolts, _ => null) : null
            : Value(test) is { } value ? t.IsGood(new Figure(value, Units.OfKind(t.Unit.Kind)[0]), null, NominalVolts, other => Value(other) is { } v ? new Figure(v, Units.OfKind(t.Unit.Kind)[0]) : null, Latest(test)?.Celsius) : null;
    }

    /// <summary>The figure of a test as it was read, or as it was worked out; empty when there is none.</summary>
    public string Told(string test) =>
        Latest(test)?.Value is { } figure ? figure.ToString()
        : Value(test) is { } value && System.Test(test)!.Unit is { } unit ? new Figure(decimal.Round(unit.FromBase(value), 2), unit).ToString()
        : Answers(test) is [var first, ..] ? System.Test(test)?.Choices.FirstOrDefault(c => c.Id == first)?.Title ?? first
        : "";
}

/// <summary>The four things that must be shown before a motor is condemned.</summary>
public enum ProofPart
{
    /// <summary>The supply side carries the motor's own current.</summary>
    Power,
    /// <summary>The return side carries the motor's own current.</summary>
    Ground,
    /// <summary>The command to run reaches it.</summary>
    Command,
    /// <summary>What it drives is free to move.</summary>
    Mechanical,
}

/// <summary>How one part of the proof stands.</summary>
public enum ProofState
{
    /// <summary>Not yet told.</summary>
    Open,
    /// <summary>Shown to be good.</summary>
    Shown,
    /// <summary>Shown to be bad: the fault is here.</summary>
    Failed,
}

/// <summary>One line of the four-way proof.</summary>
/// <param name="Part">Which part.</param>
/// <param name="State">How it stands.</param>
/// <param name="Because">The reading that shows it, or what is missing, in one line.</param>
public sealed record ProofLine(ProofPart Part, ProofState State, string Because);

/// <summary>What the four-way proof allows to say.</summary>
public enum FindVerdict
{
    /// <summary>Something is still open.</summary>
    Open,
    /// <summary>Power, ground, command and free movement are shown, and still it does not do its work: the motor is condemned.</summary>
    MotorProven,
    /// <summary>A part of the proof failed: the fault is not in the motor, or not shown to be.</summary>
    Elsewhere,
}

/// <summary>What the readings of a case prove: the one rule of proof, for every screen and the interface.</summary>
/// <param name="Proof">Four lines, always in the order power, ground, command, mechanical.</param>
/// <param name="Verdict">What can be said of the motor.</param>
/// <param name="Because">Why, in one line.</param>
/// <param name="Missing">Tests that would settle the open parts soonest, in order.</param>
/// <param name="Proven">The repairs that are proven: each seen on both sides of the thing, its deciding reading taken twice or closing a sum. None while readings contradict each other.</param>
/// <param name="Contradiction">Readings that cannot all be right, or null.</param>
public sealed record Finding(IReadOnlyList<ProofLine> Proof, FindVerdict Verdict, string Because, IReadOnlyList<FaultTest> Missing, IReadOnlyList<Repair> Proven, Contradiction? Contradiction)
{
    /// <summary>One line of the proof.</summary>
    public ProofLine this[ProofPart part] => Proof[(int)part];

    /// <summary>Whether these readings prove a repair.</summary>
    public bool Proves(Repair repair) => Proven.Contains(repair);
}
