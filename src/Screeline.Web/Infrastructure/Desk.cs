using Screeline.Core.Quantities;
using Screeline.Data;

namespace Screeline.Web.Infrastructure;

/// <summary>What this device has chosen: who works, how it looks, which hand, which torque unit. Cookies only.</summary>
public sealed class Desk(IHttpContextAccessor accessor, PeopleStore people)
{
    /// <summary>Cookie names.</summary>
    public const string PersonCookie = "screeline-person", LookCookie = "screeline-look", HandCookie = "screeline-hand", TorqueCookie = "screeline-torque", CelsiusCookie = "screeline-celsius", HistoryCookie = "screeline-history";

    private Person? _person;
    private bool _looked;

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

    /// <summary>Who works here now, or null while nobody has said so.</summary>
    public async Task<Person?> PersonAsync()
    {
        if (!_looked)
        {
            _person = Guid.TryParse(Cookie(PersonCookie), out var id) ? (await people.AllAsync()).FirstOrDefault(p => p.Id == id) : null;
            _looked = true;
        }

        return _person;
    }

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

/// <summary>Every entry names a person: a device where nobody has said who works is asked first.</summary>
public sealed class WhoIsAtWork(RequestDelegate next)
{
    /// <summary>Sends job pages to /who while nobody is chosen.</summary>
    public async Task InvokeAsync(HttpContext context, Desk desk)
    {
        if (context.Request.Path.StartsWithSegments("/jobs") && await desk.PersonAsync() is null)
        {
            var back = HttpMethods.IsGet(context.Request.Method) ? context.Request.Path + context.Request.QueryString : "/";
            context.Response.Redirect($"/who?back={Uri.EscapeDataString(back)}");
            return;
        }

        await next(context);
    }
}
