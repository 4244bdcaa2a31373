using Microsoft.AspNetCore.Mvc;
using Screeline.Core.Diagnosis;
using Screeline.Core.Jobs;
using Screeline.Core.People;
using Screeline.Data;
using Screeline.Web.Infrastructure;
using Screeline.Web.SignIn;

namespace Screeline.Web.Pages.Jobs;

/// <summary>The complaint turned into observed behaviour.</summary>
[Allow(Role.Viewer, Role.Apprentice)]
public sealed class ComplaintModel(JobStore jobs, PeopleStore people, CurrentPerson current, VehicleRecordStore records) : JobPage(jobs, people, current)
{
    /// <summary>What earlier jobs saw on this vehicle and nobody settled.</summary>
    public IReadOnlyList<OpenSeen> Earlier { get; private set; } = [];

    protected override async Task PrepareAsync() => Earlier = await records.OpenSeenAsync(Job.Opened.Payload.Vehicle, Job.Id, HttpContext.RequestAborted);

    public override Stage Stage => Stage.Complaint;

    /// <summary>Ids of behaviours that the form shows ticked.</summary>
    public IReadOnlyCollection<string> Ticked => Refusal is null && FieldFaults.Count == 0 ? Job.Complaint?.Payload.Behaviours ?? [] : [.. Request.Form["behaviours"].OfType<string>()];

    /// <summary>Whether the vehicle may be driven meanwhile, by what is noted.</summary>
    public DriveRule Drive => DriveMeanwhile.Of(Job.System, [.. Ticked]);

    public void OnGet()
    {
    }

    public async Task<IActionResult> OnPostAsync()
    {
        var behaviours = Request.Form["behaviours"].OfType<string>().Distinct().ToList();
        if (behaviours.Count == 0)
        {
            FieldFaults["behaviours"] = "Tick what was seen or heard; at least one.";
        }

        var tried = Count("tried");
        var failed = Count("failed");
        if (tried is { } t && failed is { } f && f > t)
        {
            FieldFaults["failed"] = $"It cannot fail {f} times in {t}.";
        }

        var words = Request.Form["words"].ToString().Trim();
        if (words.Length == 0)
        {
            FieldFaults["words"] = "What does the customer say?";
        }

        if (FieldFaults.Count > 0)
        {
            return Refuse(null, StatusCodes.Status422UnprocessableEntity);
        }

        var lately = Request.Form["lately"].ToString().Trim();
        return await KeepAsync(
            [new ComplaintNoted(words, behaviours, Request.Form["when"].ToString().Trim(), tried!.Value, failed!.Value, lately.Length > 0 ? lately : null)],
            Stage.Find,
            path => path.Split('.')[^1].Split('[')[0]);
    }

    private int? Count(string field)
    {
        var text = Request.Form[field].ToString().Trim();
        // Nobody counted: nothing is said of attempts.
        if (text.Length == 0)
        {
            return 0;
        }

        if (int.TryParse(text, out var number) && number is >= 0 and <= 1000)
        {
            return number;
        }

        FieldFaults[field] = $"“{text}” is not a number of times.";
        return null;
    }
}
