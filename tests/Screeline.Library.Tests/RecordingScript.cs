using Screeline.Core.Access;
using Screeline.Core.Access.Planning;
using Screeline.Core.Access.Recording;
using Screeline.Core.Diagnosis;
using Screeline.Core.Fastening;
using Screeline.Core.Jobs;
using Screeline.Library.Demo;

namespace Screeline.Library.Tests;

/// <summary>
/// Somebody who knows the true map of a vehicle and records the work on it from nothing: does one of the map's valid orders, tells what comes off in the
/// map's words, and goes the way back as the program works it out.
/// </summary>
internal sealed class RecordingScript
{
    private static readonly ShippedLibrary Library = ShippedLibrary.Load();
    private static readonly DateTimeOffset Begin = new(2036, 5, 4, 8, 0, 0, TimeSpan.FromHours(2));
    private readonly Guid _technician = Guid.NewGuid();
    private readonly List<(Payload Payload, Guid Id)> _said = [];
    private readonly ShippedMap? _expected;
    private readonly Dictionary<string, string> _recordedAs = new(StringComparer.Ordinal);

    /// <summary>Works on the vehicle of a map.</summary>
    /// <param name="map">The true map.</param>
    /// <param name="random">Decides among its valid orders.</param>
    /// <param name="expected">The map that is expected, line by line; null for nothing.</param>
    /// <param name="sizes">Whether its fasteners are expected too.</param>
    public RecordingScript(AccessMap map, Random random, ShippedMap? expected = null, bool sizes = false)
    {
        (Map, _expected) = (map, expected);
        System = Library.System(map.Family)!;
        var target = map.Targets[random.Next(map.Targets.Count)];
        var repair = target.Repairs is [var named, ..] ? System.Repair(named)! : System.Repairs.First(r => r.IsMotor);
        var plan = RoutePlanner.Plan(new PlanRequest(map, target.Operation) { Blocked = (map.Fitted?.Choices[0].Without ?? []).ToHashSet(StringComparer.Ordinal) }).Routes[0];
        var set = plan.Removal.Select(a => a.Id).ToHashSet(StringComparer.Ordinal);
        // The last that comes off the vehicle itself is what it is about; what follows is of the bench.
        var about = plan.Removal.Last(a => map[a.Id].Kind == OperationKind.Open && Kind(map[a.Id].Position) != "bench").Id;
        Say(new JobOpened(Guid.NewGuid(), "V", map.AppliesTo[0].Model, map.Id.StartsWith("carrier", StringComparison.Ordinal) ? 24 : 12, System.Id, "It fails", null));
        Say(new ComplaintNoted("It fails", [System.Behaviours[0].Id], "Always", 5, 5, null));
        Say(new DecisionMade(DecisionAct.Guess, repair.Title, "For the test.", repair.Id));
        Say(new RecordingBegun(expected?.Hash, sizes, []));
        var done = new HashSet<string>(StringComparer.Ordinal);
        while (set.Where(id => !done.Contains(id) && WalkRules.MayRemove(map[id], done)).ToList() is { Count: > 0 } possible)
        {
            var id = possible[random.Next(possible.Count)];
            Tell(map[id], id == about);
            done.Add(id);
            Order.Add(id);
        }

        Assert.Equal(set.Count, done.Count);
    }

    public AccessMap Map { get; }
    public FaultSystem System { get; }
    /// <summary>The order worked, in the map's ids.</summary>
    public List<string> Order { get; } = [];
    /// <summary>What the program asked for besides the map's own steps.</summary>
    public List<string> AskedBesides { get; } = [];
    /// <summary>The step of the record that an operation of the map became.</summary>
    public IReadOnlyDictionary<string, string> RecordedAs => _recordedAs;

    public Job Job() => Core.Jobs.Job.Fold(
        [.. _said.Select((x, i) => new Entry(new EntryDraft(x.Id, Guid.Empty, i, _technician, Begin.AddHours(i), x.Payload), i + 1, _technician, Begin.AddHours(i)))],
        new JobKnowledge(new Families(Library), _expected is null ? new Dictionary<string, AccessMap>() : new Dictionary<string, AccessMap> { [_expected.Hash] = _expected.Map }));

    private string Kind(string position) => Map.Positions.First(p => p.Id == position).Kind ?? "bay";

    /// <summary>Says something, which must be in order and well formed.</summary>
    public Guid Say(Payload payload)
    {
        if (_said.Count > 0)
        {
            var job = Job();
            Assert.Empty(JobRules.Malformed(job, payload));
            var reason = JobRules.OutOfOrder(job, payload, Begin.AddHours(_said.Count));
            Assert.True(reason is null, $"{Map.Id}, {payload.Describe(job)}: {reason}");
        }

        _said.Add((payload, Guid.NewGuid()));
        return _said[^1].Id;
    }

    private void Tell(Operation o, bool isTarget)
    {
        var frame = System.Frame.Find(o.Id)?.Operation ?? System.Frame.Operations.FirstOrDefault(f => f.Operation.Provides.Any(o.Provides.Contains))?.Operation;
        if (frame is not null)
        {
            Tick(frame, o);
            _recordedAs[o.Id] = frame.Id;
            return;
        }

        if (Job().Expected.FirstOrDefault(e => e.Id == o.Id) is { } line)
        {
            foreach (var f in line.Fasteners.Count > 0 ? [] : o.Fasteners)
            {
                Say(new GroupOut(f.Kind, f.Drive, f.Count, Job().Count.FreeCell));
            }

            if (line.WaitMinutes > 0)
            {
                Say(new TimerStarted(line.Id, TimerKind.Cool, line.WaitMinutes, line.Title));
            }

            while (Job().SafeFirst(line) is { } first)
            {
                AskedBesides.Add($"{first.Title} for “{o.Title}”");
                Tick(first, null);
            }

            Say(new StepDone(WorkPhase.Apart, o.Id, Job().Pending(_technician)?.Cell ?? Job().Count.FreeCell, []));
            _recordedAs[o.Id] = o.Id;
            return;
        }

        var act = o.Kind == OperationKind.Once ? TakenAct.Looked : o.Off.Select(p => p.Kind).FirstOrDefault() switch { "connector" => TakenAct.Plug, "hose" => TakenAct.Hose, "earth-lead" => TakenAct.Lead, _ => TakenAct.Part };
        var off = new TakenOff(act, o.Title, Kind(o.Position), isTarget);
        // What the program wants first because of the words or the place.
        for (var i = 0; i < 5 && JobRules.OutOfOrder(Job(), off, Begin) is not null; i++)
        {
            var job = Job();
            var thing = new RecordedThing("", act, o.Title, Kind(o.Position), [], isTarget, [], null, job.Words.In(o.Title, System.Id), []).ToOperation();
            var state = RecordedMap.Requires(thing, c => Library.Cautions[c]).First(s => !job.Removed.Keys.Any(id => job.Map![id].Provides.Contains(s)));
            AskedBesides.Add($"{state} for “{o.Title}”");
            Tick(System.Frame.Providing(state)!, null);
        }

        foreach (var f in o.Fasteners)
        {
            Say(new GroupOut(f.Kind, f.Drive, f.Count, Job().Pending(_technician)?.Cell ?? Job().Count.FreeCell, f.LengthMillimetres, f.Thread));
        }

        Say(off);
        _recordedAs[o.Id] = Job().Things[^1].Id;
    }

    private void Tick(Operation frame, Operation? o)
    {
        foreach (var needed in frame.Needs.Names.Where(id => !Job().Removed.ContainsKey(id)))
        {
            Tick(System.Frame.Find(needed)!.Operation, null);
        }

        if (Job().Removed.ContainsKey(frame.Id))
        {
            return;
        }

        if (frame.Provides.Contains("battery-isolated"))
        {
            foreach (var live in Job().Expected.Where(e => e.Live && System.Frame.Find(e.Id) is { Moment: FrameMoment.First }).ToList())
            {
                Tick(live, null);
            }
        }

        if (frame.WaitMinutes > 0)
        {
            Say(new TimerStarted(frame.Id, frame.Cautions.Contains("restraint") ? TimerKind.Restraint : TimerKind.Cool, frame.WaitMinutes, frame.Title));
        }

        foreach (var f in o?.Fasteners ?? [])
        {
            Say(new GroupOut(f.Kind, f.Drive, f.Count, Job().Count.FreeCell, f.LengthMillimetres, f.Thread));
        }

        Say(new StepDone(WorkPhase.Apart, frame.Id, Job().Pending(_technician)?.Cell, []));
    }

    /// <summary>Goes the way back as it is worked out, and proves it.</summary>
    public IReadOnlyList<string> Back()
    {
        var went = new List<string>();
        while (Refit.Order(Job()).FirstOrDefault(id => !Job().Refitted.ContainsKey(id)) is { } id)
        {
            var job = Job();
            var step = job.Map!.Step(id);
            foreach (var check in (step?.Checks ?? []).Select(job.Check).OfType<ProofCheck>())
            {
                Say(DemoTelling.Good(check, job.Opened.Payload.NominalVolts));
            }

            if (step?.Setting is { } setting)
            {
                Say(new SettingKept(id, setting, "Within its bands", true, new Dictionary<string, string>()));
            }

            Say(new StepDone(WorkPhase.Refit, id, null, [.. job.FastenersOf(id).Select(f => FastenerCount.Expected(job, id, f))]));
            went.Add(id);
        }

        return went;
    }

    /// <summary>Proves the end and hands back.</summary>
    public Job HandBack()
    {
        Job().ToolsLeft.Select(t => t.Tool).Distinct().ToList().ForEach(t => Say(new ToolBack(t)));
        Job().NotCarried.ToList().ForEach(p => Say(new PartCarried(p.Id)));
        Job().Checks.Where(c => Job().Held(c) != true).ToList().ForEach(c => Say(DemoTelling.Good(c, Job().Opened.Payload.NominalVolts)));
        Assert.Empty(Job().MissingFromProof);
        return Job();
    }
}
