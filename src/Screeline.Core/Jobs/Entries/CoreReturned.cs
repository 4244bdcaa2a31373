using Screeline.Core.People;

namespace Screeline.Core.Jobs;

/// <summary>The old core went back for its deposit.</summary>
public sealed record CoreReturned : Payload
{
    /// <summary>The kind.</summary>
    public static EntryKind EntryKind { get; } = EntryKind.Observation("core-returned", withItself: Clash.Never, by: Role.Apprentice);

    /// <inheritdoc/>
    public override string Subject() => "";

    /// <inheritdoc/>
    public override string Describe(Job job) => "old core went back";

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
    /// <summary>When the old core went back, or null.</summary>
    public Recorded<CoreReturned>? OldCore { get; private set; }

    internal void Record(Entry entry, CoreReturned p) => OldCore = new(entry, p);
}
