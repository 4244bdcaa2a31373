using Screeline.Core.People;
using Screeline.Core.Quantities;
using Screeline.Data;
using Screeline.Web.SignIn;

namespace Screeline.Web.Infrastructure;

/// <summary>Who works at this device, and what it has chosen: how it looks, which hand, which torque unit.</summary>
public sealed class Desk(IHttpContextAccessor accessor, Gatekeeper gatekeeper)
{
    /// <summary>Cookie names.</summary>
    public const string LookCookie = "screeline-look", HandCookie = "screeline-hand", TorqueCookie = "screeline-torque", CelsiusCookie = "screeline-celsius", HistoryCookie = "screeline-history";

    /// <summary>The look: "light", "dark", or "auto" for the device's own.</summary>
    public string Look => Cookie(LookCookie) is "light" or "dark" ? Cookie(LookCookie)! : "auto";

    /// <summary>The hand that holds the tool: "left" mirrors the action bar.</summary>
    public string Hand => Cookie(HandCookie) == "left" ? "left" : "right";

    /// <summary>The unit torques are told in beside the specified one.</summary>
    public Unit TorqueUnit => Units.BySymbol(Cookie(TorqueCookie) ?? "") is { Kind: QuantityKind.Torque } unit ? unit : Units.NewtonMetre;

    /// <summary>The temperature at the vehicle, °C; 20 while nobody has said another.</summary>
    public double Celsius => double.TryParse(Cookie(CelsiusCookie), System.Globalization.CultureInfo.InvariantCulture, out var celsius) && celsius is >= -40 and <= 60 ? celsius : 20;

    /// <summary>Whether the shop's closed jobs shift what is likely.</summary>
    public bool UsesHistory => Cookie(HistoryCookie) != "off";

    /// <summary>Who is in; null while nobody is.</summary>
    public Signed? Signed => accessor.HttpContext is { } context ? SignIn.Signed.Of(context) : null;

    /// <summary>Who works here now, or null while nobody is in.</summary>
    public Person? Person => Signed is { Worker: var worker } ? new Person(worker.Person, worker.Name, worker.Role) : null;

    /// <summary>What they may do.</summary>
    public Role Role => Signed?.Role ?? Role.Viewer;

    /// <summary>Who works here now, sealed for a form: sent later and under another sign-in it still tells who pressed.</summary>
    public string Ticket => Person is { } person ? gatekeeper.Ticket(person.Id) : "";

    /// <summary>Looks at passwords and PINs.</summary>
    public Gatekeeper Gatekeeper => gatekeeper;

    /// <summary>Who pressed a form: as its ticket tells; without one, who works here now.</summary>
    public Guid WhoPressed(string? ticket) => gatekeeper.WhoPressed(ticket) ?? Person!.Id;

    /// <summary>Sets a cookie for a year.</summary>
    public void Set(string cookie, string value) => accessor.HttpContext!.Response.Cookies.Append(cookie, Uri.EscapeDataString(value), new CookieOptions
    {
        HttpOnly = true,
        SameSite = SameSiteMode.Strict,
        Secure = accessor.HttpContext.Request.IsHttps,
        MaxAge = TimeSpan.FromDays(365),
        Path = "/",
        IsEssential = true,
    });

    private string? Cookie(string name) => accessor.HttpContext?.Request.Cookies[name] is { } value ? Uri.UnescapeDataString(value) : null;
}
