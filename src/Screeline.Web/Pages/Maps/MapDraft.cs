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

    /// <summary>Adds an operation and tells its id.</summary>
    public string Add()
    {
        var id = Enumerable.Range(1, 999).Select(i => $"step-{i}").First(name => Operation(name) is null);
        if (Root is not null)
        {
            if (Root["operations"] is not JsonArray list)
            {
                Root["operations"] = list = [];
            }

            list.Add(new JsonObject
            {
                ["id"] = id, ["title"] = "New step", ["kind"] = "open", ["position"] = Word(Root["start_position"]), ["minutes"] = new JsonObject { ["low"] = 1, ["likely"] = 2, ["high"] = 4 }, ["needs"] = null,
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
        if (Operation(id) is { } operation)
        {
            (Root!["operations"] as JsonArray)!.Remove(operation);
            Write();
        }
    }

    /// <summary>Puts the fields of the form into an operation; tells faults of what could not be put in, by field, and the operation's id from now on.</summary>
    public (string Id, Dictionary<string, string> Faults) Fill(string id, IFormCollection form)
    {
        var faults = new Dictionary<string, string>(StringComparer.Ordinal);
        if (Operation(id) is not { } o)
        {
            return (id, faults);
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

        o["id"] = Field("f-id");
        o["title"] = Field("f-title");
        o["kind"] = Field("f-kind");
        o["position"] = Field("f-position");
        Optional("why", Given(Field("f-why")));
        Optional("place", Given(Field("f-place")));
        Optional("done", Given(Field("f-done")));
        o["minutes"] = Minutes(Field("f-low"), Field("f-likely"), Field("f-high"));
        Optional("wait_minutes", Field("f-wait") is "" or "0" ? null : Number(Field("f-wait")));
        o["tools"] = List(Field("f-tools"));
        Optional("cautions", List(Field("f-cautions")) is { Count: > 0 } cautions ? cautions : null);
        Optional("provides", List(Field("f-provides")) is { Count: > 0 } provides ? provides : null);
        var damage = o["damage"] as JsonObject ?? [];
        (damage["chance"], damage["cost"], damage["what"]) = (Number(Field("f-chance")), Number(Field("f-cost")), Field("f-what"));
        o["damage"] = damage;
        if (NeedsText.Read(Field("f-needs")) is var (needs, fault) && needs is not null)
        {
            o["needs"] = AccessMapWriter.Write(needs);
        }
        else
        {
            faults["f-needs"] = fault!;
        }

        var close = o["close"] as JsonObject ?? [];
        close["gate"] = form["f-gate"] == "on";
        close["minutes"] = Field("f-close-likely").Length == 0 ? null : Minutes(Field("f-close-low"), Field("f-close-likely"), Field("f-close-high"));
        if (Field("f-while").Length == 0)
        {
            close["while"] = null;
        }
        else if (NeedsText.Read(Field("f-while")) is var (during, wrong) && during is not null)
        {
            close["while"] = AccessMapWriter.Write(during) ?? new JsonObject { ["all"] = new JsonArray() };
        }
        else
        {
            faults["f-while"] = wrong!;
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
        Write();
        return (Field("f-id"), faults);
    }

    private static JsonArray Fasteners(JsonArray? before, IFormCollection form)
    {
        var list = new JsonArray();
        for (var i = 0; form.ContainsKey($"g-{i}-id"); i++)
        {
            string Field(string name) => form[$"g-{i}-{name}"].ToString().Trim();
            if (Field("id").Length == 0)
            {
                continue;
            }

            // What the form does not show stays as it was.
            var fastener = before is not null && i < before.Count && before[i] is JsonObject old ? (JsonObject)old.DeepClone() : [];
            (fastener["id"], fastener["holds"], fastener["kind"], fastener["count"]) = (Field("id"), Field("holds"), Field("kind"), Number(Field("count")));
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
