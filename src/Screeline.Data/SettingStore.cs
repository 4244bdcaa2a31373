using System.Text.Json;

namespace Screeline.Data;

/// <summary>Settings that were kept on vehicles.</summary>
public sealed class SettingStore(Database database)
{
    /// <summary>How many are looked back at.</summary>
    public const int Most = 8;

    /// <summary>What was typed when a kind of setting held on a vehicle, the newest first; withdrawn ones and those of one job are left out.</summary>
    /// <param name="vehicle">The vehicle.</param>
    /// <param name="setting">The kind of setting.</param>
    /// <param name="exceptJob">The job that asks.</param>
    /// <param name="cancel">Cancels.</param>
    public async Task<IReadOnlyList<IReadOnlyDictionary<string, string>>> HeldAsync(Guid vehicle, string setting, Guid exceptJob, CancellationToken cancel = default)
    {
        await using var command = database.Command("""
            select e.payload -> 'asked' from entries e join jobs j on j.id = e.job_id
            where j.vehicle_id = $1 and j.id <> $3 and e.kind = 'setting-kept' and e.payload ->> 'setting' = $2 and (e.payload ->> 'holds')::boolean
              and not exists (select 1 from entries w where w.job_id = e.job_id and w.kind = 'entry-withdrawn' and w.payload ->> 'entry' = e.id::text)
            order by e.received_at desc, e.id limit $4
            """).With(vehicle, setting, exceptJob, Most);
        return await command.ListAsync(r => (IReadOnlyDictionary<string, string>)JsonSerializer.Deserialize<Dictionary<string, string>>(r.GetString(0))!, cancel);
    }
}
