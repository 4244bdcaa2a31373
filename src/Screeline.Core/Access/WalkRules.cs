namespace Screeline.Core.Access;

/// <summary>
/// How far a walk (removal, then refit) has come: which operations belong to the job, what is closed again and which refit
/// steps are done. The rules of order in docs/formats.md read off it.
/// </summary>
/// <param name="Set">The operations of the removal (S in the definitions).</param>
/// <param name="Closed">Open operations that are closed again.</param>
/// <param name="StepsDone">Refit steps that are done.</param>
public sealed record RefitProgress(IReadOnlySet<string> Set, IReadOnlySet<string> Closed, IReadOnlySet<string> StepsDone);

/// <summary>What may be done at a moment. Order comes only from needs, <c>while</c>, <c>after</c> and <c>before</c>.</summary>
public static class WalkRules
{
    /// <summary>Whether an operation may be done when these are open or done.</summary>
    public static bool MayRemove(Operation operation, IReadOnlySet<string> openOrDone) =>
        !openOrDone.Contains(operation.Id) && operation.Needs.Hold(openOrDone.Contains);

    /// <summary>All operations of a map in an order in which each is possible after those before it; what never becomes possible is left out.</summary>
    public static IReadOnlyList<Operation> InOrder(AccessMap map)
    {
        var (order, done) = (new List<Operation>(), new HashSet<string>(StringComparer.Ordinal));
        while (map.Operations.Where(o => !done.Contains(o.Id) && MayRemove(o, done)).ToList() is { Count: > 0 } next)
        {
            order.AddRange(next);
            done.UnionWith(next.Select(o => o.Id));
        }

        return order;
    }

    /// <summary>Whether a refit step belongs to a job.</summary>
    public static bool Applies(RefitStep step, IReadOnlySet<string> set) => step.AppliesIf is null || set.Contains(step.AppliesIf);

    /// <summary>What has to be done on the way back, in the map's order: ids of operations to close and of steps that apply.</summary>
    public static IReadOnlyList<string> RefitActions(AccessMap map, IReadOnlySet<string> set) =>
    [
        .. map.Operations.Where(o => o.Kind == OperationKind.Open && set.Contains(o.Id)).Select(o => o.Id),
        .. map.RefitSteps.Where(s => Applies(s, set)).Select(s => s.Id),
    ];

    /// <summary>Whether an operation may be closed now.</summary>
    public static bool MayClose(AccessMap map, Operation operation, RefitProgress progress)
    {
        bool StillOpen(string id) =>
            id != operation.Id && progress.Set.Contains(id)
            && (map[id].Kind == OperationKind.Once || !progress.Closed.Contains(id));

        return operation.Kind == OperationKind.Open
            && progress.Set.Contains(operation.Id)
            && !progress.Closed.Contains(operation.Id)
            && operation.CloseWhile.Hold(StillOpen)
            && !Awaited(map, operation.Id, progress);
    }

    /// <summary>Whether a refit step may be done now.</summary>
    public static bool MayDo(AccessMap map, RefitStep step, RefitProgress progress)
    {
        bool Finished(string id)
        {
            if (map.Step(id) is { } other)
            {
                return !Applies(other, progress.Set) || progress.StepsDone.Contains(id);
            }

            return !progress.Set.Contains(id) || map[id].Kind == OperationKind.Once || progress.Closed.Contains(id);
        }

        return Applies(step, progress.Set)
            && !progress.StepsDone.Contains(step.Id)
            && step.After.All(Finished)
            && !Awaited(map, step.Id, progress);
    }

    /// <summary>Whether a refit action (closing or step) may be done now.</summary>
    public static bool MayRefit(AccessMap map, string id, RefitProgress progress) =>
        map.Step(id) is { } step ? MayDo(map, step, progress) : map.Operation(id) is { } operation && MayClose(map, operation, progress);

    /// <summary>The progress after one more refit action.</summary>
    public static RefitProgress After(AccessMap map, string id, RefitProgress progress) =>
        map.Step(id) is null
            ? progress with { Closed = new HashSet<string>(progress.Closed, StringComparer.Ordinal) { id } }
            : progress with { StepsDone = new HashSet<string>(progress.StepsDone, StringComparer.Ordinal) { id } };

    /// <summary>Whether an action is a gate: while it is unfinished, nothing behind it in the refit may be ticked.</summary>
    public static bool IsGate(AccessMap map, string id) => map.Step(id)?.Gate ?? map[id].Close.Gate;

    // A refit step that applies, is not done, and wants to come before this action.
    private static bool Awaited(AccessMap map, string id, RefitProgress progress) =>
        map.RefitSteps.Any(s => s.Id != id && Applies(s, progress.Set) && !progress.StepsDone.Contains(s.Id) && s.Before.Contains(id));
}
