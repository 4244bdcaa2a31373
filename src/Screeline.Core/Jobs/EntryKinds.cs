using System.Text.Json;
using System.Text.Json.Nodes;
using System.Text.Json.Serialization;
using Screeline.Core.Formats;
using Screeline.Core.People;
using Screeline.Core.Quantities;

namespace Screeline.Core.Jobs;

/// <summary>Turns a payload of an older version into the next version.</summary>
public delegate JsonObject Upcaster(JsonObject older);

/// <summary>All kinds of entry and their JSON.</summary>
public static class EntryKinds
{
    private static readonly Dictionary<Type, EntryKind> ByType = Register(typeof(Payload).Assembly.GetTypes());
    private static readonly Dictionary<string, Type> ByName = ByType.ToDictionary(k => k.Value.Name, k => k.Key, StringComparer.Ordinal);

    /// <summary>All kinds, by name.</summary>
    public static IReadOnlyList<EntryKind> All { get; } = [.. ByType.Values.OrderBy(k => k.Name, StringComparer.Ordinal)];

    /// <summary>Upcasters by kind and the older version.</summary>
    public static IReadOnlyDictionary<(string Kind, int From), Upcaster> Upcasters { get; } =
        All.SelectMany(k => k.Older.Select((upcast, i) => (Key: (k.Name, i + 1), upcast))).ToDictionary(x => x.Key, x => x.upcast);

    private static readonly JsonSerializerOptions Json = new()
    {
        PropertyNamingPolicy = JsonNamingPolicy.SnakeCaseLower,
        UnmappedMemberHandling = JsonUnmappedMemberHandling.Disallow,
        RespectNullableAnnotations = true,
        RespectRequiredConstructorParameters = true,
        AllowDuplicateProperties = false,
        Converters = { new JsonStringEnumConverter(JsonNamingPolicy.KebabCaseLower, allowIntegerValues: false), new FigureConverter() },
        MaxDepth = 32,
    };

    /// <summary>The kind of a payload.</summary>
    public static EntryKind ForPayload(Payload payload) => ByType[payload.GetType()];

    /// <summary>Collects the kinds that payload types declare, and refuses one that would be forgotten somewhere.</summary>
    /// <param name="types">Types, of which the payloads that are not abstract are looked at.</param>
    /// <exception cref="InvalidOperationException">A payload declares no kind; two have one name; a name is not in lower case with hyphens; a
    /// role is refused without a word; an exception to the rule of clashes names a kind that is none.</exception>
    public static Dictionary<Type, EntryKind> Register(IEnumerable<Type> types)
    {
        var kinds = types.Where(t => t.IsSubclassOf(typeof(Payload)) && !t.IsAbstract).ToDictionary(t => t, EntryKind.DeclaredBy);
        string[] wrong =
        [
            .. kinds.GroupBy(k => k.Value.Name).Where(g => g.Count() > 1).Select(g => $"{g.Key} is declared by {string.Join(" and ", g.Select(k => k.Key.Name))}"),
            .. kinds.Values.Where(k => k.Version < 1 || k.Name.Split('-').Any(word => word.Length == 0 || word.Any(c => c is < 'a' or > 'z'))).Select(k => $"{k.Tag} is no name with a version"),
            .. kinds.Values.Where(k => k.By <= Role.Viewer || (k.By > Role.Apprentice && string.IsNullOrEmpty(k.Otherwise))).Select(k => $"{k.Name} does not tell whom it refuses why"),
            .. kinds.Values.SelectMany(k => k.With.Keys.Where(other => kinds.Values.All(o => o.Name != other)).Select(other => $"{k.Name} clashes with {other}, which is no kind")),
        ];
        return wrong.Length == 0 ? kinds : throw new InvalidOperationException($"Kinds of entry: {string.Join("; ", wrong)}.");
    }

    /// <summary>The payload as JSON.</summary>
    public static JsonElement Write(Payload payload) => JsonSerializer.SerializeToElement(payload, payload.GetType(), Json);

    /// <summary>Reads a payload of a tag such as "step-done@1", also of one version back.</summary>
    /// <exception cref="RefusedFileException">The tag is unknown or the payload does not fit it; each fault with its path.</exception>
    public static Payload Read(string tag, JsonElement payload) => Read(tag, payload, Upcasters);

    /// <summary>
    /// Reads what a correction puts in the place of a payload of this kind. It names no version: what does not fit today's is read as the
    /// newest older one that it fits.
    /// </summary>
    /// <exception cref="RefusedFileException">It fits none; each fault with its path, as of today's.</exception>
    public static Payload ReadCorrection(EntryKind kind, JsonElement payload)
    {
        RefusedFileException? refused = null;
        for (var version = kind.Version; version >= 1; version--)
        {
            try
            {
                return Read($"{kind.Name}@{version}", payload);
            }
            catch (RefusedFileException e)
            {
                refused ??= e;
            }
        }

        throw refused!;
    }

    /// <summary>Reads a payload with the upcasters given.</summary>
    public static Payload Read(string tag, JsonElement payload, IReadOnlyDictionary<(string Kind, int From), Upcaster> upcasters)
    {
        var (name, version) = tag.Split('@') is [var left, var right] && int.TryParse(right, out var number) ? (left, number) : (tag, 0);
        var type = ByName.GetValueOrDefault(name) ?? throw Refused("$.kind", $"“{tag}” is not a kind of entry");
        var kind = ByType[type];
        if (version > kind.Version)
        {
            throw Refused("$.kind", $"version {version} of {name} is not known here; {kind.Version} is");
        }

        if (payload.ValueKind != JsonValueKind.Object)
        {
            throw Refused("$.payload", "an object { … } is wanted here");
        }

        var node = JsonObject.Create(payload)!;
        for (; version < kind.Version; version++)
        {
            node = upcasters.TryGetValue((name, version), out var upcast)
                ? upcast(node)
                : throw Refused("$.kind", $"version {version} of {name} is too old to be read");
        }

        try
        {
            return (Payload)(node.Deserialize(type, Json) ?? throw Refused("$.payload", "is null"));
        }
        catch (JsonException e)
        {
            throw Refused("$.payload" + (e.Path is { Length: > 1 } path ? path[1..] : ""), e.InnerException is QuantityException inner ? inner.Message : $"does not fit {tag}: a key is unknown, missing or of the wrong type");
        }
        catch (Exception e) when (e is InvalidOperationException or ArgumentException or NotSupportedException)
        {
            // The node's own checks, for example a key that stands twice.
            throw Refused("$.payload", e.Message);
        }
    }

    private static RefusedFileException Refused(string path, string message) => new("entry", [new FormatFault(path, message)]);

    /// <summary>A figure as {"value": 12.4, "unit": "V"}.</summary>
    private sealed class FigureConverter : JsonConverter<Figure>
    {
        public override Figure Read(ref Utf8JsonReader reader, Type typeToConvert, JsonSerializerOptions options)
        {
            using var document = JsonDocument.ParseValue(ref reader);
            var root = document.RootElement;
            if (root.ValueKind != JsonValueKind.Object || root.EnumerateObject().Count() != 2
                || !root.TryGetProperty("value", out var value) || value.ValueKind != JsonValueKind.Number || !value.TryGetDecimal(out var number)
                || !root.TryGetProperty("unit", out var symbol) || symbol.ValueKind != JsonValueKind.String)
            {
                throw new JsonException("{\"value\": number, \"unit\": text} is wanted here");
            }

            return Units.BySymbol(symbol.GetString()!) is { } unit && Math.Abs(number) <= QuantityParser.LargestNumber
                ? new Figure(number, unit)
                : throw new JsonException("bad figure", new QuantityException($"{number} “{symbol.GetString()}” is not a figure with a unit known here"));
        }

        public override void Write(Utf8JsonWriter writer, Figure value, JsonSerializerOptions options)
        {
            writer.WriteStartObject();
            writer.WriteNumber("value", value.Number);
            writer.WriteString("unit", value.Unit.Symbol);
            writer.WriteEndObject();
        }
    }
}
