using Screeline.Core.Access;

namespace Screeline.Core.Jobs;

/// <summary>The way back of a job in which things were recorded.</summary>
public static class RecordedWay
{
    /// <summary>
    /// Everything of the way back in order: what is done, as it was done; then what is left as it is worked out, with what somebody moved, each where the rules
    /// allow it. Nothing is left over: where the rules would allow none, the next as it is worked out.
    /// </summary>
    public static IReadOnlyList<string> Order(Job job)
    {
        List<string> done = [.. job.Refitted.Values.OrderBy(k => k.Entry.Position).Select(k => k.Payload.Step)];
        return [.. done, .. Left(job, Wanted(job))];
    }

    /// <summary>What must be back before a step, as it is worked out from the record; null when nothing, or when the step waits for what is known.</summary>
    public static string? First(Job job, string step, DateTimeOffset at)
    {
        var before = Refit.Order(job).TakeWhile(id => id != step).Where(id => !job.Refitted.ContainsKey(id) && job.Waits(id, at) is null);
        return before.FirstOrDefault(id => job.IsRecorded || IsThing(job, id) || IsThing(job, step));
    }

    /// <summary>Why a step cannot be moved there on the way back; null when it can.</summary>
    public static string? WhyNotMoved(Job job, string step, string? before)
    {
        var map = job.Map!;
        var left = Order(job).Where(id => !job.Refitted.ContainsKey(id)).ToList();
        if (!left.Contains(step) || (before is not null && !left.Contains(before)))
        {
            return "That is not of the way back, or is back already.";
        }

        var (from, to) = (left.IndexOf(step), before is null ? left.Count : left.IndexOf(before));
        var passed = from < to ? left[(from + 1)..to] : left[to..from];
        var moved = Put(left, step, before);
        return passed.Append(step).FirstOrDefault(id => WalkRules.IsGate(map, id)) is { } gate ? $"Nothing passes a gate: {Refit.Title(map, gate)}."
            : passed.Append(step).FirstOrDefault(id => map.Operation(id)?.Provides.Count > 0) is { } safe ? $"It stands on that, or is safe by it: {map[safe].UndoneWords}."
            : Refit.Holds(map, moved, job.RefitProgress) ? null
            : $"“{Refit.Title(map, step)}” does not go there: something it needs open would be closed, or a step comes before it.";
    }

    private static bool IsThing(Job job, string id) => job.Things.Any(t => t.Id == id);

    // The order worked out; of a way that follows a map, its plan with each thing behind whatever was opened after it.
    private static List<string> Wanted(Job job)
    {
        if (!job.IsRecorded)
        {
            var removal = job.Route!.Payload.Removal.ToList();
            var plan = job.Route.Payload.Refit.Where(id => WalkRules.RefitActions(job.Map!, job.Set).Contains(id)).ToList();
            foreach (var thing in removal.Where(id => IsThing(job, id) && job.Map![id].Kind == OperationKind.Open).Reverse())
            {
                var opened = removal.IndexOf(thing);
                plan.Insert(plan.FindLastIndex(id => removal.IndexOf(id) > opened) + 1, thing);
            }

            return plan;
        }

        var order = job.WorkedOutWayBack.ToList();
        foreach (var m in job.Moved.Select(m => m.Payload).Where(m => m.Phase == WorkPhase.Refit && order.Contains(m.Step) && (m.Before is null || order.Contains(m.Before))))
        {
            order = Put(order, m.Step, m.Before);
        }

        return order;
    }

    private static List<string> Put(List<string> order, string step, string? before)
    {
        List<string> moved = [.. order.Where(id => id != step)];
        moved.Insert(before is null ? moved.Count : moved.IndexOf(before), step);
        return moved;
    }

    private static IEnumerable<string> Left(Job job, List<string> wanted)
    {
        var (map, progress) = (job.Map!, job.RefitProgress);
        var actions = WalkRules.RefitActions(map, progress.Set).ToHashSet(StringComparer.Ordinal);
        var (closed, steps) = (progress.Closed.ToHashSet(StringComparer.Ordinal), progress.StepsDone.ToHashSet(StringComparer.Ordinal));
        progress = progress with { Closed = closed, StepsDone = steps };
        var left = new LinkedList<string>(wanted.Concat(actions.Where(id => !wanted.Contains(id))).Where(id => actions.Contains(id) && !job.Refitted.ContainsKey(id)));
        while (left.Count > 0)
        {
            var next = left.First!;
            while (next is not null && !WalkRules.MayRefit(map, next.Value, progress))
            {
                next = next.Next;
            }

            next ??= left.First!;
            left.Remove(next);
            (map.Step(next.Value) is null ? closed : steps).Add(next.Value);
            yield return next.Value;
        }
    }
}
