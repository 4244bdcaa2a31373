namespace Screeline.Core.Circuits;

/// <summary>The resistance of wires.</summary>
public static class Wire
{
    /// <summary>Resistivity of annealed copper at 20 °C: 1/58 ohm·mm²/m (IEC 60028).</summary>
    public const double CopperResistivity = 1.0 / 58;

    /// <summary>Temperature coefficient of copper's resistance at 20 °C: 0.003 93 per kelvin (IEC 60028).</summary>
    public const double CopperCoefficient = 0.00393;

    /// <summary>Resistance, ohm.</summary>
    /// <param name="metres">Length, m.</param>
    /// <param name="squareMillimetres">Section, mm².</param>
    /// <param name="celsius">Temperature, °C.</param>
    /// <param name="resistivity">Resistivity at 20 °C, ohm·mm²/m.</param>
    /// <param name="coefficient">Temperature coefficient at 20 °C, 1/K.</param>
    public static double Ohms(double metres, double squareMillimetres, double celsius = 20, double resistivity = CopperResistivity, double coefficient = CopperCoefficient) =>
        resistivity * metres / squareMillimetres * (1 + coefficient * (celsius - 20));

    /// <summary>Nominal sections of conductors, mm² (IEC 60228, table 3).</summary>
    public static IReadOnlyList<double> Sections { get; } = [0.5, 0.75, 1, 1.5, 2.5, 4, 6, 10, 16, 25, 35, 50, 70, 95, 120, 150, 185, 240];

    /// <summary>The smallest nominal section that loses at most so many volts; null when the largest loses more.</summary>
    /// <param name="metres">Length, m.</param>
    /// <param name="amperes">Current, A.</param>
    /// <param name="volts">Largest drop, V.</param>
    /// <param name="celsius">Temperature of the copper, °C.</param>
    public static double? SectionFor(double metres, double amperes, double volts, double celsius = 20) =>
        Sections.Cast<double?>().FirstOrDefault(s => Ohms(metres, s!.Value, celsius) * amperes <= volts);

    /// <summary>Section of an American wire gauge, mm²: diameter 0.127 mm × 92^((36 − n)/39) (ASTM B258). 0 is 1/0, −1 is 2/0.</summary>
    public static double GaugeSection(int gauge)
    {
        var diameter = 0.127 * Math.Pow(92, (36 - gauge) / 39.0);
        return Math.PI / 4 * diameter * diameter;
    }
}
