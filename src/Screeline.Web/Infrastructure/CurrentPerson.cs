using System.Security.Cryptography;
using Screeline.Core.People;
using Screeline.Data;
using Screeline.Web.SignIn;

namespace Screeline.Web.Infrastructure;

/// <summary>Who works at this device: the sign-in of the request, and who pressed a form.</summary>
public sealed class CurrentPerson(IHttpContextAccessor accessor, Gatekeeper gatekeeper)
{
    private const string DeviceCookie = "screeline-device";

    /// <summary>Who is in; null while nobody is.</summary>
    public Signed? Signed => accessor.HttpContext is { } context ? SignIn.Signed.InRequest(context) : null;

    /// <summary>Who works here now, or null while nobody is in.</summary>
    public Person? Person => Signed is { Worker: var worker } ? new Person(worker.Person, worker.Name, worker.Role) : null;

    /// <summary>What they may do.</summary>
    public Role Role => Signed?.Role ?? Role.Viewer;

    /// <summary>Who works here now, sealed for the forms of a job's page: sent later and under another sign-in they still tell who pressed.</summary>
    public string Ticket(Guid job) => Person is { } person ? gatekeeper.Ticket(person.Id, job, Device()) : "";

    /// <summary>Looks at passwords and PINs.</summary>
    public Gatekeeper Gatekeeper => gatekeeper;

    /// <summary>Who pressed a form and when its page was made: as its ticket tells; without one, who works here now. Null when a ticket no longer holds.</summary>
    public async Task<(Guid Person, DateTimeOffset PageMade)?> WhoPressedAsync(string? ticket, Guid job, CancellationToken cancel) =>
        ticket is { Length: > 0 } ? await gatekeeper.WhoPressedAsync(ticket, job, Device(), cancel) : (Person!.Id, DateTimeOffset.UtcNow);

    // A number by which this browser is known again, and nothing else.
    private string Device()
    {
        var context = accessor.HttpContext!;
        if (context.Request.Cookies[DeviceCookie] is { Length: 32 } known && known.All(char.IsAsciiHexDigitLower))
        {
            return known;
        }

        if (context.Items[DeviceCookie] is not string made)
        {
            context.Items[DeviceCookie] = made = Convert.ToHexStringLower(RandomNumberGenerator.GetBytes(16));
            context.Response.Cookies.Append(DeviceCookie, made, new CookieOptions { HttpOnly = true, SameSite = SameSiteMode.Strict, Secure = context.Request.IsHttps, MaxAge = TimeSpan.FromDays(365), Path = "/", IsEssential = true });
        }

        return made;
    }
}
