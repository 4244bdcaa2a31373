using Screeline.Core.Access;
using Screeline.Core.Access.Planning;
using Screeline.Core.Diagnosis;
using Screeline.Core.Fastening;
using Screeline.Core.Jobs;
using Screeline.Library.Demo;

namespace Screeline.Library.Tests;

/// <summary>
/// A job that is sent back asks for exactly what a job would ask for that never came so far: random jobs on every shipped map,
/// told once whole and once without what hangs on the steps that are undone.
/// </summary>
public sealed class SentBackTests
{
    private static readonly ShippedLibrary Library = ShippedLibrary.Load();
    private static readonly Guid Apprentice = Guid.NewGuid(), Second = Guid.NewGuid();
    private static readonly DateTimeOffset Begin = new(2036, 5, 4, 8, 0, 0, TimeSpan.FromHours(2));

    public static TheoryData<string> Maps => [.. Library.Maps.Select(m => m.Map.Id)];

    [Theory]
    [MemberData(nameof(Maps))]
    public void To_a_step_it_asks_for_what_a_job_asks_that_never_closed_it(string map)
    {
        for (var seed = 0; seed < 5; seed++)
        {
            var told = new RandomJob(Library.Map(map), new Random(seed));
            told.TakeApart();
            told.Back();
            var closed = told.Job().Refitted.Keys.Order(StringComparer.Ordinal).ToList();
            if (closed.Count == 0)
            {
                continue;
            }

            var step = closed[told.Random.Next(closed.Count)];
            var again = told.Job().AgainFrom(step);
            Assert.Contains(step, again);
            var sent = told.Job(_ => true, new SentBack(null, step, "Seen on the way."));
            var never = told.Job(said => !said.Back || (said.Of.Count > 0 && !said.Of.Any(again.Contains)));
            Assert.Equal(Asks(never, told), Asks(sent, told));
        }
    }

    [Theory]
    [MemberData(nameof(Maps))]
    public void To_find_it_asks_for_what_a_job_asks_that_never_closed_anything(string map)
    {
        for (var seed = 0; seed < 5; seed++)
        {
            var told = new RandomJob(Library.Map(map), new Random(seed)) { AllToolsTold = true };
            told.TakeApart();
            told.Back();
            var job = told.Job();
            var open = job.Removed.Keys.Where(id => !job.Refitted.ContainsKey(id)).ToHashSet(StringComparer.Ordinal);
            open = open.Any(id => told.Map[id].Kind == OperationKind.Open) ? open : [];
            SentBack toFind = new(null, null, "It is something else.");
            Payload[] anew = [told.Decision, told.Route, .. told.Plan.Removal.Where(a => !open.Contains(a.Id)).Select(a => new StepDone(WorkPhase.Apart, a.Id, told.Map[a.Id].Fasteners.Count > 0 ? 90 : null, []))];
            bool Stays(Said said) => said.Of.Count == 0 ? !said.End : !said.Back && said.Of.All(open.Contains);
            foreach (Payload[] then in new Payload[][] { [], anew })
            {
                Assert.Equal(Asks(told.Job(Stays, [toFind, .. then]), told), Asks(told.Job(_ => true, [toFind, .. then]), told));
            }
        }
    }

    /// <summary>What nobody told back is still in or under the vehicle, wherever the job is sent.</summary>
    [Theory]
    [MemberData(nameof(Maps))]
    public void A_tool_that_nobody_told_back_is_asked_for_wherever_the_job_is_sent(string map)
    {
        for (var seed = 0; seed < 3; seed++)
        {
            var told = new RandomJob(Library.Map(map), new Random(seed));
            told.TakeApart();
            told.Back();
            var before = NotBack(told.Job());
            Assert.Subset(NotBack(told.Job(_ => true, new SentBack(null, null, "It is something else."))), before);
            foreach (var step in told.Job().Refitted.Keys)
            {
                Assert.Subset(NotBack(told.Job(_ => true, new SentBack(null, step, "Seen on the way."))), before);
            }
        }
    }

    [Fact]
    public void Stands_under_a_vehicle_that_is_raised_again_are_asked_for_again()
    {
        var told = new RandomJob(Library.Map("tideway-starter"), new Random(1)) { AllToolsTold = true, All = true };
        told.TakeApart();
        told.Back();
        Assert.Empty(NotBack(told.Job()));
        var again = told.Job(_ => true, new SentBack("five-starts", "main-nut", "Loose?"));
        Assert.Superset(new HashSet<string> { "stands", "chocks" }, NotBack(again));
        // It is told what must be opened first, until something is closed again.
        Assert.Superset(new HashSet<string> { "raised", "negative-off", "main-nut" }, again.OpenAgain.ToHashSet());
        Assert.Equal(again.OpenAgain, told.Plan.Removal.Select(a => a.Id).Where(again.OpenAgain.Contains));
        Assert.Empty(told.Job(_ => true, new SentBack("five-starts", "main-nut", "Loose?"), new StepDone(WorkPhase.Refit, "main-nut", null, [])).OpenAgain);
        Assert.Empty(NotBack(told.Job(_ => true, new SentBack("five-starts", null, "Not the starter?"))));
        Payload[] anew = [told.Decision, told.Route, .. told.Plan.Removal.Select(a => new StepDone(WorkPhase.Apart, a.Id, null, []))];
        Assert.Superset(new HashSet<string> { "stands", "chocks" }, NotBack(told.Job(_ => true, [new SentBack("five-starts", null, "Not the starter?"), .. anew])));
    }

    private static HashSet<string> NotBack(Job job) => [.. job.ToolsLeft.Select(t => t.Tool).Where(t => !job.ToolsBack.ContainsKey(t))];

    // Everything a job can ask for, in words.
    private static List<string> Asks(Job job, RandomJob told)
    {
        List<string> asks = [$"stage {job.Current}", .. job.MissingFromProof.Order(StringComparer.Ordinal), .. Refit.Order(job).Where(id => !job.Refitted.ContainsKey(id)).Select(id => $"left {id}")];
        asks.AddRange(NotBack(job).Order(StringComparer.Ordinal).Select(t => $"tool {t}"));
        asks.AddRange(job.NotCarried.Select(p => $"piece {p.Id}"));
        asks.AddRange(job.SecondsMissing.Select(s => $"second {s.Why}"));
        asks.AddRange(job.OpenTimers.Select(t => $"wait {t.Payload.Step} {t.Payload.Kind}"));
        asks.AddRange(job.Count.Accounts.OrderBy(a => a.Step, StringComparer.Ordinal).ThenBy(a => a.Fastener.Id, StringComparer.Ordinal).Select(a => $"count {a.Step} {a.Fastener.Id} out {a.Out} back {a.Back}+{a.Renewed}+{a.Missing} in place {a.InPlace} gone {a.Gone} signed {job.IsSigned(a)}"));
        asks.AddRange(job.Count.Pieces.OrderBy(p => p.Step, StringComparer.Ordinal).Select(p => $"on {p.Step} {p.Piece.What} {p.On}"));
        foreach (var id in job.Removed.Keys.Where(id => !job.Refitted.ContainsKey(id)).Order(StringComparer.Ordinal))
        {
            foreach (var f in job.FastenersOf(id))
            {
                var expected = FastenerCount.Expected(job, id, f);
                asks.Add($"goes back {id} {f.Id}: {expected.Back}+{expected.Renewed}+{expected.Missing}, counted {job.Counted(WorkPhase.Refit, id, f.Id)}, tightened {job.Torques.Any(t => t.Payload.Step == id && t.Payload.Fastener == f.Id)}");
            }
        }

        // What a step would be refused for.
        foreach (var id in told.Plan.Refit.Select(a => a.Id).Where(id => !job.Refitted.ContainsKey(id)))
        {
            asks.Add($"{id}: {JobRules.OutOfOrder(job, new StepDone(WorkPhase.Refit, id, null, []), Begin.AddDays(9))}");
        }

        return asks;
    }

    /// <summary>Something said, and the steps it hangs on; none for what stands by itself.</summary>
    private sealed record Said(Payload Payload, Guid Id, IReadOnlyCollection<string> Of, bool Back = false, bool End = false);

    /// <summary>A job of an apprentice with everything that can be said at the vehicle, some of it at random, broken off somewhere on the way back or at its end.</summary>
    private sealed class RandomJob
    {
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
                Say(new TorqueSet(id, f.Id, TorqueHow.Wrench, f.Torque!.Value, null), [id], back: true);
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
}
