using static Screeline.Core.Circuits.StarMesh;

namespace Screeline.Core.Circuits;

/// <summary>
/// A network with its nodes numbered, ready to be solved: its ohmic parts are conductances between nodes, of which
/// <see cref="StarMesh"/> leaves only those where other parts end. Contacts and fuses can be set between solutions.
/// </summary>
internal sealed class Circuit
{
    private readonly Dictionary<string, int> _index = new(StringComparer.Ordinal) { [Network.Ground] = StarMesh.Ground };
    private readonly Dictionary<string, Branch> _branches = new(StringComparer.Ordinal);
    private readonly Dictionary<string, BentPart> _parts = new(StringComparer.Ordinal);
    // What the network's elements, coils, contacts and fuses are here, in its order.
    private readonly List<object> _elements = [];
    private readonly List<Branch> _coils = [], _contacts = [], _fuses = [];
    private readonly BentPart[] _bent;
    private readonly Relay[] _relays;
    private readonly Fuse[] _rated;
    private readonly StarMesh _mesh;
    private Told _told = new([], [], [], [], [], [], [], []);

    public Circuit(Network network)
    {
        foreach (var element in network.Elements)
        {
            var places = element.Nodes.Select(Place).ToArray();
            _elements.Add(element.Ohmic is null ? Add(_parts, element.Id, new BentPart(element, places)) : Add(_branches, element.Id, new Branch(places[0], places[1])));
        }

        foreach (var relay in network.Relays)
        {
            _coils.Add(Add(_branches, $"{relay.Id}.coil", new Branch(Place(relay.CoilFrom), Place(relay.CoilTo))));
            _contacts.Add(Add(_branches, $"{relay.Id}.contact", new Branch(Place(relay.ContactFrom), Place(relay.ContactTo))));
        }

        foreach (var fuse in network.Fuses)
        {
            _fuses.Add(Add(_branches, fuse.Id, new Branch(Place(fuse.From), Place(fuse.To))));
        }

        if (_contacts.Count + _fuses.Count > 64)
        {
            throw new ArgumentException("A circuit has at most 64 relays and fuses: their states are told apart by one bit each.", nameof(network));
        }

        _mesh = new StarMesh(_index.Count - 1, [.. _branches.Values], _parts.Values.SelectMany(p => p.Nodes));
        _bent = [.. _parts.Values];
        foreach (var part in _bent)
        {
            part.Places = [.. part.Nodes.Select(_mesh.PlaceOf)];
        }

        (_relays, _rated) = ([.. network.Relays], [.. network.Fuses]);
        (Newton, Voltages, NoVolts, NoRelays) = (new NewtonRoom(KeptCount), new double[_index.Count - 1], new double[KeptCount], new bool[_relays.Length]);
        Pulled = new bool[_relays.Length];
        for (var e = 0; e < _elements.Count; e++)
        {
            if (network.Elements[e].Ohmic is { } ohmic)
            {
                Take(e, new PartValues(ohmic.Siemens, ohmic.Driven));
            }
        }

        foreach (var (coil, relay) in _coils.Zip(_relays))
        {
            coil.Siemens = 1 / relay.CoilOhms;
        }
    }

    /// <summary>Nodes that are left to Newton's method.</summary>
    public int KeptCount => _mesh.Kept.Count;

    /// <summary>Arrays for Newton's method, used again from solution to solution.</summary>
    public NewtonRoom Newton { get; }

    /// <summary>Of all nodes, as the last solution has them.</summary>
    public double[] Voltages { get; }

    /// <summary>Relays that are pulled in, as the last solution has them.</summary>
    public bool[] Pulled { get; }

    /// <summary>Room for the states that one solution goes through.</summary>
    public ulong[] Seen { get; } = new ulong[Solver.MostStates];

    /// <summary>All kept nodes at ground, not to be written to.</summary>
    public double[] NoVolts { get; }

    /// <summary>No relay, not to be written to.</summary>
    public bool[] NoRelays { get; }

    /// <summary>Its relays with their values.</summary>
    public ReadOnlySpan<Relay> Relays => _relays;

    /// <summary>Its fuses with their values.</summary>
    public ReadOnlySpan<Fuse> Fuses => _rated;

    /// <summary>Gives a part other values.</summary>
    /// <param name="place">Its place among the network's elements, its relays or its fuses.</param>
    /// <param name="values">The values.</param>
    /// <returns>Whether that changes it.</returns>
    public bool Take(int place, PartValues values)
    {
        switch (values.Made)
        {
            case null when _elements[place] is Branch branch:
                if (branch.Siemens == values.Siemens && branch.Driven == values.Driven)
                {
                    return false;
                }

                (branch.Siemens, branch.Driven) = (values.Siemens, values.Driven);
                return true;
            case Relay relay:
                if (_relays[place].Equals(relay))
                {
                    return false;
                }

                (_relays[place], _coils[place].Siemens) = (relay, 1 / relay.CoilOhms);
                return true;
            case Fuse fuse:
                if (_rated[place].Equals(fuse))
                {
                    return false;
                }

                _rated[place] = fuse;
                return true;
            default:
                var (part, element) = ((BentPart)_elements[place], (Element)values.Made!);
                if (part.Element.Equals(element))
                {
                    return false;
                }

                part.Element = element;
                return true;
        }
    }

    /// <summary>Parts that have other values than the circuit solved before, and the values they had.</summary>
    public List<(int Place, PartValues Before)> Changed { get; } = [];

    /// <summary>
    /// Whether at these voltages, solved before, what was changed carries what it carried then, to a tenth of a microampere: more than
    /// leaks through an open contact, and ten microvolt at a coil. Not where a relay or fuse was changed.
    /// </summary>
    /// <param name="v">Of all nodes.</param>
    public bool IsAlike(double[] v)
    {
        foreach (var (place, before) in Changed)
        {
            if (before.Made is Relay or Fuse)
            {
                return false;
            }

            if (_elements[place] is Branch branch)
            {
                if (!(Math.Abs((branch.Siemens - before.Siemens) * Across(branch, v) - (branch.Driven - before.Driven)) < BentPart.Alike))
                {
                    return false;
                }
            }
            else if (!((BentPart)_elements[place]).IsAlike((Element)before.Made!, v))
            {
                return false;
            }
        }

        return true;
    }

    /// <summary>Sets contacts and fuses.</summary>
    public void Set(bool[] pulled, bool[] blown)
    {
        for (var r = 0; r < pulled.Length; r++)
        {
            _contacts[r].Siemens = 1 / (pulled[r] ? _relays[r].ContactOhms : Switch.OpenOhms);
        }

        for (var f = 0; f < blown.Length; f++)
        {
            _fuses[f].Siemens = 1 / (blown[f] ? Switch.OpenOhms : _rated[f].Ohms);
        }
    }

    /// <summary>Takes out the nodes where only ohmic parts meet, as contacts and fuses are set, with a leak from every node to ground (S).</summary>
    public void Reduce(double leak) => _mesh.Reduce(leak);

    /// <summary>Works out how far the currents at each kept node are from balance, and how that changes with each voltage.</summary>
    public void Assemble(double[] v)
    {
        var (residual, jacobian) = (Newton.Residual, Newton.Jacobian);
        Newton.Assembled(v);
        _mesh.Assemble(v, residual, jacobian);
        foreach (var part in _bent)
        {
            var places = part.Places;
            if (part.Two is { } two)
            {
                // Nearly all of them, and this is done half a million times for a table.
                var (from, to) = (places[0], places[1]);
                var (current, slope) = two.At(At(v, from) - At(v, to));
                if (from >= 0)
                {
                    residual[from] += current;
                    jacobian[from + v.Length * from] += slope;
                }

                if (to >= 0)
                {
                    residual[to] -= current;
                    jacobian[to + v.Length * to] += slope;
                }

                if (from >= 0 && to >= 0)
                {
                    jacobian[from + v.Length * to] -= slope;
                    jacobian[to + v.Length * from] -= slope;
                }

                continue;
            }

            var (currents, conductances) = (part.Evaluate(v, places), part.Conductances);
            for (var row = 0; row < places.Length; row++)
            {
                var at = places[row];
                if (at < 0)
                {
                    continue;
                }

                residual[at] += currents[row];
                for (var column = 0; column < places.Length; column++)
                {
                    if (places[column] >= 0)
                    {
                        jacobian[at + v.Length * places[column]] += conductances[row * places.Length + column];
                    }
                }
            }
        }
    }

    /// <summary>Which share of a step reaches the first bend of a part, and just beyond; 1 when it meets none.</summary>
    /// <param name="v">Where it begins, by kept nodes.</param>
    /// <param name="step">The step.</param>
    public double ToBend(double[] v, double[] step)
    {
        var share = 1.0;
        foreach (var part in _bent)
        {
            share = Math.Min(share, part.ToBend(v, step));
        }

        return share;
    }

    /// <summary>Works out the voltages of all nodes from those of the kept ones.</summary>
    public double[] All(double[] kept)
    {
        _mesh.All(kept, Voltages);
        return Voltages;
    }

    /// <summary>Prepares instruments between pairs of nodes.</summary>
    public Probes Probe(IEnumerable<(string From, string To)> pairs) =>
        new([.. pairs.Select(p => (Index(p.From), Index(p.To), _mesh.Between(Index(p.From), Index(p.To))))], KeptCount, _index.Count - 1);

    /// <summary>For one ampere in at one node and out at another, the voltage between them; for all pairs at once.</summary>
    /// <param name="voltages">Of all nodes: where motors, lamps and diodes are taken as straight lines.</param>
    /// <param name="probes">The pairs; get the ohms.</param>
    public void OhmsBetween(double[] voltages, Probes probes)
    {
        var (n, room, pairs) = (KeptCount, Newton, probes.Pairs);
        for (var k = 0; k < n; k++)
        {
            room.Trial[k] = voltages[_mesh.Kept[k]];
        }

        // Mostly they have just been found, and Newton's method has left what it assembled there.
        if (!room.IsAssembledAt(room.Trial))
        {
            Assemble(room.Trial);
        }

        for (var p = 0; p < pairs.Length; p++)
        {
            probes.Ohms[p] = _mesh.Forward(pairs[p].From, pairs[p].To, pairs[p].Between, probes.Driven, probes.Kept.AsSpan(n * p, n));
        }

        probes.Kept.CopyTo(probes.Volts, 0);
        room.Solve(pairs.Length, probes.Volts);

        for (var p = 0; p < pairs.Length; p++)
        {
            for (var k = n * p; k < n * (p + 1); k++)
            {
                probes.Ohms[p] += probes.Kept[k] * probes.Volts[k];
            }
        }
    }

    public double Voltage(string node, double[] v) => At(v, Index(node));

    public double VoltageOfCoil(int relay, double[] v) => Across(_coils[relay], v);

    public double CurrentOfFuse(int fuse, double[] v) => _fuses[fuse].Siemens * Across(_fuses[fuse], v);

    /// <summary>The current into an element's first node, A.</summary>
    public double Current(string element, double[] v) =>
        _branches.TryGetValue(element, out var branch) ? Current(branch, v) : _parts[element].Current(v);

    /// <summary>Tells quantities of a solution.</summary>
    /// <param name="quantities">The same array each time, so that names are looked up once.</param>
    /// <param name="values">Gets them in that order.</param>
    /// <param name="v">Voltages of all nodes.</param>
    /// <param name="pulled">By relay.</param>
    /// <param name="blown">By fuse.</param>
    /// <param name="restless">By relay.</param>
    public void Tell((string Quantity, string Id)[] quantities, Span<double> values, double[] v, bool[] pulled, bool[] blown, bool[] restless)
    {
        if (!ReferenceEquals(_told.Quantities, quantities))
        {
            _told = Find(quantities);
        }

        values.Clear();
        foreach (var (at, node) in _told.Voltages)
        {
            values[at] = At(v, node);
        }

        foreach (var (at, branch) in _told.Currents)
        {
            values[at] = Current(branch, v);
        }

        foreach (var (at, part) in _told.PartCurrents)
        {
            values[at] = part.Current(v);
        }

        foreach (var (at, motor) in _told.Speeds)
        {
            values[at] = motor.Speed(v);
        }

        Truths(_told.Pulled, pulled, values);
        Truths(_told.Restless, restless, values);
        Truths(_told.Blown, blown, values);

        static void Truths(List<(int At, int Place)> wanted, bool[] truths, Span<double> values)
        {
            foreach (var (at, place) in wanted)
            {
                values[at] = truths[place] ? 1 : 0;
            }
        }
    }

    // −1 for ground.
    private int Index(string node) => _index[node];

    private Told Find((string Quantity, string Id)[] wanted)
    {
        var told = new Told(wanted, [], [], [], [], [], [], []);
        for (var at = 0; at < wanted.Length; at++)
        {
            var (quantity, id) = wanted[at];
            switch (quantity)
            {
                case "v": told.Voltages.Add((at, Index(id))); break;
                case "i" when _branches.TryGetValue(id, out var branch): told.Currents.Add((at, branch)); break;
                case "i": told.PartCurrents.Add((at, _parts[id])); break;
                case "speed" when _parts.TryGetValue(id, out var motor): told.Speeds.Add((at, motor)); break;
                case "pulled" when Relay(id) is >= 0 and var relay: told.Pulled.Add((at, relay)); break;
                case "chatter" when Relay(id) is >= 0 and var relay: told.Restless.Add((at, relay)); break;
                case "blown" when Array.FindIndex(_rated, f => f.Id == id) is >= 0 and var fuse: told.Blown.Add((at, fuse)); break;
            }
        }

        return told;

        int Relay(string id) => Array.FindIndex(_relays, r => r.Id == id);
    }

    private static double Current(Branch branch, double[] v) => branch.Siemens * Across(branch, v) - branch.Driven;

    private static double Across(Branch branch, double[] v) => At(v, branch.From) - At(v, branch.To);

    private int Place(string node)
    {
        if (!_index.TryGetValue(node, out var place))
        {
            _index.Add(node, place = _index.Count - 1);
        }

        return place;
    }

    private T Add<T>(Dictionary<string, T> to, string id, T what)
    {
        if (_branches.ContainsKey(id) || _parts.ContainsKey(id))
        {
            throw new ArgumentException($"“{id}” is used twice.", nameof(id));
        }

        to.Add(id, what);
        return what;
    }

    // Quantities that are told, each kind with the places where they are wanted; what is not there is nothing.
    private sealed record Told((string Quantity, string Id)[] Quantities, List<(int At, int Node)> Voltages, List<(int At, Branch Branch)> Currents, List<(int At, BentPart Part)> PartCurrents, List<(int At, BentPart Motor)> Speeds, List<(int At, int Relay)> Pulled, List<(int At, int Relay)> Restless, List<(int At, int Fuse)> Blown);
}

/// <summary>Values of a part of a circuit: of an ohmic one its conductance (S) and what it drives out of its first node (A); else the element, relay or fuse.</summary>
internal readonly record struct PartValues(double Siemens, double Driven, object? Made = null);
