using Screeline.Core.Formats;
using Screeline.Core.Motion;

namespace Screeline.Library;

/// <summary>A window as the library knows it: motor, glass and good runs.</summary>
public sealed record WindowTemplate(string Id, IReadOnlyList<string> Models, string Title, WindowLift Lift, double WidthMillimetres, WindowRun Up, WindowRun Down);

/// <summary>An actuator as specified.</summary>
public sealed record ActuatorTemplate(string Id, IReadOnlyList<string> Models, string Title, double StrokeCounts, double ToleranceCounts, double? CountsPerDegree, double? LargestBacklash, double? LargestMoving);

/// <summary>A wheel that is balanced.</summary>
public sealed record RotorTemplate(string Id, IReadOnlyList<string> Models, string Title, double Kilograms, double RevolutionsPerMinute, int Blades, double RadiusMillimetres);

/// <summary>What is known of settings on models of the fleet.</summary>
public sealed record SettingData(IReadOnlyList<WindowTemplate> Windows, IReadOnlyList<ActuatorTemplate> Actuators, IReadOnlyList<RotorTemplate> Rotors)
{
    internal static SettingData Read(List<FormatFault> faults) => new(
        ShippedLibrary.ReadList("settings.json", "windows", r => new WindowTemplate(
            r.Text("id"), r.Texts("models"), r.Text("title"),
            new WindowLift(Above(r, "newtons_per_ampere"), Above(r, "idle_amperes"), Above(r, "ohms"), Above(r, "glass_kilograms")), Above(r, "width_mm"),
            Run(r, GlassWay.Up, "up"), Run(r, GlassWay.Down, "down")), faults),
        ShippedLibrary.ReadList("settings.json", "actuators", r => new ActuatorTemplate(
            r.Text("id"), r.Texts("models"), r.Text("title"), Above(r, "stroke_counts"), Above(r, "tolerance_counts"), (double?)r.OptionalNumber("counts_per_degree", 0.001m), (double?)r.OptionalNumber("largest_backlash_deg", 0.001m), (double?)r.OptionalNumber("largest_moving_amperes", 0.001m)), faults),
        ShippedLibrary.ReadList("settings.json", "rotors", r => new RotorTemplate(
            r.Text("id"), r.Texts("models"), r.Text("title"), Above(r, "kilograms"), Above(r, "revolutions_per_minute"), r.Whole("blades", 3, 200), Above(r, "radius_mm")), faults));

    private static double Above(JsonReader r, string key) => (double)r.Number(key, 0.0001m, 1_000_000);

    // Evenly spaced along the way, from the bottom up.
    private static WindowRun Run(JsonReader r, GlassWay way, string name)
    {
        var amperes = r.Get($"{name}_amperes") is { ValueKind: System.Text.Json.JsonValueKind.Array } list ? list.EnumerateArray().Select(n => n.GetDouble()).ToList() : [];
        if (amperes.Count < 5)
        {
            r.Fault("at least five currents, evenly spaced, from the bottom up", $"{name}_amperes");
            amperes = [0, 0, 0, 0, 0];
        }

        return WindowRun.From(way, Above(r, $"{name}_seconds"), amperes.Select((a, i) => (i / (amperes.Count - 1.0), a)));
    }
}
