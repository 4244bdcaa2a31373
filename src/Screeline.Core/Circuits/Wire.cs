namespace Screeline.Core.Circuits;

/// <summary>The resistance of wires.</summary>
public static class Wire
{
    /// <summary>Resistivity of annealed copper at 20 °C: 1/58 ohm·mm²/m (IEC 60028).</summary>
    public const double CopperResistivity = 1.0 / 58;

    /// <summary>Temperature coefficient of copper's resistance at 20 °C: 0.003 93 per kelvin (IEC 60028).</summary>
    public const double CopperCoefficient = 0.00393;

    /// <summary>Resistivity of aluminium conductor at 20 °C, ohm·mm²/m (IEC 60889: 0.028 264, from memory).</summary>
    public const double AluminiumResistivity = 0.028264;

    /// <summary>Resistance, ohm.</summary>
    /// <param name="metres">Length, m.</param>
    /// <param name="squareMillimetres">Section, mm².</param>
    /// <param name="celsius">Temperature, °C.</param>
    /// <param name="resistivity">Resistivity at 20 °C, ohm·mm²/m.</param>
    /// <param name="coefficient">Temperature coefficient at 20 °C, 1/K.</param>
    public static double Ohms(double metres, double squareMillimetres, double celsius = 20, double resistivity = CopperResistivity, double coefficient = CopperCoefficient) =>
        resistivity * metres / squareMillimetres * (1 + coefficient * (celsius - 20));

    /// <summary>Section of an American wire gauge, mm²: diameter 0.127 mm × 92^((36 − n)/39) (ASTM B258). 0 is 1/0, −1 is 2/0.</summary>
    public static double GaugeSection(int gauge)
    {
        var diameter = 0.127 * Math.Pow(92, (36 - gauge) / 39.0);
        return Math.PI / 4 * diameter * diameter;
    }
}
