using System.Globalization;
using System.Text.Json.Nodes;
using Screeline.Core.Motion;
using Screeline.Library;
using Screeline.Web.Drawing;

namespace Screeline.Web.Setting;

/// <summary>Balancing a wheel without a phase reading, and telling imbalance from a bearing.</summary>
public sealed class BalanceWork : SettingWork
{
    /// <summary>Works it out.</summary>
    public BalanceWork(IReadOnlyDictionary<string, string> asked, ShippedLibrary library, string? model) : base(asked)
    {
        Rotors = library.Settings.Rotors;
        Template = Rotors.FirstOrDefault(r => r.Id == Asked("rotor")) ?? Rotors.FirstOrDefault(r => model is not null && r.Models.Contains(model)) ?? Rotors[0];
        Kilograms = Number("kg", 0.001, 5000) ?? Template.Kilograms;
        Speed = Number("rpm", 10, 100_000) ?? Template.RevolutionsPerMinute;
        Radius = Number("radius", 1, 5000) ?? Template.RadiusMillimetres;
        Blades = (int)(Number("blades", 0, 200) ?? Template.Blades);
        Grade = Number("grade", 0.1, 4000) ?? BalanceGrade.Fans;
        Permissible = BalanceGrade.Permissible(Grade, Kilograms, Speed);
        Angles = [.. Enumerable.Range(1, 3).Select(i => Number($"d{i}", -360, 720) ?? (i - 1) * 120.0)];
        ReadGrowth();

        var found = Number("a0", 0, 1e6);
        var trials = Enumerable.Range(1, 3).Select(i => Number($"a{i}", 0, 1e6)).ToList();
        var grams = Number("grams", 0.001, 10_000);
        if (found is not { } first || trials.Any(t => t is null) || grams is not { } trial || Faults.Count > 0)
        {
            if (found is not null && grams is null && trials.Any(t => t is not null))
            {
                Faults.TryAdd("grams", "How heavy is the trial weight, g?");
            }

            return;
        }

        List<BalanceRun> runs = [new(first, []), .. trials.Select((t, i) => new BalanceRun(t!.Value, [new RotorWeight(trial, Angles[i])]))];
        if (Number("a4", 0, 1e6) is { } after)
        {
            if (Number("cg", 0, 10_000) is { } cg && Number("cd", -360, 720) is { } cd)
            {
                runs.Add(new BalanceRun(after, [new RotorWeight(cg, cd)]));
            }
            else
            {
                Faults.TryAdd("cg", "What weight was on, and at which angle?");
            }
        }

        try
        {
            Result = Balance.FromRuns(runs);
        }
        catch (MotionException e)
        {
            Faults["a1"] = e.Message;
            return;
        }

        LeftOver = Result.LeftInLastRun * Radius;
        Verdict = SettingVerdicts.Balance(Result, runs.Count > 4, LeftOver, Permissible, Grade);
        Picture = Draw(runs);
    }

    /// <inheritdoc/>
    public override string Kind => "balance";

    /// <summary>Wheels of the library.</summary>
    public IReadOnlyList<RotorTemplate> Rotors { get; }

    /// <summary>The one it starts from.</summary>
    public RotorTemplate Template { get; }

    /// <summary>Mass of the wheel.</summary>
    public double Kilograms { get; }

    /// <summary>Highest service speed, rev/min.</summary>
    public double Speed { get; }

    /// <summary>Radius of the weights, mm.</summary>
    public double Radius { get; }

    /// <summary>Blades; 0 when weights can go anywhere.</summary>
    public int Blades { get; }

    /// <summary>G wanted, mm/s.</summary>
    public double Grade { get; }

    /// <summary>Permissible residual imbalance, g·mm.</summary>
    public double Permissible { get; }

    /// <summary>Angles of the trial weight.</summary>
    public IReadOnlyList<double> Angles { get; }

    /// <summary>What the runs come to; null with too few.</summary>
    public Balance? Result { get; }

    /// <summary>Imbalance that the last run shows, g·mm.</summary>
    public double LeftOver { get; }

    /// <summary>How the vibration grows with speed; null when not measured.</summary>
    public VibrationGrowth? Growth { get; private set; }

    /// <summary>The weight to put on, or to add.</summary>
    public RotorWeight Next => Result!.Runs.Count > 4 ? Result.Addition : Result.Correction;

    /// <summary>Its two shares on the blades beside its place.</summary>
    public IReadOnlyList<(int Blade, RotorWeight Weight)> Shares => Blades >= 3 ? Balance.Split(Next, Blades) : [];

    private void ReadGrowth()
    {
        var points = new List<(double, double)>();
        foreach (var line in Asked("speeds").Split([';', '\n'], StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries))
        {
            if (line.Split([' ', '\t', ':'], StringSplitOptions.RemoveEmptyEntries) is not [var speed, var amplitude] || Read(speed) is not (> 0 and <= 1e5 and var s) || Read(amplitude) is not (> 0 and <= 1e6 and var a))
            {
                Faults["speeds"] = $"“{line}”: rev/min and amplitude, for example 1200 0.4; 2400 1.7.";
                return;
            }

            points.Add((s, a));
        }

        Growth = points.Count > 0 ? VibrationGrowth.Judge(points) : null;
    }

    // The circle of the run as found, and at each trial angle on it the circle of that run; where the three meet lies the correction.
    private SvgDrawing Draw(List<BalanceRun> runs)
    {
        var first = runs[0].Amplitude;
        var points = Angles.Select(d => Planar.At(first, d)).ToList();
        var meet = Planar.At(Result!.Influence * runs[1].Weight.Magnitude, Result.Correction.Degrees);
        // All circles whole and as large as they can be; a trial that tripled the vibration runs off the sheet.
        List<(Planar Middle, double Radius)> circles = [(default, first), .. points.Zip(runs.Skip(1), (p, r) => (p, Math.Min(r.Amplitude, 3 * first)))];
        var (left, right) = (circles.Min(c => c.Middle.X - c.Radius), circles.Max(c => c.Middle.X + c.Radius));
        var (low, high) = (circles.Min(c => c.Middle.Y - c.Radius), circles.Max(c => c.Middle.Y + c.Radius));
        const double Size = 420;
        const double Margin = 30;
        var scale = (Size - 2 * Margin) / Math.Max(right - left, high - low);
        double X(Planar p) => Size / 2 + (p.X - (left + right) / 2) * scale;
        double Y(Planar p) => Size / 2 - (p.Y - (low + high) / 2) * scale;
        var svg = new SvgDrawing(Size, Size, "Four runs: where the circles meet lies the correction", $"Correction {Text(Result.Correction.Grams, 2)} g at {Text(Result.Correction.Degrees, 0)} degrees");
        svg.Circle("d-outline d-inset", X(default), Y(default), first * scale);
        svg.Line("d-hair", [(X(default) - first * scale - 8, Y(default)), (X(default) + first * scale + 8, Y(default))]);
        svg.Line("d-hair", [(X(default), Y(default) - first * scale - 8), (X(default), Y(default) + first * scale + 8)]);
        foreach (var (p, i) in points.Select((p, i) => (p, i)))
        {
            svg.Circle("d-outline d-either", X(p), Y(p), runs[i + 1].Amplitude * scale);
            svg.Circle("d-solid", X(p), Y(p), 5);
            var label = (1 + 34 / (first * scale)) * p;
            svg.Words("d-number d-halo", X(label), Y(label) + 6, (i + 1).ToString(CultureInfo.InvariantCulture));
        }

        svg.Line("d-travelled", [(X(default), Y(default)), (X(meet), Y(meet))]);
        svg.Circle("d-now", X(meet), Y(meet), 11);
        return svg;
    }

    /// <inheritdoc/>
    public override IReadOnlyList<IReadOnlyList<string>> Table() =>
    [
        ["run", "weight_g", "angle_deg", "amplitude"],
        .. (Result?.Runs ?? []).Select((r, i) => (IReadOnlyList<string>)[i == 0 ? "as found" : i < 4 ? $"trial {i}" : "corrected", Text(r.Weight.Magnitude), Text(RotorWeight.FromVector(r.Weight).Degrees, 1), Text(r.Amplitude)]),
    ];

    /// <inheritdoc/>
    public override JsonObject Json()
    {
        var told = Result is null ? [] : ToJson(Result, Kilograms, Speed, Radius, Grade, Blades);
        if (Growth is { } growth)
        {
            told["growth"] = ToJson(growth);
        }

        return told;
    }

    /// <summary>Growth as JSON.</summary>
    public static JsonObject ToJson(VibrationGrowth growth) => new() { ["source"] = growth.Source.ToString(), ["power"] = double.IsNaN(growth.Power) ? null : Math.Round(growth.Power, 3), ["error"] = double.IsNaN(growth.Error) ? null : Math.Round(growth.Error, 3) };

    /// <summary>A balance as JSON.</summary>
    public static JsonObject ToJson(Balance b, double kilograms, double speed, double radius, double grade, int blades)
    {
        JsonObject Weight(RotorWeight w) => new() { ["grams"] = Math.Round(w.Grams, 4), ["degrees"] = Math.Round(w.Degrees, 2) };
        var next = b.Runs.Count > 4 ? b.Addition : b.Correction;
        return new JsonObject
        {
            ["correction"] = Weight(b.Correction), ["addition"] = Weight(b.Addition), ["influence_per_gram"] = Math.Round(b.Influence, 6), ["misfit"] = Math.Round(b.Misfit, 6),
            ["blades"] = blades < 3 ? null : new JsonArray([.. Balance.Split(next, blades).Select(s => (JsonNode)new JsonObject { ["blade"] = s.Blade, ["grams"] = Math.Round(s.Weight.Grams, 4) })]),
            ["residual_g_mm"] = Math.Round(b.LeftInLastRun * radius, 4), ["permissible_g_mm"] = Math.Round(BalanceGrade.Permissible(grade, kilograms, speed), 4),
            ["reached_grade"] = Math.Round(BalanceGrade.Reached(b.LeftInLastRun * radius, kilograms, speed), 4), ["holds"] = b.LeftInLastRun * radius <= BalanceGrade.Permissible(grade, kilograms, speed),
        };
    }
}
