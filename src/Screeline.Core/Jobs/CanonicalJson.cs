using System.Buffers;
using System.Text.Encodings.Web;
using System.Text.Json;

namespace Screeline.Core.Jobs;

/// <summary>
/// One spelling for a JSON value: keys sorted ordinally, no blanks, only the escapes JSON demands, numbers as they were
/// stated. In the spirit of RFC 8785, but numbers keep their digits, because "12.40" was read to a hundredth and "12.4" was not.
/// </summary>
public static class CanonicalJson
{
    /// <summary>The canonical bytes, UTF-8.</summary>
    public static byte[] Write(JsonElement value)
    {
        var buffer = new ArrayBufferWriter<byte>();
        using (var writer = new Utf8JsonWriter(buffer, new JsonWriterOptions { Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping }))
        {
            Write(value, writer);
        }

        return buffer.WrittenSpan.ToArray();
    }

    private static void Write(JsonElement value, Utf8JsonWriter writer)
    {
        switch (value.ValueKind)
        {
            case JsonValueKind.Object:
                writer.WriteStartObject();
                foreach (var property in value.EnumerateObject().OrderBy(p => p.Name, StringComparer.Ordinal))
                {
                    writer.WritePropertyName(property.Name);
                    Write(property.Value, writer);
                }

                writer.WriteEndObject();
                break;
            case JsonValueKind.Array:
                writer.WriteStartArray();
                foreach (var item in value.EnumerateArray())
                {
                    Write(item, writer);
                }

                writer.WriteEndArray();
                break;
            case JsonValueKind.Number:
                writer.WriteRawValue(value.GetRawText());
                break;
            case JsonValueKind.String:
                writer.WriteStringValue(value.GetString());
                break;
            default:
                value.WriteTo(writer);
                break;
        }
    }
}
