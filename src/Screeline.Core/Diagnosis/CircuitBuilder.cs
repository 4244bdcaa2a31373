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
        var (elements, relays, fuses) = (new List<Element>(circuit.Count), new List<Relay>(), new List<Fuse>());
        foreach (var part in circuit)
        {
            double V(int value) => part.Values[value].At(values);
            double Ohms(int value) => Math.Max(LeastOhms, V(value));
            // A load must slow its motor a little, or its free speed had no bound.
            MechanicalLoad Load(int first) => new(V(first), Math.Max(1e-12, V(first + 1)), V(first + 2), V(first + 3) != 0);
            var n = part.Nodes;
            switch (part.Kind)
            {
                case "battery": elements.Add(new Battery(part.Id, n[0], n[1], V(0), Ohms(1))); break;
                case "wire": elements.Add(new Resistor(part.Id, n[0], n[1], Math.Max(LeastOhms, Wire.Ohms(V(0), V(1), celsius)))); break;
                case "resistor": elements.Add(new Resistor(part.Id, n[0], n[1], Ohms(0))); break;
                case "switch": elements.Add(new Switch(part.Id, n[0], n[1], V(0) != 0, Ohms(1))); break;
                case "relay": relays.Add(new Relay(part.Id, n[0], n[1], Ohms(0), n[2], n[3], Ohms(1), V(2), V(3))); break;
                case "fuse": fuses.Add(new Fuse(part.Id, n[0], n[1], V(0))); break;
                case "lamp": elements.Add(new Lamp(part.Id, n[0], n[1], V(0), V(1))); break;
                case "diode": elements.Add(new Diode(part.Id, n[0], n[1])); break;
                case "source": elements.Add(new RegulatedSource(part.Id, n[0], n[1], V(0), V(1), Ohms(2))); break;
                case "chopped": elements.Add(new ChoppedDrive(part.Id, n[0], n[1], n[2], V(0), Ohms(1))); break;
                case "motor":
                    elements.Add(V(6) is > 0 and var saturation
                        ? new SeriesMotor(part.Id, n[0], n[1], Ohms(0), V(1), saturation, Load(2))
                        : new MagnetMotor(part.Id, n[0], n[1], Ohms(0), V(1), Load(2)));
                    break;
                default: elements.Add(new TwoBrushMotor(part.Id, n[0], n[1], n[2], Ohms(0), Ohms(1), V(2), V(3), Load(4))); break;
            }
        }

        return new Network(elements, relays, fuses);
    }
}
