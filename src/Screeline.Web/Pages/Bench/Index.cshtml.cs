using Screeline.Core.People;
using Screeline.Web.SignIn;

namespace Screeline.Web.Pages.Bench;

/// <summary>The calculators, for when there is no job.</summary>
[Allow(Role.Viewer, Role.Viewer)]
public sealed class IndexModel : BenchPage
{
    public override string Title => "Bench";

    public void OnGet()
    {
    }
}
