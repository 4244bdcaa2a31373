using Screeline.Core.People;

namespace Screeline.Core.Jobs;

/// <summary>A step of the way back is done because of one thing that was off; without it there is no such step.</summary>
/// <param name="Step">The step of the way back.</param>
/// <param name="Operation">What was off.</param>
public sealed record BecauseOf(string Step, string Operation) : Payload
{
    /// <summary>The kind.</summary>
    public static EntryKind EntryKind { get; } = EntryKind.Observation("because-of", withItself: Clash.SameSubject, by: Role.Apprentice);

    /// <inheritdoc/>
    public override bool SaidWhenGone() => true;

    /// <inheritdoc/>
    public override string Subject() => Step;

    /// <inheritdoc/>
    public override string Describe(Job job) => $"“{job.TitleOf(Step)}” because of “{job.TitleOf(Operation)}”";

    /// <inheritdoc/>
    protected internal override void Validate(Job job, EntryFaults faults)
    {
        if (job.Map?.Step(Step) is null || !job.Refitted.ContainsKey(Step))
        {
            faults.Add("step", $"“{Step}” is no step of the way back that was done");
        }

        if (!job.Removed.ContainsKey(Operation))
        {
            faults.Add("operation", $"“{Operation}” was never off");
        }
    }

    /// <inheritdoc/>
    protected internal override string? OutOfOrder(Job job, DateTimeOffset at) => null;

    /// <inheritdoc/>
    protected internal override void Apply(Job job, Entry entry) => job.Said(entry, this);
}

public sealed partial class Job
{
    private readonly List<(Entry Entry, Payload Payload)> _words = [];

    /// <summary>What was said of what is in the way of what, oldest first.</summary>
    internal IReadOnlyList<(Entry Entry, Payload Payload)> WordsSaid => _words;

    /// <summary>Whether anything was said of what is in the way of what.</summary>
    public bool WordsTold => _words.Count > 0;

    /// <summary>The entries that say it, oldest first.</summary>
    public IEnumerable<Entry> WordsKept => _words.Select(w => w.Entry);

    internal void Said(Entry entry, Payload p) => _words.Add((entry, p));
}
