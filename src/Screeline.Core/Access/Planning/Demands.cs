namespace Screeline.Core.Access.Planning;

/// <summary>What a set of operations still asks for: how dear that is at least, and what to decide next.</summary>
internal sealed class Demands(RouteProblem problem)
{
    private const long Never = long.MaxValue / 4;

    /// <summary>What is in, and of what it still asks for the dearest single demand, or several that share nothing.</summary>
    public long AtLeast(Bits inside, Bits outside)
    {
        var undecided = problem.Possible.Minus(inside).Minus(outside);
        var sum = problem.WeightOf(inside);
        if (undecided.IsEmpty)
        {
            return sum;
        }

        var alone = Alone(inside, undecided);
        var (dearest, together, used) = (0L, 0L, default(Bits));
        foreach (var part in Open(inside, undecided).OrderByDescending(c => Direct(c, alone)))
        {
            dearest = Math.Max(dearest, Price(part, alone));
            var names = part.Names;
            if (!used.Meets(names))
            {
                used |= names;
                together += Direct(part, null);
            }
        }

        return Math.Min(Never, sum + Math.Max(dearest, together));
    }

    // The demands of what is in that are not met by what is in.
    private List<Condition> Open(Bits inside, Bits undecided)
    {
        var open = new List<Condition>();
        void Add(Condition whole)
        {
            var left = whole.Given(inside, undecided);
            if (!left.IsTrue)
            {
                open.AddRange(left.IsAll && left.Ones.IsEmpty ? left.Parts : [left]);
            }
        }

        foreach (var i in inside)
        {
            if (!problem.Done.Has(i))
            {
                Add(problem.Needs[i]);
            }

            if (problem.Opens.Has(i))
            {
                Add(problem.While[i]);
            }
        }

        return open;
    }

    // What each undecided operation costs at least together with the dearest thing that it asks for.
    private long[] Alone(Bits inside, Bits undecided)
    {
        var cost = new long[problem.Operations];
        Array.Fill(cost, Never);
        foreach (var i in inside)
        {
            cost[i] = 0;
        }

        for (var changed = true; changed;)
        {
            changed = false;
            foreach (var i in undecided)
            {
                var price = Math.Min(Never, problem.Weight[i] + Price(problem.Needs[i].Given(inside, undecided), cost));
                if (price < cost[i])
                {
                    (cost[i], changed) = (price, true);
                }
            }
        }

        return cost;
    }

    private static long Price(Condition condition, long[] cost)
    {
        var price = condition.IsAll ? 0 : Never;
        foreach (var i in condition.Ones)
        {
            price = condition.IsAll ? Math.Max(price, cost[i]) : Math.Min(price, cost[i]);
        }

        foreach (var part in condition.Parts)
        {
            price = condition.IsAll ? Math.Max(price, Price(part, cost)) : Math.Min(price, Price(part, cost));
        }

        return price;
    }

    // What the operations named by a condition cost at least, themselves; or, with prices, with what they ask for.
    private long Direct(Condition condition, long[]? alone)
    {
        if (alone is not null)
        {
            return Price(condition, alone);
        }

        var price = condition.IsAll ? 0 : Never;
        foreach (var i in condition.Ones)
        {
            price = condition.IsAll ? price + problem.Weight[i] : Math.Min(price, problem.Weight[i]);
        }

        foreach (var part in condition.Parts)
        {
            // The parts of an "all" may share operations: only the dearest counts.
            price = condition.IsAll ? Math.Max(price, Direct(part, null)) : Math.Min(price, Direct(part, null));
        }

        return price;
    }

    /// <summary>The operation to decide next: of the demand with the fewest ways to meet it, the cheapest.</summary>
    public int Choose(Bits inside, Bits undecided)
    {
        var alone = Alone(inside, undecided);
        var (choice, least) = (-1, Never);
        var fewest = int.MaxValue;
        foreach (var part in Open(inside, undecided))
        {
            var names = part.Names;
            if (names.Count >= fewest)
            {
                continue;
            }

            (fewest, choice, least) = (names.Count, -1, Never);
            foreach (var i in names)
            {
                if (choice < 0 || alone[i] < least)
                {
                    (choice, least) = (i, alone[i]);
                }
            }
        }

        return choice >= 0 ? choice : undecided.ToList()[0];
    }
}
