using Screeline.Core.People;

namespace Screeline.Core.Jobs;

/// <summary>What became of something left over.</summary>
/// <param name="LeftOver">The entry that found it.</param>
/// <param name="How">Where it went, or why it belongs to nothing.</param>
public sealed record LeftOverSettled(Guid LeftOver, string How) : Payload
{
    /// <summary>The kind.</summary>
    public static EntryKind EntryKind { get; } = EntryKind.Observation("left-over-settled", withItself: Clash.SameSubject, by: Role.Apprentice);

    /// <inheritdoc/>
    public override string Subject() => LeftOver.ToString();

    /// <inheritdoc/>
    public override string Describe(Job job) => $"left over settled: {How}";

    /// <inheritdoc/>
    protected internal override void Validate(Job job, EntryFaults faults)
    {
        faults.Text("how", How, 500, needed: true);
        if (job.LeftOvers.All(l => l.Found.Entry.Id != LeftOver))
        {
            faults.Add("left_over", "nothing like it was found");
        }
    }

    /// <inheritdoc/>
    protected internal override string? OutOfOrder(Job job, DateTimeOffset at) => null;

    /// <inheritdoc/>
    protected internal override void Apply(Job job, Entry entry) => job.Record(this);
}

public sealed partial class Job
{
    private readonly Dictionary<Guid, LeftOverSettled> _settled = [];

    internal void Record(LeftOverSettled p) => _settled[p.LeftOver] = p;
}
