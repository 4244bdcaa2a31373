using Microsoft.AspNetCore.Mvc.RazorPages;
using Screeline.Core.Access;
using Screeline.Web.Infrastructure;

namespace Screeline.Web.Pages.Maps;

/// <summary>All access maps.</summary>
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
