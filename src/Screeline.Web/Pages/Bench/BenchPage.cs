using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Screeline.Web.Pages.Bench;

/// <summary>A calculator on its own. Everything asked stands in the address, so that it can be kept and shared.</summary>
public abstract class BenchPage : PageModel
{
    /// <summary>Faults by field.</summary>
    public Dictionary<string, string> Faults { get; } = new(StringComparer.Ordinal);

    /// <summary>Where one came from: a step of a job.</summary>
    [BindProperty(SupportsGet = true)]
    public string? Back { get; set; }

    /// <summary>The address to go back to, when it is one of a job here.</summary>
    public string? BackAddress => Back is { } back && back.StartsWith("/jobs/", StringComparison.Ordinal) ? back : null;

    /// <summary>The title of the page.</summary>
    public abstract string Title { get; }

    /// <summary>What was asked of a field.</summary>
    public string Asked(string field) => Request.Query[field].ToString().Trim();

    /// <inheritdoc/>
    public override void OnPageHandlerExecuting(Microsoft.AspNetCore.Mvc.Filters.PageHandlerExecutingContext context)
    {
        ViewData["Title"] = Title;
        ViewData["Place"] = "bench";
    }

    /// <summary>A number of the query within limits; the fault stands at its field. Null when nothing was asked.</summary>
    protected double? Number(string field, double low, double high)
    {
        var text = Asked(field);
        if (text.Length == 0)
        {
            return null;
        }

        if (double.TryParse(text.Replace(',', '.'), System.Globalization.NumberStyles.Float, System.Globalization.CultureInfo.InvariantCulture, out var number) && number >= low && number <= high)
        {
            return number;
        }

        Faults[field] = $"A number from {low.ToString(System.Globalization.CultureInfo.InvariantCulture)} to {high.ToString(System.Globalization.CultureInfo.InvariantCulture)}.";
        return null;
    }
}
