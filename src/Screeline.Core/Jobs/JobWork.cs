using Screeline.Core.Access;
using Screeline.Core.Fastening;

namespace Screeline.Core.Jobs;

/// <summary>A timer of the job.</summary>
/// <param name="Entry">The entry that began it.</param>
/// <param name="Payload">What it waits for.</param>
/// <param name="EndedAt">When somebody ended it before its time; null otherwise.</param>
public sealed record WorkTimer(Entry Entry, TimerStarted Payload, DateTimeOffset? EndedAt)
{
    /// <summary>When it began: a wait that protects people by the server's clock, any other by the clock of whoever began it.</summary>
    public DateTimeOffset StartedAt => Payload.Kind is TimerKind.Restraint or TimerKind.Cool ? Entry.TrustedAt : Entry.Draft.OccurredAt;

    /// <summary>When it is over.</summary>
    public DateTimeOffset EndsAt => EndedAt ?? StartedAt.AddMinutes((double)Payload.Minutes);

    /// <summary>Whether it runs at a moment.</summary>
    public bool Runs(DateTimeOffset now) => now < EndsAt;
}

/// <summary>A picture with the pins that are laid over it.</summary>
/// <param name="Entry">The entry that took it.</param>
/// <param name="Payload">The picture.</param>
/// <param name="Pins">Its own pins, or those of the picture it shows again.</param>
public sealed record PinnedPicture(Entry Entry, PictureTaken Payload, IReadOnlyList<Pin> Pins)
{
    /// <summary>It as it is shown and goes with a step.</summary>
    public StepPicture Shown => new(Payload.Sha256, Payload.Width, Payload.Height, Payload.Caption, Pins);
}

/// <summary>Something left over on the bench.</summary>
/// <param name="Found">The entry that found it.</param>
/// <param name="Settled">What became of it, or null.</param>
public sealed record LeftOver(Recorded<LeftOverFound> Found, LeftOverSettled? Settled);

/// <summary>An entry that a second person looks at.</summary>
/// <param name="Tick">The entry: a tick, a torque, or a correction of one.</param>
/// <param name="What">What it says; of a correction, what it puts in the place of what it corrects.</param>
/// <param name="Why">What is looked at.</param>
/// <param name="Signed">Who did; null while it waits.</param>
public sealed record SecondLook(Entry Tick, Payload What, string Why, Recorded<SecondSigned>? Signed);

/// <summary>Which step the hand goes to next.</summary>
public static class WorkOrder
{
    /// <summary>
    /// The step that is due: the first that is not done, except that one whose wait still runs lets those pass that are possible meanwhile.
    /// Null when all are done.
    /// </summary>
    /// <param name="job">The job.</param>
    /// <param name="order">All steps of the direction, in order.</param>
    /// <param name="phase">The direction.</param>
    /// <param name="now">The moment.</param>
    public static string? Due(Job job, IReadOnlyList<string> order, WorkPhase phase, DateTimeOffset now)
    {
        var done = phase == WorkPhase.Apart ? job.Removed : job.Refitted;
        var open = order.Where(id => !done.ContainsKey(id)).ToList();
        if (open.Count == 0 || job.Waits(open[0], now) is null)
        {
            return open.FirstOrDefault();
        }

        var off = job.Removed.Keys.ToHashSet(StringComparer.Ordinal);
        return open.FirstOrDefault(id => job.Waits(id, now) is null && (phase == WorkPhase.Apart
            ? WalkRules.MayRemove(job.Map![id], off)
            : WalkRules.MayRefit(job.Map!, id, job.RefitProgress) && Refit.GateBefore(job, id) is null)) ?? open[0];
    }
}

/// <summary>Fasteners of one thread that come in more than one length: the longer one in the shorter hole bottoms out or pierces.</summary>
/// <param name="Thread">The thread.</param>
/// <param name="Groups">The groups, the shortest first.</param>
public sealed record LengthMix(string Thread, IReadOnlyList<(string Step, Fastener Fastener)> Groups)
{
    /// <summary>All mixes among the operations of a job.</summary>
    public static IReadOnlyList<LengthMix> InJob(Job job) => job.Map is not { } map ? [] :
    [
        .. from step in job.Set
           where map.Operation(step) is { Kind: OperationKind.Open }
           from fastener in job.FastenersOf(step)
           where fastener.Thread is not null && fastener.LengthMillimetres is not null
           group (step, fastener) by fastener.Thread into thread
           where thread.Select(g => g.fastener.LengthMillimetres).Distinct().Count() > 1
           select new LengthMix(thread.Key, [.. thread.OrderBy(g => g.fastener.LengthMillimetres).ThenBy(g => g.step, StringComparer.Ordinal)]),
    ];
}
