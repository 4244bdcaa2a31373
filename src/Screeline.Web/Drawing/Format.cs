using System.Globalization;

namespace Screeline.Web.Drawing;

/// <summary>Times and money as the screens print them.</summary>
public static class Format
{
    /// <summary>How many closed jobs.</summary>
    public static string Jobs(int count) => count == 1 ? "1 closed job" : $"{count} closed jobs";

    /// <summary>"10:42", and the day when it was not today.</summary>
    public static string Clock(DateTimeOffset at)
    {
        var local = at.ToLocalTime();
        return local.Date == DateTime.Today ? local.ToString("HH:mm", CultureInfo.InvariantCulture) : local.ToString("d MMM HH:mm", CultureInfo.InvariantCulture);
    }

    /// <summary>"24 Nov 2026, 10:42".</summary>
    public static string Day(DateTimeOffset at) => at.ToLocalTime().ToString("d MMM yyyy, HH:mm", CultureInfo.InvariantCulture);

    /// <summary>Money to the whole unit of the shop's currency.</summary>
    public static string Money(decimal amount) => Math.Round(amount, MidpointRounding.AwayFromZero).ToString("0", CultureInfo.InvariantCulture);

    /// <summary>When it is promised: "today 15:00", "late since 09:00", "25 Nov 12:00".</summary>
    public static string Promise(DateTimeOffset promised, DateTimeOffset now) =>
        promised < now ? $"Late since {Clock(promised)}" : promised.ToLocalTime().Date == DateTime.Today ? $"Today {Clock(promised)}" : Clock(promised);
}
