namespace Screeline.Core.Access.Recording;

/// <summary>
/// The way back of a job without a map: the reverse of how it came off, with these exceptions. What was unplugged while the part already hung is plugged
/// before the part is lifted; the family's steps stand where they belong, its gates before the first cover that hides the part; the battery comes last.
/// </summary>
internal sealed class WayBackOrder
{
    private readonly List<string> _order;
    private readonly Dictionary<string, string> _reasons = new(StringComparer.Ordinal);
    private readonly List<RefitStep> _steps = [];
    private readonly HashSet<string> _hung = new(StringComparer.Ordinal);
    private readonly RecordedWork _work;
    private readonly Dictionary<string, RecordedThing> _things;
    private readonly List<Operation> _open;

    public WayBackOrder(RecordedWork work, Dictionary<string, RecordedThing> things, IReadOnlyList<Operation> done, string? target)
    {
        (_work, _things) = (work, things);
        _open = [.. done.Where(o => o.Kind == OperationKind.Open)];
        _order = [.. _open.Select(o => o.Id).Reverse()];
        PlugWhatHung();
        var power = _open.FirstOrDefault(o => o.Provides.Contains(AccessMapChecks.Isolated))?.Id;
        // Nothing rolls while it is tried.
        foreach (var chocks in _open.Where(o => o.Provides.Contains(AccessMapChecks.Chocked)).Select(o => o.Id))
        {
            _order.Remove(chocks);
            _order.Add(chocks);
            _reasons[chocks] = "The chocks stay until everything was tried.";
        }

        if (power is not null)
        {
            _order.Remove(power);
            _order.Add(power);
            _reasons[power] = "The battery comes last.";
        }

        foreach (var aside in things.Values.Where(t => t.Act == TakenAct.Aside && _order.Contains(t.Id)))
        {
            _reasons.TryAdd(aside.Id, "Moved aside: it goes back when what it cleared is in.");
        }

        if (target is not null)
        {
            PutStepsIn(target, power);
        }
    }

    public IReadOnlyList<string> Order => _order;

    public IReadOnlyList<RefitStep> Steps => _steps;

    public IReadOnlyDictionary<string, string> Reasons => _reasons;

    // Loosened or moved aside, then unplugged, then lifted off without a fastener of its own: it hung on nothing but the hand while it was unplugged.
    private void PlugWhatHung()
    {
        for (var i = 0; i + 2 < _open.Count; i++)
        {
            if (Act(i) is not (TakenAct.Loosened or TakenAct.Aside))
            {
                continue;
            }

            var last = i + 1;
            while (last < _open.Count && Act(last) is TakenAct.Plug or TakenAct.Hose or TakenAct.Lead && _open[last].Fasteners.Count == 0)
            {
                last++;
            }

            if (last > i + 1 && last < _open.Count && Act(last) == TakenAct.Part && _open[last].Fasteners.Count == 0)
            {
                var part = _open[last];
                _order.Remove(part.Id);
                _order.Insert(_order.IndexOf(_open[i + 1].Id) + 1, part.Id);
                foreach (var plug in _open.Skip(i + 1).Take(last - i - 1))
                {
                    _hung.Add(plug.Id);
                    _reasons[plug.Id] = $"It was unplugged while the part already hung: plug it before you lift. Then: {part.UndoneWords}.";
                }
            }
        }
    }

    private TakenAct? Act(int at) => _things.TryGetValue(_open[at].Id, out var thing) ? thing.Act ?? TakenAct.Loosened : null;

    private PartRole Role(Operation o, string target) =>
        o.Id == target ? PartRole.Motor : o.Provides.Count > 0 ? PartRole.Other : _things.TryGetValue(o.Id, out var thing) ? thing.Role : _work.WordsOf(o.Title) is [var about, ..] ? about.Role : PartRole.Other;

    private void PutStepsIn(string target, string? power)
    {
        // The part and what it needs to run; of the covers those that close after all of it.
        var essential = _open.Where(o => o.Position != "bench" && o.Id != power && Role(o, target) == PartRole.Motor).Select(o => o.Id).ToHashSet(StringComparer.Ordinal);
        var lastIn = _order.FindLastIndex(essential.Contains);
        var behind = _order.Skip(lastIn + 1).Where(id => id != power).ToHashSet(StringComparer.Ordinal);
        var covers = _open.Where(o => behind.Contains(o.Id) && Role(o, target) == PartRole.Cover).Select(o => o.Id).ToList();
        if (covers.Count == 0)
        {
            // Nobody knows what hides it: then whatever part closes next might.
            covers = [.. _open.Where(o => behind.Contains(o.Id) && o.Provides.Count == 0 && _things.TryGetValue(o.Id, out var t) && t.Act == TakenAct.Part).Select(o => o.Id)];
        }

        var applying = _work.Frame.Steps.Where(s => !_work.Left.Contains(s.Step.Id) && (s.Words.Count == 0 || _open.Any(o => Named(o, s.Words)))).ToList();
        var before = applying.Where(s => s.Place == FramePlace.BeforeCovers).ToList();
        var all = _open.Select(o => o.Id).ToList();
        foreach (var s in applying.Where(s => s.Place == FramePlace.BeforePart))
        {
            var part = s.Words.Count > 0 ? _order.FirstOrDefault(id => Named(Operation(id), s.Words)) ?? target : target;
            // What is plugged before the part is lifted waits too.
            var from = _order.IndexOf(part);
            while (from > 0 && _hung.Contains(_order[from - 1]))
            {
                from--;
            }

            Add(s.Step with { Before = [.. _order.Skip(from).Take(_order.IndexOf(part) - from + 1)] }, from, "Before the part goes in.");
        }

        // As late as nothing hides it: brackets and braces that cover nothing go in first.
        var at = covers.Count == 0 ? _order.FindLastIndex(essential.Contains) + 1 : _order.FindIndex(covers.Contains);
        List<string> ready = [.. essential];
        var powered = power is not null && before.Any(s => s.Powered) && _work.Frame is { PowerOn: not null, PowerOff: not null };
        var (first, last) = (before.FindIndex(s => s.Powered), before.FindLastIndex(s => s.Powered));
        for (var i = 0; i < before.Count; i++)
        {
            if (powered && i == first)
            {
                Add(_work.Frame.PowerOn! with { After = [.. ready], Before = covers }, at++, "The test wants power.");
                ready.Add(_work.Frame.PowerOn!.Id);
            }

            Add(before[i].Step with { After = [.. ready], Before = covers }, at++, "Before the first cover that hides it.");
            ready.Add(before[i].Step.Id);
            if (powered && i == last)
            {
                Add(_work.Frame.PowerOff! with { After = [.. ready], Before = covers }, at++, "Nothing is closed up under power.");
                ready.Add(_work.Frame.PowerOff!.Id);
            }
        }

        foreach (var s in applying.Where(s => s.Place == FramePlace.AfterWords))
        {
            var named = _open.Where(o => Named(o, s.Words)).Select(o => o.Id).ToList();
            Add(s.Step with { After = named }, _order.FindLastIndex(named.Contains) + 1, null);
        }

        foreach (var s in applying.Where(s => s.Place == FramePlace.BeforePower))
        {
            Add(s.Step with { After = [.. all.Where(id => id != power)], Before = power is null ? [] : [power] }, power is null ? _order.Count : _order.IndexOf(power), null);
        }

        var settings = new List<string>();
        foreach (var s in applying.Where(s => s.Place == FramePlace.Last))
        {
            Add(s.Step with { After = [.. all, .. settings] }, _order.Count, null);
            settings.Add(s.Step.Id);
        }
    }

    private void Add(RefitStep step, int at, string? reason)
    {
        _steps.Add(step);
        _order.Insert(Math.Max(0, at), step.Id);
        if (reason is not null)
        {
            _reasons[step.Id] = reason;
        }
    }

    private Operation Operation(string id) => _open.FirstOrDefault(o => o.Id == id) ?? Missing;

    private static readonly Operation Missing = new() { Id = "", Title = "", Kind = OperationKind.Open, Position = "", Minutes = WorkFrameReader.NoMinutes, Needs = Needs.Nothing, Tools = [], Damage = new Damage(0, 0, ""), Consumes = [], Close = new Closing(null, null, false, null) };

    private bool Named(Operation o, IReadOnlyList<string> words) => _things.TryGetValue(o.Id, out var thing) ? thing.Words.Any(w => words.Contains(w.Id)) : _work.WordsOf(o.Title).Any(w => words.Contains(w.Id));
}
