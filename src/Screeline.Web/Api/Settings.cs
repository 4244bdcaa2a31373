using System.Globalization;
using System.Text;
using System.Text.Json.Nodes;
using CsvHelper;
using Screeline.Core.Formats;
using Screeline.Core.Motion;
using Screeline.Library;
using Screeline.Web.Setting;

namespace Screeline.Web.Api;

/// <summary>The settings over JSON, and what their screens show as files: the same numbers as on the screens.</summary>
public static class Settings
{
    private const int MostSeen = 40;

    /// <summary>Maps POST /api/v1/linkage, /balance and /settings/{kind}, and the files of the bench.</summary>
    public static void MapSettings(this IEndpointRouteBuilder app)
    {
        app.MapPost("/api/v1/linkage", (HttpRequest request, ShippedLibrary library, CancellationToken cancel) => AnswerAsync(request, r => Linkage(r, library), cancel))
            .WithSummary("A wiper linkage through its turn; what to turn from what was measured; lengths from measured angles")
            .Accepts<LinkageInput>("application/json").Produces<LinkageOutput>().Produces<FaultsOutput>(StatusCodes.Status422UnprocessableEntity);
        app.MapPost("/api/v1/balance", (HttpRequest request, CancellationToken cancel) => AnswerAsync(request, BalanceOf, cancel))
            .WithSummary("Single-plane balancing from amplitudes; growth of vibration with speed")
            .Accepts<BalanceInput>("application/json").Produces<BalanceOutput>().Produces<FaultsOutput>(StatusCodes.Status422UnprocessableEntity);
        app.MapPost("/api/v1/settings/{kind}", (string kind, HttpRequest request, ShippedLibrary library, CancellationToken cancel) =>
            SettingKinds.Find(kind) is not null ? AnswerAsync(request, r => Fields(r, kind, library), cancel) : Task.FromResult(Results.NotFound()))
            .WithSummary($"Any setting from the fields of its screen: {string.Join(", ", SettingKinds.All.Select(k => k.Id))}")
            .Accepts<SettingInput>("application/json").Produces<System.Text.Json.Nodes.JsonObject>().Produces<FaultsOutput>(StatusCodes.Status422UnprocessableEntity);
        app.MapGet("/bench/{kind}.{format:regex(^(svg|csv|json)$)}", File).ExcludeFromDescription();
    }

    private static IResult File(string kind, string format, HttpRequest request, ShippedLibrary library)
    {
        if (SettingWork.Create(kind, Pages.Bench.SetModel.Query(request), library, null) is not { } work)
        {
            return Results.NotFound();
        }

        var name = $"screeline-{kind}.{format}";
        return format switch
        {
            "svg" => work.Picture is { } picture ? Results.File(Encoding.UTF8.GetBytes(picture.File), "image/svg+xml", name) : Results.NotFound(),
            "csv" => Results.File(Encoding.UTF8.GetBytes(Csv(work.Table())), "text/csv; charset=utf-8", name),
            _ => Results.File(Encoding.UTF8.GetBytes(Whole(work).ToJsonString()), "application/json", name),
        };
    }

    /// <summary>A setting as JSON with its verdict and its faults by field.</summary>
    private static JsonObject Whole(SettingWork work)
    {
        var told = work.Faults.Count > 0 ? new JsonObject() : work.Json();
        told["words"] = work.Words;
        told["holds"] = work.Holds;
        if (work.Faults.Count > 0)
        {
            told["faults"] = new JsonArray([.. work.Faults.Select(f => (JsonNode)new JsonObject { ["path"] = $"$.fields.{f.Key}", ["message"] = f.Value })]);
        }

        return told;
    }

    /// <summary>Rows as CSV (RFC 4180).</summary>
    public static string Csv(IReadOnlyList<IReadOnlyList<string>> rows)
    {
        using var text = new StringWriter(CultureInfo.InvariantCulture);
        using (var csv = new CsvWriter(text, CultureInfo.InvariantCulture, leaveOpen: true))
        {
            foreach (var row in rows)
            {
                foreach (var cell in row)
                {
                    csv.WriteField(cell);
                }

                csv.NextRecord();
            }
        }

        return text.ToString();
    }

    private static async Task<IResult> AnswerAsync(HttpRequest request, Func<JsonReader, JsonObject?> work, CancellationToken cancel)
    {
        if (!request.HasJsonContentType())
        {
            return Results.Json(new { error = "application/json is wanted here" }, statusCode: StatusCodes.Status415UnsupportedMediaType);
        }

        var faults = new List<FormatFault>();
        using var body = new StreamReader(request.Body);
        using var document = JsonReader.Parse(await body.ReadToEndAsync(cancel), faults);
        JsonObject? told = null;
        if (document is not null)
        {
            try
            {
                told = work(new JsonReader(document.RootElement, "$", faults));
            }
            catch (MotionException e)
            {
                faults.Add(new FormatFault("$", e.Message));
            }
        }

        return told is null || faults.Count > 0
            ? Results.Json(new { faults = faults.Select(f => new { path = f.Path, message = f.Message }) }, statusCode: StatusCodes.Status422UnprocessableEntity)
            : Results.Text(told.ToJsonString(), "application/json");
    }

    private static JsonObject? Linkage(JsonReader r, ShippedLibrary library)
    {
        var named = r.Given("linkage_id")
            ? library.Linkages.FirstOrDefault(l => l.Id == r.Choice("linkage_id", [.. library.Linkages.Select(x => x.Id)]))
            : ReadLinkage(r);
        var seen = r.List("seen", s => new TipSeen(
            Measures[s.Choice("what", [.. Measures.Keys])], s.Whole("arm", 0, 9), (double)s.Number("value", -2000, 5000), (double)(s.OptionalNumber("error", 0.01m, 100) ?? -1), s.Given("place") ? s.Whole("place", 0, 1) : 0), optional: true);
        var sought = r.List("seek", s => new Sought(Lengths[s.Choice("what", [.. Lengths.Keys])], s.Given("rocker") ? s.Whole("rocker", -1, 9) : -1, (double)s.Number("guess", -5000, 5000), (double)s.Number("spread", 0.001m, 1000)), optional: true);
        var measured = r.List("measured", s => new ArmMeasured(Arms[s.Choice("what", [.. Arms.Keys])], s.Whole("rocker", 0, 9), (double)s.Number("value", -720, 720), (double)s.Number("error", 0.01m, 90)), optional: true);
        var step = r.OptionalNumber("turn_step_deg", 0.25m, 90);
        r.RefuseOthers();
        if (named is null || r.Faults.Count > 0)
        {
            return null;
        }

        var arms = named.Linkage.Rockers.Count;
        foreach (var (s, i) in seen.Select((s, i) => (s, i)).Where(x => x.s.Arm >= arms || x.s.Place >= named.Linkage.Park.Count || (x.s.What == TipMeasure.LowHeight && named.Linkage.Drive == WiperDrive.Reversing)))
        {
            r.Fault(s.Arm >= arms ? $"there are {arms} arms" : "this linkage has no such place", $"seen[{i}]");
        }

        foreach (var i in Enumerable.Range(0, sought.Count).Where(i => sought[i].Rocker >= arms || (sought[i].Rocker < 0) != (sought[i].What is LinkageLength.Crank or LinkageLength.ParkAngle)))
        {
            r.Fault("a crank has no rocker; links, levers and arms name theirs", $"seek[{i}].rocker");
        }

        foreach (var i in Enumerable.Range(0, measured.Count).Where(i => measured[i].Rocker >= arms))
        {
            r.Fault($"there are {arms} arms", $"measured[{i}].rocker");
        }

        if (seen.Count > MostSeen || sought.Count > MostSeen || measured.Count > MostSeen)
        {
            r.Fault($"at most {MostSeen} of each");
        }

        if (r.Faults.Count > 0)
        {
            return null;
        }

        seen = [.. seen.Select(s => s.Error < 0 ? s with { Error = TipSeen.UsualError(s.What) } : s)];
        var told = WiperWork.ToJson(named, [], seen, seen.Count > 0 ? SettingFinder.Find(named.Linkage, seen) : null);
        if (step is { } degrees)
        {
            told["turn"] = new JsonArray([.. named.Linkage.Turn((double)degrees).Select(p => (JsonNode)new JsonObject
            {
                ["crank_deg"] = Math.Round(p.CrankDegrees, 4),
                ["rockers"] = new JsonArray([.. p.Rockers.Select(x => (JsonNode)new JsonObject
                {
                    ["arm_deg"] = Math.Round(x.ArmDegrees, 6), ["ratio"] = Math.Round(x.Ratio, 6), ["transmission_deg"] = Math.Round(x.Transmission, 6), ["tip_mm"] = new JsonArray(Math.Round(x.Tip.X, 4), Math.Round(x.Tip.Y, 4)), ["height_mm"] = Math.Round(named.Linkage.Glass.HeightAbove(x.Tip), 4),
                })]),
            })]);
        }

        if (sought.Count > 0)
        {
            var found = LinkageFit.Fit(named.Linkage, sought, measured);
            told["fit"] = new JsonObject
            {
                ["misfit"] = Math.Round(found.Misfit, 6), ["linkage"] = LinkageFormat.Write(named with { Linkage = found.Linkage }),
                ["found"] = new JsonArray([.. found.Found.Select(f => (JsonNode)new JsonObject { ["what"] = Lengths.First(l => l.Value == f.Sought.What).Key, ["rocker"] = f.Sought.Rocker, ["value"] = Math.Round(f.Value, 6), ["error"] = Math.Round(f.Error, 6), ["fixed"] = f.IsFixed })]),
            };
        }

        return told;
    }

    private static NamedLinkage? ReadLinkage(JsonReader r) => r.Object("linkage", LinkageFormat.Read);

    private static readonly Dictionary<string, TipMeasure> Measures = new(StringComparer.Ordinal) { ["park-height"] = TipMeasure.ParkHeight, ["low-height"] = TipMeasure.LowHeight, ["sweep-angle"] = TipMeasure.SweepAngle, ["pillar-clearance"] = TipMeasure.PillarClearance };
    private static readonly Dictionary<string, LinkageLength> Lengths = new(StringComparer.Ordinal) { ["crank"] = LinkageLength.Crank, ["link"] = LinkageLength.Link, ["lever"] = LinkageLength.Lever, ["arm-angle"] = LinkageLength.ArmAngle, ["park-angle"] = LinkageLength.ParkAngle };
    private static readonly Dictionary<string, ArmSeen> Arms = new(StringComparer.Ordinal) { ["at-park"] = ArmSeen.AtPark, ["at-low"] = ArmSeen.AtLow, ["at-high"] = ArmSeen.AtHigh, ["sweep"] = ArmSeen.Sweep };

    private static JsonObject? BalanceOf(JsonReader r)
    {
        var runs = r.List("runs", x => new BalanceRun((double)x.Number("amplitude", 0, 1_000_000), x.List("weights", w => new RotorWeight((double)w.Number("grams", 0, 10_000), (double)w.Number("degrees", -720, 720)), optional: true)), optional: true);
        var rotor = r.Object("rotor", x => (Kilograms: (double)x.Number("kilograms", 0.001m, 10_000), Speed: (double)x.Number("revolutions_per_minute", 1, 200_000), Radius: (double)x.Number("radius_mm", 0.1m, 10_000), Grade: (double)(x.OptionalNumber("grade", 0.1m, 4000) ?? (decimal)BalanceGrade.Fans), Blades: x.Given("blades") ? x.Whole("blades", 0, 500) : 0), optional: true);
        var growth = r.List("growth", x => ((double)x.Number("revolutions_per_minute", 1, 200_000), (double)x.Number("amplitude", 0.000001m, 1_000_000)), optional: true);
        r.RefuseOthers();
        if (runs.Count == 0 && growth.Count == 0)
        {
            r.Fault("runs to balance by, or growth with speed, is wanted here");
        }

        if (runs.Count > 0 && rotor.Kilograms == 0 && r.Faults.Count == 0)
        {
            r.Fault("is missing", "rotor");
        }

        if (r.Faults.Count > 0)
        {
            return null;
        }

        var told = runs.Count > 0 ? BalanceWork.ToJson(Balance.FromRuns(runs), rotor.Kilograms, rotor.Speed, rotor.Radius, rotor.Grade, rotor.Blades) : [];
        if (growth.Count > 0)
        {
            told["growth"] = BalanceWork.ToJson(VibrationGrowth.Judge(growth));
        }

        return told;
    }

    private static JsonObject? Fields(JsonReader r, string kind, ShippedLibrary library)
    {
        var fields = r.Fields("fields", 200);
        r.RefuseOthers();
        if (r.Faults.Count > 0)
        {
            return null;
        }

        var work = SettingWork.Create(kind, fields, library, null)!;
        r.Faults.AddRange(work.Faults.Select(f => new FormatFault($"$.fields.{f.Key}", f.Value)));
        return Whole(work);
    }
}
