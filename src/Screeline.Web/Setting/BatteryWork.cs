using System.Text.Json.Nodes;
using Screeline.Core.Circuits;
using Screeline.Core.Motion;
using Screeline.Web.Drawing;

namespace Screeline.Web.Setting;

/// <summary>A battery at rest and under load.</summary>
public sealed class BatteryWork : SettingWork
{
    /// <summary>Works it out.</summary>
    public BatteryWork(IReadOnlyDictionary<string, string> asked) : base(asked)
    {
        InRow = Asked("volts") == "24" ? 2 : 1;
        Celsius = Number("celsius", -40, 80) ?? 20;
        var (rest, load, rating, amperes) = (Number("rest", 0, 32), Number("load", 0, 32), Number("cca", 50, 3000), Number("amperes", 1, 3000));
        Least = InRow * Battery.LoadTestVolts(Celsius);
        if (rest is { } r)
        {
            Charge = Battery.Charge(r / InRow);
        }

        Expected = rating is { } c && amperes is { } a && Charge is { } charge && !double.IsNaN(charge) ? InRow * (Battery.RestingVolts(charge) - a * Battery.OhmsFromRating(c, Celsius)) : null;
        TestAmperes = rating / 2;
        Picture = Charge is { } told && !double.IsNaN(told) ? Draw(told) : null;
        Verdict = SettingVerdicts.Battery(Charge, load, amperes is null ? Least : Math.Min(Least, Expected ?? Least));
    }

    private static SvgDrawing Draw(double charge)
    {
        var svg = new SvgDrawing(480, 96, "State of charge", $"{100 * charge:0} %");
        svg.Box("d-band", 12, 16, 456 * charge, 40);
        svg.Box("d-outline", 12, 16, 456, 40);
        // From here on it may be judged.
        svg.Line("d-edge", [(12 + 456 * 0.75, 8), (12 + 456 * 0.75, 64)]);
        svg.Words("d-text d-middle", 12 + 456 * 0.75, 88, "75 %");
        return svg;
    }

    /// <inheritdoc/>
    public override string Kind => "battery";

    /// <summary>Twelve-volt batteries in a row.</summary>
    public int InRow { get; }

    /// <summary>Temperature of the battery.</summary>
    public double Celsius { get; }

    /// <summary>State of charge; NaN for a dead cell; null when not measured.</summary>
    public double? Charge { get; }

    /// <summary>Lowest voltage after 15 s of load, V.</summary>
    public double Least { get; }

    /// <summary>Current of the load test, A.</summary>
    public double? TestAmperes { get; }

    /// <summary>Voltage a sound one has at the current that flows, V.</summary>
    public double? Expected { get; }

    /// <inheritdoc/>
    public override IReadOnlyList<IReadOnlyList<string>> Table() => [["charge_percent", "least_v", "test_a", "expected_v"], [Charge is { } c && !double.IsNaN(c) ? Text(100 * c, 0) : "", Text(Least, 2), TestAmperes is { } a ? Text(a, 0) : "", Expected is { } e ? Text(e, 2) : ""]];

    /// <inheritdoc/>
    public override JsonObject Json() => new() { ["charge"] = Charge is { } c && !double.IsNaN(c) ? Math.Round(c, 3) : null, ["least_v"] = Math.Round(Least, 3), ["test_a"] = TestAmperes, ["expected_v"] = Expected is { } e ? Math.Round(e, 3) : null };
}
