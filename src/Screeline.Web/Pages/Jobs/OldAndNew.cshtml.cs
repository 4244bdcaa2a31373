using Microsoft.AspNetCore.Mvc;
using Screeline.Core.Fastening;
using Screeline.Core.Jobs;
using Screeline.Core.People;
using Screeline.Data;
using Screeline.Web.Infrastructure;
using Screeline.Web.SignIn;

namespace Screeline.Web.Pages.Jobs;

/// <summary>Old and new part side by side: what to compare, what goes over, the core that goes back.</summary>
[Allow(Role.Viewer, Role.Apprentice)]
public sealed class OldAndNewModel(JobStore jobs, PeopleStore people, CurrentPerson current) : JobPage(jobs, people, current)
{
    /// <inheritdoc/>
    protected override WithoutNetwork WithoutNetwork => WithoutNetwork.Beside;

    public override Stage Stage => Job.IsDone(Stage.TakeApart) ? Stage.Refit : Stage.TakeApart;

    public void OnGet()
    {
    }

    /// <summary>The fastener a point is about, or null.</summary>
    public Fastener? FastenerOf(ComparePoint point) => point.Step is null ? null : Job.FastenersOf(point.Step).FirstOrDefault(f => f.Id == point.Fastener);

    public async Task<IActionResult> OnPostCompareAsync()
    {
        var point = Job.Part?.Points.FirstOrDefault(p => p.Id == Request.Form["point"]);
        if (point is null)
        {
            return Refuse("There is no such point.", StatusCodes.Status422UnprocessableEntity);
        }

        var size = Request.Form["pick"].ToString() is { Length: > 0 } picked ? picked : Request.Form["size"].ToString().Trim();
        var found = Request.Form["found"].ToString().Trim();
        var same = Request.Form["same"] == "yes";
        if (same)
        {
            return Here(await KeepAsync([new PartCompared(point.Id, true, null)], Stage));
        }

        // Another size of a nut changes the tool at its step at once.
        if (FastenerOf(point) is { } fastener)
        {
            return Drive.Read(size).Reason is { } reason ? RefuseField($"point-{point.Id}", size.Length == 0 ? "Which size has the new one?" : reason)
                : Here(await KeepAsync([new PartCompared(point.Id, false, $"{size} on the new one"), new FastenerFound(point.Step!, fastener.Id, FastenerState.OtherSize, fastener.Count, size, "on the new part")], Stage));
        }

        return found.Length == 0 ? RefuseField($"point-{point.Id}", "What differs? A few words.") : Here(await KeepAsync([new PartCompared(point.Id, false, found)], Stage));
    }

    public async Task<IActionResult> OnPostCarriedAsync() => Here(await KeepAsync([new PartCarried(Request.Form["piece"].ToString())], Stage));

    public async Task<IActionResult> OnPostCoreAsync() => Here(await KeepAsync([new CoreReturned()], Stage));

    private IActionResult Here(IActionResult result) => result is RedirectResult ? Redirect($"/jobs/{Number}/old-and-new") : result;
}
