using System.Text;

namespace Screeline.Core.Access.Recording;

/// <summary>What a thing that comes off is to the work, whatever the vehicle.</summary>
public enum PartRole
{
    /// <summary>Something else: a bracket, a duct, a tube.</summary>
    Other,
    /// <summary>A cover, tray, trim or shield: it hides what is behind it.</summary>
    Cover,
    /// <summary>A plug, hose, lead or cable.</summary>
    Connection,
    /// <summary>The part that the job is about, or what holds it.</summary>
    Motor,
}

/// <summary>A thing of vehicles in the words of the trade, and what these words bring with them.</summary>
/// <param name="Id">Identifier.</param>
/// <param name="Title">What it is called where it is offered.</param>
/// <param name="Words">Words and phrases by which it is known, in lower case; the singular covers a plural with s.</param>
/// <param name="Role">What it is to the work.</param>
/// <param name="Cautions">Caution ids that come with it.</param>
/// <param name="Structural">Whether its joints hold the vehicle together or a person safe.</param>
/// <param name="Families">Families in which it means this; empty for all.</param>
public sealed record PartWord(string Id, string Title, IReadOnlyList<string> Words, PartRole Role, IReadOnlyList<string> Cautions, bool Structural, IReadOnlyList<string> Families)
{
    /// <summary>What is done to it on the way in, where that is not plain from <see cref="Role"/>.</summary>
    public TakenAct? Act { get; init; }

    /// <summary>What is done to it on the way in.</summary>
    public TakenAct UsualAct => Act ?? (Role == PartRole.Connection ? TakenAct.Plug : TakenAct.Part);
}

/// <summary>A danger that is asked about where a word is unknown.</summary>
/// <param name="Id">Identifier.</param>
/// <param name="Title">The answer on its button.</param>
/// <param name="Caution">The caution it brings.</param>
public sealed record Danger(string Id, string Title, string Caution);

/// <summary>The words by which things on a vehicle are known.</summary>
public sealed class PartWords(IReadOnlyList<PartWord> all, IReadOnlyList<Danger> dangers)
{
    /// <summary>No words: nothing is known.</summary>
    public static PartWords None { get; } = new([], []);

    /// <summary>All, as they are kept.</summary>
    public IReadOnlyList<PartWord> All { get; } = all;

    /// <summary>What is asked where a word is unknown.</summary>
    public IReadOnlyList<Danger> Dangers { get; } = dangers;

    /// <summary>The word with this id, or null.</summary>
    public PartWord? Find(string id) => ById.GetValueOrDefault(id);

    /// <summary>
    /// Every thing that a text names, the one that says most first: of two at the same place the longer phrase counts ("battery tray" is no
    /// battery); where something is known in the family it goes before what is known in all.
    /// </summary>
    /// <param name="text">What was said: "Heat shield off the starter".</param>
    /// <param name="family">The family of the job.</param>
    public IReadOnlyList<PartWord> In(string text, string family)
    {
        var words = Split(text);
        var found = new List<(PartWord Word, int At, int Length)>();
        for (var at = 0; at < words.Count; at++)
        {
            foreach (var (word, phrase) in ByFirst.GetValueOrDefault(words[at]) ?? [])
            {
                if (phrase.Length <= words.Count - at && (word.Families.Count == 0 || word.Families.Contains(family)) && phrase.Zip(words.Skip(at)).All(x => x.First == x.Second))
                {
                    found.Add((word, at, phrase.Length));
                }
            }
        }

        // What lies within a longer phrase is part of its name; of two of one length the family's own.
        return
        [
            .. found.Where(f => !found.Any(o => o != f && o.At <= f.At && o.At + o.Length >= f.At + f.Length && (o.Length > f.Length || o.Word.Families.Count > 0 && f.Word.Families.Count == 0)))
                .OrderByDescending(f => f.Length).ThenBy(f => f.At).Select(f => f.Word).DistinctBy(w => w.Id),
        ];
    }

    /// <summary>The thing a text is about: the first that it names; null when it names none.</summary>
    public PartWord? About(string text, string family) => In(text, family) is { Count: > 0 } found ? found[0] : null;

    private Dictionary<string, PartWord> ById => field ??= All.ToDictionary(w => w.Id, StringComparer.Ordinal);

    private Dictionary<string, List<(PartWord Word, string[] Phrase)>> ByFirst => field ??= All
        .SelectMany(w => w.Words.Select(phrase => (Word: w, Phrase: Split(phrase).ToArray()))).Where(x => x.Phrase.Length > 0)
        .GroupBy(x => x.Phrase[0], StringComparer.Ordinal).ToDictionary(g => g.Key, g => g.ToList(), StringComparer.Ordinal);

    // Lower case, letters only, a plural's s cut off: "Covers" is "cover".
    private static List<string> Split(string text)
    {
        var (words, word) = (new List<string>(), new StringBuilder());
        foreach (var c in text.Append(' '))
        {
            if (char.IsLetterOrDigit(c))
            {
                word.Append(char.ToLowerInvariant(c));
            }
            else if (word.Length > 0)
            {
                var plain = word.ToString();
                words.Add(plain.Length > 3 && plain[^1] == 's' && plain[^2] != 's' ? plain[..^1] : plain);
                word.Clear();
            }
        }

        return words;
    }
}
