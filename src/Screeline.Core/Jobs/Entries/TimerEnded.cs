using Screeline.Core.People;

namespace Screeline.Core.Jobs;

/// <summary>A wait is over before its time, because somebody looked.</summary>
/// <param name="Timer">The entry that began it.</param>
public sealed record TimerEnded(Guid Timer) : Payload
{
    /// <summary>The kind.</summary>
    public static EntryKind EntryKind { get; } = EntryKind.Observation("timer-ended", withItself: Clash.Never, by: Role.Apprentice);

    /// <inheritdoc/>
    public override string Subject() => Timer.ToString();

    /// <inheritdoc/>
    public override string Describe(Job job) => "wait ended early";

    /// <inheritdoc/>
    protected internal override void Validate(Job job, EntryFaults faults)
    {
    }

    /// <inheritdoc/>
    protected internal override string? OutOfOrder(Job job, DateTimeOffset at) =>
        job.Timers.FirstOrDefault(x => x.Entry.Id == Timer) is not { } timer ? "That wait never began."
            : timer.Payload.Kind == TimerKind.Restraint ? "That wait is the maker's: nobody shortens it."
            : null;

    /// <inheritdoc/>
    protected internal override void Apply(Job job, Entry entry) => job.Record(entry, this);
}

public sealed partial class Job
{
    private readonly Dictionary<Guid, DateTimeOffset> _timersEnded = [];

    // Nobody shortens the wait of restraint parts, whoever says so.
    internal void Record(Entry entry, TimerEnded p)
    {
        if (_timers.Any(t => t.Entry.Id == p.Timer && t.Payload.Kind != TimerKind.Restraint))
        {
            _timersEnded.TryAdd(p.Timer, entry.TrustedAt);
        }
    }
}
