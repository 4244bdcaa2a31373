using System.Text.Json.Serialization;
using Screeline.Core.Diagnosis;
using Screeline.Core.People;

namespace Screeline.Core.Jobs;

/// <summary>On what ground somebody acts.</summary>
public enum DecisionAct
{
    /// <summary>Proven by the readings (<see cref="Finding.Proven"/>).</summary>
    Proven,
    /// <summary>By likelihood; called a guess.</summary>
    Guess,
    /// <summary>The fault lies elsewhere and was put right where it was found; nothing comes apart.</summary>
    Elsewhere,
}

/// <summary>Words for the ground of a decision.</summary>
public static class DecisionActs
{
    /// <summary>A ground in words.</summary>
    public static string Title(this DecisionAct act) => act switch
    {
        DecisionAct.Proven => "proven",
        DecisionAct.Guess => "a guess",
        _ => "fault elsewhere",
    };
}

/// <summary>What is done about it.</summary>
/// <param name="Act">On what ground.</param>
/// <param name="Repair">What is repaired or replaced.</param>
/// <param name="Why">Why, in words.</param>
/// <param name="RepairId">The repair as the family knows it, so that closed jobs can be counted; null when it is none of those.</param>
public sealed record DecisionMade(
    DecisionAct Act, string Repair, string Why,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)] string? RepairId = null) : Payload
{
    /// <summary>The kind.</summary>
    public static EntryKind EntryKind { get; } = EntryKind.Decision("decision-made", withItself: Clash.Always, withObservations: Clash.Always, by: Role.Apprentice);

    /// <inheritdoc/>
    public override string Subject() => "";

    /// <inheritdoc/>
    public override string Describe(Job job) => $"decided: {Repair} ({Act.Title()})";

    /// <inheritdoc/>
    protected internal override void Validate(Job job, EntryFaults faults)
    {
        faults.Text("why", Why);
        faults.Text("repair", Repair, 200);
        if (RepairId is { } repair && job.System.Repair(repair) is null)
        {
            faults.Add("repair_id", $"“{repair}” is not known in {job.System.Title}");
        }
    }

    /// <inheritdoc/>
    protected internal override string? OutOfOrder(Job job, DateTimeOffset at) =>
        job.Complaint is null ? "No behaviour is noted yet."
            : job.Removed.Count > 0 && job.Route is not null ? "The vehicle is apart already: withdraw the steps first."
            : Act == DecisionAct.Elsewhere && job.OpenOperations > 0 ? "The vehicle is apart: choose a repair that has a way, and take the way back."
            : Act == DecisionAct.Proven && !IsProven(job) ? "The proof is not complete, or rests on one reading: this would be a guess, and is called one."
            : null;

    /// <inheritdoc/>
    protected internal override void Apply(Job job, Entry entry) => job.Record(entry, this);

    // Who names no repair that the family knows means the motor.
    private bool IsProven(Job job) => (RepairId is { } id ? job.System.Repair(id) : null) is { } repair ? job.Finding.Proves(repair) : job.Finding.Proven.Any(r => r.IsMotor);
}

public sealed partial class Job
{
    /// <summary>What is done about it, or null.</summary>
    public Recorded<DecisionMade>? Decision { get; private set; }

    internal void Record(Entry entry, DecisionMade p) => Decision = new(entry, p);
}
