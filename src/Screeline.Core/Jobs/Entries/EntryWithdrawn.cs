using Screeline.Core.People;

namespace Screeline.Core.Jobs;

/// <summary>An entry is withdrawn: it was never so.</summary>
public sealed record EntryWithdrawn(Guid Entry) : Payload
{
    /// <summary>The kind.</summary>
    public static EntryKind EntryKind { get; } = EntryKind.Decision("entry-withdrawn", withItself: Clash.SameSubject, withObservations: Clash.Never, by: Role.Apprentice);

    /// <inheritdoc/>
    public override string Subject() => Entry.ToString();

    /// <inheritdoc/>
    public override string Describe(Job job) => $"withdrawn: {job.DescribeEntry(Entry)}";

    /// <inheritdoc/>
    protected internal override void Validate(Job job, EntryFaults faults)
    {
        if (job.History.Any(h => h.Entry.Id == Entry && h.Entry.Payload is SecondWanted))
        {
            faults.Add("entry", "a second person's look is not taken back");
        }
        else if (Entry == job.Opened.Entry.Id)
        {
            faults.Add("entry", "the opening of a job cannot be withdrawn");
        }
    }

    /// <inheritdoc/>
    protected internal override string? OutOfOrder(Job job, DateTimeOffset at) =>
        job.Things.FirstOrDefault(t => t.Entries.Any(e => e.Id == Entry)) is { } thing && job.Refitted.ContainsKey(thing.Id) ? $"“{job.TitleOf(thing.Id)}” is back already: undo that first." : null;

    /// <inheritdoc/>
    protected internal override void Apply(Job job, Entry entry)
    {
        // The fold has looked at it beforehand: what it withdraws is never applied.
    }
}
