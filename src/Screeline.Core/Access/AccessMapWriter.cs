using System.Globalization;
using System.Text.Encodings.Web;
using System.Text.Json;
using System.Text.Json.Nodes;
using Screeline.Core.Access.Learning;
using Screeline.Core.Fastening;

namespace Screeline.Core.Access;

/// <summary>Writes <c>screeline/access-map@1</c>: what <see cref="AccessMapReader"/> reads again as the same map.</summary>
public static class AccessMapWriter
{
    private static readonly JsonSerializerOptions Plain = new() { Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping };

    /// <summary>Writes a map, one operation, step, position or move to a line. What is empty and may be left out is left out.</summary>
    public static string Write(AccessMap map)
    {
        var root = new List<(string Key, JsonNode? Value)>
        {
            ("format", AccessMapReader.Format), ("id", map.Id), ("title", map.Title), ("subject", map.Subject), ("family", map.Family),
            ("applies_to", map.AppliesTo.Count == 0 ? null : List(map.AppliesTo, a => Object(("model", a.Model), ("years", a.Years), ("version", a.Version), ("certainty", a.Certainty), ("look", Texts(a.Look))))),
            ("lessons", map.Lessons.Count == 0 ? null : List(map.Lessons, l => Object(("words", l.Words), ("at", Texts(l.At))))),
            ("fitted", map.Fitted is not { } fitted ? null : Object(("question", fitted.Question), ("choices", List(fitted.Choices, c => Object(("id", c.Id), ("title", c.Title), ("tell", c.Tell), ("without", Texts(c.Without))))))),
            ("start_position", map.StartPosition),
            ("positions", List(map.Positions, p => Object(("id", p.Id), ("title", p.Title), ("kind", p.Kind), ("requires", Texts(p.Requires))))),
            ("moves", List(map.Moves, m => Object(("from", m.From), ("to", m.To), ("minutes", m.Minutes)))),
            ("default_move_minutes", map.DefaultMoveMinutes), ("tool_change_minutes", map.ToolChangeMinutes), ("labour_rate_per_hour", map.LabourRatePerHour),
            ("operations", List(map.Operations, Write)),
            ("refit_steps", map.RefitSteps.Count == 0 ? null : List(map.RefitSteps, Write)),
            ("targets", List(map.Targets, t => Object(("id", t.Id), ("operation", t.Operation), ("repairs", Texts(t.Repairs))))),
            ("reaches", map.Reaches.Count == 0 ? null : List(map.Reaches, x => Object(("access", x.Key), ("operation", x.Value)))),
            ("restores", map.Restores.Count == 0 ? null : List(map.Restores, x => Object(("id", x.Id), ("what", x.What), ("how", x.How), ("after", x.After)))),
            ("suspects", map.Suspects.Count == 0 ? null : List(map.Suspects, x => Object(("check", x.Check), ("step", x.Step), ("why", x.Why)))),
            ("printed_route", Texts(map.PrintedRoute)), ("published_minutes", map.PublishedMinutes), ("learned", map.Learned is { } learned ? Write(learned) : null),
        };
        return "{\n" + string.Join(",\n", root.Where(x => x.Value is not null).Select(x => $"  \"{x.Key}\": {Lines(x.Value!)}")) + "\n}\n";
    }

    // A list of objects takes a line for each.
    private static string Lines(JsonNode value) => value is JsonArray { Count: > 0 } list && list[0] is JsonObject
        ? "[\n" + string.Join(",\n", list.Select(item => "    " + item!.ToJsonString(Plain))) + "\n  ]"
        : value.ToJsonString(Plain);

    private static JsonObject Write(LearnedFrom from) => Object(
        ("operations", from.Operations is { } operations ? List(operations, Write) : null), ("steps", from.Steps is { } steps ? List(steps, Write) : null),
        ("jobs", List(from.Jobs, j => Object(
            ("job", j.Job.ToString()), ("on", j.On.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture)), ("by", List(j.By, b => b)), ("version", j.Version), ("mapped", j.Mapped ? true : null),
            ("opened", List(j.Opened, Write)), ("unordered", Pairs(j.Unordered)), ("closed", List(j.Closed, id => id)), ("unordered_back", Pairs(j.UnorderedBack)),
            ("steps", j.Steps.Count == 0 ? null : List(j.Steps, Write)), ("names", j.Names.Count == 0 ? null : new JsonObject(j.Names.Select(n => KeyValuePair.Create(n.Key, (JsonNode?)n.Value)))),
            ("words", j.Words.Count == 0 ? null : List(j.Words, w => Object(
                ("entry", w.Entry.ToString()), ("by", w.By), ("at", w.At.ToString("yyyy-MM-ddTHH:mm:sszzz", CultureInfo.InvariantCulture)), ("says", w.Kind.ToString().ToLowerInvariant()), ("step", w.Step), ("of", List(w.Of, id => id)))))))),
        ("said", from.Said.Count == 0 ? null : List(from.Said, x => Object(("step", x.Step), ("by", x.By), ("at", x.At.ToString("yyyy-MM-ddTHH:mm:sszzz", CultureInfo.InvariantCulture)), ("changes", x.Changes.DeepClone())))));

    private static JsonArray? Pairs(IReadOnlyList<(string, string)> pairs) => pairs.Count == 0 ? null : List(pairs, p => new JsonArray(p.Item1, p.Item2));

    /// <summary>An operation as the format writes it.</summary>
    public static JsonObject Write(Operation o)
    {
        var written = Object(
            ("id", o.Id), ("title", o.Title), ("why", o.Why), ("kind", o.Kind == OperationKind.Once ? "once" : "open"), ("position", o.Position), ("place", o.Place),
            ("minutes", Write(o.Minutes)), ("wait_minutes", o.WaitMinutes == 0 ? null : o.WaitMinutes));
        written["needs"] = Write(o.Needs);
        foreach (var (key, value) in new (string, JsonNode?)[]
        {
            ("tools", List(o.Tools, t => t)),
            ("or_tools", o.OrTools.Count == 0 ? null : new JsonObject(o.OrTools.Select(x => KeyValuePair.Create(x.Key, (JsonNode?)List(x.Value, t => t))))),
            ("hands", o.Hands == 1 ? null : o.Hands), ("fasteners", o.Fasteners.Count == 0 ? null : List(o.Fasteners, Write)),
            ("cautions", Texts(o.Cautions)), ("provides", Texts(o.Provides)), ("leaves", Texts(o.Leaves)), ("reach", o.Reach), ("outline", Write(o.Outline)),
            ("off", o.Off.Count == 0 ? null : List(o.Off, x => Object(("kind", x.Kind), ("what", x.What), ("count", x.Count == 1 ? null : x.Count), ("try", x.Try), ("forgotten", x.Forgotten)))),
            ("live", o.Live ? true : null), ("by_motor", o.ByMotor ? true : null), ("unpowered", o.Unpowered), ("never", Texts(o.Never)), ("outsourced", Write(o.Outsourced)), ("done", o.Done), ("undone", o.Undone),
            ("pictures", o.Pictures.Count == 0 ? null : List(o.Pictures, p => Object(("sha256", p.Sha256), ("width", p.Width), ("height", p.Height), ("caption", p.Caption), ("pins", p.Pins.Count == 0 ? null : List(p.Pins, pin => Object(
                ("kind", pin.Kind.ToString().ToLowerInvariant()), ("points", List(pin.Points, x => new JsonArray(x.X, x.Y))), ("label", pin.Label))))))),
            ("damage", Object(("chance", o.Damage.Chance), ("cost", o.Damage.Cost), ("what", o.Damage.What))),
            ("consumes", List(o.Consumes, c => Object(("part", c.Part), ("quantity", c.Quantity), ("price", c.Price)))),
        })
        {
            if (value is not null)
            {
                written[key] = value;
            }
        }

        var close = Object(("title", o.Close.Title));
        close["minutes"] = o.Close.Minutes is { } minutes ? Write(minutes) : null;
        // Needs of nothing at all and "as its needs" are two things here: {"all": []} and null.
        close["while"] = o.Close.While is { } during ? Write(during) ?? new JsonObject { ["all"] = new JsonArray() } : null;
        close["gate"] = o.Close.Gate;
        if (o.Close.WorkedOut)
        {
            close["worked_out"] = true;
        }

        written["close"] = close;
        return written;
    }

    /// <summary>A step of the way back as the format writes it.</summary>
    public static JsonObject Write(RefitStep s) => Object(
        ("id", s.Id), ("title", s.Title), ("why", s.Why), ("position", s.Position), ("place", s.Place), ("minutes", Write(s.Minutes)), ("wait_minutes", s.WaitMinutes == 0 ? null : s.WaitMinutes),
        ("tools", List(s.Tools, t => t)), ("applies_if", s.AppliesIf), ("after", List(s.After, t => t)), ("before", List(s.Before, t => t)), ("gate", s.Gate),
        ("cautions", Texts(s.Cautions)), ("checks", Texts(s.Checks)), ("setting", s.Setting), ("never", Texts(s.Never)), ("outsourced", Write(s.Outsourced)), ("done", s.Done));

    private static JsonObject? Write(Outsourced? o) => o is null ? null : Object(("who", o.Who), ("price", o.Price), ("days", o.Days));

    private static JsonObject Write(Minutes m) => Object(("low", m.Low), ("likely", m.Likely), ("high", m.High));

    private static JsonObject Write(Fastener f) => Object(
        ("id", f.Id), ("holds", f.Holds), ("place", f.Place), ("kind", f.Kind), ("drive", f.Drive), ("also_fits", Texts(f.AlsoFits)), ("thread", f.Thread), ("length_mm", f.LengthMillimetres),
        ("count", f.Count), ("reuse", f.Reuse), ("treatment", f.Treatment),
        ("strength", f.Strength), ("joint", f.Joint == Joint.Steel ? null : AccessMapReader.Joints.First(j => j.Value == f.Joint).Key), ("structural", f.Structural ? true : null), ("at", Write(f.At)),
        ("adaptor", f.Adaptor is not { } a ? null : Object(("offset_mm", a.OffsetMillimetres), ("angle", a.AngleDegrees))),
        ("torque", f.Torque is not { } t ? null : Object(
            ("value", t.Value.Number), ("unit", t.Value.Unit.Symbol), ("source", t.Source), ("grade", Grade(t.Grade)), ("angle", t.AngleDegrees), ("pattern", t.Pattern),
            ("passes", t.Passes.Count == 0 ? null : List(t.Passes, p => p)),
            ("others", t.Others.Count == 0 ? null : List(t.Others, o => Object(("value", o.Value.Number), ("unit", o.Value.Unit.Symbol), ("source", o.Source), ("grade", Grade(o.Grade))))))));

    private static string? Grade(SourceGrade grade) => grade == SourceGrade.Maker ? null : AccessMapReader.Grades.First(g => g.Value == grade).Key;

    private static JsonArray? Write(IReadOnlyList<Spot> spots) => spots.Count == 0 ? null : List(spots, s => new JsonArray(s.X, s.Y));

    /// <summary>Needs as the format writes them: null, an id, or an object with "all" or "any".</summary>
    public static JsonNode? Write(Needs needs) => needs switch
    {
        Needs.One one => JsonValue.Create(one.Operation),
        Needs.All { Of.Count: 0 } => null,
        Needs.All all => new JsonObject { ["all"] = List(all.Of, Write) },
        _ => new JsonObject { ["any"] = List(((Needs.Any)needs).Of, Write) },
    };

    private static JsonArray List<T>(IEnumerable<T> items, Func<T, JsonNode?> write) => new([.. items.Select(write)]);

    private static JsonArray? Texts(IReadOnlyList<string> texts) => texts.Count == 0 ? null : List(texts, t => t);

    private static JsonObject Object(params (string Key, JsonNode? Value)[] pairs) =>
        new(pairs.Where(p => p.Value is not null).Select(p => KeyValuePair.Create(p.Key, p.Value)));
}
