using System.Text.Json;
using Screeline.Core.Jobs;

namespace Screeline.Data;

/// <summary>Something seen beside a job of a vehicle that nobody has settled yet.</summary>
/// <param name="Entry">The entry that saw it.</param>
/// <param name="Job">The number of its job.</param>
/// <param name="At">When.</param>
/// <param name="Seen">What.</param>
public sealed record OpenSeen(Guid Entry, long Job, DateTimeOffset At, SeenBeside Seen);

/// <summary>Why a vehicle was not to be driven when a job on it ended.</summary>
public sealed record NotDrivenAfter(long Job, DateTimeOffset At, string Words);

/// <summary>What earlier jobs say of a vehicle as such: what was seen beside them, what was written down when it came in, what it is not driven for.</summary>
public sealed class VehicleRecordStore(Database database)
{
    private const string Stands = "not exists (select 1 from entries w where w.job_id = e.job_id and w.kind = 'entry-withdrawn' and w.payload ->> 'entry' = e.id::text)";

    /// <summary>What was seen beside jobs of a vehicle and is not settled, the oldest first.</summary>
    /// <param name="vehicle">The vehicle.</param>
    /// <param name="exceptJob">A job whose own are left out; null for none.</param>
    /// <param name="cancel">Cancels.</param>
    public async Task<IReadOnlyList<OpenSeen>> OpenSeenAsync(Guid vehicle, Guid? exceptJob = null, CancellationToken cancel = default)
    {
        await using var command = database.Command($"""
            select e.id, j.number, e.occurred_at, e.version, e.payload from entries e join jobs j on j.id = e.job_id
            where j.vehicle_id = $1 and e.job_id <> $2 and e.kind = 'seen-beside' and {Stands}
              and not exists (
                select 1 from entries s join jobs k on k.id = s.job_id
                where k.vehicle_id = $1 and s.kind = 'seen-settled' and s.payload ->> 'seen' = e.id::text
                  and not exists (select 1 from entries w where w.job_id = s.job_id and w.kind = 'entry-withdrawn' and w.payload ->> 'entry' = s.id::text))
            order by e.received_at, e.id limit 100
            """).With(vehicle, exceptJob ?? Guid.Empty);
        return await command.ListAsync(r => new OpenSeen(r.GetGuid(0), r.GetInt64(1), r.GetFieldValue<DateTimeOffset>(2), Read<SeenBeside>("seen-beside", r.GetInt16(3), r.GetString(4))), cancel);
    }

    /// <summary>What was written down last when a vehicle came in for another job, and when; null when nothing was.</summary>
    public async Task<(IntakeNoted Intake, DateTimeOffset At)?> LastIntakeAsync(Guid vehicle, Guid? exceptJob = null, CancellationToken cancel = default)
    {
        await using var command = database.Command($"""
            select e.version, e.payload, e.occurred_at from entries e join jobs j on j.id = e.job_id
            where j.vehicle_id = $1 and e.job_id <> $2 and e.kind = 'intake-noted' and {Stands} order by e.received_at desc, e.id limit 1
            """).With(vehicle, exceptJob ?? Guid.Empty);
        return (await command.ListAsync(r => (Read<IntakeNoted>("intake-noted", r.GetInt16(0), r.GetString(1)), r.GetFieldValue<DateTimeOffset>(2)), cancel)) is [var last, ..] ? last : null;
    }

    /// <summary>Why a vehicle is not driven since its jobs ended, the latest first.</summary>
    public async Task<IReadOnlyList<NotDrivenAfter>> NotDrivenAsync(Guid vehicle, CancellationToken cancel = default)
    {
        await using var command = database.Command(
            "select j.number, s.closed_at, s.not_driven from job_summaries s join jobs j on j.id = s.job_id where s.vehicle_id = $1 and s.not_driven is not null and s.closed_at is not null order by s.closed_at desc limit 20").With(vehicle);
        return await command.ListAsync(r => new NotDrivenAfter(r.GetInt64(0), r.GetFieldValue<DateTimeOffset>(1), r.GetString(2)), cancel);
    }

    private static T Read<T>(string kind, short version, string json) where T : Payload
    {
        using var document = JsonDocument.Parse(json);
        return (T)EntryKinds.Read($"{kind}@{version}", document.RootElement.Clone());
    }
}
