using Screeline.Core.People;

namespace Screeline.Core.Jobs;

/// <summary>A piece of the old part went over to the new one.</summary>
/// <param name="Piece">Its id.</param>
public sealed record PartCarried(string Piece) : Payload
{
    /// <summary>The kind.</summary>
    public static EntryKind EntryKind { get; } = EntryKind.Observation("part-carried", withItself: Clash.Never, by: Role.Apprentice);

    /// <inheritdoc/>
    public override string Subject() => Piece;

    /// <inheritdoc/>
    public override string Describe(Job job) => $"went over: {job.Part?.Carried.FirstOrDefault(x => x.Id == Piece)?.Title ?? Piece}";

    /// <inheritdoc/>
    protected internal override void Validate(Job job, EntryFaults faults)
    {
        if (job.Part?.Carried.Any(c => c.Id == Piece) != true)
        {
            faults.Add("piece", $"“{Piece}” is not carried over here");
        }
    }

    /// <inheritdoc/>
    protected internal override string? OutOfOrder(Job job, DateTimeOffset at) => null;

    /// <inheritdoc/>
    protected internal override void Apply(Job job, Entry entry) => job.Record(entry, this);
}

public sealed partial class Job
{
    // By the position of the entry that said it first.
    private readonly Dictionary<string, int> _carried = new(StringComparer.Ordinal);

    /// <summary>Pieces that went over to the new part.</summary>
    public IReadOnlyCollection<string> Carried => _carried.Keys;

    internal void Record(Entry entry, PartCarried p) => _carried.TryAdd(p.Piece, entry.Position);
}
