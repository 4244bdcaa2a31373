using Screeline.Core.Diagnosis;
using Screeline.Library.Demo;
using Screeline.Core.Jobs;

namespace Screeline.Data.Tests;

/// <summary>What vehicles state, the shop's figures, and what closed jobs confirm, on a real PostgreSQL.</summary>
public sealed class DiagnosisStoreTests(TestDatabase db)
{
    [Fact]
    public async Task Stated_values_are_replaced_as_a_whole_and_by_family()
    {
        var store = new VehicleParameterStore(db.Database);
        await store.SetAsync(TestDatabase.Van.Id, "starting", new Dictionary<string, double> { ["cca"] = 720, ["cable_length"] = 1.25 });
        await store.SetAsync(TestDatabase.Van.Id, "fan", new Dictionary<string, double> { ["rated"] = 21 });
        await store.SetAsync(TestDatabase.Van.Id, "starting", new Dictionary<string, double> { ["cca"] = 800 });
        Assert.Equal([("cca", 800.0)], (await store.OfAsync(TestDatabase.Van.Id, "starting")).Select(x => (x.Key, x.Value)));
        Assert.Equal(21, (await store.OfAsync(TestDatabase.Van.Id, "fan"))["rated"]);
        Assert.Empty(await store.OfAsync(Guid.NewGuid(), "starting"));
        await store.SetAsync(TestDatabase.Van.Id, "starting", new Dictionary<string, double>());
        Assert.Empty(await store.OfAsync(TestDatabase.Van.Id, "starting"));
    }

    [Fact]
    public async Task The_shops_figures_are_set_one_by_one()
    {
        var store = new ShopFigureStore(db.Database);
        await store.SetAsync(new Dictionary<string, double> { ["labour_per_hour"] = 72, ["comeback"] = 110 });
        await store.SetAsync(new Dictionary<string, double> { ["comeback"] = 95.5 });
        var all = await store.AllAsync();
        Assert.Equal((72, 95.5), (all["labour_per_hour"], all["comeback"]));
    }

    [Fact]
    public async Task A_closed_job_confirms_its_repair_and_an_open_one_does_not()
    {
        var history = new HistoryStore(db.Database);
        var before = (await history.OfAsync("starting", TestDatabase.Van.Model)).OnModel.GetValueOrDefault("ground-path");
        var (id, _) = await db.OpenJobAsync();
        await db.SayAsync(id, new ComplaintNoted("slow", ["slow-crank"], "always", 3, 3, null));
        await db.SayAsync(id, new DecisionMade(DecisionAct.Elsewhere, "ground strap cleaned", "1.6 V lost", "ground-path"));
        Assert.Equal(before, (await history.OfAsync("starting", TestDatabase.Van.Model)).OnModel.GetValueOrDefault("ground-path"));
        var checks = (await db.Jobs.FindAsync(id))!.Job.Checks.Where(c => c.Moment == ProofMoment.End).ToList();
        foreach (var check in checks)
        {
            await db.SayAsync(id, DemoTelling.Good(check, 12));
        }

        Assert.IsType<AppendResult.Kept>(await db.SayAsync(id, new HandedBack("strap on paint", null, null, new CauseSaid("repair", "paint off, tightened"), [.. checks.Select(c => c.Id)])));
        Assert.Equal(before + 1, (await history.OfAsync("starting", TestDatabase.Van.Model)).OnModel["ground-path"]);
        Assert.Equal(before + 1, (await history.OfAsync("starting", "another model")).OnOthers["ground-path"]);
        Assert.DoesNotContain("ground-path", (await history.OfAsync("fan", TestDatabase.Van.Model)).OnModel.Keys);
        // It follows from the entries alone, like the rest of the summary.
        await db.ScalarAsync<object>($"update job_summaries set confirmed = null where job_id = '{id}'");
        await db.Jobs.RebuildSummariesAsync();
        Assert.Equal(before + 1, (await history.OfAsync("starting", TestDatabase.Van.Model)).OnModel["ground-path"]);
    }

    [Fact]
    public async Task A_repair_that_the_family_does_not_know_is_refused()
    {
        var (id, _) = await db.OpenJobAsync();
        await db.SayAsync(id, new ComplaintNoted("slow", ["slow-crank"], "always", 3, 3, null));
        var refused = Assert.IsType<AppendResult.Malformed>(await db.SayAsync(id, new DecisionMade(DecisionAct.Elsewhere, "wings", "x", "wings")));
        Assert.Equal("$.payload.repair_id", Assert.Single(refused.Faults).Path);
    }
}
