using Microsoft.AspNetCore.Mvc.RazorPages;
using Screeline.Core.Access;
using Screeline.Core.People;
using Screeline.Web.Infrastructure;
using Screeline.Web.SignIn;

namespace Screeline.Web.Pages.Maps;

/// <summary>All access maps.</summary>
[Allow(Role.Viewer, Role.Technician)]
public sealed class IndexModel(MapShelf shelf) : PageModel
{
    public IReadOnlyList<(AccessMap Map, string Json, int Version)> Maps { get; private set; } = [];

    public async Task OnGetAsync(CancellationToken cancel)
    {
        Maps = await shelf.AllAsync(cancel);
        ViewData["Title"] = "Access maps";
        ViewData["Place"] = "library";
    }
}
