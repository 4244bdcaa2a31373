using MathNet.Numerics.LinearAlgebra;

namespace Screeline.Core.Circuits;

/// <summary>
/// Solves circuits by nodal analysis: the sum of currents at each node is zero, solved by Newton's method with a line search
/// (Nagel, SPICE2, 1975, chapters 3 and 4, from memory). Relays and fuses are settled around it: solve, see what pulls in, lets
/// go or blows, solve again.
/// </summary>
public static class Solver
{
    private const int MostSteps = 400;
    private const int MostStates = 64;

    // Every node leaks a little to ground, so that one cut off by open switches still has a voltage: 100 gigohm, ten thousand
    // times what a meter draws.
    private const double Leak = 1e-11;

    // Currents that balance to ten picoampere are balanced: behind them no instrument can tell voltages apart.
    private const double Balanced = 1e-11;

    /// <summary>Solves a circuit.</summary>
    /// <exception cref="NotSolvedException">No steady state was found.</exception>
    /// <exception cref="ArgumentException">Two parts share an id.</exception>
    public static Solution Solve(Network network)
    {
        var ids = network.Elements.Select(e => e.Id).Concat(network.Relays.Select(r => r.Id)).Concat(network.Fuses.Select(f => f.Id)).ToList();
        if (ids.GroupBy(id => id, StringComparer.Ordinal).FirstOrDefault(g => g.Count() > 1) is { } twice)
        {
            throw new ArgumentException($"“{twice.Key}” is used twice.", nameof(network));
        }

        var (pulled, blown) = (new HashSet<string>(StringComparer.Ordinal), new HashSet<string>(StringComparer.Ordinal));
        var seen = new Dictionary<string, Solution>(StringComparer.Ordinal);
        for (var i = 0; i < MostStates; i++)
        {
            var solution = SolveState(network, pulled, blown, new HashSet<string>());
            var state = string.Join(' ', pulled.Order(StringComparer.Ordinal)) + "|" + string.Join(' ', blown.Order(StringComparer.Ordinal));
            if (!seen.TryAdd(state, solution))
            {
                return Chatter(network, seen.Values, blown);
            }

            // A fuse that blows stays blown; contacts follow their coils.
            if (network.Fuses.Where(f => !blown.Contains(f.Id) && Math.Abs(solution.Current(f.Id)) > Fuse.BlowsAt * f.RatedAmperes).ToList() is { Count: > 0 } blows)
            {
                blown.UnionWith(blows.Select(f => f.Id));
                continue;
            }

            var next = network.Relays.Where(r => Math.Abs(solution.Between(r.CoilFrom, r.CoilTo)) >= (pulled.Contains(r.Id) ? r.HoldInVolts : r.PullInVolts)).Select(r => r.Id).ToHashSet(StringComparer.Ordinal);
            if (next.SetEquals(pulled))
            {
                return solution;
            }

            pulled = next;
        }

        throw new NotSolvedException("Relays and fuses found no rest.");
    }

    // The states went round in a circle: the relays that differ between them chatter.
    private static Solution Chatter(Network network, IEnumerable<Solution> states, HashSet<string> blown)
    {
        var all = states.ToList();
        var restless = network.Relays.Select(r => r.Id).Where(id => all.Any(s => s.PulledIn.Contains(id)) && all.Any(s => !s.PulledIn.Contains(id))).ToHashSet(StringComparer.Ordinal);
        var closed = all.SelectMany(s => s.PulledIn).ToHashSet(StringComparer.Ordinal);
        return SolveState(network, closed, blown, restless);
    }

    private static Solution SolveState(Network network, HashSet<string> pulled, HashSet<string> blown, IReadOnlySet<string> chattering)
    {
        List<Element> elements =
        [
            .. network.Elements,
            .. network.Relays.SelectMany(r => new Element[] { new Resistor($"{r.Id}.coil", r.CoilFrom, r.CoilTo, r.CoilOhms), new Switch($"{r.Id}.contact", r.ContactFrom, r.ContactTo, pulled.Contains(r.Id), r.ContactOhms) }),
            .. network.Fuses.Select(f => new Switch(f.Id, f.From, f.To, !blown.Contains(f.Id), f.Ohms)),
        ];
        var index = elements.SelectMany(e => e.Nodes).Where(n => n != Network.Ground).Distinct(StringComparer.Ordinal).Select((n, i) => (n, i)).ToDictionary(x => x.n, x => x.i, StringComparer.Ordinal);
        var parts = elements.Select(e => new Part(e, [.. e.Nodes.Select(n => n == Network.Ground ? -1 : index[n])])).ToList();
        var voltages = Newton(parts, index.Count);
        var currents = parts.ToDictionary(p => p.Element.Id, p => p.Evaluate(voltages)[0], StringComparer.Ordinal);
        return new Solution(index.ToDictionary(x => x.Key, x => voltages[x.Value], StringComparer.Ordinal), currents, pulled.ToHashSet(StringComparer.Ordinal), blown.ToHashSet(StringComparer.Ordinal), chattering);
    }

    private static double[] Newton(List<Part> parts, int nodes)
    {
        var v = new double[nodes];
        var (residual, jacobian) = Assemble(parts, v);
        for (var step = 0; step < MostSteps; step++)
        {
            var delta = jacobian.LU().Solve(-residual);
            if (delta.Any(d => !double.IsFinite(d)))
            {
                break;
            }

            // Half the step until the currents balance better; at first a long way off, no more than 5 V at a time.
            var scale = Math.Min(1, 5 / Math.Max(1e-300, delta.AbsoluteMaximum()));
            var norm = residual.L2Norm();
            double[] trial;
            while (true)
            {
                trial = [.. v.Select((x, i) => x + scale * delta[i])];
                var (r, j) = Assemble(parts, trial);
                if (r.L2Norm() <= norm * (1 - 1e-4 * scale) || scale < 1e-4 || r.L2Norm() < 1e-12)
                {
                    (residual, jacobian) = (r, j);
                    break;
                }

                scale /= 2;
            }

            var moved = scale * delta.AbsoluteMaximum();
            v = trial;
            if (residual.AbsoluteMaximum() < Balanced || (moved < 1e-9 * (1 + v.Select(Math.Abs).DefaultIfEmpty(0).Max()) && residual.AbsoluteMaximum() < 1e-6))
            {
                return v;
            }
        }

        throw new NotSolvedException($"Newton's method did not settle: {residual.AbsoluteMaximum():g3} A are left over.");
    }

    private static (Vector<double> Residual, Matrix<double> Jacobian) Assemble(List<Part> parts, double[] v)
    {
        var residual = Vector<double>.Build.Dense(v.Length);
        var jacobian = Matrix<double>.Build.Dense(v.Length, v.Length);
        for (var i = 0; i < v.Length; i++)
        {
            residual[i] = Leak * v[i];
            jacobian[i, i] = Leak;
        }

        foreach (var part in parts)
        {
            var currents = part.Evaluate(v);
            for (var row = 0; row < part.Nodes.Length; row++)
            {
                if (part.Nodes[row] < 0)
                {
                    continue;
                }

                residual[part.Nodes[row]] += currents[row];
                for (var column = 0; column < part.Nodes.Length; column++)
                {
                    if (part.Nodes[column] >= 0)
                    {
                        jacobian[part.Nodes[row], part.Nodes[column]] += part.Conductances[row, column];
                    }
                }
            }
        }

        return (residual, jacobian);
    }

    // An element with its nodes as places in the vector of unknowns, -1 for ground.
    private sealed class Part(Element element, int[] nodes)
    {
        private readonly double[] _voltages = new double[nodes.Length];
        private readonly double[] _currents = new double[nodes.Length];

        public Element Element => element;

        public int[] Nodes => nodes;

        public double[,] Conductances { get; } = new double[nodes.Length, nodes.Length];

        public double[] Evaluate(double[] v)
        {
            for (var i = 0; i < nodes.Length; i++)
            {
                _voltages[i] = nodes[i] < 0 ? 0 : v[nodes[i]];
            }

            element.Evaluate(_voltages, _currents, Conductances);
            return _currents;
        }
    }
}
