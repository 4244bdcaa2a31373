using Screeline.Core.Jobs;
using Screeline.Core.People;
using Screeline.Library;
using Screeline.Library.Demo;

namespace Screeline.Data.Tests;

/// <summary>What closed jobs add to the shop's experience, and jobs as files, on a real PostgreSQL.</summary>
public sealed class TradeStoreTests(TestDatabase db)
{
    private static readonly Families Families = new(TestDatabase.Library);

    // A whole job on the starter's map, with one nut of another size.
    internal static async Task<Guid> ClosedAsync(Database database, string? size = null, double pace = 1, Guid? comebackOf = null, Action<DemoTelling>? more = null)
    {
        var id = Guid.NewGuid();
        var t = new DemoTelling(TestDatabase.Library, id, TestDatabase.Ansa, TimeSpan.FromDays(5), TestDatabase.Map) { Pace = pace };
        t.Say(0, new JobOpened(TestDatabase.Van.Id, TestDatabase.Van.Name, TestDatabase.Van.Model, 12, "starting", "It only clicks", null, comebackOf));
        t.Say(1, new ComplaintNoted("It only clicks", ["one-clunk"], "always", 5, 5, null));
        t.Say(1, new DecisionMade(DecisionAct.Guess, "starter replaced", "for the test", "starter"));
        var plan = t.Take("starter");
        plan.Removal.ToList().ForEach(t.Apart);
        if (size is not null)
        {
            t.Say(1, new FastenerFound("main-nut", "stud-nut", FastenerState.OtherSize, 1, size, null));
        }

        more?.Invoke(t);
        t.Back(plan, plan.Refit.Count);
        t.Prove();
        t.Close("Open inside.", null, null, "age");
        var now = DateTimeOffset.UtcNow;
        var jobs = new JobStore(database, Families);
        var drafts = t.Done().Entries.Select((e, i) => new EntryDraft(e.Id ?? Guid.NewGuid(), id, i, e.Actor, now - e.Ago, e.Payload)).ToList();
        await jobs.OpenAsync(drafts[0], TestDatabase.Ansa);
        foreach (var draft in drafts.Skip(1))
        {
            Assert.IsType<AppendResult.Kept>(await jobs.AppendAsync(id, [draft], TestDatabase.Ansa, OutOfTurn.Refuse));
        }

        return id;
    }

    // A database of its own, so that counts are known.
    private static async Task<Database> OwnAsync() => new(await TestDatabase.OwnerOfNewAsync(), "screeline_app");

    [Fact]
    public async Task What_a_closed_job_teaches_is_seen_at_once_by_a_process_that_had_looked_before()
    {
        var owner = await TestDatabase.OwnerOfNewAsync();
        await using var here = new Database(owner, "screeline_app");
        await using var there = new Database(owner, "screeline_app");
        async Task<(int Confirmed, int Jobs, int Times)> SeenAsync()
        {
            var history = await new HistoryStore(there).OfAsync("starting", TestDatabase.Van.Model);
            var maps = new MapStore(there);
            return (history.OnModel.Values.Sum(), (await maps.ExperienceAsync(TestDatabase.Map.Map.Id)).Jobs, (await maps.TimesAsync(TestDatabase.Map.Map.Id)).Jobs);
        }

        Assert.Equal((0, 0, 0), await SeenAsync());
        var id = await ClosedAsync(here);
        Assert.Equal((1, 1, 1), await SeenAsync());
        await new ExperienceStore(here).LeaveOutAsync(id, TestDatabase.Ansa, "for the test");
        Assert.Equal((0, 0, 0), await SeenAsync());
        await new ExperienceStore(here).CountAgainAsync(id, TestDatabase.Ansa);
        Assert.Equal((1, 1, 1), await SeenAsync());
    }

    private static Task<TakenIn> ImportAsync(JobStore jobs, JobFile file, Guid? by = null, Role role = Role.Foreman) => jobs.ImportAsync(file, ("job.json", new string('a', 64)), by ?? TestDatabase.Ansa, role);

    [Fact]
    public async Task A_job_goes_out_and_into_an_empty_installation_as_the_same()
    {
        var id = await ClosedAsync(db.Database, "hex-15");
        var text = (await db.Jobs.ExportAsync(id))!.Write();

        var owner = await TestDatabase.CreateAsync();
        await Migrator.MigrateAsync(owner);
        await using var empty = new Database(owner, "screeline_app");
        var there = new JobStore(empty, Families);
        var taken = await ImportAsync(there, JobFile.Read(text, Families));
        Assert.True(taken.New);
        var (went, came) = ((await db.Jobs.ExportAsync(id))!.Entries, (await there.ExportAsync(id))!.Entries);
        Assert.All(went.Zip(came), e => Assert.Equal(Convert.ToHexString(e.First.Body) + Convert.ToHexString(e.First.Hash), Convert.ToHexString(e.Second.Body) + Convert.ToHexString(e.Second.Hash)));
        var brought = Assert.IsType<JobImported>(Assert.Single(came.Skip(went.Count)).Entry.Payload);
        Assert.Equal(("job.json", Convert.ToHexStringLower(went[^1].Hash)), (brought.File, brought.Head));
        Assert.Null((await new TrailStore(empty).CheckAsync()).Break);
        var (here, copy) = ((await db.Jobs.FindAsync(id))!.Job, (await there.FindAsync(taken.Number!.Value))!.Job);
        Assert.Equal(JobSummary.FromJob(here).Next, JobSummary.FromJob(copy).Next);
        Assert.True(copy.IsToldByFile(copy.Opened.Entry));
        Assert.False(copy.IsToldByFile(copy.Imported!.Entry));
        Assert.Equal(here.Torques.Select(t => t.Payload), copy.Torques.Select(t => t.Payload));
        Assert.Equal("Tideway 3", Assert.Single(await new VehicleStore(empty).AllAsync()).Name);
        // What was learned from it is there as well, and the same file again changes nothing.
        Assert.Equal("hex-15", Assert.Single((await new MapStore(empty).ExperienceAsync("tideway-starter")).Findings).Size);
        Assert.Equal((taken.Number, false), (await ImportAsync(there, JobFile.Read(text, Families)) is var again ? (again.Number, again.New) : default));
        Assert.Single(await new SummaryStore(empty).ClosedAsync(null));
    }

    /// <summary>A file that says the same in another spelling is kept as it came: the check of the whole record holds, and it goes out with the same bytes.</summary>
    [Theory]
    [InlineData("\"promised_at\":null", "\"promised_at\":\"2036-05-04T06:00:00Z\"")]
    [InlineData("\"payload\":{\"family\"", "\"payload\":{\"comeback_of\":null,\"family\"")]
    [InlineData("\"nominal_volts\":12,", "\"nominal_volts\":12.0000000000000000000000000000000,")]
    [InlineData("7e1c0000", "7E1C0000")]
    public async Task Another_spelling_leaves_the_record_whole(string there, string instead)
    {
        var file = (await db.Jobs.ExportAsync(await ClosedAsync(db.Database)))!;
        var (hash, entries) = (EntryChain.Start, new List<FileEntry>());
        foreach (var e in file.Entries)
        {
            var text = System.Text.Encoding.UTF8.GetString(e.Body);
            var body = System.Text.Encoding.UTF8.GetBytes(e.Entry.Position == 1 ? text.Replace(there, instead, StringComparison.Ordinal) : text);
            hash = EntryChain.Next(hash, e.Entry.Position, e.Entry.SentBy, e.Entry.ReceivedAt, body);
            entries.Add(e with { Body = body, Hash = hash });
        }

        var written = (file with { Entries = entries }).Write();
        Assert.Contains(instead, written, StringComparison.Ordinal);
        var owner = await TestDatabase.CreateAsync();
        await Migrator.MigrateAsync(owner);
        await using var empty = new Database(owner, "screeline_app");
        var jobs = new JobStore(empty, Families);
        var taken = await ImportAsync(jobs, JobFile.Read(written, Families));
        Assert.Empty(taken.Faults);
        Assert.Null((await new TrailStore(empty).CheckAsync()).Break);
        var out1 = (await jobs.ExportAsync(file.Id))!;
        Assert.Equal(entries.Select(e => Convert.ToHexString(e.Body)), out1.Entries.SkipLast(1).Select(e => Convert.ToHexString(e.Body)));
        // And on it goes: out of there and into the next.
        Assert.Equal(out1.Write(), JobFile.Read(out1.Write(), Families).Write());
        Assert.IsType<AppendResult.Kept>(await jobs.AppendAsync(file.Id, [new EntryDraft(Guid.NewGuid(), file.Id, out1.Entries.Count, TestDatabase.Ansa, DateTimeOffset.UtcNow, new NoteAdded(null, "later"), 0)], TestDatabase.Ansa, OutOfTurn.Keep));
        Assert.Null((await new TrailStore(empty).CheckAsync()).Break);
    }

    /// <summary>What others are said to have done needs a foreman; one's own work does not.</summary>
    [Fact]
    public async Task Who_brings_what_others_did_is_a_foreman()
    {
        await using var database = await OwnAsync();
        var jobs = new JobStore(database, Families);
        var file = (await db.Jobs.ExportAsync(await ClosedAsync(db.Database)))!;
        var refused = await ImportAsync(jobs, file, TestDatabase.Bram, Role.Technician);
        Assert.Equal("$.entries[0].body.actor", Assert.Single(refused.Faults).Path);
        Assert.Empty(await new SummaryStore(database).ClosedAsync(null));
        Assert.True((await ImportAsync(jobs, file, TestDatabase.Ansa, Role.Technician)).New);
    }

    /// <summary>Signatures that a file tells of count for nothing in a job that goes on here.</summary>
    [Fact]
    public async Task A_second_person_of_a_file_signs_nothing_here()
    {
        var id = Guid.NewGuid();
        var t = new DemoTelling(TestDatabase.Library, id, TestDatabase.Ansa, TimeSpan.FromDays(5), TestDatabase.Map);
        t.Say(0, new JobOpened(TestDatabase.Van.Id, TestDatabase.Van.Name, TestDatabase.Van.Model, 12, "starting", "It only clicks", null));
        t.Say(1, new ComplaintNoted("It only clicks", ["one-clunk"], "always", 5, 5, null));
        t.Say(1, new DecisionMade(DecisionAct.Guess, "starter replaced", "for the test", "starter"));
        var plan = t.Take("starter");
        plan.Removal.TakeWhile(a => a.Id != "raised").ToList().ForEach(t.Apart);
        var jobs = new JobStore(db.Database, Families);
        var drafts = t.Done().Entries.Select((e, i) => new EntryDraft(Guid.NewGuid(), id, i, e.Actor, DateTimeOffset.UtcNow - e.Ago, e.Payload)).ToList();
        await jobs.OpenAsync(drafts[0], TestDatabase.Ansa);
        foreach (var draft in drafts.Skip(1))
        {
            await jobs.AppendAsync(id, [draft], TestDatabase.Ansa, OutOfTurn.Refuse);
        }

        async Task SayAsync(JobStore store, Payload payload, Guid by, Role role) =>
            Assert.IsType<AppendResult.Kept>(await store.AppendAsync(id, [new EntryDraft(Guid.NewGuid(), id, (await store.FindAsync(id))!.Job.Head, by, DateTimeOffset.UtcNow, payload, 0)], by, OutOfTurn.Refuse, sender: role));
        await SayAsync(jobs, new StepDone(WorkPhase.Apart, "raised", null, []), TestDatabase.Ansa, Role.Apprentice);
        var look = Assert.Single((await jobs.FindAsync(id))!.Job.SecondsMissing);
        await SayAsync(jobs, new SecondSigned(look.Tick.Id), TestDatabase.Bram, Role.Technician);
        Assert.Empty((await jobs.FindAsync(id))!.Job.SecondsMissing);

        await using var database = await OwnAsync();
        var there = new JobStore(database, Families);
        Assert.True((await ImportAsync(there, (await jobs.ExportAsync(id))!)).New);
        Assert.Single((await there.FindAsync(id))!.Job.SecondsMissing);
    }

    [Fact]
    public async Task What_does_not_fit_is_refused_and_nothing_is_half_there()
    {
        await using var database = await OwnAsync();
        var jobs = new JobStore(database, Families);
        var file = (await db.Jobs.ExportAsync(await ClosedAsync(db.Database)))!;

        // Another vehicle has the name already.
        var stranger = file with { Vehicle = file.Vehicle with { Id = Guid.NewGuid() } };
        var refused = await ImportAsync(jobs, stranger);
        Assert.Equal("$.vehicle.name", Assert.Single(refused.Faults).Path);
        Assert.Empty(await new SummaryStore(database).ClosedAsync(null));

        // The job grew on since: the older file does not overwrite it.
        Assert.True((await ImportAsync(jobs, file)).New);
        await jobs.AppendAsync(file.Id, [new EntryDraft(Guid.NewGuid(), file.Id, file.Entries.Count, TestDatabase.Ansa, DateTimeOffset.UtcNow, new NoteAdded(null, "later"))], TestDatabase.Ansa, OutOfTurn.Keep);
        Assert.Equal("$.job", Assert.Single((await ImportAsync(jobs, file)).Faults).Path);
    }

    [Fact]
    public async Task Closed_jobs_add_to_what_is_known_and_one_left_out_does_not()
    {
        await using var database = await OwnAsync();
        var (maps, experience, history) = (new MapStore(database), new ExperienceStore(database), new HistoryStore(database));
        var first = await ClosedAsync(database, "hex-15", 1.2);
        var second = await ClosedAsync(database, "hex-15", 0.9, comebackOf: first);
        await ClosedAsync(database, null, 1);
        var known = await maps.ExperienceAsync("tideway-starter");
        Assert.Equal((3, 3), (known.Jobs, known.Timed));
        var finding = Assert.Single(known.Findings);
        Assert.Equal(("main-nut", "stud-nut", FastenerState.OtherSize, "hex-15", 2), (finding.Step, finding.Fastener, finding.Found, finding.Size, finding.Jobs));
        Assert.False(known.SpeaksForTheMap(finding), "two jobs do not change a map");
        Assert.Equal(3, (await history.OfAsync("starting", TestDatabase.Van.Model)).OnModel["starter"]);
        Assert.Equal(3, (await maps.TimesAsync("tideway-starter")).Jobs);

        await experience.LeaveOutAsync(second, TestDatabase.Ansa, "an odd one");
        await experience.LeaveOutAsync(second, TestDatabase.Ansa, "twice changes nothing");
        Assert.Equal("an odd one", (await experience.LeftOutAsync(second))!.Why);
        Assert.Equal(2, (await maps.ExperienceAsync("tideway-starter")).Jobs);
        Assert.Equal(2, (await history.OfAsync("starting", TestDatabase.Van.Model)).OnModel["starter"]);
        Assert.Equal(2, (await maps.TimesAsync("tideway-starter")).Jobs);
        Assert.Contains(await experience.OfVehicleAsync(TestDatabase.Van.Id), h => h.Id == second && h.LeftOut && h.ComebackOf is not null);

        await experience.CountAgainAsync(second, TestDatabase.Ansa);
        Assert.Null(await experience.LeftOutAsync(second));
        Assert.Equal(3, (await maps.ExperienceAsync("tideway-starter")).Jobs);
        var comebacks = Assert.Single(await experience.ComebacksAsync(DateTimeOffset.UtcNow.AddMonths(-1), ""));
        Assert.Equal((3, 3, 1, 1), (comebacks.Jobs, comebacks.Condemned, comebacks.CameBack, comebacks.CondemnedCameBack));
    }

    [Fact]
    public async Task Facts_can_be_made_again_from_the_entries_and_go_with_a_withdrawn_closing()
    {
        await using var database = await OwnAsync();
        var (experience, jobs) = (new ExperienceStore(database), new JobStore(database, Families));
        var id = await ClosedAsync(database, "hex-15");
        var since = DateTimeOffset.UtcNow.AddMonths(-1);
        var before = (await experience.PlacesAsync(since, ""), await experience.EstimatesAsync(since, "starting"), await experience.RepairsAsync(since, ""), await experience.CausesAsync(since, ""));
        Assert.NotEmpty(before.Item1);
        Assert.False(await experience.LacksFactsAsync());
        await using (var drop = database.Command("delete from job_facts"))
        {
            await drop.ExecuteNonQueryAsync();
        }

        Assert.True(await experience.LacksFactsAsync());
        await jobs.RebuildSummariesAsync();
        Assert.Equal(before.Item1, await experience.PlacesAsync(since, ""));
        Assert.Equal(before.Item2, await experience.EstimatesAsync(since, "starting"));
        Assert.Equal(before.Item3, await experience.RepairsAsync(since, ""));
        Assert.Equal(before.Item4, await experience.CausesAsync(since, ""));

        var job = (await jobs.FindAsync(id))!.Job;
        await jobs.AppendAsync(id, [new EntryDraft(Guid.NewGuid(), id, job.Head, TestDatabase.Ansa, DateTimeOffset.UtcNow, new EntryWithdrawn(job.HandedBack!.Entry.Id))], TestDatabase.Ansa, OutOfTurn.Keep);
        Assert.Empty(await experience.PlacesAsync(since, ""));
        Assert.Empty(await experience.ClosedSinceAsync(TestDatabase.Van.Id, since));
    }
}
