using System.Text.Json;
using System.Text.Json.Nodes;
using System.Text.Json.Serialization;
using Screeline.Core.Formats;
using Screeline.Core.Quantities;

namespace Screeline.Core.Jobs;

/// <summary>A kind of entry.</summary>
/// <param name="Name">Its name in the stream.</param>
/// <param name="Version">The version written today.</param>
/// <param name="Type">The payload's type.</param>
/// <param name="IsObservation">
/// True for what was seen or done in the world: it is never refused for its order, but stored and shown as disputed. False for
/// a decision about the record, which can be refused.
/// </param>
public sealed record EntryKind(string Name, int Version, Type Type, bool IsObservation)
{
    /// <summary>Name and version as they stand in an entry: "step-done@1".</summary>
    public string Tag => $"{Name}@{Version}";
}

/// <summary>Turns a payload of an older version into the next version.</summary>
public delegate JsonObject Upcaster(JsonObject older);

/// <summary>All kinds of entry and their JSON.</summary>
public static class EntryKinds
{
    /// <summary>All kinds.</summary>
    public static IReadOnlyList<EntryKind> All { get; } =
    [
        new("job-opened", 1, typeof(JobOpened), false),
        new("complaint-noted", 1, typeof(ComplaintNoted), true),
        new("reading-taken", 1, typeof(ReadingTaken), true),
        new("decision-made", 1, typeof(DecisionMade), false),
        new("route-taken", 1, typeof(RouteTaken), false),
        new("step-done", 1, typeof(StepDone), true),
        new("fastener-found", 1, typeof(FastenerFound), true),
        new("torque-set", 1, typeof(TorqueSet), true),
        new("proof-taken", 1, typeof(ProofTaken), true),
        new("tool-back", 1, typeof(ToolBack), true),
        new("fastener-extra", 1, typeof(ExtraFound), true),
        new("step-exception", 1, typeof(StepException), true),
        new("temporary-connection", 1, typeof(TemporaryConnection), true),
        new("fasteners-counted", 1, typeof(FastenersCounted), true),
        new("timer-started", 1, typeof(TimerStarted), true),
        new("timer-ended", 1, typeof(TimerEnded), true),
        new("note-added", 1, typeof(NoteAdded), true),
        new("picture-taken", 1, typeof(PictureTaken), true),
        new("pins-set", 1, typeof(PinsSet), true),
        new("part-compared", 1, typeof(PartCompared), true),
        new("part-chosen", 1, typeof(PartChosen), false),
        new("part-carried", 1, typeof(PartCarried), true),
        new("core-returned", 1, typeof(CoreReturned), true),
        new("tool-left", 1, typeof(ToolLeft), true),
        new("left-over-found", 1, typeof(LeftOverFound), true),
        new("left-over-settled", 1, typeof(LeftOverSettled), true),
        new("difference-signed", 1, typeof(DifferenceSigned), false),
        new("setting-kept", 1, typeof(SettingKept), true),
        new("sent-back", 1, typeof(SentBack), false),
        new("part-cancelled", 1, typeof(PartCancelled), false),
        new("waiting-set", 1, typeof(WaitingSet), false),
        new("handed-back", 1, typeof(HandedBack), false),
        new("second-wanted", 1, typeof(SecondWanted), true),
        new("second-signed", 1, typeof(SecondSigned), false),
        new("entry-withdrawn", 1, typeof(EntryWithdrawn), false),
        new("entry-corrected", 1, typeof(EntryCorrected), false),
    ];

    /// <summary>Upcasters by kind and the older version; none are needed yet.</summary>
    public static IReadOnlyDictionary<(string Kind, int From), Upcaster> Upcasters { get; } = new Dictionary<(string, int), Upcaster>();

    private static readonly Dictionary<Type, EntryKind> ByType = All.ToDictionary(k => k.Type);

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
    public static EntryKind Of(Payload payload) => ByType[payload.GetType()];

    /// <summary>The payload as JSON.</summary>
    public static JsonElement Write(Payload payload) => JsonSerializer.SerializeToElement(payload, payload.GetType(), Json);

    /// <summary>Reads a payload of a tag such as "step-done@1", also of one version back.</summary>
    /// <exception cref="RefusedFileException">The tag is unknown or the payload does not fit it; each fault with its path.</exception>
    public static Payload Read(string tag, JsonElement payload) => Read(tag, payload, Upcasters);

    /// <summary>Reads a payload with the upcasters given.</summary>
    public static Payload Read(string tag, JsonElement payload, IReadOnlyDictionary<(string Kind, int From), Upcaster> upcasters)
    {
        var (name, version) = tag.Split('@') is [var left, var right] && int.TryParse(right, out var number) ? (left, number) : (tag, 0);
        var kind = All.FirstOrDefault(k => k.Name == name)
            ?? throw Refused("$.kind", $"“{tag}” is not a kind of entry");
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
            return (Payload)(node.Deserialize(kind.Type, Json) ?? throw Refused("$.payload", "is null"));
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
