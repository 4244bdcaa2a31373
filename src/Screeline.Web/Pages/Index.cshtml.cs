using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.AspNetCore.Mvc;
using Screeline.Core.People;
using Screeline.Data;
using Screeline.Web.SignIn;

namespace Screeline.Web.Pages;

/// <summary>The yard: every open job, how far it has come, what it waits for.</summary>
[Allow(Role.Viewer, Role.Viewer)]
public sealed class IndexModel(SummaryStore summaries) : PageModel
{
    /// <summary>Words searched for.</summary>
    [BindProperty(SupportsGet = true, Name = "q")]
    public string? Query { get; set; }

    /// <summary>"closed" shows closed jobs.</summary>
    [BindProperty(SupportsGet = true)]
    public string? Show { get; set; }

    /// <summary>How many lines a page has.</summary>
    public const int Lines = 40;

    /// <summary>Which page of the list, from 1.</summary>
    [BindProperty(SupportsGet = true, Name = "page-number")]
    public int PageNumber { get; set; } = 1;

    /// <summary>Whether there are more after this one.</summary>
    public bool More { get; private set; }

    /// <summary>The same list on another page.</summary>
    public string Link(int page) => $"/?page-number={page}{(Closed ? "&show=closed" : "")}{(Query is { Length: > 0 } q ? $"&q={Uri.EscapeDataString(q)}" : "")}";

    public bool Closed => Show == "closed";

    public IReadOnlyList<YardRow> Rows { get; private set; } = [];

    public DateTimeOffset Now { get; } = DateTimeOffset.Now;

    public async Task OnGetAsync(CancellationToken cancel)
    {
        Query = Query is { Length: > 200 } ? Query[..200] : Query;
        PageNumber = Math.Clamp(PageNumber, 1, 10_000);
        var (skip, take) = ((PageNumber - 1) * Lines, Lines + 1);
        var rows = Closed ? await summaries.ClosedAsync(Query, skip, take, cancel) : await summaries.OpenAsync(Query, skip, take, cancel);
        (Rows, More) = ([.. rows.Take(Lines)], rows.Count > Lines);
        ViewData["Title"] = Closed ? "Closed jobs" : "Yard";
        ViewData["Place"] = "yard";
    }
}
