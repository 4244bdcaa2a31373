using System.Text.RegularExpressions;
using Screeline.Core.Formats;

namespace Screeline.Library;

/// <summary>A word of the trade, a tool or a caution, explained in the product's own words.</summary>
/// <param name="Id">Identifier; part of its address.</param>
/// <param name="Word">As it is written.</param>
/// <param name="Also">Other forms that mean it.</param>
/// <param name="Is">What it is, in one line.</param>
/// <param name="How">How it is done or used.</param>
/// <param name="Why">Why it matters; begins with "Because".</param>
/// <param name="Tools">Tools it explains, by id; a star at the end takes all that begin so.</param>
/// <param name="Cautions">Cautions it explains, by id.</param>
/// <param name="Sketch">Its drawing, or null.</param>
public sealed record GlossaryEntry(string Id, string Word, IReadOnlyList<string> Also, string Is, string How, string Why, IReadOnlyList<string> Tools, IReadOnlyList<string> Cautions, Sketch? Sketch);

/// <summary>A small drawing from the shapes that all drawings share.</summary>
/// <param name="Id">Identifier.</param>
/// <param name="Title">What it shows, for those who do not see it.</param>
/// <param name="Width">Width of its box.</param>
/// <param name="Height">Height of its box.</param>
/// <param name="Shapes">Shapes, the first drawn first.</param>
public sealed record Sketch(string Id, string Title, int Width, int Height, IReadOnlyList<SketchShape> Shapes);

/// <summary>One shape of a sketch.</summary>
/// <param name="Kind">One of <see cref="Kinds"/>.</param>
/// <param name="Path">SVG path of wires, lines, parts and arrows: M, L, H, V, Z with whole numbers; else empty.</param>
/// <param name="X">Place of what has one.</param>
/// <param name="Y">The same, downwards.</param>
/// <param name="Text">What is written on it; may be empty.</param>
public sealed partial record SketchShape(string Kind, string Path, int X, int Y, string Text)
{
    /// <summary>Kinds that are paths.</summary>
    public static IReadOnlyList<string> Lines { get; } = ["wire", "thin", "part", "arrow"];

    /// <summary>All kinds.</summary>
    public static IReadOnlyList<string> Kinds { get; } = [.. Lines, "probe", "hexagon", "hand", "text", "meter", "battery", "motor", "lamp", "bad", "ring"];

    /// <summary>Whether a path is of the few letters that are drawn.</summary>
    public static bool IsPath(string path) => PathForm().IsMatch(path);

    [GeneratedRegex(@"^(M\d+ \d+([LM]\d+ \d+|H\d+|V\d+|Z)+)+$", RegexOptions.CultureInvariant)]
    private static partial Regex PathForm();
}

/// <summary>All words, and where they stand in a text.</summary>
public sealed class Glossary
{
    private readonly Dictionary<string, GlossaryEntry> _byForm = new(StringComparer.OrdinalIgnoreCase);
    private readonly Regex _forms;

    internal Glossary(IReadOnlyList<GlossaryEntry> entries)
    {
        Entries = entries;
        foreach (var entry in entries)
        {
            foreach (var form in entry.Also.Prepend(entry.Word))
            {
                _byForm[form] = entry;
            }
        }

        // The longest form first: "voltage drop" is not "drop".
        _forms = new Regex($@"(?<![\w-])(?:{string.Join('|', _byForm.Keys.OrderByDescending(f => f.Length).ThenBy(f => f, StringComparer.Ordinal).Select(Regex.Escape))})(?![\w])", RegexOptions.IgnoreCase | RegexOptions.CultureInvariant | RegexOptions.Compiled);
    }

    /// <summary>All entries, in the order of the file.</summary>
    public IReadOnlyList<GlossaryEntry> Entries { get; }

    /// <summary>An entry by id, or null.</summary>
    public GlossaryEntry? Find(string id) => Entries.FirstOrDefault(e => e.Id == id);

    /// <summary>Words that stand in these texts, each once, in the order they are met.</summary>
    public IReadOnlyList<GlossaryEntry> In(params IEnumerable<string?> texts) =>
        [.. texts.OfType<string>().SelectMany(t => _forms.Matches(t)).Select(m => _byForm[m.Value]).Distinct()];

    /// <summary>What explains a tool, or null.</summary>
    public GlossaryEntry? ForTool(string tool) =>
        Entries.FirstOrDefault(e => e.Tools.Contains(tool)) ?? Entries.FirstOrDefault(e => e.Tools.Any(t => t.EndsWith('*') && tool.StartsWith(t[..^1], StringComparison.Ordinal)));

    /// <summary>What explains a caution, or null.</summary>
    public GlossaryEntry? ForCaution(string caution) => Entries.FirstOrDefault(e => e.Cautions.Contains(caution));

    internal static Glossary Read(List<FormatFault> faults)
    {
        var sketches = ShippedLibrary.ReadList("words.json", "sketches", ReadSketch, faults);
        var entries = ShippedLibrary.ReadList("words.json", "words", r => ReadEntry(r, sketches), faults);
        faults.AddRange(entries.SelectMany(e => e.Also.Prepend(e.Word)).GroupBy(f => f, StringComparer.OrdinalIgnoreCase).Where(g => g.Count() > 1).Select(g => new FormatFault("words.json", $"“{g.Key}” means two things")));
        faults.AddRange(sketches.Where(s => entries.All(e => e.Sketch != s)).Select(s => new FormatFault("words.json", $"nothing shows the sketch “{s.Id}”")));
        return new Glossary(entries);
    }

    private static GlossaryEntry ReadEntry(JsonReader r, List<Sketch> sketches)
    {
        var sketch = r.OptionalText("sketch");
        if (sketch is not null && sketches.All(s => s.Id != sketch))
        {
            r.Fault($"no sketch “{sketch}”", "sketch");
        }

        return new GlossaryEntry(r.Text("id"), r.Text("word"), r.Texts("also", optional: true), r.Text("is"), r.Text("how"), r.Text("why"), r.Texts("tools", optional: true), r.Texts("cautions", optional: true), sketches.FirstOrDefault(s => s.Id == sketch));
    }

    private static Sketch ReadSketch(JsonReader r)
    {
        var (width, height) = (r.Whole("width", 80, 640), r.Whole("height", 80, 480));
        return new Sketch(r.Text("id"), r.Text("title"), width, height, r.List("shapes", s =>
        {
            var kind = s.Choice("kind", SketchShape.Kinds);
            if (SketchShape.Lines.Contains(kind))
            {
                var path = s.Text("path");
                if (!SketchShape.IsPath(path))
                {
                    s.Fault("a path of M, L, H, V and Z with whole numbers is wanted", "path");
                }

                return new SketchShape(kind, path, 0, 0, "");
            }

            return new SketchShape(kind, "", s.Whole("x", 0, width), s.Whole("y", 0, height), s.OptionalText("text") ?? "");
        }));
    }
}
