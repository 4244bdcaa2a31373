using System.Text.Json.Nodes;
using Screeline.Core.Motion;
using Screeline.Web.Drawing;

namespace Screeline.Web.Setting;

/// <summary>Ten stops of a wiper: does it find its place again?</summary>
public sealed class ParkWork : SettingWork
{
    /// <summary>Works it out.</summary>
    public ParkWork(IReadOnlyDictionary<string, string> asked) : base(asked)
    {
        Stops = [.. Enumerable.Range(1, 10).Select(i => Number($"s{i}", -300, 800)).TakeWhile(s => s is not null).Select(s => s!.Value)];
        // A stop left out is no end of the row while later ones are there.
        if (Enumerable.Range(1, 10).Reverse().FirstOrDefault(i => Asked($"s{i}").Length > 0) is var last && last > Stops.Count && !Faults.ContainsKey($"s{Stops.Count + 1}"))
        {
            Faults[$"s{Stops.Count + 1}"] = "This stop is missing; later ones are there.";
        }

        bool? alternating = Asked("drive") switch { "alternating" => true, "one" => false, _ => null };
        Result = Faults.Count == 0 && Stops.Count > 0 ? ParkStops.Judge(Stops, alternating) : null;
        if (Result is null)
        {
            return;
        }

        Verdict = SettingVerdicts.Park(Result, Stops.Count);
        Picture = Draw();
    }

    /// <inheritdoc/>
    public override string Kind => "park";

    /// <summary>The stops in order, mm.</summary>
    public IReadOnlyList<double> Stops { get; }

    /// <summary>What they say; null without stops.</summary>
    public ParkStops? Result { get; }

    // Stops in their order from left to right, their height up; a line for the mean of each place.
    private SvgDrawing Draw()
    {
        var (low, high) = (Math.Min(Stops.Min(), 0) - 4, Math.Max(Stops.Max(), 10) + 4);
        double Y(double stop) => 20 + 260 * (high - stop) / (high - low);
        var svg = new SvgDrawing(720, 320, "Height of the tip at each stop", string.Join(", ", Stops.Select(s => $"{Text(s, 1)} mm")));
        svg.Line("d-edge", [(96, Y(0)), (700, Y(0))]);
        svg.Words("d-text d-end", 86, Y(0) + 5, "Cowl");
        foreach (var place in Result!.Places)
        {
            svg.Box("d-band", 96, Y(place.Mean + place.Spread), 604, Y(place.Mean - place.Spread) - Y(place.Mean + place.Spread));
            svg.Line("d-outline", [(96, Y(place.Mean)), (700, Y(place.Mean))]);
            svg.Words("d-text d-end", 86, Y(place.Mean) + 5, Text(place.Mean, 1));
        }

        foreach (var (stop, i) in Stops.Select((s, i) => (s, i)))
        {
            var (x, y) = (124 + i * 60.0, Y(stop));
            svg.Line("d-travelled", [(x - 12, y + 6), (x + 12, y - 6)]);
            svg.Words("d-number", x, 312, (i + 1).ToString(System.Globalization.CultureInfo.InvariantCulture));
        }

        return svg;
    }

    /// <inheritdoc/>
    public override IReadOnlyList<IReadOnlyList<string>> Table() => [["stop", "height_mm", "place"], .. Stops.Select((s, i) => (IReadOnlyList<string>)[Text(i + 1), Text(s), Text((Result?.PlaceOf[i] ?? 0) + 1)])];

    /// <inheritdoc/>
    public override JsonObject Json() => ToJson(Stops, Result);

    /// <summary>Stops and their verdict as JSON.</summary>
    public static JsonObject ToJson(IReadOnlyList<double> stops, ParkStops? result) => new()
    {
        ["stops_mm"] = new JsonArray([.. stops.Select(s => (JsonNode)s)]), ["verdict"] = result?.Verdict.ToString(), ["drift_mm_per_stop"] = result is null ? null : Math.Round(result.Drift, 3),
        ["places"] = new JsonArray([.. (result?.Places ?? []).Select(p => (JsonNode)new JsonObject { ["count"] = p.Count, ["mean_mm"] = Math.Round(p.Mean, 3), ["spread_mm"] = Math.Round(p.Spread, 3) })]),
    };
}
