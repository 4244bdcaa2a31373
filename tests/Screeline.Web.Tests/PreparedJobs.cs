using Screeline.Core.Access;
using Screeline.Core.Access.Planning;
using Screeline.Core.Jobs;
using Screeline.Core.Quantities;
using Screeline.Data;
using Screeline.Library;
using Screeline.Library.Demo;

namespace Screeline.Web.Tests;

/// <summary>Jobs brought to a moment by their entries, which is what the pages would have made of it.</summary>
internal static class PreparedJobs
{
    private static readonly ShippedLibrary Library = ShippedLibrary.Load();
    private static readonly ShippedMap Starter = Library.Map("tideway-starter");
    private static readonly WayPlan Way = RoutePlanner.Best(Starter.Map);
    private static readonly Guid Ansa = new(Site.Ansa);

    /// <summary>A job of its own on the Tideway that only clicks, taken apart up to a step; null for all of it. Its number.</summary>
    public static async Task<long> JobAtAsync(this Site site, string? before)
    {
        var vehicle = DemoFleet.Load().Vehicles.First(v => v.Id == new Guid("7e1c0000-0000-4000-8000-000000000001"));
        var told = new DemoTelling(Library, Guid.NewGuid(), Ansa, TimeSpan.FromHours(3), Starter) { Pace = 0.1 };
        told.Say(0, new JobOpened(vehicle.Id, vehicle.Name, vehicle.Model, vehicle.NominalVolts, "starting", "It only clicks plain", null));
        told.Say(1, new ComplaintNoted("It only clicks plain", ["one-clunk"], "always", 5, 5, null));
        foreach (var (test, volts) in new[] { ("battery-rest", 12.58m), ("battery-cranking", 12.4m), ("starter-volts-cranking", 12.3m), ("switched-terminal-cranking", 12.1m) })
        {
            told.Say(1, new ReadingTaken(test, new Figure(volts, Units.Volt), null));
        }

        told.Say(1, new ReadingTaken("engine-turns", null, "turns"));
        told.Say(1, new ReadingTaken("starter-volts-cranking", new Figure(12.32m, Units.Volt), null));
        told.Say(1, new DecisionMade(DecisionAct.Proven, told.Job.System.Repair("starter")!.Title, told.Job.Finding.Because, "starter"));
        told.Say(1, new RouteTaken(told.MapHash, Starter.Map.Targets[0].Id, [.. Way.Removal.Select(a => a.Id)], [.. Way.Refit.Select(a => a.Id)]));
        foreach (var action in Way.Removal.TakeWhile(a => a.Id != before))
        {
            told.Apart(action);
        }

        await using var database = new Database(site.Owner, "screeline_app");
        return await new JobStore(database, new Families(Library)).StoreAsync(told);
    }

    /// <summary>Stores a job as it was told; its number.</summary>
    public static async Task<long> StoreAsync(this JobStore jobs, DemoTelling told)
    {
        var job = told.Done();
        var drafts = job.Entries.Select((e, i) => new EntryDraft(e.Id ?? Guid.NewGuid(), job.Id, i, e.Actor, DateTimeOffset.Now - e.Ago, e.Payload)).ToList();
        var number = await jobs.OpenAsync(drafts[0], Ansa);
        foreach (var draft in drafts.Skip(1))
        {
            Assert.IsType<AppendResult.Kept>(await jobs.AppendAsync(job.Id, [draft], Ansa, OutOfTurn.Refuse));
        }

        return number;
    }
}
