namespace Screeline.Core.Access.Planning;

/// <summary>
/// A request to plan, in numbers: actions are numbered, operations in the ordinal order of their ids first, then refit steps;
/// costs are whole numbers, so that sums and ties are exact.
/// </summary>
internal sealed class RouteProblem
{
    private readonly string[] _ids;

    public RouteProblem(PlanRequest request)
    {
        var map = request.Map;
        var operations = map.Operations.OrderBy(o => o.Id, StringComparer.Ordinal).ToList();
        var places = map.Positions.Select((p, i) => (p.Id, i)).ToDictionary(x => x.Id, x => x.i, StringComparer.Ordinal);
        var tools = new Dictionary<string, int>(StringComparer.Ordinal);
        int ToolOf(IReadOnlyList<string> list) => list.Count == 0 ? -1 : tools.TryGetValue(list[0], out var known) ? known : tools[list[0]] = tools.Count;

        Map = map;
        Operations = operations.Count;
        Actions = operations.Count + map.RefitSteps.Count;
        _ids = [.. operations.Select(o => o.Id), .. map.RefitSteps.Select(s => s.Id)];
        Index = _ids.Select((id, i) => (id, i)).ToDictionary(x => x.id, x => x.i, StringComparer.Ordinal);
        Position = [.. operations.Select(o => places[o.Position]), .. map.RefitSteps.Select(s => places[s.Position])];
        Tool = [.. operations.Select(o => ToolOf(o.Tools)), .. map.RefitSteps.Select(s => ToolOf(s.Tools))];
        Needs = [.. operations.Select(o => Condition.Of(o.Needs, Index))];
        While = [.. operations.Select(o => Condition.Of(o.CloseWhile, Index))];
        Steps = request.WayInOnly ? [] : [.. map.RefitSteps.Select((s, i) => new Step(operations.Count + i, s.AppliesIf is null ? -1 : Index[s.AppliesIf], All(s.After), All(s.Before)))];
        Opens = request.WayInOnly ? default : All(operations.Where(o => o.Kind == OperationKind.Open).Select(o => o.Id));
        Goal = All(request.Open.Append(request.Operation).OfType<string>());
        Target = request.Operation is { } last ? Index[last] : -1;
        Done = All(request.Done);
        HasLast = Target >= 0 && !Done.Has(Target);
        var usable = All(operations.Where(o => !request.Blocked.Contains(o.Id) && request.Lacks(o).Count == 0).Select(o => o.Id));
        Possible = usable | Done;
        StartPosition = places[request.Position ?? map.StartPosition];
        StartTool = request.Tool is null ? -1 : ToolOf([request.Tool]);
        ToolCount = tools.Count;
        PositionCount = places.Count;

        var scale = new Scale(request);
        Unit = scale.Unit;
        ToolChange = scale.Minutes(map.ToolChangeMinutes);
        Move = new long[PositionCount, PositionCount];
        foreach (var (a, i) in places)
        {
            foreach (var (b, j) in places)
            {
                Move[i, j] = scale.Minutes(map.MoveMinutes(a, b));
            }
        }

        // What an operation costs in the whole walk: on the way in, on the way back, and the steps that it brings with it.
        Weight = [.. operations.Select((o, i) =>
            (Done.Has(i) ? 0 : scale.Mean(o.Minutes) + scale.Money(o))
            + (Opens.Has(i) ? scale.Mean(o.CloseMinutes) : 0)
            + Steps.Where(s => s.AppliesIf == i).Sum(s => scale.Mean(map.RefitSteps[s.Action - operations.Count].Minutes)))];
        Always = Steps.Where(s => s.AppliesIf < 0).Sum(s => scale.Mean(map.RefitSteps[s.Action - operations.Count].Minutes));
        IsGate = [.. operations.Select(o => o.Close.Gate), .. map.RefitSteps.Select(s => s.Gate)];
        // At hand together: in the map's order on the way in.
        var order = map.Operations.Select((o, i) => (o.Id, i)).ToDictionary(x => x.Id, x => x.i, StringComparer.Ordinal);
        Turn = [.. operations.Select(o => order[o.Id]), .. map.RefitSteps.Select((_, i) => operations.Count + i)];
        References = [.. Enumerable.Range(0, Operations).Select(i => (Done.Has(i) ? default : Needs[i].Names) | (Opens.Has(i) ? While[i].Names : default))];

        Bits All(IEnumerable<string> ids)
        {
            var bits = default(Bits);
            foreach (var id in ids)
            {
                bits = bits.With(Index[id]);
            }

            return bits;
        }
    }

    /// <summary>A refit step: its number, the operation that brings it (−1: always there), what it comes after and before.</summary>
    public readonly record struct Step(int Action, int AppliesIf, Bits After, Bits Before)
    {
        public bool Applies(in Bits set) => AppliesIf < 0 || set.Has(AppliesIf);
    }

    public AccessMap Map { get; }
    public int Operations { get; }
    public int Actions { get; }
    public IReadOnlyDictionary<string, int> Index { get; }
    public int[] Position { get; }
    /// <summary>First tool of each action; −1 by hand.</summary>
    public int[] Tool { get; }
    public Condition[] Needs { get; }
    public Condition[] While { get; }
    public Step[] Steps { get; }
    /// <summary>Operations that are closed again.</summary>
    public Bits Opens { get; }
    /// <summary>What must belong to the job: the target, or whatever is to be opened.</summary>
    public Bits Goal { get; }
    /// <summary>The operation that the removal ends with; −1 when it may end with any.</summary>
    public int Target { get; }
    /// <summary>Whether the removal ends with the target, which is not done yet.</summary>
    public bool HasLast { get; }
    /// <summary>Whether an action on the way back is a gate.</summary>
    public bool[] IsGate { get; }
    /// <summary>Of what lies at hand together, the lowest comes first on the way in.</summary>
    public int[] Turn { get; }
    public Bits Done { get; }
    /// <summary>Operations that may belong to the job: done, or allowed and the tools are there.</summary>
    public Bits Possible { get; }
    public int StartPosition { get; }
    public int StartTool { get; }
    public int ToolCount { get; }
    public int PositionCount { get; }
    public long[,] Move { get; }
    public long ToolChange { get; }
    public long[] Weight { get; }
    /// <summary>Cost of the steps that are always there.</summary>
    public long Always { get; }
    /// <summary>For each operation, the operations that it may lean on.</summary>
    public Bits[] References { get; }
    /// <summary>How many cost units make a minute (fastest) or one of the shop's currency (thrifty).</summary>
    public decimal Unit { get; }

    public string Id(int action) => _ids[action];

    public long WeightOf(in Bits set)
    {
        var sum = Always;
        foreach (var i in set)
        {
            sum += Weight[i];
        }

        return sum;
    }

    /// <summary>Steps that belong to a job with this set.</summary>
    public Bits StepsOf(in Bits set)
    {
        var steps = default(Bits);
        foreach (var step in Steps)
        {
            steps = step.Applies(set) ? steps.With(step.Action) : steps;
        }

        return steps;
    }

    /// <summary>
    /// Everything that can be done from what is done already, when nothing but <paramref name="allowed"/> may be done.
    /// </summary>
    public Bits Reach(in Bits allowed)
    {
        var reached = Done;
        var left = allowed.Minus(Done);
        while (true)
        {
            var before = reached;
            foreach (var i in left)
            {
                if (Needs[i].Holds(reached))
                {
                    reached = reached.With(i);
                }
            }

            if (reached == before)
            {
                return reached;
            }

            left = left.Minus(reached);
        }
    }

    // The smallest unit that makes every cost a whole number: sixths for the means, sixtieths for money, and the decimals given.
    private sealed class Scale
    {
        private readonly PlanObjective _objective;
        private readonly decimal _rate;

        public Scale(PlanRequest request)
        {
            var map = request.Map;
            (_objective, _rate) = (request.Objective, map.LabourRatePerHour);
            var minutes = map.Operations.SelectMany(o => Three(o.Minutes).Concat(Three(o.CloseMinutes)))
                .Concat(map.RefitSteps.SelectMany(s => Three(s.Minutes))).Concat(map.Moves.Select(m => m.Minutes)).Append(map.DefaultMoveMinutes).Append(map.ToolChangeMinutes);
            var decimals = minutes.Max(Decimals);
            Unit = 6 * Power(decimals);
            if (_objective == PlanObjective.Thrifty)
            {
                var money = map.Operations.SelectMany(o => o.Consumes.Select(c => c.Quantity * c.Price).Append(o.Damage.Chance * o.Damage.Cost));
                Unit = 360 * Power(Math.Max(decimals + Decimals(_rate), money.Max(Decimals)));
            }

            // Sums of a thousand hours, or as much money, must still fit; finer differences than that leaves are rounded.
            Unit = Math.Min(Unit, 1_000_000_000_000m);
        }

        public decimal Unit { get; }

        public long Minutes(decimal minutes) => (long)decimal.Round(_objective == PlanObjective.Fastest ? minutes * Unit : minutes * _rate * Unit / 60m);

        public long Mean(Minutes m) => Minutes(m.Low + 4 * m.Likely + m.High) is var six && six % 6 == 0 ? six / 6 : Minutes(m.Mean);

        public long Money(Operation o) => _objective == PlanObjective.Fastest ? 0 : (long)decimal.Round((o.Damage.Chance * o.Damage.Cost + o.Consumes.Sum(c => c.Quantity * c.Price)) * Unit);

        private static IEnumerable<decimal> Three(Minutes m) => [m.Low, m.Likely, m.High];

        private static int Decimals(decimal value) => (value / 1.0000000000000000000000000000m).Scale;

        private static decimal Power(int decimals) => Enumerable.Range(0, Math.Min(decimals, 9)).Aggregate(1m, (p, _) => p * 10);
    }
}
