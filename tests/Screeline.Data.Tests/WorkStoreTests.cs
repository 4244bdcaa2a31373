using System.Security.Cryptography;
using Screeline.Core.Jobs;

namespace Screeline.Data.Tests;

/// <summary>Calibrations, the shop's choices, pictures and waits on a real PostgreSQL.</summary>
public sealed class WorkStoreTests(TestDatabase db)
{
    [Fact]
    public async Task A_tool_that_stays_owned_keeps_its_calibration()
    {
        var store = new ToolStore(db.Database);
        await store.SetAsync(["wrench", "socket"]);
        await store.CalibratedAsync("wrench", new DateOnly(2036, 2, 29));
        await store.CalibratedAsync("not-owned", new DateOnly(2036, 1, 1));
        await store.SetAsync(["wrench", "jack"]);
        Assert.Equal([("wrench", new DateOnly(2036, 2, 29))], (await store.CalibrationsAsync()).Select(x => (x.Key, x.Value)));
        await store.CalibratedAsync("wrench", null);
        Assert.Empty(await store.CalibrationsAsync());
        await store.SetAsync([]);
        await store.SetAsync(["wrench"]);
        Assert.Empty(await store.CalibrationsAsync());
    }

    [Fact]
    public async Task A_choice_of_the_shop_is_the_latest()
    {
        var store = new ShopChoiceStore(db.Database);
        Assert.Null(await store.FindAsync("no-such"));
        await store.SetAsync(ShopChoiceStore.Tray, "strip");
        await store.SetAsync(ShopChoiceStore.Tray, "bags");
        Assert.Equal("bags", await store.FindAsync(ShopChoiceStore.Tray));
    }

    [Fact]
    public async Task A_picture_lies_under_the_hash_of_its_bytes_once()
    {
        var store = new DocumentStore(db.Database);
        var bytes = RandomNumberGenerator.GetBytes(100_000);
        var hash = await store.KeepAsync(bytes, "image/jpeg");
        Assert.Equal(Convert.ToHexStringLower(SHA256.HashData(bytes)), hash);
        Assert.Equal(hash, await store.KeepAsync(bytes, "image/jpeg"));
        var found = await store.FindAsync(hash);
        Assert.Equal("image/jpeg", found!.Value.MediaType);
        Assert.Equal(bytes, found.Value.Content);
        Assert.Null(await store.FindAsync(new string('0', 64)));
    }

    [Fact]
    public async Task Settings_that_held_on_a_vehicle_come_back_newest_first_without_withdrawn_ones_and_those_of_the_job_that_asks()
    {
        var (first, second) = (await db.OpenJobAsync(), await db.OpenJobAsync());
        SettingKept Kept(string up, bool holds) => new(null, "window", "w", holds, new Dictionary<string, string> { ["up"] = up });
        await db.SayAsync(first.Id, Kept("1", true));
        await db.SayAsync(first.Id, Kept("2", false));
        await db.SayAsync(first.Id, new SettingKept(null, "belt", "w", true, new Dictionary<string, string>()));
        await db.SayAsync(first.Id, Kept("3", true));
        var withdrawn = Guid.NewGuid();
        await db.SayAsync(first.Id, Kept("4", true), id: withdrawn);
        await db.SayAsync(first.Id, new EntryWithdrawn(withdrawn));
        await db.SayAsync(second.Id, Kept("5", true));
        var held = await new SettingStore(db.Database).HeldAsync((await db.Jobs.FindAsync(second.Id))!.Job.Opened.Payload.Vehicle, "window", second.Id);
        Assert.Equal(["3", "1"], held.Select(h => h["up"]).Where(u => u is "1" or "2" or "3" or "4" or "5"));
    }

    [Fact]
    public async Task The_chain_over_the_jobs_heads_is_what_its_definition_says_under_many_writers()
    {
        var jobs = new List<Guid>();
        for (var i = 0; i < 4; i++)
        {
            jobs.Add((await db.OpenJobAsync()).Id);
        }

        await Task.WhenAll(jobs.SelectMany(job => Enumerable.Range(0, 6).Select(n => db.SayAsync(job, new LeftOverFound($"screw {n}", 1)))));
        await using var command = db.Database.Command("select job_id, head_hash, hash, link from chain order by link");
        await using var reader = await command.ExecuteReaderAsync();
        var (before, link) = (EntryChain.Start, 0L);
        while (await reader.ReadAsync())
        {
            before = EntryChain.NextHead(before, reader.GetGuid(0), reader.GetFieldValue<byte[]>(1));
            Assert.Equal(++link, reader.GetInt64(3));
            Assert.Equal(before, reader.GetFieldValue<byte[]>(2));
        }

        Assert.True(link >= 28);
    }
}
