using Screeline.Core.People;
using Screeline.Core.Quantities;
using Screeline.Web.SignIn;

namespace Screeline.Web.Pages.Bench;

/// <summary>A figure in every unit of its kind.</summary>
[Allow(Role.Viewer, Role.Viewer)]
public sealed class ConvertModel : BenchPage
{
    public override string Title => "Other units";

    /// <summary>The figure, once for each kind its unit could belong to.</summary>
    public IReadOnlyList<Figure> Figures { get; private set; } = [];

    public void OnGet()
    {
        if (Asked("figure").Length == 0)
        {
            return;
        }

        // Money has one unit here; every other kind is tried.
        var parsed = Enum.GetValues<QuantityKind>().Where(k => k != QuantityKind.Money).Select(k => QuantityParser.Read(k, Asked("figure"))).ToList();
        Figures = [.. parsed.Where(p => p.Ok).Select(p => p.Figure!.Value)];
        if (Figures.Count == 0)
        {
            Faults["figure"] = Asked("figure").Any(char.IsLetter) ? parsed[0].Reason!.Contains("not a figure", StringComparison.Ordinal) ? parsed[0].Reason! : $"“{Asked("figure")}”: that unit is not known here. For example 22 lbf·ft, 9/16 in as 0.5625 in, 70 °F." : "Which unit? For example 22 lbf·ft.";
        }
    }
}
