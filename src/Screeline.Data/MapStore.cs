using System.Text;
using Npgsql;
using Screeline.Core.Access;
using Screeline.Core.Jobs;

namespace Screeline.Data;

/// <summary>A version of a map that somebody made here.</summary>
public sealed record MapVersion(string MapId, int Version, string Hash, string Json, string By, DateTimeOffset At);

/// <summary>An operation that somebody found not to be needed.</summary>
/// <param name="Operation">The operation.</param>
/// <param name="By">Who.</param>
/// <param name="At">When.</param>
/// <param name="JobNumber">The job it was found in, or null.</param>
/// <param name="TakenBackBy">Who took it back, or null while it stands.</param>
/// <param name="TakenBackAt">When.</param>
public sealed record NotNeededMark(string Operation, string By, DateTimeOffset At, long? JobNumber, string? TakenBackBy, DateTimeOffset? TakenBackAt)
{
    /// <summary>Whether plans leave the operation out.</summary>
    public bool Stands => TakenBackBy is null;
}

/// <summary>Something that closed jobs found otherwise than a map says.</summary>
/// <param name="Step">The operation.</param>
/// <param name="Fastener">The group.</param>
/// <param name="Found">How.</param>
/// <param name="Size">The drive that fitted, or null.</param>
/// <param name="Jobs">In how many jobs.</param>
/// <param name="Count">How many pieces in all.</param>
public sealed record ExperiencedFinding(string Step, string Fastener, FastenerState Found, string? Size, int Jobs, int Count);

/// <summary>What the latest closed jobs on a map say.</summary>
/// <param name="Jobs">How many there are.</param>
/// <param name="Timed">Of how many the times are known.</param>
/// <param name="MeanMinutes">What those took there and back; steps without a time count as planned.</param>
/// <param name="Findings">What they found otherwise.</param>
public sealed record MapExperience(int Jobs, int Timed, decimal MeanMinutes, IReadOnlyList<ExperiencedFinding> Findings)
{
    /// <summary>A size speaks for the map itself once this many jobs found it, and more than half of all: one odd job changes nothing.</summary>
    public const int JobsToChangeAMap = 3;

    /// <summary>Whether a finding is a size that should stand in the map.</summary>
    public bool SpeaksForTheMap(ExperiencedFinding f) => f.Found == FastenerState.OtherSize && f.Size is not null && f.Jobs >= JobsToChangeAMap && f.Jobs * 2 > Jobs;

    /// <summary>Nothing yet.</summary>
    public static MapExperience None { get; } = new(0, 0, 0, []);
}

/// <summary>Maps of the shop's own, and what it learned about maps.</summary>
public sealed class MapStore(Database database)
{
    /// <summary>The latest version of every map made here.</summary>
    public Task<IReadOnlyList<MapVersion>> LatestAsync(CancellationToken cancel = default) => database.Memory.GetAsync<IReadOnlyList<MapVersion>>("maps", async () =>
    {
        await using var command = database.Command(
            """
            select distinct on (v.map_id) v.map_id, v.version, v.sha256, d.content, p.name, v.at
            from map_versions v join documents d on d.sha256 = v.sha256 join people p on p.id = v.person order by v.map_id, v.version desc
            """);
        return await command.ListAsync(Read, cancel);
    }, cancel);

    /// <summary>All versions of one map, the latest first.</summary>
    public async Task<IReadOnlyList<MapVersion>> VersionsAsync(string map, CancellationToken cancel = default)
    {
        await using var command = database.Command(
            "select v.map_id, v.version, v.sha256, d.content, p.name, v.at from map_versions v join documents d on d.sha256 = v.sha256 join people p on p.id = v.person where v.map_id = $1 order by v.version desc").With(map);
        return await command.ListAsync(Read, cancel);
    }

    /// <summary>
    /// Keeps a map as its next version; nothing when it is the latest already. False when somebody made another version since
    /// <paramref name="basedOn"/>, the version that was changed (0: the shipped one, or none).
    /// </summary>
    public async Task<bool> KeepAsync(string map, string hash, Guid person, int basedOn, CancellationToken cancel = default)
    {
        await using var command = database.Command(
            """
            insert into map_versions (map_id, version, sha256, person)
            select $1, $3 + 1, $2, $4 where coalesce((select max(version) from map_versions where map_id = $1), 0) = $3
            on conflict do nothing
            """).With(map, hash, basedOn, person);
        return await command.ExecuteNonQueryAsync(cancel) == 1;
    }

    /// <summary>How many of the latest closed jobs speak for a map: older ones are of other hands and tools.</summary>
    public const int JobsThatCount = 20;

    /// <summary>What the latest closed jobs took for the steps of a map, and how many jobs those were; without those left out.</summary>
    public Task<(IReadOnlyDictionary<string, OwnTimes> Times, int Jobs)> TimesAsync(string map, CancellationToken cancel = default) => database.Memory.GetAsync<(IReadOnlyDictionary<string, OwnTimes> Times, int Jobs)>($"times {map}", async () =>
    {
        await using var command = database.Command(
            $"""
            select t.action, t.on_the_way_back, t.minutes, t.job_id from work_times t join ({LatestJobs}) j on j.job_id = t.job_id where t.map_id = $1 order by t.job_id
            """).With(map, JobsThatCount);
        var rows = await command.ListAsync(r => (Action: r.GetString(0), Back: r.GetBoolean(1), Minutes: r.GetDecimal(2), Job: r.GetGuid(3)), cancel);
        var times = rows.GroupBy(r => r.Action, StringComparer.Ordinal).ToDictionary(
            g => g.Key, g => new OwnTimes([.. g.Where(r => !r.Back).Select(r => r.Minutes)], [.. g.Where(r => r.Back).Select(r => r.Minutes)]), StringComparer.Ordinal);
        return (times, rows.Select(r => r.Job).Distinct().Count());
    }, cancel);

    private const string LatestJobs =
        """
        select f.job_id from job_facts f where f.map_id = $1 and f.job_id not in (select job_id from jobs_left_out where taken_back_at is null) order by f.closed_at desc limit $2
        """;

    /// <summary>What the latest closed jobs on a map found otherwise than it says; without those left out.</summary>
    public Task<MapExperience> ExperienceAsync(string map, CancellationToken cancel = default) => database.Memory.GetAsync<MapExperience>($"experience {map}", async () =>
    {
        await using var jobs = database.Command(
            $"select count(*), coalesce(avg(spent_minutes + (expected_minutes - planned_minutes)) filter (where spent_minutes > 0), 0), count(*) filter (where spent_minutes > 0) from job_facts where job_id in ({LatestJobs})").With(map, JobsThatCount);
        var (count, mean, timed) = (await jobs.ListAsync(r => ((int)r.GetInt64(0), r.GetDecimal(1), (int)r.GetInt64(2)), cancel))[0];
        await using var found = database.Command(
            $"""
            select step, fastener, found, size, count(distinct job_id), sum(how_many) from job_findings where map_id = $1 and job_id in ({LatestJobs}) group by step, fastener, found, size order by count(distinct job_id) desc, step, fastener
            """).With(map, JobsThatCount);
        return new MapExperience(count, timed, mean, await found.ListAsync(r => new ExperiencedFinding(r.GetString(0), r.GetString(1), Enum.Parse<FastenerState>(r.GetString(2)), r.IsDBNull(3) ? null : r.GetString(3), (int)r.GetInt64(4), (int)r.GetInt64(5)), cancel));
    }, cancel);

    /// <summary>All marks of a map, the latest first, also those that were taken back.</summary>
    public Task<IReadOnlyList<NotNeededMark>> NotNeededAsync(string map, CancellationToken cancel = default) => database.Memory.GetAsync<IReadOnlyList<NotNeededMark>>($"not needed {map}", async () =>
    {
        await using var command = database.Command(
            """
            select n.operation, p.name, n.at, j.number, b.name, n.taken_back_at
            from not_needed n join people p on p.id = n.person left join jobs j on j.id = n.job_id left join people b on b.id = n.taken_back_by
            where n.map_id = $1 order by n.id desc
            """).With(map);
        return await command.ListAsync(
            r => new NotNeededMark(r.GetString(0), r.GetString(1), r.GetFieldValue<DateTimeOffset>(2), r.IsDBNull(3) ? null : r.GetInt64(3), r.IsDBNull(4) ? null : r.GetString(4), r.IsDBNull(5) ? null : r.GetFieldValue<DateTimeOffset>(5)), cancel);
    }, cancel);

    /// <summary>Marks an operation as not needed; marking it twice changes nothing.</summary>
    public async Task MarkAsync(string map, string operation, Guid person, Guid? job, CancellationToken cancel = default)
    {
        await using var command = database.Command("insert into not_needed (map_id, operation, person, job_id) values ($1, $2, $3, $4) on conflict do nothing").With(map, operation, person, (object?)job ?? DBNull.Value);
        await command.ExecuteNonQueryAsync(cancel);
    }

    /// <summary>Takes a mark back: the operation is planned again.</summary>
    public async Task TakeBackAsync(string map, string operation, Guid person, CancellationToken cancel = default)
    {
        await using var command = database.Command("update not_needed set taken_back_by = $3, taken_back_at = now() where map_id = $1 and operation = $2 and taken_back_at is null").With(map, operation, person);
        await command.ExecuteNonQueryAsync(cancel);
    }

    private static MapVersion Read(NpgsqlDataReader r) =>
        new(r.GetString(0), r.GetInt32(1), r.GetString(2), Encoding.UTF8.GetString(r.GetFieldValue<byte[]>(3)), r.GetString(4), r.GetFieldValue<DateTimeOffset>(5));

    /// <summary>Jobs that somebody left out of what the shop knows.</summary>
    public async Task<IReadOnlySet<Guid>> JobsLeftOutAsync(CancellationToken cancel = default)
    {
        await using var command = database.Command("select job_id from jobs_left_out where taken_back_at is null");
        return (await command.ListAsync(r => r.GetGuid(0), cancel)).ToHashSet();
    }

    /// <summary>What came off in the latest closed jobs, family and things in order, 500 at most.</summary>
    public async Task<IReadOnlyList<(string Family, IReadOnlyList<string> CameOff)>> CameOffAsync(CancellationToken cancel = default)
    {
        await using var command = database.Command("select family, came_off from job_facts where cardinality(came_off) > 0 and job_id not in (select job_id from jobs_left_out where taken_back_at is null) order by closed_at desc limit 500");
        return await command.ListAsync(r => (r.GetString(0), (IReadOnlyList<string>)r.GetFieldValue<string[]>(1)), cancel);
    }
}
