using Screeline.Core.Circuits;

namespace Screeline.Core.Diagnosis;

/// <summary>A system's circuit, ready to be solved for one row of parameters and read with its instruments.</summary>
public sealed class SampledCircuit
{
    private readonly FaultSystem _system;
    // The slots of the controls, and their values by state.
    private readonly int[] _controls;
    private readonly double[][] _switched;
    private readonly OperatingState[] _order;
    private readonly Placed[] _placed;
    private readonly (int[] Tests, (string Plus, string Minus)[] Pairs)[] _pairs;
    // By part: its place in the network, and whether a control changes it.
    private readonly int[] _places;
    private readonly bool[] _byControl;
    // By test: the choice of each rule, or of each way in which a lamp can glow.
    private readonly int[][] _choices;

    // Where a test's instrument is put: its nodes with their slots, or the slot of its current.
    private sealed record Placed(string Plus, string Minus, int PlusSlot, int MinusSlot, int CurrentSlot);

    /// <summary>Makes it.</summary>
    public SampledCircuit(FaultSystem system)
    {
        _system = system;
        string[] controls = [.. system.States.SelectMany(s => s.Controls.Keys).Distinct(StringComparer.Ordinal)];
        Slots = FaultSystemReader.SlotsOf(system);
        // What blows when the motor is commanded has blown in every other state as well.
        _order = [.. system.States.OrderByDescending(s => s.Commanded)];
        _controls = [.. controls.Select(c => Slots[c])];
        _switched = [.. _order.Select(s => controls.Select(c => s.Controls.GetValueOrDefault(c)).ToArray())];
        _places = CircuitBuilder.Places(system.Circuit);
        _byControl = [.. system.Circuit.Select(p => p.Values.Any(v => v.Uses.Overlaps(_controls)))];
        _placed = [.. system.Tests.Select(Place)];
        _choices = [.. system.Tests.Select(ChoicesOf)];
        _pairs = [.. _order.Select(Pairs)];
    }

    /// <summary>Where quantities stand in a row.</summary>
    public Slots Slots { get; }

    /// <summary>The network of a row in a state.</summary>
    public Network NetworkOf(double[] row, OperatingState state)
    {
        Switch(row, Array.FindIndex(_order, s => s.Id == state.Id));
        return CircuitBuilder.Build(_system.Circuit, row, row[Slots[Slots.Celsius]]);
    }

    /// <summary>Solves every operating state and writes what it says into the row; false when one has no solution.</summary>
    /// <param name="row">Temperature and parameters.</param>
    /// <param name="prepared">What sample after sample is solved with, by one thread; null to begin with nothing.</param>
    public bool TrySolve(double[] row, PreparedCircuit? prepared = null)
    {
        prepared ??= new PreparedCircuit();
        var celsius = row[Slots[Slots.Celsius]];
        try
        {
            bool[]? blown = null;
            for (var s = 0; s < _order.Length; s++)
            {
                Switch(row, s);
                var circuit = prepared.Circuit ?? Prepare(prepared, CircuitBuilder.Build(_system.Circuit, row, celsius));
                for (var p = 0; p < _places.Length; p++)
                {
                    if (s == 0 || _byControl[p])
                    {
                        CircuitBuilder.Put(_system.Circuit[p], _places[p], row, celsius, circuit);
                    }
                }

                blown = blown is null ? new bool[circuit.Fuses.Length] : [.. blown];
                var solution = Solver.Solve(circuit, prepared.Known[s], blown);
                Slots.Write(row, _order[s].Id, solution);
                var (tests, probes) = (_pairs[s].Tests, prepared.Probes[s]);
                if (tests.Length > 0)
                {
                    solution.TheveninOhms(probes);
                    for (var i = 0; i < tests.Length; i++)
                    {
                        row[Slots.Instrument(tests[i])] = probes.Ohms[i];
                    }
                }
            }

            return true;
        }
        catch (NotSolvedException)
        {
            return false;
        }
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
        var t = _system.Tests[test];
        switch (t.Measure)
        {
            case Measure.Volts: return Across(test, row) * Instruments.MeterOhms / (Instruments.MeterOhms + row[Slots.Instrument(test)]);
            case Measure.Ohms: return Math.Min(row[Slots.Instrument(test)], 2e7);
            case Measure.Amperes: return row[_placed[test].CurrentSlot];
            default:
                var (factor, offset) = ((double)t.Unit!.Factor, (double)t.Unit.Offset);
                return Math.Clamp(t.Value!.At(new FormulaValues(row, good)), -1e9, 1e9) * factor + offset;
        }
    }

    /// <summary>Which answer the simulated state decides, or <see cref="FaultTable.Undecided"/>.</summary>
    public byte Answer(int test, double[] row, double[] good)
    {
        var t = _system.Tests[test];
        if (t.Measure == Measure.Lamp)
        {
            return (byte)_choices[test][(int)Instruments.Glowing(Math.Abs(Across(test, row)), row[Slots.Instrument(test)], row[Slots[VehicleSetting.Volts]])];
        }

        var values = new FormulaValues(row, good);
        for (var r = 0; r < t.Rules.Count; r++)
        {
            if (t.Rules[r].When.At(values) != 0)
            {
                return (byte)_choices[test][r];
            }
        }

        return FaultTable.Undecided;
    }

    /// <summary>How many comparisons decide the answer of a test.</summary>
    public int ComparisonsOf(int test) => _system.Tests[test] is { Measure: Measure.Lamp } ? 2 : _system.Tests[test].Rules.Sum(r => r.When.Comparisons.Count);

    /// <summary>How far each comparison that decides an answer is from turning.</summary>
    public void Comparisons(int test, double[] row, double[] good, Span<double> comparisons)
    {
        var t = _system.Tests[test];
        if (t.Measure == Measure.Lamp)
        {
            var share = Instruments.Share(Math.Abs(Across(test, row)), row[Slots.Instrument(test)], row[Slots[VehicleSetting.Volts]]);
            (comparisons[0], comparisons[1]) = (share - Instruments.DimFrom, share - Instruments.BrightFrom);
            return;
        }

        var (values, at) = (new FormulaValues(row, good), 0);
        foreach (var rule in t.Rules)
        {
            for (var c = 0; c < rule.When.Comparisons.Count; c++)
            {
                comparisons[at++] = rule.When.Comparisons[c](values);
            }
        }
    }

    /// <summary>How far each answer, and last that none is decided, is from turning.</summary>
    public void Margins(int test, ReadOnlySpan<double> comparisons, Span<double> margins)
    {
        var t = _system.Tests[test];
        margins.Fill(double.NegativeInfinity);
        if (t.Measure == Measure.Lamp)
        {
            margins[_choices[test][(int)Glow.Dark]] = -comparisons[0];
            margins[_choices[test][(int)Glow.Dim]] = Math.Min(comparisons[0], -comparisons[1]);
            margins[_choices[test][(int)Glow.Bright]] = comparisons[1];
            return;
        }

        var (before, at) = (double.NegativeInfinity, 0);
        for (var r = 0; r < t.Rules.Count; r++)
        {
            var rule = t.Rules[r];
            var own = rule.When.Margin(comparisons.Slice(at, rule.When.Comparisons.Count));
            at += rule.When.Comparisons.Count;
            var choice = _choices[test][r];
            margins[choice] = Math.Max(margins[choice], Math.Min(own, -before));
            before = Math.Max(before, own);
        }

        margins[^1] = -before;
    }

    private static int[] ChoicesOf(FaultTest test)
    {
        int Choice(string id) => test.Choices.TakeWhile(c => !c.Id.Equals(id, StringComparison.OrdinalIgnoreCase)).Count();
        return test.Measure == Measure.Lamp ? [.. Enum.GetNames<Glow>().Select(Choice)] : [.. test.Rules.Select(r => Choice(r.Choice))];
    }

    private double Across(int test, double[] row) => row[_placed[test].PlusSlot] - row[_placed[test].MinusSlot];

    private void Switch(double[] row, int state)
    {
        for (var c = 0; c < _controls.Length; c++)
        {
            row[_controls[c]] = _switched[state][c];
        }
    }

    private Circuit Prepare(PreparedCircuit prepared, Network network)
    {
        var circuit = new Circuit(network);
        (prepared.Circuit, prepared.Known, prepared.Probes) = (circuit, [.. _order.Select(_ => new Dictionary<ulong, double[]>())], [.. _pairs.Select(p => circuit.Probe(p.Pairs))]);
        return circuit;
    }

    private (int[] Tests, (string, string)[] Pairs) Pairs(OperatingState state)
    {
        int[] tests = [.. Enumerable.Range(0, _placed.Length).Where(t => _placed[t].Plus.Length > 0 && _system.Tests[t].State.Id == state.Id)];
        return (tests, [.. tests.Select(t => (_placed[t].Plus, _placed[t].Minus))]);
    }

    private Placed Place(FaultTest test)
    {
        if (test.Measure == Measure.Amperes)
        {
            return new Placed("", "", -1, -1, Slots.Find($"i.{test.Element}", test.State.Id)!.Value);
        }

        if (test.Measure is not (Measure.Volts or Measure.Ohms or Measure.Lamp))
        {
            return new Placed("", "", -1, -1, -1);
        }

        string Node(int probe) => _system.Points.First(p => p.Id == test.Probes[probe]).Node;
        return new Placed(Node(0), Node(1), Slots.Find($"v.{Node(0)}", test.State.Id)!.Value, Slots.Find($"v.{Node(1)}", test.State.Id)!.Value, -1);
    }
}

/// <summary>
/// A system's circuit as one thread solves it for sample after sample: parts keep their places and only values change. What was
/// found before is where a search begins, never what it ends with.
/// </summary>
public sealed class PreparedCircuit
{
    internal Circuit? Circuit { get; set; }

    // By state: voltages by the state of relays and fuses, and the instruments that are placed.
    internal Dictionary<ulong, double[]>[] Known { get; set; } = [];

    internal Probes[] Probes { get; set; } = [];
}
