using Screeline.Core.People;

namespace Screeline.Core.Jobs;

/// <summary>The job waits for something, or no longer does.</summary>
/// <param name="For">What it waits for; null when it waits no longer.</param>
/// <param name="Until">When that is expected, or null.</param>
public sealed record WaitingSet(string? For, DateTimeOffset? Until) : Payload
{
    /// <summary>The kind.</summary>
    public static EntryKind EntryKind { get; } = EntryKind.Decision("waiting-set", withItself: Clash.Always, withObservations: Clash.Never, by: Role.Apprentice);

    /// <inheritdoc/>
    public override string Subject() => "";

    /// <inheritdoc/>
    public override string Describe(Job job) => For is null ? "waits no longer" : $"waits for {For}";

    /// <inheritdoc/>
    protected internal override void Validate(Job job, EntryFaults faults)
    {
        faults.Text("for", For, 200);
        faults.Time("until", Until);
    }

    /// <inheritdoc/>
    protected internal override string? OutOfOrder(Job job, DateTimeOffset at) => null;

    /// <inheritdoc/>
    protected internal override void Apply(Job job, Entry entry) => job.Record(entry, this);
}

public sealed partial class Job
{
    /// <summary>What it waits for, or null.</summary>
    public Recorded<WaitingSet>? Waiting { get; private set; }

    internal void Record(Entry entry, WaitingSet p) => Waiting = p.For is null ? null : new(entry, p);
}
