namespace Screeline.Core.Circuits;

/// <summary>An ohmic part between two nodes: current from the first to the second is (v1 − v2)·Siemens − Driven.</summary>
internal sealed class Branch(int from, int to)
{
    public int From => from;

    public int To => to;

    /// <summary>Conductance, S.</summary>
    public double Siemens { get; set; }

    /// <summary>What a battery drives out of the first node, A.</summary>
    public double Driven { get; set; }
}

/// <summary>
/// Takes nodes out of a net of conductances without changing what the others see: a node with its star of conductances becomes a
/// mesh between its neighbours (star-mesh transformation; Rosen 1924, from memory). Nothing is ever subtracted, so that the leak of
/// an open contact keeps its digits beside a cable. The order is found once per circuit: always the node with the fewest neighbours.
/// </summary>
internal sealed class StarMesh
{
    public const int Ground = -1;

    private readonly Branch[] _branches;
    // By branch: the conductance between its nodes that it adds to; −1 when one of them is ground or both are the same.
    private readonly int[] _edges;
    private readonly int[] _kept, _places;
    private readonly Star[] _order;
    // All places in the order.
    private readonly int[] _all;
    // Between kept nodes, by their places.
    private readonly (int Place, int Other, int Edge)[] _links;
    private readonly double[] _between, _toGround, _driven, _whole;

    // A node that is taken out: its neighbours, the conductances to them, and those between them: of the first and second, of the
    // first and third, the second and third, and so on.
    private sealed record Star(int Node, int[] Neighbours, int[] Rays, int[] Mesh);

    /// <summary>Plans the order.</summary>
    /// <param name="count">How many nodes there are.</param>
    /// <param name="branches">The conductances.</param>
    /// <param name="kept">Nodes that must stay; ground does not count.</param>
    public StarMesh(int count, Branch[] branches, IEnumerable<int> kept)
    {
        _branches = branches;
        _kept = [.. kept.Where(k => k != Ground).Distinct().Order()];
        _places = [.. Enumerable.Range(0, count).Select(n => Array.IndexOf(_kept, n))];

        // Nodes with something between them, from the beginning or when those between them are taken out.
        var edges = new Dictionary<(int, int), int>();
        int Edge(int a, int b)
        {
            var pair = (Math.Min(a, b), Math.Max(a, b));
            if (!edges.TryGetValue(pair, out var edge))
            {
                edges.Add(pair, edge = edges.Count);
            }

            return edge;
        }

        _edges = [.. branches.Select(b => b.From == Ground || b.To == Ground || b.From == b.To ? -1 : Edge(b.From, b.To))];
        var neighbours = Enumerable.Range(0, count).Select(_ => new SortedSet<int>()).ToArray();
        foreach (var (a, b) in edges.Keys)
        {
            neighbours[a].Add(b);
            neighbours[b].Add(a);
        }

        var left = Enumerable.Range(0, count).Except(_kept).ToList();
        var order = new List<Star>();
        while (left.Count > 0)
        {
            var node = left.MinBy(n => neighbours[n].Count);
            left.Remove(node);
            int[] around = [.. neighbours[node]];
            order.Add(new Star(node, around, [.. around.Select(a => Edge(node, a))], [.. around.SelectMany((a, i) => around.Take(i).Select(b => Edge(a, b)))]));
            foreach (var a in around)
            {
                neighbours[a].UnionWith(around);
                neighbours[a].ExceptWith([a, node]);
            }
        }

        (_order, _all) = ([.. order], [.. Enumerable.Range(0, order.Count)]);
        _links = [.. from i in Enumerable.Range(0, _kept.Length) from k in Enumerable.Range(i + 1, _kept.Length - i - 1) where edges.ContainsKey((_kept[i], _kept[k])) select (i, k, Edge(_kept[i], _kept[k]))];
        (_between, _toGround, _driven, _whole) = (new double[edges.Count], new double[count], new double[count], new double[count]);
    }

    /// <summary>The nodes that stay, in order.</summary>
    public IReadOnlyList<int> Kept => _kept;

    /// <summary>A node's place among the kept ones; −1 for ground.</summary>
    public int PlaceOf(int node) => node == Ground ? Ground : _places[node];

    /// <summary>Takes the nodes out, with the conductances as they are now and a leak from every node to ground (S).</summary>
    public void Reduce(double leak)
    {
        Array.Clear(_between);
        Array.Clear(_driven);
        Array.Fill(_toGround, leak);
        for (var b = 0; b < _branches.Length; b++)
        {
            var branch = _branches[b];
            if (_edges[b] >= 0)
            {
                _between[_edges[b]] += branch.Siemens;
                _driven[branch.From] += branch.Driven;
                _driven[branch.To] -= branch.Driven;
            }
            else if (branch.From != branch.To)
            {
                var node = Math.Max(branch.From, branch.To);
                _toGround[node] += branch.Siemens;
                _driven[node] += branch.To == Ground ? branch.Driven : -branch.Driven;
            }
        }

        foreach (var star in _order)
        {
            var (node, neighbours, rays, mesh) = (star.Node, star.Neighbours, star.Rays, star.Mesh);
            var whole = _toGround[node];
            foreach (var ray in rays)
            {
                whole += _between[ray];
            }

            _whole[node] = whole;
            var (toGround, driven) = (_toGround[node], _driven[node]);
            for (int i = 0, pair = 0; i < neighbours.Length; i++)
            {
                var a = neighbours[i];
                var share = _between[rays[i]] / whole;
                _toGround[a] += share * toGround;
                _driven[a] += share * driven;
                for (var k = 0; k < i; k++, pair++)
                {
                    _between[mesh[pair]] += share * _between[rays[k]];
                }
            }
        }
    }

    /// <summary>The currents that leave each kept node, and how they change with each voltage (by columns).</summary>
    public void Assemble(double[] v, double[] currents, double[] jacobian)
    {
        Array.Clear(jacobian);
        for (var i = 0; i < _kept.Length; i++)
        {
            var node = _kept[i];
            (currents[i], jacobian[i + v.Length * i]) = (_toGround[node] * v[i] - _driven[node], _toGround[node]);
        }

        foreach (var (i, k, edge) in _links)
        {
            var siemens = _between[edge];
            var current = siemens * (v[i] - v[k]);
            currents[i] += current;
            currents[k] -= current;
            jacobian[i + v.Length * i] += siemens;
            jacobian[k + v.Length * k] += siemens;
            jacobian[i + v.Length * k] = jacobian[k + v.Length * i] = -siemens;
        }
    }

    /// <summary>The voltages of all nodes, from those of the kept ones.</summary>
    public void All(ReadOnlySpan<double> kept, Span<double> v) => Back(_all, _driven, kept, v);

    /// <summary>
    /// Which nodes, by their places in the order, stand between two nodes and the kept ones: what is driven at the two reaches no
    /// other, and their voltages hang on no other.
    /// </summary>
    public int[] Between(int from, int to)
    {
        var reached = new HashSet<int> { from, to };
        var between = new List<int>();
        for (var o = 0; o < _order.Length; o++)
        {
            if (reached.Contains(_order[o].Node))
            {
                between.Add(o);
                reached.UnionWith(_order[o].Neighbours);
            }
        }

        return [.. between];
    }

    /// <summary>What one ampere in at one node and out at another drives at the nodes between, and at the kept ones alone.</summary>
    public void Forward(int from, int to, int[] between, Span<double> driven, Span<double> kept)
    {
        driven.Clear();
        if (from != Ground)
        {
            driven[from] += 1;
        }

        if (to != Ground)
        {
            driven[to] -= 1;
        }

        foreach (var o in between)
        {
            var star = _order[o];
            var (neighbours, rays, each) = (star.Neighbours, star.Rays, driven[star.Node] / _whole[star.Node]);
            for (var i = 0; i < neighbours.Length; i++)
            {
                driven[neighbours[i]] += each * _between[rays[i]];
            }
        }

        for (var i = 0; i < kept.Length; i++)
        {
            kept[i] = driven[_kept[i]];
        }
    }

    /// <summary>The voltages of the nodes between and of the kept ones, from what is driven at each when it is taken out and the voltages of the kept ones.</summary>
    public void Back(int[] between, ReadOnlySpan<double> driven, ReadOnlySpan<double> kept, Span<double> v)
    {
        for (var i = 0; i < kept.Length; i++)
        {
            v[_kept[i]] = kept[i];
        }

        for (var k = between.Length - 1; k >= 0; k--)
        {
            var star = _order[between[k]];
            var (neighbours, rays, sum) = (star.Neighbours, star.Rays, driven[star.Node]);
            for (var i = 0; i < neighbours.Length; i++)
            {
                sum += _between[rays[i]] * v[neighbours[i]];
            }

            v[star.Node] = sum / _whole[star.Node];
        }
    }
}
