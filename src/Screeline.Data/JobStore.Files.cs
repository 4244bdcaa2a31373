using System.Globalization;
using System.Text.Json;
using Npgsql;
using NpgsqlTypes;
using Screeline.Core.Formats;
using Screeline.Core.Jobs;
using Screeline.Core.People;

namespace Screeline.Data;

/// <summary>What came of taking a job in.</summary>
/// <param name="Number">The number it is called by here; null when it was refused.</param>
/// <param name="New">Whether it was added; false when the very same was here already.</param>
/// <param name="Faults">Why it was refused.</param>
public sealed record TakenIn(long? Number, bool New, IReadOnlyList<FormatFault> Faults);

// Jobs as files.
public sealed partial class JobStore
{
    /// <summary>Everything recorded about a job, or null when there is none of this id.</summary>
    public async Task<JobFile?> ExportAsync(Guid id, CancellationToken cancel = default)
    {
        await using var connection = await database.OpenAsync(cancel);
        await using var find = new NpgsqlCommand("select v.id, v.name, v.model, v.version, v.year, v.nominal_volts from jobs j join vehicles v on v.id = j.vehicle_id where j.id = $1", connection).With(id);
        if (await find.ListAsync(r => new FileVehicle(r.GetGuid(0), r.GetString(1), r.GetString(2), r.GetString(3), r.IsDBNull(4) ? null : r.GetInt32(4), r.GetDecimal(5)), cancel) is not [var vehicle])
        {
            return null;
        }

        await using var list = new NpgsqlCommand("select position, id, based_on, actor, sent_by, occurred_at, occurred_offset_minutes, received_at, kind, version, body, hash from entries where job_id = $1 order by position", connection).With(id);
        var entries = await list.ListAsync(r => new FileEntry(ReadStored(id, r).Entry, r.GetFieldValue<byte[]>(10), r.GetFieldValue<byte[]>(11)), cancel);
        var named = entries.SelectMany(e => new[] { e.Entry.Draft.Actor, e.Entry.SentBy }).Distinct().ToArray();
        await using var people = new NpgsqlCommand("select id, name, role from people where id = any($1)", connection).With((object)named);
        var who = await people.ListAsync(r => new FilePerson(r.GetGuid(0), r.GetString(1), r.GetString(2)), cancel);
        var hashes = JobFile.DocumentsOf(entries.Select(e => e.Entry.Payload)).ToArray();
        await using var documents = new NpgsqlCommand("select sha256, media_type, content from documents where sha256 = any($1)", connection).With((object)hashes);
        return new JobFile(id, vehicle, who, entries, await documents.ListAsync(r => new FileDocument(r.GetString(0), r.GetString(1), r.GetFieldValue<byte[]>(2)), cancel));
    }

    /// <summary>
    /// Takes a job in, whole or not at all: vehicle and people that are not here yet, documents, entries with their chain, and behind them who
    /// brought it and from which file. The very same job again changes nothing.
    /// </summary>
    /// <param name="file">What was read of the file.</param>
    /// <param name="from">The file's name and hash.</param>
    /// <param name="by">Who brings it.</param>
    /// <param name="role">What they may do: what others are said to have done needs a foreman.</param>
    /// <param name="cancel">Stops waiting.</param>
    public async Task<TakenIn> ImportAsync(JobFile file, (string Name, string Sha256) from, Guid by, Role role, CancellationToken cancel = default)
    {
        if (role < Role.Foreman && file.Entries.Select((e, i) => (e, i)).FirstOrDefault(x => x.e.Entry.Draft.Actor != by || x.e.Entry.SentBy != by) is { e: { } other } stranger)
        {
            return new TakenIn(null, false, [new FormatFault($"$.entries[{stranger.i}].{(other.Entry.Draft.Actor != by ? "body.actor" : "sent_by")}", "tells what somebody else did: a foreman, signed in with their own password, takes such a file in")]);
        }

        await using var connection = await database.OpenAsync(cancel);
        await using var transaction = await connection.BeginTransactionAsync(cancel);
        await using (var here = new NpgsqlCommand("select j.number, coalesce(e.hash, ''::bytea), j.head, coalesce(n.kind, '') from jobs j left join entries e on e.job_id = j.id and e.position = $2 left join entries n on n.job_id = j.id and n.position = $2 + 1 where j.id = $1", connection, transaction).With(file.Id, file.Entries.Count))
        {
            if (await here.ListAsync(r => (Number: r.GetInt64(0), Hash: r.GetFieldValue<byte[]>(1), Head: r.GetInt32(2), Next: r.GetString(3)), cancel) is [var there])
            {
                // The same to its end, and nothing was told here since but that it came.
                return there.Hash.AsSpan().SequenceEqual(file.Entries[^1].Hash) && (there.Head == file.Entries.Count || (there.Head == file.Entries.Count + 1 && there.Next == JobImported.EntryKind.Name))
                    ? new TakenIn(there.Number, false, [])
                    : new TakenIn(null, false, [new FormatFault("$.job", $"is here already as job {there.Number}, with other entries: nothing was changed")]);
            }
        }

        await using (var taken = new NpgsqlCommand("select 1 from entries where id = any($1) limit 1", connection, transaction).With((object)file.Entries.Select(e => e.Entry.Id).ToArray()))
        {
            if (await taken.ExecuteScalarAsync(cancel) is not null)
            {
                return new TakenIn(null, false, [new FormatFault("$.entries", "ids of entries are here already in another job")]);
            }
        }

        try
        {
            var v = file.Vehicle;
            await using var ground = new NpgsqlBatch(connection, transaction);
            ground.Add("insert into vehicles (id, name, model, version, year, nominal_volts) values ($1, $2, $3, $4, $5, $6) on conflict (id) do nothing", v.Id, v.Name, v.Model, v.Version, (object?)v.Year ?? DBNull.Value, v.NominalVolts);
            foreach (var p in file.People)
            {
                ground.Add("insert into people (id, name, role) values ($1, $2, $3) on conflict (id) do nothing", p.Id, p.Name, p.Role);
            }

            foreach (var d in file.Documents)
            {
                ground.Add("insert into documents (sha256, media_type, content) values ($1, $2, $3) on conflict do nothing", d.Sha256, d.MediaType, d.Content);
            }

            ground.Add("insert into jobs (id, vehicle_id, head, head_hash) values ($1, $2, 0, $3)", file.Id, v.Id, EntryChain.Start);
            await ground.ExecuteNonQueryAsync(cancel);
        }
        catch (PostgresException e) when (e.ConstraintName == "vehicles_by_name")
        {
            return new TakenIn(null, false, [new FormatFault("$.vehicle.name", $"another vehicle here is called “{file.Vehicle.Name}”")]);
        }

        List<Entry> entries = [.. file.Entries.Select(e => e.Entry)];
        var now = Microseconds(DateTimeOffset.UtcNow);
        var brought = new EntryDraft(Guid.NewGuid(), file.Id, entries.Count, by, now, new JobImported(from.Name, from.Sha256, Convert.ToHexStringLower(file.Entries[^1].Hash)), WaitedSeconds: 0);
        var last = new Entry(brought, entries.Count + 1, by, now);
        var job = Job.Fold([.. entries, last], await KnowledgeAsync(connection, transaction, entries, [], cancel));
        var body = brought.Body();
        await WriteKeptAsync(connection, transaction, [.. file.Entries, new FileEntry(last, body, EntryChain.Next(file.Entries[^1].Hash, last.Position, by, now, body))], job, cancel);
        await using var number = new NpgsqlCommand("select number from jobs where id = $1", connection, transaction).With(file.Id);
        var result = (long)(await number.ExecuteScalarAsync(cancel))!;
        await transaction.CommitAsync(cancel);
        return new TakenIn(result, true, []);
    }

    // Entries with the very bytes and hashes they came with.
    private static async Task WriteKeptAsync(NpgsqlConnection connection, NpgsqlTransaction transaction, IReadOnlyList<FileEntry> kept, Job after, CancellationToken cancel)
    {
        await using var batch = new NpgsqlBatch(connection, transaction);
        foreach (var (entry, body, hash) in kept)
        {
            AddEntry(batch, entry, body, hash);
        }

        AddGrowth(batch, after, kept[^1].Hash);
        await batch.ExecuteNonQueryAsync(cancel);
    }

    private static void AddEntry(NpgsqlBatch batch, Entry entry, byte[] body, byte[] hash)
    {
        var draft = entry.Draft;
        // Kind and payload as they stand in what is hashed, whatever way they are spelled: the copy that queries read is a copy of that.
        using var said = JsonDocument.Parse(body);
        var tag = said.RootElement.GetProperty("kind").GetString()!.Split('@');
        var insert = batch.Add(
            """
            insert into entries (job_id, position, id, based_on, actor, sent_by, occurred_at, occurred_offset_minutes, received_at, kind, version, payload, body, hash)
            values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13, $14)
            """,
            draft.Job, entry.Position, draft.Id, draft.BasedOn, draft.Actor, entry.SentBy, draft.OccurredAt.ToUniversalTime(), (short)draft.OccurredAt.Offset.TotalMinutes, entry.ReceivedAt.ToUniversalTime(), tag[0], short.Parse(tag[1], CultureInfo.InvariantCulture));
        insert.Parameters.Add(new NpgsqlParameter { Value = said.RootElement.GetProperty("payload").GetRawText(), NpgsqlDbType = NpgsqlDbType.Jsonb });
        insert.Parameters.Add(new NpgsqlParameter { Value = body });
        insert.Parameters.Add(new NpgsqlParameter { Value = hash });
    }

    // The job's head, its summary, and last its link in the chain over all jobs, from whose lock on all writers stand in one line.
    private static void AddGrowth(NpgsqlBatch batch, Job after, byte[] hash)
    {
        batch.Add("update jobs set head = $2, head_hash = $3 where id = $1", after.Id, after.Head, hash);
        SummaryStore.Write(batch, after);
        batch.Add("select 1 from chain_tip for update");
        batch.Add(
            """
            with grown as (
              insert into chain (link, job_id, position, head_hash, hash)
              select link + 1, $1, $2, $3, sha256(hash || convert_to($1::text || E'\n', 'UTF8') || $3) from chain_tip returning link, hash)
            update chain_tip set link = grown.link, hash = grown.hash from grown
            """, after.Id, after.Head, hash);
        // Whoever looks at this job, in whatever process, hears of it when this is committed.
        batch.Add("select pg_notify('job_grew', $1)", $"{after.Id} {after.Head}");
    }
}
