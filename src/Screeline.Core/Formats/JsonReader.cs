using System.Text.Json;

namespace Screeline.Core.Formats;

/// <summary>
/// Reads one JSON object strictly and goes on after a fault, so that all faults of a file are told at once. Each getter
/// returns a harmless stand-in when its value is wrong: the caller must look at <see cref="Faults"/> before using the result.
/// </summary>
public sealed class JsonReader
{
    private readonly JsonElement _element;
    private readonly HashSet<string> _read = new(StringComparer.Ordinal);
    private readonly bool _isObject;

    /// <summary>Starts reading an object at a path, adding faults to a list shared by the whole file.</summary>
    public JsonReader(JsonElement element, string path, List<FormatFault> faults)
    {
        _element = element;
        Path = path;
        Faults = faults;
        _isObject = element.ValueKind == JsonValueKind.Object;
        if (!_isObject)
        {
            Fault("an object { … } is wanted here");
            return;
        }

        foreach (var twice in element.EnumerateObject().GroupBy(p => p.Name, StringComparer.Ordinal).Where(g => g.Count() > 1))
        {
            Fault("the key stands twice", twice.Key);
        }
    }

    /// <summary>Where this object is.</summary>
    public string Path { get; }

    /// <summary>Faults of the whole file so far.</summary>
    public List<FormatFault> Faults { get; }

    /// <summary>Parses text into a root element; a syntax error becomes the only fault.</summary>
    public static JsonDocument? Parse(string text, List<FormatFault> faults)
    {
        JsonDocument document;
        try
        {
            document = JsonDocument.Parse(text, new JsonDocumentOptions { MaxDepth = 64 });
        }
        catch (JsonException e)
        {
            faults.Add(new FormatFault("$", $"not JSON: line {e.LineNumber + 1}, byte {e.BytePositionInLine + 1}"));
            return null;
        }

        if (IsPlain(document.RootElement))
        {
            return document;
        }

        document.Dispose();
        faults.Add(new FormatFault("$", "a text holds a zero character or half of a surrogate pair"));
        return null;
    }

    // JSON can spell characters that are no text anywhere else; neither this program nor the database can keep them.
    private static bool IsPlain(JsonElement value)
    {
        try
        {
            return value.ValueKind switch
            {
                JsonValueKind.String => !value.GetString()!.Contains('\0'),
                JsonValueKind.Array => value.EnumerateArray().All(IsPlain),
                JsonValueKind.Object => value.EnumerateObject().All(p => !p.Name.Contains('\0') && IsPlain(p.Value)),
                _ => true,
            };
        }
        catch (InvalidOperationException)
        {
            return false;
        }
    }

    /// <summary>Records a fault at this object, or at one of its keys.</summary>
    public void Fault(string message, string? key = null) => Faults.Add(new FormatFault(key is null ? Path : $"{Path}.{key}", message));

    /// <summary>Refuses every key that no getter asked for. Call it last.</summary>
    public void RefuseOthers()
    {
        if (!_isObject)
        {
            return;
        }

        foreach (var property in _element.EnumerateObject().Where(p => !_read.Contains(p.Name)))
        {
            Fault("unknown key", property.Name);
        }
    }

    /// <summary>Whether the key is there with something other than null.</summary>
    public bool Given(string key) => Get(key) is { ValueKind: not JsonValueKind.Null };

    /// <summary>The raw value, or null when absent.</summary>
    public JsonElement? Get(string key)
    {
        _read.Add(key);
        return _isObject && _element.TryGetProperty(key, out var value) ? value : null;
    }

    /// <summary>A string that must be there and not be empty.</summary>
    public string Text(string key)
    {
        var value = OptionalText(key, mayBeNull: false);
        return value ?? "";
    }

    /// <summary>A string, or null when absent or null.</summary>
    public string? OptionalText(string key, bool mayBeNull = true)
    {
        var value = Get(key);
        if (value is null || (mayBeNull && value.Value.ValueKind == JsonValueKind.Null))
        {
            if (!mayBeNull)
            {
                Fault("is missing", key);
            }

            return null;
        }

        if (value.Value.ValueKind != JsonValueKind.String || string.IsNullOrWhiteSpace(value.Value.GetString()))
        {
            Fault("text is wanted here", key);
            return null;
        }

        return value.Value.GetString();
    }

    /// <summary>One of a few words; the first of them stands in when it is wrong.</summary>
    public string Choice(string key, IReadOnlyList<string> choices)
    {
        var value = Text(key);
        if (value.Length > 0 && !choices.Contains(value))
        {
            Fault($"“{value}” is none of: {string.Join(", ", choices)}", key);
        }

        return choices.Contains(value) ? value : choices[0];
    }

    /// <summary>A number that must be there.</summary>
    public decimal Number(string key, decimal low = decimal.MinValue, decimal high = decimal.MaxValue)
    {
        if (Get(key) is null)
        {
            Fault("is missing", key);
            return 0;
        }

        return OptionalNumber(key, low, high, mayBeNull: false) ?? 0;
    }

    /// <summary>A number, or null when absent or null.</summary>
    public decimal? OptionalNumber(string key, decimal low = decimal.MinValue, decimal high = decimal.MaxValue, bool mayBeNull = true)
    {
        var value = Get(key);
        if (value is null || (mayBeNull && value.Value.ValueKind == JsonValueKind.Null))
        {
            return null;
        }

        if (value.Value.ValueKind != JsonValueKind.Number || !value.Value.TryGetDecimal(out var number))
        {
            Fault("a number is wanted here", key);
            return null;
        }

        if (number < low || number > high)
        {
            Fault(high == decimal.MaxValue ? $"{number} is below {low}" : $"{number} is outside {low} to {high}", key);
            return null;
        }

        return number;
    }

    /// <summary>A whole number that must be there.</summary>
    public int Whole(string key, int low, int high)
    {
        var number = Number(key, low, high);
        if (number != Math.Truncate(number))
        {
            Fault("a whole number is wanted here", key);
            return low;
        }

        return (int)number;
    }

    /// <summary>true or false, which must be there.</summary>
    public bool YesNo(string key)
    {
        var value = Get(key);
        if (value is null || value.Value.ValueKind is not (JsonValueKind.True or JsonValueKind.False))
        {
            Fault(value is null ? "is missing" : "true or false is wanted here", key);
            return false;
        }

        return value.Value.GetBoolean();
    }

    /// <summary>A nested object, read by <paramref name="read"/>; the default when absent, null or not an object.</summary>
    public T? Object<T>(string key, Func<JsonReader, T> read, bool optional = false)
    {
        var value = Get(key);
        if (value is null || value.Value.ValueKind == JsonValueKind.Null)
        {
            if (!optional)
            {
                Fault(value is null ? "is missing" : "an object { … } is wanted here", key);
            }

            return default;
        }

        return One(value.Value, $"{Path}.{key}", read);
    }

    /// <summary>An object whose keys are free and whose values are texts or numbers, as text.</summary>
    public IReadOnlyDictionary<string, string> Fields(string key, int most)
    {
        var fields = new Dictionary<string, string>(StringComparer.Ordinal);
        if (Get(key) is not { ValueKind: JsonValueKind.Object } value)
        {
            Fault(Given(key) ? "an object { … } is wanted here" : "is missing", key);
            return fields;
        }

        foreach (var property in value.EnumerateObject())
        {
            if (property.Value.ValueKind is not (JsonValueKind.String or JsonValueKind.Number))
            {
                Fault("a text or a number is wanted here", $"{key}.{property.Name}");
            }
            else if (fields.Count == most)
            {
                Fault($"at most {most} fields", key);
                break;
            }
            else
            {
                fields[property.Name] = property.Value.ToString();
            }
        }

        return fields;
    }

    /// <summary>A list of objects.</summary>
    public IReadOnlyList<T> List<T>(string key, Func<JsonReader, T> read, bool optional = false) =>
        [.. Elements(key, optional).Select(item => One(item.Element, item.Path, read))];

    /// <summary>A list of texts.</summary>
    public IReadOnlyList<string> Texts(string key, bool optional = false)
    {
        var texts = new List<string>();
        foreach (var (element, path) in Elements(key, optional))
        {
            if (element.ValueKind == JsonValueKind.String && !string.IsNullOrWhiteSpace(element.GetString()))
            {
                texts.Add(element.GetString()!);
            }
            else
            {
                Faults.Add(new FormatFault(path, "text is wanted here"));
            }
        }

        return texts;
    }

    private List<(JsonElement Element, string Path)> Elements(string key, bool optional)
    {
        var value = Get(key);
        if (value is null || value.Value.ValueKind != JsonValueKind.Array)
        {
            if (value is not null || !optional)
            {
                Fault(value is null ? "is missing" : "a list [ … ] is wanted here", key);
            }

            return [];
        }

        return [.. value.Value.EnumerateArray().Select((element, i) => (element, $"{Path}.{key}[{i}]"))];
    }

    private T One<T>(JsonElement element, string path, Func<JsonReader, T> read)
    {
        var reader = new JsonReader(element, path, Faults);
        var result = read(reader);
        reader.RefuseOthers();
        return result;
    }
}
