using Screeline.Core.People;

namespace Screeline.Core.Jobs;

/// <summary>How many of a group are out (or in) so far, counted as they come.</summary>
/// <param name="Phase">Which direction.</param>
/// <param name="Step">The operation.</param>
/// <param name="Fastener">Its group.</param>
/// <param name="Count">So far.</param>
public sealed record FastenersCounted(WorkPhase Phase, string Step, string Fastener, int Count) : Payload
{
    /// <summary>The kind.</summary>
    public static EntryKind EntryKind { get; } = EntryKind.Observation("fasteners-counted", withItself: Clash.SameSubject, by: Role.Apprentice);

    /// <inheritdoc/>
    public override string Subject() => $"{Phase}:{Step}/{Fastener}";

    /// <inheritdoc/>
    public override string Describe(Job job) => $"counted {Count}: {job.HeldBy(Step, Fastener)}";

    /// <inheritdoc/>
    protected internal override void Validate(Job job, EntryFaults faults)
    {
        if (job.FastenersOf(Step).FirstOrDefault(f => f.Id == Fastener) is not { } fastener)
        {
            faults.Add("fastener", $"“{Fastener}” is not in step “{Step}”");
        }
        else if (Count < 0 || Count > fastener.Count)
        {
            faults.Add("count", $"0 to {fastener.Count}");
        }
    }

    /// <inheritdoc/>
    protected internal override string? OutOfOrder(Job job, DateTimeOffset at) => null;

    /// <inheritdoc/>
    protected internal override void Apply(Job job, Entry entry) => job.Record(this);
}

public sealed partial class Job
{
    private readonly Dictionary<(WorkPhase, string, string), int> _counted = [];

    /// <summary>How many of a group were counted so far in a direction; null while nobody counts.</summary>
    public int? Counted(WorkPhase phase, string step, string fastener) => _counted.TryGetValue((phase, step, fastener), out var count) ? count : null;

    internal void Record(FastenersCounted p) => _counted[(p.Phase, p.Step, p.Fastener)] = p.Count;
}
