using System.Globalization;
using Microsoft.AspNetCore.Mvc;
using Screeline.Core.Access;
using Screeline.Core.Fastening;
using Screeline.Core.Jobs;
using Screeline.Web.Infrastructure;

namespace Screeline.Web.Pages;

// What can be said at a step besides its tick.
public abstract partial class StepPage
{
    private string Field(string name) => Request.Form[name].ToString().Trim();

    // What is said of a step leaves the hand at that step.
    private async Task<IActionResult> KeepHereAsync(IReadOnlyList<Payload> payloads, string field)
    {
        var result = await KeepAsync(payloads, Stage, _ => field);
        return result is RedirectResult kept && Asked is { } step && step != Due ? Redirect($"{kept.Url}?step={Uri.EscapeDataString(step)}") : result;
    }

    /// <summary>Records that a fastener is not as expected.</summary>
    public async Task<IActionResult> OnPostFoundAsync()
    {
        var step = Asked = Field("step");
        // A size picked from its row is an answer of its own.
        var picked = Given("pick");
        if (!Enum.TryParse<FastenerState>(picked is null ? Field("found") : nameof(FastenerState.OtherSize), out var found) || !Enum.IsDefined(found))
        {
            return Refuse("Choose what was found.", StatusCodes.Status422UnprocessableEntity);
        }

        var fastener = Field("fastener");
        var size = picked ?? Field("size");
        if (found == FastenerState.OtherSize && Core.Fastening.Drive.Read(size) is { Reason: { } reason })
        {
            return RefuseField($"size-{fastener}", size.Length == 0 ? "Which size fits? For example hex-15." : reason);
        }

        if (!int.TryParse(Given("count") ?? "1", NumberStyles.None, CultureInfo.InvariantCulture, out var count))
        {
            return RefuseField($"size-{fastener}", "How many? A whole number.");
        }

        return await KeepHereAsync([new FastenerFound(step, fastener, found, count, found == FastenerState.OtherSize ? size : null, null)], $"size-{fastener}");
    }

    /// <summary>Records a fastener the map does not know, and adds it to the map's next version.</summary>
    public async Task<IActionResult> OnPostExtraAsync()
    {
        var step = Asked = Field("step");
        var like = Job.FastenersOf(step).FirstOrDefault(f => f.Id == Field("like"));
        var drive = Given("drive") ?? like?.Drive;
        if (drive is not null && Core.Fastening.Drive.Read(drive).Reason is { } reason)
        {
            return RefuseField("extra", reason);
        }

        if (!int.TryParse(Given("count") ?? "1", NumberStyles.None, CultureInfo.InvariantCulture, out var count))
        {
            return RefuseField("extra", "How many? A whole number.");
        }

        var place = Given("place");
        var extra = new ExtraFound(
            step, $"found-{Entry.ToString()[..8]}", like?.Holds ?? (Map.Operation(step)?.Title ?? step), Given("kind") ?? like?.Kind ?? "screw", drive,
            like?.Thread, null, count, place ?? "Hidden; not in the map before");
        var result = await KeepHereAsync([extra], "extra");
        if (WasKept)
        {
            await shop.AddToMapAsync(Map.Id, extra, Person.Id, HttpContext.RequestAborted);
        }

        return result;
    }

    /// <summary>Records that a part clings although it is free.</summary>
    public Task<IActionResult> OnPostTroubleAsync()
    {
        Asked = Field("step");
        return KeepHereAsync([new StepException(Asked, StepTrouble.Clings, null)], "");
    }

    /// <summary>What is seen is something else than what was decided: back to Find, with everything kept and the order cancelled.</summary>
    public async Task<IActionResult> OnPostOtherwiseAsync()
    {
        var why = Field("why").Trim();
        return why.Length < 3 ? RefuseField("otherwise", "What is seen? A few words: a nest, not the motor.")
            : await KeepAsync([new SentBack(null, null, why), .. Cancelled(why)], null, _ => "otherwise");
    }

    /// <summary>Records that something was plugged back for a moment, or taken off again.</summary>
    public async Task<IActionResult> OnPostPlugAsync()
    {
        Asked = Given("step");
        return Given("what") is { } what ? await KeepHereAsync([new TemporaryConnection(what, Asked, Field("on") == "yes")], "plug")
            : RefuseField("plug", "What is plugged back? For example: window switch.");
    }

    /// <summary>Counts a group on, or says that all of it is there.</summary>
    public async Task<IActionResult> OnPostCountAsync()
    {
        var step = Asked = Field("step");
        var group = Job.FastenersOf(step).FirstOrDefault(f => f.Id == Field("fastener"));
        if (group is null)
        {
            return Refuse("That group is not in this step.", StatusCodes.Status422UnprocessableEntity);
        }

        var so = Job.Counted(Phase, step, group.Id) ?? 0;
        var count = Field("to") switch { "all" => group.Count, "less" => Math.Max(0, so - 1), "start" => 0, _ => Math.Min(group.Count, so + 1) };
        return await KeepHereAsync([new FastenersCounted(Phase, step, group.Id, count)], "");
    }

    /// <summary>Begins a wait.</summary>
    public async Task<IActionResult> OnPostTimerAsync()
    {
        var step = Asked = Field("step");
        if (!Enum.TryParse<TimerKind>(Field("kind"), out var kind) || !Enum.IsDefined(kind) || !decimal.TryParse(Field("minutes"), NumberStyles.AllowDecimalPoint, CultureInfo.InvariantCulture, out var minutes))
        {
            return Refuse("How long, in minutes?", StatusCodes.Status422UnprocessableEntity);
        }

        // The hand goes on to what can be done meanwhile.
        Asked = null;
        return await KeepHereAsync([new TimerStarted(step, kind, minutes, Given("what") ?? Title(step))], "");
    }

    /// <summary>Takes back what was said of a step by a slip of the finger.</summary>
    public Task<IActionResult> OnPostTakeBackAsync(Guid target)
    {
        Asked = Field("step");
        return KeepHereAsync([new EntryWithdrawn(target)], "");
    }

    /// <summary>Keeps words with a step.</summary>
    public async Task<IActionResult> OnPostNoteAsync()
    {
        Asked = Field("step");
        return Given("text") is { } text ? await KeepHereAsync([new NoteAdded(Asked, text)], "note") : RefuseField("note", "Nothing was typed.");
    }

    /// <summary>Records a tool that stays in the vehicle.</summary>
    public async Task<IActionResult> OnPostToolLeftAsync()
    {
        Asked = Field("step");
        return Given("tool") is { } tool ? await KeepHereAsync([new ToolLeft(tool, Given("where"), Asked)], "tool-left")
            : RefuseField("tool-left", "Which tool? For example: locking pin.");
    }

    /// <summary>Keeps a picture with a step.</summary>
    public async Task<IActionResult> OnPostPictureAsync(IFormFile? picture)
    {
        var step = Asked = Field("step");
        if (picture is null || picture.Length == 0)
        {
            return RefuseField("picture", "No picture was chosen.");
        }

        var (taken, reason) = await Photographs.KeepAsync(picture, shop.Documents, HttpContext.RequestAborted);
        if (taken is not { } kept)
        {
            return RefuseField("picture", reason!);
        }

        return await KeepHereAsync([new PictureTaken(step, kept.Sha256, kept.Picture.Width, kept.Picture.Height, Given("caption"), Guid.TryParse(Field("over"), out var over) ? over : null)], "picture");
    }

    /// <summary>
    /// Ticks everything from the step that is due up to the one named, that somebody did in one go; each tick says so, and nothing is said of torques. What a
    /// step asks for first (a wait, a gate's checks, a count, a second person) is asked for as ever.
    /// </summary>
    public async Task<IActionResult> OnPostToHereAsync()
    {
        var last = Field("to");
        var steps = Order.Where(id => !Done.ContainsKey(id)).ToList();
        if (Job.Map is null || !steps.Contains(last))
        {
            return Refuse("That step is done already, or is not of this way.", StatusCodes.Status409Conflict);
        }

        var payloads = new List<Payload>();
        foreach (var (step, tick, why) in TellTogether(steps.Take(steps.IndexOf(last) + 1)))
        {
            if (why is not null)
            {
                return Refuse($"{Title(step)}: {why} Nothing was ticked; go there step by step.", StatusCodes.Status409Conflict);
            }

            payloads.Add(tick);
        }

        return await KeepAsync(payloads);
    }

    /// <summary>Steps that come after the one that is due and can be told in one go with it: up to what asks for something first.</summary>
    public IReadOnlySet<string> UpTo(IReadOnlyList<string> coming) =>
        LooksAway || Due is not { } due ? new HashSet<string>() : TellTogether([due, .. coming]).TakeWhile(t => t.Why is null).Select(t => t.Step).Skip(1).ToHashSet(StringComparer.Ordinal);

    // Each step with its tick as if those before it were ticked, and why it cannot be.
    private IEnumerable<(string Step, StepDone Tick, string? Why)> TellTogether(IEnumerable<string> steps)
    {
        var job = Job;
        foreach (var step in steps)
        {
            var minutes = Map.Step(step)?.WaitMinutes ?? (Phase == WorkPhase.Apart ? Map.Operation(step)?.WaitMinutes : null) ?? 0;
            var fasteners = job.FastenersOf(step);
            int? cell = Phase == WorkPhase.Apart && Map.Operation(step) is { Kind: OperationKind.Open } && fasteners.Count > 0 ? job.Count.FreeCell : null;
            var tick = new StepDone(Phase, step, cell, Phase == WorkPhase.Apart ? [] : [.. fasteners.Select(f => FastenerCount.Expected(job, step, f))], Together: true);
            var counting = fasteners.Any(f => job.Counted(Phase, step, f.Id) is { } n && n < f.Count);
            var why = minutes > 0 && job.Timers.All(t => t.Payload.Step != step) ? $"It waits {Core.Quantities.DurationFormat.Minutes(minutes)} first."
                : counting ? "Not all is counted yet."
                : JobRules.OutOfOrder(job, tick, Now);
            yield return (step, tick, why);
            if (why is not null)
            {
                yield break;
            }

            job = job.With([new EntryDraft(Guid.NewGuid(), Job.Id, 0, Person.Id, Now, tick)]);
        }
    }

    /// <summary>Undoes a tick together with the torques that were told with it.</summary>
    public async Task<IActionResult> OnPostUndoAsync(Guid target)
    {
        var tick = Done.Values.FirstOrDefault(k => k.Entry.Id == target);
        if (tick is null)
        {
            return Refuse("That tick is no longer there.", StatusCodes.Status409Conflict);
        }

        var torques = Phase == WorkPhase.Apart ? [] : Job.Torques.Where(t => t.Payload.Step == tick.Payload.Step).Select(t => t.Entry.Id);
        return await KeepAsync([new EntryWithdrawn(target), .. torques.Select(id => new EntryWithdrawn(id))], Stage);
    }
}
