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

/// <summary>When entries whose ids are known already are the same again.</summary>
public enum SameAgain
{
    /// <summary>When every byte is the same: the sender wrote all of it.</summary>
    EveryByte,
    /// <summary>When they say the same: their time, their head and who pressed were put to a form by this process, which may take in the second press before
    /// the first is kept. What was kept first stays as it is.</summary>
    WhatTheySay,
}

/// <summary>What came of appending entries.</summary>
public abstract record AppendResult
{
    /// <summary>They are stored, on disk, at these positions.</summary>
    public sealed record Kept(Job Job, IReadOnlyList<Entry> Entries) : AppendResult;
    /// <summary>They were stored already; nothing was added.</summary>
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

    private readonly JobMemory _memory = new();

    // Writers of one job wait for each other here, where that costs no connection; in the database they would hold one each while they stand in line, and
    // leave none for those who read. Jobs share a place by chance, which costs a little waiting.
    private readonly SemaphoreSlim[] _writersOfAJob = [.. Enumerable.Range(0, 64).Select(_ => new SemaphoreSlim(1))];

    // All writers end in the one line over the jobs' heads: more at once only stand in it longer.
    private readonly SemaphoreSlim _writers = new(8);

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
                await WriteAsync(connection, transaction, EntryChain.Start, [entry], Job.Fold([entry], new JobKnowledge(families, new Dictionary<string, AccessMap>())), ends: false, cancel);
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
    /// <param name="sameAgain">When entries that are stored already are the same again.</param>
    /// <param name="receivedAt">The server's clock; null for now. The demo story sets it, and says itself where a second person was asked for.</param>
    /// <param name="sender">What whoever sends it may do under this sign-in; what others pressed is judged by the lesser of both. Null when nobody sends it.</param>
    /// <param name="cancel">Stops waiting.</param>
    public async Task<AppendResult> AppendAsync(Guid job, IReadOnlyList<EntryDraft> drafts, Guid sentBy, OutOfTurn outOfTurn, SameAgain sameAgain = SameAgain.EveryByte, DateTimeOffset? receivedAt = null, Role? sender = null, CancellationToken cancel = default)
    {
        var ofThisJob = _writersOfAJob[(uint)job.GetHashCode() % _writersOfAJob.Length];
        await ofThisJob.WaitAsync(cancel);
        try
        {
            await _writers.WaitAsync(cancel);
            try
            {
                return await AppendInTurnAsync(job, drafts, sentBy, outOfTurn, sameAgain, receivedAt, sender, cancel);
            }
            finally
            {
                _writers.Release();
            }
        }
        finally
        {
            ofThisJob.Release();
        }
    }

    private async Task<AppendResult> AppendInTurnAsync(Guid job, IReadOnlyList<EntryDraft> drafts, Guid sentBy, OutOfTurn outOfTurn, SameAgain sameAgain, DateTimeOffset? receivedAt, Role? sender, CancellationToken cancel)
    {
        await using var connection = await database.OpenAsync(cancel);
        await using var transaction = await connection.BeginTransactionAsync(cancel);

        // One message: the row lock puts writers of one job in line, and what is read after it is the last that was committed.
        var seen = _memory.Find(job);
        await using var look = new NpgsqlBatch(connection, transaction);
        look.Add("select head_hash from jobs where id = $1 for update", job);
        look.Add(EntriesBetween, job, seen?.Job.Head ?? 0, int.MaxValue);
        look.Add("select id, body from entries where id = any($1)", drafts.Select(d => d.Id).ToArray());
        look.Add("select id, role from people where id = any($1)", drafts.Select(d => d.Actor).Distinct().ToArray());
        byte[] headHash;
        List<StoredEntry> more;
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
            more = await reader.RowsAsync(r => ReadStored(job, r), cancel);
            await reader.NextResultAsync(cancel);
            known = (await reader.RowsAsync(r => (Id: r.GetGuid(0), Body: r.GetFieldValue<byte[]>(1)), cancel)).ToDictionary(x => x.Id, x => x.Body);
            await reader.NextResultAsync(cancel);
            roles = (await reader.RowsAsync(r => (Id: r.GetGuid(0), Role: Roles.Parse(r.GetString(1))), cancel)).ToDictionary(x => x.Id, x => x.Role);
        }

        var before = await JoinAsync(connection, transaction, job, headHash, seen, more, cancel);
        if (known.Count > 0)
        {
            var repeat = await RepeatAsync(connection, transaction, known, before, drafts, sentBy, sameAgain, cancel);
            await transaction.CommitAsync(cancel);
            return repeat;
        }

        List<string> routed = [.. drafts.Select(d => d.Payload.NamesMap()).OfType<string>()];
        var knowledge = await KnowledgeAsync(connection, transaction, before.Entries, routed, cancel);
        if (routed.Any(map => before.KnownMap(map) is null))
        {
            // As it stood, and the rules know the map that is taken now.
            before = Job.Fold([.. before.Entries], knowledge);
        }

        // PostgreSQL keeps microseconds; what is hashed must be what is read back.
        var received = Microseconds(receivedAt ?? DateTimeOffset.UtcNow);
        // What the demo tells has been asked for already.
        Role RoleOf(Guid actor) => sender is { } sending ? Roles.Lesser(roles.GetValueOrDefault(actor), sending) : roles.GetValueOrDefault(actor);
        var (refusal, added, after) = Judge(before, drafts, d => new Entry(d, 0, sentBy, received), RoleOf, asksForSecond: receivedAt is null, knowledge, outOfTurn);
        if (refusal is not null)
        {
            return refusal;
        }

        var newHash = await WriteAsync(connection, transaction, headHash, added, after, ends: true, cancel);
        _memory.Keep(after, newHash);
        return new AppendResult.Kept(after, added);
    }

    /// <summary>A job by the number people call it by, or null.</summary>
    public Task<NumberedJob?> FindAsync(long number, CancellationToken cancel = default) => FindAsync("select number, id, head, head_hash from jobs where number = $1", number, cancel);

    /// <summary>A job by id with its number, or null.</summary>
    public Task<NumberedJob?> FindAsync(Guid id, CancellationToken cancel = default) => FindAsync("select number, id, head, head_hash from jobs where id = $1", id, cancel);

    private async Task<NumberedJob?> FindAsync(string sql, object value, CancellationToken cancel)
    {
        await using var connection = await database.OpenAsync(cancel);
        await using var find = new NpgsqlCommand(sql, connection).With(value);
        if (await find.ListAsync(r => (Number: r.GetInt64(0), Id: r.GetGuid(1), Head: r.GetInt32(2), Hash: r.GetFieldValue<byte[]>(3)), cancel) is not [var found])
        {
            return null;
        }

        var seen = _memory.Find(found.Id);
        if (seen is { } same && same.HeadHash.AsSpan().SequenceEqual(found.Hash))
        {
            return new NumberedJob(found.Number, same.Job);
        }

        // Somebody may add more meanwhile; the job is told as it stood at the head that was read.
        await using var after = new NpgsqlCommand(EntriesBetween, connection).With(found.Id, seen?.Job.Head ?? 0, found.Head);
        var more = await after.ListAsync(r => ReadStored(found.Id, r), cancel);
        return new NumberedJob(found.Number, await JoinAsync(connection, null, found.Id, found.Hash, seen, more, cancel));
    }

    // What was seen before and what came since, if the chain leads from one over the other to the head; else everything is read again.
    private async Task<Job> JoinAsync(NpgsqlConnection connection, NpgsqlTransaction? transaction, Guid id, byte[] headHash, (Job Job, byte[] HeadHash)? seen, IReadOnlyList<StoredEntry> more, CancellationToken cancel)
    {
        if (seen is { } same && more.Count == 0 && same.HeadHash.AsSpan().SequenceEqual(headHash))
        {
            return same.Job;
        }

        var hash = more.Aggregate(seen?.HeadHash ?? EntryChain.Start, (h, e) => EntryChain.Next(h, e.Entry.Position, e.Entry.SentBy, e.Entry.ReceivedAt, e.Body));
        var leadsThere = hash.AsSpan().SequenceEqual(headHash);
        IReadOnlyList<Entry> entries = leadsThere || seen is null ? [.. seen?.Job.Entries ?? [], .. more.Select(e => e.Entry)] : await EntriesAsync(connection, transaction, id, cancel);
        var job = Job.Fold(entries, await KnowledgeAsync(connection, transaction, entries, [], cancel));
        if (leadsThere)
        {
            _memory.Keep(job, headHash);
        }

        return job;
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

    // Same ids as before: the original answer when the bytes are the same, else both are kept and the first one counts.
    private static async Task<AppendResult> RepeatAsync(NpgsqlConnection connection, NpgsqlTransaction transaction, Dictionary<Guid, byte[]> known, Job stored, IReadOnlyList<EntryDraft> drafts, Guid sentBy, SameAgain sameAgain, CancellationToken cancel)
    {
        var other = drafts.FirstOrDefault(d => known.TryGetValue(d.Id, out var body) && !body.AsSpan().SequenceEqual(AsKept(d).Body()));
        if (other is null && drafts.All(d => known.ContainsKey(d.Id)))
        {
            return new AppendResult.Repeated(stored, [.. drafts.Select(d => stored.Entries.First(e => e.Id == d.Id))]);
        }

        other ??= drafts.First(d => known.ContainsKey(d.Id));
        var bytes = other.Body();
        await using var keep = new NpgsqlCommand(
            "insert into entry_collisions (id, body_sha256, job_id, sent_by, received_at, body) values ($1, $2, $3, $4, $5, $6) on conflict do nothing", connection, transaction)
            .With(other.Id, SHA256.HashData(bytes), stored.Id, sentBy, DateTimeOffset.UtcNow, bytes);
        await keep.ExecuteNonQueryAsync(cancel);
        return new AppendResult.IdTaken(other.Id);

        // How long it waited was put here, at the first sending.
        EntryDraft AsKept(EntryDraft draft) =>
            stored.Entries.FirstOrDefault(e => e.Id == draft.Id)?.Draft is not { } first ? draft
            : sameAgain == SameAgain.WhatTheySay ? first with { Payload = draft.Payload }
            : draft with { WaitedSeconds = first.WaitedSeconds };
    }

    // Why entries are not taken, or the entries and the job with them. One at a time: each is judged by the job with those before it.
    private static (AppendResult? Refusal, List<Entry> Added, Job After) Judge(Job before, IReadOnlyList<EntryDraft> drafts, Func<EntryDraft, Entry> receive, Func<Guid, Role> roleOf, bool asksForSecond, JobKnowledge knowledge, OutOfTurn outOfTurn)
    {
        (AppendResult?, List<Entry>, Job) Refused(AppendResult refusal) => (refusal, [], before);
        if (drafts.Any(d => d.BasedOn < 0 || d.BasedOn > before.Head))
        {
            return Refused(new AppendResult.Malformed(before, [new FormatFault("$.based_on", $"the job has {before.Head} entries")]));
        }

        var (entries, added, job) = (before.Entries.ToList(), new List<Entry>(), before);
        string? outOfOrder = null;
        void Add(EntryDraft draft)
        {
            var entry = receive(draft) with { Position = job.Head + 1 };
            added.Add(entry);
            entries.Add(entry);
            job = Job.Fold(entries, knowledge);
        }

        foreach (var draft in drafts)
        {
            var role = roleOf(draft.Actor);
            if (Roles.Refuses(role, draft.Payload, job) is { } reason)
            {
                return Refused(new AppendResult.NotAllowed(before, reason));
            }

            var faults = job.Head >= JobFile.MostEntries ? [new FormatFault("$", $"a job holds at most {JobFile.MostEntries} entries")] : JobRules.Malformed(job, draft.Payload);
            if (faults.Count > 0)
            {
                return Refused(new AppendResult.Malformed(before, faults));
            }

            var (why, disputes) = (asksForSecond && role == Role.Apprentice ? draft.Payload.NeedsSecondPerson(job) : null, job.Disputes);
            Add(draft);
            if (job.Disputes.Count > disputes.Count && (outOfTurn == OutOfTurn.Refuse || !EntryKinds.ForPayload(draft.Payload).IsObservation))
            {
                outOfOrder ??= job.Disputes.First(d => disputes.All(o => o.Entry.Id != d.Entry.Id)).Reason;
            }

            if (why is not null)
            {
                // Behind a critical entry of an apprentice, that a second person is wanted; the same tick again asks with the same id.
                Add(draft with { Id = new Guid(SHA256.HashData([.. draft.Id.ToByteArray(), (byte)'2']).AsSpan(0, 16)), Payload = new SecondWanted(draft.Id, why) });
            }
        }

        // What others did meanwhile is told before what it led to.
        // What was taken back was never so; and nobody who sends what they kept comes before themselves.
        var gone = before.History.Where(h => h.WithdrawnBy is not null).Select(h => h.Entry.Id).ToHashSet();
        var since = before.Entries.Where(e => !gone.Contains(e.Id) && drafts.Any(d => e.Position > d.BasedOn && (outOfTurn != OutOfTurn.KeepInLine || e.Draft.Actor != d.Actor) && ConflictingEntries.Clashes(d.Payload, e.Payload))).ToList();
        return since.Count > 0 ? Refused(new AppendResult.Clashed(before, since)) : outOfOrder is not null ? Refused(new AppendResult.OutOfOrder(before, outOfOrder)) : (null, added, job);
    }

    private static DateTimeOffset Microseconds(DateTimeOffset time) => new(time.UtcTicks / 10 * 10, TimeSpan.Zero);

    // All of it in one message; the link in the chain over the jobs' heads is worked out by the server, and the transaction ended in the same message when
    // nothing follows, so that nobody waits in that line for a message to come and go.
    private static async Task<byte[]> WriteAsync(NpgsqlConnection connection, NpgsqlTransaction transaction, byte[] headHash, List<Entry> added, Job after, bool ends, CancellationToken cancel)
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
        if (ends)
        {
            // Does not return before it is on disk; the transaction object sees that it is ended. After an error nothing behind it is done, this neither.
            batch.Add("commit");
        }

        await batch.ExecuteNonQueryAsync(cancel);
        return hash;
    }

    private const string EntriesBetween = "select position, id, based_on, actor, sent_by, occurred_at, occurred_offset_minutes, received_at, kind, version, body from entries where job_id = $1 and position > $2 and position <= $3 order by position";

    // An entry with the bytes that its link in the chain stands on.
    private sealed record StoredEntry(Entry Entry, byte[] Body);

    private static async Task<IReadOnlyList<Entry>> EntriesAsync(NpgsqlConnection connection, NpgsqlTransaction? transaction, Guid job, CancellationToken cancel)
    {
        await using var command = new NpgsqlCommand(EntriesBetween, connection, transaction).With(job, 0, int.MaxValue);
        return await command.ListAsync(r => ReadStored(job, r).Entry, cancel);
    }

    private static StoredEntry ReadStored(Guid job, NpgsqlDataReader r)
    {
        var occurred = r.GetFieldValue<DateTimeOffset>(5).ToOffset(TimeSpan.FromMinutes(r.GetInt16(6)));
        // The bytes that were hashed are the truth; the jsonb column is only a copy for queries.
        var bytes = r.GetFieldValue<byte[]>(10);
        using var body = JsonDocument.Parse(bytes);
        var read = EntryKinds.Read($"{r.GetString(8)}@{r.GetInt16(9)}", body.RootElement.GetProperty("payload").Clone());
        int? waited = body.RootElement.TryGetProperty("waited_seconds", out var seconds) ? seconds.GetInt32() : null;
        return new StoredEntry(new Entry(new EntryDraft(r.GetGuid(1), job, r.GetInt32(2), r.GetGuid(3), occurred, read, waited), r.GetInt32(0), r.GetGuid(4), r.GetFieldValue<DateTimeOffset>(7)), bytes);
    }

    private async Task<JobKnowledge> KnowledgeAsync(NpgsqlConnection connection, NpgsqlTransaction? transaction, IEnumerable<Entry> entries, IEnumerable<string> more, CancellationToken cancel)
    {
        var hashes = entries.Select(e => e.Payload.NamesMap()).OfType<string>().Concat(more).Distinct().ToList();
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
