using System.Text.Json;
using Npgsql;
using Screeline.Core.Jobs;
using Screeline.Core.People;
using Screeline.Core.Quantities;

namespace Screeline.Data.Tests;

/// <summary>The stream of a job on a real PostgreSQL.</summary>
public sealed class JobStoreTests(TestDatabase db)
{
    private static readonly ComplaintNoted Clunk = new("It only clicks", ["one-clunk"], "always", 5, 5, null);
    private static readonly ReadingTaken Rest = new("battery-rest", new Figure(12.60m, Units.Volt), null);

    /// <summary>Each entry of a batch is judged by the job with those before it: what an apprentice ticks first, a second person looks at before the next.</summary>
    [Fact]
    public async Task A_batch_is_judged_entry_by_entry()
    {
        var (id, _) = await db.OpenJobAsync();
        var nell = new Person(Guid.NewGuid(), "Nell of the batch", "apprentice");
        await new PeopleStore(db.Database).AddAsync(nell);
        var plan = Core.Access.Planning.RoutePlanner.Best(TestDatabase.Map.Map);
        Payload[] before =
        [
            new ComplaintNoted("w", ["silence"], "always", 1, 1, null), new DecisionMade(DecisionAct.Guess, "starter replaced", "for the test", "starter"),
            new RouteTaken(TestDatabase.Map.Hash, TestDatabase.Map.Map.Targets[0].Id, [.. plan.Removal.Select(a => a.Id)], [.. plan.Refit.Select(a => a.Id)]),
            .. plan.Removal.Select(a => a.Id).TakeWhile(x => x != "raised").Select(x => new StepDone(WorkPhase.Apart, x, null, [])),
        ];
        foreach (var payload in before)
        {
            Assert.IsType<AppendResult.Kept>(await db.SayAsync(id, payload));
        }

        var head = (await db.Jobs.FindAsync(id))!.Job.Head;
        EntryDraft Draft(string step) => new(Guid.NewGuid(), id, head, nell.Id, DateTimeOffset.Now, new StepDone(WorkPhase.Apart, step, null, []), 0);
        var both = await db.Jobs.AppendAsync(id, [Draft("raised"), Draft("undertray")], nell.Id, OutOfTurn.Refuse);
        Assert.Contains("second person", Assert.IsType<AppendResult.OutOfOrder>(both).Reason, StringComparison.Ordinal);
        Assert.Equal(head, (await db.Jobs.FindAsync(id))!.Job.Head);
        var one = Assert.IsType<AppendResult.Kept>(await db.Jobs.AppendAsync(id, [Draft("raised")], nell.Id, OutOfTurn.Refuse));
        Assert.Equal(["step-done", "second-wanted"], one.Entries.Select(e => EntryKinds.ForPayload(e.Payload).Name));
        // A technician's tick that an apprentice sends is judged by the lesser of both.
        var sent = await db.Jobs.AppendAsync(id, [new EntryDraft(Guid.NewGuid(), id, 0, TestDatabase.Ansa, DateTimeOffset.Now, new SecondSigned(one.Entries[0].Id), 0)], nell.Id, OutOfTurn.Refuse, sender: Role.Apprentice);
        Assert.IsType<AppendResult.NotAllowed>(sent);
    }

    [Fact]
    public async Task What_is_kept_is_read_back_as_it_was()
    {
        var (id, number) = await db.OpenJobAsync();
        var at = new DateTimeOffset(2036, 5, 4, 8, 1, 2, 345, TimeSpan.FromHours(2)).AddMicroseconds(678);
        Assert.IsType<AppendResult.Kept>(await db.SayAsync(id, Clunk));
        Assert.IsType<AppendResult.Kept>(await db.SayAsync(id, Rest, at: at));
        var found = await db.Jobs.FindAsync(number);
        Assert.Equal(number, found!.Number);
        Assert.Equal(3, found.Job.Head);
        var entry = found.Job.History[2].Entry;
        Assert.Equal(Rest, entry.Payload);
        Assert.Equal("12.60", ((ReadingTaken)entry.Payload).Value!.Value.Number.ToString(System.Globalization.CultureInfo.InvariantCulture));
        Assert.Equal((at, at.Offset), (entry.Draft.OccurredAt, entry.Draft.OccurredAt.Offset));
    }

    [Fact]
    public async Task An_unknown_job_is_none()
    {
        Assert.Null(await db.Jobs.FindAsync(999_999));
        Assert.Null(await db.Jobs.FindAsync(Guid.NewGuid()));
        Assert.IsType<AppendResult.NoSuchJob>(await db.Jobs.AppendAsync(Guid.NewGuid(), [new EntryDraft(Guid.NewGuid(), Guid.NewGuid(), 0, TestDatabase.Ansa, DateTimeOffset.Now, Rest)], TestDatabase.Ansa, OutOfTurn.Keep));
    }

    [Fact]
    public async Task Two_writers_cannot_take_the_same_place()
    {
        var (id, _) = await db.OpenJobAsync();
        await db.SayAsync(id, Clunk);
        // Twenty at once, each on its own test-independent subject: all are taken, each in a place of its own.
        var tests = new[] { "battery-rest", "battery-load", "battery-cranking", "starter-volts-cranking", "ground-drop-cranking", "switched-terminal-cranking", "main-terminal-key-off" };
        var results = await Task.WhenAll(tests.Select(t => db.SayAsync(id, new ReadingTaken(t, new Figure(1, Units.Volt), null), basedOn: 2)));
        Assert.All(results, r => Assert.IsType<AppendResult.Kept>(r));
        var job = (await db.Jobs.FindAsync(id))!.Job;
        Assert.Equal(Enumerable.Range(1, 2 + tests.Length), job.History.Select(h => h.Entry.Position));
    }

    [Fact]
    public async Task Of_two_who_say_the_same_thing_the_second_is_shown_the_first()
    {
        var (id, _) = await db.OpenJobAsync();
        await db.SayAsync(id, Clunk);
        var results = await Task.WhenAll(Enumerable.Range(0, 8).Select(i => db.SayAsync(id, Rest with { Value = new Figure(12.5m + i / 100m, Units.Volt) }, basedOn: 2)));
        Assert.Single(results.OfType<AppendResult.Kept>());
        Assert.All(results.OfType<AppendResult.Clashed>(), c => Assert.IsType<ReadingTaken>(Assert.Single(c.Since).Payload));
        Assert.Equal(7, results.OfType<AppendResult.Clashed>().Count());
        Assert.Equal(3, (await db.Jobs.FindAsync(id))!.Job.Head);
    }

    [Fact]
    public async Task The_same_entry_again_gets_the_original_answer()
    {
        var (id, _) = await db.OpenJobAsync();
        await db.SayAsync(id, Clunk);
        var draft = new EntryDraft(Guid.NewGuid(), id, 2, TestDatabase.Ansa, DateTimeOffset.Now, Rest);
        var first = Assert.IsType<AppendResult.Kept>(await db.Jobs.AppendAsync(id, [draft], TestDatabase.Ansa, OutOfTurn.Refuse));
        await db.SayAsync(id, new ReadingTaken("engine-turns", null, "turns"));
        var again = await Task.WhenAll(Enumerable.Range(0, 5).Select(_ => db.Jobs.AppendAsync(id, [draft], TestDatabase.Ansa, OutOfTurn.Refuse)));
        Assert.All(again, a => Assert.Equal(first.Entries[0].Position, Assert.IsType<AppendResult.Repeated>(a).Entries[0].Position));
        Assert.Equal(4, (await db.Jobs.FindAsync(id))!.Job.Head);
    }

    [Fact]
    public async Task The_same_id_with_other_bytes_is_refused_and_both_are_kept()
    {
        var (id, _) = await db.OpenJobAsync();
        await db.SayAsync(id, Clunk);
        var entry = Guid.NewGuid();
        await db.SayAsync(id, Rest, id: entry);
        Assert.IsType<AppendResult.IdTaken>(await db.SayAsync(id, Rest with { Value = new Figure(11, Units.Volt) }, id: entry));
        Assert.Equal(1, await db.ScalarAsync<long>($"select count(*) from entry_collisions where id = '{entry}' and position('11' in encode(body, 'escape')) > 0"));
        Assert.Equal(Rest, (await db.Jobs.FindAsync(id))!.Job.History[2].Entry.Payload);
    }

    [Fact]
    public async Task A_batch_is_kept_whole_or_not_at_all()
    {
        var (id, _) = await db.OpenJobAsync();
        await db.SayAsync(id, Clunk);
        EntryDraft Draft(Payload p) => new(Guid.NewGuid(), id, 2, TestDatabase.Ansa, DateTimeOffset.Now, p);
        Assert.IsType<AppendResult.Malformed>(await db.Jobs.AppendAsync(id, [Draft(Rest), Draft(new ReadingTaken("moon", null, null))], TestDatabase.Ansa, OutOfTurn.Keep));
        Assert.Equal(2, (await db.Jobs.FindAsync(id))!.Job.Head);
        Assert.IsType<AppendResult.Kept>(await db.Jobs.AppendAsync(id, [Draft(Rest), Draft(new ReadingTaken("engine-turns", null, "turns"))], TestDatabase.Ansa, OutOfTurn.Keep));
        Assert.Equal(4, (await db.Jobs.FindAsync(id))!.Job.Head);
    }

    [Fact]
    public async Task Out_of_turn_an_observation_is_kept_as_disputed_or_refused_and_a_decision_always_refused()
    {
        var (id, _) = await db.OpenJobAsync();
        await db.SayAsync(id, Clunk);
        var tick = new TorqueSet("undertray", "edge", TorqueHow.Wrench, new Figure(4, Units.NewtonMetre), null);
        Assert.IsType<AppendResult.Malformed>(await db.SayAsync(id, tick, outOfTurn: OutOfTurn.Keep)); // no way in, so no such fastener
        await db.SayAsync(id, new DecisionMade(DecisionAct.Guess, "starter replaced", "quick to change"));
        var plan = Core.Access.Planning.RoutePlanner.Best(TestDatabase.Map.Map);
        Assert.IsType<AppendResult.Kept>(await db.SayAsync(id, new RouteTaken(TestDatabase.Map.Hash, "starter-exchanged", [.. plan.Removal.Select(a => a.Id)], [.. plan.Refit.Select(a => a.Id)])));
        Assert.IsType<AppendResult.OutOfOrder>(await db.SayAsync(id, tick));
        Assert.Single(Assert.IsType<AppendResult.Kept>(await db.SayAsync(id, tick, outOfTurn: OutOfTurn.Keep)).Job.Disputes);
        var checks = (await db.Jobs.FindAsync(id))!.Job.Checks.Where(c => c.Moment == Core.Diagnosis.ProofMoment.End).Select(c => c.Id).ToList();
        Assert.IsType<AppendResult.OutOfOrder>(await db.SayAsync(id, new HandedBack("x", null, null, new CauseSaid("age", "noted"), checks), outOfTurn: OutOfTurn.Keep));
    }

    [Fact]
    public async Task Every_place_is_chained_to_the_one_before_and_every_job_to_all()
    {
        var (id, _) = await db.OpenJobAsync();
        await db.SayAsync(id, Clunk);
        await db.SayAsync(id, Rest);
        await using var connection = new NpgsqlConnection(db.Owner);
        await connection.OpenAsync();
        var hash = EntryChain.Start;
        await using (var read = new NpgsqlCommand("select position, sent_by, received_at, body, hash from entries where job_id = $1 order by position", connection) { Parameters = { new() { Value = id } } })
        await using (var rows = await read.ExecuteReaderAsync())
        {
            while (await rows.ReadAsync())
            {
                hash = EntryChain.Next(hash, rows.GetInt32(0), rows.GetGuid(1), rows.GetFieldValue<DateTimeOffset>(2), rows.GetFieldValue<byte[]>(3));
                Assert.Equal(hash, rows.GetFieldValue<byte[]>(4));
            }
        }

        Assert.Equal(Convert.ToHexStringLower(hash), await db.Jobs.HeadHashAsync(id));
        // Other tests grow the chain meanwhile: a snapshot is checked from its beginning.
        var link = EntryChain.Start;
        await using var chain = new NpgsqlCommand("select link, job_id, head_hash, hash from chain order by link", connection);
        await using var links = await chain.ExecuteReaderAsync();
        var n = 0L;
        while (await links.ReadAsync())
        {
            Assert.Equal(++n, links.GetInt64(0));
            link = EntryChain.NextHead(link, links.GetGuid(1), links.GetFieldValue<byte[]>(2));
            Assert.Equal(link, links.GetFieldValue<byte[]>(3));
        }

        Assert.True(n >= 3);
    }

    [Fact]
    public async Task The_copy_for_queries_says_what_the_hashed_bytes_say()
    {
        var (id, _) = await db.OpenJobAsync();
        await db.SayAsync(id, Clunk);
        await using var connection = new NpgsqlConnection(db.Owner);
        await connection.OpenAsync();
        await using var read = new NpgsqlCommand("select payload = convert_from(body, 'UTF8')::jsonb -> 'payload' from entries", connection);
        await using var rows = await read.ExecuteReaderAsync();
        while (await rows.ReadAsync())
        {
            Assert.True(rows.GetBoolean(0));
        }
    }

    [Fact]
    public async Task The_application_may_add_entries_and_read_them_and_nothing_else()
    {
        var (id, _) = await db.OpenJobAsync();
        foreach (var sql in new[] { "update entries set kind = 'x'", "delete from entries", "truncate entries", "update chain set position = 1", "delete from chain", "update documents set media_type = 'x'", "delete from jobs", "drop table entries", "create table mine (x int)" })
        {
            await using var command = db.Database.Command(sql);
            var refused = await Assert.ThrowsAsync<PostgresException>(() => command.ExecuteNonQueryAsync());
            Assert.Equal(PostgresErrorCodes.InsufficientPrivilege, refused.SqlState);
        }

        Assert.NotNull(await db.Jobs.FindAsync(id));
    }

    [Fact]
    public async Task Commits_are_on_disk_when_they_are_acknowledged()
    {
        await using var command = db.Database.Command("show synchronous_commit");
        Assert.Equal("on", await command.ExecuteScalarAsync());
    }

    [Fact]
    public async Task Summaries_can_be_thrown_away_and_made_again()
    {
        var (id, number) = await db.OpenJobAsync();
        await db.SayAsync(id, Clunk);
        await db.SayAsync(id, new WaitingSet("a part", DateTimeOffset.UtcNow.AddDays(1)));
        const string all = "select coalesce(jsonb_agg(to_jsonb(s) order by s.job_id)::text, '') from job_summaries s where job_id = ";
        var before = await db.ScalarAsync<string>($"{all}'{id}'");
        await db.ScalarAsync<object>($"delete from job_summaries where job_id = '{id}'");
        await db.Jobs.RebuildSummariesAsync();
        Assert.Equal(before, await db.ScalarAsync<string>($"{all}'{id}'"));
        var row = Assert.Single(await new SummaryStore(db.Database).OpenAsync($"job {number}"), r => r.Number == number);
        Assert.Equal("a part", row.Summary.WaitsFor);
        Assert.Equal(JsonSerializer.Serialize(SectionLine.ForJob((await db.Jobs.FindAsync(id))!.Job)), JsonSerializer.Serialize(row.Summary.Line));
    }

    [Theory]
    [InlineData("only clicks", true)]
    [InlineData("TIDEWAY 3", true)]
    [InlineData("100 %", false)]
    [InlineData("_", false)]
    [InlineData("'; drop table jobs; --", false)]
    [InlineData("", true)]
    public async Task The_yard_is_searched_by_words(string words, bool found)
    {
        var (_, number) = await db.OpenJobAsync();
        Assert.Equal(found, (await new SummaryStore(db.Database).OpenAsync(words)).Any(r => r.Number == number));
    }

    [Fact]
    public async Task Opening_twice_with_the_same_id_opens_one_job()
    {
        var draft = new EntryDraft(Guid.NewGuid(), Guid.NewGuid(), 0, TestDatabase.Ansa, DateTimeOffset.Now, new JobOpened(TestDatabase.Van.Id, "Tideway 3", "Brannock Tideway", 12, "starting", "w", null));
        var numbers = await Task.WhenAll(Enumerable.Range(0, 4).Select(_ => db.Jobs.OpenAsync(draft, TestDatabase.Ansa)));
        Assert.Single(numbers.Distinct());
        Assert.Equal(1, (await db.Jobs.FindAsync(numbers[0]))!.Job.Head);
    }
}
