using Screeline.Core.People;
using Screeline.Data;
using Screeline.Web.SignIn;

namespace Screeline.Web.Infrastructure;

/// <summary>Who works at this device: the sign-in of the request, and who pressed a form.</summary>
public sealed class CurrentPerson(IHttpContextAccessor accessor, Gatekeeper gatekeeper)
{
    /// <summary>Who is in; null while nobody is.</summary>
    public Signed? Signed => accessor.HttpContext is { } context ? SignIn.Signed.InRequest(context) : null;

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
}
