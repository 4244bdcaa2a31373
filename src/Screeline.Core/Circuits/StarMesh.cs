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

    private readonly int _count;
    private readonly Branch[] _branches;
    private readonly int[] _kept, _places;
    private readonly (int Node, int[] Neighbours)[] _order;
    private readonly double[] _between, _toGround, _driven, _whole;

    /// <summary>Plans the order.</summary>
    /// <param name="count">How many nodes there are.</param>
    /// <param name="branches">The conductances.</param>
    /// <param name="kept">Nodes that must stay; ground does not count.</param>
    public StarMesh(int count, Branch[] branches, IEnumerable<int> kept)
    {
        (_count, _branches) = (count, branches);
        _kept = [.. kept.Where(k => k != Ground).Distinct().Order()];
        _places = [.. Enumerable.Range(0, count).Select(n => Array.IndexOf(_kept, n))];
        (_between, _toGround, _driven, _whole) = (new double[count * count], new double[count], new double[count], new double[count]);

        var neighbours = Enumerable.Range(0, count).Select(_ => new SortedSet<int>()).ToArray();
        foreach (var branch in branches.Where(b => b.From != Ground && b.To != Ground && b.From != b.To))
        {
            neighbours[branch.From].Add(branch.To);
            neighbours[branch.To].Add(branch.From);
        }

        var left = Enumerable.Range(0, count).Except(_kept).ToList();
        var order = new List<(int, int[])>();
        while (left.Count > 0)
        {
            var node = left.MinBy(n => neighbours[n].Count);
            left.Remove(node);
            order.Add((node, [.. neighbours[node]]));
            foreach (var a in neighbours[node])
            {
                neighbours[a].UnionWith(neighbours[node]);
                neighbours[a].ExceptWith([a, node]);
            }
        }

        _order = [.. order];
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
        foreach (var branch in _branches)
        {
            Put(branch.From, branch.To, branch.Siemens, branch.Driven);
            Put(branch.To, branch.From, branch.Siemens, -branch.Driven);
        }

        foreach (var (node, neighbours) in _order)
        {
            var star = _between.AsSpan(node * _count, _count);
            var whole = _toGround[node];
            foreach (var a in neighbours)
            {
                whole += star[a];
            }

            _whole[node] = whole;
            for (var i = 0; i < neighbours.Length; i++)
            {
                var a = neighbours[i];
                var share = star[a] / whole;
                _toGround[a] += share * _toGround[node];
                _driven[a] += share * _driven[node];
                for (var k = 0; k < i; k++)
                {
                    var b = neighbours[k];
                    var siemens = share * star[b];
                    _between[a * _count + b] += siemens;
                    _between[b * _count + a] += siemens;
                }
            }
        }
    }

    /// <summary>The currents that leave each kept node, and how they change with each voltage (by columns).</summary>
    public void Assemble(double[] v, double[] currents, double[] jacobian)
    {
        for (var i = 0; i < _kept.Length; i++)
        {
            var node = _kept[i];
            var (current, whole) = (_toGround[node] * v[i] - _driven[node], _toGround[node]);
            for (var k = 0; k < _kept.Length; k++)
            {
                var siemens = k == i ? 0 : _between[node * _count + _kept[k]];
                current += siemens * (v[i] - v[k]);
                whole += siemens;
                jacobian[i + v.Length * k] = -siemens;
            }

            (currents[i], jacobian[i + v.Length * i]) = (current, whole);
        }
    }

    /// <summary>The voltages of all nodes, from those of the kept ones.</summary>
    public double[] All(ReadOnlySpan<double> kept) => Back(_driven, kept);

    /// <summary>What one ampere in at one node and out at another drives at all nodes, and at the kept ones alone.</summary>
    public double[] Forward(int from, int to, Span<double> kept)
    {
        var driven = new double[_count];
        if (from != Ground)
        {
            driven[from] += 1;
        }

        if (to != Ground)
        {
            driven[to] -= 1;
        }

        foreach (var (node, neighbours) in _order)
        {
            if (driven[node] != 0)
            {
                var each = driven[node] / _whole[node];
                foreach (var a in neighbours)
                {
                    driven[a] += each * _between[node * _count + a];
                }
            }
        }

        for (var i = 0; i < kept.Length; i++)
        {
            kept[i] = driven[_kept[i]];
        }

        return driven;
    }

    /// <summary>The voltages of all nodes, from what is driven at each when it is taken out and the voltages of the kept ones.</summary>
    public double[] Back(double[] driven, ReadOnlySpan<double> kept)
    {
        var v = new double[_count];
        for (var i = 0; i < kept.Length; i++)
        {
            v[_kept[i]] = kept[i];
        }

        for (var o = _order.Length - 1; o >= 0; o--)
        {
            var (node, neighbours) = _order[o];
            var sum = driven[node];
            foreach (var a in neighbours)
            {
                sum += _between[node * _count + a] * v[a];
            }

            v[node] = sum / _whole[node];
        }

        return v;
    }

    private void Put(int node, int other, double siemens, double driven)
    {
        if (node == Ground || node == other)
        {
            return;
        }

        _driven[node] += driven;
        if (other == Ground)
        {
            _toGround[node] += siemens;
        }
        else
        {
            _between[node * _count + other] += siemens;
        }
    }
}
