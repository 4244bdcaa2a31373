namespace Screeline.Core.Circuits;

/// <summary>
/// Solves circuits by nodal analysis: the sum of currents at each node is zero, solved by Newton's method with a line search
/// (Nagel, SPICE2, 1975, chapters 3 and 4, from memory). Nodes where only ohmic parts meet are taken out before
/// (<see cref="StarMesh"/>), so that Newton's method sees no more than the ends of motors, lamps, diodes and drives. Relays and fuses
/// are settled around it: solve, see what pulls in, lets go or blows, solve again.
/// </summary>
public static class Solver
{
    /// <summary>How many states of relays and fuses are looked at before a circuit is given up.</summary>
    internal const int MostStates = 64;

    private const int MostSteps = 200;

    // Every node leaks a little to ground, so that one cut off by open switches still has a voltage: 100 gigohm, ten thousand
    // times what a meter draws.
    private const double Leak = 1e-11;

    // Currents that balance to ten picoampere are balanced: behind them no instrument can tell voltages apart.
    private const double Balanced = 1e-11;

    // Share of the voltages that may be left to go.
    private const double Near = 1e-8;

    // A step that leaves more than this share of the imbalance does little.
    private const double Little = 0.5;

    /// <summary>Solves a circuit.</summary>
    /// <param name="network">The circuit.</param>
    /// <param name="alreadyBlown">Fuses that blew before, in another operating state.</param>
    /// <param name="blowsAt">Share of their rating above which fuses blow.</param>
    /// <exception cref="NotSolvedException">No steady state was found.</exception>
    /// <exception cref="ArgumentException">Two parts share an id, or there are more than 64 relays and fuses.</exception>
    public static Solution Solve(Network network, IReadOnlySet<string>? alreadyBlown = null, double blowsAt = Fuse.BlowsAt) =>
        Solve(new Circuit(network), new Known(), [.. network.Fuses.Select(f => alreadyBlown is not null && alreadyBlown.Contains(f.Id))], blowsAt, false);

    /// <summary>Solves a circuit that has its values.</summary>
    /// <param name="circuit">The circuit; at most 64 relays and fuses.</param>
    /// <param name="known">Where the search begins, never what it ends with. Gets what was not known.</param>
    /// <param name="blown">By fuse: whether it blew before. Becomes the solution's.</param>
    /// <param name="blowsAt">Share of their rating above which fuses blow.</param>
    /// <param name="learn">Whether what was known is forgotten for what is found; else the circuit is the one learned last, but for what was changed in it.</param>
    /// <exception cref="NotSolvedException">No steady state was found.</exception>
    internal static Solution Solve(Circuit circuit, Known known, bool[] blown, double blowsAt, bool learn)
    {
        // Arrays are used again: this is done a hundred thousand times for a table.
        var (pulled, guess, seen) = (circuit.Pulled, circuit.NoVolts, circuit.Seen);
        Array.Clear(pulled);
        var borne = 0.0;
        if (learn)
        {
            known.PassNothing();
        }

        for (var i = 0; i < MostStates; i++)
        {
            // What was changed carries nothing as long as contacts are open, mostly: they do then as they did before.
            var key = Key(pulled, blown);
            var passed = learn ? null : known.Passed(key);
            if (passed is null || !circuit.IsAlike(passed))
            {
                passed = null;
                guess = SolveState(circuit, pulled, blown, guess, known, learn);
            }

            var voltages = passed ?? circuit.All(guess);
            if (seen.AsSpan(0, i).Contains(key))
            {
                return Restless(circuit, seen.AsSpan(0, i), blown, borne, guess, known, learn);
            }

            // A fuse that blows stays blown; contacts follow their coils.
            var blows = false;
            for (var f = 0; f < blown.Length; f++)
            {
                var load = blown[f] ? 0 : Math.Abs(circuit.CurrentOfFuse(f, voltages)) / circuit.Fuses[f].RatedAmperes;
                if (load > blowsAt)
                {
                    (blown[f], blows) = (true, true);
                }
                else
                {
                    borne = Math.Max(borne, load);
                }
            }

            if (!blows && !Follow(circuit, voltages, pulled))
            {
                return new Solution(circuit, voltages, pulled, blown, circuit.NoRelays, borne);
            }

            if (learn)
            {
                known.Pass(key, voltages);
            }

            seen[i] = key;
        }

        throw new NotSolvedException("Relays and fuses found no rest.");
    }

    // Contacts do as their coils want; false when none moves.
    private static bool Follow(Circuit circuit, double[] voltages, bool[] pulled)
    {
        var moved = false;
        for (var r = 0; r < pulled.Length; r++)
        {
            var relay = circuit.Relays[r];
            var pulls = Math.Abs(circuit.VoltageOfCoil(r, voltages)) >= (pulled[r] ? relay.HoldInVolts : relay.PullInVolts);
            moved |= pulls != pulled[r];
            pulled[r] = pulls;
        }

        return moved;
    }

    // The states went round in a circle: the relays that differ between them chatter.
    private static Solution Restless(Circuit circuit, ReadOnlySpan<ulong> seen, bool[] blown, double borne, double[] guess, Known known, bool learn)
    {
        var (closed, restless) = (circuit.Pulled, new bool[circuit.Pulled.Length]);
        Array.Clear(closed);
        for (var r = 0; r < closed.Length; r++)
        {
            // As the key has it: fuses last, before them the last relay.
            var bit = 1UL << (blown.Length + closed.Length - 1 - r);
            foreach (var state in seen)
            {
                closed[r] |= (state & bit) != 0;
                restless[r] |= (state & bit) == 0;
            }

            restless[r] &= closed[r];
        }

        return new Solution(circuit, circuit.All(SolveState(circuit, closed, blown, guess, known, learn)), closed, blown, restless, borne);
    }

    // One bit for each.
    private static ulong Key(bool[] pulled, bool[] blown)
    {
        var key = 0UL;
        foreach (var on in pulled)
        {
            key = key << 1 | (on ? 1UL : 0);
        }

        foreach (var on in blown)
        {
            key = key << 1 | (on ? 1UL : 0);
        }

        return key;
    }

    private static double[] SolveState(Circuit circuit, bool[] pulled, bool[] blown, double[] guess, Known known, bool learn)
    {
        circuit.Set(pulled, blown);
        circuit.Reduce(Leak);
        var key = Key(pulled, blown);
        var found = Newton(circuit, known.Start(key) ?? guess) ?? ByLeaks(circuit);
        known.Keep(key, found, circuit.Newton.Steps, learn);
        return found;
    }

    // Kinks (a source at its limit, a motor that breaks loose) can send Newton's method to and fro. With large leaks to ground the
    // circuit is tame; they are taken away step by step (gmin stepping; Nagel, SPICE2, 1975, from memory).
    private static double[] ByLeaks(Circuit circuit)
    {
        var v = new double[circuit.KeptCount];
        for (var leak = 1.0; leak > Leak; leak /= 4)
        {
            circuit.Reduce(leak);
            Newton(circuit, v)?.CopyTo(v, 0);
        }

        circuit.Reduce(Leak);
        return Newton(circuit, v) ?? throw new NotSolvedException("Newton's method did not settle.");
    }

    // Null when it does not settle; else what the next search overwrites.
    private static double[]? Newton(Circuit circuit, double[] start)
    {
        var (n, room) = (circuit.KeptCount, circuit.Newton);
        var (residual, delta, jacobian) = (room.Residual, room.Delta, room.Jacobian);
        start.CopyTo(room.Voltages, 0);
        circuit.Assemble(room.Voltages);
        var (norm, off) = (Norm(residual), Off(residual, jacobian));
        for (var step = 0; step < MostSteps; step++)
        {
            room.Steps = step;
            if (IsBalanced(room.Voltages, residual, jacobian))
            {
                return room.Voltages;
            }

            for (var i = 0; i < n; i++)
            {
                delta[i] = -residual[i];
            }

            room.Solve(1, delta);
            var most = Most(delta);
            if (!double.IsFinite(most))
            {
                break;
            }

            // At first a long way off, no more than 5 V at a time. A step that makes little difference ends at the first bend on its way;
            // then half of it until the currents balance better. A search that goes to and fro between two sides of a kink gets there
            // in shorter steps.
            var (scale, v, trial, before, looked) = (Math.Min(step < 60 ? 1 : step < 150 ? 0.5 : 0.2, 5 / Math.Max(1e-300, most)), room.Voltages, room.Trial, norm, false);
            while (true)
            {
                for (var i = 0; i < n; i++)
                {
                    trial[i] = v[i] + scale * delta[i];
                }

                circuit.Assemble(trial);
                norm = Norm(residual);
                if (!looked && norm > Little * before && circuit.ToBend(v, delta) is var bend && bend < scale)
                {
                    (scale, looked) = (bend, true);
                    continue;
                }

                if (norm <= before * (1 - 1e-4 * scale) || scale < 1e-4 || norm < 1e-12)
                {
                    break;
                }

                (scale, looked) = (scale / 2, true);
            }

            // A whole step leaves as much of itself as of what was out of balance. A tenth of a microvolt in 12 V is near enough.
            room.Step();
            (var offBefore, off) = (off, Off(residual, jacobian));
            var left = most * (scale < 1 ? scale : off / offBefore);
            if (left < Near * (1 + Most(room.Voltages)) && Most(residual) < 1e-6)
            {
                return room.Voltages;
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

    // How far the worst node is from where its own currents balance, V.
    private static double Off(double[] residual, double[] jacobian)
    {
        var most = 0.0;
        for (var i = 0; i < residual.Length; i++)
        {
            most = Math.Max(most, Math.Abs(residual[i]) / jacobian[i + residual.Length * i]);
        }

        return most;
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
}

/// <summary>What is known of a circuit from what was solved before, by one bit for each relay and fuse.</summary>
internal sealed class Known
{
    private readonly Dictionary<ulong, double[]> _voltages = [];
    private readonly Dictionary<(int Fault, ulong State), double[]> _own = [];
    private readonly List<(ulong State, double[] Voltages)> _passed = [];
    private int _count;

    /// <summary>
    /// The fault that is in the circuit, by a number: a search begins where that of the vehicle before with the same fault ended. Null
    /// when it is to begin with the sound vehicle.
    /// </summary>
    public int? Fault { get; set; }

    /// <summary>The next search begins with nothing.</summary>
    public void Forget()
    {
        _voltages.Clear();
        _own.Clear();
        PassNothing();
    }

    /// <summary>Where to begin: voltages of the nodes left to Newton's method; null when nothing is known.</summary>
    public double[]? Start(ulong state) =>
        Fault is { } fault && _own.TryGetValue((fault, state), out var own) ? own : _voltages.GetValueOrDefault(state);

    /// <summary>Keeps what was found.</summary>
    /// <param name="state">The state.</param>
    /// <param name="found">Voltages of the nodes left to Newton's method; copied.</param>
    /// <param name="steps">Steps it took. In one, the sound vehicle is as good a beginning as any.</param>
    /// <param name="learn">Whether it is the sound vehicle's.</param>
    public void Keep(ulong state, double[] found, int steps, bool learn)
    {
        if (!_voltages.TryGetValue(state, out var sound))
        {
            _voltages.Add(state, [.. found]);
        }
        else if (learn)
        {
            found.CopyTo(sound, 0);
        }
        else if (Fault is { } fault)
        {
            if (_own.TryGetValue((fault, state), out var own))
            {
                found.CopyTo(own, 0);
            }
            else if (steps > 0)
            {
                _own.Add((fault, state), [.. found]);
            }
        }
    }

    /// <summary>No state was passed.</summary>
    public void PassNothing() => _count = 0;

    /// <summary>Keeps a state that contacts and fuses left again.</summary>
    /// <param name="state">The state.</param>
    /// <param name="voltages">Of all nodes; copied.</param>
    public void Pass(ulong state, double[] voltages)
    {
        if (_count == _passed.Count)
        {
            _passed.Add((state, [.. voltages]));
        }
        else
        {
            voltages.CopyTo(_passed[_count].Voltages, 0);
            _passed[_count] = (state, _passed[_count].Voltages);
        }

        _count++;
    }

    /// <summary>The voltages of all nodes in a state that was passed; null when it was not.</summary>
    public double[]? Passed(ulong state)
    {
        for (var k = 0; k < _count; k++)
        {
            if (_passed[k].State == state)
            {
                return _passed[k].Voltages;
            }
        }

        return null;
    }
}
