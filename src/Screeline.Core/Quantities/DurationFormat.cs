namespace Screeline.Core.Quantities;

/// <summary>Durations in words.</summary>
public static class DurationFormat
{
    /// <summary>"52 min", "1 h 52"; rounded to whole minutes.</summary>
    public static string Minutes(decimal minutes)
    {
        var whole = (int)Math.Round(minutes, MidpointRounding.AwayFromZero);
        return whole < 90 ? $"{whole} min" : $"{whole / 60} h {whole % 60:00}";
    }
}
