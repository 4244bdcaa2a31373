using System.Globalization;
using System.Text.Encodings.Web;
using System.Text.Json;
using System.Text.Json.Nodes;
using Screeline.Core.Access;

namespace Screeline.Web.Pages.Maps;

/// <summary>
/// A map while it is edited: its text, changed piece by piece. What was typed goes into the text as it is, right or wrong; the
/// reader of maps then tells what is wrong with it, and nothing typed is lost.
/// </summary>
public sealed class MapDraft
{
    private static readonly JsonSerializerOptions Spread = new() { WriteIndented = true, Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping };

    private MapDraft(string text, JsonObject? root) => (Text, Root) = (text, root);

    /// <summary>The text.</summary>
    public string Text { get; private set; }

    /// <summary>The text as objects, or null when it is no JSON object.</summary>
    public JsonObject? Root { get; }

    /// <summary>Takes up a text.</summary>
    public static MapDraft Parse(string text)
    {
        try
        {
            return new MapDraft(text, JsonNode.Parse(text) as JsonObject);
        }
        catch (JsonException)
        {
            return new MapDraft(text, null);
        }
    }

    /// <summary>The operations as objects.</summary>
    public IReadOnlyList<JsonObject> Operations => [.. (Root?["operations"] as JsonArray ?? []).OfType<JsonObject>()];

    /// <summary>The operation with this id, or null.</summary>
    public JsonObject? Operation(string? id) => Operations.FirstOrDefault(o => Word(o["id"]) == id);

    /// <summary>A value as text.</summary>
    public static string Word(JsonNode? node) => node is JsonValue value ? value.ToString() : "";

    /// <summary>A list of texts as text.</summary>
    public static string Words(JsonNode? node) => node is JsonArray list ? string.Join(", ", list.Select(Word)) : "";

    /// <summary>Needs as text; the JSON itself where it cannot be read as needs.</summary>
    public static string NeedsWords(JsonNode? node, string none) => node switch
    {
        null => none,
        JsonValue value => value.ToString(),
        JsonObject { Count: 1 } o when o.First() is { Key: "all" or "any" } pair && pair.Value is JsonArray list =>
            list.Count == 0 ? NeedsText.Nothing
            : string.Join(pair.Key == "all" ? " and " : " or ", list.Select(n => pair.Key == "all" && n is JsonObject inner && inner.ContainsKey("any") ? $"({NeedsWords(n, none)})" : NeedsWords(n, NeedsText.Nothing))),
        _ => node.ToJsonString(),
    };

    /// <summary>The steps of the way back as objects.</summary>
    public IReadOnlyList<JsonObject> RefitSteps => [.. (Root?["refit_steps"] as JsonArray ?? []).OfType<JsonObject>()];

    /// <summary>The step of the way back with this id, or null.</summary>
    public JsonObject? RefitStep(string? id) => RefitSteps.FirstOrDefault(s => Word(s["id"]) == id);

    /// <summary>The sets that meet needs as they stand in the text; null where they cannot be read, or are too many to be told one by one.</summary>
    public static IReadOnlyList<IReadOnlyList<string>>? Alternatives(JsonNode? node) =>
        NeedsText.Read(NeedsWords(node, NeedsText.Nothing)) is ({ HasFewAlternatives: true } needs, _) ? needs.Alternatives() : null;

    /// <summary>Adds a step of the way back and tells its id.</summary>
    public string AddRefitStep()
    {
        var id = Free("new-step");
        if (Root is not null)
        {
            if (Root["refit_steps"] is not JsonArray list)
            {
                Root["refit_steps"] = list = [];
            }

            list.Add(new JsonObject
            {
                ["id"] = id, ["title"] = NewStep, ["position"] = Word(Root["start_position"]), ["minutes"] = new JsonObject { ["low"] = 1, ["likely"] = 2, ["high"] = 4 }, ["tools"] = new JsonArray(),
                ["after"] = new JsonArray(), ["before"] = new JsonArray(), ["gate"] = false,
            });
            Write();
        }

        return id;
    }

    private const string NewStep = "New step";

    private string Free(string words, string? besides = null) =>
        Core.Access.Learning.LearnedMap.Slug(words, Operations.Concat(RefitSteps).Select(o => Word(o["id"])).Where(id => id != besides).ToHashSet(StringComparer.Ordinal));

    // A step that got its name gets its id of it; whatever names the step goes along. Ids that stand stay: jobs and times go by them.
    private string Named(JsonObject step, string id, string title)
    {
        if (!id.StartsWith("new-step", StringComparison.Ordinal) || title.Length == 0 || title == NewStep)
        {
            return id;
        }

        var named = Free(title, id);
        Rename(Root!, id, named);
        step["id"] = named;
        return named;
    }

    private static void Rename(JsonNode node, string id, string to)
    {
        if (node is JsonObject o)
        {
            foreach (var (key, value) in o.ToList())
            {
                if (value is JsonValue && Word(value) == id && key is "needs" or "while" or "operation" or "applies_if" or "step" or "after")
                {
                    o[key] = to;
                }
                else if (value is not null && key != "learned")
                {
                    Rename(value, id, to);
                }
            }
        }
        else if (node is JsonArray list)
        {
            for (var i = 0; i < list.Count; i++)
            {
                if (list[i] is JsonValue value && Word(value) == id)
                {
                    list[i] = to;
                }
                else if (list[i] is { } inner)
                {
                    Rename(inner, id, to);
                }
            }
        }
    }

    /// <summary>Puts the fields of the form about the whole map into the text: name, vehicles, places, ways between them.</summary>
    public void FillHead(IFormCollection form)
    {
        if (Root is null)
        {
            return;
        }

        string Field(string name) => form[name].ToString().Trim();
        Root["title"] = Field("h-title");
        if (form.ContainsKey("h-family"))
        {
            Root["family"] = Field("h-family");
        }

        // Of a map that nobody has kept yet the program makes the id.
        if (Word(Root["id"]) == "new-map" && Field("h-title") is { Length: > 0 } title && title != "New map")
        {
            Root["id"] = Core.Access.Learning.LearnedMap.Slug(title, new HashSet<string>());
        }

        var vehicles = new JsonArray();
        for (var i = 0; form.ContainsKey($"v-{i}-model"); i++)
        {
            var before = (Root["applies_to"] as JsonArray)?.ElementAtOrDefault(i) as JsonObject;
            if (Field($"v-{i}-model").Length > 0)
            {
                var vehicle = before is null ? [] : (JsonObject)before.DeepClone();
                vehicle["model"] = Field($"v-{i}-model");
                vehicle["certainty"] = Field($"v-{i}-certainty");
                foreach (var key in new[] { "years", "version" })
                {
                    Put(vehicle, key, Given(Field($"v-{i}-{key}")));
                }

                Put(vehicle, "look", Field($"v-{i}-look").Split(';', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries) is { Length: > 0 } look ? new JsonArray([.. look.Select(l => (JsonNode?)l)]) : null);
                vehicles.Add(vehicle);
            }
        }

        Root["applies_to"] = vehicles;
        var places = new JsonArray();
        for (var i = 0; form.ContainsKey($"p-{i}-title"); i++)
        {
            var before = (Root["positions"] as JsonArray)?.ElementAtOrDefault(i) as JsonObject;
            if (Field($"p-{i}-title").Length == 0)
            {
                continue;
            }

            var place = before is null ? new JsonObject { ["id"] = Core.Access.Learning.LearnedMap.Slug(Field($"p-{i}-title"), places.OfType<JsonObject>().Select(p => Word(p["id"])).ToHashSet(StringComparer.Ordinal)) } : (JsonObject)before.DeepClone();
            place["title"] = Field($"p-{i}-title");
            Put(place, "kind", Given(Field($"p-{i}-kind")));
            var requires = (place["requires"] as JsonArray ?? []).Select(Word).ToHashSet(StringComparer.Ordinal);
            if (Position.UnderneathKinds.Contains(Field($"p-{i}-kind")))
            {
                requires.Add("vehicle-supported");
            }

            Put(place, "requires", requires.Count == 0 ? null : new JsonArray([.. requires.Select(r => (JsonNode?)r)]));
            places.Add(place);
        }

        Root["positions"] = places;
        var moves = new JsonArray();
        for (var i = 0; form.ContainsKey($"m-{i}-from"); i++)
        {
            if (Field($"m-{i}-from").Length > 0 && Field($"m-{i}-to").Length > 0)
            {
                moves.Add(new JsonObject { ["from"] = Field($"m-{i}-from"), ["to"] = Field($"m-{i}-to"), ["minutes"] = Number(Field($"m-{i}-minutes")) });
            }
        }

        Root["moves"] = moves;
        Root["default_move_minutes"] = Number(Field("h-move"));
        Root["start_position"] = Field("h-start");
        Write();
    }

    /// <summary>Puts the fields of the form into a step of the way back.</summary>
    public string FillRefitStep(string id, IFormCollection form)
    {
        if (RefitStep(id) is not { } s)
        {
            return id;
        }

        string Field(string name) => form[name].ToString().Trim();
        JsonArray Chosen(string name) => [.. form[name].Where(v => v is { Length: > 0 }).Distinct().Select(v => (JsonNode?)v)];
        s["title"] = Field("r-title");
        s["position"] = Field("r-position");
        s["minutes"] = Minutes(Field("r-low"), Field("r-likely"), Field("r-high"));
        s["after"] = Chosen("r-after");
        s["before"] = Chosen("r-before");
        s["gate"] = form["r-gate"] == "on";
        Put(s, "applies_if", Given(Field("r-because")));
        Put(s, "why", Given(Field("r-why")));
        Put(s, "place", Given(Field("r-place")));
        Put(s, "done", Given(Field("r-done")));
        Put(s, "wait_minutes", Field("r-wait") is "" or "0" ? null : Number(Field("r-wait")));
        s["tools"] = List(Field("r-tools"));
        Put(s, "cautions", Chosen("r-cautions") is { Count: > 0 } cautions ? cautions : null);
        Put(s, "setting", Given(Field("r-setting")));
        var named = Named(s, id, Field("r-title"));
        Write();
        return named;
    }

    private static void Put(JsonObject o, string key, JsonNode? value)
    {
        if (value is null)
        {
            o.Remove(key);
        }
        else
        {
            o[key] = value;
        }
    }

    // Ticked parts, one list for each way: n-0, n-1 …; a way with nothing ticked is none.
    private static JsonNode? NeedsOf(IFormCollection form, string prefix)
    {
        var ways = new List<IReadOnlyList<string>>();
        for (var i = 0; form.ContainsKey($"{prefix}-{i}"); i++)
        {
            if (form[$"{prefix}-{i}"].Where(v => v is { Length: > 0 }).Select(v => v!).Distinct().ToList() is { Count: > 0 } parts)
            {
                ways.Add(parts);
            }
        }

        return AccessMapWriter.Write(Needs.AnyOf(ways));
    }

    /// <summary>Adds an operation and tells its id.</summary>
    public string Add()
    {
        var id = Free("new-step");
        if (Root is not null)
        {
            if (Root["operations"] is not JsonArray list)
            {
                Root["operations"] = list = [];
            }

            list.Add(new JsonObject
            {
                ["id"] = id, ["title"] = NewStep, ["kind"] = "open", ["position"] = Word(Root["start_position"]), ["minutes"] = new JsonObject { ["low"] = 1, ["likely"] = 2, ["high"] = 4 }, ["needs"] = null,
                ["tools"] = new JsonArray(), ["damage"] = new JsonObject { ["chance"] = 0, ["cost"] = 0, ["what"] = "" }, ["consumes"] = new JsonArray(),
                ["close"] = new JsonObject { ["minutes"] = null, ["while"] = null, ["gate"] = false },
            });
            Write();
        }

        return id;
    }

    /// <summary>Takes an operation out; what still names it shows as a fault.</summary>
    public void Remove(string id)
    {
        if ((Operation(id) ?? RefitStep(id)) is { Parent: JsonArray list } step)
        {
            list.Remove(step);
            Write();
        }
    }

    /// <summary>Puts the fields of the form into an operation; tells the operation's id from now on.</summary>
    public string Fill(string id, IFormCollection form)
    {
        if (Operation(id) is not { } o)
        {
            return id;
        }

        string Field(string name) => form[name].ToString().Trim();
        void Optional(string key, JsonNode? value)
        {
            if (value is null)
            {
                o.Remove(key);
            }
            else
            {
                o[key] = value;
            }
        }

        o["title"] = Field("f-title");
        o["kind"] = Field("f-kind");
        o["position"] = Field("f-position");
        Optional("why", Given(Field("f-why")));
        Optional("place", Given(Field("f-place")));
        Optional("done", Given(Field("f-done")));
        o["minutes"] = Minutes(Field("f-low"), Field("f-likely"), Field("f-high"));
        Optional("wait_minutes", Field("f-wait") is "" or "0" ? null : Number(Field("f-wait")));
        o["tools"] = List(Field("f-tools"));
        JsonArray cautions = [.. form["f-cautions"].Where(c => c is { Length: > 0 }).Select(c => (JsonNode?)c)];
        Optional("cautions", cautions.Count > 0 ? cautions : null);
        Optional("provides", List(Field("f-provides")) is { Count: > 0 } provides ? provides : null);
        var damage = o["damage"] as JsonObject ?? [];
        (damage["chance"], damage["cost"], damage["what"]) = (Number(Field("f-chance")), Number(Field("f-cost")), Field("f-what"));
        o["damage"] = damage;
        if (form.ContainsKey("n-0"))
        {
            o["needs"] = NeedsOf(form, "n");
        }

        var close = o["close"] as JsonObject ?? [];
        close["gate"] = form["f-gate"] == "on";
        close["minutes"] = Field("f-close-likely").Length == 0 ? null : Minutes(Field("f-close-low"), Field("f-close-likely"), Field("f-close-high"));
        if (form.ContainsKey("w-0"))
        {
            // Nothing at all, and "as it came off", are two things.
            close["while"] = Field("f-while-as") != "these" ? null : NeedsOf(form, "w") ?? new JsonObject { ["all"] = new JsonArray() };
        }

        if (Field("f-close-title").Length > 0)
        {
            close["title"] = Field("f-close-title");
        }
        else
        {
            close.Remove("title");
        }

        o["close"] = close;
        Optional("fasteners", Fasteners(o["fasteners"] as JsonArray, form) is { Count: > 0 } fasteners ? fasteners : null);
        var named = Named(o, id, Field("f-title"));
        Write();
        return named;
    }

    private static JsonArray Fasteners(JsonArray? before, IFormCollection form)
    {
        var list = new JsonArray();
        for (var i = 0; form.ContainsKey($"g-{i}-id"); i++)
        {
            string Field(string name) => form[$"g-{i}-{name}"].ToString().Trim();
            // A group is what it holds; one that holds nothing is none.
            if (Field("holds").Length == 0)
            {
                continue;
            }

            var id = Field("id") is { Length: > 0 } given ? given : Core.Access.Learning.LearnedMap.Slug(Field("holds"), list.OfType<JsonObject>().Select(f => Word(f["id"])).ToHashSet(StringComparer.Ordinal));

            // What the form does not show stays as it was.
            var fastener = before is not null && i < before.Count && before[i] is JsonObject old ? (JsonObject)old.DeepClone() : [];
            (fastener["id"], fastener["holds"], fastener["kind"], fastener["count"]) = (id, Field("holds"), Field("kind"), Number(Field("count")));
            (fastener["reuse"], fastener["treatment"]) = (Field("reuse"), Field("treatment"));
            foreach (var key in new[] { "drive", "thread" })
            {
                if (Field(key).Length > 0)
                {
                    fastener[key] = Field(key);
                }
                else
                {
                    fastener.Remove(key);
                }
            }

            if (Field("torque").Length > 0)
            {
                var torque = fastener["torque"] as JsonObject ?? [];
                (torque["value"], torque["unit"], torque["source"]) = (Number(Field("torque")), Field("unit"), Field("source"));
                fastener["torque"] = torque;
            }
            else
            {
                fastener.Remove("torque");
            }

            list.Add(fastener);
        }

        return list;
    }

    private void Write() => Text = Root!.ToJsonString(Spread);

    private static JsonNode? Given(string field) => field.Length == 0 ? null : field;

    private static JsonArray List(string field) => [.. field.Split(',', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries).Select(t => (JsonNode?)t)];

    private static JsonObject Minutes(string low, string likely, string high) => new() { ["low"] = Number(low), ["likely"] = Number(likely), ["high"] = Number(high) };

    // What is no number stays as it was typed: the reader of maps says what is wrong with it.
    private static JsonValue Number(string field) =>
        decimal.TryParse(field.Replace(',', '.'), NumberStyles.Float, CultureInfo.InvariantCulture, out var number) ? JsonValue.Create(number) : JsonValue.Create(field)!;
}
