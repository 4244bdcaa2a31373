using System.Collections.Concurrent;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using Npgsql;
using Screeline.Core.Access;
using Screeline.Core.Formats;
using Screeline.Core.Jobs;
using Screeline.Core.People;

namespace Screeline.Data;

/// <summary>What to do with an observation that does not fit the job as it stands.</summary>
public enum OutOfTurn
{
    /// <summary>Refuse it with the reason: somebody sits before the screen and can choose.</summary>
    Refuse,
    /// <summary>Keep it as disputed: it was done in the world, and nobody is there to ask.</summary>
    Keep,
    /// <summary>The same, and sent by one device in the order it was made there: what its author said before does not come before them.</summary>
    KeepInLine,
}

/// <summary>What came of appending entries.</summary>
public abstract record AppendResult
{
    /// <summary>They are stored, on disk, at these positions.</summary>
    public sealed record Kept(Job Job, IReadOnlyList<Entry> Entries) : AppendResult;
    /// <summary>They were stored already, byte for byte; nothing was added.</summary>
    public sealed record Repeated(Job Job, IReadOnlyList<Entry> Entries) : AppendResult;
    /// <summary>Somebody else came first; here is what they did. Nothing was added.</summary>
    public sealed record Clashed(Job Job, IReadOnlyList<Entry> Since) : AppendResult;
    /// <summary>It does not fit the job as it stands. Nothing was added.</summary>
    public sealed record OutOfOrder(Job Job, string Reason) : AppendResult;
    /// <summary>It cannot be what happened. Nothing was added.</summary>
    public sealed record Malformed(Job Job, IReadOnlyList<FormatFault> Faults) : AppendResult;
    /// <summary>The id is taken by other bytes; both are kept, the first in the stream.</summary>
    public sealed record IdTaken(Guid Id) : AppendResult;
    /// <summary>Whoever said it may not say it. Nothing was added.</summary>
    public sealed record NotAllowed(Job Job, string Reason) : AppendResult;
    /// <summary>There is no such job.</summary>
    public sealed record NoSuchJob : AppendResult;
}

/// <summary>A job with the number people call it by.</summary>
public sealed record NumberedJob(long Number, Job Job);

/// <summary>Jobs as streams of entries. The only way to change a job is to append to it.</summary>
public sealed partial class JobStore(Database database, IFamilies families)
{
    // Maps never change under their hash, so what was read once can be kept; the bound keeps a hostile stream from filling memory.
    private const int MapsKept = 200;
    private static readonly ConcurrentDictionary<string, AccessMap> Maps = new(StringComparer.Ordinal);

    /// <summary>Opens a job with its first entry and tells its number. The same id again changes nothing.</summary>
    public async Task<long> OpenAsync(EntryDraft draft, Guid sentBy, CancellationToken cancel = default)
    {
        var opened = (JobOpened)draft.Payload;
        await using var connection = await database.OpenAsync(cancel);
        await using var transaction = await connection.BeginTransactionAsync(cancel);
        await using (var insert = new NpgsqlCommand("insert into jobs (id, vehicle_id, head, head_hash) values ($1, $2, 0, $3) on conflict (id) do nothing", connection, transaction)
            .With(draft.Job, opened.Vehicle, EntryChain.Start))
        {
            if (await insert.ExecuteNonQueryAsync(cancel) == 1)
            {
                var entry = new Entry(draft, 1, sentBy, Microseconds(DateTimeOffset.UtcNow));
                await WriteAsync(connection, transaction, EntryChain.Start, [entry], Job.Fold([entry], new JobKnowledge(families, new Dictionary<string, AccessMap>())), cancel);
            }
        }

        await using var number = new NpgsqlCommand("select number from jobs where id = $1", connection, transaction).With(draft.Job);
        var result = (long)(await number.ExecuteScalarAsync(cancel))!;
        await transaction.CommitAsync(cancel);
        return result;
    }

    /// <summary>Appends entries to a job, all or none.</summary>
    /// <param name="job">The job.</param>
    /// <param name="drafts">The entries in order.</param>
    /// <param name="sentBy">Who is signed in.</param>
    /// <param name="outOfTurn">What to do with an observation that does not fit.</param>
    /// <param name="receivedAt">The server's clock; null for now. The demo story sets it, and says itself where a second person was asked for.</param>
    /// <param name="cancel">Stops waiting.</param>
    public async Task<AppendResult> AppendAsync(Guid job, IReadOnlyList<EntryDraft> drafts, Guid sentBy, OutOfTurn outOfTurn, DateTimeOffset? receivedAt = null, CancellationToken cancel = default)
    {
        await using var connection = await database.OpenAsync(cancel);
        await using var transaction = await connection.BeginTransactionAsync(cancel);

        // One message: the row lock puts writers of one job in line, and what is read after it is the last that was committed.
        await using var look = new NpgsqlBatch(connection, transaction);
        look.Add("select head_hash from jobs where id = $1 for update", job);
        look.Add(EntriesOf, job);
        look.Add("select id, body from entries where id = any($1)", drafts.Select(d => d.Id).ToArray());
        look.Add("select id, role from people where id = any($1)", drafts.Select(d => d.Actor).Distinct().ToArray());
        byte[] headHash;
        List<Entry> stored;
        Dictionary<Guid, byte[]> known;
        Dictionary<Guid, Role> roles;
        await using (var reader = await look.ExecuteReaderAsync(cancel))
        {
            if ((await reader.RowsAsync(r => r.GetFieldValue<byte[]>(0), cancel)) is not [var head])
            {
                return new AppendResult.NoSuchJob();
            }

            headHash = head;
            await reader.NextResultAsync(cancel);
            stored = await reader.RowsAsync(r => ReadEntry(job, r), cancel);
            await reader.NextResultAsync(cancel);
            known = (await reader.RowsAsync(r => (Id: r.GetGuid(0), Body: r.GetFieldValue<byte[]>(1)), cancel)).ToDictionary(x => x.Id, x => x.Body);
            await reader.NextResultAsync(cancel);
            roles = (await reader.RowsAsync(r => (Id: r.GetGuid(0), Role: Roles.Of(r.GetString(1))), cancel)).ToDictionary(x => x.Id, x => x.Role);
        }

        if (known.Count > 0)
        {
            var repeat = await RepeatAsync(connection, transaction, known, stored, drafts, job, sentBy, cancel);
            await transaction.CommitAsync(cancel);
            return repeat;
        }

        // PostgreSQL keeps microseconds; what is hashed must be what is read back.
        var received = Microseconds(receivedAt ?? DateTimeOffset.UtcNow);
        List<Entry> added = [.. drafts.Select((d, i) => new Entry(d, stored.Count + 1 + i, sentBy, received))];
        if (drafts.Select(d => Roles.Refuses(roles.GetValueOrDefault(d.Actor), d.Payload)).FirstOrDefault(reason => reason is not null) is { } reason)
        {
            return new AppendResult.NotAllowed(Job.Fold(stored, await KnowledgeAsync(connection, transaction, stored, [], cancel)), reason);
        }

        var knowledge = await KnowledgeAsync(connection, transaction, stored, drafts.Select(d => d.Payload).OfType<RouteTaken>().Select(r => r.Map), cancel);
        if (receivedAt is null && drafts.Any(d => roles.GetValueOrDefault(d.Actor) == Role.Apprentice))
        {
            added = WithSeconds(stored, added, knowledge, roles);
        }

        var (refusal, after) = Judge(stored, added, knowledge, outOfTurn);
        if (refusal is not null)
        {
            return refusal;
        }

        await WriteAsync(connection, transaction, headHash, added, after, cancel);
        await transaction.CommitAsync(cancel);
        return new AppendResult.Kept(after, added);
    }

    /// <summary>A job by the number people call it by, or null.</summary>
    public async Task<NumberedJob?> FindAsync(long number, CancellationToken cancel = default)
    {
        await using var connection = await database.OpenAsync(cancel);
        await using var find = new NpgsqlCommand("select id from jobs where number = $1", connection).With(number);
        return await find.ExecuteScalarAsync(cancel) is Guid id ? new NumberedJob(number, await LoadAsync(connection, id, cancel)) : null;
    }

    /// <summary>A job by id with its number, or null.</summary>
    public async Task<NumberedJob?> FindAsync(Guid id, CancellationToken cancel = default)
    {
        await using var connection = await database.OpenAsync(cancel);
        await using var find = new NpgsqlCommand("select number from jobs where id = $1", connection).With(id);
        return await find.ExecuteScalarAsync(cancel) is long number ? new NumberedJob(number, await LoadAsync(connection, id, cancel)) : null;
    }

    /// <summary>A job's id and how many entries it has, by the number people call it by; null when there is none.</summary>
    public async Task<(Guid Job, int Head)?> HeadAsync(long number, CancellationToken cancel = default)
    {
        await using var command = database.Command("select id, head from jobs where number = $1").With(number);
        return await command.ListAsync(r => (r.GetGuid(0), r.GetInt32(1)), cancel) is [var one] ? one : null;
    }

    /// <summary>The hash at the head of a job's chain, lower-case hex.</summary>
    public async Task<string> HeadHashAsync(Guid job, CancellationToken cancel = default)
    {
        await using var command = database.Command("select head_hash from jobs where id = $1").With(job);
        return Convert.ToHexStringLower((byte[])(await command.ExecuteScalarAsync(cancel))!);
    }

    /// <summary>Makes all summaries again from the entries.</summary>
    /// <returns>How many were made.</returns>
    public async Task<int> RebuildSummariesAsync(CancellationToken cancel = default)
    {
        await using var connection = await database.OpenAsync(cancel);
        await using var all = new NpgsqlCommand("select id from jobs order by number", connection);
        var ids = await all.ListAsync(r => r.GetGuid(0), cancel);
        foreach (var id in ids)
        {
            await using var transaction = await connection.BeginTransactionAsync(cancel);
            await using (var lockRow = new NpgsqlCommand("select 1 from jobs where id = $1 for update", connection, transaction).With(id))
            {
                await lockRow.ExecuteNonQueryAsync(cancel);
            }

            var entries = await EntriesAsync(connection, transaction, id, cancel);
            var job = Job.Fold(entries, await KnowledgeAsync(connection, transaction, entries, [], cancel));
            await using var summary = new NpgsqlBatch(connection, transaction);
            SummaryStore.Write(summary, job);
            await summary.ExecuteNonQueryAsync(cancel);
            await transaction.CommitAsync(cancel);
        }

        return ids.Count;
    }

    private async Task<Job> LoadAsync(NpgsqlConnection connection, Guid id, CancellationToken cancel)
    {
        var entries = await EntriesAsync(connection, null, id, cancel);
        return Job.Fold(entries, await KnowledgeAsync(connection, null, entries, [], cancel));
    }

    // Same ids as before: the original answer when the bytes are the same, else both are kept and the first one counts.
    private async Task<AppendResult> RepeatAsync(NpgsqlConnection connection, NpgsqlTransaction transaction, Dictionary<Guid, byte[]> known, List<Entry> stored, IReadOnlyList<EntryDraft> drafts, Guid job, Guid sentBy, CancellationToken cancel)
    {
        var other = drafts.FirstOrDefault(d => known.TryGetValue(d.Id, out var body) && !body.AsSpan().SequenceEqual(d.Body()));
        if (other is null && drafts.All(d => known.ContainsKey(d.Id)))
        {
            var again = drafts.Select(d => stored.First(e => e.Id == d.Id)).ToList();
            return new AppendResult.Repeated(Job.Fold(stored, await KnowledgeAsync(connection, transaction, stored, [], cancel)), again);
        }

        other ??= drafts.First(d => known.ContainsKey(d.Id));
        var bytes = other.Body();
        await using var keep = new NpgsqlCommand(
            "insert into entry_collisions (id, body_sha256, job_id, sent_by, received_at, body) values ($1, $2, $3, $4, $5, $6) on conflict do nothing", connection, transaction)
            .With(other.Id, SHA256.HashData(bytes), job, sentBy, DateTimeOffset.UtcNow, bytes);
        await keep.ExecuteNonQueryAsync(cancel);
        return new AppendResult.IdTaken(other.Id);
    }

    // Behind each critical entry of an apprentice, that a second person is wanted.
    private static List<Entry> WithSeconds(List<Entry> stored, List<Entry> added, JobKnowledge knowledge, Dictionary<Guid, Role> roles)
    {
        var all = new List<Entry>();
        var job = Job.Fold(stored, knowledge);
        foreach (var entry in added)
        {
            all.Add(entry with { Position = stored.Count + all.Count + 1 });
            if (roles.GetValueOrDefault(entry.Draft.Actor) == Role.Apprentice && SecondPerson.Why(job, entry.Payload) is { } why)
            {
                // The same tick again asks with the same id.
                var id = new Guid(SHA256.HashData([.. entry.Id.ToByteArray(), (byte)'2']).AsSpan(0, 16));
                all.Add(entry with { Position = stored.Count + all.Count + 1, Draft = entry.Draft with { Id = id, Payload = new SecondWanted(entry.Id, why) } });
            }
        }

        return all;
    }

    // Why entries are not taken, or the job with them.
    private static (AppendResult? Refusal, Job After) Judge(List<Entry> stored, List<Entry> added, JobKnowledge knowledge, OutOfTurn outOfTurn)
    {
        var before = Job.Fold(stored, knowledge);
        if (added.Any(e => e.Draft.BasedOn < 0 || e.Draft.BasedOn > before.Head))
        {
            return (new AppendResult.Malformed(before, [new FormatFault("$.based_on", $"the job has {before.Head} entries")]), before);
        }

        // One entry at a time, because a later one of the batch may stand on an earlier one.
        var (entries, job) = (stored.ToList(), before);
        string? outOfOrder = null;
        foreach (var entry in added)
        {
            var faults = JobRules.Malformed(job, entry.Payload);
            if (faults.Count > 0)
            {
                return (new AppendResult.Malformed(before, faults), before);
            }

            entries.Add(entry);
            var after = Job.Fold(entries, knowledge);
            if (after.Disputes.Count > job.Disputes.Count && (outOfTurn == OutOfTurn.Refuse || !EntryKinds.Of(entry.Payload).IsObservation))
            {
                outOfOrder ??= after.Disputes.First(d => job.Disputes.All(o => o.Entry.Id != d.Entry.Id)).Reason;
            }

            job = after;
        }

        // What others did meanwhile is told before what it led to.
        // What was taken back was never so; and nobody who sends what they kept comes before themselves.
        var gone = before.History.Where(h => h.WithdrawnBy is not null).Select(h => h.Entry.Id).ToHashSet();
        var since = stored.Where(e => !gone.Contains(e.Id) && added.Any(a => e.Position > a.Draft.BasedOn && (outOfTurn != OutOfTurn.KeepInLine || e.Draft.Actor != a.Draft.Actor) && Commutation.Clashes(a.Payload, e.Payload))).ToList();
        return (since.Count > 0 ? new AppendResult.Clashed(before, since) : outOfOrder is not null ? new AppendResult.OutOfOrder(before, outOfOrder) : null, job);
    }

    private static DateTimeOffset Microseconds(DateTimeOffset time) => new(time.UtcTicks / 10 * 10, TimeSpan.Zero);

    // All of it in one message; the link in the chain over the jobs' heads is worked out by the server, so that nobody waits in that line for a message to
    // come and go.
    private static async Task WriteAsync(NpgsqlConnection connection, NpgsqlTransaction transaction, byte[] headHash, List<Entry> added, Job after, CancellationToken cancel)
    {
        await using var batch = new NpgsqlBatch(connection, transaction);
        var hash = headHash;
        foreach (var entry in added)
        {
            var body = entry.Draft.Body();
            hash = EntryChain.Next(hash, entry.Position, entry.SentBy, entry.ReceivedAt, body);
            AddEntry(batch, entry, body, hash);
        }

        AddGrowth(batch, after, hash);
        await batch.ExecuteNonQueryAsync(cancel);
    }

    private const string EntriesOf = "select position, id, based_on, actor, sent_by, occurred_at, occurred_offset_minutes, received_at, kind, version, body from entries where job_id = $1 order by position";

    private static async Task<IReadOnlyList<Entry>> EntriesAsync(NpgsqlConnection connection, NpgsqlTransaction? transaction, Guid job, CancellationToken cancel)
    {
        await using var command = new NpgsqlCommand(EntriesOf, connection, transaction).With(job);
        return await command.ListAsync(r => ReadEntry(job, r), cancel);
    }

    private static Entry ReadEntry(Guid job, NpgsqlDataReader r)
    {
        var occurred = r.GetFieldValue<DateTimeOffset>(5).ToOffset(TimeSpan.FromMinutes(r.GetInt16(6)));
        // The bytes that were hashed are the truth; the jsonb column is only a copy for queries.
        using var body = JsonDocument.Parse(r.GetFieldValue<byte[]>(10));
        var read = EntryKinds.Read($"{r.GetString(8)}@{r.GetInt16(9)}", body.RootElement.GetProperty("payload").Clone());
        return new Entry(new EntryDraft(r.GetGuid(1), job, r.GetInt32(2), r.GetGuid(3), occurred, read), r.GetInt32(0), r.GetGuid(4), r.GetFieldValue<DateTimeOffset>(7));
    }

    private async Task<JobKnowledge> KnowledgeAsync(NpgsqlConnection connection, NpgsqlTransaction? transaction, IEnumerable<Entry> entries, IEnumerable<string> more, CancellationToken cancel)
    {
        var hashes = entries.Select(e => e.Payload).OfType<RouteTaken>().Select(r => r.Map).Concat(more).Distinct().ToList();
        var unknown = hashes.Where(h => !Maps.ContainsKey(h)).ToArray();
        var maps = hashes.Where(Maps.ContainsKey).ToDictionary(h => h, h => Maps[h], StringComparer.Ordinal);
        if (unknown.Length > 0)
        {
            await using var command = new NpgsqlCommand("select sha256, content from documents where sha256 = any($1)", connection, transaction).With((object)unknown);
            foreach (var (hash, text) in await command.ListAsync(r => (r.GetString(0), Encoding.UTF8.GetString(r.GetFieldValue<byte[]>(1))), cancel))
            {
                if (AccessMapReader.ReadKept(text) is not { } map)
                {
                    continue;
                }

                maps[hash] = map;
                if (Maps.Count < MapsKept)
                {
                    Maps[hash] = map;
                }
            }
        }

        return new JobKnowledge(families, maps);
    }
}
