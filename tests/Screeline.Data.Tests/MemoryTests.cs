using System.Text.RegularExpressions;
using Npgsql;
using Screeline.Core.Jobs;
using Screeline.Core.Quantities;
using Screeline.Library;

namespace Screeline.Data.Tests;

/// <summary>What is kept in memory: never older than what another process has written, on a real PostgreSQL.</summary>
public sealed partial class MemoryTests(MemoryTests.OwnDatabase db) : IClassFixture<MemoryTests.OwnDatabase>
{
    /// <summary>A database that no other tests write to meanwhile: what is compared here is all of a shop.</summary>
    public sealed class OwnDatabase : TestDatabase;

    private static readonly Families Families = new(TestDatabase.Library);

    // A second process: its own connections, its own memory.
    private Database Other() => new(db.Owner, "screeline_app");

    public static TheoryData<string> Things => ["people", "vehicle", "tools", "calibration", "choice", "figures", "parameters", "accounts", "maps", "not needed"];

    [Theory, MemberData(nameof(Things))]
    public async Task What_another_process_changes_is_seen_at_the_next_look(string thing)
    {
        await using var other = Other();
        var (read, write) = On(thing, db.Database, other);
        var before = await read();
        Assert.Equal(before, await read());
        await write();
        var after = await read();
        Assert.NotEqual(before, after);
        Assert.Equal(after, await On(thing, other, other).Read());
    }

    // How a thing is read in one process, told as text, and changed in the other.
    private static (Func<Task<string>> Read, Func<Task> Write) On(string thing, Database here, Database there)
    {
        var (id, map) = (Guid.NewGuid(), TestDatabase.Map.Map.Id);
        static string Told<T>(IEnumerable<T> values) => string.Join('|', values);
        return thing switch
        {
            "people" => (async () => Told(await new PeopleStore(here).AllAsync()), () => new PeopleStore(there).AddAsync(new Person(id, "Somebody new", "viewer"))),
            "vehicle" => (async () => $"{await new VehicleStore(here).FindAsync(Vehicle)}", () => new VehicleStore(there).AddAsync(new Vehicle(Vehicle, "Memory 1", "Brannock Tideway", "", null, 12))),
            "tools" => (async () => Told((await new ToolStore(here).OwnedAsync()).Order()), () => new ToolStore(there).SetAsync(["memory-tool"])),
            "calibration" => (async () => Told(await new ToolStore(here).CalibrationsAsync()), async () =>
            {
                await new ToolStore(there).SetAsync(["calibrated-tool"]);
                await new ToolStore(there).CalibratedAsync("calibrated-tool", new DateOnly(2036, 1, 1));
            }),
            "choice" => (async () => $"{await new ShopChoiceStore(here).FindAsync("memory")}", () => new ShopChoiceStore(there).SetAsync("memory", $"other {id}")),
            "figures" => (async () => Told(await new ShopFigureStore(here).AllAsync()), () => new ShopFigureStore(there).SetAsync(new Dictionary<string, double> { ["memory"] = 1 })),
            "parameters" => (async () => Told(await new VehicleParameterStore(here).OfAsync(TestDatabase.Van.Id, "memory")), () => new VehicleParameterStore(there).SetAsync(TestDatabase.Van.Id, "memory", new Dictionary<string, double> { ["length"] = 2 })),
            "accounts" => (async () => Told(await new AccountStore(here).FindAsync([TestDatabase.Bram])), () => new AccountStore(there).AddAsync(new Person(TestDatabase.Bram, "Bram Quillow", "technician"), "memory-bram", "hash", null)),
            "maps" => (async () => Told((await new MapStore(here).LatestAsync()).Select(m => m.MapId)), async () => await new MapStore(there).KeepAsync("memory-map", await new DocumentStore(there).KeepAsync("{}", "application/json"), TestDatabase.Ansa, 0)),
            _ => (async () => Told((await new MapStore(here).NotNeededAsync(map)).Select(m => (m.Operation, m.Stands))), () => new MapStore(there).MarkAsync(map, "memory-step", TestDatabase.Ansa, null)),
        };
    }

    private static readonly Guid Vehicle = Guid.NewGuid();

    [Fact]
    public async Task One_look_is_made_of_one_state_and_the_next_of_the_next()
    {
        await using var other = Other();
        var (read, write) = On("choice", db.Database, other);
        var choices = new ShopChoiceStore(db.Database);
        await choices.SetAsync("memory", "first");
        using (ShopMemory.BeginLook())
        {
            Assert.Equal("first", await read());
            await write();
            Assert.Equal("first", await read());
        }

        Assert.StartsWith("other", await read(), StringComparison.Ordinal);
    }

    /// <summary>A read that is kept in memory must be of tables that tell when they change, or of what never changes.</summary>
    [Fact]
    public async Task Every_table_behind_what_is_kept_tells_when_it_changes()
    {
        var told = new HashSet<string>(StringComparer.Ordinal);
        await using (var command = db.Database.Command("select c.relname from pg_trigger t join pg_class c on c.oid = t.tgrelid where t.tgname = 'shop_changed' and t.tgenabled = 'O'"))
        await using (var reader = await command.ExecuteReaderAsync())
        {
            while (await reader.ReadAsync())
            {
                told.Add(reader.GetString(0));
            }
        }

        // Documents go by their hash; a job's number never changes; a summary that is counted is of a closed job, which changes its facts with it.
        string[] never = ["documents", "jobs", "job_summaries"];
        var folder = Path.Combine(Root(), "src", "Screeline.Data");
        var read = 0;
        foreach (var text in Directory.EnumerateFiles(folder, "*.cs").Select(File.ReadAllText))
        {
            foreach (Match kept in Kept().Matches(text))
            {
                var sql = Constants().Replace(kept.Value, hole => Regex.Match(text, $"const string {hole.Groups[1].Value} =.*?;", RegexOptions.Singleline).Value);
                foreach (Match table in Table().Matches(sql))
                {
                    read++;
                    Assert.True(told.Contains(table.Groups[1].Value) || never.Contains(table.Groups[1].Value), $"{table.Groups[1].Value} in {kept.Value[..80]}");
                }
            }
        }

        Assert.InRange(read, 20, 100);
    }

    [Fact]
    public async Task Two_processes_that_write_in_turn_always_see_the_whole_job()
    {
        await using var other = Other();
        JobStore[] processes = [db.Jobs, new JobStore(other, Families)];
        var (id, number) = await db.OpenJobAsync();
        var random = new Random(20361126);
        var last = Guid.Empty;
        for (var i = 0; i < 60; i++)
        {
            var writer = processes[random.Next(2)];
            var job = (await writer.FindAsync(number))!.Job;
            Payload payload = random.Next(4) switch
            {
                0 when last != Guid.Empty => new EntryWithdrawn(last),
                1 => new ReadingTaken("battery-rest", new Figure(12 + i / 100m, Units.Volt), null),
                _ => new NoteAdded(null, $"note {i}"),
            };
            last = payload is EntryWithdrawn ? Guid.Empty : Guid.NewGuid();
            Assert.IsType<AppendResult.Kept>(await writer.AppendAsync(id, [new EntryDraft(last == Guid.Empty ? Guid.NewGuid() : last, id, job.Head, TestDatabase.Ansa, DateTimeOffset.Now, payload)], TestDatabase.Ansa, OutOfTurn.Keep));

            // A third that has seen nothing yet reads every entry.
            var whole = (await new JobStore(other, Families).FindAsync(id))!.Job;
            foreach (var process in processes)
            {
                var seen = (await process.FindAsync(number))!.Job;
                Assert.Equal(whole.History.Select(h => (h.Entry.Id, h.WithdrawnBy?.Id)), seen.History.Select(h => (h.Entry.Id, h.WithdrawnBy?.Id)));
                Assert.Equal(whole.Readings.Select(r => r.Payload), seen.Readings.Select(r => r.Payload));
            }
        }
    }

    [Fact]
    public async Task What_is_remembered_is_given_up_when_the_chain_does_not_lead_from_it_to_the_head()
    {
        var owner = await TestDatabase.OwnerOfNewAsync();
        await using var here = new Database(owner, "screeline_app");
        await using var forger = new Database(owner);
        var (jobs, forged, id) = (new JobStore(here, Families), new JobStore(forger, Families), Guid.NewGuid());
        EntryDraft Draft(int basedOn, Payload payload) => new(Guid.NewGuid(), id, basedOn, TestDatabase.Ansa, DateTimeOffset.Now, payload);
        await jobs.OpenAsync(Draft(0, new JobOpened(TestDatabase.Van.Id, TestDatabase.Van.Name, TestDatabase.Van.Model, 12, "starting", "It only clicks", null)), TestDatabase.Ansa);
        await jobs.AppendAsync(id, [Draft(1, new NoteAdded(null, "first"))], TestDatabase.Ansa, OutOfTurn.Keep);
        Assert.Equal(2, (await jobs.FindAsync(id))!.Job.Head);
        // Somebody who owns the tables writes the past anew, with hashes that fit.
        await using (var connection = new NpgsqlConnection(owner))
        {
            await connection.OpenAsync();
            await using var cut = new NpgsqlBatch(connection);
            cut.BatchCommands.Add(new NpgsqlBatchCommand("delete from chain where job_id = $1 and position = 2") { Parameters = { new NpgsqlParameter { Value = id } } });
            cut.BatchCommands.Add(new NpgsqlBatchCommand("delete from entries where job_id = $1 and position = 2") { Parameters = { new NpgsqlParameter { Value = id } } });
            cut.BatchCommands.Add(new NpgsqlBatchCommand("update jobs set head = 1, head_hash = (select hash from entries where job_id = $1 and position = 1) where id = $1") { Parameters = { new NpgsqlParameter { Value = id } } });
            await cut.ExecuteNonQueryAsync();
        }

        Assert.IsType<AppendResult.Kept>(await forged.AppendAsync(id, [Draft(1, new NoteAdded(null, "another"))], TestDatabase.Ansa, OutOfTurn.Keep));
        Assert.Equal("another", Assert.IsType<NoteAdded>((await jobs.FindAsync(id))!.Job.History[1].Entry.Payload).Text);
    }

    [Fact]
    public async Task Many_who_wait_for_one_job_leave_connections_for_those_who_read()
    {
        var (id, _) = await db.OpenJobAsync();
        var (_, readable) = await db.OpenJobAsync();
        await using var other = Other();
        var jobs = new JobStore(other, Families);
        await using var connection = new NpgsqlConnection(db.Owner);
        await connection.OpenAsync();
        await using var hold = await connection.BeginTransactionAsync();
        await using (var line = new NpgsqlCommand("select 1 from jobs where id = $1 for update", connection, hold) { Parameters = { new NpgsqlParameter { Value = id } } })
        {
            await line.ExecuteNonQueryAsync();
        }

        // More than there are connections.
        var writers = Enumerable.Range(0, 60).Select(i => jobs.AppendAsync(id, [new EntryDraft(Guid.NewGuid(), id, 1, TestDatabase.Ansa, DateTimeOffset.Now, new NoteAdded(null, $"{i}"))], TestDatabase.Ansa, OutOfTurn.Keep)).ToList();
        Assert.NotNull(await jobs.FindAsync(readable));
        Assert.All(writers, w => Assert.False(w.IsCompleted));
        await hold.RollbackAsync();
        Assert.All(await Task.WhenAll(writers), w => Assert.IsType<AppendResult.Kept>(w));
        Assert.Equal(61, (await jobs.FindAsync(id))!.Job.Head);
    }

    [Fact]
    public async Task Jobs_seen_longest_ago_are_forgotten_first()
    {
        var (id, _) = await db.OpenJobAsync();
        var entry = (await db.Jobs.FindAsync(id))!.Job.History[0].Entry;
        var memory = new JobMemory();
        // Long jobs of one opening and many notes, as many as fit and two more.
        Job Long(int entries)
        {
            var own = Guid.NewGuid();
            return Job.Fold([entry with { Draft = entry.Draft with { Job = own } }, .. Enumerable.Range(2, entries - 1).Select(p => entry with { Position = p, Draft = entry.Draft with { Id = Guid.NewGuid(), Job = own, Payload = new NoteAdded(null, "n") } })],
                new JobKnowledge(Families, new Dictionary<string, Core.Access.AccessMap>()));
        }

        List<Job> jobs = [.. Enumerable.Range(0, 12).Select(_ => Long(JobMemory.MostEntries / 10))];
        jobs.ForEach(j => memory.Keep(j, [1]));
        Assert.Equal(JobMemory.MostEntries, memory.Entries);
        Assert.Null(memory.Find(jobs[0].Id));
        Assert.Null(memory.Find(jobs[1].Id));
        Assert.NotNull(memory.Find(jobs[2].Id));
        // It was looked at just now, so another one goes.
        memory.Keep(Long(5), [1]);
        Assert.NotNull(memory.Find(jobs[2].Id));
        Assert.Null(memory.Find(jobs[3].Id));
        // The same job again takes the place of what was known of it.
        memory.Keep(jobs[2], [2]);
        Assert.Equal([2], memory.Find(jobs[2].Id)!.Value.HeadHash);
        Assert.InRange(memory.Entries, 1, JobMemory.MostEntries);
    }

    private static string Root()
    {
        var folder = new DirectoryInfo(AppContext.BaseDirectory);
        while (!File.Exists(Path.Combine(folder.FullName, "Screeline.slnx")))
        {
            folder = folder.Parent!;
        }

        return folder.FullName;
    }

    [GeneratedRegex(@"Memory\.GetAsync<.*?\n    \}, cancel\);", RegexOptions.Singleline)]
    private static partial Regex Kept();

    [GeneratedRegex(@"\{(Columns|LatestJobs)\}")]
    private static partial Regex Constants();

    [GeneratedRegex(@"\b(?:from|join) ([a-z_]+)\b")]
    private static partial Regex Table();
}
