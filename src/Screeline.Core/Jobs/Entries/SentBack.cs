using Screeline.Core.Access;
using Screeline.Core.Diagnosis;
using Screeline.Core.People;

namespace Screeline.Core.Jobs;

/// <summary>A failed check leads back: to a step that is done again, or to Find with the readings kept.</summary>
/// <param name="Check">The check that failed, or null when something was seen on the way.</param>
/// <param name="Step">The step of the way back to do again; null for Find.</param>
/// <param name="Why">Why, in words.</param>
public sealed record SentBack(string? Check, string? Step, string Why) : Payload
{
    /// <summary>The kind.</summary>
    public static EntryKind EntryKind { get; } = EntryKind.Decision("sent-back", withItself: Clash.Always, withObservations: Clash.Always, by: Role.Apprentice);

    /// <inheritdoc/>
    public override string Subject() => "";

    /// <inheritdoc/>
    public override string Describe(Job job) => $"sent back{(Check is { } failed ? $" by “{job.Check(failed)?.Title ?? failed}”" : "")}: {(Step is { } again && job.Map is { } map ? Refit.Title(map, again) : "to Find")}. {Why}";

    /// <inheritdoc/>
    protected internal override void Validate(Job job, EntryFaults faults)
    {
        faults.Text("why", Why);
        if (string.IsNullOrWhiteSpace(Why))
        {
            faults.Add("why", "why, in a few words");
        }

        if (Check is { } failed && job.Check(failed) is null)
        {
            faults.Add("check", $"“{failed}” is not known in {job.System.Title}");
        }

        if (Step is { } again && job.Map?.Operation(again) is null && job.Map?.Step(again) is null)
        {
            faults.Add("step", $"no step “{again}”");
        }
    }

    /// <inheritdoc/>
    protected internal override string? OutOfOrder(Job job, DateTimeOffset at) =>
        job.Decision is null ? "Nothing is decided yet that could be sent back."
            : Step is null ? (job.Differences.Where(x => x.Refitted && !job.IsSigned(x)).ToList() is [var difference, ..] ? $"Settle the count first: {difference.Words}" : null)
            : job.AgainFrom(Step).Count == 0 ? $"“{Step}” is not closed."
            : null;

    /// <inheritdoc/>
    protected internal override void Apply(Job job, Entry entry) => job.Record(entry, this);
}

public sealed partial class Job
{
    private readonly List<Recorded<SentBack>> _sentBacks = [];

    /// <summary>How often it was sent back by what failed, oldest first.</summary>
    public IReadOnlyList<Recorded<SentBack>> SentBacks => _sentBacks;

    /// <summary>
    /// Operations that the latest sending back counts as open again, in the order of the way in, until something is closed: on the vehicle
    /// they are closed as long as nobody has opened them, the stands among them.
    /// </summary>
    public IReadOnlyList<string> OpenAgain { get; private set; } = [];

    // To a step: its tick goes, with those of whatever must be open for it and of the steps that came after any of these; the
    // rest of the way back stays as it is. To Find: the decision and the way go, readings stay, and what is open stays open.
    // What hung on a tick goes with it: the job then asks for what it would ask for had it never come so far.
    internal void Record(Entry entry, SentBack p)
    {
        _sentBacks.Add(new(entry, p));
        OpenAgain = [];
        if (p.Step is { } step && Map is not null)
        {
            var again = AgainFrom(step);
            if (Map.Targets.FirstOrDefault(t => t.Id == Route?.Payload.Target)?.Operation is { } target && again.Contains(target))
            {
                // What is said to have gone over once the part was in: it is out again, look at it again.
                var closed = _refitted[target].Entry.Position;
                _carried.Where(c => c.Value > closed).ToList().ForEach(c => _carried.Remove(c.Key));
            }

            foreach (var id in again)
            {
                ForgetClosing(id);
                TakeToolsOut(id);
            }

            ForgetProofs(again);
            OpenAgain = [.. _removed.Values.OrderBy(r => r.Entry.Position).Select(r => r.Payload.Step).Where(again.Contains)];
            return;
        }

        foreach (var id in _refitted.Keys.ToList())
        {
            ForgetClosing(id);
            ForgetOpening(id);
        }

        if (OpenOperations == 0)
        {
            _removed.Keys.ToList().ForEach(ForgetOpening);
        }

        // A count of the way back that was not finished; the pieces of the next part go over anew.
        _counted.Keys.Where(k => k.Item1 == WorkPhase.Refit).ToList().ForEach(k => _counted.Remove(k));
        _carried.Clear();
        // The proofs were of what was done; what is done next is proved anew.
        _proofs.Clear();
        (Decision, _route, Recording) = (null, null, null);
        MapChanged();
    }

    // What hangs on an action of the way back: its count, what was found and tightened in it, its waits, its setting, who answered for it.
    private void ForgetClosing(string id)
    {
        _refitted.Remove(id);
        if (_besides.RemoveAll(s => s.Id == id) > 0)
        {
            MapChanged();
        }

        _counted.Keys.Where(k => k.Item1 == WorkPhase.Refit && k.Item2 == id).ToList().ForEach(k => _counted.Remove(k));
        _torques.RemoveAll(t => t.Payload.Step == id);
        _jointsChecked.Keys.Where(k => k.Item1 == id).ToList().ForEach(k => _jointsChecked.Remove(k));
        _foundInCount.RemoveAll(f => f.During == WorkPhase.Refit && f.Found.Step == id);
        _settings.RemoveAll(s => s.Payload.Step == id);
        _signed.Keys.Where(k => k.StartsWith(id + "/", StringComparison.Ordinal)).ToList().ForEach(k => _signed.Remove(k));
        if (Map?.Step(id) is not null)
        {
            _timers.RemoveAll(t => t.Payload.Step == id);
            // What was put in for this step and is out again is put in anew; what is still in goes on being asked for.
            _toolsLeft.RemoveAll(t => t.Payload.Step == id && _toolsBack.ContainsKey(t.Payload.Tool));
        }
    }

    // It is open again: so are its stands underneath, its key in the engine.
    private void TakeToolsOut(string id)
    {
        foreach (var (tool, _) in ToolsLeft.Where(t => t.Operation == id))
        {
            _toolsBack.Remove(tool);
        }
    }

    // It is as closed as if it had never been opened; a tool that nobody told back goes on being asked for.
    private void ForgetOpening(string id)
    {
        var left = Map!.Operation(id)?.Leaves.Where(tool => !_toolsBack.ContainsKey(tool)).ToList() ?? [];
        _toolsLeft.RemoveAll(t => t.Payload.Step == id && _toolsBack.ContainsKey(t.Payload.Tool));
        if (_removed.Remove(id, out var tick))
        {
            _toolsLeft.AddRange(left.Select(tool => new Recorded<ToolLeft>(tick.Entry, new ToolLeft(tool, null, id))));
        }

        _counted.Keys.Where(k => k.Item2 == id).ToList().ForEach(k => _counted.Remove(k));
        _foundInCount.RemoveAll(f => f.Found.Step == id);
        _extras.RemoveAll(x => x.Payload.Step == id);
        _timers.RemoveAll(t => t.Payload.Step == id);
        ForgetThing(id);
    }

    // What was shown while it was closed: the end of the proof, the checks of the gates, what follows from what is open again.
    private void ForgetProofs(IReadOnlySet<string> again)
    {
        var gates = again.SelectMany(id => Map!.Step(id)?.Checks ?? []).ToHashSet(StringComparer.Ordinal);
        bool Stands(ProofCheck check) => check.Moment == ProofMoment.BeforeCovers || (check.FollowsFrom.Count > 0 && !check.FollowsFrom.Any(again.Contains));
        foreach (var id in _proofs.Keys.Where(id => gates.Contains(id) || Check(id) is not { } check || !Stands(check)).ToList())
        {
            _proofs.Remove(id);
        }
    }

    /// <summary>The actions of the way back that have to be done again when a step is: itself, what must be open for it, and what came after those.</summary>
    public IReadOnlySet<string> AgainFrom(string step)
    {
        var again = new HashSet<string>(StringComparer.Ordinal);
        if (Map is not { } map)
        {
            return again;
        }

        void Open(string id)
        {
            if (map.Operation(id) is { Kind: OperationKind.Open } operation && _removed.ContainsKey(id) && again.Add(id))
            {
                // What it needs open now, and what it may be closed under.
                operation.Needs.Names.Concat(operation.CloseWhile.Names).ToList().ForEach(Open);
            }
            else if (map.Operation(id) is { Kind: OperationKind.Once } passed && again.Add(id))
            {
                passed.Needs.Names.ToList().ForEach(Open);
                again.Remove(id);
            }
        }

        if (map.Step(step) is not null)
        {
            again.Add(step);
        }
        else
        {
            Open(step);
        }

        // Whatever was done after one of them proved what is now undone.
        while (map.RefitSteps.Where(s => _refitted.ContainsKey(s.Id) && !again.Contains(s.Id) && s.After.Any(again.Contains)).Select(s => s.Id).ToList() is { Count: > 0 } more)
        {
            again.UnionWith(more);
        }

        again.IntersectWith(_refitted.Keys);
        return again;
    }
}
