using Npgsql;
using Screeline.Core.Jobs;

namespace Screeline.Data;

/// <summary>What a check of the whole record found.</summary>
/// <param name="Jobs">Jobs looked at.</param>
/// <param name="Entries">Entries looked at.</param>
/// <param name="Links">Links of the chain over all jobs' heads.</param>
/// <param name="Break">The first thing that does not hold, in words; null when all holds.</param>
/// <param name="Tip">The end of the chain over all heads, lower-case hex.</param>
public sealed record TrailReport(long Jobs, long Entries, long Links, string? Break, string Tip);

/// <summary>A head that left the house.</summary>
public sealed record HeadOutput(long Number, int Position, string Hash, long Link, string How, DateTimeOffset At);

/// <summary>Where a head from a sheet or a file stands in the record.</summary>
/// <param name="Number">The job's number.</param>
/// <param name="Position">Its place in the job.</param>
/// <param name="Last">How many entries the job has now.</param>
/// <param name="At">When it was received.</param>
public sealed record HeadFound(long Number, int Position, int Last, DateTimeOffset At);

/// <summary>The chain over every job's entries and over the heads of all jobs, worked out again from the bytes.</summary>
public sealed class TrailStore(Database database)
{
    /// <summary>
    /// Works every hash out again, in one snapshot: each job's entries from the first to the head, then the chain of heads to its tip, then
    /// that every job's head is the last the chain names. Stops at the first break. Keeps the hash at every position, not the entries themselves: a million entries take 11 s and 300 MB.
    /// </summary>
    public async Task<TrailReport> CheckAsync(CancellationToken cancel = default)
    {
        await using var connection = await database.OpenAsync(cancel);
        await using var transaction = await connection.BeginTransactionAsync(System.Data.IsolationLevel.RepeatableRead, cancel);
        var heads = new Dictionary<Guid, (long Number, int Head, byte[] Hash)>();
        await using (var jobs = new NpgsqlCommand("select id, number, head, head_hash from jobs", connection, transaction) { CommandTimeout = 600 })
        await using (var r = await jobs.ExecuteReaderAsync(cancel))
        {
            while (await r.ReadAsync(cancel))
            {
                heads[r.GetGuid(0)] = (r.GetInt64(1), r.GetInt32(2), r.GetFieldValue<byte[]>(3));
            }
        }

        // The hash at every position that the chain of heads may name.
        var at = new Dictionary<(Guid, int), byte[]>();
        long entries = 0;
        string? broken = null;
        await using (var all = new NpgsqlCommand("select job_id, position, sent_by, received_at, body, hash, id, payload = convert_from(body, 'UTF8')::jsonb -> 'payload' from entries order by job_id, position", connection, transaction) { CommandTimeout = 600 })
        await using (var r = await all.ExecuteReaderAsync(cancel))
        {
            (Guid Job, int Position, byte[] Hash) last = (Guid.Empty, 0, EntryChain.Start);
            while (broken is null && await r.ReadAsync(cancel))
            {
                var (job, position) = (r.GetGuid(0), r.GetInt32(1));
                entries++;
                if (job != last.Job)
                {
                    broken = Ended(heads, last);
                    last = (job, 0, EntryChain.Start);
                }

                var hash = EntryChain.Next(last.Hash, position, r.GetGuid(2), r.GetFieldValue<DateTimeOffset>(3), r.GetFieldValue<byte[]>(4));
                broken ??= position != last.Position + 1 ? $"{Name(heads, job)}: entry {last.Position + 1} is gone."
                    : !hash.AsSpan().SequenceEqual(r.GetFieldValue<byte[]>(5)) ? $"{Name(heads, job)}: entry {position} was changed after it was kept."
                    : !r.GetBoolean(7) ? $"{Name(heads, job)}: the copy of entry {position} that queries read differs from what was kept."
                    : null;
                at[(job, position)] = hash;
                last = (job, position, hash);
            }

            broken ??= Ended(heads, last);
        }

        var (links, tip, chain) = broken is null ? await ChainAsync(connection, transaction, heads, at, cancel) : (0, EntryChain.Start, null);
        return new TrailReport(heads.Count, entries, links, broken ?? chain, Convert.ToHexStringLower(tip));
    }

    /// <summary>Where a head from a sheet or a file stands, or an end of the chain of heads as a check told it: its hash, or the first digits of it (at least 8). Empty when it stands nowhere.</summary>
    public async Task<IReadOnlyList<HeadFound>> FindAsync(string hex, CancellationToken cancel = default)
    {
        await using var command = database.Command(
            """
            select j.number, e.position, j.head, e.received_at from entries e join jobs j on j.id = e.job_id where encode(e.hash, 'hex') like $1 || '%'
            union select j.number, c.position, j.head, e.received_at from chain c join jobs j on j.id = c.job_id join entries e on e.job_id = c.job_id and e.position = c.position where encode(c.hash, 'hex') like $1 || '%'
            order by 1, 2 limit 5
            """).With(hex);
        return await command.ListAsync(r => new HeadFound(r.GetInt64(0), r.GetInt32(1), r.GetInt32(2), r.GetFieldValue<DateTimeOffset>(3)), cancel);
    }

    /// <summary>Records that a job's head leaves the house on paper or in a file. The same head again changes nothing.</summary>
    public async Task RecordAsync(Guid job, string how, Guid? by, CancellationToken cancel = default)
    {
        await using var command = database.Command(
            "insert into heads_told (job_id, position, head_hash, link, how, by) select id, head, head_hash, (select link from chain_tip), $2, $3 from jobs where id = $1 on conflict do nothing")
            .With(job, how, (object?)by ?? DBNull.Value);
        await command.ExecuteNonQueryAsync(cancel);
    }

    /// <summary>The latest heads that left the house.</summary>
    public async Task<IReadOnlyList<HeadOutput>> ToldAsync(int take, CancellationToken cancel = default)
    {
        await using var command = database.Command("select j.number, t.position, encode(t.head_hash, 'hex'), t.link, t.how, t.at from heads_told t join jobs j on j.id = t.job_id order by t.at desc limit $1").With(take);
        return await command.ListAsync(r => new HeadOutput(r.GetInt64(0), r.GetInt32(1), r.GetString(2), r.GetInt64(3), r.GetString(4), r.GetFieldValue<DateTimeOffset>(5)), cancel);
    }

    private static async Task<(long Links, byte[] Tip, string? Break)> ChainAsync(NpgsqlConnection connection, NpgsqlTransaction transaction, Dictionary<Guid, (long Number, int Head, byte[] Hash)> heads, Dictionary<(Guid, int), byte[]> at, CancellationToken cancel)
    {
        var (links, hash) = (0L, EntryChain.Start);
        var latest = new Dictionary<Guid, int>();
        await using (var chain = new NpgsqlCommand("select link, job_id, position, head_hash, hash from chain order by link", connection, transaction) { CommandTimeout = 600 })
        await using (var r = await chain.ExecuteReaderAsync(cancel))
        {
            while (await r.ReadAsync(cancel))
            {
                var (link, job, position, head) = (r.GetInt64(0), r.GetGuid(1), r.GetInt32(2), r.GetFieldValue<byte[]>(3));
                if (link != links + 1)
                {
                    return (links, hash, $"The chain of heads lacks link {links + 1}.");
                }

                hash = EntryChain.NextHead(hash, job, head);
                if (!hash.AsSpan().SequenceEqual(r.GetFieldValue<byte[]>(4)))
                {
                    return (links, hash, $"The chain of heads was changed at link {link}.");
                }

                if (!at.TryGetValue((job, position), out var kept) || !kept.AsSpan().SequenceEqual(head))
                {
                    return (links, hash, $"{Name(heads, job)}: the head at entry {position} that link {link} names is not there. Entries were taken away or written anew.");
                }

                (links, latest[job]) = (link, position);
            }
        }

        await using var end = new NpgsqlCommand("select link, hash from chain_tip", connection, transaction);
        var tip = (await end.ListAsync(r => (Link: r.GetInt64(0), Hash: r.GetFieldValue<byte[]>(1)), cancel)).Single();
        var behind = heads.FirstOrDefault(h => latest.GetValueOrDefault(h.Key) != h.Value.Head);
        return (links, hash,
            tip.Link != links || !tip.Hash.AsSpan().SequenceEqual(hash) ? $"The end of the chain of heads is cut: it should have {tip.Link} links, and {links} are there."
            : behind.Key != Guid.Empty ? $"Job {behind.Value.Number} has {behind.Value.Head} entries; the chain of heads knows {latest.GetValueOrDefault(behind.Key)}."
            : null);
    }

    private static string Name(Dictionary<Guid, (long Number, int Head, byte[] Hash)> heads, Guid job) => heads.TryGetValue(job, out var one) ? $"Job {one.Number}" : $"A job that is gone ({job})";

    // A job's last entry must be its head.
    private static string? Ended(Dictionary<Guid, (long Number, int Head, byte[] Hash)> heads, (Guid Job, int Position, byte[] Hash) last) =>
        last.Job == Guid.Empty ? null
        : !heads.TryGetValue(last.Job, out var job) ? $"Entries of a job that is gone ({last.Job})."
        : job.Head != last.Position ? $"Job {job.Number}: entry {last.Position + 1} to {job.Head} are gone."
        : !job.Hash.AsSpan().SequenceEqual(last.Hash) ? $"Job {job.Number}: its head was changed."
        : null;
}
