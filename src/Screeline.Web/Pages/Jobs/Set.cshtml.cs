using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.AspNetCore.Mvc;
using Screeline.Core.Motion;
using Screeline.Core.Jobs;
using Screeline.Core.People;
using Screeline.Data;
using Screeline.Library;
using Screeline.Web.Infrastructure;
using Screeline.Web.Setting;
using Screeline.Web.SignIn;

namespace Screeline.Web.Pages.Jobs;

/// <summary>A setting inside a job: what is kept here opens the gate of its step.</summary>
[Allow(Role.Viewer, Role.Apprentice)]
public sealed class SetModel(JobStore jobs, PeopleStore people, CurrentPerson current, ShippedLibrary library, SettingStore settings) : JobPage(jobs, people, current)
{
    /// <inheritdoc/>
    protected override WithoutNetwork WithoutNetwork => WithoutNetwork.Beside;

    /// <inheritdoc/>
    protected override bool ShowsGrowth => false;

    public override Stage Stage => Stage.Refit;

    [BindProperty(SupportsGet = true)]
    public string Kind { get; set; } = "";

    /// <summary>The step it belongs to; null when nobody asked from one.</summary>
    [BindProperty(SupportsGet = true, Name = "step")]
    public string? Step { get; set; }

    public SettingView View { get; private set; } = null!;

    /// <summary>What was kept here before, or null.</summary>
    public Recorded<SettingKept>? Before { get; private set; }

    private IReadOnlyList<IReadOnlyDictionary<string, string>> _held = [];

    protected override async Task PrepareAsync()
    {
        // A step that does not exist is none.
        Step = Step is { } step && Job.Map?.Step(step) is not null ? step : Job.Map?.RefitSteps.FirstOrDefault(s => s.Setting == Kind)?.Id;
        Before = Job.SettingAt(Step, Kind);
        _held = await settings.HeldAsync(Job.Opened.Payload.Vehicle, Kind, Job.Id, HttpContext.RequestAborted);
    }

    public IActionResult OnGet()
    {
        var asked = Bench.SetModel.Query(Request);
        // Opened without figures it shows what was kept.
        return Show(asked.Keys.All(k => k is "step" or "back" or "kind" or "number") && Before is { } before ? before.Payload.Asked : asked);
    }

    public async Task<IActionResult> OnPostKeepAsync(string? asked)
    {
        var fields = WindowImport.Parse(asked);
        if (Show(fields) is not PageResult)
        {
            return Gone("Nothing of this kind is set on this vehicle.");
        }

        var work = View.Work;
        if (work.Faults.Count > 0)
        {
            return Refuse("Look at the fields: something cannot be.", StatusCodes.Status422UnprocessableEntity);
        }

        if (work.Words is null)
        {
            return Refuse("Nothing is measured yet.", StatusCodes.Status422UnprocessableEntity);
        }

        if (Kind == "wiper" && work.Asked("school").Length == 0)
        {
            return RefuseField("school", "How was park found? Say it and why: whoever sets it next wants to know.");
        }

        string[] own = ["step", "back", "kind", "number"];
        return await KeepAsync([new SettingKept(Step, Kind, work.Words, work.Holds == true, fields.Where(f => f.Value.Length > 0 && !own.Contains(f.Key)).ToDictionary(f => f.Key, f => f.Value))], Stage.Refit);
    }

    public async Task<IActionResult> OnPostImportAsync(IFormFile? file, string? asked, string? into)
    {
        var (query, fault) = await WindowImport.ReadAsync(file, asked, into);
        if (fault is null)
        {
            return Redirect($"/jobs/{Number}/set/window{query}");
        }

        Show(WindowImport.Parse(asked));
        View.Work.Faults["file"] = fault;
        return Refuse(null, StatusCodes.Status422UnprocessableEntity);
    }

    private IActionResult Show(IReadOnlyDictionary<string, string> asked)
    {
        if (SettingWork.Create(Kind, asked, library, Job.Opened.Payload.Model, _held) is not { } work || !SettingKinds.OnVehicle.Contains(Kind))
        {
            return NotFound();
        }

        ViewData["Title"] = $"{SettingKinds.Title(Kind)}, {Job.Opened.Payload.VehicleName}";
        View = new SettingView(work, null, this, Step);
        return base.Page();
    }
}
