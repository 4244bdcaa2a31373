namespace Screeline.Core.Access.Recording;

/// <summary>What a recorded map is made of.</summary>
/// <param name="Frame">What holds of every vehicle of the family.</param>
/// <param name="Base">The map that the work began on: expectations of a recorded job, the map of one that follows a map; null for nothing.</param>
/// <param name="Things">What was recorded.</param>
/// <param name="Order">Everything that is off or done, in the order it was, by id: operations of the base and the frame, and things.</param>
/// <param name="Follows">Whether the job follows the base's own order: its steps of the way back then count, and not the frame's.</param>
/// <param name="Only">For a thing, the things that alone were in its way, where somebody said so.</param>
/// <param name="Left">Steps of the way back that this vehicle does not have.</param>
/// <param name="States">For a caution, the states it requires.</param>
/// <param name="WordsOf">The things that a title names, the one that says most first.</param>
public sealed record RecordedWork(
    WorkFrame Frame, AccessMap? Base, IReadOnlyList<RecordedThing> Things, IReadOnlyList<string> Order, bool Follows,
    IReadOnlyDictionary<string, IReadOnlyList<string>> Only, IReadOnlySet<string> Left, Func<string, IReadOnlyList<string>> States, Func<string, IReadOnlyList<PartWord>> WordsOf);

/// <summary>
/// The map of a job that is recorded as it goes: an operation for everything that was told, needing what was told before it, with the way back worked
/// out. Exact meanings in docs/formats.md, "Recorded as it goes".
/// </summary>
/// <param name="Map">The map.</param>
/// <param name="WayBack">Everything of the way back in the order worked out; empty for a job that follows a map.</param>
/// <param name="Reasons">Why an action stands where it does, where it is not just the reverse of how it came off.</param>
public sealed record RecordedMap(AccessMap Map, IReadOnlyList<string> WayBack, IReadOnlyDictionary<string, string> Reasons)
{
    /// <summary>Makes it.</summary>
    public static RecordedMap Build(RecordedWork work)
    {
        var things = work.Things.ToDictionary(t => t.Id, StringComparer.Ordinal);
        var known = new Dictionary<string, Operation>(StringComparer.Ordinal);
        // What the frame says of its own steps counts, whatever a map says of a step of that name.
        foreach (var o in (work.Follows ? work.Base!.Operations : work.Frame.Operations.Select(f => f.Operation).Concat(work.Base?.Operations ?? [])).Concat(work.Things.Select(t => Stands(t.ToOperation(), work))))
        {
            known.TryAdd(o.Id, o);
        }

        var order = work.Order.Where(known.ContainsKey).ToList();
        var operations = new List<Operation>(known.Count);
        var done = new List<Operation>();
        string? before = null;
        foreach (var id in order)
        {
            var o = known[id];
            if (!work.Follows || things.ContainsKey(id))
            {
                o = With(o, work, before, done);
            }

            operations.Add(o);
            done.Add(o);
            before = o.Kind == OperationKind.Open ? id : before;
        }

        var off = order.ToHashSet(StringComparer.Ordinal);
        operations.AddRange(known.Values.Where(o => !off.Contains(o.Id)));
        if (work.Follows)
        {
            var places = AnyPlaces.All.Where(p => operations.Any(o => o.Position == p.Id) && work.Base!.Positions.All(known => known.Id != p.Id));
            return new RecordedMap(MapChanges.Placed(work.Base!, operations, work.Base!.RefitSteps, [.. work.Base.Positions, .. places], work.Base.PrintedRoute), [], new Dictionary<string, string>());
        }

        var target = work.Things.FirstOrDefault(t => t.IsTarget && off.Contains(t.Id))?.Id ?? work.Base?.Targets.FirstOrDefault(t => off.Contains(t.Operation))?.Operation;
        var way = new WayBackOrder(work, things, done, target);
        return new RecordedMap(
            new AccessMap
            {
                Id = RecordedId, Title = "Recorded as it goes", Family = work.Base?.Family ?? "", StartPosition = "floor", Positions = AnyPlaces.All, Moves = [], DefaultMoveMinutes = 0, ToolChangeMinutes = 0,
                LabourRatePerHour = work.Base?.LabourRatePerHour ?? 0, Operations = operations, RefitSteps = way.Steps, Targets = [new Target("reached", target ?? "")], Restores = work.Frame.Restores,
                Lessons = [.. (work.Base?.Lessons ?? []).Select(l => l with { At = [.. l.At.Where(known.ContainsKey)] })],
            },
            way.Order, way.Reasons);
    }

    /// <summary>The id of every map that was recorded in a job and is nobody's map yet.</summary>
    public const string RecordedId = "recorded";

    /// <summary>A map of nothing but what is expected or was off when the vehicle came.</summary>
    /// <param name="family">The family.</param>
    /// <param name="operations">Its operations, in places of any vehicle.</param>
    /// <param name="expected">The map they are expected from, for what it aims at and what it is known to punish; null for none.</param>
    public static AccessMap Of(string family, IReadOnlyList<Operation> operations, AccessMap? expected) => new()
    {
        Id = RecordedId, Title = "Recorded as it goes", Family = family, StartPosition = "floor", Positions = AnyPlaces.All, Moves = [], DefaultMoveMinutes = 0, ToolChangeMinutes = 0,
        LabourRatePerHour = expected?.LabourRatePerHour ?? 0, Operations = operations, Targets = expected?.Targets ?? [], Lessons = expected?.Lessons ?? [], Subject = expected?.Subject,
    };

    /// <summary>States that a place and cautions require.</summary>
    public static IEnumerable<string> Requires(Operation operation, Func<string, IReadOnlyList<string>> states) =>
        (Position.UnderneathKinds.Contains(operation.Position) ? [AccessMapChecks.Supported] : Array.Empty<string>()).Concat(operation.Cautions.SelectMany(states)).Except(operation.Provides).Distinct();

    /// <summary>
    /// A map as an expectation: what comes off, in places of any vehicle, its minutes wider; where it is no map of this vehicle's kind also without sizes.
    /// What it says of needs and of the way back is not taken over: those come from the work itself.
    /// </summary>
    /// <param name="map">The map.</param>
    /// <param name="sizes">Whether its fasteners are expected too.</param>
    /// <param name="wider">By how much the estimates are widened to both sides, above 1.</param>
    public static AccessMap Expected(AccessMap map, bool sizes, decimal wider) => MapChanges.Placed(
        MapChanges.Aiming(map, [.. map.Targets.Select(t => t with { Operation = OpenedFor(map, t.Operation) })]),
        [.. map.Operations.Where(o => !o.ByMotor).Select(o => o with
        {
            Position = map.Positions.FirstOrDefault(p => p.Id == o.Position)?.Kind ?? "bay", Needs = Needs.Nothing, Close = new Closing(Wider(o.CloseMinutes, wider), null, false, o.Close.Title),
            Minutes = Wider(o.Minutes, wider), Fasteners = sizes ? o.Fasteners : [], Tools = sizes ? o.Tools : [], Leaves = sizes ? o.Leaves : [], OrTools = new Dictionary<string, IReadOnlyList<string>>(), Consumes = [], Outline = [], Place = sizes ? o.Place : null, Reach = sizes ? o.Reach : null,
        })],
        [], AnyPlaces.All);

    // What is compared and felt on the bench was got at by what came off the vehicle last.
    private static string OpenedFor(AccessMap map, string id)
    {
        for (var i = 0; i < map.Operations.Count && map.Operation(id) is { } o && (o.Kind == OperationKind.Once || map.Positions.FirstOrDefault(p => p.Id == o.Position)?.Kind == "bench") && o.Needs.Names.LastOrDefault() is { } before; i++)
        {
            id = before;
        }

        return id;
    }

    /// <summary>An estimate that is less sure: the likely value stays, the bounds move away from it.</summary>
    public static Minutes Wider(Minutes m, decimal by) => new(Math.Round(m.Low / by, 1), m.Likely, Math.Round(m.High * by, 1));

    // A map has its own names for its places.
    private static Operation Stands(Operation o, RecordedWork work) =>
        work.Follows && work.Base!.Positions.FirstOrDefault(p => p.Id == o.Position || p.Kind == o.Position) is { } place ? o with { Position = place.Id } : o;

    // What it leans on: whatever was open when it was done, or what somebody said was all that was in the way; and what makes its place and its dangers safe.
    private static Operation With(Operation o, RecordedWork work, string? before, List<Operation> done)
    {
        var safe = Requires(o, work.States).Select(state => done.FirstOrDefault(d => d.Provides.Contains(state))?.Id).OfType<string>().Distinct().ToList();
        var said = work.Only.GetValueOrDefault(o.Id)?.Where(id => done.Any(d => d.Id == id)).ToList();
        var leans = said ?? (before is null ? [] : [before]);
        static Needs All(IEnumerable<string> ids) => ids.Distinct().Select(id => (Needs)new Needs.One(id)).ToList() is var of && of.Count == 1 ? of[0] : new Needs.All(of);
        return o with { Needs = All(leans.Concat(safe)), Close = o.Close with { While = All(safe.Concat(said ?? [])) } };
    }
}
