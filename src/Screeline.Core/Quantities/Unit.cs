namespace Screeline.Core.Quantities;

/// <summary>The kinds of quantity a technician writes down. Two kinds are never mixed.</summary>
public enum QuantityKind
{
    /// <summary>Tightening torque; base unit newton metre.</summary>
    Torque,
    /// <summary>Electric potential difference; base unit volt.</summary>
    Voltage,
    /// <summary>Electric current; base unit ampere.</summary>
    Current,
    /// <summary>Electric resistance; base unit ohm.</summary>
    Resistance,
    /// <summary>Temperature on the Celsius scale; base unit degree Celsius.</summary>
    Temperature,
    /// <summary>A length of time; base unit minute.</summary>
    Duration,
    /// <summary>Length; base unit millimetre.</summary>
    Length,
    /// <summary>Money in the shop's own currency; base unit one of that currency.</summary>
    Money,
}

/// <summary>
/// A unit as it is written on a wrench, a meter or in a manual. A value in the base unit of its kind is
/// <c>number × Factor + Offset</c>.
/// </summary>
/// <param name="Kind">What it measures.</param>
/// <param name="Symbol">The one spelling Screeline prints; plain letters only, because the screen fonts lack the ohm sign.</param>
/// <param name="Factor">Base units in one of this unit; exact where the definition is exact.</param>
/// <param name="Offset">Base units at zero of this unit; only temperatures have one.</param>
/// <param name="Decimals">Digits after the point that are worth reading at the vehicle.</param>
/// <param name="Spellings">What people type for it, without blanks, dots, dashes and stars.</param>
public sealed record Unit(QuantityKind Kind, string Symbol, decimal Factor, decimal Offset, int Decimals, IReadOnlyList<string> Spellings)
{
    /// <summary>The number in the base unit of the kind.</summary>
    public decimal ToBase(decimal number) => number * Factor + Offset;

    /// <summary>The number in this unit for a value in the base unit of the kind.</summary>
    public decimal FromBase(decimal value) => (value - Offset) / Factor;

    /// <inheritdoc/>
    public override string ToString() => Symbol;
}

/// <summary>
/// Every unit Screeline reads and prints. Factors: NIST Special Publication 811 (2008), appendix B.8, which follow from
/// the exact definitions 1 in = 25.4 mm, 1 lb = 0.453 592 37 kg and standard gravity 9.806 65 m/s².
/// </summary>
public static class Units
{
    /// <summary>Newton metre.</summary>
    public static readonly Unit NewtonMetre = Make(QuantityKind.Torque, "N·m", 1m, 1, "Nm", "Newtonmetre", "Newtonmeter");
    /// <summary>Pound-force foot: 0.453 592 37 kg × 9.806 65 m/s² × 0.3048 m, exact.</summary>
    public static readonly Unit PoundForceFoot = Make(QuantityKind.Torque, "lbf·ft", 1.3558179483314004m, 1, "lbfft", "lbft", "ftlb", "ftlbs", "ftlbf", "lbsft", "footpound", "footpounds");
    /// <summary>Pound-force inch: a twelfth of a pound-force foot, exact.</summary>
    public static readonly Unit PoundForceInch = Make(QuantityKind.Torque, "lbf·in", 0.1129848290276167m, 0, "lbfin", "lbin", "inlb", "inlbs", "inlbf", "lbsin", "inchpound", "inchpounds");
    /// <summary>Kilogram-force metre, exact.</summary>
    public static readonly Unit KilogramForceMetre = Make(QuantityKind.Torque, "kgf·m", 9.80665m, 2, "kgfm", "kgm", "mkg", "mkgf", "kpm");
    /// <summary>Kilogram-force centimetre, exact.</summary>
    public static readonly Unit KilogramForceCentimetre = Make(QuantityKind.Torque, "kgf·cm", 0.0980665m, 0, "kgfcm", "kgcm", "cmkg", "cmkgf");

    /// <summary>Volt.</summary>
    public static readonly Unit Volt = Make(QuantityKind.Voltage, "V", 1m, 2, "V", "volt", "volts");
    /// <summary>Millivolt.</summary>
    public static readonly Unit Millivolt = Make(QuantityKind.Voltage, "mV", 0.001m, 0, "mV", "millivolt", "millivolts");

    /// <summary>Ampere.</summary>
    public static readonly Unit Ampere = Make(QuantityKind.Current, "A", 1m, 1, "A", "amp", "amps", "ampere", "amperes");
    /// <summary>Milliampere.</summary>
    public static readonly Unit Milliampere = Make(QuantityKind.Current, "mA", 0.001m, 0, "mA", "milliamp", "milliamps", "milliampere");

    /// <summary>Ohm.</summary>
    public static readonly Unit Ohm = Make(QuantityKind.Resistance, "ohm", 1m, 2, "ohm", "ohms", "Ω", "Ω", "R");
    /// <summary>Milliohm.</summary>
    public static readonly Unit Milliohm = Make(QuantityKind.Resistance, "mohm", 0.001m, 0, "mohm", "mohms", "mΩ", "mΩ", "milliohm", "milliohms");
    /// <summary>Kilohm.</summary>
    public static readonly Unit Kilohm = Make(QuantityKind.Resistance, "kohm", 1000m, 2, "kohm", "kohms", "kΩ", "kΩ", "kilohm", "kilohms", "k");
    /// <summary>Megohm. Only the capital M tells it from the milliohm.</summary>
    public static readonly Unit Megohm = Make(QuantityKind.Resistance, "Mohm", 1_000_000m, 2, "Mohm", "Mohms", "MΩ", "MΩ", "megohm", "megaohm", "megohms");

    /// <summary>Degree Celsius.</summary>
    public static readonly Unit DegreeCelsius = Make(QuantityKind.Temperature, "°C", 1m, 0, "°C", "C", "degC", "celsius");
    /// <summary>Degree Fahrenheit: t/°C = (t/°F − 32) / 1.8.</summary>
    public static readonly Unit DegreeFahrenheit = new(QuantityKind.Temperature, "°F", 1m / 1.8m, -32m / 1.8m, 0, ["°F", "F", "degF", "fahrenheit"]);

    /// <summary>Minute.</summary>
    public static readonly Unit Minute = Make(QuantityKind.Duration, "min", 1m, 0, "min", "mins", "minute", "minutes", "m");
    /// <summary>Second.</summary>
    public static readonly Unit Second = Make(QuantityKind.Duration, "s", 1m / 60m, 0, "s", "sec", "secs", "second", "seconds");
    /// <summary>Hour.</summary>
    public static readonly Unit Hour = Make(QuantityKind.Duration, "h", 60m, 2, "h", "hr", "hrs", "hour", "hours");

    /// <summary>Millimetre.</summary>
    public static readonly Unit Millimetre = Make(QuantityKind.Length, "mm", 1m, 1, "mm", "millimetre", "millimetres", "millimeter");
    /// <summary>Centimetre.</summary>
    public static readonly Unit Centimetre = Make(QuantityKind.Length, "cm", 10m, 1, "cm", "centimetre", "centimetres", "centimeter");
    /// <summary>Metre.</summary>
    public static readonly Unit Metre = Make(QuantityKind.Length, "m", 1000m, 3, "m", "metre", "metres", "meter");
    /// <summary>Inch, exact.</summary>
    public static readonly Unit Inch = Make(QuantityKind.Length, "in", 25.4m, 3, "in", "inch", "inches", "\"");

    /// <summary>One of the shop's own currency; printed without a sign.</summary>
    public static readonly Unit ShopCurrency = Make(QuantityKind.Money, "", 1m, 2);

    /// <summary>All units.</summary>
    public static IReadOnlyList<Unit> All { get; } =
    [
        NewtonMetre, PoundForceFoot, PoundForceInch, KilogramForceMetre, KilogramForceCentimetre,
        Volt, Millivolt, Ampere, Milliampere, Ohm, Milliohm, Kilohm, Megohm,
        DegreeCelsius, DegreeFahrenheit, Minute, Second, Hour, Millimetre, Centimetre, Metre, Inch, ShopCurrency,
    ];

    /// <summary>The units of one kind, the base unit first.</summary>
    public static IReadOnlyList<Unit> OfKind(QuantityKind kind) => [.. All.Where(unit => unit.Kind == kind)];

    /// <summary>The unit that Screeline prints with this symbol, or null.</summary>
    public static Unit? BySymbol(string symbol) => All.FirstOrDefault(unit => unit.Symbol == symbol);

    /// <summary>
    /// The unit of a kind that a person means by this spelling, or null. The exact spelling wins; otherwise capitals do not
    /// matter unless they would decide between two units (mohm and Mohm).
    /// </summary>
    public static Unit? Find(QuantityKind kind, string typed)
    {
        var bare = Bare(typed);
        var ofKind = OfKind(kind);
        var exact = ofKind.FirstOrDefault(unit => unit.Symbol == typed || unit.Spellings.Contains(bare, StringComparer.Ordinal));
        if (exact is not null)
        {
            return exact;
        }

        var loose = ofKind.Where(unit => unit.Spellings.Contains(bare, StringComparer.OrdinalIgnoreCase)).ToList();
        return loose.Count == 1 ? loose[0] : null;
    }

    private static string Bare(string typed) =>
        new([.. typed.Where(c => !char.IsWhiteSpace(c) && c is not ('.' or '-' or '·' or '*' or '⋅' or '/'))]);

    private static Unit Make(QuantityKind kind, string symbol, decimal factor, int decimals, params string[] spellings) =>
        new(kind, symbol, factor, 0m, decimals, spellings);
}
