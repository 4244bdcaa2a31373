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

    /// <summary>The voltage of a node, of all or of kept ones; ground's is nought.</summary>
    public static double At(double[] v, int node) => node == Ground ? 0 : v[node];

    private readonly Branch[] _branches;
    // By branch: the conductance between its nodes that it adds to; −1 when one of them is ground or both are the same.
    private readonly int[] _edges;
    private readonly int[] _kept, _places;
    // The nodes that are taken out, in order, and where each begins: the node, how many neighbours it has, for each of them its number
    // and the conductance to it, and the conductances between them: of the first and second, of the first and third, the second and
    // third, and so on. They stand in one array as they are gone through half a million times for a table.
    private readonly int[] _stars, _all;
    // Between kept nodes, by their places.
    private readonly (int Place, int Other, int Edge)[] _links;
    private readonly double[] _between, _toGround, _driven, _ohms;

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
        var (stars, starts) = (new List<int>(), new List<int>());
        while (left.Count > 0)
        {
            var node = left.MinBy(n => neighbours[n].Count);
            left.Remove(node);
            int[] around = [.. neighbours[node]];
            starts.Add(stars.Count);
            stars.AddRange([node, around.Length, .. around.SelectMany(a => new[] { a, Edge(node, a) }), .. around.SelectMany((a, i) => around.Take(i).Select(b => Edge(a, b)))]);
            foreach (var a in around)
            {
                neighbours[a].UnionWith(around);
                neighbours[a].ExceptWith([a, node]);
            }
        }

        (_stars, _all) = ([.. stars], [.. starts]);
        _links = [.. from i in Enumerable.Range(0, _kept.Length) from k in Enumerable.Range(i + 1, _kept.Length - i - 1) where edges.ContainsKey((_kept[i], _kept[k])) select (i, k, Edge(_kept[i], _kept[k]))];
        (_between, _toGround, _driven, _ohms) = (new double[edges.Count], new double[count], new double[count], new double[count]);
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

        var (stars, between) = (_stars, _between);
        for (var at = 0; at < stars.Length;)
        {
            var (node, first, end) = (stars[at], at + 2, at + 2 + 2 * stars[at + 1]);
            var (toGround, driven) = (_toGround[node], _driven[node]);
            var whole = toGround;
            for (var i = first; i < end; i += 2)
            {
                whole += between[stars[i + 1]];
            }

            var ohms = 1 / whole;
            _ohms[node] = ohms;
            at = end;
            for (var i = first; i < end; i += 2)
            {
                var (a, share) = (stars[i], between[stars[i + 1]] * ohms);
                _toGround[a] += share * toGround;
                _driven[a] += share * driven;
                for (var k = first; k < i; k += 2, at++)
                {
                    between[stars[at]] += share * between[stars[k + 1]];
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
    public void All(ReadOnlySpan<double> kept, Span<double> v)
    {
        var (stars, between) = (_stars, _between);
        for (var i = 0; i < kept.Length; i++)
        {
            v[_kept[i]] = kept[i];
        }

        for (var k = _all.Length - 1; k >= 0; k--)
        {
            var at = _all[k];
            var (node, end) = (stars[at], at + 2 + 2 * stars[at + 1]);
            var sum = _driven[node];
            for (var i = at + 2; i < end; i += 2)
            {
                sum += between[stars[i + 1]] * v[stars[i]];
            }

            v[node] = sum * _ohms[node];
        }
    }

    /// <summary>Which nodes stand between two nodes and the kept ones: what is driven at the two reaches no other.</summary>
    public int[] Between(int from, int to)
    {
        var reached = new HashSet<int> { from, to };
        var between = new List<int>();
        foreach (var at in _all)
        {
            if (reached.Contains(_stars[at]))
            {
                between.Add(at);
                reached.UnionWith(Enumerable.Range(0, _stars[at + 1]).Select(i => _stars[at + 2 + 2 * i]));
            }
        }

        return [.. between];
    }

    /// <summary>
    /// What one ampere in at one node and out at another drives at the kept nodes, and the voltage that it makes between the two while the
    /// kept nodes are held at ground. With what it drives there, times the voltages that this makes there, that is all the voltage
    /// between them: to take nodes out is to factor their conductances into L·D·Lᵀ, and eᵀ·G⁻¹·e is the sum of the squares of L⁻¹·e over D.
    /// </summary>
    /// <param name="from">A node.</param>
    /// <param name="to">Another.</param>
    /// <param name="between">What stands between them and the kept ones (<see cref="Between"/>).</param>
    /// <param name="driven">Room for all nodes.</param>
    /// <param name="kept">Gets what is driven, A.</param>
    public double Forward(int from, int to, int[] between, Span<double> driven, Span<double> kept)
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

        var (stars, conductances, volts) = (_stars, _between, 0.0);
        foreach (var at in between)
        {
            var (node, end) = (stars[at], at + 2 + 2 * stars[at + 1]);
            var own = driven[node];
            var each = own * _ohms[node];
            volts += own * each;
            for (var i = at + 2; i < end; i += 2)
            {
                driven[stars[i]] += each * conductances[stars[i + 1]];
            }
        }

        for (var i = 0; i < kept.Length; i++)
        {
            kept[i] = driven[_kept[i]];
        }

        return volts;
    }
}
