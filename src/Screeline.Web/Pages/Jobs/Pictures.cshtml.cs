using System.Globalization;
using Microsoft.AspNetCore.Mvc;
using Screeline.Core.Jobs;
using Screeline.Core.People;
using Screeline.Data;
using Screeline.Web.Infrastructure;
using Screeline.Web.SignIn;

namespace Screeline.Web.Pages.Jobs;

/// <summary>A picture of a step: one taps where each screw, clip, plug and wire is.</summary>
[Allow(Role.Viewer, Role.Apprentice)]
public sealed class PicturesModel(JobStore jobs, PeopleStore people, Desk desk) : JobPage(jobs, people, desk)
{
    /// <summary>The entry of the picture.</summary>
    [BindProperty(SupportsGet = true)]
    public Guid Picture { get; set; }

    /// <summary>What the next tap marks; the start of a wire waits for its next point.</summary>
    [BindProperty(SupportsGet = true, Name = "kind")]
    public PinKind Kind { get; set; }

    public override Stage Stage => Job.IsDone(Stage.TakeApart) ? Stage.Refit : Stage.TakeApart;

    /// <summary>The picture with its pins, or null.</summary>
    public PinnedPicture? Shown => Job.Pictures.FirstOrDefault(p => p.Entry.Id == Picture);

    /// <summary>The runner's page of the step.</summary>
    public string StepAddress => $"/jobs/{Number}/{Stage.Slug()}?step={Shown?.Payload.Step}";

    public IActionResult OnGet() => Shown is null ? NotFound() : Page();

    public async Task<IActionResult> OnPostTapAsync()
    {
        if (Shown is not { } shown)
        {
            return NotFound();
        }

        // With scripts the point comes in hundredths; the browser's own picture button tells pixels of the picture as it is shown at its fixed width.
        decimal? Read(string field, decimal scale) => decimal.TryParse(Request.Form[field], NumberStyles.AllowDecimalPoint, CultureInfo.InvariantCulture, out var n) && n >= 0 && n * scale <= 100.5m ? Math.Min(100, Math.Round(n * scale, 2)) : null;
        var high = PinWidth * shown.Payload.Height / shown.Payload.Width;
        if ((Read("x", 1) ?? Read("at.x", 100m / PinWidth)) is not { } x || (Read("y", 1) ?? Read("at.y", 100m / Math.Max(1, high))) is not { } y)
        {
            return Refuse("Tap on the picture.", StatusCodes.Status422UnprocessableEntity);
        }

        var point = new PinPoint(x, y);
        List<Pin> pins = [.. shown.Pins];
        var label = Request.Form["label"].ToString().Trim() is { Length: > 0 } text ? text : null;
        // A wire is drawn by taps one after the other.
        if (Kind == PinKind.Wire && Request.Form["on"] == "yes" && pins is [.., { Kind: PinKind.Wire } wire])
        {
            pins[^1] = wire with { Points = [.. wire.Points, point] };
        }
        else
        {
            pins.Add(new Pin(Kind, [point], label));
        }

        return Here(await KeepAsync([new PinsSet(Picture, pins)], Stage, _ => "pins"), wire: Kind == PinKind.Wire);
    }

    public async Task<IActionResult> OnPostBackAsync()
    {
        if (Shown is not { Pins.Count: > 0 } shown)
        {
            return Refuse("No pin is left.", StatusCodes.Status409Conflict);
        }

        List<Pin> rest = [.. shown.Pins.SkipLast(1)];
        var last = shown.Pins[^1];
        var shorter = last is { Kind: PinKind.Wire, Points.Count: > 1 };
        return Here(await KeepAsync([new PinsSet(Picture, shorter ? [.. rest, last with { Points = [.. last.Points.SkipLast(1)] }] : rest)], Stage, _ => "pins"), wire: shorter);
    }

    /// <summary>Width of the picture button without scripts, CSS pixels.</summary>
    public const int PinWidth = 680;

    private IActionResult Here(IActionResult result, bool wire) => result is RedirectResult ? Redirect($"/jobs/{Number}/pictures/{Picture}?kind={Kind}{(wire ? "&on=yes" : "")}") : result;
}
