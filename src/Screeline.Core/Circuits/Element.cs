namespace Screeline.Core.Circuits;

/// <summary>
/// A part of a circuit in the steady state. It tells, for given voltages at its nodes, the current that flows into it at each
/// node (ampere) and how those currents change with each voltage (siemens).
/// </summary>
/// <param name="Id">Identifier within its network.</param>
public abstract record Element(string Id)
{
    /// <summary>Its nodes, in an order of its own.</summary>
    public abstract IReadOnlyList<string> Nodes { get; }

    /// <summary>For a straight line between two nodes: its conductance (S), and what it drives out of the first one (A); else null.</summary>
    internal virtual (double Siemens, double Driven)? Ohmic => null;

    /// <summary>Currents into the element and their derivatives.</summary>
    /// <param name="voltages">Voltages at <see cref="Nodes"/>, V.</param>
    /// <param name="currents">Filled with the current into the element at each node, A.</param>
    /// <param name="conductances">Filled with dI(row)/dV(column), S, row after row.</param>
    public abstract void Evaluate(ReadOnlySpan<double> voltages, Span<double> currents, Span<double> conductances);
}

/// <summary>An element with two terminals, whose current depends on the voltage across it.</summary>
/// <param name="Id">Identifier.</param>
/// <param name="From">Current counts positive from here …</param>
/// <param name="To">… to here.</param>
public abstract record TwoTerminal(string Id, string From, string To) : Element(Id)
{
    /// <inheritdoc/>
    public override IReadOnlyList<string> Nodes => [From, To];

    /// <summary>The current from "From" to "To" (A) and its derivative (S), at a voltage across them (V).</summary>
    public abstract (double Current, double Slope) At(double voltage);

    /// <summary>Voltages at which the current bends, so that a straight line through one side tells little of the other.</summary>
    internal virtual (double First, double Second)? Bends => null;

    /// <inheritdoc/>
    public override void Evaluate(ReadOnlySpan<double> voltages, Span<double> currents, Span<double> conductances)
    {
        var (current, slope) = At(voltages[0] - voltages[1]);
        (currents[0], currents[1]) = (current, -current);
        (conductances[0], conductances[1], conductances[2], conductances[3]) = (slope, -slope, -slope, slope);
    }
}

/// <summary>Wire, joint, winding, resistor pack step: anything ohmic.</summary>
/// <param name="Id">Identifier.</param>
/// <param name="From">One end.</param>
/// <param name="To">Other end.</param>
/// <param name="Ohms">Resistance, above zero.</param>
public sealed record Resistor(string Id, string From, string To, double Ohms) : TwoTerminal(Id, From, To)
{
    /// <inheritdoc/>
    public override (double Current, double Slope) At(double voltage) => (voltage / Ohms, 1 / Ohms);

    internal override (double Siemens, double Driven)? Ohmic => (1 / Ohms, 0);
}

/// <summary>A switch or a contact that is known to be closed or open. Open it leaks as good insulation does.</summary>
/// <param name="Id">Identifier.</param>
/// <param name="From">One side.</param>
/// <param name="To">Other side.</param>
/// <param name="Closed">Whether it is closed.</param>
/// <param name="ClosedOhms">Resistance when closed.</param>
public sealed record Switch(string Id, string From, string To, bool Closed, double ClosedOhms = 0.002) : TwoTerminal(Id, From, To)
{
    /// <summary>Resistance of an open contact, ohm.</summary>
    public const double OpenOhms = 1e9;

    /// <inheritdoc/>
    public override (double Current, double Slope) At(double voltage) => Closed ? (voltage / ClosedOhms, 1 / ClosedOhms) : (voltage / OpenOhms, 1 / OpenOhms);

    internal override (double Siemens, double Driven)? Ohmic => (1 / (Closed ? ClosedOhms : OpenOhms), 0);
}

/// <summary>
/// A battery: open-circuit voltage behind an internal resistance, in both directions. "From" is the positive post;
/// the current counted is the one drawn into it, so a discharging battery has a negative one.
/// </summary>
public sealed record Battery(string Id, string From, string To, double OpenCircuitVolts, double InternalOhms) : TwoTerminal(Id, From, To)
{
    /// <inheritdoc/>
    public override (double Current, double Slope) At(double voltage) => ((voltage - OpenCircuitVolts) / InternalOhms, 1 / InternalOhms);

    internal override (double Siemens, double Driven)? Ohmic => (1 / InternalOhms, OpenCircuitVolts / InternalOhms);

    /// <summary>
    /// Open-circuit voltage of a flooded 12 V battery, V: 12.6 full, 12.4 three quarters, 12.2 half (25 °C; common practice, no
    /// source), a straight line through them. A dead cell takes about 2.1 V away.
    /// </summary>
    /// <param name="charge">State of charge, 0 to 1.</param>
    /// <param name="deadCells">Cells that give nothing.</param>
    public static double RestingVolts(double charge, int deadCells = 0) => 11.8 + 0.8 * charge - 2.1 * deadCells;

    /// <summary>State of charge from the resting voltage of a 12 V battery, 0 to 1; NaN where a cell must be dead.</summary>
    /// <param name="volts">After some hours of rest, V.</param>
    public static double Charge(double volts) => volts < RestingVolts(0) - 0.5 ? double.NaN : Math.Clamp((volts - RestingVolts(0)) / (RestingVolts(1) - RestingVolts(0)), 0, 1);

    /// <summary>
    /// Lowest voltage of a sound 12 V battery loaded for 15 s with half its cold-cranking rating, V, by temperature (the load test's
    /// table: 9.6 V at 21 °C, 9.1 V at −1 °C, 8.5 V at −18 °C; common practice, no source), a straight line between.
    /// </summary>
    /// <param name="celsius">Temperature of the battery.</param>
    public static double LoadTestVolts(double celsius)
    {
        (double Celsius, double Volts)[] table = [(-18, 8.5), (-12, 8.7), (-7, 8.9), (-1, 9.1), (4, 9.3), (10, 9.4), (16, 9.5), (21, 9.6)];
        var above = Array.FindIndex(table, t => t.Celsius >= celsius);
        return above < 0 ? table[^1].Volts : above == 0 ? table[0].Volts
            : table[above - 1].Volts + (celsius - table[above - 1].Celsius) / (table[above].Celsius - table[above - 1].Celsius) * (table[above].Volts - table[above - 1].Volts);
    }

    /// <summary>
    /// Internal resistance from the cold-cranking rating, ohm: the rating is the current held for 30 s at −18 °C with 7.2 V left
    /// (SAE J537, from memory), so there R = (12.6 − 7.2)/CCA; it halves for every 43 K of warmth (common practice, no source).
    /// </summary>
    /// <param name="coldCrankingAmperes">Rating, A.</param>
    /// <param name="celsius">Temperature, °C.</param>
    public static double OhmsFromRating(double coldCrankingAmperes, double celsius) => (12.6 - 7.2) / coldCrankingAmperes * Math.Pow(2, -(celsius + 18) / 43);
}

/// <summary>
/// A source that holds a voltage until its current limit and never takes current back: an alternator with its regulator, or a
/// bench supply. "From" is its positive side.
/// </summary>
/// <param name="Id">Identifier.</param>
/// <param name="From">Positive side.</param>
/// <param name="To">Negative side.</param>
/// <param name="Volts">The voltage held at no load.</param>
/// <param name="LimitAmperes">The most it gives.</param>
/// <param name="DroopOhms">Voltage lost per ampere before the limit.</param>
public sealed record RegulatedSource(string Id, string From, string To, double Volts, double LimitAmperes, double DroopOhms = 0.005) : TwoTerminal(Id, From, To)
{
    internal override (double First, double Second)? Bends => (Volts - LimitAmperes * DroopOhms, Volts);

    // Outside its range it leaks a microampere per volt, as rectifiers do; without it a source on an open lead had no voltage.
    private const double Leak = 1e-6;

    /// <inheritdoc/>
    public override (double Current, double Slope) At(double voltage)
    {
        var wanted = (Volts - voltage) / DroopOhms;
        return wanted <= 0 ? (-wanted * DroopOhms * Leak, Leak)
            : wanted >= LimitAmperes ? (-LimitAmperes + (voltage - Volts + LimitAmperes * DroopOhms) * Leak, Leak)
            : (-wanted, 1 / DroopOhms);
    }
}

/// <summary>
/// A filament lamp, burning steadily. Its resistance grows from the cold filament to the hot one at its rated voltage and on:
/// R(u) = Rhot · (cⁿ + (1 − cⁿ)·u)^(1/n), u = |V|/Vn, with c the cold share and 1/n the exponent of resistance over voltage.
/// Tungsten: cold about a tenth of hot, exponent about 0.45 (common practice, no source).
/// </summary>
/// <param name="Id">Identifier.</param>
/// <param name="From">One side.</param>
/// <param name="To">Other side.</param>
/// <param name="RatedVolts">Rated voltage.</param>
/// <param name="RatedWatts">Power at it.</param>
/// <param name="ColdShare">Cold resistance over hot.</param>
public sealed record Lamp(string Id, string From, string To, double RatedVolts, double RatedWatts, double ColdShare = Lamp.UsualColdShare) : TwoTerminal(Id, From, To)
{
    private const double N = 1 / 0.45;
    private const double UsualColdShare = 0.1;
    private static readonly double UsualShare = Math.Pow(UsualColdShare, N);

    /// <summary>Resistance at rated voltage, ohm.</summary>
    public double HotOhms => RatedVolts * RatedVolts / RatedWatts;

    // While it is dark its resistance grows tenfold within a volt, to either side.
    internal override (double First, double Second)? Bends => (0, 0);

    /// <inheritdoc/>
    public override (double Current, double Slope) At(double voltage)
    {
        var share = ColdShare == UsualColdShare ? UsualShare : Math.Pow(ColdShare, N);
        var inside = share + (1 - share) * Math.Abs(voltage) / RatedVolts;
        var siemens = Math.Pow(inside, -1 / N) / HotOhms;
        return (voltage * siemens, siemens * (1 - (1 - share) * Math.Abs(voltage) / (N * RatedVolts * inside)));
    }
}

/// <summary>
/// A junction diode after Shockley: I = Is·(exp(V/(n·Vt)) − 1) with Vt = kT/q, 25.865 mV at 27 °C. Above the voltage where the
/// current would pass 10 kA it goes on as its tangent, so that a far-off guess cannot overflow.
/// </summary>
public sealed record Diode(string Id, string From, string To, double SaturationAmperes = 1e-9, double Ideality = 1.6) : TwoTerminal(Id, From, To)
{
    /// <summary>Thermal voltage at 27 °C, V.</summary>
    public const double ThermalVolts = 1.380649e-23 * 300.15 / 1.602176634e-19;

    /// <inheritdoc/>
    public override (double Current, double Slope) At(double voltage)
    {
        var scale = Ideality * ThermalVolts;
        var limit = scale * Math.Log(1e4 / SaturationAmperes);
        var exponential = Math.Exp(Math.Min(voltage, limit) / scale);
        var slope = SaturationAmperes / scale * exponential;
        return (SaturationAmperes * (exponential - 1) + (voltage > limit ? (voltage - limit) * slope : 0), slope);
    }
}

/// <summary>
/// A chopped (PWM) drive, averaged over its period, with a freewheeling load: the load sees the duty's share of the supply, the
/// supply gives the duty's share of the load's current.
/// </summary>
/// <param name="Id">Identifier.</param>
/// <param name="Supply">Supply side.</param>
/// <param name="Load">Load side.</param>
/// <param name="Return">Common return.</param>
/// <param name="Duty">Share of the period that is on, 0 to 1.</param>
/// <param name="OnOhms">Resistance of the switch when on, above zero.</param>
public sealed record ChoppedDrive(string Id, string Supply, string Load, string Return, double Duty, double OnOhms = 0.01) : Element(Id)
{
    /// <inheritdoc/>
    public override IReadOnlyList<string> Nodes => [Supply, Load, Return];

    /// <inheritdoc/>
    public override void Evaluate(ReadOnlySpan<double> voltages, Span<double> currents, Span<double> conductances)
    {
        var g = 1 / OnOhms;
        var toLoad = (Duty * (voltages[0] - voltages[2]) - (voltages[1] - voltages[2])) * g;
        (currents[0], currents[1], currents[2]) = (Duty * toLoad, -toLoad, toLoad - Duty * toLoad);
        // dI(load)/dV(supply, load, return)
        Span<double> slopes = [Duty * g, -g, (1 - Duty) * g];
        for (var column = 0; column < 3; column++)
        {
            (conductances[column], conductances[3 + column], conductances[6 + column]) = (Duty * slopes[column], -slopes[column], (1 - Duty) * slopes[column]);
        }
    }
}
