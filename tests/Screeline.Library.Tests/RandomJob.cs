using Screeline.Core.Access;
using Screeline.Core.Access.Planning;
using Screeline.Core.Diagnosis;
using Screeline.Core.Fastening;
using Screeline.Core.Jobs;
using Screeline.Library.Demo;

namespace Screeline.Library.Tests;

/// <summary>Something said, and the steps it hangs on; none for what stands by itself.</summary>
internal sealed record Said(Payload Payload, Guid Id, IReadOnlyCollection<string> Of, bool Back = false, bool End = false);

/// <summary>A job of an apprentice with everything that can be said at the vehicle, some of it at random, broken off somewhere on the way back or at its end.</summary>
internal sealed class RandomJob
{
    private static readonly ShippedLibrary Library = ShippedLibrary.Load();
    private static readonly Guid Apprentice = Guid.NewGuid(), Second = Guid.NewGuid();
    private static readonly DateTimeOffset Begin = new(2036, 5, 4, 8, 0, 0, TimeSpan.FromHours(2));
    private readonly List<Said> _said = [];
    private readonly ShippedMap _shipped;
    private readonly FaultSystem _system;

    public RandomJob(ShippedMap shipped, Random random)
    {
        (_shipped, _system, Random) = (shipped, Library.System(shipped.Map.Family)!, random);
        var target = Map.Targets[random.Next(Map.Targets.Count)];
        var repair = target.Repairs is [var named, ..] ? _system.Repair(named)! : _system.Repairs.First(r => r.IsMotor);
        Plan = RoutePlanner.Plan(new PlanRequest(Map, target.Operation) { Blocked = (Map.Fitted?.Choices[0].Without ?? []).ToHashSet(StringComparer.Ordinal) }).Routes[0];
        Decision = new DecisionMade(DecisionAct.Guess, repair.Title, "For the test.", repair.Id);
        Route = new RouteTaken(shipped.Hash, target.Id, [.. Plan.Removal.Select(a => a.Id)], [.. Plan.Refit.Select(a => a.Id)]);
        Say(new JobOpened(Guid.NewGuid(), "V", Map.AppliesTo[0].Model, Map.Id.StartsWith("carrier", StringComparison.Ordinal) ? 24 : 12, _system.Id, "It fails", null));
        Say(new ComplaintNoted("It fails", [_system.Behaviours[0].Id], "Always", 5, 5, null));
        Say(Decision);
        Say(Route);
    }

    public Random Random { get; }
    public AccessMap Map => _shipped.Map;
    public WayPlan Plan { get; }
    public DecisionMade Decision { get; }
    public RouteTaken Route { get; }

    /// <summary>Whether every tool is told back at its step.</summary>
    public bool AllToolsTold { get; init; }

    /// <summary>Whether the job comes to its end.</summary>
    public bool All { get; init; }

    private bool Now(int of) => Random.Next(of) == 0;

    private void Say(Payload payload, IReadOnlyCollection<string>? of = null, bool back = false, bool end = false)
    {
        var job = _said.Count == 0 ? null : Job();
        var said = new Said(payload, Guid.NewGuid(), of ?? [], back, end);
        _said.Add(said);
        if (job is not null && payload.NeedsSecondPerson(job) is { } why)
        {
            _said.Add(said with { Payload = new SecondWanted(said.Id, why), Id = Guid.NewGuid() });
            if (Random.Next(4) > 0)
            {
                _said.Add(said with { Payload = new SecondSigned(said.Id), Id = Guid.NewGuid() });
            }
        }
    }

    public void TakeApart()
    {
        foreach (var operation in Plan.Removal.Select(a => Map[a.Id]))
        {
            if (operation.WaitMinutes > 0)
            {
                Say(new TimerStarted(operation.Id, operation.Cautions.Contains("restraint") ? TimerKind.Restraint : TimerKind.Cool, operation.WaitMinutes, operation.Title), [operation.Id]);
            }

            foreach (var f in operation.Fasteners.Where(_ => Now(4)))
            {
                Say(new FastenersCounted(WorkPhase.Apart, operation.Id, f.Id, f.Count), [operation.Id]);
                Say(new FastenerFound(operation.Id, f.Id, Enum.GetValues<FastenerState>()[Random.Next(9)], 1, null, null), [operation.Id]);
            }

            Say(new StepDone(WorkPhase.Apart, operation.Id, operation.Fasteners.Count > 0 ? _said.Count : null, []), [operation.Id]);
            if (operation.Kind == OperationKind.Open && Now(6))
            {
                Say(new ExtraFound(operation.Id, "extra-1", "a bracket", "screw", null, null, null, 2, null), [operation.Id]);
            }

            if (operation.Kind == OperationKind.Open && Now(8))
            {
                Say(new ToolLeft($"wedge {operation.Id}", null, operation.Id), [operation.Id]);
            }
        }
    }

    public void Back()
    {
        var steps = All || Now(3) ? Plan.Refit.Count : Random.Next(Plan.Refit.Count + 1);
        foreach (var id in Plan.Refit.Take(steps).Select(a => a.Id))
        {
            Close(id);
        }

        if (steps < Plan.Refit.Count)
        {
            return;
        }

        foreach (var piece in Job().NotCarried)
        {
            Say(new PartCarried(piece.Id), [Plan.Removal[^1].Id], back: true);
        }

        foreach (var check in Job().Checks.Where(c => c.Moment == ProofMoment.End && Random.Next(5) > 0))
        {
            Say(DemoTelling.Good(check, _said.Select(s => s.Payload).OfType<JobOpened>().First().NominalVolts), check.FollowsFrom, back: true, end: true);
        }

        foreach (var (tool, operation) in Job().ToolsLeft.Where(t => !Job().ToolsBack.ContainsKey(t.Tool) && (AllToolsTold || !Now(3))))
        {
            Say(new ToolBack(tool), [operation], back: true);
        }
    }

    private void Close(string id)
    {
        var job = Job();
        var step = Map.Step(id);
        foreach (var check in (step?.Checks ?? []).Select(job.Check).OfType<ProofCheck>())
        {
            Say(DemoTelling.Good(check, job.Opened.Payload.NominalVolts), [id], back: true);
        }

        if (step is { Setting: { } setting })
        {
            Say(new SettingKept(id, setting, "Within its bands", true, new Dictionary<string, string>()), [id], back: true);
            Say(new ToolLeft($"pin {id}", null, id), [id], back: true);
            Say(new ToolBack($"pin {id}"), [id], back: true);
        }

        if (step is not null && Now(3))
        {
            Say(new TimerStarted(id, TimerKind.Cure, 1, "Sealant"), [id], back: true);
        }

        List<FastenerOutcome> outcomes = [];
        foreach (var f in job.FastenersOf(id))
        {
            if (Now(4))
            {
                Say(new FastenersCounted(WorkPhase.Refit, id, f.Id, f.Count), [id], back: true);
                Say(new FastenerFound(id, f.Id, FastenerState.Broken, 1, null, null), [id], back: true);
            }

            var expected = FastenerCount.Expected(Job(), id, f);
            outcomes.Add(expected.Back > 0 && Now(5) ? expected with { Back = expected.Back - 1 } : expected);
        }

        Say(new StepDone(WorkPhase.Refit, id, null, outcomes), [id], back: true);
        foreach (var f in job.FastenersOf(id).Where(f => f.Torque is not null))
        {
            if ((TorqueHow?)Random.Next(4) is var how && how is TorqueHow.Wrench or TorqueHow.ByHand or TorqueHow.NotDone)
            {
                Say(new TorqueSet(id, f.Id, how.Value, how == TorqueHow.Wrench ? f.Torque!.Value : null, null, Why: how == TorqueHow.NotDone ? "no room for it" : null), [id], back: true);
            }
        }

        if (Job().Differences.Where(d => d.Step == id).Select(d => d.Key).ToList() is { Count: > 0 } covers && !Now(4))
        {
            Say(new DifferenceSigned("It was never there.", covers), [id], back: true);
        }

        foreach (var tool in Job().ToolsLeft.Where(t => t.Operation == id && (AllToolsTold || Now(2))).Select(t => t.Tool).Distinct())
        {
            Say(new ToolBack(tool), [id], back: true);
        }
    }

    /// <summary>The job as told.</summary>
    public Job Job() => Job(_ => true);

    /// <summary>Everything told, in order.</summary>
    public IReadOnlyList<Said> Told => _said;

    /// <summary>The job with some of what was told, and with more.</summary>
    public Job Job(Func<Said, bool> those, params Payload[] more)
    {
        var id = Guid.Empty;
        List<(Payload Payload, Guid Id)> told = [.. _said.Where(those).Select(s => (s.Payload, s.Id)), .. more.Select(p => (p, Guid.NewGuid()))];
        return Core.Jobs.Job.Fold(
            [.. told.Select((x, i) => (x.Payload, x.Id, By: x.Payload is SecondSigned ? Second : Apprentice, i)).Select(x => new Entry(new EntryDraft(x.Id, id, x.i, x.By, Begin.AddHours(x.i), x.Payload), x.i + 1, x.By, Begin))],
            new JobKnowledge(new Families(Library), new Dictionary<string, AccessMap> { [_shipped.Hash] = Map }));
    }
}
