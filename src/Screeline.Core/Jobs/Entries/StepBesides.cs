using Screeline.Core.Access;
using Screeline.Core.Access.Recording;
using Screeline.Core.People;

namespace Screeline.Core.Jobs;

/// <summary>Something was done on the way back that opens and closes nothing and that no map and no frame told of: greased, bled, adjusted, cleaned.</summary>
/// <param name="What">What was done, in words.</param>
/// <param name="Place">Where: a kind of <see cref="Position"/>.</param>
public sealed record StepBesides(string What, string Place) : Payload
{
    /// <summary>The kind.</summary>
    public static EntryKind EntryKind { get; } = EntryKind.Observation("step-besides", withItself: Clash.Never, by: Role.Apprentice);

    /// <inheritdoc/>
    public override string Subject() => "";

    /// <inheritdoc/>
    public override string Describe(Job job) => $"done besides: {What}";

    /// <inheritdoc/>
    protected internal override void Validate(Job job, EntryFaults faults)
    {
        faults.Text("what", What, TakenOff.LongestWhat, needed: true);
        if (!Position.Kinds.Contains(Place))
        {
            faults.Add("place", $"one of: {string.Join(", ", Position.Kinds)}");
        }
    }

    /// <inheritdoc/>
    protected internal override string? OutOfOrder(Job job, DateTimeOffset at) => job.IsDone(Stage.TakeApart) ? null : "The way back has not begun.";

    /// <inheritdoc/>
    protected internal override void Apply(Job job, Entry entry) => job.Record(entry, this);
}

public sealed partial class Job
{
    private readonly List<RefitStep> _besides = [];

    internal void Record(Entry entry, StepBesides p)
    {
        // A map that is followed has its own names for its places.
        var place = Map?.Positions.FirstOrDefault(x => x.Id == p.Place || x.Kind == p.Place)?.Id ?? Map?.Positions.FirstOrDefault()?.Id;
        if (place is null)
        {
            return;
        }

        var step = new RefitStep { Id = $"b-{entry.Id:N}"[..14], Title = p.What, Done = p.What, Position = place, Minutes = WorkFrameReader.NoMinutes, Tools = [], After = [], Before = [], Gate = false };
        _besides.Add(step);
        _refitted[step.Id] = new(entry, new StepDone(WorkPhase.Refit, step.Id, null, []));
        MapChanged();
    }
}
