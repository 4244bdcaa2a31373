using Screeline.Core.Diagnosis;

namespace Screeline.Web.Infrastructure;

/// <summary>
/// Built fault tables of the vehicles that were asked for last. A table follows from the shipped system and the setting alone:
/// another process builds the same one, so nothing here is state.
/// </summary>
public sealed class DiagnosisTables
{
    /// <summary>How many are kept; each holds well under 2 MB.</summary>
    public const int Most = 32;

    private readonly Dictionary<string, LinkedListNode<(string Key, Lazy<DiagnosisEngine> Engine)>> _byKey = new(StringComparer.Ordinal);
    private readonly LinkedList<(string Key, Lazy<DiagnosisEngine> Engine)> _recent = new();
    private readonly Lock _lock = new();

    /// <summary>How many are kept now.</summary>
    public int Count
    {
        get
        {
            lock (_lock)
            {
                return _byKey.Count;
            }
        }
    }

    /// <summary>The engine for a vehicle; built at the first call, by one caller while others of the same vehicle wait.</summary>
    public DiagnosisEngine For(FaultSystem system, VehicleSetting setting)
    {
        var key = setting.Key(system);
        Lazy<DiagnosisEngine> engine;
        lock (_lock)
        {
            if (_byKey.TryGetValue(key, out var node))
            {
                _recent.Remove(node);
            }
            else
            {
                node = new LinkedListNode<(string, Lazy<DiagnosisEngine>)>((key, new Lazy<DiagnosisEngine>(() => new DiagnosisEngine(FaultTable.Build(system, setting)))));
                _byKey.Add(key, node);
                if (_byKey.Count > Most)
                {
                    _byKey.Remove(_recent.Last!.Value.Key);
                    _recent.RemoveLast();
                }
            }

            _recent.AddFirst(node);
            engine = node.Value.Engine;
        }

        return engine.Value;
    }
}
