using Screeline.Core.Circuits;

namespace Screeline.Core.Diagnosis;

/// <summary>
/// Where each quantity of a system stands in the row of numbers that describes one sample: the temperature, the parameters, the
/// controls, then for each operating state what its solution says: <c>v.node</c>, <c>i.element</c>, <c>speed.motor</c>,
/// <c>pulled.relay</c>, <c>chatter.relay</c>, <c>blown.fuse</c>, also as <c>state.v.node</c> from elsewhere.
/// </summary>
public sealed class Slots
{
    /// <summary>The name of the temperature in °C.</summary>
    public const string Celsius = "celsius";

    private readonly Dictionary<string, int> _fixed = new(StringComparer.Ordinal) { [Celsius] = 0 };
    private readonly Dictionary<string, int> _states;
    private readonly Dictionary<string, int> _results = new(StringComparer.Ordinal);
    private readonly (string Quantity, string Id)[] _told;
    private readonly int _stateStart;

    /// <summary>Numbers the quantities.</summary>
    /// <param name="parameters">Ids of parameters.</param>
    /// <param name="controls">Names of controls.</param>
    /// <param name="states">Ids of operating states.</param>
    /// <param name="circuit">The circuit.</param>
    /// <param name="instruments">How many instruments are placed; each has a slot for the resistance behind it.</param>
    public Slots(IEnumerable<string> parameters, IEnumerable<string> controls, IEnumerable<string> states, IReadOnlyList<CircuitPart> circuit, int instruments = 0)
    {
        foreach (var name in parameters.Concat(controls))
        {
            _fixed.TryAdd(name, _fixed.Count);
        }

        void Result(string name) => _results.TryAdd(name, _results.Count);
        foreach (var part in circuit)
        {
            part.Nodes.ToList().ForEach(n => Result($"v.{n}"));
            Result(part.Kind == "relay" ? $"i.{part.Id}.contact" : $"i.{part.Id}");
            switch (part.Kind)
            {
                case "relay":
                    Result($"pulled.{part.Id}");
                    Result($"chatter.{part.Id}");
                    break;
                case "fuse": Result($"blown.{part.Id}"); break;
                case "motor" or "two-brush-motor": Result($"speed.{part.Id}"); break;
            }
        }

        _states = states.Distinct(StringComparer.Ordinal).Select((s, i) => (s, i)).ToDictionary(x => x.s, x => x.i, StringComparer.Ordinal);
        _stateStart = _fixed.Count;
        _told = [.. _results.OrderBy(r => r.Value).Select(r => (r.Key[..r.Key.IndexOf('.')], r.Key[(r.Key.IndexOf('.') + 1)..]))];
        Count = Instrument(instruments);
    }

    /// <summary>How many numbers describe a sample.</summary>
    public int Count { get; }

    /// <summary>The slots that tell the regime a circuit settled in, in each operating state: relays, fuses, and the speeds of motors that may stand.</summary>
    public IEnumerable<(int Slot, bool IsSpeed)> Regime() =>
        from state in _states.Values from i in Enumerable.Range(0, _told.Length) where _told[i].Quantity is "pulled" or "chatter" or "blown" or "speed" select (_stateStart + state * _results.Count + i, _told[i].Quantity == "speed");

    /// <summary>The slot of the resistance that the instrument of a test sees behind it.</summary>
    public int Instrument(int test) => _stateStart + _states.Count * _results.Count + test;

    /// <summary>The slot of a parameter or control.</summary>
    public int this[string name] => _fixed[name];

    /// <summary>The slot a name means in a formula that is worked out in a state; null when there is none.</summary>
    public int? Find(string name, string? state)
    {
        if (_fixed.TryGetValue(name, out var found))
        {
            return found;
        }

        if (name.IndexOf('.') is > 0 and var dot && _states.ContainsKey(name[..dot]))
        {
            (state, name) = (name[..dot], name[(dot + 1)..]);
        }

        return state is not null && _results.TryGetValue(name, out var offset) ? _stateStart + _states[state] * _results.Count + offset : null;
    }

    /// <summary>Where what a solution says of a state begins.</summary>
    public int Start(string state) => _stateStart + _states[state] * _results.Count;

    /// <summary>What a solution of a state is asked: all of it, or blanks for what does not stand in some slots.</summary>
    public (string Quantity, string Id)[] Asked(string state, IReadOnlySet<int>? only = null)
    {
        var start = Start(state);
        return [.. _told.Select((told, i) => only is null || only.Contains(start + i) ? told : ("", ""))];
    }

    /// <summary>Writes what a solution says into a sample's row.</summary>
    /// <param name="row">The row.</param>
    /// <param name="start">Where that of its state begins (<see cref="Start"/>).</param>
    /// <param name="solution">The solution.</param>
    /// <param name="asked">What it is asked (<see cref="Asked"/>), the same array each time.</param>
    public void Write(double[] row, int start, Solution solution, (string Quantity, string Id)[] asked) => solution.Tell(asked, row.AsSpan(start, _results.Count));
}
