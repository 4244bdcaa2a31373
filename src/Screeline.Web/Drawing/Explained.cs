using Screeline.Library;

namespace Screeline.Web.Drawing;

/// <summary>What a screen says that an apprentice may not know; _Words lays it out, one tap away each.</summary>
/// <param name="Texts">What is written there.</param>
/// <param name="Tools">Tools named there, by id.</param>
/// <param name="Cautions">Cautions that stand there, by id.</param>
public sealed record Explained(IEnumerable<string?> Texts, IEnumerable<string> Tools, IEnumerable<string> Cautions)
{
    // More than a hand full is a list to read, not help.
    private const int Most = 7;

    /// <summary>Texts alone.</summary>
    public static Explained Of(params IEnumerable<string?> texts) => new(texts, [], []);

    /// <summary>The words to explain: cautions first, then tools, then terms as they are met.</summary>
    public IReadOnlyList<GlossaryEntry> In(Glossary glossary) =>
        [.. Cautions.Select(glossary.ForCaution).Concat(Tools.Select(glossary.ForTool)).OfType<GlossaryEntry>().Concat(glossary.In(Texts)).Distinct().Take(Most)];
}

/// <summary>Sizes of what a sketch is made of, and the path of an arrow's head.</summary>
public static class SketchPaths
{
    /// <summary>The solid head at the end of an arrow, 12 long and 8 wide, in the direction of its last stretch.</summary>
    public static string Head(string path)
    {
        var corners = CircuitPicture.Corners(path);
        var (a, b) = (corners[^2], corners[^1]);
        var length = Math.Sqrt((b.X - a.X) * (b.X - a.X) + (b.Y - a.Y) * (b.Y - a.Y));
        var (dx, dy) = ((b.X - a.X) / length, (b.Y - a.Y) / length);
        return string.Create(System.Globalization.CultureInfo.InvariantCulture, $"M{b.X:0.#} {b.Y:0.#}L{b.X - 12 * dx + 5 * dy:0.#} {b.Y - 12 * dy - 5 * dx:0.#}L{b.X - 12 * dx - 5 * dy:0.#} {b.Y - 12 * dy + 5 * dx:0.#}Z");
    }
}
