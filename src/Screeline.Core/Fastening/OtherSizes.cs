namespace Screeline.Core.Fastening;

/// <summary>Sizes that are likely found where another was expected, so that they can be picked instead of typed.</summary>
public static class OtherSizes
{
    private static readonly string[] Hexes = ["7", "8", "5/16", "9", "10", "11", "7/16", "12", "1/2", "13", "14", "9/16", "15", "16", "17", "18", "19", "3/4", "21", "22", "24"];
    private static readonly string[] Lobes = ["15", "20", "25", "27", "30", "40", "45", "50", "55"];

    /// <summary>The six sizes nearest to the expected one, in order, as drives are written in maps.</summary>
    public static IReadOnlyList<string> Near(string? drive)
    {
        if (Drive.Read(drive).Drive is not { Shape: DriveShape.Hex or DriveShape.Lobe } expected)
        {
            return [];
        }

        return expected.Shape == DriveShape.Hex
            ? [.. Hexes.Select(h => (Text: h, Drive: Drive.Read(h).Drive!)).Where(h => Math.Abs(h.Drive.Size - expected.Size) > 0.01).OrderBy(h => Math.Abs(h.Drive.Size - expected.Size)).Take(6).OrderBy(h => h.Drive.Size).Select(h => $"hex-{h.Text}")]
            : [.. Lobes.Where(t => double.Parse(t, System.Globalization.CultureInfo.InvariantCulture) != expected.Size).OrderBy(t => Math.Abs(double.Parse(t, System.Globalization.CultureInfo.InvariantCulture) - expected.Size)).Take(6).OrderBy(t => t.Length).ThenBy(t => t, StringComparer.Ordinal).Select(t => $"T{t}")];
    }
}
