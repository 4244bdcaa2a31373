using Screeline.Core.Circuits;
using Screeline.Core.People;
using Screeline.Core.Quantities;
using Screeline.Web.SignIn;

namespace Screeline.Web.Pages.Bench;

/// <summary>Volts lost in a cable.</summary>
[Allow(Role.Viewer, Role.Viewer)]
public sealed class WireModel : BenchPage
{
    public override string Title => "Wire drop";

    public double? Section { get; private set; }

    public double? Metres { get; private set; }

    public double? Amperes { get; private set; }

    public double Celsius { get; private set; } = 20;

    public double? Ohms { get; private set; }

    public double? Drop => Ohms * Amperes;

    /// <summary>Sections to compare with.</summary>
    public static IReadOnlyList<double> Sections => Wire.Sections;

    /// <summary>Most volts that may be lost.</summary>
    public double? Limit { get; private set; }

    /// <summary>The smallest section that holds the limit; null when none does or nothing is asked.</summary>
    public double? Needed { get; private set; }

    public void OnGet()
    {
        Metres = Number("metres", 0.01, 200);
        Amperes = Number("amperes", 0.001, 3000);
        Celsius = Number("celsius", -40, 150) ?? 20;
        Limit = Number("limit", 0.001, 48);
        Needed = Limit is { } limit && Metres is { } length && Amperes is { } current ? Wire.SectionFor(length, current, limit, Celsius) : null;
        var text = Asked("section");
        if (text.StartsWith("AWG", StringComparison.OrdinalIgnoreCase))
        {
            var gauge = text[3..].Trim();
            var number = gauge.EndsWith("/0", StringComparison.Ordinal) && int.TryParse(gauge[..^2], out var zeros) ? 1 - zeros : int.TryParse(gauge, out var n) ? n : 99;
            if (number is >= -3 and <= 30)
            {
                Section = Wire.GaugeSection(number);
            }
            else
            {
                Faults["section"] = "AWG 30 to AWG 4/0, or mm².";
            }
        }
        else
        {
            Section = Number("section", 0.05, 400);
            if (Faults.ContainsKey("section"))
            {
                Faults["section"] = "mm², for example 35, or AWG 2.";
            }
        }

        if (Section is { } section && Metres is { } metres)
        {
            Ohms = Wire.Ohms(metres, section, Celsius);
        }
    }

    /// <summary>Volts as told.</summary>
    public static string Volts(double volts) => new Figure((decimal)volts, Units.Volt).Format(Math.Abs(volts) < 0.1 ? Units.Millivolt : Units.Volt);
}
