using Screeline.Core.Diagnosis;
using Screeline.Core.Quantities;

namespace Screeline.Web.Infrastructure;

/// <summary>What was chosen for this device, kept in its cookies: how it looks, which hand, which torque unit, how warm it is, whether closed jobs count.</summary>
public sealed class DevicePreferences(IHttpContextAccessor accessor)
{
    /// <summary>Cookie names.</summary>
    public const string LookCookie = "screeline-look", HandCookie = "screeline-hand", TorqueCookie = "screeline-torque", CelsiusCookie = "screeline-celsius", HistoryCookie = "screeline-history";

    /// <summary>The look: "light", "dark", or "auto" for the device's own.</summary>
    public string Look => Cookie(LookCookie) is "light" or "dark" ? Cookie(LookCookie)! : "auto";

    /// <summary>The hand that holds the tool: "left" mirrors the action bar.</summary>
    public string Hand => Cookie(HandCookie) == "left" ? "left" : "right";

    /// <summary>The unit torques are told in beside the specified one.</summary>
    public Unit TorqueUnit => Units.BySymbol(Cookie(TorqueCookie) ?? "") is { Kind: QuantityKind.Torque } unit ? unit : Units.NewtonMetre;

    /// <summary>The temperature at the vehicle as it was told on this device within the last hours, °C; null while nobody has said.</summary>
    public double? Celsius => double.TryParse(Cookie(CelsiusCookie), System.Globalization.CultureInfo.InvariantCulture, out var celsius) && celsius is >= VehicleSetting.LeastCelsius and <= VehicleSetting.MostCelsius ? celsius : null;

    /// <summary>Keeps the temperature at the vehicle: it holds for a shift.</summary>
    public void SetCelsius(double celsius) => Set(CelsiusCookie, celsius.ToString("R", System.Globalization.CultureInfo.InvariantCulture), TimeSpan.FromHours(12));

    /// <summary>Whether the shop's closed jobs shift what is likely.</summary>
    public bool UsesHistory => Cookie(HistoryCookie) != "off";

    /// <summary>Sets a cookie for a year.</summary>
    public void Set(string cookie, string value) => Set(cookie, value, TimeSpan.FromDays(365));

    private void Set(string cookie, string value, TimeSpan age) => accessor.HttpContext!.Response.Cookies.Append(cookie, Uri.EscapeDataString(value), new CookieOptions
    {
        HttpOnly = true,
        SameSite = SameSiteMode.Strict,
        Secure = accessor.HttpContext.Request.IsHttps,
        MaxAge = age,
        Path = "/",
        IsEssential = true,
    });

    private string? Cookie(string name) => accessor.HttpContext?.Request.Cookies[name] is { } value ? Uri.UnescapeDataString(value) : null;
}
