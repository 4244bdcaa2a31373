using Screeline.Core.People;

namespace Screeline.Core.Jobs;

/// <summary>What goes otherwise with a whole step.</summary>
public enum StepTrouble
{
    /// <summary>It clings although its last fastener is out.</summary>
    Clings,
}

/// <summary>A step goes otherwise than planned.</summary>
/// <param name="Step">The operation.</param>
/// <param name="What">How.</param>
/// <param name="Note">In words, or null.</param>
public sealed record StepException(string Step, StepTrouble What, string? Note) : Payload
{
    /// <summary>The kind.</summary>
    public static EntryKind EntryKind { get; } = EntryKind.Observation("step-exception", withItself: Clash.Never, by: Role.Apprentice);

    /// <inheritdoc/>
    public override string Subject() => Step;

    /// <inheritdoc/>
    public override string Describe(Job job) => $"clings: {job.Map?.Operation(Step)?.Title ?? Step}";

    /// <inheritdoc/>
    protected internal override void Validate(Job job, EntryFaults faults)
    {
        faults.Step(job, Step);
        faults.Text("note", Note);
    }

    /// <inheritdoc/>
    protected internal override string? OutOfOrder(Job job, DateTimeOffset at) => null;

    /// <inheritdoc/>
    protected internal override void Apply(Job job, Entry entry) => job.Record(entry, this);
}

public sealed partial class Job
{
    private readonly List<Recorded<StepException>> _troubles = [];

    /// <summary>Steps that went otherwise.</summary>
    public IReadOnlyList<Recorded<StepException>> Troubles => _troubles;

    internal void Record(Entry entry, StepException p) => _troubles.Add(new(entry, p));
}
