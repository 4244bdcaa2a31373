using MathNet.Numerics.Providers.LinearAlgebra;

namespace Screeline.Core.Circuits;

/// <summary>
/// A network with its nodes numbered, ready to be solved: its ohmic parts are conductances between nodes, of which
/// <see cref="StarMesh"/> leaves only those where other parts end. Contacts and fuses can be set between solutions.
/// </summary>
internal sealed class Circuit
{
    private readonly Dictionary<string, int> _index = new(StringComparer.Ordinal) { [Network.Ground] = StarMesh.Ground };
    private readonly Dictionary<string, Branch> _branches = new(StringComparer.Ordinal);
    private readonly Dictionary<string, Part> _parts = new(StringComparer.Ordinal);
    // What the network's elements, coils, contacts and fuses are here, in its order.
    private readonly List<object> _elements = [];
    private readonly List<Branch> _coils = [], _contacts = [], _fuses = [];
    private readonly StarMesh _mesh;
    private Network _network;
    private ((string Quantity, string Id)[]? Quantities, Func<double[], double>[] Told) _lookup = (null, []);

    public Circuit(Network network)
    {
        _network = network;
        foreach (var element in network.Elements)
        {
            var places = element.Nodes.Select(Place).ToArray();
            _elements.Add(element.Ohmic is null ? Add(_parts, element.Id, new Part(element, places)) : Add(_branches, element.Id, new Branch(places[0], places[1])));
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

        _mesh = new StarMesh(_index.Count - 1, [.. _branches.Values], _parts.Values.SelectMany(p => p.Nodes));
        TakeValues();
    }

    /// <summary>Nodes that are left to Newton's method.</summary>
    public int KeptCount => _mesh.Kept.Count;

    public Network Network => _network;

    /// <summary>Takes another network of the same shape: the same parts between the same nodes. False when it is not.</summary>
    public bool TryTake(Network network)
    {
        if (network.Elements.Count != _network.Elements.Count || network.Relays.Count != _network.Relays.Count || network.Fuses.Count != _network.Fuses.Count)
        {
            return false;
        }

        for (var e = 0; e < network.Elements.Count; e++)
        {
            if (!IsAlike(network.Elements[e], _network.Elements[e]))
            {
                return false;
            }
        }

        for (var r = 0; r < network.Relays.Count; r++)
        {
            var (now, then) = (network.Relays[r], _network.Relays[r]);
            if ((now.Id, now.CoilFrom, now.CoilTo, now.ContactFrom, now.ContactTo) != (then.Id, then.CoilFrom, then.CoilTo, then.ContactFrom, then.ContactTo))
            {
                return false;
            }
        }

        for (var f = 0; f < network.Fuses.Count; f++)
        {
            if ((network.Fuses[f].Id, network.Fuses[f].From, network.Fuses[f].To) != (_network.Fuses[f].Id, _network.Fuses[f].From, _network.Fuses[f].To))
            {
                return false;
            }
        }

        _network = network;
        TakeValues();
        return true;
    }

    /// <summary>Sets contacts and fuses.</summary>
    public void Set(bool[] pulled, bool[] blown)
    {
        for (var r = 0; r < pulled.Length; r++)
        {
            _contacts[r].Siemens = 1 / (pulled[r] ? _network.Relays[r].ContactOhms : Switch.OpenOhms);
        }

        for (var f = 0; f < blown.Length; f++)
        {
            _fuses[f].Siemens = 1 / (blown[f] ? Switch.OpenOhms : _network.Fuses[f].Ohms);
        }
    }

    /// <summary>Takes out the nodes where only ohmic parts meet, as contacts and fuses are set, with a leak from every node to ground (S).</summary>
    public void Reduce(double leak) => _mesh.Reduce(leak);

    /// <summary>How far the currents at each kept node are from balance, and how that changes with each voltage (by columns).</summary>
    public void Assemble(double[] v, double[] residual, double[] jacobian)
    {
        _mesh.Assemble(v, residual, jacobian);
        foreach (var part in _parts.Values)
        {
            var currents = part.Evaluate(v, _mesh);
            for (var row = 0; row < part.Nodes.Length; row++)
            {
                if (_mesh.PlaceOf(part.Nodes[row]) is not (>= 0 and var at))
                {
                    continue;
                }

                residual[at] += currents[row];
                for (var column = 0; column < part.Nodes.Length; column++)
                {
                    if (_mesh.PlaceOf(part.Nodes[column]) is >= 0 and var other)
                    {
                        jacobian[at + v.Length * other] += part.Conductances[row, column];
                    }
                }
            }
        }
    }

    /// <summary>The voltages of all nodes, from those of the kept ones.</summary>
    public double[] All(double[] kept) => _mesh.All(kept);

    /// <summary>For one ampere in at one node and out at another, the voltage between them; for many pairs at once.</summary>
    /// <param name="voltages">Of all nodes: where motors, lamps and diodes are taken as straight lines.</param>
    /// <param name="pairs">The nodes.</param>
    public double[] OhmsBetween(double[] voltages, IReadOnlyList<(string From, string To)> pairs)
    {
        var n = KeptCount;
        var (matrix, pivots, kept) = (new double[n * n], new int[n], new double[n * pairs.Count]);
        Assemble([.. _mesh.Kept.Select(k => voltages[k])], new double[n], matrix);
        var drawn = pairs.Select((pair, p) => _mesh.Forward(Index(pair.From), Index(pair.To), kept.AsSpan(n * p, n))).ToArray();
        if (n > 0)
        {
            var provider = LinearAlgebraControl.Provider;
            provider.LUFactor(matrix, n, pivots);
            provider.LUSolveFactored(pairs.Count, matrix, n, pivots, kept);
        }

        return [.. pairs.Select((pair, p) => _mesh.Back(drawn[p], kept.AsSpan(n * p, n)) is var v ? At(v, Index(pair.From)) - At(v, Index(pair.To)) : 0)];
    }

    public double Voltage(string node, double[] v) => At(v, Index(node));

    public double VoltageOfCoil(int relay, double[] v) => Across(_coils[relay], v);

    public double CurrentOfFuse(int fuse, double[] v) => _fuses[fuse].Siemens * Across(_fuses[fuse], v);

    /// <summary>The current into an element's first node, A.</summary>
    public double Current(string element, double[] v) =>
        _branches.TryGetValue(element, out var branch) ? Current(branch, v) : _parts[element].Evaluate(v, null)[0];

    /// <summary>How to tell quantities from the voltages of all nodes; what relays and fuses do is not here.</summary>
    public Func<double[], double>[] Lookup((string Quantity, string Id)[] quantities)
    {
        if (!ReferenceEquals(_lookup.Quantities, quantities))
        {
            _lookup = (quantities, [.. quantities.Select(Told)]);
        }

        return _lookup.Told;
    }

    private Func<double[], double> Told((string Quantity, string Id) wanted)
    {
        switch (wanted.Quantity)
        {
            case "v":
                var node = Index(wanted.Id);
                return v => At(v, node);
            case "i" when _branches.TryGetValue(wanted.Id, out var branch):
                return v => Current(branch, v);
            case "i":
                var part = _parts[wanted.Id];
                return v => part.Evaluate(v, null)[0];
            case "speed" when _parts.TryGetValue(wanted.Id, out var motor):
                return motor.Speed;
            default:
                return _ => 0;
        }
    }

    private int Index(string node) => _index[node];

    private static double Current(Branch branch, double[] v) => branch.Siemens * Across(branch, v) - branch.Driven;

    private static double Across(Branch branch, double[] v) => At(v, branch.From) - At(v, branch.To);

    private static double At(double[] v, int node) => node == StarMesh.Ground ? 0 : v[node];

    private static bool IsAlike(Element now, Element then) =>
        now.Id == then.Id && now.Ohmic is null == then.Ohmic is null
        && (now is TwoTerminal a && then is TwoTerminal b ? a.From == b.From && a.To == b.To : now.Nodes.SequenceEqual(then.Nodes));

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

    private void TakeValues()
    {
        for (var e = 0; e < _elements.Count; e++)
        {
            var element = _network.Elements[e];
            if (_elements[e] is Branch branch)
            {
                (branch.Siemens, branch.Driven) = element.Ohmic!.Value;
            }
            else
            {
                ((Part)_elements[e]).Element = element;
            }
        }

        for (var r = 0; r < _coils.Count; r++)
        {
            _coils[r].Siemens = 1 / _network.Relays[r].CoilOhms;
        }
    }

    // An element that is not ohmic, with its nodes.
    private sealed class Part(Element element, int[] nodes)
    {
        private readonly double[] _voltages = new double[nodes.Length];
        private readonly double[] _currents = new double[nodes.Length];

        public Element Element { get; set; } = element;

        public int[] Nodes => nodes;

        public double[,] Conductances { get; } = new double[nodes.Length, nodes.Length];

        // The voltages are those of the nodes a mesh kept, or of all.
        public double[] Evaluate(double[] v, StarMesh? mesh)
        {
            for (var i = 0; i < nodes.Length; i++)
            {
                _voltages[i] = At(v, mesh?.PlaceOf(nodes[i]) ?? nodes[i]);
            }

            Element.Evaluate(_voltages, _currents, Conductances);
            return _currents;
        }

        // The speed of a motor, by the voltages of all nodes.
        public double Speed(double[] v) => Element switch
        {
            MagnetMotor m => m.Speed(At(v, nodes[0]) - At(v, nodes[1])),
            SeriesMotor s => s.Speed(At(v, nodes[0]) - At(v, nodes[1])),
            TwoBrushMotor t => t.Speed(At(v, nodes[0]) - At(v, nodes[2]), At(v, nodes[1]) - At(v, nodes[2])),
            _ => 0,
        };
    }
}
