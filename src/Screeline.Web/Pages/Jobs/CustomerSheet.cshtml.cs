using Screeline.Core.Diagnosis;
using Screeline.Core.Jobs;
using Screeline.Core.People;
using Screeline.Data;
using Screeline.Web.Infrastructure;
using Screeline.Web.SignIn;

namespace Screeline.Web.Pages.Jobs;

/// <summary>The printed sheet for the customer: what it was, what was done, what killed it, what to watch.</summary>
[Allow(Role.Viewer, Role.Apprentice)]
public sealed class CustomerSheetModel(JobStore jobs, PeopleStore people, CurrentPerson current) : JobPage(jobs, people, current)
{
    /// <inheritdoc/>
    protected override bool ShowsGrowth => false;

    public override Stage Stage => Stage.HandBack;

    /// <summary>Whether it may be driven meanwhile.</summary>
    public DriveRule Drive => DriveMeanwhile.Of(Job.System, Job.Complaint?.Payload.Behaviours ?? []);

    protected override Task PrepareAsync()
    {
        ViewData["Title"] = $"Sheet for the customer, job {Number}";
        return Task.CompletedTask;
    }

    public void OnGet()
    {
    }
}
