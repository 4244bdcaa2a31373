namespace Screeline.Web.Pages.Bench;

/// <summary>The calculators, for when there is no job.</summary>
public sealed class IndexModel : BenchPage
{
    public override string Title => "Bench";

    public void OnGet()
    {
    }
}
