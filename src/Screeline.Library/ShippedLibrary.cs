using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using Screeline.Core.Access;
using Screeline.Core.Access.Recording;
using Screeline.Core.Diagnosis;
using Screeline.Core.Fastening;
using Screeline.Core.Formats;
using Screeline.Core.Motion;
using Screeline.Core.Quantities;

namespace Screeline.Library;

/// <summary>An access map as shipped: its text, the hash that names this version, and what it says.</summary>
public sealed record ShippedMap(string Hash, string Json, AccessMap Map);

/// <summary>A caution with its words.</summary>
/// <param name="Id">Identifier.</param>
/// <param name="Words">What can happen and what to do.</param>
/// <param name="Requires">States that must be provided before anybody does what it warns of.</param>
/// <param name="Where">Where it must stand on a shipped map, or null.</param>
/// <param name="General">Whether it holds on every job, whatever the map says.</param>
public sealed record Caution(string Id, string Words, IReadOnlyList<string> Requires, CautionPlace? Where = null, bool General = false);

/// <summary>What makes a caution necessary: a step that provides a state, uses a tool, or turns a fastener of such a joint.</summary>
public sealed record CautionPlace(IReadOnlyList<string> Provides, IReadOnlyList<string> Tools, IReadOnlyList<string> Joints)
{
    /// <summary>Whether an operation is such a step.</summary>
    public bool Covers(Operation o) => o.Provides.Any(Provides.Contains) || o.Tools.Any(Tools.Contains) || o.Fasteners.Any(f => Joints.Contains(AccessMapReader.Joints.First(j => j.Value == f.Joint).Key));

    /// <summary>Whether a step of the way back is.</summary>
    public bool Covers(RefitStep s) => s.Tools.Any(Tools.Contains);
}

/// <summary>
/// The knowledge that ships with the application, read from the data files inside this assembly and checked whole: one fault in
/// any of them and nothing is loaded.
/// </summary>
public sealed class ShippedLibrary
{
    private readonly Dictionary<string, FaultSystem> _systems;
    private readonly Dictionary<string, Caution> _cautions;
    private readonly Dictionary<string, Tool> _tools;

    private readonly IReadOnlyList<ShippedPart> _parts;

    private ShippedLibrary(IEnumerable<FaultSystem> systems, IReadOnlyList<ShippedMap> maps, IEnumerable<Tool> tools, IEnumerable<Caution> cautions, IReadOnlyList<ShippedPart> parts, Glossary words, IReadOnlyList<NamedLinkage> linkages, SettingData settings, PartWords partWords)
    {
        (_parts, Words, Linkages, Settings, PartWords) = (parts, words, linkages, settings, partWords);
        _systems = systems.ToDictionary(s => s.Id, StringComparer.Ordinal);
        _tools = tools.ToDictionary(t => t.Id, StringComparer.Ordinal);
        _cautions = cautions.ToDictionary(c => c.Id, StringComparer.Ordinal);
        Maps = maps;
    }

    /// <summary>The words of the trade, explained.</summary>
    public Glossary Words { get; }
    /// <summary>The words for things on vehicles.</summary>
    public PartWords PartWords { get; }
    /// <summary>All families.</summary>
    public IReadOnlyList<FaultSystem> Systems => field ??= [.. _systems.Values.OrderBy(s => s.Order).ThenBy(s => s.Id, StringComparer.Ordinal)];
    /// <summary>All maps.</summary>
    public IReadOnlyList<ShippedMap> Maps { get; }
    /// <summary>Wiper linkages.</summary>
    public IReadOnlyList<NamedLinkage> Linkages { get; }
    /// <summary>Windows, actuators and rotors of the fleet.</summary>
    public SettingData Settings { get; }
    /// <summary>All tools.</summary>
    public IReadOnlyCollection<Tool> Tools => _tools.Values;

    /// <summary>What is known of the part a family exchanges: on this model, else on any; null when nothing is.</summary>
    public PartKnowledge? Part(string family, string model) =>
        (_parts.FirstOrDefault(p => p.Family == family && p.Model == model) ?? _parts.FirstOrDefault(p => p.Family == family && p.Model is null))?.Part;

    /// <summary>A tool, or null.</summary>
    public Tool? FindTool(string id) => _tools.GetValueOrDefault(id);

    /// <summary>A family's knowledge, or null.</summary>
    public FaultSystem? System(string id) => _systems.GetValueOrDefault(id);

    /// <summary>A tool's title; its id when the library does not know it.</summary>
    public string ToolTitle(string id) => _tools.GetValueOrDefault(id)?.Title ?? id;

    /// <summary>Every caution with the states it requires, as the reader of maps takes them.</summary>
    public IReadOnlyDictionary<string, IReadOnlyList<string>> Cautions => field ??= _cautions.ToDictionary(c => c.Key, c => c.Value.Requires, StringComparer.Ordinal);

    /// <summary>Tests of any family whose title or way speaks of a word, each title once, twelve at most.</summary>
    public IEnumerable<FaultTest> TestsOf(GlossaryEntry entry) => TestsByWord[entry].DistinctBy(t => t.Title).Take(12);

    private ILookup<GlossaryEntry, FaultTest> TestsByWord => field ??= Systems.SelectMany(s => s.Tests).SelectMany(t => Words.In(t.Title, t.How).Select(w => (Word: w, Test: t))).ToLookup(x => x.Word, x => x.Test);

    /// <summary>All cautions, by their words.</summary>
    public IReadOnlyList<Caution> AllCautions => field ??= [.. _cautions.Values.OrderBy(c => c.Words, StringComparer.Ordinal)];

    /// <summary>Cautions that hold on every job.</summary>
    public IEnumerable<Caution> GeneralCautions => _cautions.Values.Where(c => c.General);

    /// <summary>The map with this id.</summary>
    /// <exception cref="InvalidOperationException">No such map ships.</exception>
    public ShippedMap Map(string id) => Maps.First(m => m.Map.Id == id);

    /// <summary>A caution's words.</summary>
    public string CautionWords(string id) => _cautions.GetValueOrDefault(id)?.Words ?? id;

    /// <summary>Maps of a family that fit a model, the surest first.</summary>
    public IReadOnlyList<ShippedMap> MapsFor(string family, string model) =>
        [.. Maps.Where(m => m.Map.Family == family && m.Map.AppliesTo.Any(a => a.Model == model))
            .OrderBy(m => m.Map.AppliesTo.First(a => a.Model == model).Certainty switch { "done" => 0, "looks-same" => 1, _ => 2 })];

    /// <summary>The SHA-256 of a text's UTF-8 bytes, lower-case hex: the name of a map's version.</summary>
    public static string Hash(string text) => Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(text)));

    /// <summary>Reads everything.</summary>
    /// <exception cref="RefusedFileException">A data file has faults; all are named.</exception>
    public static ShippedLibrary Load()
    {
        var faults = new List<FormatFault>();
        var cautions = ReadList("cautions.json", "cautions", ReadCaution, faults);
        var tools = ReadList("tools.json", "tools", ReadTool, faults);
        var parts = ReadList("parts.json", "parts", ReadPart, faults);
        var words = Glossary.Read(faults);
        var partWords = new PartWords(ReadList("part-words.json", "words", ReadPartWord, faults), ReadList("part-words.json", "dangers", d => new Danger(d.Text("id"), d.Text("title"), d.Text("caution")), faults));
        var requirements = cautions.ToDictionary(c => c.Id, c => c.Requires, StringComparer.Ordinal);

        // The large files are read on all cores; what is wrong in them is told in their order.
        var readSystems = Names("systems/").AsParallel().AsOrdered().Select(name => (Name: name, Reading: FaultSystemReader.Read(Text(name)))).ToList();
        faults.AddRange(readSystems.SelectMany(r => r.Reading.Faults.Select(f => f with { Path = $"{r.Name} {f.Path}" })));
        var frame = ReadFrame(faults);
        List<FaultSystem> systems = [.. readSystems.Select(r => r.Reading.System).OfType<FaultSystem>().Select(s => s with { Frame = s.OwnFrame.With(frame) })];

        var readMaps = Names("maps/").AsParallel().AsOrdered().Select(name => (Name: name, Text: Text(name))).Select(x => (x.Name, x.Text, Reading: AccessMapReader.Read(x.Text, requirements))).ToList();
        faults.AddRange(readMaps.SelectMany(r => r.Reading.Faults.Select(f => f with { Path = $"{r.Name} {f.Path}" })));
        List<ShippedMap> maps = [.. readMaps.Where(r => r.Reading.Map is not null).Select(r => new ShippedMap(Hash(r.Text), r.Text, r.Reading.Map!))];

        var settings = SettingData.Read(faults);
        var linkages = new List<NamedLinkage>();
        foreach (var name in Names("linkages/"))
        {
            try
            {
                linkages.Add(LinkageFormat.Read(Text(name), name));
            }
            catch (RefusedFileException e)
            {
                faults.AddRange(e.Faults.Select(f => f with { Path = $"{name} {f.Path}" }));
            }
        }

        faults.AddRange(CrossFaults(systems, maps, [.. tools.Select(t => t.Id)]));
        faults.AddRange(maps.SelectMany(m => CautionFaults(m.Map, cautions)));
        faults.AddRange(systems.SelectMany(s => FrameFaults(s, frame, partWords, cautions)));
        faults.AddRange(PartWordFaults(partWords, systems, cautions));
        faults.AddRange(parts.Where(p => systems.All(y => y.Id != p.Family)).Select(p => new FormatFault("parts.json", $"no family “{p.Family}”")));
        faults.AddRange(tools.Where(t => words.ForTool(t.Id) is null).Select(t => new FormatFault("words.json", $"nothing explains the tool “{t.Id}”")));
        faults.AddRange(cautions.Where(c => words.ForCaution(c.Id) is null).Select(c => new FormatFault("words.json", $"nothing explains the caution “{c.Id}”")));
        return faults.Count == 0 ? new ShippedLibrary(systems, maps, tools, cautions, parts, words, linkages, settings, partWords) : throw new RefusedFileException("shipped library", faults);
    }

    // What one file says about another: families, proof checks and tools that must exist.
    private static IEnumerable<FormatFault> CrossFaults(List<FaultSystem> systems, List<ShippedMap> maps, HashSet<string> tools)
    {
        foreach (var map in maps.Select(m => m.Map))
        {
            var system = systems.FirstOrDefault(s => s.Id == map.Family);
            if (system is null)
            {
                yield return new FormatFault($"map {map.Id} $.family", $"no family “{map.Family}”");
            }

            foreach (var check in map.RefitSteps.SelectMany(s => s.Checks).Where(c => system is not null && system.Check(c) is null))
            {
                yield return new FormatFault($"map {map.Id} $.refit_steps", $"no proof check “{check}” in {map.Family}");
            }

            foreach (var access in map.Reaches.Keys.Where(a => system is not null && system.Access.All(x => x.Id != a)))
            {
                yield return new FormatFault($"map {map.Id} $.reaches", $"no test of {map.Family} wants “{access}” off");
            }

            foreach (var suspect in map.Suspects.Where(s => system is not null && system.Check(s.Check) is null))
            {
                yield return new FormatFault($"map {map.Id} $.suspects", $"no proof check “{suspect.Check}” in {map.Family}");
            }

            foreach (var suspect in map.Suspects.Where(s => map.Operation(s.Step)?.Kind == OperationKind.Once))
            {
                yield return new FormatFault($"map {map.Id} $.suspects", $"“{suspect.Step}” is done on the way in only: nothing of the way back leads there");
            }

            foreach (var repair in map.Targets.SelectMany(t => t.Repairs).Where(r => system is not null && system.Repair(r) is null))
            {
                yield return new FormatFault($"map {map.Id} $.targets", $"no repair “{repair}” in {map.Family}");
            }

            foreach (var tool in map.Operations.SelectMany(o => o.Tools.Concat(o.OrTools.Values.SelectMany(t => t)).Concat(o.Leaves)).Concat(map.RefitSteps.SelectMany(s => s.Tools)).Distinct().Where(t => !tools.Contains(t)))
            {
                yield return new FormatFault($"map {map.Id}", $"no tool “{tool}”");
            }
        }
    }

    // What the frame names must exist, and whatever a caution or a place requires must be something that can be done.
    private static IEnumerable<FormatFault> FrameFaults(FaultSystem system, WorkFrame shared, PartWords words, IReadOnlyList<Caution> cautions)
    {
        FormatFault Fault(string message) => new($"system {system.Id} $.frame", message);
        var frame = system.Frame;
        var ids = frame.Operations.Select(o => o.Operation.Id).Concat(frame.Steps.Select(s => s.Step.Id)).ToList();
        return
        [
            .. ids.GroupBy(id => id).Where(g => g.Count() > 1).Select(g => Fault($"“{g.Key}” is used twice")),
            .. system.OwnFrame.BeginsWith.Where(id => shared.Find(id) is null).Select(id => Fault($"no shared operation “{id}”")),
            .. frame.Operations.SelectMany(o => o.Operation.Needs.Names).Where(id => frame.Find(id) is null).Select(id => Fault($"no operation “{id}”")),
            .. frame.Operations.SelectMany(o => o.Operation.Cautions).Concat(frame.Steps.SelectMany(s => s.Step.Cautions)).Where(c => cautions.All(x => x.Id != c)).Select(c => Fault($"no caution “{c}”")),
            .. frame.Steps.SelectMany(s => s.Step.Checks).Where(c => system.Check(c) is null).Select(c => Fault($"no proof check “{c}”")),
            .. frame.Steps.SelectMany(s => s.Words).Where(w => words.Find(w) is null).Select(w => Fault($"no word “{w}”")),
            .. frame.Steps.Select(s => s.Step.Setting).OfType<string>().Where(x => !system.Settings.Contains(x)).Select(x => Fault($"“{x}” is no setting of this family")),
            .. cautions.SelectMany(c => c.Requires).Distinct().Where(state => frame.Providing(state) is null).Select(state => Fault($"nothing provides “{state}”, which a caution requires")),
        ];
    }

    private static IEnumerable<FormatFault> PartWordFaults(PartWords words, List<FaultSystem> systems, IReadOnlyList<Caution> cautions) =>
    [
        .. words.All.GroupBy(w => w.Id).Where(g => g.Count() > 1).Select(g => new FormatFault("part-words.json", $"“{g.Key}” is used twice")),
        .. words.All.SelectMany(w => w.Cautions).Concat(words.Dangers.Select(d => d.Caution)).Where(c => cautions.All(x => x.Id != c)).Select(c => new FormatFault("part-words.json", $"no caution “{c}”")),
        .. words.All.SelectMany(w => w.Families).Where(f => systems.Count > 0 && systems.All(s => s.Id != f)).Select(f => new FormatFault("part-words.json", $"no family “{f}”")),
    ];

    private static WorkFrame ReadFrame(List<FormatFault> faults)
    {
        using var document = JsonDocument.Parse(Text("frame.json"));
        var found = new List<FormatFault>();
        var frame = WorkFrameReader.ReadShared(new JsonReader(document.RootElement, "$", found));
        faults.AddRange(found.Select(f => f with { Path = $"frame.json {f.Path}" }));
        return frame;
    }

    private static PartWord ReadPartWord(JsonReader r) => new(
        r.Text("id"), r.Text("title"), r.Texts("words"), Enum.Parse<PartRole>(r.Choice("role", ["other", "cover", "connection", "motor"]), ignoreCase: true), r.Texts("cautions", optional: true),
        r.Given("structural") && r.YesNo("structural"), r.Texts("families", optional: true))
    {
        Act = r.Given("act") ? Enum.Parse<TakenAct>(r.Choice("act", [.. Enum.GetNames<TakenAct>().Select(n => n.ToLowerInvariant())]), ignoreCase: true) : null,
    };

    // A danger that a step plainly has must be named at the step.
    private static IEnumerable<FormatFault> CautionFaults(AccessMap map, IReadOnlyList<Caution> cautions)
    {
        foreach (var caution in cautions.Where(c => c.Where is not null))
        {
            foreach (var id in map.Operations.Where(o => caution.Where!.Covers(o) && !o.Cautions.Contains(caution.Id)).Select(o => o.Id)
                .Concat(map.RefitSteps.Where(s => caution.Where!.Covers(s) && !s.Cautions.Contains(caution.Id)).Select(s => s.Id)))
            {
                yield return new FormatFault($"map {map.Id} {id}", $"the caution “{caution.Id}” is missing");
            }
        }
    }

    private static Caution ReadCaution(JsonReader r) => new(
        r.Text("id"), r.Text("words"), r.Texts("requires", optional: true),
        r.Object("where", w => new CautionPlace(w.Texts("provides", optional: true), w.Texts("tools", optional: true), w.Texts("joints", optional: true)), optional: true),
        r.Given("general") && r.YesNo("general"));

    private static Tool ReadTool(JsonReader r)
    {
        var (id, title) = (r.Text("id"), r.Text("title"));
        Drive? drive = null;
        if (r.OptionalText("drive") is { } text)
        {
            (drive, var reason) = Drive.Read(text);
            if (reason is not null)
            {
                r.Fault(reason, "drive");
            }
        }

        var wrench = r.Object("wrench", w => new TorqueWrench(
            id, title, w.Number("low", 0.01m), w.Number("high", 0.01m), w.Number("step", 0.001m), Units.BySymbol(w.Choice("unit", [.. Units.OfKind(QuantityKind.Torque).Select(u => u.Symbol)]))!, w.Number("length_mm", 50, 2000)), optional: true);
        return new Tool(id, title, drive, wrench);
    }

    private static ShippedPart ReadPart(JsonReader r) => new(r.Text("family"), r.OptionalText("model"), new PartKnowledge(
        r.Text("title"),
        r.List("points", p => new ComparePoint(p.Text("id"), p.Text("title"), p.Text("why"), p.OptionalText("step"), p.OptionalText("fastener"))),
        r.List("carried", c => new CarriedPiece(c.Text("id"), c.Text("title"))),
        r.List("offers", o => new PartOffer(
            o.Text("id"), o.Text("title"), o.Choice("kind", PartOffer.Kinds), o.Number("price", 0), o.Number("deposit", 0), o.Whole("warranty_months", 0, 600), o.Whole("life_months", 1, 600), o.Whole("lead_days", 0, 365)))));

    private sealed record ShippedPart(string Family, string? Model, PartKnowledge Part);

    internal static string Text(string name)
    {
        using var stream = typeof(ShippedLibrary).Assembly.GetManifestResourceStream(name)
            ?? throw new InvalidOperationException($"The data file {name} is not in the assembly.");
        using var reader = new StreamReader(stream, Encoding.UTF8);
        return reader.ReadToEnd();
    }

    internal static byte[] Bytes(string name)
    {
        using var stream = typeof(ShippedLibrary).Assembly.GetManifestResourceStream(name)
            ?? throw new InvalidOperationException($"The data file {name} is not in the assembly.");
        using var memory = new MemoryStream();
        stream.CopyTo(memory);
        return memory.ToArray();
    }

    internal static List<T> ReadList<T>(string name, string key, Func<JsonReader, T> read, List<FormatFault> faults)
    {
        using var document = JsonDocument.Parse(Text(name));
        var found = new List<FormatFault>();
        var list = new JsonReader(document.RootElement, "$", found).List(key, read);
        faults.AddRange(found.Select(f => f with { Path = $"{name} {f.Path}" }));
        return [.. list];
    }

    internal static IReadOnlyList<string> ReadTexts(string name, string key, List<FormatFault> faults)
    {
        using var document = JsonDocument.Parse(Text(name));
        return new JsonReader(document.RootElement, "$", faults).Texts(key);
    }

    private static IEnumerable<string> Names(string prefix) =>
        typeof(ShippedLibrary).Assembly.GetManifestResourceNames().Where(n => n.StartsWith(prefix, StringComparison.Ordinal)).Order(StringComparer.Ordinal);
}
