using Screeline.Core.Access;

namespace Screeline.Core.Jobs;

// What failed leads back.
public sealed partial class Job
{
    private readonly List<Kept<SentBack>> _sentBacks = [];

    // To a step: its tick goes, with those of whatever must be open for it and of the steps that came after any of these; the
    // rest of the way back stays as it is. To Find: the decision and the way go, readings stay, and what is open stays open.
    private void GoBack(Entry entry, SentBack p)
    {
        _sentBacks.Add(new(entry, p));
        if (p.Step is { } step && Map is not null)
        {
            foreach (var id in AgainFrom(step))
            {
                _refitted.Remove(id);
            }

            return;
        }

        Decision = null;
        foreach (var id in _refitted.Keys.ToList())
        {
            _refitted.Remove(id);
            _removed.Remove(id);
        }

        if (OpenOperations == 0)
        {
            _removed.Clear();
        }

        // The proofs were of what was done; what is done next is proved anew.
        _proofs.Clear();
        Route = null;
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
