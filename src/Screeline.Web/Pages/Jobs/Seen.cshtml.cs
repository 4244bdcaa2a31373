using Microsoft.AspNetCore.Mvc;
using Screeline.Core.Jobs;
using Screeline.Core.People;
using Screeline.Data;
using Screeline.Web.Infrastructure;
using Screeline.Web.SignIn;

namespace Screeline.Web.Pages.Jobs;

/// <summary>What is seen beside the job: one press away from everywhere, kept in a line.</summary>
[Allow(Role.Viewer, Role.Apprentice)]
public sealed class SeenModel(JobStore jobs, PeopleStore people, CurrentPerson current, DocumentStore documents, VehicleRecordStore records) : JobPage(jobs, people, current)
{
    /// <inheritdoc/>
    protected override bool ShowsGrowth => false;

    public override Stage Stage => Job?.Current ?? Stage.Complaint;

    /// <summary>The step at which it is seen, or null.</summary>
    [BindProperty(SupportsGet = true, Name = "step")]
    public string? At { get; set; }

    /// <summary>What earlier jobs saw and nobody settled.</summary>
    public IReadOnlyList<OpenSeen> Earlier { get; private set; } = [];

    protected override async Task PrepareAsync()
    {
        ViewData["Title"] = $"Seen beside, job {Number}";
        Earlier = await records.OpenSeenAsync(Job.Opened.Payload.Vehicle, Job.Id, HttpContext.RequestAborted);
    }

    public void OnGet()
    {
    }

    public async Task<IActionResult> OnPostAsync(IFormFile? picture)
    {
        var what = Request.Form["what"].ToString().Trim();
        if (what.Length == 0)
        {
            return RefuseField("what", "What is it? A few words: oil at the sump seam.");
        }

        if (!Enum.TryParse<SeenUrgency>(Request.Form["urgency"], out var urgency) || !Enum.IsDefined(urgency))
        {
            return RefuseField("urgency", "How soon?");
        }

        string? hash = null;
        if (picture is { Length: > 0 })
        {
            var (kept, reason) = await Photographs.KeepAsync(picture, documents, HttpContext.RequestAborted);
            if (kept is null)
            {
                return RefuseField("picture", reason!);
            }

            hash = kept.Value.Sha256;
        }

        var step = Job.Map is { } map && At is { Length: > 0 } at && (map.Operation(at) is not null || map.Step(at) is not null) ? at : null;
        var result = await KeepAsync([new SeenBeside(what, urgency, step, hash)], null, p => p.Split('.')[^1]);
        return result is RedirectResult ? Redirect(Work) : result;
    }

    /// <summary>What became of something seen here or in an earlier job.</summary>
    public async Task<IActionResult> OnPostSettleAsync(Guid seen)
    {
        return !Enum.TryParse<SeenEnd>(Request.Form["end"], out var end) || !Enum.IsDefined(end)
            ? Refuse("What became of it?", StatusCodes.Status422UnprocessableEntity)
            : Stay(await KeepAsync([new SeenSettled(seen, end, Given("note"))], null, _ => ""));
    }

    /// <summary>Where the work is: the step it was seen at, else the stage.</summary>
    public string Work => At is { Length: > 0 } at && Stages.AtVehicle.Contains(Stage) ? $"/jobs/{Number}/{Stage.Slug()}?step={Uri.EscapeDataString(at)}" : $"/jobs/{Number}";

    // What became of one thing leaves the hand here: there may be more.
    private IActionResult Stay(IActionResult result) => result is RedirectResult ? Redirect($"/jobs/{Number}/seen{(At is { Length: > 0 } step ? $"?step={Uri.EscapeDataString(step)}" : "")}") : result;
}
