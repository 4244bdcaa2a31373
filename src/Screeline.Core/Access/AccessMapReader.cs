using System.Globalization;
using System.Text.Json;
using System.Text.Json.Nodes;
using Screeline.Core.Access.Learning;
using Screeline.Core.Fastening;
using Screeline.Core.Formats;
using Screeline.Core.Motion;
using Screeline.Core.Quantities;

namespace Screeline.Core.Access;

/// <summary>What came of reading an access map: the map when it has no fault, else all its faults.</summary>
public sealed record AccessMapReading(AccessMap? Map, IReadOnlyList<FormatFault> Faults);

/// <summary>Reads and checks <c>screeline/access-map@1</c>. All faults are told at once with their JSON path.</summary>
public static class AccessMapReader
{
    /// <summary>The format this reader knows.</summary>
    public const string Format = "screeline/access-map@1";

    /// <summary>Reads a map.</summary>
    /// <param name="json">The file's text.</param>
    /// <param name="cautions">Caution ids that the library knows, each with the states it requires; null when cautions are not to be checked.</param>
    public static AccessMapReading Read(string json, IReadOnlyDictionary<string, IReadOnlyList<string>>? cautions = null) => Read(json, cautions, checks: true);

    /// <summary>Reads a text that was checked when it was kept: a job keeps the version it was planned on, whatever is asked of new ones.</summary>
    public static AccessMap? ReadKept(string json) => Read(json, null, checks: false).Map;

    private static AccessMapReading Read(string json, IReadOnlyDictionary<string, IReadOnlyList<string>>? cautions, bool checks)
    {
        var faults = new List<FormatFault>();
        using var document = JsonReader.Parse(json, faults);
        if (document is null)
        {
            return new AccessMapReading(null, faults);
        }

        var root = new JsonReader(document.RootElement, "$", faults);
        var map = ReadMap(root);
        root.RefuseOthers();
        if (checks && document.RootElement.ValueKind == JsonValueKind.Object)
        {
            AccessMapChecks.Check(map, faults, cautions);
        }

        return new AccessMapReading(faults.Count == 0 ? map : null, faults);
    }

    private static AccessMap ReadMap(JsonReader r)
    {
        var format = r.Text("format");
        if (format.Length > 0 && format != Format)
        {
            r.Fault($"“{format}” is not read here; {Format} is", "format");
        }

        return new AccessMap
        {
            Id = r.Text("id"),
            Title = r.Text("title"),
            Family = r.Text("family"),
            AppliesTo = r.List("applies_to", a => new Applicability(a.Text("model"), a.OptionalText("years"), a.OptionalText("version"), a.Choice("certainty", ["done", "looks-same", "guessed"])) { Look = a.Texts("look", optional: true) }, optional: true),
            StartPosition = r.Text("start_position"),
            Positions = r.List("positions", p => new Position(p.Text("id"), p.Text("title"), p.Texts("requires", optional: true), p.Given("kind") ? p.Choice("kind", Position.Kinds) : null)),
            Moves = r.List("moves", m => new Move(m.Text("from"), m.Text("to"), m.Number("minutes", 0))),
            DefaultMoveMinutes = r.Number("default_move_minutes", 0),
            ToolChangeMinutes = r.Number("tool_change_minutes", 0),
            LabourRatePerHour = r.Number("labour_rate_per_hour", 0),
            Operations = r.List("operations", ReadOperation),
            RefitSteps = r.List("refit_steps", ReadStep, optional: true),
            Targets = r.List("targets", t => new Target(t.Text("id"), t.Text("operation")) { Repairs = t.Texts("repairs", optional: true) }),
            PrintedRoute = r.Texts("printed_route", optional: true),
            PublishedMinutes = r.OptionalNumber("published_minutes", 0),
            Subject = r.OptionalText("subject"),
            Lessons = r.List("lessons", l => new Lesson(l.Text("words"), l.Texts("at", optional: true)), optional: true),
            Fitted = r.Object("fitted", f => new Fitted(f.Text("question"), f.List("choices", c => new FittedChoice(c.Text("id"), c.Text("title"), c.Text("tell"), c.Texts("without", optional: true)))), optional: true),
            Restores = r.List("restores", x => new Restore(x.Text("id"), x.Text("what"), x.Text("how"), x.Text("after")), optional: true),
            Reaches = r.List("reaches", x => (Access: x.Text("access"), Operation: x.OptionalText("operation")), optional: true).DistinctBy(x => x.Access).ToDictionary(x => x.Access, x => x.Operation, StringComparer.Ordinal),
            Suspects = r.List("suspects", x => new Suspect(x.Text("check"), x.Text("step"), x.Text("why")), optional: true),
            Learned = r.Object("learned", ReadLearned, optional: true),
        };
    }

    private static LearnedFrom ReadLearned(JsonReader r) => new(
        r.Given("operations") ? r.List("operations", ReadOperation) : null, r.Given("steps") ? r.List("steps", ReadStep) : null, r.List("jobs", ReadJob),
        r.List("said", x => new SaidStep(x.Text("step"), x.Text("by"), ReadTime(x, "at"), ReadChanges(x)), optional: true));

    private static WorkedJob ReadJob(JsonReader r) => new()
    {
        Job = ReadGuid(r, "job"),
        On = DateOnly.TryParseExact(r.Text("on"), "yyyy-MM-dd", CultureInfo.InvariantCulture, DateTimeStyles.None, out var on) ? on : Wrong(r, "on", "a day as 2036-05-04", default(DateOnly)),
        By = r.Texts("by"), Version = r.OptionalText("version"), Mapped = r.Given("mapped") && r.YesNo("mapped"), Opened = r.List("opened", ReadOperation), Closed = r.Texts("closed"),
        Unordered = ReadPairs(r, "unordered"), UnorderedBack = ReadPairs(r, "unordered_back"), Steps = r.List("steps", ReadStep, optional: true), Names = r.Given("names") ? r.Fields("names", 1000) : new Dictionary<string, string>(),
        Words = r.List("words", w => new LearnedWord(ReadGuid(w, "entry"), w.Text("by"), ReadTime(w, "at"), Enum.Parse<WordKind>(w.Choice("says", WordKinds) is { Length: > 0 } says ? says : "only", ignoreCase: true), w.Text("step"), w.Texts("of")), optional: true),
    };

    private static readonly string[] WordKinds = [.. Enum.GetNames<WordKind>().Select(n => n.ToLowerInvariant())], PinKinds = [.. Enum.GetNames<PinKind>().Select(n => n.ToLowerInvariant())];

    private static T Wrong<T>(JsonReader r, string key, string wanted, T otherwise)
    {
        r.Fault($"{wanted} is wanted here", key);
        return otherwise;
    }

    private static Guid ReadGuid(JsonReader r, string key) => Guid.TryParse(r.Text(key), out var id) ? id : Wrong(r, key, "a UUID", Guid.Empty);

    private static DateTimeOffset ReadTime(JsonReader r, string key) =>
        DateTimeOffset.TryParse(r.Text(key), CultureInfo.InvariantCulture, DateTimeStyles.None, out var at) ? at : Wrong(r, key, "a time as 2036-05-04T08:00:00+02:00", default(DateTimeOffset));

    private static List<(string, string)> ReadPairs(JsonReader r, string key)
    {
        if (!r.Given(key) || r.Get(key) is not { } value)
        {
            return [];
        }

        if (value.ValueKind != JsonValueKind.Array || value.EnumerateArray().Any(p => p.ValueKind != JsonValueKind.Array || p.GetArrayLength() != 2 || p.EnumerateArray().Any(id => id.ValueKind != JsonValueKind.String)))
        {
            return Wrong<List<(string, string)>>(r, key, "a list of pairs of ids", []);
        }

        return [.. value.EnumerateArray().Select(p => (p[0].GetString()!, p[1].GetString()!))];
    }

    private static JsonObject ReadChanges(JsonReader r) =>
        r.Get("changes") is { ValueKind: JsonValueKind.Object } changes ? JsonObject.Create(changes.Clone())! : Wrong(r, "changes", "an object of properties", new JsonObject());

    /// <summary>An operation with some properties changed, as the format writes them; unchanged where they cannot be read.</summary>
    internal static Operation Changed(Operation operation, JsonObject changes) => Overlaid(AccessMapWriter.Write(operation), changes, ReadOperation, out _) ?? operation;

    /// <summary>A step of the way back with some properties changed.</summary>
    internal static RefitStep Changed(RefitStep step, JsonObject changes) => Overlaid(AccessMapWriter.Write(step), changes, ReadStep, out _) ?? step;

    /// <summary>What is wrong with changes to an operation or a step, by their path inside.</summary>
    internal static IReadOnlyList<FormatFault> FaultsOf(AccessMap map, SaidStep said, string path)
    {
        List<FormatFault> faults;
        if (map.Operation(said.Step) is { } operation)
        {
            Overlaid(AccessMapWriter.Write(operation), said.Changes, ReadOperation, out faults);
        }
        else if (map.Step(said.Step) is { } step)
        {
            Overlaid(AccessMapWriter.Write(step), said.Changes, ReadStep, out faults);
        }
        else
        {
            return [new FormatFault($"{path}.step", $"no operation or refit step “{said.Step}”")];
        }

        return [.. faults.Select(f => f with { Path = f.Path.Replace("$", $"{path}.changes", StringComparison.Ordinal) })];
    }

    private static T? Overlaid<T>(JsonObject written, JsonObject changes, Func<JsonReader, T> read, out List<FormatFault> faults) where T : class
    {
        foreach (var (key, value) in changes.Where(c => c.Key != "id"))
        {
            if (value is null && key != "needs")
            {
                written.Remove(key);
            }
            else
            {
                written[key] = value?.DeepClone();
            }
        }

        faults = [];
        using var document = JsonReader.Parse(written.ToJsonString(), faults);
        var reader = new JsonReader(document!.RootElement, "$", faults);
        var result = read(reader);
        reader.RefuseOthers();
        return faults.Count == 0 ? result : null;
    }

    private static StepPicture ReadPicture(JsonReader r)
    {
        var hash = r.Text("sha256");
        if (hash.Length != 64 || hash.Any(c => !char.IsAsciiHexDigitLower(c)))
        {
            r.Fault("64 digits of lower-case hex are wanted here", "sha256");
        }

        return new StepPicture(hash, r.Whole("width", 1, 20_000), r.Whole("height", 1, 20_000), r.OptionalText("caption"), r.List("pins", p => new Pin(Enum.Parse<PinKind>(p.Choice("kind", PinKinds) is { Length: > 0 } kind ? kind : "screw", ignoreCase: true),
            [.. ReadSpots(p, "points").Select(x => new PinPoint((decimal)x.X, (decimal)x.Y))], p.OptionalText("label")), optional: true));
    }

    private static Operation ReadOperation(JsonReader r) => new()
    {
        Id = r.Text("id"),
        Title = r.Text("title"),
        Why = r.OptionalText("why"),
        Kind = r.Choice("kind", ["open", "once"]) == "once" ? OperationKind.Once : OperationKind.Open,
        Position = r.Text("position"),
        Minutes = r.Object("minutes", ReadMinutes) ?? new Minutes(0, 0, 0),
        WaitMinutes = r.OptionalNumber("wait_minutes", 0) ?? 0,
        Needs = ReadNeeds(r, "needs", required: true) ?? Needs.Nothing,
        Tools = r.Texts("tools"),
        OrTools = ReadOrTools(r),
        Hands = r.Given("hands") ? r.Whole("hands", 1, 4) : 1,
        Fasteners = r.List("fasteners", ReadFastener, optional: true),
        Cautions = r.Texts("cautions", optional: true),
        Provides = r.Texts("provides", optional: true),
        Damage = r.Object("damage", d => new Damage(d.Number("chance", 0, 1), d.Number("cost", 0), d.Get("what")?.GetString() ?? "")) ?? new Damage(0, 0, ""),
        Consumes = r.List("consumes", c => new Consumable(c.Text("part"), c.Number("quantity", 0), c.Number("price", 0))),
        Close = r.Object("close", ReadClosing) ?? new Closing(null, null, false, null),
        Place = r.OptionalText("place"),
        Done = r.OptionalText("done"),
        Undone = r.OptionalText("undone"),
        Leaves = r.Texts("leaves", optional: true),
        Reach = r.OptionalText("reach"),
        Outline = ReadSpots(r, "outline"),
        Off = r.List("off", x => new PieceOff(x.Choice("kind", PieceOff.Kinds), x.Text("what"), x.Given("count") ? x.Whole("count", 1, 100) : 1, x.OptionalText("try"), x.OptionalText("forgotten")), optional: true),
        Live = r.Given("live") && r.YesNo("live"),
        ByMotor = r.Given("by_motor") && r.YesNo("by_motor"),
        Unpowered = r.OptionalText("unpowered"),
        Never = r.Texts("never", optional: true),
        Outsourced = r.Object("outsourced", ReadOutsourced, optional: true),
        Pictures = r.List("pictures", ReadPicture, optional: true),
    };

    private static RefitStep ReadStep(JsonReader r) => new()
    {
        Id = r.Text("id"),
        Title = r.Text("title"),
        Why = r.OptionalText("why"),
        Position = r.Text("position"),
        Minutes = r.Object("minutes", ReadMinutes) ?? new Minutes(0, 0, 0),
        WaitMinutes = r.OptionalNumber("wait_minutes", 0) ?? 0,
        Tools = r.Texts("tools"),
        AppliesIf = r.OptionalText("applies_if"),
        After = r.Texts("after"),
        Before = r.Texts("before"),
        Gate = r.YesNo("gate"),
        Cautions = r.Texts("cautions", optional: true),
        Place = r.OptionalText("place"),
        Done = r.OptionalText("done"),
        Checks = r.Texts("checks", optional: true),
        Setting = r.Given("setting") ? r.Choice("setting", SettingKinds.OnVehicle) : null,
        Never = r.Texts("never", optional: true),
        Outsourced = r.Object("outsourced", ReadOutsourced, optional: true),
    };

    private static Outsourced ReadOutsourced(JsonReader r) => new(r.Text("who"), r.Number("price", 0), r.Number("days", 0, 365));

    private static Closing ReadClosing(JsonReader r) =>
        new(r.Object("minutes", ReadMinutes, optional: true), ReadNeeds(r, "while", required: false), r.YesNo("gate"), r.OptionalText("title")) { WorkedOut = r.Given("worked_out") && r.YesNo("worked_out") };

    private static Minutes ReadMinutes(JsonReader r)
    {
        var minutes = new Minutes(r.Number("low", 0), r.Number("likely", 0), r.Number("high", 0));
        if (minutes.Low > minutes.Likely || minutes.Likely > minutes.High)
        {
            r.Fault($"minutes out of order: low {minutes.Low}, likely {minutes.Likely}, high {minutes.High}");
        }

        return minutes;
    }

    private static Dictionary<string, IReadOnlyList<string>> ReadOrTools(JsonReader r)
    {
        var result = new Dictionary<string, IReadOnlyList<string>>(StringComparer.Ordinal);
        if (r.Get("or_tools") is not { } value || value.ValueKind == JsonValueKind.Null)
        {
            return result;
        }

        var inner = new JsonReader(value, $"{r.Path}.or_tools", r.Faults);
        if (value.ValueKind == JsonValueKind.Object)
        {
            foreach (var property in value.EnumerateObject())
            {
                result[property.Name] = inner.Texts(property.Name);
            }
        }

        return result;
    }

    private static Fastener ReadFastener(JsonReader r) => new()
    {
        Id = r.Text("id"),
        Holds = r.Text("holds"),
        Place = r.OptionalText("place"),
        Kind = r.Choice("kind", Fastener.Kinds),
        Drive = r.OptionalText("drive"),
        AlsoFits = r.Texts("also_fits", optional: true),
        Thread = r.OptionalText("thread"),
        LengthMillimetres = r.OptionalNumber("length_mm", 0, 2000),
        Count = r.Whole("count", 1, 500),
        Reuse = r.Choice("reuse", Fastener.Reuses),
        Treatment = r.Choice("treatment", Fastener.Treatments),
        Torque = r.Object("torque", ReadTorque, optional: true),
        Strength = r.Given("strength") ? r.Choice("strength", StrengthClass.Names) : null,
        Joint = r.Given("joint") ? Joints[r.Choice("joint", [.. Joints.Keys])] : Joint.Steel,
        Structural = r.Given("structural") && r.YesNo("structural"),
        At = ReadSpots(r, "at"),
        Adaptor = r.Object("adaptor", a => new Adaptor(a.Number("offset_mm", 0, 1000), a.Number("angle", 0, 180)), optional: true),
    };

    /// <summary>Joints by their word in the format.</summary>
    public static IReadOnlyDictionary<string, Joint> Joints { get; } = new Dictionary<string, Joint>(StringComparer.Ordinal)
    {
        ["steel"] = Joint.Steel, ["light-alloy"] = Joint.LightAlloy, ["copper-stud"] = Joint.CopperStud, ["self-tapper"] = Joint.SelfTapper, ["plastic"] = Joint.Plastic,
    };

    /// <summary>Grades of a source by their word in the format.</summary>
    public static IReadOnlyDictionary<string, SourceGrade> Grades { get; } = new Dictionary<string, SourceGrade>(StringComparer.Ordinal)
    {
        ["maker"] = SourceGrade.Maker, ["part-maker"] = SourceGrade.PartMaker, ["handbook"] = SourceGrade.Handbook, ["hearsay"] = SourceGrade.Hearsay,
    };

    // A list of [x, y], each from 0 to 100.
    private static List<Spot> ReadSpots(JsonReader r, string key)
    {
        if (!r.Given(key) || r.Get(key) is not { } value)
        {
            return [];
        }

        var spots = new List<Spot>();
        var whole = value.ValueKind == JsonValueKind.Array;
        foreach (var pair in whole ? value.EnumerateArray() : [])
        {
            if (pair.ValueKind == JsonValueKind.Array && pair.GetArrayLength() == 2 && pair.EnumerateArray().All(n => n.ValueKind == JsonValueKind.Number && n.GetDouble() is >= 0 and <= 100))
            {
                spots.Add(new Spot(pair[0].GetDouble(), pair[1].GetDouble()));
            }
            else
            {
                whole = false;
            }
        }

        if (!whole)
        {
            r.Fault("a list of [x, y], each from 0 to 100, is wanted here", key);
        }

        return spots;
    }

    private static SourcedTorque ReadSourced(JsonReader r) => new(
        new Figure(r.Number("value", 0.01m, 10_000), Units.BySymbol(r.Choice("unit", [.. Units.OfKind(QuantityKind.Torque).Select(u => u.Symbol)]))!),
        r.Text("source"),
        r.Given("grade") ? Grades[r.Choice("grade", [.. Grades.Keys])] : SourceGrade.Maker);

    private static TorqueSpecification ReadTorque(JsonReader r)
    {
        var symbol = r.Choice("unit", [.. Units.OfKind(QuantityKind.Torque).Select(u => u.Symbol)]);
        return new TorqueSpecification(
            new Figure(r.Number("value", 0.01m, 10_000), Units.BySymbol(symbol)!),
            r.Text("source"),
            r.OptionalNumber("angle", 0, 720),
            r.Given("pattern") ? r.Choice("pattern", TighteningOrder.Patterns) : null)
        {
            Grade = r.Given("grade") ? Grades[r.Choice("grade", [.. Grades.Keys])] : SourceGrade.Maker,
            Others = r.List("others", ReadSourced, optional: true),
            Passes = ReadPasses(r),
        };
    }

    private static List<decimal> ReadPasses(JsonReader r)
    {
        if (!r.Given("passes") || r.Get("passes") is not { } value)
        {
            return [];
        }

        List<decimal> passes = value.ValueKind == JsonValueKind.Array && value.EnumerateArray().All(n => n.ValueKind == JsonValueKind.Number && n.TryGetDecimal(out _))
            ? [.. value.EnumerateArray().Select(n => n.GetDecimal())] : [];
        if (passes.Count == 0 || passes[^1] != 1 || passes[0] <= 0 || passes.Zip(passes.Skip(1)).Any(p => p.First >= p.Second))
        {
            r.Fault("shares that rise to 1, for example [0.5, 1], are wanted here", "passes");
        }

        return passes;
    }

    private static Needs? ReadNeeds(JsonReader r, string key, bool required)
    {
        var value = r.Get(key);
        if (value is null)
        {
            if (required)
            {
                r.Fault("is missing (null when nothing is needed)", key);
            }

            return null;
        }

        return value.Value.ValueKind == JsonValueKind.Null ? null : ReadNeeds(value.Value, $"{r.Path}.{key}", r.Faults);
    }

    private static Needs ReadNeeds(JsonElement value, string path, List<FormatFault> faults)
    {
        void Fault(string message) => faults.Add(new FormatFault(path, message));
        if (value.ValueKind == JsonValueKind.String && !string.IsNullOrWhiteSpace(value.GetString()))
        {
            return new Needs.One(value.GetString()!);
        }

        if (value.ValueKind == JsonValueKind.Null)
        {
            return Needs.Nothing;
        }

        if (value.ValueKind != JsonValueKind.Object || value.EnumerateObject().Count() != 1)
        {
            Fault("an operation id, {\"all\": […]} or {\"any\": […]} is wanted here");
            return Needs.Nothing;
        }

        var (key, list) = value.EnumerateObject().Select(p => (p.Name, p.Value)).First();
        if (key is not ("all" or "any") || list.ValueKind != JsonValueKind.Array)
        {
            Fault("{\"all\": […]} or {\"any\": […]} is wanted here");
            return Needs.Nothing;
        }

        List<Needs> of = [.. list.EnumerateArray().Select((item, i) => ReadNeeds(item, $"{path}.{key}[{i}]", faults))];
        if (key == "all")
        {
            return new Needs.All(of);
        }

        if (of.Count == 0)
        {
            Fault("an empty \"any\" can never be met");
        }

        return new Needs.Any(of);
    }
}
