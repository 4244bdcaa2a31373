using System.Text.Json.Nodes;
using Screeline.Core.Motion;
using Screeline.Library;
using Screeline.Web.Drawing;

namespace Screeline.Web.Setting;

/// <summary>A window's travel: current against its band, friction, tilt, margin, and the order of setting it.</summary>
public sealed class WindowWork : SettingWork
{
    /// <summary>Works it out.</summary>
    public WindowWork(IReadOnlyDictionary<string, string> asked, ShippedLibrary library, string? model, IReadOnlyList<IReadOnlyDictionary<string, string>> held) : base(asked)
    {
        Windows = library.Settings.Windows;
        Template = Windows.FirstOrDefault(w => w.Id == Asked("window")) ?? Windows.FirstOrDefault(w => model is not null && w.Models.Contains(model)) ?? Windows[0];
        var lift = Template.Lift;
        Lift = new WindowLift(Number("npa", 0.1, 1000) ?? lift.NewtonsPerAmpere, Number("idle", 0, 50) ?? lift.IdleAmperes, Number("ohms", 0.01, 100) ?? lift.Ohms, Number("kg", 0.1, 100) ?? lift.GlassKilograms);
        Runs = [.. new[] { Run(GlassWay.Up, "up", "ups"), Run(GlassWay.Down, "down", "downs") }.OfType<WindowRun>()];
        List<WindowRun> good = [.. Goods("gup", GlassWay.Up), .. Goods("gdown", GlassWay.Down)];
        FromVehicle = good.Count == 0 && held.Count > 0;
        if (FromVehicle)
        {
            // The same door: runs kept on another one say nothing here.
            good = [.. held.Where(h => (h.GetValueOrDefault("window") ?? Template.Id) == Template.Id)
                .SelectMany(h => new[] { (GlassWay.Up, h.GetValueOrDefault("ups"), h.GetValueOrDefault("up")), (GlassWay.Down, h.GetValueOrDefault("downs"), h.GetValueOrDefault("down")) })
                .Select(r => Good(r.Item1, r.Item2 ?? "", r.Item3 ?? "")).OfType<WindowRun>()];
            FromVehicle = good.Count > 0;
        }

        FromTemplate = good.Count == 0;
        if (FromTemplate)
        {
            good = [Template.Up, Template.Down];
        }

        Bands = good.GroupBy(r => r.Way).ToDictionary(g => g.Key, g => WindowBand.FromRuns([.. g]));
        (Volts, Celsius) = (Number("volts", 5, 32) ?? 9.5, Number("cold", -60, 60) ?? -15);
        ReadTilt();
        Trap = Number("trap", 0, 2000);
        if (Number("stalled", 0, 600) is { } stalled)
        {
            Heat = ThermalCutOut.After(stalled, Number("ran", 0, 600) ?? 0, 60 * (Number("rested", 0, 600) ?? 0));
        }

        if (Runs.Count > 0)
        {
            Answer = WindowTravel.Judge(Runs, Bands, Lift);
            if (Answer.Friction is { } friction)
            {
                var worst = Enumerable.Range(0, WindowRun.Steps).Where(i => WindowTravel.Counts(GlassWay.Up, i) && WindowTravel.Counts(GlassWay.Down, i)).Max(i => friction[i]);
                Margin = WindowTravel.Margin(Lift, worst, Volts, Celsius);
            }

            Picture = Draw();
            FrictionPicture = Answer.Friction is { } rubbing ? DrawFriction(rubbing) : null;
        }

        Verdict = SettingVerdicts.Window(Answer, Runs.Count == 2, [.. Tilts.Select(t => t.Millimetres)], Margin, Trap, Heat, WindowOrder.Steps.All(s => Ticked(s.Id)));
    }

    /// <inheritdoc/>
    public override string Kind => "window";

    /// <summary>Windows of the library.</summary>
    public IReadOnlyList<WindowTemplate> Windows { get; }

    /// <summary>The one it starts from.</summary>
    public WindowTemplate Template { get; }

    /// <summary>Motor and glass.</summary>
    public WindowLift Lift { get; }

    /// <summary>The runs typed or imported.</summary>
    public IReadOnlyList<WindowRun> Runs { get; }

    /// <summary>Bands by way.</summary>
    public IReadOnlyDictionary<GlassWay, WindowBand> Bands { get; }

    /// <summary>Whether the band is the library's, not this vehicle's own.</summary>
    public bool FromTemplate { get; }

    /// <summary>Whether the band is of runs that held on this vehicle in earlier jobs.</summary>
    public bool FromVehicle { get; }

    /// <summary>What the runs say; null without one.</summary>
    public WindowAnswer? Answer { get; }

    /// <summary>Lowest supply, V.</summary>
    public double Volts { get; }

    /// <summary>Lowest temperature, °C.</summary>
    public double Celsius { get; }

    /// <summary>Force there is and force that is needed; null without a run each way.</summary>
    public (double Available, double Needed)? Margin { get; }

    /// <summary>Tilt at each place where both corners were measured: share of the way up, mm that the rear hangs lower, degrees.</summary>
    public IReadOnlyList<(string Place, double Millimetres, double Degrees)> Tilts { get; private set; } = [];

    /// <summary>Closing force on a trapped test piece, N.</summary>
    public double? Trap { get; }

    /// <summary>State of the thermal cut-out; null when nothing is said of stalls.</summary>
    public (CutOut State, double SecondsToWait)? Heat { get; }

    /// <summary>Whether a step of the order is ticked.</summary>
    public bool Ticked(string step) => Asked($"did-{step}").Length > 0;

    private WindowRun? Run(GlassWay way, string field, string seconds)
    {
        var amperes = Numbers(field, 0, 200, 201);
        var time = Number(seconds, 0.2, 120);
        if (amperes.Count == 0)
        {
            return null;
        }

        if (amperes.Count < 5)
        {
            Faults[field] = "At least five currents, evenly spaced along the way.";
            return null;
        }

        if (time is null)
        {
            Faults.TryAdd(seconds, "How long did it take, in seconds?");
            return null;
        }

        return WindowRun.From(way, time.Value, amperes.Select((a, i) => (i / (amperes.Count - 1.0), a)));
    }

    // Good runs of this vehicle: "seconds: currents | seconds: currents".
    private List<WindowRun> Goods(string field, GlassWay way)
    {
        var runs = new List<WindowRun>();
        foreach (var run in Asked(field).Split('|', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries))
        {
            if (run.Split(':') is not [var seconds, var amperes] || Good(way, seconds, amperes) is not { } read)
            {
                Faults[field] = "Seconds, a colon, then at least five currents; runs are parted by |.";
                return [];
            }

            runs.Add(read);
        }

        return runs;
    }

    private static WindowRun? Good(GlassWay way, string seconds, string amperes)
    {
        var currents = amperes.Split([' ', ';', '\n', '\r', '\t'], StringSplitOptions.RemoveEmptyEntries).Select(Read).ToList();
        return Read(seconds) is { } time and >= 0.2 and <= 120 && currents.Count is >= 5 and <= 201 && currents.All(a => a is >= 0 and <= 200)
            ? WindowRun.From(way, time, currents.Select((a, i) => (i / (currents.Count - 1.0), a!.Value))) : null;
    }

    private void ReadTilt()
    {
        var width = Number("width", 50, 3000) ?? Template.WidthMillimetres;
        var tilts = new List<(string, double, double)>();
        foreach (var (place, title) in new[] { ("t", "up"), ("m", "half way"), ("b", "down") })
        {
            if (Number($"front{place}", -2000, 2000) is { } front && Number($"rear{place}", -2000, 2000) is { } rear)
            {
                tilts.Add((title, front - rear, WindowTravel.Tilt(front, rear, width)));
            }
        }

        Tilts = tilts;
    }

    /// <summary>Friction over the way; null without a run each way.</summary>
    public SvgDrawing? FrictionPicture { get; }

    private static SvgDrawing DrawFriction(IReadOnlyList<double> friction)
    {
        int[] steps = [.. Enumerable.Range(0, WindowRun.Steps).Where(i => WindowTravel.Counts(GlassWay.Up, i) && WindowTravel.Counts(GlassWay.Down, i))];
        var most = Math.Max(50, steps.Max(i => friction[i]) * 1.15);
        double X(int i) => 88 + 616 * WindowRun.Position(i);
        double Y(double n) => 12 + 130 * (1 - Math.Clamp(n / most, 0, 1));
        var svg = new SvgDrawing(720, 160, "Friction against position", $"{Text(steps.Min(i => friction[i]), 0)} to {Text(steps.Max(i => friction[i]), 0)} N");
        foreach (var n in new[] { 0, most > 150 ? 100.0 : 50 })
        {
            svg.Line("d-hair", [(88, Y(n)), (704, Y(n))]);
            svg.Words("d-text-aside d-end", 80, Y(n) + 5, $"{n:0} N");
        }

        svg.Line("d-edge", steps.Select(i => (X(i), Y(friction[i]))));
        return svg;
    }

    private SvgDrawing Draw()
    {
        var (w, h, x0, y0) = (720.0, 430.0, 72.0, 16.0);
        var most = Math.Max(Bands.Values.SelectMany(b => b.High).Max(), Runs.SelectMany(r => r.Amperes.Where((_, i) => WindowTravel.Counts(r.Way, i))).Max()) * 1.1;
        var svg = new SvgDrawing(w, h, "Current against position", string.Join("; ", Runs.Select(r => $"{(r.Way == GlassWay.Up ? "up" : "down")} {Text(r.Seconds, 1)} s, {Text(r.Amperes.Average(), 1)} A on average")) + ". " + string.Join("; ", Answer!.Said.Select(s => s.What)));
        double X(int i) => x0 + (w - x0 - 16) * WindowRun.Position(i);
        double Y(double a) => y0 + (h - y0 - 44) * (1 - Math.Clamp(a / most, 0, 1));
        int[] Steps(GlassWay way) => [.. Enumerable.Range(0, WindowRun.Steps).Where(i => WindowTravel.Counts(way, i))];
        foreach (var (way, band) in Bands)
        {
            svg.Line("d-band", [.. Steps(way).Select(i => (X(i), Y(band.High[i]))), .. Steps(way).Reverse().Select(i => (X(i), Y(band.Low[i])))], closed: true);
        }

        for (var a = 0; a <= most; a += most > 12 ? 4 : 2)
        {
            svg.Line("d-hair", [(x0, Y(a)), (w - 16, Y(a))]);
            svg.Words("d-text-aside d-end", x0 - 8, Y(a) + 5, $"{a} A");
        }

        foreach (var run in Runs)
        {
            svg.Line(run.Way == GlassWay.Up ? "d-edge" : "d-edge d-either", Steps(run.Way).Select(i => (X(i), Y(run.Amperes[i]))));
            var at = Steps(run.Way)[run.Way == GlassWay.Up ? ^8 : 6];
            svg.Words("d-text-strong d-halo", X(at) - 20, Y(run.Amperes[at]) - 14, run.Way == GlassWay.Up ? "up" : "down");
        }

        foreach (var s in Answer!.Stretches)
        {
            var y = s.Way == GlassWay.Up ? h - 34 : h - 26;
            svg.Line("d-danger d-travelled", [(x0 + (w - x0 - 16) * s.From, y), (x0 + (w - x0 - 16) * s.To, y)]);
        }

        svg.Words("d-text-aside", x0, h - 4, "Down");
        svg.Words("d-text-aside d-end", w - 16, h - 4, "Up");
        return svg;
    }

    /// <inheritdoc/>
    public override IReadOnlyList<IReadOnlyList<string>> Table() =>
    [
        ["way", "position_percent", "current_a", "band_low_a", "band_high_a", "friction_n"],
        .. Runs.SelectMany(r => Enumerable.Range(0, WindowRun.Steps).Select(i => (IReadOnlyList<string>)
            [r.Way == GlassWay.Up ? "up" : "down", Text(100 * WindowRun.Position(i), 1), Text(r.Amperes[i]), Bands.TryGetValue(r.Way, out var b) ? Text(b.Low[i]) : "", b is null ? "" : Text(b.High[i]), Answer?.Friction is { } f ? Text(f[i], 1) : ""])),
    ];

    /// <inheritdoc/>
    public override JsonObject Json() => ToJson(Runs, Answer, Margin);

    /// <summary>Runs and what they say, as JSON.</summary>
    public static JsonObject ToJson(IReadOnlyList<WindowRun> runs, WindowAnswer? answer, (double Available, double Needed)? margin) => new()
    {
        ["runs"] = new JsonArray([.. runs.Select(r => (JsonNode)new JsonObject { ["way"] = r.Way == GlassWay.Up ? "up" : "down", ["seconds"] = r.Seconds, ["amperes"] = new JsonArray([.. r.Amperes.Select(a => (JsonNode)Math.Round(a, 3))]) })]),
        ["weight_n"] = answer?.Weight is { } w ? Math.Round(w, 2) : null,
        ["friction_n"] = answer?.Friction is { } f ? new JsonArray([.. f.Select(n => (JsonNode)Math.Round(n, 2))]) : null,
        ["stretches"] = new JsonArray([.. (answer?.Stretches ?? []).Select(s => (JsonNode)new JsonObject { ["way"] = s.Way == GlassWay.Up ? "up" : "down", ["from_percent"] = Math.Round(100 * s.From, 1), ["to_percent"] = Math.Round(100 * s.To, 1), ["over_a"] = Math.Round(s.Worst, 3), ["over_n"] = Math.Round(s.Newtons, 1) })]),
        ["said"] = Lines(answer?.Said ?? []),
        ["margin"] = margin is { } m ? new JsonObject { ["available_n"] = Math.Round(m.Available, 1), ["needed_n"] = Math.Round(m.Needed, 1) } : null,
    };

    /// <summary>What is said, as JSON.</summary>
    public static JsonArray Lines(IEnumerable<ActuatorSaid> said) => new([.. said.Select(s => (JsonNode)new JsonObject { ["what"] = s.What, ["because"] = s.Because, ["bad"] = s.Bad })]);
}
