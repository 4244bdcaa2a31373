using System.Diagnostics;
using System.Text.Json;
using Npgsql;
using NpgsqlTypes;
using Screeline.Core.Access;
using Screeline.Core.Jobs;
using Screeline.Data;
using Screeline.Library;
using Screeline.Library.Demo;

namespace Screeline.Fleet;

/// <summary>Writes closed and open jobs with their chains, summaries and facts, as the application would have.</summary>
internal static class Loader
{
    private const int Vehicles = 240;

    public static async Task<int> RunAsync(string connection, int closed, int open, int seed)
    {
        var library = ShippedLibrary.Load();
        var random = new Random(seed);
        var watch = Stopwatch.StartNew();
        await using var database = NpgsqlDataSource.Create(connection);
        await using (var there = database.CreateCommand("select count(*) from jobs"))
        {
            if ((long)(await there.ExecuteScalarAsync())! > 0)
            {
                Console.Error.WriteLine("There are jobs already: an empty database is wanted.");
                return 2;
            }
        }

        var fleet = DemoFleet.Load();
        await using (var data = new Database(connection, null))
        {
            foreach (var p in fleet.People)
            {
                await new PeopleStore(data).AddAsync(new Person(p.Id, p.Name, p.Role));
            }

            foreach (var map in library.Maps)
            {
                await new DocumentStore(data).KeepAsync(map.Json, "application/json");
            }
        }

        var models = library.Maps.Select(m => m.Map.AppliesTo[0].Model).Distinct().ToList();
        var vehicles = Enumerable.Range(0, Vehicles).Select(i => (Id: Guid.NewGuid(), Name: $"Vehicle {i + 1}", Model: models[i % models.Count])).ToList();
        double[] paces = [0.8, 1.0, 1.3];
        var templates = library.Maps.SelectMany(m => paces.Select(pace => Told(library, fleet, m, pace))).ToList();
        Console.WriteLine($"{templates.Count} templates, {templates.Average(t => t.Entries.Count):0} entries on average, {watch.Elapsed.TotalSeconds:0} s");

        var now = DateTimeOffset.UtcNow;
        var jobs = new List<Made>(closed + open);
        for (var i = 0; i < closed + open; i++)
        {
            var template = templates[random.Next(templates.Count)];
            var candidates = vehicles.Where(v => v.Model == template.Map.Map.AppliesTo[0].Model).ToList();
            var vehicle = candidates[random.Next(candidates.Count)];
            var isOpen = i >= closed;
            jobs.Add(new Made(Guid.NewGuid(), template, vehicle.Id, vehicle.Name, isOpen ? 3 + random.Next(template.Entries.Count - 6) : template.Entries.Count, now - (isOpen ? TimeSpan.FromHours(random.Next(2, 200)) : TimeSpan.FromDays(2 + random.NextDouble() * 5 * 365))));
        }

        await WriteAsync(connection, library, vehicles, jobs, random);
        await using (var analyse = database.CreateCommand("analyze"))
        {
            await analyse.ExecuteNonQueryAsync();
        }

        Console.WriteLine($"{closed} closed and {open} open jobs, {jobs.Sum(j => (long)j.Count)} entries, in {watch.Elapsed.TotalSeconds:0} s");
        return 0;
    }

    private sealed record Template(ShippedMap Map, IReadOnlyList<DemoEntry> Entries, Job Job, Guid Actor);

    private sealed record Made(Guid Id, Template Template, Guid Vehicle, string VehicleName, int Count, DateTimeOffset OpenedAt)
    {
        public bool Closed => Count == Template.Entries.Count;
    }

    private static Template Told(ShippedLibrary library, DemoFleet fleet, ShippedMap map, double pace)
    {
        var system = library.System(map.Map.Family)!;
        var target = map.Map.Targets[^1];
        var repair = target.Repairs is [var named, ..] ? system.Repair(named)! : system.Repairs.First(r => r.IsMotor);
        var actor = fleet.People[0].Id;
        var t = new DemoTelling(library, Guid.NewGuid(), actor, TimeSpan.FromDays(1), map) { Pace = pace };
        t.Say(0, new JobOpened(Guid.NewGuid(), "V", map.Map.AppliesTo[0].Model, 12, system.Id, $"It fails: {system.Behaviours[0].Title.ToLowerInvariant()}", null));
        t.Say(4, new ComplaintNoted("It fails", [system.Behaviours[0].Id], "Always", 3, 3, null));
        t.Say(9, new DecisionMade(DecisionAct.Guess, repair.Title, "The likeliest by far.", repair.Id));
        var plan = t.Take(repair.Id, DeadMotor.LeavesOut(map.Map, dead: false));
        foreach (var action in plan.Removal)
        {
            if (pace > 1.2 && map.Map[action.Id].Fasteners.FirstOrDefault(f => f.Drive?.StartsWith("hex-", StringComparison.Ordinal) == true) is { } f)
            {
                t.Say(1, new FastenerFound(action.Id, f.Id, FastenerState.Seized, 1, null, null));
            }

            t.Apart(action);
        }

        t.Back(plan, plan.Refit.Count);
        t.Prove();
        t.Close("As decided.", null, null, system.RootCauses[(int)(pace * 10) % system.RootCauses.Count].Id);
        return new Template(map, t.Done().Entries, t.Job, actor);
    }

    private static async Task WriteAsync(string connection, ShippedLibrary library, List<(Guid Id, string Name, string Model)> vehicles, List<Made> jobs, Random random)
    {
        async Task CopyAsync<T>(string into, IEnumerable<T> rows, Func<NpgsqlBinaryImporter, T, Task> write)
        {
            await using var c = new NpgsqlConnection(connection);
            await c.OpenAsync();
            await using var copy = await c.BeginBinaryImportAsync($"copy {into} from stdin (format binary)");
            foreach (var row in rows)
            {
                await copy.StartRowAsync();
                await write(copy, row);
            }

            await copy.CompleteAsync();
        }

        await CopyAsync("vehicles (id, name, model, nominal_volts)", vehicles, async (c, v) =>
        {
            await c.WriteAsync(v.Id);
            await c.WriteAsync(v.Name);
            await c.WriteAsync(v.Model);
            await c.WriteAsync(12m, NpgsqlDbType.Numeric);
        });

        // Entries are made once, chained, and their heads kept: what a job's row names must be the hash of its last entry.
        var heads = new byte[jobs.Count][];
        IEnumerable<(Made Job, EntryDraft Draft, int Position, byte[] Body, byte[] Hash, DateTimeOffset At)> Entries()
        {
            for (var n = 0; n < jobs.Count; n++)
            {
                var (job, hash) = (jobs[n], EntryChain.Start);
                var begin = job.Template.Entries[0].Ago;
                for (var i = 0; i < job.Count; i++)
                {
                    var told = job.Template.Entries[i];
                    var at = Micro(job.OpenedAt + (begin - told.Ago));
                    var payload = told.Payload is JobOpened opened ? opened with { Vehicle = job.Vehicle, VehicleName = job.VehicleName, PromisedAt = job.Closed ? null : at.AddHours(random.Next(1, 60)) } : told.Payload;
                    var draft = new EntryDraft(Guid.NewGuid(), job.Id, i, told.Actor, at, payload);
                    var body = draft.Body();
                    hash = EntryChain.Next(hash, i + 1, told.Actor, at, body);
                    yield return (job, draft, i + 1, body, hash, at);
                }

                heads[n] = hash;
            }
        }

        // Jobs first, for the entries' reference; their heads are set when they are known.
        await CopyAsync("jobs (id, vehicle_id, head, head_hash)", jobs, async (c, j) =>
        {
            await c.WriteAsync(j.Id);
            await c.WriteAsync(j.Vehicle);
            await c.WriteAsync(j.Count);
            await c.WriteAsync(EntryChain.Start);
        });
        await CopyAsync("entries (job_id, position, id, based_on, actor, sent_by, occurred_at, occurred_offset_minutes, received_at, kind, version, payload, body, hash)", Entries(), async (c, e) =>
        {
            var kind = EntryKinds.ForPayload(e.Draft.Payload);
            await c.WriteAsync(e.Job.Id);
            await c.WriteAsync(e.Position);
            await c.WriteAsync(e.Draft.Id);
            await c.WriteAsync(e.Draft.BasedOn);
            await c.WriteAsync(e.Draft.Actor);
            await c.WriteAsync(e.Draft.Actor);
            await c.WriteAsync(e.At.UtcDateTime, NpgsqlDbType.TimestampTz);
            await c.WriteAsync((short)0);
            await c.WriteAsync(e.At.UtcDateTime, NpgsqlDbType.TimestampTz);
            await c.WriteAsync(kind.Name);
            await c.WriteAsync((short)kind.Version);
            await c.WriteAsync(EntryKinds.Write(e.Draft.Payload).GetRawText(), NpgsqlDbType.Jsonb);
            await c.WriteAsync(e.Body);
            await c.WriteAsync(e.Hash);
        });
        Console.WriteLine("entries written");
        await using (var database = NpgsqlDataSource.Create(connection))
        {
            await using var set = database.CreateCommand("update jobs set head_hash = x.hash from unnest($1, $2) as x(id, hash) where jobs.id = x.id");
            set.CommandTimeout = 600;
            set.Parameters.Add(new NpgsqlParameter { Value = jobs.Select(j => j.Id).ToArray() });
            set.Parameters.Add(new NpgsqlParameter { Value = heads });
            await set.ExecuteNonQueryAsync();
        }

        var link = EntryChain.Start;
        var links = new List<(long Link, int N, byte[] Hash)>();
        for (var n = 0; n < jobs.Count; n++)
        {
            link = EntryChain.NextHead(link, jobs[n].Id, heads[n]);
            links.Add((n + 1, n, link));
        }

        await CopyAsync("chain (link, job_id, position, head_hash, hash)", links, async (c, l) =>
        {
            await c.WriteAsync(l.Link);
            await c.WriteAsync(jobs[l.N].Id);
            await c.WriteAsync(jobs[l.N].Count);
            await c.WriteAsync(heads[l.N]);
            await c.WriteAsync(l.Hash);
        });
        await using (var database = NpgsqlDataSource.Create(connection))
        {
            await using var tip = database.CreateCommand("update chain_tip set link = $1, hash = $2");
            tip.Parameters.Add(new NpgsqlParameter { Value = (long)jobs.Count });
            tip.Parameters.Add(new NpgsqlParameter { Value = link });
            await tip.ExecuteNonQueryAsync();
        }

        // Of an open job the fold as far as it came, once for each length.
        var folds = new Dictionary<(Template, int), Job>();
        Job Fold(Made j)
        {
            if (j.Closed)
            {
                return j.Template.Job;
            }

            if (!folds.TryGetValue((j.Template, j.Count), out var job))
            {
                job = Job.Fold([.. j.Template.Job.History.Take(j.Count).Select(h => h.Entry)], new JobKnowledge(new Families(library), new Dictionary<string, AccessMap> { [j.Template.Map.Hash] = j.Template.Map.Map }));
                folds[(j.Template, j.Count)] = job;
            }

            return job;
        }

        var ended = jobs.Select(j => Micro(j.OpenedAt + (j.Template.Entries[0].Ago - j.Template.Entries[j.Count - 1].Ago))).ToList();
        await CopyAsync("job_summaries (job_id, vehicle_id, vehicle_name, model, family, words, stage, next, promised_at, opened_at, closed_at, disputes, position, confirmed, line)", jobs.Select((j, n) => (Job: j, Ended: ended[n])), async (c, x) =>
        {
            var s = JobSummary.FromJob(Fold(x.Job));
            await c.WriteAsync(x.Job.Id);
            await c.WriteAsync(x.Job.Vehicle);
            await c.WriteAsync(x.Job.VehicleName);
            await c.WriteAsync(s.Model);
            await c.WriteAsync(s.Family);
            await c.WriteAsync(s.Words);
            await c.WriteAsync(s.Stage.ToString());
            await c.WriteAsync(s.Next);
            await (x.Job.Closed ? c.WriteNullAsync() : c.WriteAsync(x.Ended.AddHours(20).UtcDateTime, NpgsqlDbType.TimestampTz));
            await c.WriteAsync(Micro(x.Job.OpenedAt).UtcDateTime, NpgsqlDbType.TimestampTz);
            await (x.Job.Closed ? c.WriteAsync(x.Ended.UtcDateTime, NpgsqlDbType.TimestampTz) : c.WriteNullAsync());
            await c.WriteAsync(0);
            await c.WriteAsync(x.Job.Count);
            await (s.Confirmed is null ? c.WriteNullAsync() : c.WriteAsync(s.Confirmed));
            await c.WriteAsync(JsonSerializer.Serialize(s.Line), NpgsqlDbType.Jsonb);
        });
        var closed = jobs.Select((j, n) => (Job: j, Ended: ended[n], Facts: (JobFacts?)null)).Where(x => x.Job.Closed).ToList();
        var facts = jobs.Select(j => j.Template).Distinct().ToDictionary(t => t, t => (Facts: JobFacts.FromJob(t.Job), Times: WorkTime.InJob(t.Job)));
        await CopyAsync("job_facts (job_id, vehicle_id, family, model, map_id, repair, act, part_condemned, cause, expected_minutes, planned_minutes, spent_minutes, waited_minutes, opened_at, closed_at)", closed, async (c, x) =>
        {
            var f = facts[x.Job.Template].Facts;
            await c.WriteAsync(x.Job.Id);
            await c.WriteAsync(x.Job.Vehicle);
            await c.WriteAsync(x.Job.Template.Map.Map.Family);
            await c.WriteAsync(x.Job.Template.Map.Map.AppliesTo[0].Model);
            await c.WriteAsync(f.Map!);
            await c.WriteAsync(f.Repair!);
            await c.WriteAsync(f.Act.ToString()!);
            await c.WriteAsync(f.PartCondemned);
            await c.WriteAsync(f.Cause!);
            foreach (var minutes in new[] { f.Expected, f.Planned, f.Spent, f.Waited })
            {
                await c.WriteAsync(minutes, NpgsqlDbType.Numeric);
            }

            await c.WriteAsync(Micro(x.Job.OpenedAt).UtcDateTime, NpgsqlDbType.TimestampTz);
            await c.WriteAsync(x.Ended.UtcDateTime, NpgsqlDbType.TimestampTz);
        });
        await CopyAsync("job_places (job_id, closed_at, place, planned_minutes, spent_minutes)", closed.SelectMany(x => facts[x.Job.Template].Facts.Places.Select(p => (x.Job.Id, x.Ended, Place: p))), async (c, x) =>
        {
            await c.WriteAsync(x.Id);
            await c.WriteAsync(x.Ended.UtcDateTime, NpgsqlDbType.TimestampTz);
            await c.WriteAsync(x.Place.Place);
            await c.WriteAsync(x.Place.Planned, NpgsqlDbType.Numeric);
            await c.WriteAsync(x.Place.Spent, NpgsqlDbType.Numeric);
        });
        await CopyAsync("job_findings (job_id, map_id, step, fastener, found, how_many)", closed.SelectMany(x => facts[x.Job.Template].Facts.Findings.Select(f => (x.Job, Finding: f))), async (c, x) =>
        {
            await c.WriteAsync(x.Job.Id);
            await c.WriteAsync(x.Job.Template.Map.Map.Id);
            await c.WriteAsync(x.Finding.Step);
            await c.WriteAsync(x.Finding.Fastener);
            await c.WriteAsync(x.Finding.Found.ToString());
            await c.WriteAsync(x.Finding.Count);
        });
        await CopyAsync("work_times (job_id, map_id, action, on_the_way_back, minutes)", closed.SelectMany(x => facts[x.Job.Template].Times.Select(t => (x.Job, Time: t))), async (c, x) =>
        {
            await c.WriteAsync(x.Job.Id);
            await c.WriteAsync(x.Job.Template.Map.Map.Id);
            await c.WriteAsync(x.Time.Action);
            await c.WriteAsync(x.Time.Phase == WorkPhase.Refit);
            await c.WriteAsync(x.Time.Minutes, NpgsqlDbType.Numeric);
        });
    }

    private static DateTimeOffset Micro(DateTimeOffset time) => new(time.UtcTicks / 10 * 10, TimeSpan.Zero);
}
