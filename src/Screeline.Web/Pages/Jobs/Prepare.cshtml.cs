using Microsoft.AspNetCore.Mvc;
using Screeline.Core.Access.Planning;
using Screeline.Core.Access;
using Screeline.Core.Fastening;
using Screeline.Core.Jobs;
using Screeline.Core.People;
using Screeline.Data;
using Screeline.Web.Infrastructure;
using Screeline.Web.SignIn;

namespace Screeline.Web.Pages.Jobs;

/// <summary>Before the first bolt: the tool roll of the way, what to order, which part.</summary>
[Allow(Role.Viewer, Role.Apprentice)]
public sealed class PrepareModel(JobStore jobs, PeopleStore people, CurrentPerson current, Workshop shop) : JobPage(jobs, people, current)
{
    /// <inheritdoc/>
    protected override bool ShowsGrowth => false;

    public override Stage Stage => Stage.WayIn;

    /// <summary>The way: the one taken, else the best one of the map that fits; null when there is no map.</summary>
    public (AccessMap Map, IReadOnlyList<string> Removal, IReadOnlyList<string> Refit, bool Taken)? Way { get; private set; }

    /// <summary>Sizes that closed jobs found instead, with the owned tool that turns them: taken along besides.</summary>
    public IReadOnlyList<(string What, string Tool, int Jobs, int Of)> TakeAlong { get; private set; } = [];

    public IReadOnlyList<ToolRollLine> Roll { get; private set; } = [];

    public IReadOnlyList<OrderLine> Order { get; private set; } = [];

    /// <summary>What putting the part in costs, in the shop's currency: the way's minutes at its rate.</summary>
    public decimal Labour { get; private set; }

    protected override async Task PrepareAsync()
    {
        var cancel = HttpContext.RequestAborted;
        ViewData["Title"] = $"Tool roll, {Job.Opened.Payload.VehicleName}";
        var opened = Job.Opened.Payload;
        if (Job is { Map: { } taken, Route: { } route })
        {
            Way = (taken, route.Payload.Removal, Core.Jobs.Refit.Order(Job), true);
        }
        else if (await shop.Shelf.ForAsync(opened.Family, opened.Model, cancel) is { } shelved)
        {
            var map = shelved.Usual;
            if (map.Targets is [var target, ..] && RoutePlanner.Plan(new PlanRequest(map, target.Operation)).Routes is [var best, ..])
            {
                Way = (map, [.. best.Removal.Select(a => a.Id)], [.. best.Refit.Select(a => a.Id)], false);
            }
        }

        if (Way is { } way)
        {
            var owned = await shop.Crib.OwnedAsync(cancel);
            Roll = ToolRoll.ForWay(way.Map, way.Removal, way.Refit, shop.Library.Tools, owned.Owned, owned.Wrenches, ToolCrib.Today);
            var experience = await shop.ExperienceAsync(way.Map.Id, cancel);
            TakeAlong =
            [
                .. from f in experience.Findings
                   where f.Found == FastenerState.OtherSize && f.Size is not null && way.Removal.Contains(f.Step)
                   let drive = Drive.Read(f.Size).Drive
                   where drive is not null
                   select (way.Map[f.Step].Fasteners.FirstOrDefault(x => x.Id == f.Fastener)?.Holds ?? way.Map[f.Step].Title, ToolRoll.ForDrive(drive, null, shop.Library.Tools, owned.Owned)?.Title ?? $"{drive}: nothing owned fits", f.Jobs, experience.Jobs),
            ];
            Order = OrderList.ForJob(Job, way.Map, way.Removal);
            var minutes = way.Removal.Sum(id => way.Map[id].Minutes.Mean) + way.Refit.Sum(id => way.Map.Step(id)?.Minutes.Mean ?? way.Map[id].CloseMinutes.Mean);
            Labour = minutes * way.Map.LabourRatePerHour / 60m;
        }
    }

    public void OnGet()
    {
    }

    /// <summary>Takes a part on offer.</summary>
    public async Task<IActionResult> OnPostTakeAsync()
    {
        var offer = Job.Part?.Offers.FirstOrDefault(o => o.Id == Request.Form["offer"]);
        if (offer is null)
        {
            return Refuse("That part is not on offer.", StatusCodes.Status422UnprocessableEntity);
        }

        var result = await KeepAsync([new PartChosen(offer.Id, offer.Title, offer.Price, offer.Deposit)], Stage);
        return result is RedirectResult ? Redirect($"/jobs/{Number}/prepare") : result;
    }
}
