using Screeline.Core.People;
using Screeline.Core.Quantities;

namespace Screeline.Core.Jobs;

/// <summary>What a timer waits for.</summary>
public enum TimerKind
{
    /// <summary>Something hot cools down.</summary>
    Cool,
    /// <summary>Penetrating oil soaks in.</summary>
    Soak,
    /// <summary>Sealant or thread-locker cures.</summary>
    Cure,
    /// <summary>Restraint parts lose their charge.</summary>
    Restraint,
    /// <summary>Anything else.</summary>
    Wait,
}

/// <summary>A wait begins.</summary>
/// <param name="Step">The step that waits for it.</param>
/// <param name="Kind">For what.</param>
/// <param name="Minutes">How long.</param>
/// <param name="What">In words.</param>
public sealed record TimerStarted(string Step, TimerKind Kind, decimal Minutes, string What) : Payload
{
    /// <summary>The kind.</summary>
    public static EntryKind EntryKind { get; } = EntryKind.Observation("timer-started", withItself: Clash.SameSubject, by: Role.Apprentice);

    /// <inheritdoc/>
    public override string Subject() => Step;

    /// <inheritdoc/>
    public override string Describe(Job job) => $"waits {DurationFormat.Minutes(Minutes)}: {What}";

    /// <inheritdoc/>
    protected internal override void Validate(Job job, EntryFaults faults)
    {
        faults.Step(job, Step);
        faults.Text("what", What, 200, needed: true);
        if (Minutes is <= 0 or > 10_080)
        {
            faults.Add("minutes", "above 0 and at most a week");
        }
        else if (Kind == TimerKind.Restraint && job.Map?.Operation(Step) is { } held && Minutes < held.WaitMinutes)
        {
            faults.Add("minutes", $"at least the {held.WaitMinutes:0.##} minutes that the maker asks for");
        }
    }

    /// <inheritdoc/>
    protected internal override string? OutOfOrder(Job job, DateTimeOffset at) => null;

    /// <inheritdoc/>
    protected internal override void Apply(Job job, Entry entry) => job.Record(entry, this);
}

public sealed partial class Job
{
    private readonly List<(Entry Entry, TimerStarted Payload)> _timers = [];

    /// <summary>All timers, oldest first.</summary>
    public IReadOnlyList<WorkTimer> Timers => [.. _timers.Select(t => new WorkTimer(t.Entry, t.Payload, _timersEnded.TryGetValue(t.Entry.Id, out var at) ? at : null))];

    /// <summary>The timer a step waits for at a moment, or null.</summary>
    public WorkTimer? Waits(string step, DateTimeOffset now) => Timers.LastOrDefault(t => t.Payload.Step == step && t.Runs(now));

    /// <summary>Waits whose step is not done yet and that nobody ended, the latest of each kind at a step; those whose time is over are among them.</summary>
    public IReadOnlyList<WorkTimer> OpenTimers =>
        [.. Timers.Where(t => t.EndedAt is null && !_removed.ContainsKey(t.Payload.Step) && !_refitted.ContainsKey(t.Payload.Step)).GroupBy(t => (t.Payload.Step, t.Payload.Kind)).Select(g => g.Last())];

    internal void Record(Entry entry, TimerStarted p) => _timers.Add((entry, p));
}
