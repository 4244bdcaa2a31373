using Screeline.Core.Circuits;

namespace Screeline.Core.Diagnosis;

/// <summary>A system's circuit, ready to be solved for one row of parameters and read with its instruments.</summary>
public sealed class SampledCircuit
{
    private readonly FaultSystem _system;
    // The slots of the temperature and of the controls, and their values by state.
    private readonly int _celsius;
    private readonly int[] _controls;
    private readonly double[][] _switched;
    private readonly OperatingState[] _order;
    // By state in that order: where in a row begins what its solution says.
    private readonly int[] _starts;
    // By state in that order: all that its solution says, and what tests read of it, which is a tenth.
    private readonly (string Quantity, string Id)[][] _everything, _read;
    private readonly Placed[] _placed;
    private readonly (int[] Tests, (string Plus, string Minus)[] Pairs)[] _pairs;
    // By part: its place in the network; and all parts.
    private readonly int[] _places, _all;
    // By part and state: the states in which its controls are as in this one, where this is the first of them; else none.
    private readonly int[][][] _alike;
    // By test: the choice of each rule, or of each way in which a lamp can glow; and its rules.
    private readonly int[][] _choices;
    private readonly Formula[][] _rules;
    private readonly int _volts;

    // A test, what its number is multiplied by and what is added to reach the base unit, and where its instrument is put: its nodes with
    // their slots, or the slot of its current, and that of the resistance behind it.
    private sealed record Placed(FaultTest Test, double Factor, double Offset, string Plus, string Minus, int PlusSlot, int MinusSlot, int CurrentSlot, int OhmsSlot);

    /// <summary>Makes it.</summary>
    public SampledCircuit(FaultSystem system)
    {
        _system = system;
        string[] controls = [.. system.States.SelectMany(s => s.Controls.Keys).Distinct(StringComparer.Ordinal)];
        Slots = FaultSystemReader.SlotsOf(system);
        // What blows when the motor is commanded has blown in every other state as well.
        _order = [.. system.States.OrderByDescending(s => s.Commanded)];
        _starts = [.. _order.Select(s => Slots.Start(s.Id))];
        _celsius = Slots[Slots.Celsius];
        _controls = [.. controls.Select(c => Slots[c])];
        _switched = [.. _order.Select(s => controls.Select(c => s.Controls.GetValueOrDefault(c)).ToArray())];
        _places = CircuitBuilder.Places(system.Circuit);
        _all = [.. Enumerable.Range(0, _places.Length)];
        _alike = [.. system.Circuit.Select(Alike)];
        _placed = [.. system.Tests.Select(Place)];
        _choices = [.. system.Tests.Select(ChoicesOf)];
        _rules = [.. system.Tests.Select(t => t.Rules.Select(r => r.When).ToArray())];
        _volts = Slots.Find(VehicleSetting.Volts, null) ?? -1;
        _pairs = [.. _order.Select(Pairs)];
        var read = Read();
        _everything = [.. _order.Select(s => Slots.Asked(s.Id))];
        _read = [.. _order.Select(s => Slots.Asked(s.Id, read))];
    }

    /// <summary>Where quantities stand in a row.</summary>
    public Slots Slots { get; }

    /// <summary>The network of a row in a state.</summary>
    public Network NetworkOf(double[] row, OperatingState state)
    {
        Switch(row, Array.FindIndex(_order, s => s.Id == state.Id));
        return CircuitBuilder.Build(_system.Circuit, row, row[_celsius]);
    }

    /// <summary>The parts whose values hang on one of these slots.</summary>
    public int[] PartsOf(IReadOnlySet<int> slots) => [.. _all.Where(p => _system.Circuit[p].Values.Any(v => v.Uses.Overlaps(slots)))];

    /// <summary>Solves every operating state and writes what it says into the row; false when one has no solution.</summary>
    /// <param name="row">Temperature and parameters.</param>
    /// <param name="prepared">What sample after sample is solved with, by one thread; null to begin with nothing.</param>
    /// <param name="blowsAt">Share of their rating above which its fuses blow.</param>
    public bool TrySolve(double[] row, PreparedCircuit? prepared = null, double blowsAt = Fuse.BlowsAt)
    {
        prepared ??= new PreparedCircuit();
        try
        {
            if (prepared.States.Length == 0)
            {
                prepared.States = [.. _pairs.Select(pairs => new PreparedState(new Circuit(CircuitBuilder.Build(_system.Circuit, row, row[_celsius])), pairs.Pairs, _all.Length))];
                prepared.Blown = new bool[prepared.States[0].Circuit.Fuses.Length];
            }

            Put(_all, row, prepared, true);
            bool[] blown = new bool[prepared.States[0].Circuit.Fuses.Length];
            for (var s = 0; s < _order.Length; s++)
            {
                (prepared.States[s].Blown, prepared.States[s].Known.Fault) = (blown = [.. blown], null);
                prepared.States[s].Borne = Solve(row, s, prepared, blown, blowsAt, true);
            }

            return true;
        }
        catch (NotSolvedException)
        {
            return false;
        }
    }

    /// <summary>
    /// Solves a vehicle that differs from the one solved last by no more than the values of some parts, such as that vehicle with a
    /// fault; afterwards they are as they were. A state in which none of them differs is not solved again.
    /// </summary>
    /// <param name="parts">The parts.</param>
    /// <param name="row">Temperature and parameters, and what <see cref="TrySolve"/> said of the other.</param>
    /// <param name="prepared">What the other was solved with.</param>
    /// <param name="borne">The greatest share of its rating that a fuse bore without blowing.</param>
    /// <param name="blowsAt">Share of their rating above which its fuses blow, no more than the other was solved with.</param>
    /// <param name="fault">A number for what it differs by: searches begin where those of the last vehicle with the same number ended.</param>
    public bool TrySolveWith(int[] parts, double[] row, PreparedCircuit prepared, out double borne, double blowsAt = Fuse.BlowsAt, int? fault = null)
    {
        borne = 0;
        try
        {
            Put(parts, row, prepared, false);
            var blown = prepared.Blown;
            Array.Clear(blown);
            for (var s = 0; s < _order.Length; s++)
            {
                var state = prepared.States[s];
                if (state.Differs || state.Borne > blowsAt || s > 0 && !blown.AsSpan().SequenceEqual(prepared.States[s - 1].Blown))
                {
                    state.Known.Fault = fault;
                    borne = Math.Max(borne, Solve(row, s, prepared, blown, blowsAt, false));
                }
                else
                {
                    state.Blown.CopyTo(blown, 0);
                    borne = Math.Max(borne, state.Borne);
                }
            }

            return true;
        }
        catch (NotSolvedException)
        {
            return false;
        }
        finally
        {
            foreach (var state in prepared.States)
            {
                foreach (var (place, before) in state.Circuit.Changed)
                {
                    state.Circuit.Take(place, before);
                }
            }
        }
    }

    // Gives parts the values that a row has, in every state; marks the states in which one of them was other.
    private void Put(int[] parts, double[] row, PreparedCircuit prepared, bool keep)
    {
        var celsius = row[_celsius];
        foreach (var state in prepared.States)
        {
            state.Differs = false;
            state.Circuit.Changed.Clear();
        }

        for (var s = 0; s < _order.Length; s++)
        {
            Switch(row, s);
            foreach (var part in parts)
            {
                if (_alike[part][s] is { Length: > 0 } alike)
                {
                    Give(part, CircuitBuilder.ValuesOf(_system.Circuit[part], row, celsius), alike);
                }
            }
        }

        void Give(int part, PartValues values, int[] states)
        {
            foreach (var s in states)
            {
                var state = prepared.States[s];
                if (state.Circuit.Take(_places[part], values))
                {
                    state.Differs = true;
                    state.Circuit.Changed.Add((_places[part], state.Kept[part]));
                }

                if (keep)
                {
                    state.Kept[part] = values;
                }
            }
        }
    }

    // Tells the greatest share of its rating that a fuse bore.
    private double Solve(double[] row, int state, PreparedCircuit circuit, bool[] blown, double blowsAt, bool learn)
    {
        var prepared = circuit.States[state];
        var probes = prepared.Probes;
        var solution = Solver.Solve(prepared.Circuit, prepared.Known, blown, blowsAt, learn);
        Slots.Write(row, _starts[state], solution, circuit.ForTests ? _read[state] : _everything[state]);
        var tests = _pairs[state].Tests;
        if (tests.Length > 0)
        {
            solution.TheveninOhms(probes);
            for (var i = 0; i < tests.Length; i++)
            {
                row[_placed[tests[i]].OhmsSlot] = probes.Ohms[i];
            }
        }

        return solution.Borne;
    }

    /// <summary>Currents through the elements of the usual, faultless vehicle in a state, A; empty when it has no steady state.</summary>
    public static IReadOnlyDictionary<string, double> UsualCurrents(FaultSystem system, VehicleSetting setting, OperatingState state)
    {
        var circuit = new SampledCircuit(system);
        var row = new VehicleDraw(system, circuit.Slots, setting, system.Faults[0]).Row((_, _) => 0.5);
        return circuit.TrySolve(row)
            ? system.Circuit.Select(p => p.Kind == "relay" ? $"{p.Id}.contact" : p.Id).ToDictionary(id => id, id => row[circuit.Slots.Find($"i.{id}", state.Id)!.Value], StringComparer.Ordinal)
            : new Dictionary<string, double>();
    }

    /// <summary>What a test reads as a number, in the base unit.</summary>
    /// <param name="test">The test's place in the system.</param>
    /// <param name="row">The solved sample.</param>
    /// <param name="good">Its faultless twin, solved.</param>
    public double Number(int test, double[] row, double[] good)
    {
        var placed = _placed[test];
        switch (placed.Test.Measure)
        {
            case Measure.Volts: return Across(placed, row) * Instruments.MeterOhms / (Instruments.MeterOhms + row[placed.OhmsSlot]);
            case Measure.Ohms: return Math.Min(row[placed.OhmsSlot], 2e7);
            case Measure.Amperes: return row[placed.CurrentSlot];
            default: return Math.Clamp(placed.Test.Value!.At(new FormulaValues(row, good)), -1e9, 1e9) * placed.Factor + placed.Offset;
        }
    }

    /// <summary>Which answer the simulated state decides, or <see cref="FaultTable.Undecided"/>.</summary>
    public byte Answer(int test, double[] row, double[] good)
    {
        var placed = _placed[test];
        if (placed.Test.Measure == Measure.Lamp)
        {
            return (byte)_choices[test][(int)Instruments.Glowing(Math.Abs(Across(placed, row)), row[placed.OhmsSlot], row[_volts])];
        }

        var (values, rules) = (new FormulaValues(row, good), _rules[test]);
        for (var r = 0; r < rules.Length; r++)
        {
            if (rules[r].At(values) != 0)
            {
                return (byte)_choices[test][r];
            }
        }

        return FaultTable.Undecided;
    }

    // The slots that tests read, and what tells the regime.
    private HashSet<int> Read() =>
    [
        .. Slots.Regime().Select(r => r.Slot), .. _placed.SelectMany(p => new[] { p.PlusSlot, p.MinusSlot, p.CurrentSlot }),
        .. _system.Tests.SelectMany(t => t.Rules.Select(r => r.When).Append(t.Value)).OfType<Formula>().SelectMany(f => f.Uses.Concat(f.UsesGood)),
    ];

    private static int[] ChoicesOf(FaultTest test)
    {
        int Choice(string id) => test.Choices.TakeWhile(c => !c.Id.Equals(id, StringComparison.OrdinalIgnoreCase)).Count();
        return test.Measure == Measure.Lamp ? [.. Enum.GetNames<Glow>().Select(Choice)] : [.. test.Rules.Select(r => Choice(r.Choice))];
    }

    private static double Across(Placed placed, double[] row) => row[placed.PlusSlot] - row[placed.MinusSlot];

    private int[][] Alike(CircuitPart part)
    {
        int[] used = [.. Enumerable.Range(0, _controls.Length).Where(c => part.Values.Any(v => v.Uses.Contains(_controls[c])))];
        int First(int state) => Array.FindIndex(_switched, controls => used.All(c => controls[c] == _switched[state][c]));
        return [.. Enumerable.Range(0, _order.Length).Select(s => Enumerable.Range(0, _order.Length).Where(other => First(other) == s).ToArray())];
    }

    private void Switch(double[] row, int state)
    {
        for (var c = 0; c < _controls.Length; c++)
        {
            row[_controls[c]] = _switched[state][c];
        }
    }

    private (int[] Tests, (string, string)[] Pairs) Pairs(OperatingState state)
    {
        int[] tests = [.. Enumerable.Range(0, _placed.Length).Where(t => _placed[t].Plus.Length > 0 && _system.Tests[t].State.Id == state.Id)];
        return (tests, [.. tests.Select(t => (_placed[t].Plus, _placed[t].Minus))]);
    }

    private Placed Place(FaultTest test, int place)
    {
        var none = new Placed(test, (double)(test.Unit?.Factor ?? 1), (double)(test.Unit?.Offset ?? 0), "", "", -1, -1, -1, Slots.Instrument(place));
        if (test.Measure == Measure.Amperes)
        {
            return none with { CurrentSlot = Slots.Find($"i.{test.Element}", test.State.Id)!.Value };
        }

        if (test.Measure is not (Measure.Volts or Measure.Ohms or Measure.Lamp))
        {
            return none;
        }

        string Node(int probe) => _system.Points.First(p => p.Id == test.Probes[probe]).Node;
        int Slot(int probe) => Slots.Find($"v.{Node(probe)}", test.State.Id)!.Value;
        return none with { Plus = Node(0), Minus = Node(1), PlusSlot = Slot(0), MinusSlot = Slot(1) };
    }
}

/// <summary>
/// A system's circuit as one thread solves it for sample after sample: parts keep their places and only values change. What was
/// found before is where a search begins, never what it ends with.
/// </summary>
public sealed class PreparedCircuit
{
    /// <summary>Whether only what tests read, and what tells the regime, is written into the samples' rows.</summary>
    public bool ForTests { get; init; }

    // In the order in which states are solved.
    internal PreparedState[] States { get; set; } = [];

    // By fuse, while a vehicle that differs is solved.
    internal bool[] Blown { get; set; } = [];

    // The next search begins with nothing.
    internal void Forget()
    {
        foreach (var state in States)
        {
            state.Known.Forget();
        }
    }
}

/// <summary>The circuit in one operating state.</summary>
internal sealed class PreparedState(Circuit circuit, IEnumerable<(string, string)> pairs, int parts)
{
    public Circuit Circuit => circuit;

    /// <summary>By part: the values of the vehicle solved last.</summary>
    public PartValues[] Kept { get; } = new PartValues[parts];

    /// <summary>What was solved before.</summary>
    public Known Known { get; } = new();

    /// <summary>The instruments that are placed.</summary>
    public Probes Probes { get; } = circuit.Probe(pairs);

    /// <summary>Whether a value that was put is other than the one before.</summary>
    public bool Differs { get; set; }

    /// <summary>The greatest share of its rating that a fuse bore.</summary>
    public double Borne { get; set; }

    /// <summary>Fuses that were blown in the end.</summary>
    public bool[] Blown { get; set; } = [];
}
