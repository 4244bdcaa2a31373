using Screeline.Core.Jobs;
using Screeline.Data;
using Screeline.Web.Infrastructure;

namespace Screeline.Web.Pages.Jobs;

/// <summary>Every entry of a job, oldest first, with what was withdrawn or corrected.</summary>
public sealed class HistoryModel(JobStore jobs, PeopleStore people, Desk desk) : JobPage(jobs, people, desk)
{
    public override Stage Stage => Job?.Current ?? Stage.Complaint;

    public void OnGet() => ViewData["Title"] = $"History, job {Number}";
}
