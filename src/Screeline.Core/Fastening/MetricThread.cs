using System.Globalization;
using System.Text.RegularExpressions;

namespace Screeline.Core.Fastening;

/// <summary>An ISO metric screw thread. Geometry: ISO 68-1 and ISO 724; stress area: ISO 898-1.</summary>
/// <param name="Diameter">Nominal diameter d, mm.</param>
/// <param name="Pitch">Pitch P, mm.</param>
/// <param name="LeftHand">Whether it is left-handed: tightened against the clock.</param>
public sealed partial record MetricThread(double Diameter, double Pitch, bool LeftHand = false)
{
    /// <summary>Coarse pitches by nominal diameter, mm (ISO 261).</summary>
    public static IReadOnlyDictionary<double, double> Coarse { get; } = new Dictionary<double, double>
    {
        [1.6] = 0.35, [2] = 0.4, [2.5] = 0.45, [3] = 0.5, [3.5] = 0.6, [4] = 0.7, [5] = 0.8, [6] = 1, [7] = 1, [8] = 1.25, [10] = 1.5, [12] = 1.75, [14] = 2,
        [16] = 2, [18] = 2.5, [20] = 2.5, [22] = 2.5, [24] = 3, [27] = 3, [30] = 3.5, [33] = 3.5, [36] = 4, [39] = 4,
    };

    /// <summary>Pitch diameter d2 = d − 0.649 519 P, mm.</summary>
    public double PitchDiameter => Diameter - 0.649519 * Pitch;

    /// <summary>Minor diameter of the external thread d3 = d − 1.226 869 P, mm.</summary>
    public double MinorDiameter => Diameter - 1.226869 * Pitch;

    /// <summary>Tensile stress area As = π/4 · ((d2 + d3)/2)², mm².</summary>
    public double StressArea => Math.PI / 4 * StressDiameter * StressDiameter;

    /// <summary>Diameter of the circle with the stress area, (d2 + d3)/2, mm.</summary>
    public double StressDiameter => (PitchDiameter + MinorDiameter) / 2;

    /// <summary>Whether the pitch is the coarse one.</summary>
    public bool IsCoarse => Coarse.TryGetValue(Diameter, out var coarse) && Math.Abs(coarse - Pitch) < 1e-9;

    /// <summary>Bearing diameter under a hexagon head, mm: minimum dw of ISO 4014, grade A; beyond the table 0.95 of the width across flats.</summary>
    public double HeadBearingDiameter => HeadBearing.GetValueOrDefault(Diameter, 1.6 * Diameter * 0.95);

    /// <summary>Clearance hole, mm: medium series of ISO 273; beyond the table 1.1 times the diameter.</summary>
    public double ClearanceHole => Holes.GetValueOrDefault(Diameter, 1.1 * Diameter);

    /// <summary>Reads "M8", "M8x1", "M10 × 1.25", "M14x1.5 LH".</summary>
    /// <returns>The thread, or the reason in words.</returns>
    public static (MetricThread? Thread, string? Reason) Read(string? text)
    {
        var match = Pattern().Match((text ?? "").Trim());
        if (!match.Success)
        {
            return (null, $"“{text}” is not a metric thread. For example M8, or M10x1.25 for a fine one.");
        }

        static double Number(string digits) => double.Parse(digits.Replace(',', '.'), CultureInfo.InvariantCulture);
        var diameter = Number(match.Groups["d"].Value);
        var left = match.Groups["left"].Success;
        if (!match.Groups["p"].Success)
        {
            return Coarse.TryGetValue(diameter, out var coarse) ? (new MetricThread(diameter, coarse, left), null)
                : (null, $"M{diameter.ToString(CultureInfo.InvariantCulture)} is not a size of ISO 261. Write its pitch too, for example M9x1.25.");
        }

        var pitch = Number(match.Groups["p"].Value);
        return diameter is < 1 or > 100 || pitch < 0.2 || pitch > diameter / 3 ? (null, $"A pitch of {match.Groups["p"].Value} on {match.Groups["d"].Value} mm cannot be.")
            : (new MetricThread(diameter, pitch, left), null);
    }

    /// <inheritdoc/>
    public override string ToString() => string.Create(CultureInfo.InvariantCulture, $"M{Diameter}{(IsCoarse ? "" : $"x{Pitch}")}{(LeftHand ? " LH" : "")}");

    private static readonly Dictionary<double, double> HeadBearing = new()
    {
        [3] = 4.57, [4] = 5.88, [5] = 6.88, [6] = 8.88, [8] = 11.63, [10] = 14.63, [12] = 16.63, [14] = 19.64, [16] = 22.49, [18] = 25.34, [20] = 28.19, [22] = 31.71, [24] = 33.61,
    };

    private static readonly Dictionary<double, double> Holes = new()
    {
        [3] = 3.4, [4] = 4.5, [5] = 5.5, [6] = 6.6, [8] = 9, [10] = 11, [12] = 13.5, [14] = 15.5, [16] = 17.5, [18] = 20, [20] = 22, [22] = 24, [24] = 26, [27] = 30, [30] = 33,
    };

    [GeneratedRegex(@"^M\s*(?<d>\d{1,2}(?:[.,]\d)?)(?:\s*[x×*]\s*(?<p>\d(?:[.,]\d{1,2})?))?(?<left>\s*-?\s*LH)?$", RegexOptions.IgnoreCase)]
    private static partial Regex Pattern();
}

/// <summary>Strength class of a bolt. Steel: ISO 898-1, table 3; stainless: ISO 3506-1.</summary>
/// <param name="Name">"8.8", "10.9", "A2-70" …</param>
public sealed record StrengthClass(string Name)
{
    private static readonly Dictionary<string, (double Proof, double Yield)> Stresses = new(StringComparer.Ordinal)
    {
        ["4.6"] = (225, 240), ["4.8"] = (310, 340), ["5.6"] = (280, 300), ["5.8"] = (380, 420), ["6.8"] = (440, 480), ["8.8"] = (580, 640), ["9.8"] = (650, 720),
        ["10.9"] = (830, 940), ["12.9"] = (970, 1100), ["A2-50"] = (210, 210), ["A2-70"] = (450, 450), ["A4-80"] = (600, 600),
    };

    /// <summary>All classes known here.</summary>
    public static IReadOnlyList<string> Names { get; } = [.. Stresses.Keys];

    /// <summary>The class of this name, or null.</summary>
    public static StrengthClass? Parse(string? name) => name is not null && Stresses.ContainsKey(name) ? new StrengthClass(name) : null;

    /// <summary>Nominal stress under proof load, MPa; 8.8 has 580 to M16 and 600 above.</summary>
    public double ProofStress(MetricThread thread) => Name == "8.8" && thread.Diameter > 16 ? 600 : Stresses[Name].Proof;

    /// <summary>Least 0.2 % yield, MPa; 8.8 has 640 to M16 and 660 above.</summary>
    public double Yield(MetricThread thread) => Name == "8.8" && thread.Diameter > 16 ? 660 : Stresses[Name].Yield;

    /// <summary>Proof load, N.</summary>
    public double ProofLoad(MetricThread thread) => ProofStress(thread) * thread.StressArea;
}
