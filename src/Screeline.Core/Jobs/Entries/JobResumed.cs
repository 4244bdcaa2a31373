using Screeline.Core.People;

namespace Screeline.Core.Jobs;

/// <summary>A job that was left is taken up again where it stood.</summary>
/// <param name="Note">What is to be known, or null.</param>
public sealed record JobResumed(string? Note) : Payload
{
    /// <summary>The kind.</summary>
    public static EntryKind EntryKind { get; } = EntryKind.Decision("job-resumed", withItself: Clash.Always, withObservations: Clash.Never, by: Role.Apprentice);

    /// <inheritdoc/>
    public override bool SaidWhenGone() => true;

    /// <inheritdoc/>
    public override string Subject() => "";

    /// <inheritdoc/>
    public override string Describe(Job job) => $"taken up again{(Note is null ? "" : $": {Note}")}";

    /// <inheritdoc/>
    protected internal override void Validate(Job job, EntryFaults faults) => faults.Text("note", Note);

    /// <inheritdoc/>
    protected internal override string? OutOfOrder(Job job, DateTimeOffset at) => job.HandedBack is not null ? "The job was handed back." : job.Left is null ? "The job was not left." : null;

    /// <inheritdoc/>
    protected internal override void Apply(Job job, Entry entry) => job.Record(this);
}

public sealed partial class Job
{
    internal void Record(JobResumed _) => Left = null;
}
