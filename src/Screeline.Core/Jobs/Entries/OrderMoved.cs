using Screeline.Core.People;

namespace Screeline.Core.Jobs;

/// <summary>A step of a recorded job was, or is to be, done at another place in the order.</summary>
/// <param name="Phase">On the way in: it was recorded late or early. On the way back: it is drawn forward or put off.</param>
/// <param name="Step">The step.</param>
/// <param name="Before">The step before which it stands; null for the end.</param>
public sealed record OrderMoved(WorkPhase Phase, string Step, string? Before) : Payload
{
    /// <summary>The kind.</summary>
    public static EntryKind EntryKind { get; } = EntryKind.Decision("order-moved", withItself: Clash.SameSubject, withObservations: Clash.Never, by: Role.Apprentice);

    /// <inheritdoc/>
    public override bool SaidWhenGone() => Phase == WorkPhase.Apart;

    /// <inheritdoc/>
    public override string Subject() => $"{(Phase == WorkPhase.Apart ? "apart" : "refit")}:{Step}";

    /// <inheritdoc/>
    public override string Describe(Job job) => $"order: “{job.TitleOf(Step)}” {(Before is null ? "last" : $"before “{job.TitleOf(Before)}”")}";

    /// <inheritdoc/>
    protected internal override void Validate(Job job, EntryFaults faults)
    {
        faults.Step(job, Step);
        if (Before is not null && (Before == Step || (job.Map?.Operation(Before) is null && job.Map?.Step(Before) is null)))
        {
            faults.Add("before", $"no other step “{Before}”");
        }
    }

    /// <inheritdoc/>
    protected internal override string? OutOfOrder(Job job, DateTimeOffset at) =>
        Phase == WorkPhase.Apart ? (job.Removed.ContainsKey(Step) ? null : "That was not done.")
            : job.Recording is null ? "This way follows a map: its order is the map's."
            : job.Refitted.ContainsKey(Step) || (Before is not null && job.Refitted.ContainsKey(Before)) ? "It is back already."
            : RecordedWay.WhyNotMoved(job, Step, Before);

    /// <inheritdoc/>
    protected internal override void Apply(Job job, Entry entry) => job.Record(entry, this);
}

public sealed partial class Job
{
    private readonly List<Recorded<OrderMoved>> _moved = [];

    /// <summary>Steps that were moved in the order, oldest first.</summary>
    public IReadOnlyList<Recorded<OrderMoved>> Moved => _moved;

    internal void Record(Entry entry, OrderMoved p)
    {
        _moved.Add(new(entry, p));
        MapChanged();
    }
}
