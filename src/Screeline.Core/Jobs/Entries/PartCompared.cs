using Screeline.Core.People;

namespace Screeline.Core.Jobs;

/// <summary>Old and new part held side by side at one point.</summary>
/// <param name="Point">The point of comparison.</param>
/// <param name="Same">Whether they are alike there.</param>
/// <param name="Found">What differs, in words; null when nothing does.</param>
public sealed record PartCompared(string Point, bool Same, string? Found) : Payload
{
    /// <summary>The kind.</summary>
    public static EntryKind EntryKind { get; } = EntryKind.Observation("part-compared", withItself: Clash.SameSubject, by: Role.Apprentice);

    /// <inheritdoc/>
    public override string Subject() => Point;

    /// <inheritdoc/>
    public override string Describe(Job job) => $"old and new {(Same ? "alike" : "differ")}: {job.Part?.Points.FirstOrDefault(x => x.Id == Point)?.Title ?? Point}{(Found is null ? "" : $", {Found}")}";

    /// <inheritdoc/>
    protected internal override void Validate(Job job, EntryFaults faults)
    {
        faults.Text("point", Point, 100, needed: true);
        faults.Text("found", Found, 500);
    }

    /// <inheritdoc/>
    protected internal override string? OutOfOrder(Job job, DateTimeOffset at) => null;

    /// <inheritdoc/>
    protected internal override void Apply(Job job, Entry entry) => job.Record(entry, this);
}

public sealed partial class Job
{
    private readonly Dictionary<string, Recorded<PartCompared>> _compared = new(StringComparer.Ordinal);

    /// <summary>Points at which old and new were compared.</summary>
    public IReadOnlyDictionary<string, Recorded<PartCompared>> Compared => _compared;

    internal void Record(Entry entry, PartCompared p) => _compared[p.Point] = new(entry, p);
}
