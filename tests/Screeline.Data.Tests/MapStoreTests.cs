using Screeline.Core.Jobs;

namespace Screeline.Data.Tests;

/// <summary>Versions of maps, marks and learned times, on a real PostgreSQL.</summary>
public sealed class MapStoreTests(TestDatabase db)
{
    [Fact]
    public async Task A_version_is_kept_only_on_the_one_it_was_made_from()
    {
        var (store, documents) = (new MapStore(db.Database), new DocumentStore(db.Database));
        var first = await documents.KeepAsync(TestDatabase.Map.Json, "application/json");
        var second = await documents.KeepAsync(TestDatabase.Map.Json + "\n", "application/json");
        Assert.True(await store.KeepAsync("versions-test", first, TestDatabase.Ansa, 0));
        Assert.False(await store.KeepAsync("versions-test", second, TestDatabase.Bram, 0));
        Assert.True(await store.KeepAsync("versions-test", second, TestDatabase.Bram, 1));
        var versions = await store.VersionsAsync("versions-test");
        Assert.Equal([(2, second), (1, first)], versions.Select(v => (v.Version, v.Hash)));
        Assert.Equal(TestDatabase.Map.Json + "\n", (await store.LatestAsync()).Single(v => v.MapId == "versions-test").Json);
        Assert.NotEqual(versions[0].By, versions[1].By);
    }

    [Fact]
    public async Task A_mark_stands_once_and_stays_visible_when_it_is_taken_back()
    {
        var store = new MapStore(db.Database);
        await store.MarkAsync("marks-test", "wheel-off", TestDatabase.Ansa, null);
        await store.MarkAsync("marks-test", "wheel-off", TestDatabase.Bram, null);
        Assert.True(Assert.Single(await store.NotNeededAsync("marks-test")).Stands);
        await store.TakeBackAsync("marks-test", "wheel-off", TestDatabase.Bram);
        var mark = Assert.Single(await store.NotNeededAsync("marks-test"));
        Assert.False(mark.Stands);
        Assert.NotEqual(mark.By, mark.TakenBackBy);
        await store.MarkAsync("marks-test", "wheel-off", TestDatabase.Bram, null);
        Assert.Equal([true, false], (await store.NotNeededAsync("marks-test")).Select(m => m.Stands));
    }

    [Fact]
    public async Task Ticks_tell_what_each_step_took_and_an_open_job_teaches_nothing()
    {
        var map = TestDatabase.Map.Map;
        var hash = await new DocumentStore(db.Database).KeepAsync(TestDatabase.Map.Json, "application/json");
        var plan = Core.Access.Planning.RoutePlanner.Best(map);
        var (id, _) = await db.OpenJobAsync();
        await db.SayAsync(id, new ComplaintNoted("slow", ["slow-crank"], "always", 3, 3, null));
        await db.SayAsync(id, new DecisionMade(DecisionAct.Guess, "starter", "old", "starter"));
        await db.SayAsync(id, new RouteTaken(hash, "starter-exchanged", [.. plan.Removal.Select(a => a.Id)], [.. plan.Refit.Select(a => a.Id)]));
        var at = new DateTimeOffset(2026, 11, 24, 8, 0, 0, TimeSpan.Zero);
        foreach (var action in plan.Removal)
        {
            at = at.AddMinutes((double)(action.MoveMinutes + action.ToolChangeMinutes) + 7);
            Assert.IsType<AppendResult.Kept>(await db.SayAsync(id, new StepDone(WorkPhase.Apart, action.Id, null, []), at: at));
        }

        // Other tests close jobs on this map meanwhile; this one is not among them.
        Assert.Equal(0L, await db.ScalarAsync<long>($"select count(*) from work_times where job_id = '{id}'"));
        var job = (await db.Jobs.FindAsync(id))!.Job;
        var times = WorkTime.InJob(job);
        // The first tick has no beginning; each other one took seven minutes, walking and tools apart.
        Assert.Equal(plan.Removal.Count - 1, times.Count);
        Assert.All(times, t => Assert.Equal(7m, t.Minutes));
    }
}
