using Screeline.Core.People;

namespace Screeline.Core.Jobs;

/// <summary>Of all that was off, only this was in the way of a thing.</summary>
/// <param name="Step">The thing.</param>
/// <param name="Kept">What had to be off for it; empty for nothing.</param>
public sealed record OnlyThis(string Step, IReadOnlyList<string> Kept) : Payload
{
    /// <summary>The kind.</summary>
    public static EntryKind EntryKind { get; } = EntryKind.Observation("only-this", withItself: Clash.SameSubject, by: Role.Apprentice);

    /// <inheritdoc/>
    public override bool SaidWhenGone() => true;

    /// <inheritdoc/>
    public override string Subject() => Step;

    /// <inheritdoc/>
    public override string Describe(Job job) => $"in the way of “{job.TitleOf(Step)}”: {(Kept.Count == 0 ? "nothing" : "only " + string.Join(", ", Kept.Select(job.TitleOf)))}";

    /// <inheritdoc/>
    protected internal override void Validate(Job job, EntryFaults faults)
    {
        if (!job.Removed.ContainsKey(Step))
        {
            faults.Add("step", $"“{Step}” is nothing that was done");
        }

        for (var i = 0; i < Kept.Count; i++)
        {
            if (!job.Removed.ContainsKey(Kept[i]) || Kept[i] == Step || Kept.Take(i).Contains(Kept[i]))
            {
                faults.Add($"kept[{i}]", $"“{Kept[i]}” was not off before it");
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
    private readonly Dictionary<string, Recorded<OnlyThis>> _only = new(StringComparer.Ordinal);

    /// <summary>For a thing, what alone was in its way, where somebody said so.</summary>
    public IReadOnlyDictionary<string, Recorded<OnlyThis>> Only => _only;

    internal void Record(Entry entry, OnlyThis p)
    {
        _only[p.Step] = new(entry, p);
        Said(entry, p);
        MapChanged();
    }
}
