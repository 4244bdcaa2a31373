using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Screeline.Data;

namespace Screeline.Web.Pages;

/// <summary>The yard: every open job, how far it has come, what it waits for.</summary>
public sealed class IndexModel(SummaryStore summaries) : PageModel
{
    /// <summary>Words searched for.</summary>
    [BindProperty(SupportsGet = true, Name = "q")]
    public string? Query { get; set; }

    /// <summary>"closed" shows closed jobs.</summary>
    [BindProperty(SupportsGet = true)]
    public string? Show { get; set; }

    public bool Closed => Show == "closed";

    public IReadOnlyList<YardRow> Rows { get; private set; } = [];

    public DateTimeOffset Now { get; } = DateTimeOffset.Now;

    public async Task OnGetAsync(CancellationToken cancel)
    {
        Query = Query is { Length: > 200 } ? Query[..200] : Query;
        Rows = Closed ? await summaries.ClosedAsync(Query, cancel) : await summaries.OpenAsync(Query, cancel);
        ViewData["Title"] = Closed ? "Closed jobs" : "Yard";
        ViewData["Place"] = "yard";
    }
}
