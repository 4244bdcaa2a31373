using System.Runtime.CompilerServices;
using System.Text.Json;
using System.Text.Json.Nodes;
using Json.Schema;

namespace Screeline.Library.Tests;

/// <summary>The published JSON Schemas against what ships and against what the reader refuses.</summary>
public sealed class SchemaTests
{
    private static readonly string Root = Path.GetFullPath(Path.Combine(Here(), "..", ".."));

    private static readonly JsonSchema Map = JsonSchema.FromText(File.ReadAllText(Path.Combine(Root, "docs", "schemas", "access-map.schema.json")));

    private static string Here([CallerFilePath] string path = "") => Path.GetDirectoryName(path)!;

    private static bool Valid(string json)
    {
        using var document = JsonDocument.Parse(json);
        return Map.Evaluate(document.RootElement).IsValid;
    }

    [Fact]
    public void Every_shipped_map_and_every_reference_map_fits_the_schema()
    {
        Assert.All(ShippedLibrary.Load().Maps, m => Assert.True(Valid(m.Json), m.Map.Id));
        Assert.All(Directory.GetFiles(Path.Combine(Root, "tests", "Screeline.Core.Tests", "reference-maps"), "g*.json"), f => Assert.True(Valid(File.ReadAllText(f)), f));
    }

    [Theory]
    [InlineData("format", "\"screeline/access-map@2\"")]
    [InlineData("colour", "\"red\"")]
    [InlineData("targets", "[]")]
    [InlineData("tool_change_minutes", "-1")]
    [InlineData("operations.0.needs", "{\"any\": []}")]
    [InlineData("operations.0.needs", "{\"all\": [], \"any\": []}")]
    [InlineData("operations.0.damage.chance", "1.5")]
    [InlineData("operations.0.kind", "\"shut\"")]
    [InlineData("refit_steps.0.gate", "\"yes\"")]
    [InlineData("operations.0.outline", "[[0, 0], [101, 1], [2, 2]]")]
    [InlineData("operations.0.off", "[{\"kind\": \"door\", \"what\": \"w\"}]")]
    [InlineData("operations.2.fasteners.0.joint", "\"glass\"")]
    [InlineData("operations.2.fasteners.0.at", "[[1]]")]
    [InlineData("operations.2.fasteners.0.adaptor", "{\"offset_mm\": 45}")]
    [InlineData("operations.2.fasteners.0.torque.grade", "\"rumour\"")]
    [InlineData("operations.2.fasteners.0.torque.others", "[{\"value\": 3, \"unit\": \"stone\", \"source\": \"s\"}]")]
    public void What_the_reader_refuses_the_schema_refuses_too(string at, string to)
    {
        var shipped = ShippedLibrary.Load();
        var root = JsonNode.Parse(shipped.Maps[0].Json)!;
        var keys = at.Split('.');
        var node = keys[..^1].Aggregate(root, (n, key) => int.TryParse(key, out var i) ? n[i]! : n[key]!);
        node[keys[^1]] = JsonNode.Parse(to);
        Assert.False(Valid(root.ToJsonString()));
        Assert.NotEmpty(Core.Access.AccessMapReader.Read(root.ToJsonString(), shipped.Cautions).Faults);
    }
}
