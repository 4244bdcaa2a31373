using Microsoft.AspNetCore.Mvc;
using Screeline.Core.Diagnosis;
using Screeline.Core.Jobs;
using Screeline.Core.People;
using Screeline.Data;
using Screeline.Web.Infrastructure;
using Screeline.Web.SignIn;

namespace Screeline.Web.Pages.Jobs;

/// <summary>The last words before the vehicle goes back.</summary>
[Allow(Role.Viewer, Role.Technician)]
public sealed class HandBackModel(JobStore jobs, PeopleStore people, CurrentPerson current, LearnedMaps learned) : JobPage(jobs, people, current)
{
    public override Stage Stage => Stage.HandBack;

    /// <summary>Whether the way in of this job can be kept for the next one.</summary>
    public bool CanKeep { get; private set; }

    protected override async Task PrepareAsync() => CanKeep = Job.HandedBack is not null && (LearnedMaps.Teaches(Job) || await learned.MakesSurerAsync(Job, HttpContext.RequestAborted));

    public void OnGet()
    {
    }

    public async Task<IActionResult> OnPostAsync()
    {
        var found = Request.Form["found"].ToString().Trim();
        if (found.Length == 0)
        {
            return RefuseField("found", "What was found? One line for the customer.");
        }

        var checks = Job.Checks.Where(c => c.Moment == ProofMoment.End).Select(c => c.Id).ToList();
        var result = await KeepAsync([new HandedBack(found, Given("left"), Given("watch"), CauseGiven, checks)], Stage.HandBack, Field);
        // What was worked out at the vehicle is kept for the next one; the sheet stands beside it.
        return result is RedirectResult ? Redirect($"/jobs/{Number}/{(LearnedMaps.Teaches(Job) ? "keep" : "sheet")}") : result;
    }

    /// <summary>Keeps what killed the part, also when the vehicle has gone.</summary>
    public async Task<IActionResult> OnPostCauseAsync() =>
        CauseGiven is { } cause ? await KeepAsync([new CauseTold(cause)], Stage.HandBack, Field) : RefuseField("cause", "Choose one; not known is one too.");

    /// <summary>Keeps that a structural joint without its figure was checked.</summary>
    public async Task<IActionResult> OnPostCheckedAsync(string step, string fastener)
    {
        var field = $"joint-{step}-{fastener}";
        return Given("how") is { } how ? await KeepAsync([new JointChecked(step, fastener, how)], Stage.HandBack, _ => field) : RefuseField(field, "How was it checked? A few words: tightened to the maker's figure, wrench 20 to 120.");
    }

    private CauseSaid? CauseGiven => Given("cause") is { } id ? new CauseSaid(id, Given("done")) : null;

    private static string Field(string path) => path.EndsWith("cause.done", StringComparison.Ordinal) ? "done" : path.Contains("cause", StringComparison.Ordinal) ? "cause" : path.Split('.')[^1];
}
