using Screeline.Core.Jobs;

namespace Screeline.Data;

/// <summary>
/// Jobs as they were last seen, each with the hash at the head of its chain: whoever finds the same hash in the database need not read the entries again.
/// Those seen longest ago go first.
/// </summary>
public sealed class JobMemory
{
    /// <summary>How many entries all kept jobs may have together, some 2 kB each.</summary>
    public const int MostEntries = 20_000;

    private readonly Dictionary<Guid, LinkedListNode<(Job Job, byte[] HeadHash)>> _byId = [];
    private readonly LinkedList<(Job Job, byte[] HeadHash)> _recent = new();
    private readonly Lock _lock = new();
    private int _entries;

    /// <summary>How many entries all kept jobs have together now.</summary>
    public int Entries
    {
        get
        {
            lock (_lock)
            {
                return _entries;
            }
        }
    }

    /// <summary>The job as it was last seen, or null.</summary>
    public (Job Job, byte[] HeadHash)? Find(Guid id)
    {
        lock (_lock)
        {
            if (!_byId.TryGetValue(id, out var node))
            {
                return null;
            }

            _recent.Remove(node);
            _recent.AddFirst(node);
            return node.Value;
        }
    }

    /// <summary>Keeps a job as it stands in the database.</summary>
    public void Keep(Job job, byte[] headHash)
    {
        lock (_lock)
        {
            if (_byId.TryGetValue(job.Id, out var before))
            {
                Forget(before);
            }

            _byId[job.Id] = _recent.AddFirst((job, headHash));
            _entries += job.Head;
            while (_entries > MostEntries && _recent.Last is { } oldest)
            {
                Forget(oldest);
            }
        }
    }

    private void Forget(LinkedListNode<(Job Job, byte[] HeadHash)> node)
    {
        _recent.Remove(node);
        _byId.Remove(node.Value.Job.Id);
        _entries -= node.Value.Job.Head;
    }
}
