using Screeline.Core.People;

namespace Screeline.Core.Jobs;

/// <summary>Something lies on the bench that nobody missed.</summary>
/// <param name="What">What it is.</param>
/// <param name="Count">How many.</param>
public sealed record LeftOverFound(string What, int Count) : Payload
{
    /// <summary>The kind.</summary>
    public static EntryKind EntryKind { get; } = EntryKind.Observation("left-over-found", withItself: Clash.Never, by: Role.Apprentice);

    /// <inheritdoc/>
    public override string Subject() => "";

    /// <inheritdoc/>
    public override string Describe(Job job) => $"left over: {Count} {What}";

    /// <inheritdoc/>
    protected internal override void Validate(Job job, EntryFaults faults)
    {
        faults.Text("what", What, 200, needed: true);
        if (Count is < 1 or > 500)
        {
            faults.Add("count", "1 to 500");
        }
    }

    /// <inheritdoc/>
    protected internal override string? OutOfOrder(Job job, DateTimeOffset at) => null;

    /// <inheritdoc/>
    protected internal override void Apply(Job job, Entry entry) => job.Record(entry, this);
}

public sealed partial class Job
{
    private readonly List<Recorded<LeftOverFound>> _leftOvers = [];

    /// <summary>What lay on the bench in the end.</summary>
    public IReadOnlyList<LeftOver> LeftOvers => [.. _leftOvers.Select(l => new LeftOver(l, _settled.GetValueOrDefault(l.Entry.Id)))];

    internal void Record(Entry entry, LeftOverFound p) => _leftOvers.Add(new(entry, p));
}
