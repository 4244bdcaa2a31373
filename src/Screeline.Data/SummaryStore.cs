using System.Text.Json;
using Npgsql;
using NpgsqlTypes;
using Screeline.Core.Jobs;

namespace Screeline.Data;

/// <summary>A job as a list shows it.</summary>
public sealed record YardRow(long Number, JobSummary Summary);

/// <summary>What lists and searches read of jobs.</summary>
public sealed class SummaryStore(Database database)
{
    private const string Columns =
        """
        select j.number, s.vehicle_id, s.vehicle_name, s.model, s.family, s.words, s.stage, s.next, s.waits_for, s.waits_until, s.promised_at, s.opened_at, s.closed_at, s.disputes, s.line
        from job_summaries s join jobs j on j.id = s.job_id
        """;

    /// <summary>Open jobs, those promised first on top, those never promised last; only those that hold the words, if any are given.</summary>
    public Task<IReadOnlyList<YardRow>> OpenAsync(string? words, int skip = 0, int take = 500, CancellationToken cancel = default) =>
        ListAsync($"{Columns} where s.closed_at is null and {Holds} order by s.promised_at nulls last, j.number limit $2 offset $3", words, skip, take, cancel);

    /// <summary>Closed jobs, the latest on top; only those that hold the words, if any are given.</summary>
    public Task<IReadOnlyList<YardRow>> ClosedAsync(string? words, int skip = 0, int take = 200, CancellationToken cancel = default) =>
        ListAsync($"{Columns} where s.closed_at is not null and {Holds} order by s.closed_at desc, j.number desc limit $2 offset $3", words, skip, take, cancel);

    private const string Holds = "($1 = '' or strpos(lower(s.vehicle_name || ' ' || s.model || ' ' || s.words || ' ' || s.next || ' ' || coalesce(s.waits_for, '') || ' job ' || j.number), lower($1)) > 0)";

    private async Task<IReadOnlyList<YardRow>> ListAsync(string sql, string? words, int skip, int take, CancellationToken cancel)
    {
        await using var command = database.Command(sql).With((words ?? "").Trim(), take, skip);
        return await command.ListAsync(Read, cancel);
    }

    private static YardRow Read(NpgsqlDataReader r) => new(r.GetInt64(0), new JobSummary(
        r.GetGuid(1), r.GetString(2), r.GetString(3), r.GetString(4), r.GetString(5), Enum.Parse<Stage>(r.GetString(6)), r.GetString(7),
        r.IsDBNull(8) ? null : r.GetString(8), Time(r, 9), Time(r, 10), Time(r, 11)!.Value, Time(r, 12), r.GetInt32(13),
        JsonSerializer.Deserialize<SectionLine>(r.GetString(14))!));

    private static DateTimeOffset? Time(NpgsqlDataReader r, int column) => r.IsDBNull(column) ? null : r.GetFieldValue<DateTimeOffset>(column);

    /// <summary>Adds what writes a job's summary to a batch.</summary>
    internal static void Write(NpgsqlBatch batch, Job job)
    {
        var s = JobSummary.FromJob(job);
        var command = batch.Add(
            """
            insert into job_summaries (job_id, vehicle_id, vehicle_name, model, family, words, stage, next, waits_for, waits_until, promised_at, opened_at, closed_at, disputes, position, confirmed, not_driven, line)
            values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13, $14, $15, $16, $17, $18)
            on conflict (job_id) do update set vehicle_id = $2, vehicle_name = $3, model = $4, family = $5, words = $6, stage = $7, next = $8, waits_for = $9, waits_until = $10,
              promised_at = $11, opened_at = $12, closed_at = $13, disputes = $14, position = $15, confirmed = $16, not_driven = $17, line = $18
            """,
            job.Id, s.Vehicle, s.VehicleName, s.Model, s.Family, s.Words, s.Stage.ToString(), s.Next, (object?)s.WaitsFor ?? DBNull.Value,
            Utc(s.WaitsUntil), Utc(s.PromisedAt), Utc(s.OpenedAt), Utc(s.ClosedAt), s.Disputes, job.Head, (object?)s.Confirmed ?? DBNull.Value, (object?)s.NotDriven ?? DBNull.Value);
        command.Parameters.Add(new NpgsqlParameter { Value = JsonSerializer.Serialize(s.Line), NpgsqlDbType = NpgsqlDbType.Jsonb });
        WriteTimes(batch, job);
        WriteFacts(batch, job);
    }

    // What a closed job adds to the shop's experience; nothing while it is open, nor after its closing was withdrawn.
    private static void WriteFacts(NpgsqlBatch batch, Job job)
    {
        if (job.HandedBack is null && job.History.All(h => h.Entry.Payload is not HandedBack))
        {
            return;
        }

        batch.Add("delete from job_facts where job_id = $1", job.Id);
        if (job.HandedBack is not { } closed)
        {
            return;
        }

        var (opened, f, at) = (job.Opened.Payload, JobFacts.FromJob(job), Utc(closed.Entry.Draft.OccurredAt));
        batch.Add(
            """
            insert into job_facts (job_id, vehicle_id, family, model, map_id, repair, act, part_condemned, cause, comeback_of, expected_minutes, planned_minutes, spent_minutes, waited_minutes, opened_at, closed_at, unplanned_minutes, came_off)
            values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13, $14, $15, $16, $17, $18)
            """,
            job.Id, opened.Vehicle, opened.Family, opened.Model, (object?)f.Map ?? DBNull.Value, (object?)f.Repair ?? DBNull.Value, (object?)f.Act?.ToString() ?? DBNull.Value, f.PartCondemned, (object?)f.Cause ?? DBNull.Value,
            (object?)opened.ComebackOf ?? DBNull.Value, f.Expected, f.Planned, f.Spent, f.Waited, Utc(job.Opened.Entry.Draft.OccurredAt), at, f.Unplanned, f.CameOff.ToArray());
        batch.Add(
            "insert into job_places (job_id, closed_at, place, planned_minutes, spent_minutes, unplanned_minutes) select $1, $2, * from unnest($3, $4, $5, $6)",
            job.Id, at, f.Places.Select(p => p.Place).ToArray(), f.Places.Select(p => p.Planned).ToArray(), f.Places.Select(p => p.Spent).ToArray(), f.Places.Select(p => p.Unplanned).ToArray());
        if (f.Map is { } map && f.Findings.Count > 0)
        {
            batch.Add(
                "insert into job_findings (job_id, map_id, step, fastener, found, how_many, size) select $1, $2, * from unnest($3, $4, $5, $6, $7)",
                job.Id, map, f.Findings.Select(x => x.Step).ToArray(), f.Findings.Select(x => x.Fastener).ToArray(), f.Findings.Select(x => x.Found.ToString()).ToArray(), f.Findings.Select(x => x.Count).ToArray(), f.Findings.Select(x => x.Size).ToArray());
        }
    }

    // What a closed job took, step by step; nothing while it is open, nor after its closing was withdrawn.
    private static void WriteTimes(NpgsqlBatch batch, Job job)
    {
        if (job.Map is not { } map || (job.HandedBack is null && job.History.All(h => h.Entry.Payload is not HandedBack)))
        {
            return;
        }

        batch.Add("delete from work_times where job_id = $1", job.Id);
        // What was recorded as it went is nobody's map yet, and no estimate is compared with it.
        var times = job.HandedBack is null || job.IsRecorded ? [] : WorkTime.InJob(job);
        batch.Add(
            "insert into work_times (job_id, map_id, action, on_the_way_back, minutes) select $1, $2, * from unnest($3, $4, $5)",
            job.Id, map.Id, times.Select(t => t.Action).ToArray(), times.Select(t => t.Phase == WorkPhase.Refit).ToArray(), times.Select(t => t.Minutes).ToArray());
    }

    private static object Utc(DateTimeOffset? time) => time is { } t ? t.ToUniversalTime() : DBNull.Value;
}
