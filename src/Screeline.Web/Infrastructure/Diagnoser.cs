using Screeline.Core.Diagnosis;
using Screeline.Core.Jobs;
using Screeline.Data;

namespace Screeline.Web.Infrastructure;

/// <summary>A job judged: with what was asked, what is stated of its vehicle, and where its beliefs stood before the last reading.</summary>
public sealed record JudgedJob(Judgement Judgement, Inquiry Inquiry, DiagnosisEngine Engine, VehicleSetting Setting, IReadOnlyDictionary<string, double> Before, ShopHistory History)
{
    /// <summary>Repairs that the vehicle's map has a way to.</summary>
    public IReadOnlySet<string> HaveAWay { get; init; } = new HashSet<string>();

    /// <summary>The job whose fault has come back, or null.</summary>
    public Job? First { get; init; }
}

/// <summary>Puts together what a judgement of a job stands on: vehicle, temperature, access, history, money.</summary>
public sealed class Diagnoser(DiagnosisTables tables, VehicleParameterStore parameters, ShopFigureStore figures, HistoryStore histories, MapShelf shelf, DevicePreferences preferences, JobStore jobs, JudgementCache judgements)
{
    /// <summary>Judges a job's readings.</summary>
    public async Task<JudgedJob> JudgeAsync(Job job, CancellationToken cancel)
    {
        var opened = job.Opened.Payload;
        var stated = await parameters.OfAsync(opened.Vehicle, job.System.Id, cancel);
        // Where nobody says here and now, it is as it was at the last reading.
        var celsius = preferences.Celsius ?? job.Readings.LastOrDefault(r => r.Payload.Celsius is not null)?.Payload.Celsius ?? VehicleSetting.Usual.Celsius;
        var setting = new VehicleSetting(stated, celsius).With(VehicleSetting.Volts, (double)opened.NominalVolts).ReadAt(job.Case.Readings);
        var engine = tables.For(job.System, setting);
        var history = await histories.OfAsync(job.System.Id, opened.Model, cancel);
        var first = job.ComebackOf is { } id ? (await jobs.FindAsync(id, cancel))?.Job : null;
        if (first?.Decision?.Payload.RepairId is { } repaired)
        {
            history = history.With(repaired, ShopHistory.ComebackWeighs);
        }

        var map = await shelf.ForAsync(job.System.Id, opened.Model, cancel);
        var open = job.Removed.Keys.Where(id => !job.Refitted.ContainsKey(id)).Concat(job.OpenedForReadings).ToHashSet(StringComparer.Ordinal);
        var inquiry = new Inquiry(
            job.Case,
            open,
            map?.MinutesToTests(job.System, open) ?? new Dictionary<string, double>(),
            preferences.UsesHistory ? history : ShopHistory.None,
            Money(job.System, map, await figures.AllAsync(cancel)))
        {
            At = job.Whereabouts,
        };
        var before = job.Case with { Readings = [.. job.Case.Readings.SkipLast(1)] };
        var (judgement, stood) = judgements.Get($"judged {setting.Key(job.System)} {inquiry.Key()}", () => (engine.Judge(inquiry), engine.BeliefsOf(before, inquiry.History).ByRepair));
        return new JudgedJob(judgement, inquiry, engine, setting, job.System.Repairs.Select((r, i) => (r.Id, Chance: stood[i])).ToDictionary(x => x.Id, x => x.Chance, StringComparer.Ordinal), history)
        {
            HaveAWay = (map?.Usual.Targets.SelectMany(t => t.Repairs) ?? []).ToHashSet(StringComparer.Ordinal),
            First = first,
        };
    }

    /// <summary>The name under which the shop's own price or minutes of a repair are kept.</summary>
    public static string FigureName(string what, FaultSystem system, string repair) => $"{what}:{system.Id}/{repair}";

    private static Assumptions Money(FaultSystem system, ShelvedMap? map, IReadOnlyDictionary<string, double> own)
    {
        var usual = Assumptions.Usual;
        var minutes = new Dictionary<string, double>(StringComparer.Ordinal);
        var prices = new Dictionary<string, double>(StringComparer.Ordinal);
        foreach (var repair in system.Repairs)
        {
            if (repair.IsMotor && map is not null)
            {
                minutes[repair.Id] = map.BestMinutes;
            }

            if (own.TryGetValue(FigureName("minutes", system, repair.Id), out var m))
            {
                minutes[repair.Id] = m;
            }

            if (own.TryGetValue(FigureName("price", system, repair.Id), out var p))
            {
                prices[repair.Id] = p;
            }
        }

        return new Assumptions(own.GetValueOrDefault("labour_per_hour", map is null ? usual.LabourPerHour : (double)map.Usual.LabourRatePerHour), own.GetValueOrDefault("comeback", usual.Comeback), minutes, prices);
    }
}
