using System.Globalization;
using System.Text.RegularExpressions;

namespace Screeline.Core.Quantities;

/// <summary>What came of reading a figure that somebody typed: the figure, or the reason it was refused.</summary>
/// <param name="Figure">The figure, when it could be read.</param>
/// <param name="Reason">Why not, in words for the person who typed it; null when it could be read.</param>
public readonly record struct Parsed(Figure? Figure, string? Reason)
{
    /// <summary>True when the figure could be read.</summary>
    public bool Ok => Figure is not null;
}

/// <summary>
/// Reads what people type at the vehicle: "12,4 V", "9.6v", "0.2 ohm", "350 mV", "22 lb-ft", "90 in-lb", "1 h 20".
/// A comma is a decimal comma. Digits grouped by thousands are refused, because "1,200" and "1.200" mean two things.
/// </summary>
public static partial class QuantityParser
{
    /// <summary>More than anything this trade measures, so that a slipped finger is caught before it overflows.</summary>
    public const decimal LargestNumber = 10_000_000m;

    private const int LongestText = 40;

    private static readonly string[] OpenWords = ["open", "OL", "O.L.", "0L", "∞"];

    /// <summary>Reads a figure of one kind.</summary>
    /// <param name="kind">The kind expected.</param>
    /// <param name="text">What was typed.</param>
    /// <param name="unitIfNone">The unit printed beside the field, taken when a bare number was typed; null when a unit must be typed.</param>
    public static Parsed Read(QuantityKind kind, string? text, Unit? unitIfNone = null)
    {
        var typed = (text ?? "").Trim().Replace('\u2212', '-').Replace('\u00a0', ' ');
        if (typed.Length == 0)
        {
            return Refuse("Nothing was typed.");
        }

        if (typed.Length > LongestText)
        {
            return Refuse($"Longer than {LongestText} characters: type one figure, for example {Example(kind)}.");
        }

        if (kind == QuantityKind.Duration && ReadClockLike(typed) is { } clockLike)
        {
            return clockLike;
        }

        // As a meter shows it, and as people say it.
        if (kind == QuantityKind.Resistance && OpenWords.Contains(typed, StringComparer.OrdinalIgnoreCase))
        {
            return new Parsed(new Figure(2 * Figure.OpenFrom, Units.Ohm), null);
        }

        var match = NumberAndUnit().Match(typed);
        if (!match.Success)
        {
            return Refuse($"“{typed}” is not a figure. For example {Example(kind)}.");
        }

        var digits = match.Groups["number"].Value;
        if (digits.Count(c => c is '.' or ',') > 1)
        {
            return Refuse($"“{digits}” has two separators. Write the number without grouping, for example {Example(kind)}.");
        }

        if (!decimal.TryParse(digits.Replace(',', '.'), NumberStyles.AllowLeadingSign | NumberStyles.AllowDecimalPoint, CultureInfo.InvariantCulture, out var number)
            || Math.Abs(number) > LargestNumber)
        {
            return Refuse($"“{digits}” is beyond anything measured here.");
        }

        var spelling = match.Groups["unit"].Value.Trim();
        if (spelling.Length == 0)
        {
            var unit = unitIfNone ?? (kind == QuantityKind.Money ? Units.ShopCurrency : null);
            return unit is null
                ? Refuse($"“{typed}” has no unit. For example {Example(kind)}.")
                : Take(kind, new Figure(number, unit));
        }

        if (Units.Find(kind, spelling) is { } found)
        {
            return Take(kind, new Figure(number, found));
        }

        var elsewhere = Units.All.FirstOrDefault(unit => unit.Kind != kind && Units.Find(unit.Kind, spelling) == unit);
        return Refuse(elsewhere is null
            ? $"“{spelling}” is not a unit known here. For example {Example(kind)}."
            : $"“{spelling}” measures {Word(elsewhere.Kind)}; {Word(kind)} is wanted, for example {Example(kind)}.");
    }

    /// <summary>An example of the kind, for messages and field hints.</summary>
    public static string Example(QuantityKind kind) => kind switch
    {
        QuantityKind.Torque => "22 N·m",
        QuantityKind.Voltage => "12.4 V",
        QuantityKind.Current => "180 A",
        QuantityKind.Resistance => "0.2 ohm",
        QuantityKind.Temperature => "21 °C",
        QuantityKind.Duration => "1 h 20",
        QuantityKind.Length => "3 mm",
        _ => "12.50",
    };

    /// <summary>The word for a kind in a sentence.</summary>
    public static string Word(QuantityKind kind) => kind switch
    {
        QuantityKind.Duration => "a time",
        QuantityKind.Money => "money",
        QuantityKind.Current => "a current",
        _ => "a " + kind.ToString().ToLowerInvariant(),
    };

    private static Parsed Take(QuantityKind kind, Figure figure)
    {
        var refusal = kind switch
        {
            QuantityKind.Resistance when figure.Number < 0 => "A resistance cannot be negative.",
            QuantityKind.Duration when figure.Number < 0 => "A time cannot be negative.",
            QuantityKind.Length when figure.Number < 0 => "A length cannot be negative.",
            QuantityKind.Torque when figure.Number < 0 => "A torque is given without its sign.",
            // Absolute zero, −273.15 °C (SI Brochure, 9th edition, 2.3.1).
            QuantityKind.Temperature when figure.Base < -273.15m => $"{figure} is below absolute zero.",
            _ => null,
        };
        return refusal is null ? new Parsed(figure, null) : Refuse(refusal);
    }

    // "1 h 20", "1h20m", "1:20", "1 h 20 min".
    private static Parsed? ReadClockLike(string typed)
    {
        var match = HoursAndMinutes().Match(typed);
        if (!match.Success)
        {
            return null;
        }

        var hours = decimal.Parse(match.Groups["hours"].Value, CultureInfo.InvariantCulture);
        var minutes = decimal.Parse(match.Groups["minutes"].Value, CultureInfo.InvariantCulture);
        return minutes >= 60
            ? Refuse($"“{typed}” has {minutes} minutes past the hour.")
            : new Parsed(new Figure(hours * 60 + minutes, Units.Minute), null);
    }

    private static Parsed Refuse(string reason) => new(null, reason);

    [GeneratedRegex(@"^(?<number>[+-]?(?:\d[\d.,]*|[.,]\d+))(?<unit>\s*[^\d\s][^\d]*)?$", RegexOptions.CultureInvariant)]
    private static partial Regex NumberAndUnit();

    [GeneratedRegex(@"^(?<hours>\d{1,3})\s*(?:h|hr|hrs|hour|hours|:)\s*(?<minutes>\d{1,2})\s*(?:m|min|mins|minutes)?$", RegexOptions.CultureInvariant | RegexOptions.IgnoreCase)]
    private static partial Regex HoursAndMinutes();
}
