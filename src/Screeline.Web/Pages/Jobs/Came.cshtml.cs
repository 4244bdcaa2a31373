using System.Globalization;
using Microsoft.AspNetCore.Mvc;
using Screeline.Core.Access;
using Screeline.Core.Jobs;
using Screeline.Core.People;
using Screeline.Data;
using Screeline.Web.Drawing;
using Screeline.Web.Infrastructure;
using Screeline.Web.SignIn;

namespace Screeline.Web.Pages.Jobs;

/// <summary>How the vehicle came: plate, meter, damage, pictures; and what was off, missing or altered before anybody here touched it.</summary>
[Allow(Role.Viewer, Role.Apprentice)]
public sealed class CameModel(JobStore jobs, PeopleStore people, CurrentPerson current, MapShelf shelf, DocumentStore documents, VehicleRecordStore records) : JobPage(jobs, people, current)
{
    /// <inheritdoc/>
    protected override bool ShowsGrowth => false;

    public override Stage Stage => Job?.Current ?? Stage.Complaint;

    /// <summary>What pictures are of: how it came, or what is seen in Find.</summary>
    [BindProperty(SupportsGet = true, Name = "about")]
    public string About { get; set; } = PictureTaken.Intake;

    /// <summary>The map of this model and family, or null.</summary>
    public AccessMap? Map { get; private set; }

    /// <summary>What was written down for an earlier job.</summary>
    public (IntakeNoted Intake, DateTimeOffset At)? Last { get; private set; }

    /// <summary>Whether the state at the start can still be told.</summary>
    public bool Begun => Job.Route is not null || Job.Removed.Values.Any(r => r.Entry.Payload is StepDone);

    /// <summary>What can be off, in the order in which it comes off.</summary>
    public IReadOnlyList<Operation> CanBeOff => Map is null ? [] : [.. WalkRules.InOrder(Map).Where(o => o.Kind == OperationKind.Open)];

    protected override async Task PrepareAsync()
    {
        About = About == PictureTaken.Find ? About : PictureTaken.Intake;
        ViewData["Title"] = $"As it came, job {Number}";
        var opened = Job.Opened.Payload;
        Map = (await shelf.ForAsync(opened.Family, opened.Model, HttpContext.RequestAborted))?.Usual;
        Last = await records.LastIntakeAsync(opened.Vehicle, Job.Id, HttpContext.RequestAborted);
    }

    public void OnGet()
    {
    }

    /// <summary>Keeps what was written down when it came in.</summary>
    public async Task<IActionResult> OnPostIntakeAsync()
    {
        MeterReading? meter = null;
        if (Given("meter") is { } typed)
        {
            if (!decimal.TryParse(typed.Replace(" ", "", StringComparison.Ordinal).Replace(',', '.'), NumberStyles.AllowDecimalPoint, CultureInfo.InvariantCulture, out var number) || number > 10_000_000)
            {
                return RefuseField("meter", $"“{typed}” is not a meter's number, for example 123400.");
            }

            var unit = Enum.TryParse<MeterUnit>(Request.Form["unit"], out var named) && Enum.IsDefined(named) ? named : MeterUnit.Kilometres;
            meter = new MeterReading(number, unit);
            if (Last?.Intake.Meter is { } before && before.Unit == unit && number < before.Number && Request.Form["sure"] != "yes")
            {
                return RefuseField("meter", $"It fell: {before} on {Format.Day(Last.Value.At)}. Look again, or tick that it is so.");
            }
        }

        return Stay(await KeepAsync([new IntakeNoted(Lines("damage"), Given("plate"), meter, Given("contact"))], null, Field));
    }

    /// <summary>Keeps what was off, missing or altered.</summary>
    public async Task<IActionResult> OnPostStateAsync()
    {
        // In the order in which it comes off: how it came to be off nobody knows.
        var ticked = Request.Form["off"].OfType<string>().ToHashSet(StringComparer.Ordinal);
        var off = CanBeOff.Where(o => ticked.Contains(o.Id)).ToList();
        string? hash = off.Count == 0 || Map is null ? null : await documents.KeepAsync(AccessMapWriter.Write(Map), "application/json", HttpContext.RequestAborted);
        return Stay(await KeepAsync([new ArrivalNoted(hash, [.. off.Select(o => o.Id)], Lines("loose"), Lines("missing"), Lines("altered"), Given("unsafe"))], null, Field));
    }

    /// <summary>Keeps a picture of how it came.</summary>
    public async Task<IActionResult> OnPostPictureAsync(IFormFile? picture)
    {
        if (picture is null || picture.Length == 0)
        {
            return RefuseField("picture", "No picture was chosen.");
        }

        var (taken, reason) = await Photographs.KeepAsync(picture, documents, HttpContext.RequestAborted);
        if (taken is not { } kept)
        {
            return RefuseField("picture", reason!);
        }

        var result = await KeepAsync([new PictureTaken(null, kept.Sha256, kept.Picture.Width, kept.Picture.Height, Given("caption"), null, About)], null, _ => "picture");
        return Stay(result);
    }

    private IActionResult Stay(IActionResult result) => result is RedirectResult ? Redirect($"/jobs/{Number}/came{(About == PictureTaken.Find ? "?about=find" : "")}") : result;

    private static string Field(string path) => path["$.payload.".Length..].Split('[', '.')[0];

    private string[] Lines(string field) => [.. Request.Form[field].ToString().Split('\n').Select(l => l.Trim()).Where(l => l.Length > 0)];
}
