using System.Globalization;

namespace Screeline.Web.Infrastructure;

/// <summary>Dates and times typed into a form, in the shop's own time.</summary>
public static class LocalTime
{
    /// <summary>Reads a date and time; nothing typed is no time. False when it cannot be read.</summary>
    public static bool TryRead(string? typed, out DateTimeOffset? at)
    {
        at = null;
        if (string.IsNullOrWhiteSpace(typed))
        {
            return true;
        }

        if (!DateTime.TryParse(typed, CultureInfo.InvariantCulture, out var local) || local.Year is < 2000 or > 2200)
        {
            return false;
        }

        at = new DateTimeOffset(DateTime.SpecifyKind(local, DateTimeKind.Unspecified), TimeZoneInfo.Local.GetUtcOffset(local));
        return true;
    }
}
