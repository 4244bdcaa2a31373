using Google.OrTools.Sat;
using Screeline.Core.Access;

namespace Screeline.CpSat;

/// <summary>What CP-SAT found: the best walk's minutes, a bound, whether they meet, and how long it took.</summary>
public sealed record Reference(double? Best, double Bound, bool Proven, double Seconds);

/// <summary>
/// The problem in the words of docs/formats.md, for CP-SAT: one circuit from the start over the operations done, the target
/// last of them, then everything that is closed again and the refit steps. Each action has a rank on the circuit; needs and
/// conditions of closing are clauses over "is there and comes earlier (later)". By hand, what is in hand is handed on.
/// </summary>
public static class WalkModel
{
    private const int Unit = 600;

    public static Reference Solve(AccessMap map, double seconds, int workers)
    {
        var model = new CpModel();
        var target = map.Targets[0].Operation;
        var operations = map.Operations.ToList();
        var index = operations.Select((o, i) => (o.Id, i)).ToDictionary(x => x.Id, x => x.i);
        var present = operations.Select(o => o.Id == target ? (ILiteral)model.TrueLiteral() : model.NewBoolVar($"in {o.Id}")).ToList();
        var nodes = new List<Node>();
        var removal = operations.Select((o, i) => Add(new Node(o.Id, o.Position, o.Tools.FirstOrDefault(), Time(o.Minutes), present[i], 0))).ToList();
        var closing = operations.Select((o, i) => o.Kind == OperationKind.Open ? Add(new Node(o.Id, o.Position, o.Tools.FirstOrDefault(), Time(o.CloseMinutes), present[i], 1)) : null).ToList();
        var steps = map.RefitSteps.Select(s => Add(new Node(s.Id, s.Position, s.Tools.FirstOrDefault(), Time(s.Minutes), s.AppliesIf is null ? model.TrueLiteral() : present[index[s.AppliesIf]], 1))).ToList();
        Node Add(Node node)
        {
            nodes.Add(node);
            return node;
        }

        long Time(Minutes m) => (long)((m.Low + 4 * m.Likely + m.High) * Unit / 6);
        var rank = nodes.Select(n => model.NewIntVar(1, nodes.Count, $"rank {n.Id}{n.Part}")).ToList();
        var at = nodes.Select((n, i) => (n, i)).ToDictionary(x => x.n, x => x.i);
        var tools = nodes.Where(n => n.Tool is not null).Select(n => n.Tool!).Distinct().ToList();
        // What is in hand after an action by hand: one of the tools, or still none (the last).
        var held = nodes.Select(n => n.Tool is null ? Enumerable.Range(0, tools.Count + 1).Select(t => model.NewBoolVar($"held {n.Id}{n.Part} {t}")).ToList() : null).ToList();
        foreach (var h in held.Where(h => h is not null))
        {
            model.AddExactlyOne(h!);
        }

        var changed = nodes.Select(n => n.Tool is null ? null : model.NewBoolVar($"change {n.Id}{n.Part}")).ToList();
        var circuit = model.AddCircuit();
        var cost = LinearExpr.NewBuilder();
        var motor = removal[index[target]];
        for (var i = -1; i < nodes.Count; i++)
        {
            if (i >= 0 && nodes[i].Present is BoolVar maybe)
            {
                circuit.AddArc(i + 1, i + 1, maybe.Not());
            }

            for (var j = 0; j < nodes.Count; j++)
            {
                var from = i < 0 ? null : nodes[i];
                var to = nodes[j];
                var allowed = from == to ? false
                    : from is null ? to.Part == 0
                    : from == motor ? to.Part == 1
                    : from.Part == to.Part;
                if (!allowed)
                {
                    continue;
                }

                var arc = model.NewBoolVar($"{i} {j}");
                circuit.AddArc(i + 1, j + 1, arc);
                var price = (long)(map.MoveMinutes(from?.Position ?? map.StartPosition, to.Position) * Unit);
                if (from is null)
                {
                    if (to.Tool is null)
                    {
                        model.AddImplication(arc, held[j]![tools.Count]);
                    }
                }
                else
                {
                    model.Add(rank[j] >= rank[i] + 1).OnlyEnforceIf(arc);
                    if (from.Tool is not null && to.Tool is not null)
                    {
                        price += from.Tool == to.Tool ? 0 : (long)(map.ToolChangeMinutes * Unit);
                    }
                    else if (from.Tool is not null)
                    {
                        model.AddImplication(arc, held[j]![tools.IndexOf(from.Tool)]);
                    }
                    else if (to.Tool is null)
                    {
                        for (var t = 0; t <= tools.Count; t++)
                        {
                            model.AddBoolOr([arc.Not(), held[i]![t].Not(), held[j]![t]]);
                        }
                    }
                    else
                    {
                        model.AddBoolOr([arc.Not(), held[i]![tools.IndexOf(to.Tool)], held[i]![tools.Count], changed[j]!]);
                    }
                }

                if (price > 0)
                {
                    cost.AddTerm(arc, price);
                }
            }

            if (i >= 0 && (nodes[i].Part == 1 || nodes[i] == motor))
            {
                circuit.AddArc(i + 1, 0, model.NewBoolVar($"{i} home"));
            }
        }

        foreach (var c in changed.Where(c => c is not null))
        {
            cost.AddTerm(c!, (long)(map.ToolChangeMinutes * Unit));
        }

        foreach (var node in nodes)
        {
            cost.AddTerm(node.Present is BoolVar v ? v : (BoolVar)node.Present, node.Minutes);
        }

        for (var i = 0; i < operations.Count; i++)
        {
            var me = i;
            Demand(present[i], operations[i].Needs, x => Earlier(removal[index[x]], removal[me], x == operations[me].Id));
            if (closing[i] is { } close)
            {
                Demand(present[i], operations[i].CloseWhile, x => x == operations[me].Id ? model.FalseLiteral()
                    : closing[index[x]] is { } other ? Earlier(close, other, false, present[index[x]])
                    : present[index[x]]);
            }
        }

        for (var s = 0; s < steps.Count; s++)
        {
            foreach (var (name, first) in map.RefitSteps[s].After.Select(a => (a, true)).Concat(map.RefitSteps[s].Before.Select(b => (b, false))))
            {
                var other = index.TryGetValue(name, out var o) ? closing[o] : steps[map.RefitSteps.ToList().FindIndex(x => x.Id == name)];
                if (other is not null && other != steps[s])
                {
                    var (earlier, later) = first ? (other, steps[s]) : (steps[s], other);
                    model.Add(rank[at[later]] >= rank[at[earlier]] + 1).OnlyEnforceIf([earlier.Present, later.Present]);
                }
            }
        }

        model.Minimize(cost);
        var solver = new CpSolver { StringParameters = FormattableString.Invariant($"max_time_in_seconds:{seconds},num_workers:{workers}") };
        var watch = System.Diagnostics.Stopwatch.StartNew();
        var status = solver.Solve(model);
        return new Reference(
            status is CpSolverStatus.Optimal or CpSolverStatus.Feasible ? solver.ObjectiveValue / Unit : null,
            solver.BestObjectiveBound / Unit, status == CpSolverStatus.Optimal, watch.Elapsed.TotalSeconds);

        // Both are there and the first comes earlier.
        ILiteral Earlier(Node first, Node second, bool same, ILiteral? there = null)
        {
            if (same)
            {
                return model.FalseLiteral();
            }

            var literal = model.NewBoolVar("");
            model.AddImplication(literal, there ?? first.Present);
            model.Add(rank[at[second]] >= rank[at[first]] + 1).OnlyEnforceIf(literal);
            return literal;
        }

        void Demand(ILiteral when, Needs needs, Func<string, ILiteral> holds)
        {
            switch (needs)
            {
                case Needs.One one:
                    model.AddImplication(when, holds(one.Operation));
                    break;
                case Needs.All all:
                    foreach (var part in all.Of)
                    {
                        Demand(when, part, holds);
                    }

                    break;
                case Needs.Any any:
                    var ways = any.Of.Select(_ => model.NewBoolVar("")).ToList();
                    model.AddBoolOr([when.Not(), .. ways]);
                    foreach (var (way, part) in ways.Zip(any.Of))
                    {
                        Demand(way, part, holds);
                    }

                    break;
            }
        }
    }

    private sealed record Node(string Id, string Position, string? Tool, long Minutes, ILiteral Present, int Part);
}
