using Screeline.Core.People;

namespace Screeline.Core.Jobs;

/// <summary>What is dangerous about a thing whose word the program does not know.</summary>
/// <param name="What">The word, as it was told.</param>
/// <param name="Dangers">Which dangers, by id; empty for none.</param>
public sealed record DangersTold(string What, IReadOnlyList<string> Dangers) : Payload
{
    /// <summary>The kind.</summary>
    public static EntryKind EntryKind { get; } = EntryKind.Observation("dangers-told", withItself: Clash.SameSubject, by: Role.Apprentice);

    /// <inheritdoc/>
    public override string Subject() => What;

    /// <inheritdoc/>
    public override string Describe(Job job) => $"{What}: {(Dangers.Count == 0 ? "nothing dangerous told" : string.Join(", ", Dangers.Select(d => job.Words.Dangers.FirstOrDefault(x => x.Id == d)?.Title.ToLowerInvariant() ?? d)))}";

    /// <inheritdoc/>
    protected internal override void Validate(Job job, EntryFaults faults)
    {
        faults.Text("what", What, TakenOff.LongestWhat, needed: true);
        for (var i = 0; i < Dangers.Count; i++)
        {
            if (job.Words.Dangers.All(d => d.Id != Dangers[i]) || Dangers.Take(i).Contains(Dangers[i]))
            {
                faults.Add($"dangers[{i}]", $"one of: {string.Join(", ", job.Words.Dangers.Select(d => d.Id))}, each once");
            }
        }
    }

    /// <inheritdoc/>
    protected internal override string? OutOfOrder(Job job, DateTimeOffset at) => null;

    /// <inheritdoc/>
    protected internal override void Apply(Job job, Entry entry) => job.Record(entry, this);
}

public sealed partial class Job
{
    private readonly Dictionary<string, Recorded<DangersTold>> _dangers = new(StringComparer.OrdinalIgnoreCase);

    /// <summary>What was told of unknown words.</summary>
    public IReadOnlyDictionary<string, Recorded<DangersTold>> Dangers => _dangers;

    /// <summary>Cautions that somebody told for a word; empty when nothing was.</summary>
    public IReadOnlyList<string> DangersOf(string what) => _dangers.TryGetValue(what, out var told) ? [.. told.Payload.Dangers.Select(id => Words.Dangers.FirstOrDefault(d => d.Id == id)?.Caution).OfType<string>()] : [];

    internal void Record(Entry entry, DangersTold p)
    {
        _dangers[p.What] = new(entry, p);
        MapChanged();
    }
}
