namespace Screeline.Core.Circuits;

/// <summary>How a test lamp looks.</summary>
public enum Glow
{
    /// <summary>Under a quarter of its rated voltage.</summary>
    Dark,
    /// <summary>In between.</summary>
    Dim,
    /// <summary>At least three quarters of its rated voltage.</summary>
    Bright,
}

/// <summary>
/// Readings computed by putting the instrument into the circuit: it draws what it draws, and that is why a meter and a lamp see
/// a bad joint differently.
/// </summary>
public static class Instruments
{
    /// <summary>Input resistance of a digital voltmeter, ohm (common practice, no source).</summary>
    public const double MeterOhms = 10e6;

    /// <summary>What a voltmeter reads from one point to another, V.</summary>
    public static double Voltmeter(Network network, string plus, string minus)
    {
        // A point that nothing is connected to reads nothing: the leads alone join it.
        var solved = Solver.Solve(network.With(new Resistor("voltmeter", plus, minus, MeterOhms)));
        return solved.Between(plus, minus);
    }

    /// <summary>How a test lamp glows on a source of known open voltage and resistance (Thévenin).</summary>
    /// <param name="openVolts">Voltage without the lamp, not negative.</param>
    /// <param name="behindOhms">Resistance behind it.</param>
    /// <param name="ratedVolts">The lamp's voltage.</param>
    /// <param name="watts">Its power at that voltage.</param>
    public static Glow Glowing(double openVolts, double behindOhms, double ratedVolts = 12, double watts = 5) => Look(Share(openVolts, behindOhms, ratedVolts, watts));

    /// <summary>The share of its voltage that a test lamp gets.</summary>
    public static double Share(double openVolts, double behindOhms, double ratedVolts = 12, double watts = 5)
    {
        // What lamp and source lack to be in balance bends one way only, so that Newton's method comes up to it from below.
        var lamp = new Lamp("test lamp", "", "", ratedVolts, watts);
        var (volts, step) = (0.0, double.PositiveInfinity);
        for (var i = 0; i < 60 && step > 1e-9 * openVolts; i++)
        {
            var (current, slope) = lamp.At(volts);
            step = (openVolts - volts - current * behindOhms) / (1 + slope * behindOhms);
            volts += step;
        }

        return volts / ratedVolts;
    }

    /// <summary>The share of its voltage from which a lamp is bright.</summary>
    public const double BrightFrom = 0.75;
    /// <summary>The share from which it glows at all.</summary>
    public const double DimFrom = 0.25;

    private static Glow Look(double share) => share >= BrightFrom ? Glow.Bright : share < DimFrom ? Glow.Dark : Glow.Dim;

    /// <summary>What a clamp round an element's wire reads, A.</summary>
    public static double Clamp(Network network, string element) => Solver.Solve(network).Current(element);
}
