using FsCheck;
using FsCheck.Xunit;
using Screeline.Core.Quantities;

namespace Screeline.Core.Tests;

/// <summary>What people type, and what it is worth in other units.</summary>
public sealed class QuantityTests
{
    [Theory]
    [InlineData(QuantityKind.Voltage, "12,4 V", "12.4", "V")]
    [InlineData(QuantityKind.Voltage, "9.6v", "9.6", "V")]
    [InlineData(QuantityKind.Voltage, "350 mV", "350", "mV")]
    [InlineData(QuantityKind.Voltage, " -0.2 volts ", "-0.2", "V")]
    [InlineData(QuantityKind.Voltage, ".5", "0.5", "V")]
    [InlineData(QuantityKind.Voltage, "12.40", "12.40", "V")]
    [InlineData(QuantityKind.Resistance, "0.2 ohm", "0.2", "ohm")]
    [InlineData(QuantityKind.Resistance, "20 mohm", "20", "mohm")]
    [InlineData(QuantityKind.Resistance, "1 Mohm", "1", "Mohm")]
    [InlineData(QuantityKind.Resistance, "4.7kΩ", "4.7", "kohm")]
    [InlineData(QuantityKind.Torque, "22 lb-ft", "22", "lbf·ft")]
    [InlineData(QuantityKind.Torque, "90 in-lb", "90", "lbf·in")]
    [InlineData(QuantityKind.Torque, "90 lbf·in", "90", "lbf·in")]
    [InlineData(QuantityKind.Torque, "47 Nm", "47", "N·m")]
    [InlineData(QuantityKind.Torque, "47 N.m", "47", "N·m")]
    [InlineData(QuantityKind.Torque, "4,8 kgf m", "4.8", "kgf·m")]
    [InlineData(QuantityKind.Duration, "1 h 20", "80", "min")]
    [InlineData(QuantityKind.Duration, "1:05", "65", "min")]
    [InlineData(QuantityKind.Duration, "2h05m", "125", "min")]
    [InlineData(QuantityKind.Duration, "90 min", "90", "min")]
    [InlineData(QuantityKind.Duration, "1.5 h", "1.5", "h")]
    [InlineData(QuantityKind.Temperature, "-7 °C", "-7", "°C")]
    [InlineData(QuantityKind.Temperature, "−7 C", "-7", "°C")]
    [InlineData(QuantityKind.Temperature, "70 F", "70", "°F")]
    [InlineData(QuantityKind.Length, "5/16", null, null)]
    [InlineData(QuantityKind.Length, "0.25 in", "0.25", "in")]
    [InlineData(QuantityKind.Current, "180A", "180", "A")]
    [InlineData(QuantityKind.Money, "12,50", "12.50", "")]
    public void Reads_what_people_type(QuantityKind kind, string typed, string? number, string? symbol)
    {
        var parsed = QuantityParser.Read(kind, typed, kind == QuantityKind.Money ? null : Units.OfKind(kind)[0]);
        if (number is null)
        {
            Assert.False(parsed.Ok);
            return;
        }

        Assert.True(parsed.Ok, parsed.Reason);
        Assert.Equal(number, parsed.Figure!.Value.Number.ToString(System.Globalization.CultureInfo.InvariantCulture));
        Assert.Equal(symbol, parsed.Figure.Value.Unit.Symbol);
    }

    [Theory]
    [InlineData(QuantityKind.Voltage, "", "Nothing was typed")]
    [InlineData(QuantityKind.Voltage, "abc", "not a figure")]
    [InlineData(QuantityKind.Voltage, "12 A", "measures a current")]
    [InlineData(QuantityKind.Voltage, "1,234.5 V", "two separators")]
    [InlineData(QuantityKind.Voltage, "12 furlongs", "not a unit")]
    [InlineData(QuantityKind.Voltage, "99999999999999999999999999999999 V", "beyond anything")]
    [InlineData(QuantityKind.Voltage, "1e5 V", "not a figure")]
    [InlineData(QuantityKind.Voltage, "12.4 V 12.4 V 12.4 V 12.4 V 12.4 V 12.4 V 12.4 V", "Longer than")]
    [InlineData(QuantityKind.Torque, "-5 Nm", "without its sign")]
    [InlineData(QuantityKind.Temperature, "-300 °C", "below absolute zero")]
    [InlineData(QuantityKind.Resistance, "-1 ohm", "cannot be negative")]
    [InlineData(QuantityKind.Duration, "1 h 75", "75 minutes past the hour")]
    [InlineData(QuantityKind.Torque, "12 mV", "measures a voltage")]
    public void Refuses_nonsense_with_a_reason(QuantityKind kind, string typed, string reason)
    {
        var parsed = QuantityParser.Read(kind, typed);
        Assert.False(parsed.Ok);
        Assert.Contains(reason, parsed.Reason, StringComparison.Ordinal);
    }

    [Fact]
    public void A_bare_number_needs_a_unit_unless_one_stands_beside_the_field()
    {
        Assert.Contains("no unit", QuantityParser.Read(QuantityKind.Voltage, "12.4").Reason, StringComparison.Ordinal);
        Assert.Equal(Units.Millivolt, QuantityParser.Read(QuantityKind.Voltage, "12.4", Units.Millivolt).Figure!.Value.Unit);
    }

    [Fact]
    public void Only_the_capital_tells_milliohm_from_megohm()
    {
        Assert.Equal(Units.Milliohm, Units.Find(QuantityKind.Resistance, "mohm"));
        Assert.Equal(Units.Megohm, Units.Find(QuantityKind.Resistance, "Mohm"));
        Assert.Null(Units.Find(QuantityKind.Resistance, "MOHM"));
    }

    /// <summary>NIST Special Publication 811 (2008), appendix B.8, factors as printed there (values from memory of the table).</summary>
    [Theory]
    [InlineData("lbf·ft", 1.355818)]
    [InlineData("lbf·in", 0.1129848)]
    [InlineData("kgf·m", 9.80665)]
    [InlineData("kgf·cm", 0.0980665)]
    public void Torque_factors_agree_with_NIST_SP_811(string symbol, double newtonMetres)
    {
        var factor = new Figure(1, Units.BySymbol(symbol)!).As<Torque>().NewtonMetres;
        Assert.InRange((double)factor, newtonMetres * (1 - 5e-7), newtonMetres * (1 + 5e-7));
    }

    /// <summary>NIST SP 811, 4.2.1.1 and B.8: the Fahrenheit scale and the inch.</summary>
    [Theory]
    [InlineData(32, 0)]
    [InlineData(212, 100)]
    [InlineData(-40, -40)]
    public void Fahrenheit_agrees_with_NIST_SP_811(int fahrenheit, int celsius) =>
        Assert.Equal(celsius, Math.Round(new Figure(fahrenheit, Units.DegreeFahrenheit).As<Temperature>().DegreesCelsius, 20));

    [Theory]
    [InlineData("47", "N·m", "lbf·ft", "34.7 lbf·ft")]
    [InlineData("27", "lbf·in", "N·m", "3.1 N·m")]
    [InlineData("22", "N·m", "lbf·in", "195 lbf·in")]
    [InlineData("0.18", "V", "mV", "180 mV")]
    [InlineData("350", "mV", "V", "0.35 V")]
    [InlineData("5", "mV", "V", "0.005 V")]
    public void Tells_a_figure_in_another_unit(string number, string unit, string other, string told) =>
        Assert.Equal(told, new Figure(decimal.Parse(number, System.Globalization.CultureInfo.InvariantCulture), Units.BySymbol(unit)!).Format(Units.BySymbol(other)!));

    [Fact]
    public void Kinds_do_not_mix()
    {
        Assert.Throws<QuantityException>(() => new Figure(5, Units.Volt).As<Torque>());
        Assert.Throws<QuantityException>(() => new Figure(5, Units.Volt).In(Units.Ampere));
    }

    [Property]
    public bool There_and_back_loses_nothing_that_can_be_read(DoNotSize<int> thousandths, PositiveInt pick)
    {
        var unit = Units.All[pick.Get % Units.All.Count];
        var figure = new Figure(thousandths.Item % 1_000_000 / 1000m, unit);
        return Units.OfKind(unit.Kind).All(other => Math.Abs(figure.In(other).In(unit).Number - figure.Number) < 1e-12m);
    }

    [Property]
    public bool What_is_printed_is_read_back(DoNotSize<int> thousandths, PositiveInt pick)
    {
        var unit = Units.All[pick.Get % Units.All.Count];
        var figure = new Figure(Math.Abs(thousandths.Item % 100_000) / 1000m, unit);
        var read = QuantityParser.Read(unit.Kind, figure.ToString()).Figure;
        // What is open is open, however many ohms.
        return figure.ToString() == "open" ? read?.ToString() == "open" : read == figure;
    }

    [Property]
    public bool No_text_breaks_the_reader(string? text) =>
        Enum.GetValues<QuantityKind>().All(kind => QuantityParser.Read(kind, text) is var p && p.Ok == (p.Reason is null));
}
