using System.Text.Json.Nodes;
using Screeline.Core.Motion;
using Screeline.Library;
using Screeline.Web.Drawing;

namespace Screeline.Web.Setting;

/// <summary>An actuator's ends, stroke, play and currents.</summary>
public sealed class ActuatorWork : SettingWork
{
    /// <summary>Works it out.</summary>
    public ActuatorWork(IReadOnlyDictionary<string, string> asked, ShippedLibrary library, string? model) : base(asked)
    {
        Actuators = library.Settings.Actuators;
        Template = Actuators.FirstOrDefault(a => a.Id == Asked("actuator")) ?? Actuators.FirstOrDefault(a => model is not null && a.Models.Contains(model)) ?? Actuators[0];
        Stroke = Number("stroke", 1, 1e6) ?? Template.StrokeCounts;
        Tolerance = Number("tol", 0, 1e6) ?? Template.ToleranceCounts;
        ReadGears();
        var play = Gears.Count > 0 ? ActuatorSetting.Backlash(Gears) : (double?)null;
        GearPlay = play;
        var (low, high) = (Number("low", -1e6, 1e6), Number("high", -1e6, 1e6));
        var (up, down) = (Number("upa", 0, 200), Number("downa", 0, 200));
        if (low is not null && high is not null && low >= high)
        {
            Faults["high"] = "The high end lies above the low one.";
        }

        if ((up is null) != (down is null))
        {
            Faults.TryAdd(up is null ? "upa" : "downa", "Measure it the other way as well.");
        }

        Wear = Asked("worn").Length > 0 ? ActuatorSetting.Renew(Asked("worn") == "plastic", Asked("mate") == "plastic", Asked("mateworn").Length > 0) : null;
        if (low is { } l && high is { } h && Faults.Count == 0)
        {
            Said = ActuatorSetting.Judge(new ActuatorMeasured(Stroke, Tolerance, new EndStop(l, Number("lowa", 0, 200)), new EndStop(h, Number("higha", 0, 200)),
                Number("perdeg", 0.001, 1e5) ?? Template.CountsPerDegree, Number("lost", 0, 1e6), Number("maxplay", 0.01, 360) ?? Template.LargestBacklash,
                up is { } u && down is { } d ? (u, d) : null, Number("maxa", 0.01, 200) ?? Template.LargestMoving));
            Verdict = SettingVerdicts.Actuator(Said, up is not null);
            Picture = Draw(l, h);
        }
    }

    /// <inheritdoc/>
    public override string Kind => "actuator";

    /// <summary>Actuators of the library.</summary>
    public IReadOnlyList<ActuatorTemplate> Actuators { get; }

    /// <summary>The one it starts from.</summary>
    public ActuatorTemplate Template { get; }

    /// <summary>Specified stroke, counts.</summary>
    public double Stroke { get; }

    /// <summary>Its tolerance.</summary>
    public double Tolerance { get; }

    /// <summary>Stages from the motor to the output.</summary>
    public IReadOnlyList<GearStage> Gears { get; private set; } = [];

    /// <summary>Their play at the output, degrees.</summary>
    public double? GearPlay { get; }

    /// <summary>Whether a worn wheel is renewed with its mate.</summary>
    public (bool Pair, string Why)? Wear { get; }

    /// <summary>What is said.</summary>
    public IReadOnlyList<ActuatorSaid> Said { get; } = [];

    private void ReadGears()
    {
        var gears = new List<GearStage>();
        foreach (var word in Asked("gears").Split([' ', ';'], StringSplitOptions.RemoveEmptyEntries))
        {
            if (word.Split(':') is not [var ratio, var play] || Read(ratio) is not (> 0 and <= 1000 and var r) || Read(play) is not (>= 0 and <= 90 and var p))
            {
                Faults["gears"] = $"“{word}”: ratio and play, for example 40:3.";
                return;
            }

            gears.Add(new GearStage(r, p));
        }

        Gears = gears;
    }

    // The specified stroke as a rail, the learned ends on it.
    private SvgDrawing Draw(double low, double high)
    {
        var (from, to) = (Math.Min(low, 0) - 0.08 * Stroke, Math.Max(high, low + Stroke) + 0.08 * Stroke);
        double X(double counts) => 20 + 680 * (counts - from) / (to - from);
        var svg = new SvgDrawing(720, 150, "Stroke between the learned ends", $"From {Text(low, 0)} to {Text(high, 0)} counts, {Text(Stroke, 0)} specified");
        svg.Box("d-band", X(low + Stroke - Tolerance), 40, X(low + Stroke + Tolerance) - X(low + Stroke - Tolerance), 60);
        svg.Line("d-outline", [(X(low), 70), (X(low + Stroke), 70)]);
        svg.Line("d-travelled", [(X(low), 70), (X(high), 70)]);
        foreach (var end in new[] { low, high })
        {
            svg.Line("d-edge", [(X(end), 46), (X(end), 94)]);
        }

        svg.Words("d-text", Math.Max(4, X(low) - 10), 122, $"{Text(low, 0)} low end");
        svg.Words("d-text d-end", Math.Min(716, X(high) + 10), 122, $"{Text(high, 0)} high end");
        svg.Words("d-text-aside d-middle", X(low + Stroke), 30, $"{Text(Stroke, 0)} ± {Text(Tolerance, 0)} wanted");
        return svg;
    }

    /// <inheritdoc/>
    public override IReadOnlyList<IReadOnlyList<string>> Table() => [["what", "because", "bad"], .. Said.Select(s => (IReadOnlyList<string>)[s.What, s.Because, s.Bad ? "yes" : "no"])];

    /// <inheritdoc/>
    public override JsonObject Json() => new()
    {
        ["stroke_counts"] = Stroke, ["tolerance_counts"] = Tolerance, ["said"] = WindowWork.Lines(Said), ["gear_play_deg"] = GearPlay is { } p ? Math.Round(p, 4) : null,
        ["wear"] = Wear is { } w ? new JsonObject { ["pair"] = w.Pair, ["why"] = w.Why } : null,
    };
}
