using Screeline.Core.Circuits;

namespace Screeline.Core.Diagnosis;

/// <summary>Turns a system's circuit with its formulas into a network with numbers.</summary>
public static class CircuitBuilder
{
    // Shorts and opens of the data files meet here: nothing is without resistance, nothing conducts better than a bar of copper.
    private const double LeastOhms = 1e-6;

    /// <summary>What each kind of part wants: how many nodes, and its values with their defaults (null: must be given).</summary>
    public static IReadOnlyDictionary<string, (int Nodes, (string Name, double? Usual)[] Values)> Kinds { get; } = new Dictionary<string, (int, (string, double?)[])>(StringComparer.Ordinal)
    {
        ["battery"] = (2, [("volts", null), ("ohms", null)]),
        ["wire"] = (2, [("length", null), ("section", null)]),
        ["resistor"] = (2, [("ohms", null)]),
        ["switch"] = (2, [("closed", null), ("ohms", 0.002)]),
        ["relay"] = (4, [("coil", null), ("contact", null), ("pull", null), ("hold", null)]),
        ["fuse"] = (2, [("rated", null)]),
        ["lamp"] = (2, [("volts", null), ("watts", null)]),
        ["diode"] = (2, []),
        ["source"] = (2, [("volts", null), ("limit", null), ("droop", 0.005)]),
        ["chopped"] = (3, [("duty", null), ("ohms", 0.01)]),
        ["motor"] = (2, [("ohms", null), ("constant", null), ("friction", null), ("viscous", null), ("fan", 0), ("stuck", 0), ("series", 0)]),
        ["two-brush-motor"] = (3, [("low_ohms", null), ("high_ohms", null), ("low_constant", null), ("high_constant", null), ("friction", null), ("viscous", null), ("fan", 0), ("stuck", 0)]),
    };

    /// <summary>The network for one sample; its row must hold parameters and the controls of the state.</summary>
    /// <param name="circuit">The circuit.</param>
    /// <param name="row">Temperature, parameters, controls.</param>
    /// <param name="celsius">Temperature of the wires, °C.</param>
    public static Network Build(IReadOnlyList<CircuitPart> circuit, double[] row, double celsius)
    {
        var values = new FormulaValues(row, row);
        object[] parts = [.. circuit.Select(part => Made(part, values, celsius))];
        return new Network([.. parts.OfType<Element>()], [.. parts.OfType<Relay>()], [.. parts.OfType<Fuse>()]);
    }

    /// <summary>Where the parts stand in the network: each among the elements, the relays or the fuses.</summary>
    internal static int[] Places(IReadOnlyList<CircuitPart> circuit)
    {
        static int Which(CircuitPart part) => part.Kind switch { "relay" => 1, "fuse" => 2, _ => 0 };
        return [.. circuit.Select((part, p) => circuit.Take(p).Count(other => Which(other) == Which(part)))];
    }

    /// <summary>The values of a part; those of what is ohmic without going by way of an element.</summary>
    internal static PartValues ValuesOf(CircuitPart part, double[] row, double celsius)
    {
        var values = new FormulaValues(row, row);
        double V(int value) => part.Values[value].At(values);
        return part.Kind switch
        {
            "battery" when Ohms(V(1)) is var ohms => new PartValues(1 / ohms, V(0) / ohms),
            "wire" => new PartValues(1 / Ohms(Wire.Ohms(V(0), V(1), celsius)), 0),
            "resistor" => new PartValues(1 / Ohms(V(0)), 0),
            "switch" => new PartValues(1 / (V(0) != 0 ? Ohms(V(1)) : Switch.OpenOhms), 0),
            _ => new PartValues(0, 0, Made(part, values, celsius)),
        };
    }

    private static double Ohms(double ohms) => Math.Max(LeastOhms, ohms);

    private static object Made(CircuitPart part, FormulaValues values, double celsius)
    {
        double V(int value) => part.Values[value].At(values);
        // A load must slow its motor a little, or its free speed had no bound.
        MechanicalLoad Load(int first) => new(V(first), Math.Max(1e-12, V(first + 1)), V(first + 2), V(first + 3) != 0);
        var n = part.Nodes;
        return part.Kind switch
        {
            "battery" => new Battery(part.Id, n[0], n[1], V(0), Ohms(V(1))),
            "wire" => new Resistor(part.Id, n[0], n[1], Ohms(Wire.Ohms(V(0), V(1), celsius))),
            "resistor" => new Resistor(part.Id, n[0], n[1], Ohms(V(0))),
            "switch" => new Switch(part.Id, n[0], n[1], V(0) != 0, Ohms(V(1))),
            "relay" => new Relay(part.Id, n[0], n[1], Ohms(V(0)), n[2], n[3], Ohms(V(1)), V(2), V(3)),
            "fuse" => new Fuse(part.Id, n[0], n[1], V(0)),
            "lamp" => new Lamp(part.Id, n[0], n[1], V(0), V(1)),
            "diode" => new Diode(part.Id, n[0], n[1]),
            "source" => new RegulatedSource(part.Id, n[0], n[1], V(0), V(1), Ohms(V(2))),
            "chopped" => new ChoppedDrive(part.Id, n[0], n[1], n[2], V(0), Ohms(V(1))),
            "motor" when V(6) is > 0 and var saturation => new SeriesMotor(part.Id, n[0], n[1], Ohms(V(0)), V(1), saturation, Load(2)),
            "motor" => new MagnetMotor(part.Id, n[0], n[1], Ohms(V(0)), V(1), Load(2)),
            _ => new TwoBrushMotor(part.Id, n[0], n[1], n[2], Ohms(V(0)), Ohms(V(1)), V(2), V(3), Load(4)),
        };
    }
}
