using Screeline.Core.Access;
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
public sealed class PicturesModel(JobStore jobs, PeopleStore people, CurrentPerson current) : JobPage(jobs, people, current)
{
    /// <inheritdoc/>
    protected override WithoutNetwork WithoutNetwork => WithoutNetwork.Beside;

    /// <inheritdoc/>
    protected override bool ShowsGrowth => false;

    /// <summary>The entry of the picture.</summary>
    [BindProperty(SupportsGet = true)]
    public Guid Picture { get; set; }

    /// <summary>What the next tap marks: a kind of pin in lower case, or <see cref="WireOn"/>.</summary>
    [BindProperty(SupportsGet = true)]
    public string Mark { get; set; } = "screw";

    /// <summary>The next point of the wire that was begun last.</summary>
    public const string WireOn = "wire-on";

    public override Stage Stage => Shown?.Payload.About switch
    {
        PictureTaken.Intake => Stage.Complaint,
        PictureTaken.Find => Stage.Find,
        _ => Job.IsDone(Stage.TakeApart) ? Stage.Refit : Stage.TakeApart,
    };

    /// <summary>
    /// The picture with its pins, or null. The id of none is the empty page that a device makes the page of a picture from, which waits
    /// there without a network.
    /// </summary>
    public PinnedPicture? Shown => Picture == Guid.Empty ? new PinnedPicture(Job.History[0].Entry, new PictureTaken(null, "", 3, 2, null, null), []) : Job.Pictures.FirstOrDefault(p => p.Entry.Id == Picture);

    /// <summary>Where it was taken: the runner's page of the step, how the vehicle came, Find.</summary>
    public string StepAddress => Shown?.Payload.About switch
    {
        PictureTaken.Intake => $"/jobs/{Number}/came",
        PictureTaken.Find => $"/jobs/{Number}/find",
        _ => $"/jobs/{Number}/{Stage.Slug()}?step={Shown?.Payload.Step}",
    };

    /// <summary>It shows something else: it is withdrawn, and the history keeps that it was taken.</summary>
    public async Task<IActionResult> OnPostNotThisAsync()
    {
        if (Shown is null || Picture == Guid.Empty)
        {
            return Gone("That picture is not there any more.");
        }

        var back = StepAddress;
        var result = await KeepAsync([new EntryWithdrawn(Picture)], Stage);
        return result is RedirectResult ? Redirect(back) : result;
    }

    public IActionResult OnGet() => Shown is null ? NotFound() : Page();

    public async Task<IActionResult> OnPostTapAsync()
    {
        if (Shown is not { } shown || Picture == Guid.Empty)
        {
            return Gone("That picture is not there any more.");
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
        if (Mark == WireOn && pins is [.., { Kind: PinKind.Wire } wire])
        {
            pins[^1] = wire with { Points = [.. wire.Points, point] };
        }
        else
        {
            pins.Add(new Pin(Mark == WireOn ? PinKind.Wire : Enum.TryParse<PinKind>(Mark, ignoreCase: true, out var kind) && Enum.IsDefined(kind) ? kind : PinKind.Screw, [point], label));
        }

        return Here(await KeepAsync([new PinsSet(Picture, pins)], Stage, _ => "pins"));
    }

    public async Task<IActionResult> OnPostBackAsync()
    {
        if (Shown is not { } shown)
        {
            return Gone("That picture is not there any more.");
        }

        if (shown.Pins.Count == 0)
        {
            return Refuse("No pin is left.", StatusCodes.Status409Conflict);
        }

        List<Pin> rest = [.. shown.Pins.SkipLast(1)];
        var last = shown.Pins[^1];
        var shorter = last is { Kind: PinKind.Wire, Points.Count: > 1 };
        return Here(await KeepAsync([new PinsSet(Picture, shorter ? [.. rest, last with { Points = [.. last.Points.SkipLast(1)] }] : rest)], Stage, _ => "pins"));
    }

    /// <summary>Width of the picture button without scripts, CSS pixels.</summary>
    public const int PinWidth = 680;

    // A wire that was begun is gone on with.
    private IActionResult Here(IActionResult result) => result is RedirectResult ? Redirect($"/jobs/{Number}/pictures/{Picture}?mark={Uri.EscapeDataString(Mark == "wire" ? WireOn : Mark)}") : result;
}
