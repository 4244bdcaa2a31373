using Screeline.Core.People;

namespace Screeline.Core.Jobs;

/// <summary>What somebody says of their own time.</summary>
public enum ClockedMoment
{
    /// <summary>Begins, or goes on.</summary>
    Start,
    /// <summary>Stops for a while.</summary>
    Pause,
    /// <summary>Goes home.</summary>
    EndOfDay,
}

/// <summary>Somebody begins, pauses or ends the day on a job: what lies between is no work of theirs.</summary>
/// <param name="Moment">Which.</param>
public sealed record WorkClocked(ClockedMoment Moment) : Payload
{
    /// <summary>The kind.</summary>
    public static EntryKind EntryKind { get; } = EntryKind.Observation("work-clocked", withItself: Clash.Never, by: Role.Apprentice);

    /// <inheritdoc/>
    public override bool SaidWhenGone() => true;

    /// <inheritdoc/>
    public override string Subject() => "";

    /// <inheritdoc/>
    public override string Describe(Job job) => Moment switch { ClockedMoment.Start => "goes on", ClockedMoment.Pause => "pauses", _ => "ends the day" };

    /// <inheritdoc/>
    protected internal override void Validate(Job job, EntryFaults faults)
    {
    }

    /// <inheritdoc/>
    protected internal override string? OutOfOrder(Job job, DateTimeOffset at) => null;

    /// <inheritdoc/>
    protected internal override void Apply(Job job, Entry entry) => job.Record(entry, this);
}

public sealed partial class Job
{
    private readonly List<Recorded<WorkClocked>> _clocked = [];

    /// <summary>What people said of their time, oldest first.</summary>
    public IReadOnlyList<Recorded<WorkClocked>> Clocked => _clocked;

    /// <summary>Whether somebody pauses: they said so and have done nothing since. A pause that nobody ended ends with the next thing done.</summary>
    /// <param name="person">Who.</param>
    public Recorded<WorkClocked>? PauseOf(Guid person) =>
        _clocked.LastOrDefault(c => c.Entry.Draft.Actor == person) is { Payload.Moment: not ClockedMoment.Start } pause
            && !_history.Any(h => h.Entry.Position > pause.Entry.Position && h.Entry.Draft.Actor == person && h.WithdrawnBy is null && h.Entry.Payload is StepDone or GroupOut or TakenOff or ReadingTaken or ProofTaken) ? pause : null;

    internal void Record(Entry entry, WorkClocked p) => _clocked.Add(new(entry, p));
}
