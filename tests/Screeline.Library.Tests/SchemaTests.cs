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

    private static readonly JsonSchema Linkage = JsonSchema.FromText(File.ReadAllText(Path.Combine(Root, "docs", "schemas", "linkage.schema.json")));

    private static bool Fits(JsonNode linkage)
    {
        using var document = JsonDocument.Parse(linkage.ToJsonString());
        return Linkage.Evaluate(document.RootElement).IsValid;
    }

    [Fact]
    public void Every_shipped_linkage_fits_its_schema_and_survives_being_written() => Assert.All(ShippedLibrary.Load().Linkages, l =>
    {
        var written = Core.Motion.LinkageFormat.Write(l);
        Assert.True(Fits(written), l.Id);
        Assert.Equal(written.ToJsonString(), Core.Motion.LinkageFormat.Write(Core.Motion.LinkageFormat.Read(written.ToJsonString(), "again")).ToJsonString());
    });

    [Theory]
    [InlineData("format", "\"screeline/linkage@2\"")]
    [InlineData("colour", "\"red\"")]
    [InlineData("drive", "\"sideways\"")]
    [InlineData("motor", "[1]")]
    [InlineData("motor", "[1, \"a\"]")]
    [InlineData("crank", "-1")]
    [InlineData("park", "[]")]
    [InlineData("gauge.opens", "\"up\"")]
    [InlineData("rockers.0.lever", "null")]
    [InlineData("rockers.0.driven_by", "0.5")]
    [InlineData("rockers.0.arm.teeth", "-3")]
    [InlineData("glass.cowl", "[[0, 0]]")]
    public void What_the_linkage_reader_refuses_its_schema_refuses_too(string at, string to)
    {
        var root = Core.Motion.LinkageFormat.Write(ShippedLibrary.Load().Linkages.Single(l => l.Id == "petrel-front"));
        var keys = at.Split('.');
        var node = keys[..^1].Aggregate((JsonNode)root, (n, key) => int.TryParse(key, out var i) ? n[i]! : n[key]!);
        node[keys[^1]] = JsonNode.Parse(to);
        Assert.False(Fits(root));
        Assert.Throws<Core.Formats.RefusedFileException>(() => Core.Motion.LinkageFormat.Read(root.ToJsonString(), "spoiled"));
    }
}
