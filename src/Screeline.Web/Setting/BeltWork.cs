using System.Text.Json.Nodes;
using Screeline.Core.Motion;
using Screeline.Web.Drawing;

namespace Screeline.Web.Setting;

/// <summary>Pulleys and the tension of a belt.</summary>
public sealed class BeltWork : SettingWork
{
    /// <summary>Works it out.</summary>
    public BeltWork(IReadOnlyDictionary<string, string> asked) : base(asked)
    {
        if (Number("rpm", 1, 20_000) is { } rpm && Number("drive", 5, 2000) is { } drive && Number("driven", 5, 2000) is { } driven)
        {
            (Ratio, Speed) = (drive / driven, BeltDrive.DrivenSpeed(rpm, drive, driven));
        }

        var span = Number("span", 10, 5000);
        Wanted = (Number("least", 1, 20_000), Number("most", 1, 20_000));
        if (Wanted is ({ } low, { } high) && low > high)
        {
            Faults["most"] = "Not below the lowest.";
        }

        if (span is { } l && Number("gpm", 1, 5000) is { } grams)
        {
            ByFrequency = Number("hertz", 1, 2000) is { } hertz ? BeltDrive.TensionByFrequency(grams / 1000, l / 1000, hertz) : null;
            WantedHertz = Wanted is ({ } a, { } b) ? (BeltDrive.FrequencyAt(grams / 1000, l / 1000, a), BeltDrive.FrequencyAt(grams / 1000, l / 1000, b)) : null;
        }

        if (span is { } s && Number("newtons", 1, 2000) is { } force && Number("depth", 0.1, 500) is { } depth)
        {
            if (depth > s / 4)
            {
                Faults["depth"] = "More than a quarter of the span: that belt is off.";
            }
            else
            {
                ByDeflection = BeltDrive.TensionByDeflection(force, s, depth);
            }
        }

        Picture = Draw(span, Number("drive", 5, 2000), Number("driven", 5, 2000), ByDeflection is null ? null : Number("depth", 0.1, 500));
        Verdict = SettingVerdicts.Belt(ByFrequency ?? ByDeflection, Wanted.Least, Wanted.Most, Speed);
    }

    // The two pulleys and the belt to scale, as far as they are known.
    private static SvgDrawing? Draw(double? span, double? drive, double? driven, double? depth)
    {
        if (drive is null && driven is null && span is null)
        {
            return null;
        }

        var (one, other, length) = (drive ?? 140, driven ?? 60, span ?? 300);
        // The free span is the tangent to both: the distance of the shafts is its hypotenuse.
        var shafts = Math.Sqrt(length * length + Math.Pow((one - other) / 2, 2));
        var width = shafts + one / 2 + other / 2;
        var scale = Math.Min(400 / width, 150 / Math.Max(one, other));
        var (x1, y, x2) = (40 + one / 2 * scale, 100.0, 40 + one / 2 * scale + shafts * scale);
        var tilt = Math.Asin((one - other) / 2 / shafts);
        (double, double) On(double x, double radius, int side) => (x + radius * scale * Math.Sin(tilt), y - side * radius * scale * Math.Cos(tilt));
        var svg = new SvgDrawing(480, 210, "Two pulleys and their belt", $"Driving {Text(one, 0)} mm, driven {Text(other, 0)} mm, free span {Text(length, 0)} mm");
        svg.Circle("d-outline d-inset", x1, y, one / 2 * scale);
        svg.Circle("d-outline d-inset", x2, y, other / 2 * scale);
        svg.Circle("d-solid", x1, y, 4);
        svg.Circle("d-solid", x2, y, 4);
        var (from, to) = (On(x1, one / 2, 1), On(x2, other / 2, 1));
        svg.Line("d-edge", depth is { } d ? [from, ((from.Item1 + to.Item1) / 2, (from.Item2 + to.Item2) / 2 + Math.Max(3, d * scale)), to] : [from, to]);
        svg.Line("d-edge", [On(x1, one / 2, -1), On(x2, other / 2, -1)]);
        svg.Words("d-text d-middle", x1, 204, $"{Text(one, 0)} mm{(drive is null ? "?" : "")}");
        svg.Words("d-text d-middle", Math.Max(x2, x1 + 110), 204, $"{Text(other, 0)} mm{(driven is null ? "?" : "")}");
        return svg;
    }

    /// <inheritdoc/>
    public override string Kind => "belt";

    /// <summary>Driving diameter over driven one.</summary>
    public double? Ratio { get; }

    /// <summary>Speed of the driven pulley, rev/min.</summary>
    public double? Speed { get; }

    /// <summary>Tension from the frequency, N.</summary>
    public double? ByFrequency { get; }

    /// <summary>Tension from pressing, N.</summary>
    public double? ByDeflection { get; }

    /// <summary>Tension wanted, N.</summary>
    public (double? Least, double? Most) Wanted { get; }

    /// <summary>The frequency to tune to.</summary>
    public (double Low, double High)? WantedHertz { get; }

    /// <inheritdoc/>
    public override IReadOnlyList<IReadOnlyList<string>> Table() =>
        [["ratio", "speed_rpm", "tension_by_frequency_n", "tension_by_deflection_n"], [Or(Ratio), Or(Speed), Or(ByFrequency), Or(ByDeflection)]];

    private static string Or(double? value) => value is { } v ? Text(v) : "";

    /// <inheritdoc/>
    public override JsonObject Json() => new()
    {
        ["ratio"] = Rounded(Ratio), ["speed_rpm"] = Rounded(Speed), ["tension_by_frequency_n"] = Rounded(ByFrequency), ["tension_by_deflection_n"] = Rounded(ByDeflection),
        ["wanted_hz"] = WantedHertz is { } h ? new JsonArray(Math.Round(h.Low, 2), Math.Round(h.High, 2)) : null,
    };

    private static double? Rounded(double? value) => value is { } v ? Math.Round(v, 4) : null;
}
