namespace Screeline.Core.Access.Planning;

/// <summary>
/// Puts a fixed set of actions into the order that costs least in changes of position and tool. What may be done is a condition
/// on what is done already and never stops holding; so, as moves obey the triangle inequality, everything that lies at hand with
/// the same tool is done at once without loss, and only the choice of the next place and tool is searched (A*; Hart, Nilsson,
/// Raphael 1968). The way back is the same problem read from its end: closing x while y is still open is, read backwards,
/// opening x after y.
/// </summary>
internal sealed class Sequencer
{
    private const long Never = long.MaxValue / 4;

    // Beyond this many, what is left of the moves is taken as nothing: a bound still, only a worse one.
    private const int MostRemembered = 20_000;

    private readonly RouteProblem _problem;
    private readonly Condition[] _conditions;
    private readonly Bits _items;
    private readonly int[] _turn;
    private readonly int _startPosition;
    private readonly int _startTool;
    private readonly int _endPosition;
    private readonly int _endTool;
    private readonly Bits[] _at;
    private readonly Bits[] _with;
    private readonly Bits _byHand;
    private readonly Dictionary<(Bits, int), long> _moves = [];

    /// <param name="problem">Positions, tools and what changing them costs.</param>
    /// <param name="items">What is to be done.</param>
    /// <param name="conditions">By action: what must be done of the items before it.</param>
    /// <param name="start">Where one is and what tool is in hand; −1: anywhere, none.</param>
    /// <param name="end">What follows: a change of position and tool that is still to be paid; −1: nothing.</param>
    /// <param name="turn">By action: of what lies at hand together, the lowest comes first.</param>
    public Sequencer(RouteProblem problem, Bits items, Condition[] conditions, (int Position, int Tool) start, (int Position, int Tool) end, int[] turn)
    {
        (_problem, _items, _conditions, _turn) = (problem, items, conditions, turn);
        (_startPosition, _startTool) = start;
        (_endPosition, _endTool) = end;
        _at = new Bits[problem.PositionCount];
        _with = new Bits[problem.ToolCount];
        foreach (var i in items)
        {
            _at[problem.Position[i]] = _at[problem.Position[i]].With(i);
            if (problem.Tool[i] < 0)
            {
                _byHand = _byHand.With(i);
            }
            else
            {
                _with[problem.Tool[i]] = _with[problem.Tool[i]].With(i);
            }
        }
    }

    /// <summary>What a search came to.</summary>
    /// <param name="Cost">What its changes of position and tool cost.</param>
    /// <param name="Order">The order.</param>
    /// <param name="End">Position and tool in hand at the end.</param>
    public sealed record Result(long Cost, List<int> Order, (int Position, int Tool) End);

    /// <summary>Whether any order exists.</summary>
    public bool Feasible
    {
        get
        {
            var done = default(Bits);
            while (true)
            {
                var before = done;
                foreach (var i in _items.Minus(done))
                {
                    done = _conditions[i].Holds(done) ? done.With(i) : done;
                }

                if (done == before)
                {
                    return done == _items;
                }
            }
        }
    }

    /// <summary>A lower bound of what the order costs: positions in their best order as if tools did not matter, and each tool taken up once.</summary>
    public long Bound() => ToGo(default, _startPosition, _startTool);

    /// <summary>Finds the order that costs least.</summary>
    /// <param name="limit">Given up when it would cost more.</param>
    /// <param name="until">Given up when it is reached.</param>
    public Result? Best(long limit, SearchLimit until)
    {
        foreach (var end in Ends(limit, until))
        {
            return end;
        }

        return null;
    }

    /// <summary>What every order that the last search did not tell costs at least.</summary>
    public long Lowest { get; private set; }

    /// <summary>Whether the last search was given up because it would have had to remember too much.</summary>
    public bool Overflowed { get; private set; }

    /// <summary>The best order for each way to end, cheapest first.</summary>
    public IEnumerable<Result> Ends(long limit, SearchLimit until)
    {
        var (states, known, queue) = (new List<State>(), new Dictionary<(Bits, int, int), int>(), new PriorityQueue<int, (long, int)>());
        Lowest = 0;
        Enter(Close(default, _startPosition, _startTool, true), _startPosition, _startTool, 0, -1);
        while (queue.TryDequeue(out var at, out var priority))
        {
            var state = states[at];
            if (state.Closed)
            {
                continue;
            }

            Lowest = priority.Item1;
            Overflowed = !SearchLimit.Room(states.Count);
            if (Lowest > limit || until.IsReached() || Overflowed)
            {
                yield break;
            }

            states[at] = state with { Closed = true };
            if (state.Done == _items)
            {
                yield return new Result(priority.Item1, Read(states, at), (state.Position, state.Tool));
                continue;
            }

            // By place and tool, what could be done next.
            var tried = 0UL;
            var many = _at.Length * (_with.Length + 1) > 64 ? new HashSet<(int, int)>() : null;
            foreach (var i in _items.Minus(state.Done))
            {
                if (!_conditions[i].Holds(state.Done))
                {
                    continue;
                }

                var (position, tool) = (_problem.Position[i], _problem.Tool[i]);
                var kind = position * (_problem.ToolCount + 1) + tool + 1;
                if (kind < 64 ? (tried >> kind & 1) != 0 : !many!.Add((position, tool)))
                {
                    continue;
                }

                tried |= kind < 64 ? 1UL << kind : 0;
                var cost = state.Cost + (state.Position < 0 ? 0 : _problem.Move[state.Position, position]) + (tool >= 0 && state.Tool >= 0 && tool != state.Tool ? _problem.ToolChange : 0);
                var inHand = tool >= 0 ? tool : state.Tool;
                Enter(Close(state.Done, position, inHand, true), position, inHand, cost, at);
            }
        }

        Lowest = Never;

        void Enter(Bits done, int position, int tool, long cost, int from)
        {
            var total = cost + ToGo(done, position, tool);
            if (total >= Never)
            {
                return;
            }

            if (known.TryGetValue((done, position, tool), out var old))
            {
                if (states[old].Cost <= cost)
                {
                    return;
                }

                states[old] = new State(done, position, tool, cost, from, false);
                queue.Enqueue(old, (total, -done.Count));
                return;
            }

            known[(done, position, tool)] = states.Count;
            queue.Enqueue(states.Count, (total, -done.Count));
            states.Add(new State(done, position, tool, cost, from, false));
        }
    }

    private readonly record struct State(Bits Done, int Position, int Tool, long Cost, int From, bool Closed);

    /// <summary>An order without a search: always what costs least next, and of that what does most at once.</summary>
    public Result? Greedy()
    {
        var (done, position, tool, cost) = (Close(default, _startPosition, _startTool, true), _startPosition, _startTool, 0L);
        var order = new List<int>();
        Log(default, done, order);
        while (done != _items)
        {
            var (best, step, next) = ((position: -1, tool: -1), Never, done);
            foreach (var i in _items.Minus(done))
            {
                if (!_conditions[i].Holds(done))
                {
                    continue;
                }

                var (p, t) = (_problem.Position[i], _problem.Tool[i] >= 0 ? _problem.Tool[i] : tool);
                var change = (position < 0 ? 0 : _problem.Move[position, p]) + (t >= 0 && tool >= 0 && t != tool ? _problem.ToolChange : 0);
                if (change > step)
                {
                    continue;
                }

                var reached = Close(done, p, t, true);
                if (change < step || reached.Count > next.Count)
                {
                    (best, step, next) = ((p, t), change, reached);
                }
            }

            if (best.position < 0)
            {
                return null;
            }

            Log(done, next, order);
            (done, position, tool, cost) = (next, best.position, best.tool, cost + step);
        }

        return new Result(cost + Last(position, tool), order, (position, tool));
    }

    /// <summary>
    /// Moves some actions done by hand towards the end of an order, as far as they may go without leaving their position: it
    /// costs nothing, and read backwards they come as early as they can.
    /// </summary>
    public void Delay(List<int> order, Func<int, bool> which)
    {
        for (var k = order.Count - 2; k >= 0; k--)
        {
            if (_problem.Tool[order[k]] >= 0 || !which(order[k]))
            {
                continue;
            }

            var before = default(Bits);
            for (var i = 0; i < k; i++)
            {
                before = before.With(order[i]);
            }

            for (var i = k; i + 1 < order.Count && _problem.Position[order[i]] == _problem.Position[order[i + 1]] && _conditions[order[i + 1]].Holds(before); i++)
            {
                before = before.With(order[i + 1]);
                (order[i], order[i + 1]) = (order[i + 1], order[i]);
            }
        }
    }

    // Everything that can be done without leaving the position and, when tools matter, without changing the tool in hand.
    private Bits Close(Bits done, int position, int tool, bool tools)
    {
        if (position < 0)
        {
            return done;
        }

        var here = _at[position];
        var near = (tools ? tool < 0 ? here & _byHand : here & (_byHand | _with[tool]) : here).Minus(done);
        while (!near.IsEmpty)
        {
            var before = done;
            foreach (var i in near)
            {
                if (_conditions[i].Holds(done))
                {
                    done = done.With(i);
                }
            }

            if (before == done)
            {
                break;
            }

            near = near.Minus(done);
        }

        return done;
    }

    private void Log(Bits from, Bits to, List<int> order)
    {
        var left = to.Minus(from);
        while (!left.IsEmpty)
        {
            var next = -1;
            foreach (var i in left)
            {
                next = _conditions[i].Holds(from) && (next < 0 || _turn[i] < _turn[next]) ? i : next;
            }

            order.Add(next);
            (from, left) = (from.With(next), left.Without(next));
        }
    }

    private List<int> Read(List<State> states, int at)
    {
        var path = new List<State>();
        for (; at >= 0; at = states[at].From)
        {
            path.Add(states[at]);
        }

        path.Reverse();
        var order = new List<int>();
        for (var k = 0; k < path.Count; k++)
        {
            Log(k == 0 ? default : path[k - 1].Done, path[k].Done, order);
        }

        return order;
    }

    private long Last(int position, int tool) =>
        (position >= 0 && _endPosition >= 0 ? _problem.Move[position, _endPosition] : 0) + (tool >= 0 && _endTool >= 0 && tool != _endTool ? _problem.ToolChange : 0);

    private long ToGo(in Bits done, int position, int tool)
    {
        var moves = MovesToGo(Close(done, position, -1, false), position);
        if (moves >= Never)
        {
            return Never;
        }

        // Each tool that is still wanted is taken up at least once, the one in hand excepted; the tool that follows counts too.
        var left = _items.Minus(done);
        var wanted = 0;
        for (var t = 0; t < _with.Length; t++)
        {
            wanted += t == tool || t == _endTool || !left.Meets(_with[t]) ? 0 : 1;
        }

        if (tool < 0)
        {
            // The first one taken is free.
            var taken = wanted + (_endTool >= 0 && left.Meets(_with[_endTool]) ? 1 : 0);
            wanted = taken == 0 ? 0 : wanted + (_endTool >= 0 ? 1 : 0) - 1;
        }
        else if (_endTool >= 0 && (_endTool != tool || wanted > 0))
        {
            // Taken up for what follows, once more when others were in hand between.
            wanted++;
        }

        return moves + wanted * _problem.ToolChange;
    }

    // The least cost of moves from here, were tools no matter. Exact over all orders; remembered.
    private long MovesToGo(Bits closed, int position)
    {
        if (closed == _items)
        {
            return position >= 0 && _endPosition >= 0 ? _problem.Move[position, _endPosition] : 0;
        }

        if (_moves.TryGetValue((closed, position), out var known))
        {
            return known;
        }

        if (_moves.Count >= MostRemembered)
        {
            return 0;
        }

        var best = Never;
        for (var p = 0; p < _at.Length; p++)
        {
            if (p == position)
            {
                continue;
            }

            var next = Close(closed, p, -1, false);
            if (next != closed)
            {
                var rest = MovesToGo(next, p);
                best = Math.Min(best, rest + (position < 0 ? 0 : _problem.Move[position, p]));
            }
        }

        _moves[(closed, position)] = best;
        return best;
    }
}
