using Microsoft.AspNetCore.Mvc;
using Screeline.Core.Jobs;
using Screeline.Core.People;
using Screeline.Data;
using Screeline.Library;
using Screeline.Web.Infrastructure;
using Screeline.Web.SignIn;

namespace Screeline.Web.Pages.Jobs;

/// <summary>Before and after, the count of fasteners, the tools: what must hold before the vehicle goes back.</summary>
[Allow(Role.Viewer, Role.Apprentice)]
public sealed class ProveModel(JobStore jobs, PeopleStore people, CurrentPerson current, ShippedLibrary library) : JobPage(jobs, people, current)
{
    /// <inheritdoc/>
    protected override WithoutNetwork WithoutNetwork => WithoutNetwork.Steps;

    public override Stage Stage => Stage.Prove;

    public ShippedLibrary Library => library;

    public void OnGet()
    {
    }

    public Task<IActionResult> OnPostCheckAsync() => KeepCheckAsync();

    /// <summary>Somebody answers with their name for what does not balance.</summary>
    public async Task<IActionResult> OnPostSignAsync()
    {
        var reason = Request.Form["reason"].ToString().Trim();
        return reason.Length < 5 ? RefuseField("reason", "Why may it go like this? A few words that hold later.")
            : await KeepAsync([new DifferenceSigned(reason, [.. Request.Form["covers"].OfType<string>()])], Stage.Prove, _ => "reason");
    }

    public Task<IActionResult> OnPostCarriedAsync() => KeepAsync([new PartCarried(Request.Form["piece"].ToString())], Stage.Prove);

    /// <summary>Something lies on the bench that nobody missed.</summary>
    public async Task<IActionResult> OnPostLeftOverAsync()
    {
        var what = Request.Form["what"].ToString().Trim();
        return what.Length == 0 ? RefuseField("left", "What is left over? For example: M6 screw, 16 mm.") : await KeepAsync([new LeftOverFound(what, 1)], Stage.Prove, _ => "left");
    }

    public async Task<IActionResult> OnPostSettleAsync(Guid left)
    {
        var how = Request.Form["how"].ToString().Trim();
        return how.Length == 0 ? RefuseField("settle", "Where did it go, or why does it belong nowhere?") : await KeepAsync([new LeftOverSettled(left, how)], Stage.Prove, _ => "settle");
    }

    public Task<IActionResult> OnPostToolAsync() => KeepAsync([new ToolBack(Request.Form["tool"].ToString())], Stage.Prove);

    /// <summary>Says what became of fasteners that a refit step left open: found and put in, renewed, or declared missing.</summary>
    public async Task<IActionResult> OnPostAccountAsync()
    {
        var (step, fastener, became) = (Request.Form["step"].ToString(), Request.Form["fastener"].ToString(), Request.Form["became"].ToString());
        var account = Job.Count.Unaccounted.FirstOrDefault(a => a.Step == step && a.Fastener.Id == fastener && a.Refitted);
        if (account is null || became is not ("back" or "renewed" or "missing"))
        {
            return Refuse("That fastener is accounted for, or still lies in the tray.", StatusCodes.Status409Conflict);
        }

        var tick = Job.Refitted[step];
        var n = account.Unaccounted;
        var mended = new FastenerOutcome(fastener, account.Back + (became == "back" ? n : 0), account.Renewed + (became == "renewed" ? n : 0), account.Missing + (became == "missing" ? n : 0));
        var payload = tick.Payload with { Fasteners = [.. tick.Payload.Fasteners.Where(o => o.Fastener != fastener), mended] };
        return await KeepAsync([new EntryCorrected(tick.Entry.Id, EntryKinds.Write(payload))], Stage.Prove);
    }
}
