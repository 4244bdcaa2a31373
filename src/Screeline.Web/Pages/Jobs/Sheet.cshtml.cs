using Screeline.Core.Jobs;
using Screeline.Core.People;
using Screeline.Data;
using Screeline.Web.Infrastructure;
using Screeline.Web.SignIn;

namespace Screeline.Web.Pages.Jobs;

/// <summary>The printed sheet: complaint, proof, work, torques, times, parts, what was found and left.</summary>
[Allow(Role.Viewer, Role.Apprentice)]
public sealed class SheetModel(JobStore jobs, PeopleStore people, TrailStore trail, CurrentPerson current) : JobPage(jobs, people, current)
{
    /// <inheritdoc/>
    protected override bool ShowsGrowth => false;

    private readonly JobStore _jobs = jobs;

    public override Stage Stage => Stage.HandBack;

    /// <summary>The head of the job's chain, printed so that paper and record can be held against each other.</summary>
    public string HeadHash { get; private set; } = "";

    /// <summary>Ticks in the order they were made.</summary>
    public IReadOnlyList<Recorded<StepDone>> Ticks => [.. Job.Removed.Values.Concat(Job.Refitted.Values).OrderBy(k => k.Entry.Position)];

    protected override async Task PrepareAsync()
    {
        HeadHash = await _jobs.HeadHashAsync(Job.Id, HttpContext.RequestAborted);
        // From here on paper may hold it against the record.
        await trail.RecordAsync(Job.Id, "printed", Person.Id, HttpContext.RequestAborted);
        ViewData["Title"] = $"Sheet, job {Number}";
    }

    public void OnGet()
    {
    }
}
