namespace Screeline.Core.Access.Planning;

/// <summary>
/// The way back, read from its end: to close x while y is still open is then to open x after y, and a refit step waits for what
/// comes after it. So it is put into order like the way in.
/// </summary>
internal static class WayBack
{
    /// <summary>
    /// An order as it is walked, first action first. Refit steps done by hand ("start all by hand") come as early as they can.
    /// </summary>
    public static List<int> Read(RouteProblem problem, Sequencer sequencer, List<int> lastFirst)
    {
        sequencer.Delay(lastFirst, i => i >= problem.Operations);
        lastFirst.Reverse();
        return lastFirst;
    }

    /// <summary>The ordering problem of what is left of the way back; its orders come out last action first.</summary>
    /// <param name="problem">The request.</param>
    /// <param name="set">The operations of the job.</param>
    /// <param name="undecided">Operations taken as open for as long as they are wanted.</param>
    /// <param name="finished">What is closed or done already.</param>
    /// <param name="end">Where the way back begins, and with which tool in hand.</param>
    /// <param name="removal">The way in; of what lies at hand together, a gate comes first, then what was opened last.</param>
    public static Sequencer Order(RouteProblem problem, Bits set, Bits undecided, Bits finished, (int Position, int Tool) end, List<int>? removal)
    {
        var open = (set & problem.Opens).Minus(finished);
        var steps = problem.StepsOf(set).Minus(finished);
        var items = open | steps;
        var conditions = new Condition[problem.Actions];
        var once = set.Minus(problem.Opens);
        foreach (var i in open)
        {
            var during = problem.While[i].Given(once | undecided, (open | once | undecided).Without(i));
            conditions[i] = Condition.AllOf(Behind(i), [during]);
        }

        foreach (var step in problem.Steps)
        {
            if (steps.Has(step.Action))
            {
                conditions[step.Action] = step.After.Has(step.Action) ? Condition.False : Condition.AllOf((step.Before & items).Without(step.Action) | Behind(step.Action), []);
            }
        }

        var turn = (int[])problem.Turn.Clone();
        for (var k = 0; removal is not null && k < removal.Count; k++)
        {
            turn[removal[k]] = k;
        }

        foreach (var i in items)
        {
            turn[i] += problem.IsGate[i] ? 2 * Bits.Capacity : 0;
        }

        return new Sequencer(problem, items, conditions, (-1, -1), end, turn);

        // The steps that come after an action.
        Bits Behind(int action)
        {
            var behind = default(Bits);
            foreach (var step in problem.Steps)
            {
                behind = steps.Has(step.Action) && step.After.Has(action) ? behind.With(step.Action) : behind;
            }

            return behind;
        }
    }
}
