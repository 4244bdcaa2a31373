using Screeline.Core.Access;
using Screeline.Core.Access.Recording;
using Screeline.Core.Fastening;

namespace Screeline.Core.Jobs;

/// <summary>Something recorded at the vehicle, with the entries that tell it.</summary>
/// <param name="Id">Its id as a step.</param>
/// <param name="Actor">Who recorded it.</param>
/// <param name="Press">What it was; null while only fasteners are out.</param>
/// <param name="Groups">Its fasteners.</param>
public sealed record RecordedEntries(string Id, Guid Actor, Recorded<TakenOff>? Press, IReadOnlyList<Recorded<GroupOut>> Groups)
{
    /// <summary>The entries, oldest first.</summary>
    public IEnumerable<Entry> Entries => Groups.Select(g => g.Entry).Concat(Press is null ? [] : [Press.Entry]).OrderBy(e => e.Position);

    /// <summary>The tray cell its fasteners went into, or null.</summary>
    public int? Cell => Groups.Select(g => g.Payload.Cell).FirstOrDefault(c => c is not null);
}

// What was recorded as it went: things, and the map that follows from them. Exact meanings in docs/formats.md, "Recorded as it goes".
public sealed partial class Job
{
    private readonly List<RecordedEntries> _things = [];
    private readonly Dictionary<string, string> _titlesStruck = new(StringComparer.Ordinal);
    // The map that the work began on; it is not the job's own yet.
    private AccessMap? _baseMap;
    private Recorded<RouteTaken>? _route, _routeNow;
    private RecordedMap? _recorded;

    /// <summary>The words for things on vehicles.</summary>
    public PartWords Words => _knowledge.Families.Words;

    /// <summary>
    /// The map of the way in, in the version it was planned on, with what was recorded at the vehicle; of a job that is recorded as it goes, what was recorded.
    /// Null before a way is chosen.
    /// </summary>
    public AccessMap? Map => IsPlain ? _baseMap : Worked.Map;

    /// <summary>The way in: as it was taken, with what was recorded since; of a job that is recorded as it goes, what was done so far. Null before it is chosen.</summary>
    public Recorded<RouteTaken>? Route => _routeNow ??= IsPlain ? _route
        : Recording is { } begun ? new(begun.Entry, new RouteTaken("", "reached", RemovalOrder(), []))
        : _route is { } taken ? taken with { Payload = taken.Payload with { Removal = WithThings(taken.Payload.Removal) } }
        : null;

    /// <summary>Whether the way back is worked out from the record, and not planned on a map.</summary>
    public bool IsRecorded => Recording is not null || (_route is null && _baseMap?.Id == RecordedMap.RecordedId);

    /// <summary>What was recorded besides a map, in the order it was told.</summary>
    public IReadOnlyList<RecordedEntries> Things => _things;

    /// <summary>Fasteners that somebody has out and of which nothing was said yet what they held, or null.</summary>
    public RecordedEntries? Pending(Guid actor) => _things.LastOrDefault(t => t.Actor == actor && t.Press is null);

    /// <summary>The way back worked out from the record; empty for a job that follows a map.</summary>
    public IReadOnlyList<string> WorkedOutWayBack => IsPlain ? [] : Worked.WayBack;

    /// <summary>Why an action of the way back stands where it does, where it is not just the reverse of how it came off; or null.</summary>
    public string? WhyHere(string action) =>
        _moved.LastOrDefault(m => m.Payload.Phase == WorkPhase.Refit && m.Payload.Step == action) is { } moved ? $"Moved here, {moved.Entry.Draft.OccurredAt:HH:mm}."
            : IsPlain ? null : Worked.Reasons.GetValueOrDefault(action);

    /// <summary>The operation that the job is about, once it is off; null before.</summary>
    public string? Reached => IsRecorded && Map?.Targets is [{ Operation.Length: > 0 } target, ..] ? target.Operation : null;

    /// <summary>Why nothing can be recorded now; null when it can.</summary>
    public string? CannotRecord =>
        Decision is null ? "It is not decided yet what is repaired."
            : ActsElsewhere ? "The fault lies elsewhere: nothing comes apart."
            : Route is null ? "The way in is not chosen yet: choose it, or record as you go."
            : null;

    /// <summary>The title of a step in the direction it is usually told: of the way in, or of the way back only.</summary>
    public string TitleOf(string step) => Map?.Operation(step)?.Title ?? Map?.Step(step)?.Title ?? _titlesStruck.GetValueOrDefault(step, step);

    /// <summary>The operation that must be done first for another to be safe: that puts it on stands, takes the battery off …; null when none.</summary>
    public Operation? SafeFirst(Operation operation) => RecordedMap.Requires(operation, _knowledge.Families.RequiredBy)
        .Where(state => Map?.Operations.Any(o => o.Provides.Contains(state) && _removed.ContainsKey(o.Id) && !_refitted.ContainsKey(o.Id)) != true && !IsSaidNotThere(state))
        .Select(state => Map?.Operations.FirstOrDefault(o => o.Provides.Contains(state)) ?? System.Frame.Providing(state)).OfType<Operation>().FirstOrDefault();

    // No restraint part in this door, nothing hot: that can be so. Nobody works under what does not stand safe, nor at what is live, because of a word.
    private bool IsSaidNotThere(string state) =>
        state is not (AccessMapChecks.Supported or AccessMapChecks.Isolated) && System.Frame.Operations.Any(o => o.Operation.Provides.Contains(state) && _struck.ContainsKey(o.Operation.Id));

    /// <summary>What something recorded would be as an operation, with the cautions its words bring.</summary>
    public Operation AsOperation(TakenOff off) => new RecordedThing("", off.Act, off.What, off.Place, [], off.IsTarget, [], off.Where, WordsIn(off.What), DangersOf(off.What)).ToOperation();

    /// <summary>What must be said first before an operation is safe, in words; null when nothing.</summary>
    public string? NotSafeYet(Operation operation)
    {
        if (SafeFirst(operation) is { } first)
        {
            return $"First: {first.Title}. Then: {operation.Title}.";
        }

        return Position.UnderneathKinds.Contains(operation.Position) && SecondsMissing.FirstOrDefault(x => x.What is StepDone done && Map?.Operation(done.Step)?.Provides.Contains(AccessMapChecks.Supported) == true) is { } unseen
            ? $"Nobody goes under it before a second person has looked. {unseen.Why}." : null;
    }

    /// <summary>The frame's operations and the expectations that are neither done nor struck, in their order.</summary>
    public IReadOnlyList<Operation> Expected => !IsRecorded || Map is not { } map ? [] : [.. map.Operations.Where(o => !_removed.ContainsKey(o.Id) && !_struck.ContainsKey(o.Id) && _things.All(t => t.Id != o.Id))];

    private bool IsPlain => Recording is null && _things.Count == 0 && _struck.Count == 0 && _besides.Count == 0 && _baseMap?.Id != RecordedMap.RecordedId;

    private RecordedMap Worked => _recorded ??= Work();

    // What was worked out no longer holds.
    private void MapChanged() => (_recorded, _routeNow) = (null, null);

    private RecordedMap Work()
    {
        var follows = !IsRecorded && _baseMap is not null;
        // What is not there is not expected, and nobody waits for it.
        var from = _baseMap is null ? null : MapChanges.Without(_baseMap, _struck.Keys.Where(id => _baseMap.Operation(id) is not null).ToHashSet(StringComparer.Ordinal));
        var frame = System.Frame with { Operations = [.. System.Frame.Operations.Where(o => !_struck.ContainsKey(o.Operation.Id))] };
        if (follows && from is not null && _struck.Keys.Any(id => from.Step(id) is not null))
        {
            from = MapChanges.WithoutSteps(from, _struck.Keys.ToHashSet(StringComparer.Ordinal));
        }

        var built = RecordedMap.Build(new RecordedWork(
            frame, from, [.. _things.Select(Thing)], RemovalOrder(), follows, _only.ToDictionary(o => o.Key, o => o.Value.Payload.Kept, StringComparer.Ordinal), _struck.Keys.ToHashSet(StringComparer.Ordinal),
            _knowledge.Families.RequiredBy, WordsIn));
        return _besides.Count == 0 ? built : built with { Map = MapChanges.Placed(built.Map, built.Map.Operations, [.. built.Map.RefitSteps, .. _besides], built.Map.Positions, built.Map.PrintedRoute) };
    }

    /// <summary>What came off or was done on the way in, in the order it was: what was off when the vehicle came stands first.</summary>
    public List<string> OpenedInOrder => RemovalOrder();

    private readonly Dictionary<string, IReadOnlyList<PartWord>> _wordsIn = new(StringComparer.Ordinal);

    private IReadOnlyList<PartWord> WordsIn(string title) => _wordsIn.TryGetValue(title, out var words) ? words : _wordsIn[title] = Words.In(title, System.Id);

    private RecordedThing Thing(RecordedEntries t)
    {
        var what = t.Press?.Payload.What ?? string.Join(", ", t.Groups.Select(g => g.Payload.Words));
        var words = t.Press is null ? [] : WordsIn(what);
        return new RecordedThing(
            t.Id, t.Press?.Payload.Act, what, t.Press?.Payload.Place ?? PlaceBefore(t), [.. t.Groups.Select(g => AsFastener(g, g.Payload.Holds ?? what, words.Any(w => w.Structural)))], t.Press?.Payload.IsTarget == true,
            [.. (t.Press?.Payload.Tools ?? []).Concat(t.Groups.Select(g => g.Payload.Tool).OfType<string>()).Distinct()], t.Press?.Payload.Where, words, DangersOf(what));
    }

    /// <summary>Where somebody works: where they last said they did; "bay" when nobody said.</summary>
    public string PlaceOf(Guid actor) =>
        _things.LastOrDefault(t => t.Actor == actor && t.Press is not null)?.Press!.Payload.Place ?? _things.LastOrDefault(t => t.Press is not null)?.Press!.Payload.Place ?? "bay";

    private string PlaceBefore(RecordedEntries thing) => PlaceOf(thing.Actor);

    private static Fastener AsFastener(Recorded<GroupOut> g, string holds, bool structural) => new()
    {
        Id = GroupId(g.Entry), Holds = holds, Kind = g.Payload.Kind, Drive = g.Payload.Drive, Thread = g.Payload.Thread, LengthMillimetres = g.Payload.LengthMillimetres, Count = g.Payload.Count,
        Place = string.Join(", ", new[] { g.Payload.Place, g.Payload.Hidden ? "hidden" : null, g.Payload.Note }.Where(x => !string.IsNullOrWhiteSpace(x))) is { Length: > 0 } where ? where : null,
        Reuse = "yes", Treatment = "dry", Structural = structural, Joint = g.Payload.Kind == "self-tapper" ? Joint.SelfTapper : Joint.Steel,
    };

    private static string ThingId(Entry entry) => $"r-{entry.Id:N}"[..14];

    private static string GroupId(Entry entry) => $"g-{entry.Id:N}"[..14];

    // As it was told, with what was told afterwards at its place.
    private List<string> RemovalOrder()
    {
        List<string> order = [.. _removed.OrderBy(r => r.Value.Entry.Position).Select(r => r.Key)];
        void Put(string id, string? before)
        {
            if (before is null || (before != id && order.Contains(before)))
            {
                order.Remove(id);
                order.Insert(before is null ? order.Count : order.IndexOf(before), id);
            }
        }

        foreach (var thing in _things.Where(t => t.Press?.Payload.Before is not null))
        {
            Put(thing.Id, thing.Press!.Payload.Before);
        }

        foreach (var moved in _moved.Where(m => m.Payload.Phase == WorkPhase.Apart && order.Contains(m.Payload.Step)))
        {
            Put(moved.Payload.Step, moved.Payload.Before);
        }

        return order;
    }

    // The way that was taken, without what is not there, with each thing behind what was done before it.
    private List<string> WithThings(IReadOnlyList<string> removal)
    {
        List<string> all = [.. removal.Where(id => !_struck.ContainsKey(id))];
        var order = RemovalOrder();
        foreach (var thing in order.Where(id => _things.Any(t => t.Id == id)))
        {
            all.Insert(all.IndexOf(order.Take(order.IndexOf(thing)).LastOrDefault(all.Contains) ?? "") + 1, thing);
        }

        return all;
    }

    // By whom, what they tell next began with: it keeps that name, also when the first fasteners of it are taken back.
    private readonly Dictionary<Guid, Entry> _begins = [];

    // A group that was taken back.
    private void Began(Entry entry)
    {
        if (entry.Payload is GroupOut)
        {
            _begins.TryAdd(entry.Draft.Actor, entry);
        }
    }

    internal void Record(Entry entry, GroupOut p)
    {
        Began(entry);
        if (Pending(entry.Draft.Actor) is { } open)
        {
            var more = open with { Groups = [.. open.Groups, new(entry, p)] };
            _things[_things.IndexOf(open)] = more;
            _removed[open.Id] = new(_removed[open.Id].Entry, new StepDone(WorkPhase.Apart, open.Id, more.Cell, []));
        }
        else
        {
            var thing = new RecordedEntries(ThingId(_begins[entry.Draft.Actor]), entry.Draft.Actor, null, [new(entry, p)]);
            _things.Add(thing);
            _removed[thing.Id] = new(entry, new StepDone(WorkPhase.Apart, thing.Id, p.Cell, []));
        }

        MapChanged();
    }

    internal void Record(Entry entry, TakenOff p)
    {
        var open = Pending(entry.Draft.Actor);
        var thing = (open ?? new RecordedEntries(ThingId(_begins.GetValueOrDefault(entry.Draft.Actor, entry)), entry.Draft.Actor, null, [])) with { Press = new(entry, p) };
        _begins.Remove(entry.Draft.Actor);
        if (open is null)
        {
            _things.Add(thing);
        }
        else
        {
            _things[_things.IndexOf(open)] = thing;
        }

        _removed[thing.Id] = new(entry, new StepDone(WorkPhase.Apart, thing.Id, thing.Cell, []));
        if (p.Instead is { } other && !_removed.ContainsKey(other))
        {
            _titlesStruck[other] = TitleOf(other);
            _struck.TryAdd(other, new(entry, new ExpectationStruck(other, $"instead of it: {p.What}")));
        }

        MapChanged();
    }

    // Fasteners that were told before an expected step was ticked are that step's.
    private void TakeGroups(Entry entry, StepDone tick)
    {
        if (tick.Phase != WorkPhase.Apart || Pending(entry.Draft.Actor) is not { } open)
        {
            return;
        }

        _things.Remove(open);
        _removed.Remove(open.Id);
        _begins.Remove(entry.Draft.Actor);
        foreach (var g in open.Groups)
        {
            var f = AsFastener(g, g.Payload.Holds ?? Map?.Operation(tick.Step)?.Title ?? tick.Step, false);
            _extras.Add(new(g.Entry, new ExtraFound(tick.Step, f.Id, f.Holds, f.Kind, f.Drive, f.Thread, f.LengthMillimetres, f.Count, f.Place)));
        }

        _removed[tick.Step] = new(_removed[tick.Step].Entry, tick with { Cell = tick.Cell ?? open.Cell });
    }

    // It is closed again, as if it had never been off.
    private void ForgetThing(string id)
    {
        _things.RemoveAll(t => t.Id == id);
        MapChanged();
    }
}
