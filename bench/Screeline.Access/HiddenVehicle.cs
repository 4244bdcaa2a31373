using Screeline.Core.Access;
using Screeline.Core.Access.Learning;
using Screeline.Core.Access.Planning;
using Screeline.Core.Access.Recording;

namespace Screeline.Access;

/// <summary>How somebody works.</summary>
public enum Worker
{
    /// <summary>Nearly the best way, on times that are a quarter off.</summary>
    NearBest,
    /// <summary>A random choice wherever there is one, and 15 % of all parts opened too much.</summary>
    Random,
}

/// <summary>
/// A vehicle whose access nobody has drawn, for experiments: needs with alternatives, things done once, steps of the way back, places and dangers that the
/// family's frame answers for. People work on it by its rules, and tell the truth about it.
/// </summary>
public sealed class HiddenVehicle
{
    private readonly Random _random;

    private HiddenVehicle(AccessMap map, Random random) => (Map, _random) = (map, random);

    /// <summary>Its rules, which only those who work on it see.</summary>
    public AccessMap Map { get; }

    /// <summary>The frame: chocks, stands, battery, and what wants power before it is off.</summary>
    public static WorkFrame Frame { get; } = new(
        [
            new(Make("codes", OperationKind.Once, "cabin", Needs.Nothing) with { Live = true }, FrameMoment.First),
            new(Make("chocked", OperationKind.Open, "floor", Needs.Nothing) with { Provides = [Chocked] }, FrameMoment.Asked),
            new(Make("raised", OperationKind.Open, "floor", new Needs.One("chocked")) with { Provides = [Supported] }, FrameMoment.Asked),
            new(Make("negative", OperationKind.Open, "bay", Needs.Nothing) with { Provides = [Isolated] }, FrameMoment.First),
        ],
        [], null, null, []);

    private const string Chocked = "chocked", Supported = "vehicle-supported", Isolated = "battery-isolated";

    /// <summary>What cautions require.</summary>
    public static IReadOnlyList<string> States(string caution) => caution == "live" ? [Isolated] : [];

    /// <summary>A vehicle on which somebody gets in and back.</summary>
    /// <param name="seed">The same seed, the same vehicle.</param>
    /// <param name="least">Least operations besides the frame's.</param>
    /// <param name="most">Most of them.</param>
    /// <param name="small">Whether it may be one on which little of it lies on the way.</param>
    public static HiddenVehicle Make(int seed, int least, int most, bool small = false)
    {
        for (var attempt = 0; ; attempt++)
        {
            var random = new Random(unchecked(seed * 7919 + attempt * 104729));
            var vehicle = new HiddenVehicle(Draft(random, random.Next(least, most + 1)), random);
            // As on a vehicle, most of what is drawn lies on the way.
            if (vehicle.Work(Worker.Random) is { } job && (small || (job.Opened.Count >= vehicle.Map.Operations.Count / 2 && vehicle.NearBest() is ({ } best, not null) && best.Count >= vehicle.Map.Operations.Count / 2)))
            {
                return vehicle;
            }
        }
    }

    /// <summary>A job on it; null when its worker finds no way back.</summary>
    public WorkedJob? Work(Worker worker, int day = 0)
    {
        var way = worker == Worker.NearBest ? NearBest() : Anyhow();
        return way is not ({ Count: > 0 } removal, { } refit) ? null : new WorkedJob
        {
            Job = new Guid(_random.Next(), 0, 0, [.. Enumerable.Range(0, 8).Select(_ => (byte)_random.Next(256))]), On = new DateOnly(2036, 1, 1).AddDays(day), By = [$"worker {_random.Next(3)}"],
            Opened = [.. removal.Select(id => Map[id] with { Needs = Needs.Nothing, Close = Map[id].Close with { While = null } })], Closed = refit,
            Steps = [.. Map.RefitSteps.Where(s => refit.Contains(s.Id)).Select(s => s with { After = [], Before = [], AppliesIf = null })],
            // Somebody says for what a step that is not always there is done.
            Words = [.. Map.RefitSteps.Where(s => s.AppliesIf is not null && refit.Contains(s.Id)).Select(s => new LearnedWord(Guid.NewGuid(), "worker", default, WordKind.Because, s.Id, [s.AppliesIf!]))],
        };
    }

    /// <summary>The job with "only this was in the way" said at every third part: a least set that would have done.</summary>
    public WorkedJob WithOnlyThis(WorkedJob job, int every = 3)
    {
        for (var i = 0; i < job.Opened.Count; i++)
        {
            var id = job.Opened[i].Id;
            if (i % every == every - 1 && !Questions.IsFrame(job.Opened[i], Frame))
            {
                var kept = Questions.Kept(job, LeastFor(Map[id].Needs, Learner.Examples(job, o => Questions.IsFrame(o, Frame))[id]), Frame);
                job = job with { Words = [.. job.Words, new LearnedWord(Guid.NewGuid(), "worker", default, WordKind.Only, id, kept)] };
            }
        }

        return job;
    }

    /// <summary>The truth about a part: for what it had to be off, there and back, in a job as it stands.</summary>
    public IReadOnlyList<LearnedWord> Answer(WorkedJob job, string part)
    {
        var way = Learner.Examples(job, o => Questions.IsFrame(o, Frame));
        var needed = way.Where(x => x.Value.Contains(part) && !Holds(Map[x.Key].Needs, x.Value, part)).Select(x => x.Key).ToHashSet(StringComparer.Ordinal);
        var back = Learner.Closings(job).Where(x => x.Value.Contains(part) && !Map[x.Key].CloseWhile.Hold(id => id != part && x.Value.Contains(id))).Select(x => x.Key).ToHashSet(StringComparer.Ordinal);
        return Questions.Answer(job, part, needed, back, Frame, Guid.NewGuid(), "worker", default);
    }

    /// <summary>The least minutes there and back if only these operations are ever opened.</summary>
    public decimal? BestOf(IReadOnlySet<string> opened) =>
        RoutePlanner.Plan(new PlanRequest(Map, Map.Targets[0].Operation) { Blocked = Map.Operations.Select(o => o.Id).Where(id => !opened.Contains(id)).ToHashSet(StringComparer.Ordinal) }).Routes is [var best, ..] ? best.ExpectedMinutes : null;

    /// <summary>A map that has learned nothing yet.</summary>
    public AccessMap Head => MapChanges.Learned(MapChanges.Placed(Map, [], [], Map.Positions, [], [Map.Targets[0]]), LearnedFrom.Nothing);

    /// <summary>What is learned from some jobs.</summary>
    public AccessMap Learn(IReadOnlyList<WorkedJob> jobs) => Learner.Learn(MapChanges.Learned(Head, LearnedFrom.Nothing with { Jobs = jobs }), Frame, States);

    // What the frame answers for is open whenever it must be.
    private static bool Holds(Needs needs, HashSet<string> open, string without) => needs.Hold(id => (id != without && open.Contains(id)) || Frame.Find(id) is not null);

    private List<string> LeastFor(Needs needs, HashSet<string> open)
    {
        List<string> left = [.. open.OrderBy(_ => _random.Next())];
        foreach (var id in left.ToList())
        {
            if (needs.Hold(x => (x != id && left.Contains(x)) || Frame.Find(x) is not null))
            {
                left.Remove(id);
            }
        }

        return left;
    }

    private (List<string>, List<string>?) NearBest()
    {
        Minutes Off(Minutes m) => new(m.Low, m.Likely * (decimal)(0.75 + _random.NextDouble() / 2), m.High);
        var felt = MapChanges.Placed(Map, [.. Map.Operations.Select(o => o with { Minutes = Off(o.Minutes) with { Low = 0, High = 99 } })], Map.RefitSteps, Map.Positions, [], Map.Targets);
        return RoutePlanner.Plan(new PlanRequest(felt, felt.Targets[0].Operation) { Budget = TimeSpan.FromMilliseconds(500) }).Routes is [var best, ..] ? ([.. best.Removal.Select(a => a.Id)], [.. best.Refit.Select(a => a.Id)]) : ([], null);
    }

    private (List<string>, List<string>?) Anyhow()
    {
        var target = Map.Targets[0].Operation;
        // Any least set that leads there, with the frame's first steps, which belong to every job.
        HashSet<string> Reach(HashSet<string> of)
        {
            var reached = new HashSet<string>(StringComparer.Ordinal);
            while (of.Where(id => !reached.Contains(id) && WalkRules.MayRemove(Map[id], reached)).ToList() is { Count: > 0 } next)
            {
                reached.UnionWith(next);
            }

            return reached;
        }

        var set = Map.Operations.Select(o => o.Id).ToHashSet(StringComparer.Ordinal);
        foreach (var id in Map.Operations.Select(o => o.Id).Where(id => id is not ("codes" or "negative")).OrderBy(_ => _random.Next()))
        {
            if (Reach([.. set.Where(x => x != id)]) is var without && without.Contains(target) && without.Contains("negative"))
            {
                set = without;
            }
        }

        // 15 % too much: whatever lies open besides.
        var most = (int)Math.Ceiling(set.Count * 1.15);
        while (set.Count < most && Map.Operations.Where(o => !Questions.IsFrame(o, Frame) && WalkRules.MayRemove(o, set)).OrderBy(_ => _random.Next()).FirstOrDefault() is { } more)
        {
            set.Add(more.Id);
        }

        var (removal, done) = (new List<string>(), new HashSet<string>(StringComparer.Ordinal));
        while (set.Where(id => id != target && WalkRules.MayRemove(Map[id], done)).OrderBy(_ => _random.Next()).FirstOrDefault() is { } next)
        {
            removal.Add(next);
            done.Add(next);
        }

        if (!WalkRules.MayRemove(Map[target], done))
        {
            return ([], null);
        }

        removal.Add(target);
        done.Add(target);
        for (var attempt = 0; attempt < 20; attempt++)
        {
            var (progress, refit) = (new RefitProgress(done, new HashSet<string>(), new HashSet<string>()), new List<string>());
            var actions = WalkRules.RefitActions(Map, done);
            while (actions.Where(id => !refit.Contains(id) && WalkRules.MayRefit(Map, id, progress)).OrderBy(_ => _random.Next()).FirstOrDefault() is { } next)
            {
                refit.Add(next);
                progress = WalkRules.After(Map, next, progress);
            }

            if (refit.Count == actions.Count)
            {
                return (removal, refit);
            }
        }

        return (removal, null);
    }

    private static AccessMap Draft(Random random, int n)
    {
        var operations = Frame.Operations.Select(f => f.Operation with { Minutes = new Minutes(1, 2, 3) }).ToList();
        for (var i = 0; i < n; i++)
        {
            // The last one is the motor: it lies behind what nothing else lies behind.
            var place = random.Next(4) == 0 ? "under" : random.Next(2) == 0 ? "bay" : "cabin";
            List<string> cautions = i == n - 1 || random.Next(6) == 0 ? ["live"] : [];
            List<Needs> frame = [.. place == "under" ? [new Needs.One("raised")] : Array.Empty<Needs>(), .. cautions.Count > 0 ? [new Needs.One("negative")] : Array.Empty<Needs>()];
            var likely = 0.5m * random.Next(1, 13);
            var behind = new Needs.All([.. frame, Behind(i), .. i < n - 1 ? [] : Ends(operations)]);
            operations.Add(Make($"o{i:00}", i < n - 1 && random.Next(8) == 0 ? OperationKind.Once : OperationKind.Open, place, behind) with
            {
                Cautions = cautions, Minutes = new Minutes(likely / 2, likely, likely * 2),
                Close = new Closing(null, random.Next(4) switch { 0 => new Needs.All(frame), 1 => new Needs.All([.. frame, new Needs.Any([behind, Behind(i)])]), _ => null }, false, null),
            });
        }

        // The battery's cover, now and then: what the frame asks for may itself lie behind something.
        if (random.Next(3) == 0)
        {
            operations = [.. operations.Select(o => o.Id == "negative" ? o with { Needs = new Needs.All([new Needs.One("codes"), new Needs.One("o00")]), Close = o.Close with { While = Needs.Nothing } } : o)];
            operations = [.. operations.Select(o => o.Id == "o00" ? o with { Needs = Needs.Nothing, Cautions = [], Position = "bay", Close = new Closing(null, Needs.Nothing, false, null) } : o)];
        }

        var steps = Enumerable.Range(0, random.Next(3)).Select(i => new RefitStep
        {
            Id = $"s{i}", Title = $"s{i}", Position = "bay", Minutes = new Minutes(1, 2, 3), Tools = [], AppliesIf = random.Next(2) == 0 ? $"o{random.Next(n):00}" : null, After = [$"o{random.Next(n):00}"],
            Before = random.Next(2) == 0 ? [$"o{random.Next(n):00}"] : [], Gate = false,
        });
        return new AccessMap
        {
            Id = "hidden", Title = "Hidden", Family = "starting", StartPosition = "floor", Positions = AnyPlaces.All, Moves = [], DefaultMoveMinutes = 0, ToolChangeMinutes = 0, LabourRatePerHour = 60,
            Operations = operations, RefitSteps = [.. steps.Where(s => !s.After.Intersect(s.Before).Any())], Targets = [new Target("motor", $"o{n - 1:00}")],
        };

        IEnumerable<Needs> Ends(List<Operation> all) => all.Skip(Frame.Operations.Count).Where(o => o.Kind == OperationKind.Open && random.Next(4) > 0 && !all.Any(x => x.Needs.Names.Contains(o.Id))).Select(o => new Needs.One(o.Id));

        Needs Behind(int i)
        {
            if (i == 0)
            {
                return Needs.Nothing;
            }

            Needs One() => new Needs.One($"o{random.Next(Math.Max(0, i - 6), i):00}");
            return random.Next(6) switch { 0 => Needs.Nothing, 1 or 2 => One(), 3 => new Needs.All([One(), One()]), 4 => new Needs.Any([One(), One()]), _ => new Needs.All([One(), new Needs.Any([One(), new Needs.All([One(), One()])])]) };
        }
    }

    private static Operation Make(string id, OperationKind kind, string place, Needs needs) => new()
    {
        Id = id, Title = id, Kind = kind, Position = place, Minutes = new Minutes(0, 0, 0), Needs = id == "negative" ? new Needs.One("codes") : needs, Tools = [], Damage = new Damage(0, 0, ""), Consumes = [], Close = new Closing(null, null, false, null),
    };
}
