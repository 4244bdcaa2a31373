using System.Globalization;
using System.Text.Json.Nodes;
using Screeline.Core.Motion;
using Screeline.Library;
using Screeline.Web.Drawing;

namespace Screeline.Web.Setting;

/// <summary>
/// One setting worked out from what was typed: the same on the bench, at a step of a job, and in what is exported. Fields are texts
/// by name, so that all of it stands in an address and in an entry.
/// </summary>
public abstract class SettingWork(IReadOnlyDictionary<string, string> asked)
{
    private static readonly Dictionary<string, Func<SettingInputs, SettingWork>> Works = Complete(new(StringComparer.Ordinal)
    {
        ["wiper"] = i => new WiperWork(i.Asked, i.Library, i.Model),
        ["park"] = i => new ParkWork(i.Asked),
        ["window"] = i => new WindowWork(i.Asked, i.Library, i.Model, i.Held),
        ["actuator"] = i => new ActuatorWork(i.Asked, i.Library, i.Model),
        ["balance"] = i => new BalanceWork(i.Asked, i.Library, i.Model),
        ["belt"] = i => new BeltWork(i.Asked),
        ["lengths"] = i => new LengthsWork(i.Asked, i.Library),
        ["battery"] = i => new BatteryWork(i.Asked),
    });

    /// <summary>Works a kind out; null for a kind that does not exist.</summary>
    /// <param name="kind">The kind.</param>
    /// <param name="asked">What was typed, by field.</param>
    /// <param name="library">Linkages and what is known of models.</param>
    /// <param name="model">The vehicle's model; null on the bench.</param>
    /// <param name="held">What was typed when this setting held on the vehicle before; null on the bench.</param>
    public static SettingWork? Create(string kind, IReadOnlyDictionary<string, string> asked, ShippedLibrary library, string? model, IReadOnlyList<IReadOnlyDictionary<string, string>>? held = null) =>
        Works.TryGetValue(kind, out var make) ? make(new SettingInputs(asked, library, model, held ?? [])) : null;

    // A kind that no screen works out, or the other way round, is found at the start.
    private static Dictionary<string, Func<SettingInputs, SettingWork>> Complete(Dictionary<string, Func<SettingInputs, SettingWork>> works) =>
        works.Keys.ToHashSet().SetEquals(SettingKinds.All.Select(k => k.Id)) ? works : throw new InvalidOperationException("Kinds of setting and what works them out are not the same.");

    private sealed record SettingInputs(IReadOnlyDictionary<string, string> Asked, ShippedLibrary Library, string? Model, IReadOnlyList<IReadOnlyDictionary<string, string>> Held);

    /// <summary>The kind.</summary>
    public abstract string Kind { get; }

    /// <summary>Faults by field.</summary>
    public Dictionary<string, string> Faults { get; } = new(StringComparer.Ordinal);

    /// <summary>What it comes to.</summary>
    public SettingVerdict Verdict { get; protected set; } = SettingVerdict.None;

    /// <summary>Whether the setting is right; null while too little is known.</summary>
    public bool? Holds => Verdict.Holds;

    /// <summary>The result in one line; null while there is none.</summary>
    public string? Words => Verdict.Words;

    /// <summary>The drawing, or null.</summary>
    public SvgDrawing? Picture { get; protected set; }

    /// <summary>What was typed, by field.</summary>
    public IReadOnlyDictionary<string, string> AllAsked => asked;

    /// <summary>What was typed into a field.</summary>
    public string Asked(string field) => asked.TryGetValue(field, out var text) ? text.Trim() : "";

    /// <summary>The result as rows: a header with units in the names, then the rows.</summary>
    public abstract IReadOnlyList<IReadOnlyList<string>> Table();

    /// <summary>The result as JSON.</summary>
    public abstract JsonObject Json();

    /// <summary>The same address with other fields.</summary>
    public string Query(params (string Field, string Value)[] changed)
    {
        var all = asked.Where(a => a.Value.Length > 0 && a.Key != "back").ToDictionary(a => a.Key, a => a.Value, StringComparer.Ordinal);
        foreach (var (field, value) in changed)
        {
            all[field] = value;
        }

        return all.Count == 0 ? "" : "?" + string.Join("&", all.Select(a => $"{Uri.EscapeDataString(a.Key)}={Uri.EscapeDataString(a.Value)}"));
    }

    /// <summary>A number within limits; the fault stands at its field. Null when nothing was typed.</summary>
    protected double? Number(string field, double low, double high)
    {
        var text = Asked(field);
        if (text.Length == 0)
        {
            return null;
        }

        if (Read(text) is { } number && number >= low && number <= high)
        {
            return number;
        }

        Faults[field] = $"“{text}”: a number from {Text(low)} to {Text(high)}.";
        return null;
    }

    /// <summary>A row of numbers in one field, parted by blanks, semicolons or lines.</summary>
    protected IReadOnlyList<double> Numbers(string field, double low, double high, int most)
    {
        var numbers = new List<double>();
        foreach (var word in Asked(field).Split([' ', ';', '\n', '\r', '\t'], StringSplitOptions.RemoveEmptyEntries))
        {
            if (Read(word) is not { } number || number < low || number > high)
            {
                Faults[field] = $"“{word}”: numbers from {Text(low)} to {Text(high)}, with blanks between.";
                return [];
            }

            numbers.Add(number);
        }

        if (numbers.Count > most)
        {
            Faults[field] = $"At most {most}.";
            return [];
        }

        return numbers;
    }

    /// <summary>A number as people type it: with a comma or a point.</summary>
    protected static double? Read(string text) =>
        double.TryParse(text.Replace(',', '.').Replace('−', '-'), NumberStyles.Float, CultureInfo.InvariantCulture, out var number) && double.IsFinite(number) ? number : null;

    /// <summary>A number for people and files.</summary>
    public static string Text(double number, int digits = 3) => SettingVerdict.Number(number, digits);
}
