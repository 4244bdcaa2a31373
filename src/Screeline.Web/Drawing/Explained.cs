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
    public static Explained InTexts(params IEnumerable<string?> texts) => new(texts, [], []);

    /// <summary>The words to explain: cautions first, then tools, then terms as they are met.</summary>
    public IReadOnlyList<GlossaryEntry> In(Glossary glossary) =>
        [.. Cautions.Select(glossary.ForCaution).Concat(Tools.Select(glossary.ForTool)).OfType<GlossaryEntry>().Concat(glossary.In(Texts)).Distinct().Take(Most)];
}
