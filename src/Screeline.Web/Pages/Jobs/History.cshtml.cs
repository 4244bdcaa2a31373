using Microsoft.AspNetCore.Mvc;
using Screeline.Core.Jobs;
using Screeline.Core.People;
using Screeline.Data;
using Screeline.Web.Infrastructure;
using Screeline.Web.SignIn;

namespace Screeline.Web.Pages.Jobs;

/// <summary>Every entry of a job, oldest first, with what was withdrawn or corrected; and whether the shop learns from it.</summary>
[Allow(Role.Viewer, Role.Technician)]
public sealed class HistoryModel(JobStore jobs, PeopleStore people, CurrentPerson current, ExperienceStore experience) : JobPage(jobs, people, current)
{
    public override Stage Stage => Job?.Current ?? Stage.Complaint;

    /// <summary>Why it does not count, or null when it does.</summary>
    public LeftOutJob? LeftOut { get; private set; }

    public void OnGet()
    {
    }

    protected override async Task PrepareAsync()
    {
        ViewData["Title"] = $"History, job {Number}";
        LeftOut = await experience.LeftOutAsync(Job.Id, HttpContext.RequestAborted);
    }

    /// <summary>Leaves an odd job out of what is learned.</summary>
    public async Task<IActionResult> OnPostLeaveOutAsync()
    {
        var why = Request.Form["why"].ToString().Trim();
        if (why.Length is < 3 or > 500)
        {
            return RefuseField("why", "Why is it odd? A few words that hold later.");
        }

        await experience.LeaveOutAsync(Job.Id, Person.Id, why, HttpContext.RequestAborted);
        return Redirect($"/jobs/{Number}/history");
    }

    /// <summary>Lets it count again.</summary>
    public async Task<IActionResult> OnPostCountAgainAsync()
    {
        await experience.CountAgainAsync(Job.Id, Person.Id, HttpContext.RequestAborted);
        return Redirect($"/jobs/{Number}/history");
    }
}
