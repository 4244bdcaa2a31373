using System.Globalization;
using System.Text.Json.Nodes;
using Screeline.Core.Formats;
using Screeline.Core.Motion;
using Screeline.Library;
using Screeline.Web.Drawing;

namespace Screeline.Web.Setting;

/// <summary>A length of the linkage that can be typed over.</summary>
/// <param name="Field">Its field.</param>
/// <param name="Title">What it is.</param>
/// <param name="Unit">mm, degrees or none.</param>
/// <param name="Value">What the library says.</param>
public sealed record LinkageField(string Field, string Title, string Unit, double Value);

/// <summary>A wiper linkage, what was measured on the glass, and what to turn.</summary>
public sealed class WiperWork : SettingWork
{
    private readonly List<TipSeen> _seen = [];
    private readonly Dictionary<(TipMeasure, int, int), double> _expected = [];

    /// <summary>Works it out.</summary>
    public WiperWork(IReadOnlyDictionary<string, string> asked, ShippedLibrary library, string? model) : base(asked)
    {
        Linkages = library.Linkages;
        Named = Linkages.FirstOrDefault(l => l.Id == Asked("linkage")) ?? Linkages.FirstOrDefault(l => model is not null && l.Models.Contains(model)) ?? Linkages.First(l => l.Id == "petrel-front");
        if (Asked("linkage").Length > 0 && Named.Id != Asked("linkage"))
        {
            Faults["linkage"] = $"No linkage “{Asked("linkage")}” here.";
        }

        Fields = FieldsOf(Named.Linkage);
        Right = Override(Named.Linkage);
        At = Number("at", 0, 360) ?? double.NaN;
        foreach (var fault in LinkageChecks.FaultsOf(Right))
        {
            LinkageFaults.Add(fault);
            Faults[FieldOf(fault.Path)] = fault.Message;
        }

        if (LinkageFaults.Count > 0 || Fields.Any(f => Faults.ContainsKey(f.Field)))
        {
            Verdict = new SettingVerdict("This linkage cannot turn", null);
            return;
        }

        if (ParkSchool.Find(Asked("school"))?.Refuse(Asked("marks-good").Length > 0) is { } refused)
        {
            Faults["school"] = refused;
        }

        try
        {
            Sweeps = [.. Right.Rockers.Select((_, r) => Right.SweepOf(r))];
            Turn = Right.Turn(2);
            (Spans, Hold) = Right.Gauge is { } g ? (ParkTolerance.Spans(Right, Math.Max(0, g.Gap - g.Tolerance), g.Gap + g.Tolerance), ParkTolerance.AllHold(Right)) : ([], null);
            foreach (var what in Enum.GetValues<TipMeasure>())
            {
                for (var arm = 0; arm < Right.Rockers.Count; arm++)
                {
                    for (var place = 0; place < Right.Park.Count; place++)
                    {
                        _expected[(what, arm, place)] = new TipSeen(what, arm, 0, 1, place).On(Right);
                    }
                }
            }

            ReadSeen();
            Answer = _seen.Count > 0 ? SettingFinder.Find(Right, _seen) : null;
            Verdict = SettingVerdicts.Wiper(Right, _seen, Answer);
            Found = Answer is { Causes: [var best, ..], FitsNone: false } && best.Changes.Count > 0 ? best.Linkage : null;
            var at = double.IsNaN(At) ? Right.Park[0] : At;
            try
            {
                (Picture, Frames) = Draw(Found, at);
            }
            catch (MotionException) when (Found is not null)
            {
                // A link so wrong that it hardly goes round explains readings and cannot be drawn going round.
                Found = null;
                (Picture, Frames) = Draw(null, at);
            }
        }
        catch (MotionException e)
        {
            // It goes through every angle that was looked at and still not through all of them.
            LinkageFaults.Add(new FormatFault("$.park", e.Message));
            Faults["l-park"] = e.Message;
            Verdict = new SettingVerdict("This linkage cannot turn", null);
        }
    }

    private (SvgDrawing, string) Draw(WiperLinkage? found, double at)
    {
        var picture = new WiperPicture(Right, found, _seen, at);
        return (picture.Drawing, picture.Frames());
    }

    /// <inheritdoc/>
    public override string Kind => "wiper";

    /// <summary>Linkages of the library.</summary>
    public IReadOnlyList<NamedLinkage> Linkages { get; }

    /// <summary>The one it starts from.</summary>
    public NamedLinkage Named { get; }

    /// <summary>Lengths and angles that can be typed over.</summary>
    public IReadOnlyList<LinkageField> Fields { get; }

    /// <summary>The linkage as it should be.</summary>
    public WiperLinkage Right { get; }

    /// <summary>The linkage as it stands now by the likeliest cause; null when nothing is off or known.</summary>
    public WiperLinkage? Found { get; }

    /// <summary>What cannot be.</summary>
    public List<FormatFault> LinkageFaults { get; } = [];

    /// <summary>What each arm goes through.</summary>
    public IReadOnlyList<Sweep> Sweeps { get; } = [];

    /// <summary>What to turn; null when nothing was measured.</summary>
    public SettingAnswer? Answer { get; }

    /// <summary>What was measured.</summary>
    public IReadOnlyList<TipSeen> Seen => _seen;

    /// <summary>Where the slider stands; NaN for park.</summary>
    public double At { get; }

    /// <summary>The field of a measurement.</summary>
    public static string FieldFor(TipMeasure what, int arm, int place = 0) => $"{what switch { TipMeasure.ParkHeight => "park", TipMeasure.LowHeight => "low", TipMeasure.SweepAngle => "sweep", _ => "pillar" }}{arm}{(place > 0 ? "b" : "")}";

    /// <summary>What a measurement is called.</summary>
    public static (string Title, string Unit) TitleOf(TipMeasure what) => what switch
    {
        TipMeasure.ParkHeight => ("Tip at park", "mm"),
        TipMeasure.LowHeight => ("Tip at the lower end", "mm"),
        TipMeasure.SweepAngle => ("Angle it sweeps", "°"),
        _ => ("Clear of the pillar", "mm"),
    };

    /// <summary>What a measurement would be on a right vehicle.</summary>
    public double Expected(TipMeasure what, int arm, int place = 0) => _expected[(what, arm, place)];

    /// <summary>Tip heights at park as measured, or, where not measured, as the found linkage would show them; null when neither is known.</summary>
    public double? HeightNow(int arm) => _seen.FirstOrDefault(s => s.What == TipMeasure.ParkHeight && s.Arm == arm)?.Value ?? (Found is { } found ? found.TipHeights(found.Park[0])[arm] : null);

    private void ReadSeen()
    {
        for (var arm = 0; arm < Right.Rockers.Count; arm++)
        {
            foreach (var what in Enum.GetValues<TipMeasure>())
            {
                for (var place = 0; place < (what == TipMeasure.ParkHeight ? Right.Park.Count : 1); place++)
                {
                    var (low, high) = what switch { TipMeasure.SweepAngle => (1, 270), TipMeasure.PillarClearance => (-300, 1500), _ => (-500, 800) };
                    if (Number(FieldFor(what, arm, place), low, high) is { } value)
                    {
                        // A blade that touches may press as well: how far it would go is not known.
                        _seen.Add(new TipSeen(what, arm, value, what == TipMeasure.PillarClearance && value <= 0 ? 10 : TipSeen.UsualError(what), place));
                    }
                }
            }
        }
    }

    private static List<LinkageField> FieldsOf(WiperLinkage l)
    {
        List<LinkageField> fields = [];
        if (l.Crank > 0)
        {
            fields.Add(new("crank", "Crank", "mm", l.Crank));
        }

        fields.AddRange(l.Park.Select((p, i) => new LinkageField(i == 0 ? "park" : "park2", l.Park.Count > 1 ? $"Crank at park, place {i + 1}" : "Crank at park", "°", p)));
        if (l.Ends is { } ends)
        {
            fields.AddRange([new("from", "Motor turns back below at", "°", ends.From), new("to", "Motor turns back above at", "°", ends.To)]);
        }

        fields.AddRange([new("mx", "Motor shaft, across", "mm", l.Motor.X), new("my", "Motor shaft, up", "mm", l.Motor.Y)]);
        if (l.Gauge is { } g)
        {
            fields.AddRange([new("gap", "Gap at the crank", "mm", g.Gap), new("gaptol", "Its tolerance, either way", "mm", g.Tolerance), new("gapr", "Gap is measured from the shaft at", "mm", g.Radius)]);
        }

        for (var i = 0; i < l.Rockers.Count; i++)
        {
            var (r, t) = (l.Rockers[i], l.Rockers[i].Title);
            fields.AddRange([new($"px{i}", $"{t} shaft, across", "mm", r.Pivot.X), new($"py{i}", $"{t} shaft, up", "mm", r.Pivot.Y)]);
            if (!r.IsDirect)
            {
                fields.AddRange([new($"link{i}", $"{t} link", "mm", r.Link), new($"lever{i}", $"{t} lever", "mm", r.Lever)]);
                if (r.DrivenBy >= 0)
                {
                    fields.Add(new($"from{i}", $"Lever it hangs on, on the {l.Rockers[r.DrivenBy].Title.ToLowerInvariant()} shaft", "mm", r.FromLever));
                }
            }

            fields.AddRange([new($"angle{i}", $"{t} arm against its lever", "°", r.Arm.Angle), new($"tip{i}", $"{t} shaft to tip", "mm", r.Arm.Tip), new($"teeth{i}", $"{t} knurl", "teeth", r.Arm.Teeth), new($"band{i}", $"{t} tip wanted above the cowl", "mm", r.Band.Height), new($"bandtol{i}", "Either way", "mm", r.Band.Tolerance)]);
        }

        return fields;
    }

    private WiperLinkage Override(WiperLinkage l)
    {
        double Get(string field, double otherwise, double low = -5000, double high = 5000) => Number($"l-{field}", low, high) ?? otherwise;
        var drive = LinkageFormat.Drives.TryGetValue(Asked("drive"), out var chosen) ? chosen : l.Drive;
        var first = Get("park", l.Park[0], -360, 720);
        return l with
        {
            Drive = drive,
            Crank = Get("crank", l.Crank),
            // Another kind of drive than the library's: park twice, or ends to turn back at, a little apart until they are typed.
            Park = drive == WiperDrive.AlternatingPark ? [first, Get("park2", l.Park.Count > 1 ? l.Park[1] : first + 8, -360, 720)] : [first],
            Ends = drive == WiperDrive.Reversing ? (Get("from", l.Ends?.From ?? first, -360, 720), Get("to", l.Ends?.To ?? first + 170, -360, 720)) : null,
            Motor = new Planar(Get("mx", l.Motor.X), Get("my", l.Motor.Y)),
            Gauge = l.Gauge is { } g ? g with { Gap = Get("gap", g.Gap), Tolerance = Get("gaptol", g.Tolerance), Radius = Get("gapr", g.Radius) } : null,
            Rockers =
            [
                .. l.Rockers.Select((r, i) => r with
                {
                    Pivot = new Planar(Get($"px{i}", r.Pivot.X), Get($"py{i}", r.Pivot.Y)),
                    Link = Get($"link{i}", r.Link), Lever = Get($"lever{i}", r.Lever), FromLever = Get($"from{i}", r.FromLever),
                    Arm = r.Arm with { Angle = Get($"angle{i}", r.Arm.Angle, -720, 720), Tip = Get($"tip{i}", r.Arm.Tip), Teeth = (int)Get($"teeth{i}", r.Arm.Teeth, 0, 400) },
                    Band = new TipBand(Get($"band{i}", r.Band.Height), Get($"bandtol{i}", r.Band.Tolerance)),
                }),
            ],
        };
    }

    // The field that a path of the format stands for.
    private static string FieldOf(string path)
    {
        var rocker = path.IndexOf('[', StringComparison.Ordinal) is > 0 and var at ? path[(at + 1)..(at + 2)] : "";
        var last = path.Split('.')[^1];
        return last switch
        {
            "pivot" => $"l-px{rocker}", "driven_by" => "linkage", "from_lever" => $"l-from{rocker}", "ends" => "l-to", "rockers" or "glass" => "linkage", "tolerance" => $"l-bandtol{rocker}", "gauge" => "l-gap",
            _ => $"l-{last}{rocker}",
        };
    }

    /// <summary>Positions for scripts: in steps of the crank, the points of the drawing in the order it names its parts.</summary>
    public string Frames { get; } = "";

    /// <summary>The whole movement in steps of two degrees.</summary>
    public IReadOnlyList<LinkagePosition> Turn { get; } = [];

    /// <summary>Where each tip may park while the gap is in its tolerance; empty without a gauge.</summary>
    public IReadOnlyList<TipSpan> Spans { get; } = [];

    /// <summary>Gaps at which all tips hold their bands; null when none does.</summary>
    public (double Low, double High)? Hold { get; }

    /// <inheritdoc/>
    public override IReadOnlyList<IReadOnlyList<string>> Table()
    {
        List<string> header = ["crank_deg"];
        foreach (var r in Right.Rockers)
        {
            var t = r.Title.ToLowerInvariant().Replace("'", "", StringComparison.Ordinal);
            header.AddRange([$"{t}_arm_deg", $"{t}_tip_x_mm", $"{t}_tip_y_mm", $"{t}_tip_height_mm", $"{t}_pillar_clearance_mm", $"{t}_transmission_deg", $"{t}_speed_ratio", $"{t}_speed_at_45_rpm_deg_per_s", $"{t}_speed_at_65_rpm_deg_per_s"]);
        }

        List<IReadOnlyList<string>> rows = [header];
        if (LinkageFaults.Count == 0)
        {
            rows.AddRange(Right.Turn(1).Select(p => (IReadOnlyList<string>)[Text(p.CrankDegrees), .. p.Rockers.SelectMany(r => new[]
            {
                r.ArmDegrees, r.Tip.X, r.Tip.Y, Right.Glass.HeightAbove(r.Tip), Right.Glass.PillarClearance(r.Tip), r.Transmission, r.Ratio, WiperLinkage.ArmSpeed(r, 45), WiperLinkage.ArmSpeed(r, 65),
            }.Select(v => Text(v)))]));
        }

        return rows;
    }

    /// <inheritdoc/>
    public override JsonObject Json() => ToJson(new NamedLinkage(Named.Id, Named.Models, Right), LinkageFaults, _seen, Answer);

    /// <summary>A linkage and what is off, as JSON.</summary>
    public static JsonObject ToJson(NamedLinkage named, IReadOnlyList<FormatFault> faults, IReadOnlyList<TipSeen> seen, SettingAnswer? answer)
    {
        var l = named.Linkage;
        var told = new JsonObject { ["linkage"] = LinkageFormat.Write(named) };
        if (faults.Count > 0)
        {
            told["faults"] = new JsonArray([.. faults.Select(f => (JsonNode)new JsonObject { ["path"] = f.Path, ["message"] = f.Message })]);
            return told;
        }

        told["rockers"] = new JsonArray([.. l.Rockers.Select((r, i) =>
        {
            var (sweep, turn) = (l.SweepOf(i), l.Turn(1));
            return (JsonNode)new JsonObject
            {
                ["title"] = r.Title, ["low_deg"] = Round(sweep.Low), ["high_deg"] = Round(sweep.High), ["sweep_deg"] = Round(sweep.Angle), ["low_crank_deg"] = Round(sweep.LowCrank), ["high_crank_deg"] = Round(sweep.HighCrank),
                ["park_height_mm"] = Round(l.TipHeights(l.Park[0])[i]), ["pillar_clearance_mm"] = Round(turn.Min(p => l.Glass.PillarClearance(p.Rockers[i].Tip))),
                ["least_transmission_deg"] = Round(turn.Min(p => p.Rockers[i].Transmission)), ["top_speed_at_45_rpm_deg_per_s"] = Round(turn.Max(p => WiperLinkage.ArmSpeed(p.Rockers[i], 45))), ["top_speed_at_65_rpm_deg_per_s"] = Round(turn.Max(p => WiperLinkage.ArmSpeed(p.Rockers[i], 65))),
                ["grashof"] = l.BarsOf(i) is { } bars ? bars.Bars.Kind.ToString() : "direct",
            };
        })]);
        if (l.Gauge is { } g)
        {
            var hold = ParkTolerance.AllHold(l);
            told["gauge"] = new JsonObject
            {
                ["spans_mm"] = new JsonArray([.. ParkTolerance.Spans(l, Math.Max(g.Gap - g.Tolerance, 0), g.Gap + g.Tolerance).Select(s => (JsonNode)new JsonArray(Round(s.Low), Round(s.High)))]),
                ["all_hold_gap_mm"] = hold is { } h ? new JsonArray(Round(h.Low), Round(h.High)) : null,
            };
        }

        if (answer is not null)
        {
            told["seen"] = new JsonArray([.. seen.Select((s, i) => (JsonNode)new JsonObject { ["what"] = s.What.ToString(), ["arm"] = s.Arm, ["value"] = s.Value, ["expected"] = Round(answer.Expected[i]) })]);
            told["fits_none"] = answer.FitsNone;
            told["causes"] = new JsonArray([.. answer.Causes.Select(c => (JsonNode)new JsonObject
            {
                ["probability"] = Round(c.Probability), ["chance_of_misfit"] = Round(c.ChanceOfMisfit),
                ["changes"] = new JsonArray([.. c.Changes.Select(x => (JsonNode)new JsonObject { ["fault"] = x.Fault.ToString(), ["arm"] = x.Arm < 0 ? null : l.Rockers[x.Arm].Title, ["amount"] = Round(x.Amount), ["error"] = Round(x.Error), ["act"] = SettingAdvice.For(l, x).Act })]),
                ["after"] = new JsonArray([.. c.After.Select(a => (JsonNode)Round(a))]),
            })]);
            told["next"] = answer.Next is { } n ? new JsonObject { ["what"] = n.What.ToString(), ["arm"] = n.Arm, ["first"] = Round(n.First), ["second"] = Round(n.Second) } : null;
        }

        return told;
    }

    private static double Round(double value) => Math.Round(value, 3);

    /// <summary>A figure for people.</summary>
    public static string Figure(double value, string format = "0.#") => value.ToString(format, CultureInfo.InvariantCulture);
}
