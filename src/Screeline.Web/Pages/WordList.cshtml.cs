using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.AspNetCore.Mvc;
using Screeline.Core.Diagnosis;
using Screeline.Core.People;
using Screeline.Library;
using Screeline.Web.SignIn;

namespace Screeline.Web.Pages;

/// <summary>The glossary: all words, one of them, or those that a search finds.</summary>
[Allow(Role.Viewer, Role.Viewer)]
public sealed class WordListModel(ShippedLibrary library) : PageModel
{
    /// <summary>What is looked for.</summary>
    [BindProperty(SupportsGet = true, Name = "q")]
    public string? Query { get; set; }

    /// <summary>Where the reader came from, when it is a page of this application.</summary>
    [BindProperty(SupportsGet = true, Name = "back")]
    public string? From { get; set; }

    public string? Back => From is not null && Url.IsLocalUrl(From) ? From : null;

    public IReadOnlyList<GlossaryEntry> Shown { get; private set; } = [];

    public IActionResult OnGet(string? id)
    {
        ViewData["Title"] = "Words";
        ViewData["Place"] = "library";
        if (id is not null)
        {
            Shown = library.Words.Find(id) is { } one ? [one] : [];
            return Shown.Count > 0 ? Page() : NotFound();
        }

        var words = (Query ?? "").Split(' ', StringSplitOptions.RemoveEmptyEntries);
        Shown = [.. library.Words.Entries.Where(e => words.All(w => Array.Exists([e.Word, e.Is, e.How, .. e.Also], t => t.Contains(w, StringComparison.OrdinalIgnoreCase)))).OrderBy(e => e.Word, StringComparer.OrdinalIgnoreCase)];
        return Page();
    }

    /// <summary>Tests that speak of a word.</summary>
    public IReadOnlyList<FaultTest> Tests(GlossaryEntry entry) => [.. library.TestsOf(entry)];
}
