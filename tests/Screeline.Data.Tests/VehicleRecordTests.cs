using Screeline.Core.Access;
using Screeline.Core.Access.Recording;
using Screeline.Core.Jobs;
using Screeline.Library;

namespace Screeline.Data.Tests;

/// <summary>What earlier jobs leave to the next one on the vehicle or the model: things seen, intake, pictures; and what a job that was left does not add, on a real PostgreSQL.</summary>
public sealed class VehicleRecordTests
{
    private static async Task<Database> OwnAsync() => new(await TestDatabase.OwnerOfNewAsync(), "screeline_app");

    private static async Task SayAsync(Database database, Guid job, params Payload[] payloads)
    {
        var jobs = new JobStore(database, new Families(TestDatabase.Library));
        foreach (var payload in payloads)
        {
            var head = (await jobs.FindAsync(job))!.Job.Head;
            var kept = await jobs.AppendAsync(job, [new EntryDraft(Guid.NewGuid(), job, head, TestDatabase.Ansa, DateTimeOffset.UtcNow, payload)], TestDatabase.Ansa, OutOfTurn.Refuse);
            Assert.True(kept is AppendResult.Kept, $"{payload}: {kept}");
        }
    }

    [Fact]
    public async Task What_was_seen_stands_until_it_is_settled_or_withdrawn()
    {
        await using var database = await OwnAsync();
        var records = new VehicleRecordStore(database);
        var (leak, slip) = (Guid.NewGuid(), Guid.NewGuid());
        var first = await TradeStoreTests.ClosedAsync(database, more: t =>
        {
            t.Say(1, new SeenBeside("oil at the sump seam", SeenUrgency.Soon, "undertray"), leak);
            t.Say(1, new SeenBeside("a slip of the finger", SeenUrgency.BeforeDriving, null), slip);
            t.Say(1, new EntryWithdrawn(slip));
        });
        var open = Assert.Single(await records.OpenSeenAsync(TestDatabase.Van.Id));
        Assert.Equal((leak, "oil at the sump seam", SeenUrgency.Soon), (open.Entry, open.Seen.What, open.Seen.Urgency));
        Assert.Empty(await records.OpenSeenAsync(TestDatabase.Van.Id, first));
        Assert.Empty(await records.OpenSeenAsync(Guid.NewGuid()));

        // Settled by another job, and the word taken back again.
        var next = await TradeStoreTests.ClosedAsync(database);
        await SayAsync(database, next, new SeenSettled(leak, SeenEnd.Done, null));
        Assert.Empty(await records.OpenSeenAsync(TestDatabase.Van.Id));
    }

    [Fact]
    public async Task The_last_intake_is_told_to_the_next_job()
    {
        await using var database = await OwnAsync();
        var records = new VehicleRecordStore(database);
        Assert.Null(await records.LastIntakeAsync(TestDatabase.Van.Id));
        await TradeStoreTests.ClosedAsync(database, more: t => t.Say(1, new IntakeNoted([], "SC 1", new MeterReading(1000, MeterUnit.Hours))));
        var second = await TradeStoreTests.ClosedAsync(database, more: t => t.Say(1, new IntakeNoted(["door"], "SC 2")));
        Assert.Equal("SC 2", (await records.LastIntakeAsync(TestDatabase.Van.Id))!.Value.Intake.Plate);
        Assert.Equal((1000m, MeterUnit.Hours), ((await records.LastIntakeAsync(TestDatabase.Van.Id, second))!.Value.Intake.Meter!.Number, MeterUnit.Hours));
    }

    [Fact]
    public async Task The_last_picture_at_a_step_of_the_model_comes_with_its_pins()
    {
        await using var database = await OwnAsync();
        var (records, documents) = (new VehicleRecordStore(database), new DocumentStore(database));
        var (one, two, gone) = (await documents.KeepAsync([1], "image/jpeg"), await documents.KeepAsync([2], "image/jpeg"), await documents.KeepAsync([3], "image/jpeg"));
        var (picture, dark) = (Guid.NewGuid(), Guid.NewGuid());
        var first = await TradeStoreTests.ClosedAsync(database, more: t =>
        {
            t.Say(1, new PictureTaken("undertray", one, 100, 80, null, null), picture);
            t.Say(1, new PinsSet(picture, [new Pin(PinKind.Screw, [new PinPoint(10, 20)], null)]));
            t.Say(1, new PictureTaken("undertray", gone, 100, 80, null, null), dark);
            t.Say(1, new EntryWithdrawn(dark));
            t.Say(1, new PictureTaken("undertray", two, 100, 80, null, picture));
        });
        var (model, family) = (TestDatabase.Van.Model, "starting");
        var last = (await records.LastPictureAsync(model, family, "undertray", Guid.NewGuid()))!.Value;
        Assert.Equal((one, 1), (last.Picture.Payload.Sha256, last.Picture.Pins.Count));
        Assert.Null(await records.LastPictureAsync(model, family, "undertray", first));
        Assert.Null(await records.LastPictureAsync(model, family, "main-nut", Guid.NewGuid()));
        Assert.Null(await records.LastPictureAsync("another model", family, "undertray", Guid.NewGuid()));
    }

    [Fact]
    public async Task A_job_that_was_left_waits_or_closes_and_teaches_nothing()
    {
        await using var database = await OwnAsync();
        var (jobs, summaries) = (new JobStore(database, new Families(TestDatabase.Library)), new SummaryStore(database));
        var id = Guid.NewGuid();
        await jobs.OpenAsync(new EntryDraft(Guid.NewGuid(), id, 0, TestDatabase.Ansa, DateTimeOffset.UtcNow, new JobOpened(TestDatabase.Van.Id, TestDatabase.Van.Name, TestDatabase.Van.Model, 12, "starting", "It only clicks", null)), TestDatabase.Ansa);
        await SayAsync(database, id, new JobLeft(WayOut.Parked, "waits for money", null, null, Until: DateTimeOffset.UtcNow.AddDays(3)));
        Assert.Equal("parked as it stands: waits for money", Assert.Single(await summaries.OpenAsync("")).Summary.WaitsFor);
        await SayAsync(database, id, new JobResumed(null), new JobLeft(WayOut.Declined, null, "the owner", false));
        Assert.Empty(await summaries.OpenAsync(""));
        Assert.Single(await summaries.ClosedAsync(""));
        var experience = new ExperienceStore(database);
        Assert.Empty(await experience.ClosedSinceAsync(TestDatabase.Van.Id, DateTimeOffset.UtcNow.AddDays(-9)));
        Assert.False(await experience.LacksFactsAsync());
        await SayAsync(database, id, new JobResumed("paid after all"));
        Assert.Single(await summaries.OpenAsync(""));
    }

    [Fact]
    public async Task A_job_without_a_map_counts_in_what_the_shop_learns()
    {
        await using var database = await OwnAsync();
        var (jobs, opened) = (new JobStore(database, new Families(TestDatabase.Library)), Guid.NewGuid());
        var at = DateTimeOffset.UtcNow.AddHours(-5);
        async Task Say(Payload payload, double minutes = 4)
        {
            at = at.AddMinutes(minutes);
            var draft = new EntryDraft(Guid.NewGuid(), opened, (await jobs.FindAsync(opened))?.Job.Head ?? 0, TestDatabase.Ansa, at, payload);
            if (payload is JobOpened)
            {
                await jobs.OpenAsync(draft, TestDatabase.Ansa);
                return;
            }

            var kept = await jobs.AppendAsync(opened, [draft], TestDatabase.Ansa, OutOfTurn.Refuse);
            Assert.True(kept is AppendResult.Kept, $"{payload}: {kept}");
        }

        var system = TestDatabase.Library.System("blower")!;
        await Say(new JobOpened(TestDatabase.Van.Id, "V", "Unmapped", 12, "blower", "It does not blow", null));
        await Say(new ComplaintNoted("It does not blow", [system.Behaviours[0].Id], "always", 5, 5, null));
        await Say(new DecisionMade(DecisionAct.Guess, "blower motor replaced", "for the test", "motor"));
        await Say(new RecordingBegun(null, false, []));
        await Say(new GroupOut("screw", "T20", 3, 1));
        await Say(new TakenOff(TakenAct.Part, "Glovebox", "footwell"));
        await Say(new TakenOff(TakenAct.Plug, "Blower plug", "footwell"), 2);
        await Say(new TakenOff(TakenAct.Part, "Blower motor", "footwell", true), 6);
        while ((await jobs.FindAsync(opened))!.Job is var job && Refit.Order(job).FirstOrDefault(id => !job.Refitted.ContainsKey(id)) is { } due)
        {
            foreach (var check in (job.Map!.Step(due)?.Checks ?? []).Select(job.Check))
            {
                await Say(Library.Demo.DemoTelling.Good(check!, 12), 1);
            }

            await Say(new StepDone(WorkPhase.Refit, due, null, [.. job.FastenersOf(due).Select(f => Core.Fastening.FastenerCount.Expected(job, due, f))]));
        }

        foreach (var check in (await jobs.FindAsync(opened))!.Job.Checks)
        {
            await Say(Library.Demo.DemoTelling.Good(check, 12), 1);
        }

        foreach (var piece in (await jobs.FindAsync(opened))!.Job.NotCarried)
        {
            await Say(new PartCarried(piece.Id), 1);
        }

        await Say(new HandedBack("worn brushes", "Unmapped", null, new CauseSaid("age", null), [.. (await jobs.FindAsync(opened))!.Job.Checks.Where(c => (jobs.FindAsync(opened).Result)!.Job.Held(c) == true).Select(c => c.Id)]));
        var (family, cameOff) = Assert.Single(await new MapStore(database).CameOffAsync());
        Assert.Equal("blower", family);
        Assert.Equal(["glovebox@footwell", "blower-plug@footwell", "blower@footwell"], cameOff);
        var experience = new ExperienceStore(database);
        var row = Assert.Single(await experience.OfVehicleAsync(TestDatabase.Van.Id));
        Assert.True(row.Spent > 8);
        Assert.Equal(0, row.Expected);
        var footwell = Assert.Single(await experience.PlacesAsync(DateTimeOffset.UtcNow.AddDays(-1), "blower"), p => p.Place == "footwell");
        Assert.True(footwell.Unplanned > 8);
        Assert.Equal((0m, 0m), (footwell.Planned, footwell.Spent));
        Assert.Empty(await experience.EstimatesAsync(DateTimeOffset.UtcNow.AddDays(-1), ""));
        Assert.Null(await experience.BusiestMapAsync(DateTimeOffset.UtcNow.AddDays(-1), ""));
    }
}
