using System.Globalization;
using System.Text.RegularExpressions;

namespace Screeline.Core.Fastening;

/// <summary>The shape of a drive.</summary>
public enum DriveShape
{
    /// <summary>External hexagon, taken by sockets and spanners.</summary>
    Hex,
    /// <summary>Internal hexagon.</summary>
    HexKey,
    /// <summary>Internal six-lobe, T sizes.</summary>
    Lobe,
    /// <summary>External six-lobe, E sizes.</summary>
    ExternalLobe,
    /// <summary>Cross recess PH.</summary>
    Cross,
    /// <summary>Cross recess PZ.</summary>
    CrossZ,
    /// <summary>Slot.</summary>
    Slot,
}

/// <summary>A drive with its size.</summary>
/// <param name="Shape">Its shape.</param>
/// <param name="Size">Width across flats in mm, or the number of a T, E, PH or PZ size; 0 for a slot.</param>
/// <param name="Inch">The inch size as people say it ("9/16"), or null.</param>
public sealed partial record Drive(DriveShape Shape, double Size, string? Inch = null)
{
    /// <summary>Reads "hex-13", "13", "13 mm", "9/16", "hex-9/16", "T30", "E10", "PH2", "PZ2", "key-5", "slot".</summary>
    /// <returns>The drive, or the reason in words.</returns>
    public static (Drive? Drive, string? Reason) Read(string? text)
    {
        var typed = (text ?? "").Trim();
        var match = Pattern().Match(typed);
        if (!match.Success)
        {
            return (null, $"“{typed}” is not a drive. For example hex-13, 9/16, T30, E10, PH2, key-5 or slot.");
        }

        if (match.Groups["slot"].Success)
        {
            return (new Drive(DriveShape.Slot, 0), null);
        }

        if (match.Groups["a"].Success)
        {
            var (a, b) = (int.Parse(match.Groups["a"].Value, CultureInfo.InvariantCulture), int.Parse(match.Groups["b"].Value, CultureInfo.InvariantCulture));
            return b is 2 or 4 or 8 or 16 or 32 or 64 && a > 0 && a < 2 * b ? (new Drive(Shaped(match), Math.Round(25.4 * a / b, 4), $"{a}/{b}"), null) : (null, $"{a}/{b} in is not a size of drives.");
        }

        var number = double.Parse(match.Groups["n"].Value.Replace(',', '.'), CultureInfo.InvariantCulture);
        var shape = Shaped(match);
        return shape is DriveShape.Hex && number is < 3 or > 80 ? (null, $"A hexagon of {number} mm is beyond sockets.") : (new Drive(shape, number), null);
    }

    /// <inheritdoc/>
    public override string ToString() => Shape switch
    {
        DriveShape.Hex => Inch is null ? $"hex {Told}" : $"hex {Inch} in",
        DriveShape.HexKey => $"key {Inch ?? Told}",
        DriveShape.Lobe => $"T{Told}",
        DriveShape.ExternalLobe => $"E{Told}",
        DriveShape.Cross => $"PH{Told}",
        DriveShape.CrossZ => $"PZ{Told}",
        _ => "slot",
    };

    private string Told => Size.ToString("0.##", CultureInfo.InvariantCulture);

    private static DriveShape Shaped(Match match) => match.Groups["s"].Value.ToUpperInvariant() switch
    {
        "T" => DriveShape.Lobe,
        "E" => DriveShape.ExternalLobe,
        "PH" => DriveShape.Cross,
        "PZ" => DriveShape.CrossZ,
        "KEY" or "HEX-KEY" or "HEXKEY" => DriveShape.HexKey,
        _ => DriveShape.Hex,
    };

    [GeneratedRegex(@"^(?:(?<slot>slot)|(?<s>hex-key|hexkey|key|hex|T|E|PH|PZ)?[\s-]*(?:(?<a>\d{1,2})/(?<b>\d{1,2})(?:\s*(?:in|""))?|(?<n>\d{1,2}(?:[.,]\d)?)(?:\s*mm)?))$", RegexOptions.IgnoreCase)]
    private static partial Regex Pattern();
}
