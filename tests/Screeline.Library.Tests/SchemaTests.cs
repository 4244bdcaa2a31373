using System.Runtime.CompilerServices;
using System.Text.Json;
using System.Text.Json.Nodes;
using Json.Schema;
using Screeline.Core.Access;
using Screeline.Core.Access.Learning;
using Screeline.Core.Jobs;
using Screeline.Library.Demo;

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

    [Fact]
    public void A_learned_map_fits_the_schema()
    {
        var script = new RecordingScript(ShippedLibrary.Load().Map("tideway-blower").Map, new Random(1));
        script.Back();
        var job = script.HandBack();
        var worked = WorkedWay.Of(job, _ => "Ansa", null) with { Words = [new LearnedWord(Guid.NewGuid(), "Ansa", DateTimeOffset.UnixEpoch, WordKind.Needed, job.Things[0].Id, [])] };
        var map = LearnedMap.With(LearnedMap.New("m", "M", "blower", "Brannock Tideway", null, 60), worked, job.System.Frame, c => ShippedLibrary.Load().Cautions.GetValueOrDefault(c) ?? []);
        map = MapChanges.Placed(map, [.. map.Operations.Select((o, i) => i > 0 ? o : o with { Pictures = [new StepPicture(new string('a', 64), 960, 720, null, [new Pin(PinKind.Wire, [new PinPoint(1, 2)], "loom")])] })], map.RefitSteps, map.Positions);
        Assert.True(Valid(AccessMapWriter.Write(map)));
        Assert.False(Valid(AccessMapWriter.Write(map).Replace("\"says\":\"needed\"", "\"says\":\"maybe\"", StringComparison.Ordinal)));
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
        var root = JsonNode.Parse(shipped.Map("tideway-starter").Json)!;
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
    public void The_schema_of_maps_knows_the_settings_that_are_made_on_vehicles()
    {
        var schema = JsonNode.Parse(File.ReadAllText(Path.Combine(Root, "docs", "schemas", "access-map.schema.json")))!;
        var enums = schema["$defs"]!.AsObject().Select(d => d.Value?["properties"]?["setting"]?["enum"]).OfType<JsonArray>();
        Assert.Equal(Core.Motion.SettingKinds.OnVehicle, Assert.Single(enums).Select(v => v?.GetValue<string>()).OfType<string>());
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

    private static readonly JsonSchema JobSchema = JsonSchema.FromText(File.ReadAllText(Path.Combine(Root, "docs", "schemas", "job.schema.json")));

    /// <summary>Jobs of the demo as files fit their schema; with a key more, or one less, they do not.</summary>
    [Fact]
    public void Jobs_as_files_fit_their_schema()
    {
        var (library, fleet) = (ShippedLibrary.Load(), DemoFleet.Load());
        foreach (var demo in new DemoStory(library, fleet, DateTimeOffset.Now).Jobs().Take(6))
        {
            var (hash, entries) = (EntryChain.Start, new List<FileEntry>());
            foreach (var (e, i) in demo.Entries.Select((e, i) => (e, i)))
            {
                var entry = new Entry(new EntryDraft(e.Id ?? Guid.NewGuid(), demo.Id, i, e.Actor, DateTimeOffset.UtcNow - e.Ago, e.Payload), i + 1, e.Actor, DateTimeOffset.UtcNow);
                var body = entry.Draft.Body();
                hash = EntryChain.Next(hash, i + 1, e.Actor, entry.ReceivedAt, body);
                entries.Add(new FileEntry(entry, body, hash));
            }

            var vehicle = fleet.Vehicles.Single(v => v.Id == ((JobOpened)entries[0].Entry.Payload).Vehicle);
            var documents = JobFile.DocumentsOf(entries.Select(e => e.Entry.Payload)).Select(h => library.Maps.FirstOrDefault(m => m.Hash == h) is { } map
                ? new FileDocument(h, "application/json", System.Text.Encoding.UTF8.GetBytes(map.Json)) : new FileDocument(h, "image/jpeg", DemoStory.UndertrayPicture)).ToList();
            var file = new JobFile(demo.Id, new FileVehicle(vehicle.Id, vehicle.Name, vehicle.Model, vehicle.Version, vehicle.Year, vehicle.NominalVolts), [.. fleet.People.Select(p => new FilePerson(p.Id, p.Name, p.Role))], entries, documents);
            var root = JsonNode.Parse(file.Write())!;
            Assert.True(FitsJob(root));
            Assert.Equal(file.Write(), JobFile.Read(file.Write(), new Families(library)).Write());
            root["colour"] = 1;
            Assert.False(FitsJob(root));
            root.AsObject().Remove("colour");
            root.AsObject().Remove("head");
            Assert.False(FitsJob(root));
        }
    }

    private static bool FitsJob(JsonNode file)
    {
        using var document = JsonDocument.Parse(file.ToJsonString());
        return JobSchema.Evaluate(document.RootElement).IsValid;
    }
}
