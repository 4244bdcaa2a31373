using Screeline.Core.Access;
using Screeline.Core.Access.Planning;
using Screeline.Core.Diagnosis;
using Screeline.Core.Fastening;
using Screeline.Core.Jobs;
using Screeline.Core.Quantities;

namespace Screeline.Library.Demo;

/// <summary>
/// Tells a job entry by entry and keeps its clock: who, when, and what a careful technician would keep at each step. What it
/// says goes through the same rules as anybody's entries.
/// </summary>
/// <param name="library">What is known.</param>
/// <param name="job">The job's id.</param>
/// <param name="actor">Who works.</param>
/// <param name="ago">How long before now it begins.</param>
/// <param name="map">The map it is done on; null when nothing comes apart.</param>
public sealed class DemoTelling(ShippedLibrary library, Guid job, Guid actor, TimeSpan ago, ShippedMap? map)
{
    private readonly List<DemoEntry> _entries = [];
    private TimeSpan _ago = ago;
    private int _cell;

    /// <summary>The map it is done on.</summary>
    public AccessMap Map => map!.Map;

    /// <summary>The hash that names the map's version.</summary>
    public string MapHash => map!.Hash;

    /// <summary>How long each step takes, as a share of what is likely.</summary>
    public double Pace { get; init; } = 1;

    /// <summary>Who looks as a second person at an apprentice's critical work, and hands back for them; null when who works needs nobody.</summary>
    public Guid? Second { get; init; }

    /// <summary>The job as told so far.</summary>
    public Job Job => Core.Jobs.Job.Fold(
        [.. _entries.Select((e, i) => new Entry(new EntryDraft(e.Id ?? new Guid(i + 1, 0, 0, job.ToByteArray()[8..]), job, i, e.Actor, DateTimeOffset.UnixEpoch.AddYears(60) - e.Ago, e.Payload), i + 1, e.Actor, DateTimeOffset.UnixEpoch))],
        new JobKnowledge(new Families(library), map is null ? new Dictionary<string, AccessMap>() : new Dictionary<string, AccessMap> { [map.Hash] = map.Map }));

    /// <summary>Says something some minutes later.</summary>
    public void Say(double minutesLater, Payload payload, Guid? id = null)
    {
        // A story never runs past now, however long its steps take.
        var later = _ago - TimeSpan.FromMinutes(minutesLater);
        _ago = later > TimeSpan.FromSeconds(30) ? later : _ago;
        var why = Second is null || _entries.Count == 0 ? null : payload.NeedsSecondPerson(Job);
        id ??= why is null && payload is not (GroupOut or TakenOff) ? null : new Guid(_entries.Count + 1, 0, 0, job.ToByteArray()[8..]);
        _entries.Add(new DemoEntry(_ago, payload is HandedBack ? Second ?? actor : actor, payload, id));
        if (why is not null)
        {
            _entries.Add(new DemoEntry(_ago, actor, new SecondWanted(id!.Value, why)));
            _entries.Add(new DemoEntry(_ago, Second!.Value, new SecondSigned(id.Value)));
        }
    }

    /// <summary>Takes the best way to what a repair needs, as planned with nothing off.</summary>
    public WayPlan Take(string? repair = null, IReadOnlySet<string>? blocked = null)
    {
        var target = Map.TargetFor(repair);
        // Of versions that may be fitted, the first.
        var away = (blocked ?? new HashSet<string>()).Concat(Map.Fitted?.Choices[0].Without ?? []).ToHashSet(StringComparer.Ordinal);
        var plan = RoutePlanner.Plan(new PlanRequest(Map, target.Operation) { Blocked = away }).Routes[0];
        Say(3, new RouteTaken(MapHash, target.Id, [.. plan.Removal.Select(a => a.Id)], [.. plan.Refit.Select(a => a.Id)]));
        return plan;
    }

    /// <summary>Does a step of the way in.</summary>
    public void Apart(WalkAction action)
    {
        var operation = Map[action.Id];
        if (operation.WaitMinutes is > 0 and var wait)
        {
            Say(1, new TimerStarted(action.Id, operation.Cautions.Contains("restraint") ? TimerKind.Restraint : operation.Cautions.Contains("hot-exhaust") ? TimerKind.Cool : TimerKind.Wait, wait, operation.Title));
            Say((double)wait + 0.5, new NoteAdded(action.Id, operation.Cautions.Contains("hot-exhaust") ? "Touched it: hand-warm." : "Waited."));
        }

        Say((double)action.Work.Likely * Pace, new StepDone(WorkPhase.Apart, action.Id, operation.Fasteners.Count > 0 ? ++_cell : null, []));
        if (action.Id == "compared")
        {
            foreach (var point in (Job.Part?.Points ?? []).Take(2))
            {
                Say(1, new PartCompared(point.Id, true, null));
            }
        }

        if (action.Id == Job.Route?.Payload.Removal[^1])
        {
            foreach (var piece in Job.NotCarried)
            {
                Say(1, new PartCarried(piece.Id));
            }
        }
    }

    /// <summary>What is said of how a group was tightened, null for nothing: the wrench set to what is specified. What no wrench of the demo's shop reaches was set with one that was lent.</summary>
    public Func<string, Fastener, TorqueSet?> Tightens { get; init; } = (step, f) => new TorqueSet(
        step, f.Id, TorqueHow.Wrench, f.Torque!.Value, f.Torque.Value.Base switch { > 120 => null, >= 24 => "torque-wrench-20-120", >= 5 => "torque-wrench-5-25", >= 1.2m => "torque-wrench-1-6", _ => null });

    /// <summary>Does some steps of the way back.</summary>
    public void Back(WayPlan plan, int steps)
    {
        foreach (var action in plan.Refit.Take(steps))
        {
            Back(action);
        }
    }

    /// <summary>Does one step of the way back, with what its gate asks for.</summary>
    public void Back(WalkAction action)
    {
        var told = Job;
        foreach (var check in (Map.Step(action.Id)?.Checks ?? []).Select(told.Check).OfType<ProofCheck>().Where(c => told.Held(c) != true))
        {
            Say(2, Good(check, told.Opened.Payload.NominalVolts));
        }

        if (Map.Step(action.Id)?.Setting is { } setting && told.SettingAt(action.Id, setting)?.Payload.Holds != true)
        {
            Say(3, new SettingKept(action.Id, setting, "Measured, within its bands", true, new Dictionary<string, string>()));
        }

        var fasteners = told.FastenersOf(action.Id);
        Say((double)action.Work.Likely * Pace, new StepDone(WorkPhase.Refit, action.Id, null, [.. fasteners.Select(f => FastenerCount.Expected(told, action.Id, f))]));
        foreach (var f in fasteners.Where(f => f.Torque is not null))
        {
            if (Tightens(action.Id, f) is { } said)
            {
                Say(0, said);
            }
        }
    }

    /// <summary>Goes the way back of a job without a map, as it is worked out.</summary>
    public void BackAsRecorded()
    {
        while (Refit.Order(Job).FirstOrDefault(id => !Job.Refitted.ContainsKey(id)) is { } id)
        {
            var told = Job;
            foreach (var check in (told.Map!.Step(id)?.Checks ?? []).Select(told.Check).OfType<ProofCheck>().Where(c => told.Held(c) != true))
            {
                Say(2, Good(check, told.Opened.Payload.NominalVolts));
            }

            var fasteners = told.FastenersOf(id);
            Say(2 + fasteners.Sum(f => 0.5 * f.Count), new StepDone(WorkPhase.Refit, id, null, [.. fasteners.Select(f => FastenerCount.Expected(told, id, f))]));
            foreach (var said in fasteners.Where(f => f.Torque is not null).Select(f => Tightens(id, f)).OfType<TorqueSet>())
            {
                Say(0, said);
            }
        }
    }

    /// <summary>Takes every check that is still open, all good but those given, and puts the tools back.</summary>
    public void Prove(params (string Check, Figure Value)[] measured)
    {
        var told = Job;
        foreach (var check in told.Checks.Where(c => c.Moment == ProofMoment.End && told.Held(c) != true))
        {
            var given = measured.FirstOrDefault(m => m.Check == check.Id);
            Say(2, given.Check is null ? Good(check, told.Opened.Payload.NominalVolts) : new ProofTaken(check.Id, given.Value, null));
        }

        foreach (var tool in told.ToolsLeft.Select(t => t.Tool).Where(t => !told.ToolsBack.ContainsKey(t)).Distinct())
        {
            Say(0, new ToolBack(tool));
        }
    }

    /// <summary>Hands the vehicle back.</summary>
    public void Close(string found, string? left, string? watch, string? cause = null, string? done = null)
    {
        var told = Job;
        Say(4, new HandedBack(found, left, watch, cause is null ? null : new CauseSaid(cause, done), [.. told.Checks.Where(c => c.Moment == ProofMoment.End).Select(c => c.Id)]));
    }

    /// <summary>All that was told.</summary>
    public DemoJob Done() => new(job, _entries);

    /// <summary>A good answer to a check: the good choice, or a figure inside its limits.</summary>
    public static ProofTaken Good(ProofCheck check, decimal nominalVolts)
    {
        if (check.GoodChoice is { } choice)
        {
            return new ProofTaken(check.Id, null, choice);
        }

        var (low, high) = (check.Good?.Low, check.Good?.High);
        var value = (low, high) switch
        {
            ({ } l, { } h) => l + (h - l) / 3,
            ({ } l, null) => l * 1.1m,
            (null, { } h) => h * 0.4m,
            _ => 0,
        };
        return new ProofTaken(check.Id, new Figure(Math.Round(value * check.Scale(nominalVolts), 2), check.Unit!), null);
    }
}
