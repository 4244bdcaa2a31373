using Screeline.Core.People;

namespace Screeline.Core.Jobs;

/// <summary>What was to be looked at before a sister's map is trusted, and whether it is so on this vehicle.</summary>
/// <param name="Map">The map's id.</param>
/// <param name="What">What was looked at, in the map's words.</param>
/// <param name="Same">Whether it is so here.</param>
public sealed record SisterLooked(string Map, string What, bool Same) : Payload
{
    /// <summary>The kind.</summary>
    public static EntryKind EntryKind { get; } = EntryKind.Observation("sister-looked", withItself: Clash.SameSubject, by: Role.Apprentice);

    /// <inheritdoc/>
    public override string Subject() => $"{Map}: {What}";

    /// <inheritdoc/>
    public override string Describe(Job job) => $"looked: {What}: {(Same ? "it is so" : "it is not so")}";

    /// <inheritdoc/>
    protected internal override void Validate(Job job, EntryFaults faults)
    {
        faults.Text("map", Map, 100, needed: true);
        faults.Text("what", What, 200, needed: true);
    }

    /// <inheritdoc/>
    protected internal override string? OutOfOrder(Job job, DateTimeOffset at) => null;

    /// <inheritdoc/>
    protected internal override void Apply(Job job, Entry entry) => job.Record(entry, this);
}

public sealed partial class Job
{
    private readonly List<Recorded<SisterLooked>> _sisters = [];

    /// <summary>What was looked at before a sister's map was trusted; the latest word of each counts.</summary>
    public IReadOnlyList<Recorded<SisterLooked>> SistersLooked => _sisters;

    internal void Record(Entry entry, SisterLooked p)
    {
        _sisters.RemoveAll(s => s.Payload.Map == p.Map && s.Payload.What == p.What);
        _sisters.Add(new(entry, p));
    }
}
