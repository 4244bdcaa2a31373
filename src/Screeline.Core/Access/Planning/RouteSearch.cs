namespace Screeline.Core.Access.Planning;

/// <summary>
/// Searches the sets of operations that lead to the target and back, best first (branch and bound; Land and Doig 1960): a node
/// says what is in and what is out, its bound is what is in at least, and what walking through that costs at least. A set that
/// is complete is put into order by <see cref="Sequencer"/>. The search is over when the cheapest bound left is no better than
/// the best set found.
/// </summary>
internal sealed class RouteSearch
{
    private const long Never = long.MaxValue / 4;

    private readonly RouteProblem _problem;
    private readonly Demands _demands;
    private readonly SearchLimit _limit;
    private readonly PriorityQueue<Node, (long Bound, int Count, int Kind)> _queue = new();
    private readonly List<Found> _found = [];
    private readonly HashSet<Bits> _seen = [];
    private readonly List<Bits> _listed = [];
    private Found? _best;
    private long _givenUp = Never;
    private int _turn;

    public RouteSearch(RouteProblem problem, SearchLimit limit) => (_problem, _demands, _limit) = (problem, new Demands(problem), limit);

    /// <summary>A complete set with its best order.</summary>
    public sealed record Found(Bits Set, long Cost, List<int> Removal, List<int> Refit, bool Exact);

    /// <summary>How many nodes were looked at.</summary>
    public int Nodes => _turn;

    private sealed record Node(Bits In, Bits Out, long Bound, bool Measured, bool Tried, bool Complete);

    /// <summary>The lowest cost that a route not yet listed can still have.</summary>
    public long Lowest { get; private set; }

    /// <summary>Starts from what must be in; false when no set can reach the target and come back.</summary>
    public bool Start()
    {
        var (inside, outside) = (_problem.Done | _problem.Goal, default(Bits));
        if (!_problem.Possible.Holds(_problem.Goal) || !Settle(ref inside, ref outside, true))
        {
            return false;
        }

        Push(new Node(inside, outside, _demands.AtLeast(inside, outside), false, false, false));
        Dive(inside, outside);
        return true;
    }

    /// <summary>The best route that contains none of those listed before; null when there is none (or none was found in time).</summary>
    public Found? Next(out bool proven)
    {
        while (true)
        {
            var cost = _best?.Cost ?? Never;
            var more = _queue.TryPeek(out var node, out var priority);
            Lowest = Math.Min(Math.Min(more ? node!.Bound : Never, cost), _givenUp);
            // Of the same cost, only a set with no more operations could still come first.
            var settled = !more || node!.Bound > cost || (node.Bound == cost && priority.Count > _best!.Set.Count);
            if (settled || _limit.IsReached() || !SearchLimit.Room(_queue.Count))
            {
                proven = settled && cost <= _givenUp && (_best?.Exact ?? true);
                return List();
            }

            _queue.Dequeue();
            if (!_listed.Any(node!.In.Holds))
            {
                _turn++;
                Open(node, cost);
            }
        }
    }

    private static int Compare(Found a, Found b)
    {
        var order = a.Cost.CompareTo(b.Cost);
        order = order != 0 ? order : a.Set.Count.CompareTo(b.Set.Count);
        if (order != 0)
        {
            return order;
        }

        foreach (var (x, y) in a.Set.ToList().Zip(b.Set.ToList()))
        {
            if (x != y)
            {
                return x.CompareTo(y);
            }
        }

        return 0;
    }

    private Found? List()
    {
        var found = _best;
        if (found is not null)
        {
            _listed.Add(found.Set);
            _best = _found.Where(f => !_listed.Any(f.Set.Holds)).Order(Comparer<Found>.Create(Compare)).FirstOrDefault();
        }

        return found;
    }

    private void Keep(Found found)
    {
        _found.RemoveAll(f => f.Set == found.Set && !f.Exact && (found.Exact || found.Cost < f.Cost));
        _found.Add(found);
        if (!_listed.Any(found.Set.Holds) && (_best is null || _best.Set == found.Set || Compare(found, _best) < 0))
        {
            _best = _best is not null && _best.Set == found.Set && !found.Exact && Compare(found, _best) >= 0 ? _best : found;
        }
    }

    private void Push(Node node)
    {
        if (node.Bound < Never)
        {
            _queue.Enqueue(node, (node.Bound, node.In.Count + (node.Tried && !node.Complete ? 1 : 0), node.Complete ? 0 : 1));
        }
    }

    private void Open(Node node, long limit)
    {
        if (node.Complete)
        {
            Evaluate(node, limit);
            return;
        }

        if (!node.Measured)
        {
            // A better bound before the node is divided: what is undecided is taken as there, at no cost.
            Push(node with { Bound = Math.Max(node.Bound, _demands.AtLeast(node.In, node.Out) + Walking(node.In, Undecided(node))), Measured = true });
            return;
        }

        var undecided = Undecided(node);
        if (!node.Tried && IsComplete(node.In))
        {
            if (_seen.Add(node.In))
            {
                Push(new Node(node.In, node.Out, Math.Max(node.Bound, _problem.WeightOf(node.In) + Walking(node.In, default)), true, true, true));
            }

            node = node with { Tried = true };
        }

        if (undecided.IsEmpty)
        {
            return;
        }

        if (_turn % 64 == 0)
        {
            Dive(node.In, node.Out);
        }

        var choice = _demands.Choose(node.In, undecided);
        Divide(node, node.In.With(choice), node.Out, false);
        Divide(node, node.In, node.Out.With(choice), node.Tried);
    }

    private void Divide(Node parent, Bits inside, Bits outside, bool tried)
    {
        if (!Settle(ref inside, ref outside, _problem.Operations <= 100))
        {
            return;
        }

        var bound = _demands.AtLeast(inside, outside);
        if (tried && inside == parent.In)
        {
            // The set as it stands is seen to: whatever is still to come holds one more at least.
            var more = Never;
            foreach (var i in _problem.Possible.Minus(inside).Minus(outside))
            {
                more = Math.Min(more, _problem.Weight[i]);
            }

            bound = more >= Never ? Never : Math.Max(bound, _problem.WeightOf(inside) + more);
        }
        else
        {
            tried = false;
        }

        Push(new Node(inside, outside, Math.Max(parent.Bound, bound), false, tried, false));
    }

    private Bits Undecided(Node node) => _problem.Possible.Minus(node.In).Minus(node.Out);

    /// <summary>What follows from a choice; false when no set can agree with it.</summary>
    private bool Settle(ref Bits inside, ref Bits outside, bool landmarks)
    {
        while (true)
        {
            var reach = _problem.Reach(_problem.Possible.Minus(outside));
            if (!reach.Holds(inside))
            {
                return false;
            }

            // Only what something in the job may lean on can be worth doing: without anything else the walk would be no dearer.
            var relevant = inside;
            for (var before = default(Bits); before != relevant;)
            {
                var grown = relevant;
                foreach (var i in relevant.Minus(before))
                {
                    grown |= _problem.References[i] & reach;
                }

                (before, relevant) = (relevant, grown);
            }

            outside |= _problem.Possible.Minus(relevant);
            var forced = default(Bits);
            foreach (var i in inside)
            {
                if (!_problem.Done.Has(i))
                {
                    var needs = _problem.Needs[i].Given(default, relevant.Without(i));
                    if (needs.IsFalse)
                    {
                        return false;
                    }

                    forced |= needs.IsAll ? needs.Ones : default;
                }

                if (_problem.Opens.Has(i))
                {
                    var during = _problem.While[i].Given(default, relevant.Without(i));
                    if (during.IsFalse)
                    {
                        return false;
                    }

                    forced |= during.IsAll ? during.Ones : default;
                }
            }

            if (landmarks)
            {
                foreach (var i in relevant.Minus(inside).Minus(forced))
                {
                    if (!_problem.Reach(relevant.Without(i)).Holds(inside))
                    {
                        forced = forced.With(i);
                    }
                }
            }

            if (inside.Holds(forced))
            {
                return true;
            }

            inside |= forced;
        }
    }

    private bool IsComplete(Bits set)
    {
        if (!_problem.Reach(set).Holds(set))
        {
            return false;
        }

        foreach (var i in set & _problem.Opens)
        {
            if (!_problem.While[i].Holds(set.Without(i)))
            {
                return false;
            }
        }

        return Refit(set, default, (-1, -1)).Feasible;
    }

    // The changes of position and tool that a walk through a set costs at least, whatever of the undecided is added.
    private long Walking(Bits set, Bits undecided)
    {
        var removal = Removal(set, undecided);
        var back = Refit(set, undecided, LikelyEnd(set, undecided));
        return Math.Min(Never, removal.Bound() + back.Bound());
    }

    private (int, int) LikelyEnd(Bits set, Bits undecided) =>
        _problem.HasLast ? (_problem.Position[_problem.Target], _problem.Tool[_problem.Target])
        : set == _problem.Done && undecided.IsEmpty ? (_problem.StartPosition, _problem.StartTool) : (-1, -1);

    private Sequencer Removal(Bits set, Bits undecided)
    {
        var items = set.Minus(_problem.Done);
        var conditions = new Condition[_problem.Actions];
        foreach (var i in items)
        {
            var needs = _problem.Needs[i].Given(_problem.Done | undecided, set | undecided);
            conditions[i] = _problem.HasLast && i == _problem.Target ? Condition.AllOf(items.Without(i), [needs]) : needs;
        }

        return new Sequencer(_problem, items, conditions, (_problem.StartPosition, _problem.StartTool), (-1, -1), _problem.Turn);
    }

    private Sequencer Refit(Bits set, Bits undecided, (int Position, int Tool) end, List<int>? removal = null) =>
        WayBack.Order(_problem, set, undecided, default, end, removal);

    private void Evaluate(Node node, long limit)
    {
        var set = node.In;
        var weight = _problem.WeightOf(set);
        var room = limit >= Never ? Never : limit - weight;
        var (best, lowest, overflowed) = ((Found?)null, Never, false);
        if (set == _problem.Done)
        {
            Back(0, [], (_problem.StartPosition, _problem.StartTool));
        }
        else
        {
            // Removal and refit meet only in the set, the position and the tool in hand.
            var removal = Removal(set, default);
            var free = Refit(set, default, LikelyEnd(set, default)).Bound();
            var oneEnd = _problem.HasLast && _problem.Tool[_problem.Target] >= 0;
            var met = false;
            foreach (var way in removal.Ends(room >= Never ? Never : room - free, _limit))
            {
                if (best is not null && weight + way.Cost + free >= best.Cost)
                {
                    break;
                }

                met = true;
                Back(way.Cost, way.Order, way.End);
                if (oneEnd)
                {
                    break;
                }
            }

            overflowed |= removal.Overflowed;
            lowest = met && oneEnd ? lowest : Math.Min(lowest, weight + Math.Min(Never / 2, removal.Lowest) + free);
        }

        if (best is not null && (best.Cost <= lowest || !(overflowed || _limit.IsReached())))
        {
            Keep(best);
            return;
        }

        lowest = Math.Max(node.Bound, lowest);
        if (overflowed || _limit.IsReached())
        {
            // No proof for this set: an order without a search is better than none.
            foreach (var some in new[] { best is null ? null : best with { Exact = false }, Quick(set) }.OfType<Found>())
            {
                Keep(some);
            }

            _givenUp = Math.Min(_givenUp, lowest);
        }
        else if (lowest < Never / 2)
        {
            // Too dear to be the next; it is looked at again when its turn comes.
            Push(node with { Bound = lowest });
        }

        void Back(long cost, List<int> order, (int, int) end)
        {
            var back = Refit(set, default, end, order);
            if (back.Best(room >= Never ? Never : room - cost, _limit) is not { } way)
            {
                lowest = Math.Min(lowest, weight + cost + Math.Min(Never / 2, back.Lowest));
                overflowed |= back.Overflowed;
                return;
            }

            if (best is null || weight + cost + way.Cost < best.Cost)
            {
                best = new Found(set, weight + cost + way.Cost, order, WayBack.Read(_problem, back, way.Order), true);
            }
        }
    }

    // An order without a search.
    private Found? Quick(Bits set)
    {
        var removal = set == _problem.Done ? new Sequencer.Result(0, [], (_problem.StartPosition, _problem.StartTool)) : Removal(set, default).Greedy();
        if (removal is null)
        {
            return null;
        }

        var back = Refit(set, default, removal.End, removal.Order);
        return back.Greedy() is { } refit ? new Found(set, _problem.WeightOf(set) + removal.Cost + refit.Cost, removal.Order, WayBack.Read(_problem, back, refit.Order), false) : null;
    }

    // Settles every choice for the cheapest demand, for a first route to compare others with.
    private void Dive(Bits inside, Bits outside)
    {
        while (!IsComplete(inside))
        {
            var undecided = _problem.Possible.Minus(inside).Minus(outside);
            if (undecided.IsEmpty)
            {
                return;
            }

            var choice = _demands.Choose(inside, undecided);
            var (more, less) = (inside.With(choice), outside);
            if (Settle(ref more, ref less, false))
            {
                (inside, outside) = (more, less);
            }
            else
            {
                outside = outside.With(choice);
                if (!Settle(ref inside, ref outside, false))
                {
                    return;
                }
            }
        }

        if (Quick(inside) is { } quick && !_found.Any(f => f.Set == quick.Set && f.Cost <= quick.Cost))
        {
            Keep(quick);
        }
    }
}
