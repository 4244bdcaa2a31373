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

    /// <summary>The last picture that a closed job took at a step of a model, with its pins and the job's number; null when there is none.</summary>
    /// <param name="model">The vehicle's model.</param>
    /// <param name="family">What fails.</param>
    /// <param name="step">The step.</param>
    /// <param name="exceptJob">The job that asks.</param>
    /// <param name="cancel">Cancels.</param>
    public async Task<(PinnedPicture Picture, long Job)?> LastPictureAsync(string model, string family, string step, Guid exceptJob, CancellationToken cancel = default)
    {
        await using var command = database.Command($"""
            select e.id, e.job_id, e.position, e.actor, e.sent_by, e.occurred_at, e.received_at, e.version, e.payload, j.number,
              (select p.payload from entries p where p.job_id = e.job_id and p.kind = 'pins-set' and p.payload ->> 'picture' = e.id::text order by p.position desc limit 1)
            from entries e join jobs j on j.id = e.job_id join job_summaries s on s.job_id = e.job_id
            where e.kind = 'picture-taken' and e.payload ->> 'step' = $3 and s.model = $1 and s.family = $2 and s.closed_at is not null and e.job_id <> $4
              and e.payload ->> 'over' is null and {Stands}
            order by s.closed_at desc, e.position desc limit 1
            """).With(model, family, step, exceptJob);
        return (await command.ListAsync(r =>
        {
            var entry = new Entry(new EntryDraft(r.GetGuid(0), r.GetGuid(1), 0, r.GetGuid(3), r.GetFieldValue<DateTimeOffset>(5), Read<PictureTaken>("picture-taken", r.GetInt16(7), r.GetString(8))), r.GetInt32(2), r.GetGuid(4), r.GetFieldValue<DateTimeOffset>(6));
            return (new PinnedPicture(entry, (PictureTaken)entry.Payload, r.IsDBNull(10) ? [] : Read<PinsSet>("pins-set", 1, r.GetString(10)).Pins), r.GetInt64(9));
        }, cancel)) is [var last, ..] ? last : null;
    }

    private static T Read<T>(string kind, short version, string json) where T : Payload
    {
        using var document = JsonDocument.Parse(json);
        return (T)EntryKinds.Read($"{kind}@{version}", document.RootElement.Clone());
    }
}
