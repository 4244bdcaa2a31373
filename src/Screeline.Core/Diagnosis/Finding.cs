using Screeline.Core.Quantities;

namespace Screeline.Core.Diagnosis;

/// <summary>A reading as evidence: a number or an answer to one test.</summary>
public sealed record Evidence(string Test, Figure? Value, string? Choice);

/// <summary>All that is known when a system is judged.</summary>
/// <param name="System">The family's knowledge.</param>
/// <param name="NominalVolts">12 or 24.</param>
/// <param name="Behaviours">Ids of observed behaviours.</param>
/// <param name="Readings">Readings that stand, oldest first; the latest of a test counts.</param>
public sealed record FindCase(FaultSystem System, decimal NominalVolts, IReadOnlyList<string> Behaviours, IReadOnlyList<Evidence> Readings)
{
    /// <summary>The latest reading of a test, or null.</summary>
    public Evidence? Latest(string test) => Readings.LastOrDefault(r => r.Test == test);

    /// <summary>The latest number read in a test, in the base unit, or null.</summary>
    public decimal? Value(string test) => Latest(test)?.Value?.Base;

    /// <summary>Whether the latest reading of a test is good; null when there is none or it cannot be told.</summary>
    public bool? Good(string test) =>
        Latest(test) is { } reading ? System.Test(test)?.IsGood(reading.Value, reading.Choice, NominalVolts, other => Latest(other)?.Value) : null;
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

/// <summary>What the readings allow to say.</summary>
public enum FindVerdict
{
    /// <summary>Something is still open.</summary>
    Open,
    /// <summary>Power, ground, command and free movement are shown, and still it does not do its work: the motor is condemned.</summary>
    MotorProven,
    /// <summary>A part of the proof failed: the fault is not in the motor, or not shown to be.</summary>
    Elsewhere,
    /// <summary>The observed behaviour is none that this proof can judge.</summary>
    NotJudged,
}

/// <summary>The test to do next and why.</summary>
public sealed record NextTest(FaultTest Test, string Because);

/// <summary>The judgement of a case.</summary>
/// <param name="Proof">Four lines, always in the order power, ground, command, mechanical.</param>
/// <param name="Verdict">What can be said.</param>
/// <param name="Because">Why, in one line.</param>
/// <param name="Next">The test to do next, or null when none would change the verdict.</param>
public sealed record Finding(IReadOnlyList<ProofLine> Proof, FindVerdict Verdict, string Because, NextTest? Next)
{
    /// <summary>One line of the proof.</summary>
    public ProofLine this[ProofPart part] => Proof[(int)part];
}

/// <summary>Judges a case. Anything that can do this can stand behind Find.</summary>
public interface IFindEngine
{
    /// <summary>Judges a case; the same case always gets the same answer.</summary>
    Finding Assess(FindCase @case);
}
