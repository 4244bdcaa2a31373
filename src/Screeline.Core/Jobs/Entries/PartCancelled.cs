using Screeline.Core.People;

namespace Screeline.Core.Jobs;

/// <summary>The part that was chosen is not bought after all.</summary>
/// <param name="Why">Why, in words.</param>
public sealed record PartCancelled(string Why) : Payload
{
    /// <summary>The kind.</summary>
    public static EntryKind EntryKind { get; } = EntryKind.Decision("part-cancelled", withItself: Clash.Always, withObservations: Clash.Never, by: Role.Apprentice);

    /// <inheritdoc/>
    public override string Subject() => "";

    /// <inheritdoc/>
    public override string Describe(Job job) => $"order cancelled: {Why}";

    /// <inheritdoc/>
    protected internal override void Validate(Job job, EntryFaults faults) => faults.Text("why", Why);

    /// <inheritdoc/>
    protected internal override string? OutOfOrder(Job job, DateTimeOffset at) => job.PartTaken is null ? "No part is on order." : null;

    /// <inheritdoc/>
    protected internal override void Apply(Job job, Entry entry) => job.CancelPart();
}

public sealed partial class Job
{
    internal void CancelPart() => (PartTaken, Waiting) = (null, null);
}
