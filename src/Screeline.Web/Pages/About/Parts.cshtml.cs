using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.AspNetCore.Mvc;
using Screeline.Core.Jobs;
using Screeline.Core.People;
using Screeline.Library;
using Screeline.Web.Infrastructure;
using Screeline.Web.SignIn;

namespace Screeline.Web.Pages.About;

/// <summary>Every part of the interface in each state and both looks, for those who build it. Shown with made-up data only.</summary>
[Allow(Role.Viewer, Role.Viewer)]
public sealed class PartsModel(Settings settings, IHostEnvironment environment, ShippedLibrary library) : PageModel
{
    /// <summary>Colours by name.</summary>
    public static IReadOnlyList<string> Colours { get; } = ["ground", "sheet", "inset", "ink", "ink-2", "rule", "pen", "danger", "danger-ground", "wait", "wait-ground"];

    /// <summary>Type sizes by name, with what they are for.</summary>
    public static IReadOnlyList<(string Name, string Use)> Sizes { get; } =
        [("note", "notes"), ("close", "rows, tables"), ("text", "text"), ("caution", "cautions"), ("where", "where, tool"), ("head", "heads on the phone"), ("value", "values, heads"), ("act", "the act")];

    /// <summary>States of a mark with the words beside it.</summary>
    public static IReadOnlyList<(string State, string Words)> States { get; } =
        [("todo", "To do"), ("now", "Now"), ("done", "Off 10:42"), ("waiting", "Waits for a part"), ("danger", "Danger: 0.8 V lost"), ("blocked", "Blocked: rear bolt seized"), ("not-needed", "Not needed, 10:42")];

    /// <summary>The glossary.</summary>
    public Glossary Words => library.Words;

    /// <summary>Section lines on the way down, at the bottom and done.</summary>
    public IReadOnlyList<(string Words, SectionLine Line)> Lines { get; } =
    [
        ("Not begun", Line(0, 1)), ("Going in", Line(9, 11)), ("All back", Line(19, 20)),
    ];

    public IActionResult OnGet()
    {
        if (!settings.Demo && !environment.IsDevelopment())
        {
            return NotFound();
        }

        ViewData["Title"] = "Parts";
        return Page();
    }

    // Ten steps down and ten back.
    private static SectionLine Line(int travelled, int now)
    {
        var all = Enumerable.Range(0, 21).Select(i => new LinePoint(i * 7m / 20, Math.Min(i, 20 - i) / 2)).ToList();
        return new SectionLine([.. all.Take(travelled + 1)], [.. all.Skip(travelled).Take(now - travelled + 1)], [.. all.Skip(now)], 5);
    }
}
