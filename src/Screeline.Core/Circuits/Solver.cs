using MathNet.Numerics.Providers.LinearAlgebra;

namespace Screeline.Core.Circuits;

/// <summary>
/// What was found before in circuits of the same shape: voltages by the state of relays and fuses, where the search begins and
/// never what it ends with; and the numbering of the nodes. Not for two threads at once, and a solution found with it must be
/// read before the next one is asked for.
/// </summary>
public sealed class WarmStart
{
    internal Solver.Assembled? Circuit { get; set; }

    internal Dictionary<string, double[]> Voltages { get; } = new(StringComparer.Ordinal);
}

/// <summary>
/// Solves circuits by nodal analysis: the sum of currents at each node is zero, solved by Newton's method with a line search
/// (Nagel, SPICE2, 1975, chapters 3 and 4, from memory). Relays and fuses are settled around it: solve, see what pulls in, lets
/// go or blows, solve again.
/// </summary>
public static class Solver
{
    private const int MostSteps = 200;
    private const int MostStates = 64;

    // Every node leaks a little to ground, so that one cut off by open switches still has a voltage: 100 gigohm, ten thousand
    // times what a meter draws.
    private const double Leak = 1e-11;

    // Currents that balance to ten picoampere are balanced: behind them no instrument can tell voltages apart.
    private const double Balanced = 1e-11;

    /// <summary>Solves a circuit.</summary>
    /// <param name="network">The circuit.</param>
    /// <param name="warm">Where to begin; null to begin with nothing.</param>
    /// <param name="alreadyBlown">Fuses that blew before, in another operating state.</param>
    /// <exception cref="NotSolvedException">No steady state was found.</exception>
    /// <exception cref="ArgumentException">Two parts share an id.</exception>
    public static Solution Solve(Network network, WarmStart? warm = null, IReadOnlySet<string>? alreadyBlown = null)
    {
        var circuit = warm?.Circuit is { } before && before.TryTake(network) ? before : new Assembled(network);
        if (warm is not null)
        {
            warm.Circuit = circuit;
        }

        var pulled = new bool[network.Relays.Count];
        var blown = network.Fuses.Select(f => alreadyBlown is not null && alreadyBlown.Contains(f.Id)).ToArray();
        var seen = new Dictionary<string, bool[]>(StringComparer.Ordinal);
        var guess = new double[circuit.NodeCount];
        for (var i = 0; i < MostStates; i++)
        {
            guess = SolveState(circuit, pulled, blown, guess, warm);
            if (!seen.TryAdd(Key(pulled, blown), pulled))
            {
                // The states went round in a circle: the relays that differ between them chatter.
                var closed = pulled.Select((_, r) => seen.Values.Any(s => s[r])).ToArray();
                var restless = pulled.Select((_, r) => closed[r] && seen.Values.Any(s => !s[r])).ToArray();
                return circuit.Told(SolveState(circuit, closed, blown, guess, warm), closed, blown, restless);
            }

            // A fuse that blows stays blown; contacts follow their coils.
            var blows = false;
            for (var f = 0; f < blown.Length; f++)
            {
                if (!blown[f] && Math.Abs(circuit.CurrentOfFuse(f, guess)) > Fuse.BlowsAt * network.Fuses[f].RatedAmperes)
                {
                    (blown[f], blows) = (true, true);
                }
            }

            if (blows)
            {
                continue;
            }

            var next = new bool[pulled.Length];
            for (var r = 0; r < next.Length; r++)
            {
                var relay = network.Relays[r];
                next[r] = Math.Abs(circuit.Voltage(relay.CoilFrom, guess) - circuit.Voltage(relay.CoilTo, guess)) >= (pulled[r] ? relay.HoldInVolts : relay.PullInVolts);
            }

            if (next.AsSpan().SequenceEqual(pulled))
            {
                return circuit.Told(guess, pulled, blown, new bool[pulled.Length]);
            }

            pulled = next;
        }

        throw new NotSolvedException("Relays and fuses found no rest.");
    }

    private static string Key(bool[] pulled, bool[] blown) => string.Create(pulled.Length + blown.Length, (pulled, blown), (span, x) =>
    {
        for (var i = 0; i < span.Length; i++)
        {
            span[i] = (i < x.pulled.Length ? x.pulled[i] : x.blown[i - x.pulled.Length]) ? '1' : '0';
        }
    });

    private static double[] SolveState(Assembled circuit, bool[] pulled, bool[] blown, double[] guess, WarmStart? warm)
    {
        circuit.Set(pulled, blown);
        var key = warm is null ? "" : Key(pulled, blown);
        var start = warm is not null && warm.Voltages.TryGetValue(key, out var before) && before.Length == guess.Length ? before : guess;
        var found = Newton(circuit, start, Leak) ?? ByLeaks(circuit);
        warm?.Voltages[key] = found;
        return found;
    }

    // Kinks (a source at its limit, a motor that breaks loose) can send Newton's method to and fro. With large leaks to ground the
    // circuit is tame; they are taken away step by step (gmin stepping; Nagel, SPICE2, 1975, from memory).
    private static double[] ByLeaks(Assembled circuit)
    {
        var v = new double[circuit.NodeCount];
        for (var leak = 1.0; leak > Leak; leak /= 4)
        {
            v = Newton(circuit, v, leak) ?? v;
        }

        return Newton(circuit, v, Leak) ?? throw new NotSolvedException("Newton's method did not settle.");
    }

    // Null when it does not settle.
    private static double[]? Newton(Assembled circuit, double[] start, double leak)
    {
        var n = circuit.NodeCount;
        var provider = LinearAlgebraControl.Provider;
        var (v, trial) = ((double[])start.Clone(), new double[n]);
        var (residual, delta) = (new double[n], new double[n]);
        var (jacobian, pivots) = (new double[n * n], new int[n]);
        circuit.Assemble(v, residual, jacobian, leak);
        for (var step = 0; step < MostSteps; step++)
        {
            if (IsBalanced(v, residual, jacobian))
            {
                return v;
            }

            for (var i = 0; i < n; i++)
            {
                delta[i] = -residual[i];
            }

            provider.LUFactor(jacobian, n, pivots);
            provider.LUSolveFactored(1, jacobian, n, pivots, delta);
            if (!Array.TrueForAll(delta, double.IsFinite))
            {
                break;
            }

            // Half the step until the currents balance better; at first a long way off, no more than 5 V at a time.
            // A search that goes to and fro between two sides of a kink gets there in shorter steps.
            var scale = Math.Min(step < 60 ? 1 : step < 150 ? 0.5 : 0.2, 5 / Math.Max(1e-300, Most(delta)));
            var norm = Norm(residual);
            while (true)
            {
                for (var i = 0; i < n; i++)
                {
                    trial[i] = v[i] + scale * delta[i];
                }

                circuit.Assemble(trial, residual, jacobian, leak);
                var balance = Norm(residual);
                if (balance <= norm * (1 - 1e-4 * scale) || scale < 1e-4 || balance < 1e-12)
                {
                    break;
                }

                scale /= 2;
            }

            var moved = scale * Most(delta);
            (v, trial) = (trial, v);
            if (moved < 1e-9 * (1 + Most(v)) && Most(residual) < 1e-6)
            {
                return v;
            }
        }

        return null;
    }

    // At a node of thick cables the last digit of its voltage is worth more than ten picoampere: there rounding is the measure.
    private static bool IsBalanced(double[] v, double[] residual, double[] jacobian)
    {
        var n = v.Length;
        for (var i = 0; i < n; i++)
        {
            if (!(Math.Abs(residual[i]) <= Balanced + 1e-14 * jacobian[i + n * i] * (1 + Math.Abs(v[i]))))
            {
                return false;
            }
        }

        return true;
    }

    private static double Most(double[] x)
    {
        var most = 0.0;
        foreach (var value in x)
        {
            most = Math.Max(most, Math.Abs(value));
        }

        return most;
    }

    private static double Norm(double[] x)
    {
        var sum = 0.0;
        foreach (var value in x)
        {
            sum += value * value;
        }

        return Math.Sqrt(sum);
    }

    /// <summary>A circuit with its nodes numbered; contacts and fuses can be set between solutions.</summary>
    internal sealed class Assembled
    {
        private Network _network;
        private readonly Dictionary<string, int> _index = new(StringComparer.Ordinal) { [Network.Ground] = -1 };
        private readonly Dictionary<string, Part> _parts = new(StringComparer.Ordinal);
        private readonly List<Part> _inOrder = [];

        public Assembled(Network network)
        {
            _network = network;
            foreach (var element in network.Elements)
            {
                Add(element.Id, element);
            }

            foreach (var relay in network.Relays)
            {
                Add($"{relay.Id}.coil", new Resistor($"{relay.Id}.coil", relay.CoilFrom, relay.CoilTo, relay.CoilOhms));
                Add($"{relay.Id}.contact", new Switch($"{relay.Id}.contact", relay.ContactFrom, relay.ContactTo, false, relay.ContactOhms));
            }

            foreach (var fuse in network.Fuses)
            {
                Add(fuse.Id, new Switch(fuse.Id, fuse.From, fuse.To, true, fuse.Ohms));
            }
        }

        public int NodeCount => _index.Count - 1;

        /// <summary>Takes another network of the same shape: the same parts between the same nodes. False when it is not.</summary>
        public bool TryTake(Network network)
        {
            if (network.Elements.Count != _network.Elements.Count || network.Relays.Count != _network.Relays.Count || network.Fuses.Count != _network.Fuses.Count)
            {
                return false;
            }

            for (var e = 0; e < network.Elements.Count; e++)
            {
                var (now, then) = (network.Elements[e], _network.Elements[e]);
                if (now.Id != then.Id || !now.Nodes.SequenceEqual(then.Nodes))
                {
                    return false;
                }
            }

            for (var r = 0; r < network.Relays.Count; r++)
            {
                if (network.Relays[r] is var relay && (relay.Id, relay.CoilFrom, relay.CoilTo, relay.ContactFrom, relay.ContactTo) != (_network.Relays[r].Id, _network.Relays[r].CoilFrom, _network.Relays[r].CoilTo, _network.Relays[r].ContactFrom, _network.Relays[r].ContactTo))
                {
                    return false;
                }
            }

            for (var f = 0; f < network.Fuses.Count; f++)
            {
                if ((network.Fuses[f].Id, network.Fuses[f].From, network.Fuses[f].To) != (_network.Fuses[f].Id, _network.Fuses[f].From, _network.Fuses[f].To))
                {
                    return false;
                }
            }

            _network = network;
            var at = 0;
            foreach (var element in network.Elements)
            {
                _inOrder[at++].Element = element;
            }

            foreach (var relay in network.Relays)
            {
                _inOrder[at++].Element = new Resistor($"{relay.Id}.coil", relay.CoilFrom, relay.CoilTo, relay.CoilOhms);
                _inOrder[at++].Element = new Switch($"{relay.Id}.contact", relay.ContactFrom, relay.ContactTo, false, relay.ContactOhms);
            }

            foreach (var fuse in network.Fuses)
            {
                _inOrder[at++].Element = new Switch(fuse.Id, fuse.From, fuse.To, true, fuse.Ohms);
            }

            return true;
        }

        public double Voltage(string node, double[] v) => _index[node] is var i && i < 0 ? 0 : v[i];

        public double CurrentOfFuse(int fuse, double[] v) => _parts[_network.Fuses[fuse].Id].Evaluate(v)[0];

        public void Set(bool[] pulled, bool[] blown)
        {
            for (var r = 0; r < pulled.Length; r++)
            {
                SetClosed($"{_network.Relays[r].Id}.contact", pulled[r]);
            }

            for (var f = 0; f < blown.Length; f++)
            {
                SetClosed(_network.Fuses[f].Id, !blown[f]);
            }
        }

        public void Assemble(double[] v, double[] residual, double[] jacobian, double leak = Leak)
        {
            var n = v.Length;
            Array.Clear(jacobian);
            for (var i = 0; i < n; i++)
            {
                residual[i] = leak * v[i];
                jacobian[i + n * i] = leak;
            }

            foreach (var part in _inOrder)
            {
                var currents = part.Evaluate(v);
                for (var row = 0; row < part.Nodes.Length; row++)
                {
                    var at = part.Nodes[row];
                    if (at < 0)
                    {
                        continue;
                    }

                    residual[at] += currents[row];
                    for (var column = 0; column < part.Nodes.Length; column++)
                    {
                        if (part.Nodes[column] >= 0)
                        {
                            jacobian[at + n * part.Nodes[column]] += part.Conductances[row, column];
                        }
                    }
                }
            }
        }

        public Solution Told(double[] v, bool[] pulled, bool[] blown, bool[] restless)
        {
            Set(pulled, blown);
            return new Solution(this, v, (bool[])pulled.Clone(), (bool[])blown.Clone(), restless);
        }

        public IEnumerable<string> Nodes => _index.Keys;

        public bool Knows(string node) => _index.ContainsKey(node);

        public int Index(string node) => _index[node];

        public Network Network => _network;

        public double Current(string element, double[] v) => _parts[element].Evaluate(v)[0];

        private void SetClosed(string id, bool closed)
        {
            var part = _parts[id];
            if (part.Element is Switch s && s.Closed != closed)
            {
                part.Element = s with { Closed = closed };
            }
        }

        private void Add(string id, Element element)
        {
            var nodes = element.Nodes;
            var places = new int[nodes.Count];
            for (var i = 0; i < places.Length; i++)
            {
                if (!_index.TryGetValue(nodes[i], out places[i]))
                {
                    places[i] = _index.Count - 1;
                    _index.Add(nodes[i], places[i]);
                }
            }

            var part = new Part(element, places);
            _inOrder.Add(part);
            if (!_parts.TryAdd(id, part))
            {
                throw new ArgumentException($"“{id}” is used twice.", nameof(element));
            }
        }
    }

    // An element with its nodes as places in the vector of unknowns, -1 for ground.
    private sealed class Part(Element element, int[] nodes)
    {
        private readonly double[] _voltages = new double[nodes.Length];
        private readonly double[] _currents = new double[nodes.Length];

        public Element Element { get; set; } = element;

        public int[] Nodes => nodes;

        public double[,] Conductances { get; } = new double[nodes.Length, nodes.Length];

        public double[] Evaluate(double[] v)
        {
            for (var i = 0; i < nodes.Length; i++)
            {
                _voltages[i] = nodes[i] < 0 ? 0 : v[nodes[i]];
            }

            Element.Evaluate(_voltages, _currents, Conductances);
            return _currents;
        }
    }
}
