using Npgsql;

namespace Screeline.Data;

/// <summary>A closed job that does not count for what the shop learns.</summary>
public sealed record LeftOutJob(string By, DateTimeOffset At, string Why);

/// <summary>A job of a vehicle's history.</summary>
public sealed record HistoryRow(long Number, Guid Id, string Family, string Words, DateTimeOffset OpenedAt, DateTimeOffset? ClosedAt, string? Repair, string? Cause, bool PartCondemned, long? ComebackOf, decimal Spent, decimal Expected, bool LeftOut);

/// <summary>Minutes at a place over all jobs looked at.</summary>
public sealed record PlaceRow(string Place, decimal Planned, decimal Spent, int Jobs, decimal Unplanned);

/// <summary>One closed job's estimate and what it took.</summary>
public sealed record EstimateRow(long Number, string Family, string Model, decimal Expected, decimal Took, DateTimeOffset ClosedAt);

/// <summary>How often a repair was confirmed.</summary>
public sealed record RepairRow(string Family, string Model, string? Repair, int Jobs);

/// <summary>Motors condemned, and how many of those jobs came back.</summary>
public sealed record ComebackRow(string Family, int Jobs, int Condemned, int CameBack, int CondemnedCameBack);

/// <summary>A step and what it takes beyond its estimate, per job.</summary>
public sealed record StepRow(string Map, string Action, bool Back, decimal Mean, int Jobs);

/// <summary>A cause and how often it was named.</summary>
public sealed record CauseRow(string Family, string Cause, int Jobs);

/// <summary>What the shop's closed jobs say together: read from rows that are worked out from entries.</summary>
public sealed class ExperienceStore(Database database)
{
    private const string NotLeftOut = "job_id not in (select job_id from jobs_left_out where taken_back_at is null)";

    /// <summary>A vehicle's jobs, the latest first.</summary>
    public async Task<IReadOnlyList<HistoryRow>> OfVehicleAsync(Guid vehicle, CancellationToken cancel = default)
    {
        await using var command = database.Command(
            """
            select j.number, s.job_id, s.family, s.words, s.opened_at, s.closed_at, s.confirmed, f.cause, coalesce(f.part_condemned, false), c.number, coalesce(f.spent_minutes + f.unplanned_minutes, 0), coalesce(f.expected_minutes, 0), l.job_id is not null
            from job_summaries s join jobs j on j.id = s.job_id left join job_facts f on f.job_id = s.job_id left join jobs c on c.id = f.comeback_of
            left join jobs_left_out l on l.job_id = s.job_id and l.taken_back_at is null
            where s.vehicle_id = $1 order by s.opened_at desc limit 200
            """).With(vehicle);
        return await command.ListAsync(
            r => new HistoryRow(r.GetInt64(0), r.GetGuid(1), r.GetString(2), r.GetString(3), r.GetFieldValue<DateTimeOffset>(4), r.IsDBNull(5) ? null : r.GetFieldValue<DateTimeOffset>(5), r.IsDBNull(6) ? null : r.GetString(6),
                r.IsDBNull(7) ? null : r.GetString(7), r.GetBoolean(8), r.IsDBNull(9) ? null : r.GetInt64(9), r.GetDecimal(10), r.GetDecimal(11), r.GetBoolean(12)), cancel);
    }

    /// <summary>Closed jobs of a vehicle and family since a moment, the latest first: what a complaint may be the comeback of.</summary>
    public async Task<IReadOnlyList<(Guid Id, long Number, string Family, string Words, DateTimeOffset ClosedAt)>> ClosedSinceAsync(Guid vehicle, DateTimeOffset since, CancellationToken cancel = default)
    {
        await using var command = database.Command(
            "select s.job_id, j.number, s.family, s.words, s.closed_at from job_summaries s join jobs j on j.id = s.job_id where s.vehicle_id = $1 and s.closed_at >= $2 and exists (select 1 from job_facts f where f.job_id = s.job_id) order by s.closed_at desc limit 20").With(vehicle, since.ToUniversalTime());
        return await command.ListAsync(r => (r.GetGuid(0), r.GetInt64(1), r.GetString(2), r.GetString(3), r.GetFieldValue<DateTimeOffset>(4)), cancel);
    }

    /// <summary>Why a job does not count, or null when it does.</summary>
    public async Task<LeftOutJob?> LeftOutAsync(Guid job, CancellationToken cancel = default)
    {
        await using var command = database.Command("select p.name, l.at, l.why from jobs_left_out l join people p on p.id = l.person where l.job_id = $1 and l.taken_back_at is null").With(job);
        return (await command.ListAsync(r => new LeftOutJob(r.GetString(0), r.GetFieldValue<DateTimeOffset>(1), r.GetString(2)), cancel)).FirstOrDefault();
    }

    /// <summary>Leaves a job out of what is learned; doing it twice changes nothing.</summary>
    public async Task LeaveOutAsync(Guid job, Guid person, string why, CancellationToken cancel = default)
    {
        await using var command = database.Command("insert into jobs_left_out (job_id, person, why) values ($1, $2, $3) on conflict do nothing").With(job, person, why);
        await command.ExecuteNonQueryAsync(cancel);
    }

    /// <summary>Lets it count again.</summary>
    public async Task CountAgainAsync(Guid job, Guid person, CancellationToken cancel = default)
    {
        await using var command = database.Command("update jobs_left_out set taken_back_by = $2, taken_back_at = now() where job_id = $1 and taken_back_at is null").With(job, person);
        await command.ExecuteNonQueryAsync(cancel);
    }

    /// <summary>Where the minutes went since a moment, the most first; of one family, or of all when it is empty.</summary>
    public Task<IReadOnlyList<PlaceRow>> PlacesAsync(DateTimeOffset since, string family, CancellationToken cancel = default) => ListAsync(
        $"""
        select p.place, sum(p.planned_minutes), sum(p.spent_minutes), count(*), sum(p.unplanned_minutes) from job_places p
        where p.closed_at >= $1 and p.{NotLeftOut} and ($2 = '' or exists (select from job_facts f where f.job_id = p.job_id and f.family = $2)) group by p.place order by sum(p.spent_minutes + p.unplanned_minutes) desc
        """, since, family, r => new PlaceRow(r.GetString(0), r.GetDecimal(1), r.GetDecimal(2), (int)r.GetInt64(3), r.GetDecimal(4)), cancel);

    /// <summary>Estimate and minutes of the latest closed jobs whose times are known, 200 at most. What has no time of its own counts as planned.</summary>
    public Task<IReadOnlyList<EstimateRow>> EstimatesAsync(DateTimeOffset since, string family, CancellationToken cancel = default) => ListAsync(
        """
        select j.number, f.family, f.model, f.expected_minutes, f.expected_minutes - f.planned_minutes + f.spent_minutes, f.closed_at from job_facts f join jobs j on j.id = f.job_id
        where f.closed_at >= $1 and ($2 = '' or f.family = $2) and f.spent_minutes > 0 and f.expected_minutes > 0 order by f.closed_at desc limit 200
        """, since, family, r => new EstimateRow(r.GetInt64(0), r.GetString(1), r.GetString(2), r.GetDecimal(3), r.GetDecimal(4), r.GetFieldValue<DateTimeOffset>(5)), cancel);

    /// <summary>Repairs by family and model.</summary>
    public Task<IReadOnlyList<RepairRow>> RepairsAsync(DateTimeOffset since, string family, CancellationToken cancel = default) => ListAsync(
        "select family, model, repair, count(*) from job_facts where closed_at >= $1 and ($2 = '' or family = $2) group by family, model, repair order by count(*) desc, family, model, repair",
        since, family, r => new RepairRow(r.GetString(0), r.GetString(1), r.IsDBNull(2) ? null : r.GetString(2), (int)r.GetInt64(3)), cancel);

    /// <summary>Causes by family, the commonest first.</summary>
    public Task<IReadOnlyList<CauseRow>> CausesAsync(DateTimeOffset since, string family, CancellationToken cancel = default) => ListAsync(
        "select family, cause, count(*) from job_facts where closed_at >= $1 and ($2 = '' or family = $2) and cause is not null group by family, cause order by count(*) desc, family, cause",
        since, family, r => new CauseRow(r.GetString(0), r.GetString(1), (int)r.GetInt64(2)), cancel);

    /// <summary>Motors condemned against jobs that came back.</summary>
    public Task<IReadOnlyList<ComebackRow>> ComebacksAsync(DateTimeOffset since, string family, CancellationToken cancel = default) => ListAsync(
        """
        select f.family, count(*), count(*) filter (where f.part_condemned), count(*) filter (where b.came), count(*) filter (where b.came and f.part_condemned)
        from job_facts f left join lateral (select true as came from job_facts c where c.comeback_of = f.job_id limit 1) b on true
        where f.closed_at >= $1 and ($2 = '' or f.family = $2) group by f.family order by f.family
        """, since, family, r => new ComebackRow(r.GetString(0), (int)r.GetInt64(1), (int)r.GetInt64(2), (int)r.GetInt64(3), (int)r.GetInt64(4)), cancel);

    /// <summary>The map on which most of the jobs looked at were done, or null.</summary>
    public async Task<string?> BusiestMapAsync(DateTimeOffset since, string family, CancellationToken cancel = default)
    {
        await using var command = database.Command(
            $"select map_id from job_facts where closed_at >= $1 and ($2 = '' or family = $2) and map_id is not null and spent_minutes > 0 and {NotLeftOut} group by map_id order by count(*) desc, map_id limit 1").With(since.ToUniversalTime(), family);
        return (string?)await command.ExecuteScalarAsync(cancel);
    }

    /// <summary>What the steps of a map took in its latest jobs, per job.</summary>
    public async Task<IReadOnlyList<StepRow>> StepsAsync(string map, CancellationToken cancel = default)
    {
        await using var command = database.Command(
            $"""
            select action, on_the_way_back, avg(minutes), count(*) from work_times
            where map_id = $1 and job_id in (select job_id from job_facts where map_id = $1 and {NotLeftOut} order by closed_at desc limit $2) group by action, on_the_way_back
            """).With(map, MapStore.JobsThatCount);
        return await command.ListAsync(r => new StepRow(map, r.GetString(0), r.GetBoolean(1), Math.Round(r.GetDecimal(2), 2), (int)r.GetInt64(3)), cancel);
    }

    /// <summary>Says whether anything has changed that the sums here are made of: equal while nothing has.</summary>
    public async Task<string> RevisionAsync(CancellationToken cancel = default)
    {
        await using var command = database.Command(
            "select concat_ws('/', (select max(revision) from job_facts), (select count(*) from job_facts), (select max(id) from jobs_left_out), (select count(*) from jobs_left_out where taken_back_at is null), (select count(*) from map_versions))");
        return (string)(await command.ExecuteScalarAsync(cancel))!;
    }

    /// <summary>Whether closed jobs are there that are not worked out yet, as after an upgrade.</summary>
    public async Task<bool> LacksFactsAsync(CancellationToken cancel = default)
    {
        await using var command = database.Command("select exists (select from job_summaries s where s.closed_at is not null and not exists (select from job_facts f where f.job_id = s.job_id) and exists (select from entries e where e.job_id = s.job_id and e.kind = 'handed-back'))");
        return (bool)(await command.ExecuteScalarAsync(cancel))!;
    }

    private async Task<IReadOnlyList<T>> ListAsync<T>(string sql, DateTimeOffset since, string family, Func<NpgsqlDataReader, T> read, CancellationToken cancel)
    {
        await using var command = database.Command(sql).With(since.ToUniversalTime(), family);
        return await command.ListAsync(read, cancel);
    }
}
