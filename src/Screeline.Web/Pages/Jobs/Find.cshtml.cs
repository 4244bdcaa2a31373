using Microsoft.AspNetCore.Mvc;
using Screeline.Core.Diagnosis;
using Screeline.Core.Jobs;
using Screeline.Data;
using Screeline.Web.Infrastructure;

namespace Screeline.Web.Pages.Jobs;

/// <summary>Readings, the four-way proof, the next test, and the decision.</summary>
public sealed class FindModel(JobStore jobs, PeopleStore people, Desk desk) : JobPage(jobs, people, desk)
{
    public override Stage Stage => Stage.Find;

    /// <summary>The test asked for by the person; null for the one that comes next.</summary>
    [BindProperty(SupportsGet = true, Name = "test")]
    public string? Asked { get; set; }

    /// <summary>The test that the field stands for.</summary>
    public FaultTest Test => Job.System.Test(Asked ?? "") ?? Job.Finding.Next?.Test ?? Job.System.Tests[0];

    /// <summary>Whether the test was asked for rather than proposed.</summary>
    public bool ByHand => Asked is not null && Asked != Job.Finding.Next?.Test.Id;

    public decimal Volts => Job.Opened.Payload.NominalVolts;

    public void OnGet()
    {
    }

    public async Task<IActionResult> OnPostReadAsync()
    {
        var id = Request.Form["test"].ToString();
        if (Job.System.Test(id) is not { } test)
        {
            return Refuse($"There is no test “{id}”.", StatusCodes.Status422UnprocessableEntity);
        }

        Asked = id;
        var (value, choice, reason) = test.ReadAnswer(Request.Form["value"], Request.Form["choice"], Volts);
        return reason is not null
            ? RefuseField("value", reason)
            : await KeepAsync([new ReadingTaken(id, value, choice)], Stage.Find, _ => "value");
    }

    public async Task<IActionResult> OnPostDecideAsync()
    {
        var act = Request.Form["act"].ToString();
        var repair = Request.Form["repair"].ToString().Trim();
        var why = Request.Form["why"].ToString().Trim();
        if (act == "proven")
        {
            return await KeepAsync([new DecisionMade(DecisionAct.Proven, $"{Job.System.Motor} replaced", Job.Finding.Because)]);
        }

        if (why.Length == 0)
        {
            return RefuseField("why", "Say why in a few words: it stands on the sheet.");
        }

        if (act == "elsewhere" && repair.Length == 0)
        {
            return RefuseField("repair", "What was put right?");
        }

        return await KeepAsync([act == "elsewhere" ? new DecisionMade(DecisionAct.Elsewhere, repair, why) : new DecisionMade(DecisionAct.Guess, $"{Job.System.Motor} replaced", why)], null, p => p.Split('.')[^1]);
    }

    /// <summary>Words for a part of the proof.</summary>
    public static (string Name, string State, string Mark) Line(ProofLine line) =>
    (
        line.Part == ProofPart.Mechanical ? "Free" : line.Part.ToString(),
        line.State switch { ProofState.Shown => "shown", ProofState.Failed => "failed", _ => "open" },
        line.State switch { ProofState.Shown => "done", ProofState.Failed => "danger", _ => "todo" }
    );
}
