using Microsoft.AspNetCore.Mvc;
using Screeline.Core.Access;
using Screeline.Core.Fastening;
using Screeline.Core.Jobs;
using Screeline.Data;
using Screeline.Library;
using Screeline.Web.Drawing;
using Screeline.Web.Infrastructure;

namespace Screeline.Web.Pages;

/// <summary>The step runner, on the way in and on the way back: one step at a time, large.</summary>
public abstract class StepPage(JobStore jobs, PeopleStore people, Desk desk, ShippedLibrary library) : JobPage(jobs, people, desk)
{
    /// <summary>A step that the person looks at instead of the one that is due.</summary>
    [BindProperty(SupportsGet = true, Name = "step")]
    public string? Asked { get; set; }

    public ShippedLibrary Library => library;

    /// <summary>The direction of the work.</summary>
    public abstract WorkPhase Phase { get; }

    /// <summary>All steps of this direction in order; empty when there is no way in.</summary>
    public abstract IReadOnlyList<string> Order { get; }

    /// <summary>Steps of this direction that are done.</summary>
    public IReadOnlyDictionary<string, Kept<StepDone>> Done => Phase == WorkPhase.Apart ? Job.Removed : Job.Refitted;

    /// <summary>The step that is due; null when all are done.</summary>
    public abstract string? Due { get; }

    /// <summary>The step shown.</summary>
    public string? Shown => Asked is not null && Order.Contains(Asked) ? Asked : Due ?? Order.LastOrDefault();

    /// <summary>Whether the step shown is not the one that is due.</summary>
    public bool LooksAway => Due is not null && Shown != Due;

    public AccessMap Map => Job.Map!;

    /// <summary>The operation shown, or null when it is a refit step.</summary>
    public Operation? Operation => Shown is null ? null : Map.Operation(Shown);

    /// <summary>The refit step shown, or null when it is an operation.</summary>
    public RefitStep? RefitStep => Shown is null ? null : Map.Step(Shown);

    public string Title(string id) => Phase == WorkPhase.Apart ? Map[id].Title : Refit.Title(Map, id);

    public string Position(string id) => Map.Step(id)?.Position ?? Map[id].Position;

    public IReadOnlyList<string> Tools(string id) => Map.Step(id)?.Tools ?? Map[id].Tools;

    /// <summary>Short words for the result of a step.</summary>
    public string DoneWords(string id) => Words.Step(Map, new StepDone(Phase, id, null, []));

    /// <summary>The last tick of this direction that stands, or null.</summary>
    public Kept<StepDone>? LastTick => Done.Values.OrderByDescending(k => k.Entry.Position).FirstOrDefault();

    /// <summary>How many steps at the same position follow without a break.</summary>
    public int MoreHere => Shown is null ? 0 : Order.SkipWhile(id => id != Shown).Skip(1).TakeWhile(id => Position(id) == Position(Shown)).Count(id => !Done.ContainsKey(id));

    /// <summary>What was found otherwise than expected of a step's fasteners.</summary>
    public IEnumerable<Kept<FastenerFound>> FoundOf(string step) => Job.Found.Where(f => f.Payload.Step == step);

    /// <summary>The drive that fits a group: the one found, else the one expected.</summary>
    public string? Drive(string step, Fastener fastener) =>
        FoundOf(step).LastOrDefault(f => f.Payload.Fastener == fastener.Id && f.Payload.Found == FastenerState.OtherSize)?.Payload.Size ?? fastener.Drive;

    /// <summary>Records that a fastener is not as expected.</summary>
    public async Task<IActionResult> OnPostFoundAsync()
    {
        var step = Request.Form["step"].ToString();
        Asked = step;
        if (!Enum.TryParse<FastenerState>(Request.Form["found"], out var found) || !Enum.IsDefined(found))
        {
            return Refuse("Choose what was found.", StatusCodes.Status422UnprocessableEntity);
        }

        var fastener = Request.Form["fastener"].ToString();
        var size = Request.Form["size"].ToString().Trim();
        if (found == FastenerState.OtherSize && size.Length == 0)
        {
            return RefuseField($"size-{fastener}", "Which size fits? For example hex-15.");
        }

        if (!int.TryParse(Request.Form["count"].ToString() is { Length: > 0 } text ? text : "1", out var count))
        {
            return RefuseField($"size-{fastener}", "How many? A whole number.");
        }

        return await KeepAsync([new FastenerFound(step, fastener, found, count, found == FastenerState.OtherSize ? size : null, null)], Stage, _ => $"size-{fastener}");
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
