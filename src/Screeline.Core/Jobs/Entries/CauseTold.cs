using Screeline.Core.People;

namespace Screeline.Core.Jobs;

/// <summary>What killed a part, told when it was known: also when the vehicle has gone.</summary>
/// <param name="Cause">The cause.</param>
public sealed record CauseTold(CauseSaid Cause) : Payload
{
    /// <summary>The kind.</summary>
    public static EntryKind EntryKind { get; } = EntryKind.Decision("cause-told", withItself: Clash.Always, withObservations: Clash.Never, by: Role.Technician, otherwise: "A technician or foreman answers for that.");

    /// <inheritdoc/>
    public override bool SaidWhenGone() => true;

    /// <inheritdoc/>
    public override string Subject() => "";

    /// <inheritdoc/>
    public override string Describe(Job job) => $"what killed it: {Cause.Words(job)}";

    /// <inheritdoc/>
    protected internal override void Validate(Job job, EntryFaults faults) => Cause.Validate(job, faults);

    /// <inheritdoc/>
    protected internal override string? OutOfOrder(Job job, DateTimeOffset at) => job.Decision is null ? "Nothing is decided yet that could have died of something." : null;

    /// <inheritdoc/>
    protected internal override void Apply(Job job, Entry entry) => job.Record(this);
}

public sealed partial class Job
{
    /// <summary>What killed the part, as it was said last; null where nobody said.</summary>
    public CauseSaid? Cause { get; private set; }

    internal void Record(CauseTold p) => Cause = p.Cause;
}
