using static Screeline.Core.Circuits.StarMesh;

namespace Screeline.Core.Circuits;

/// <summary>An element of a circuit that is not ohmic, with its nodes.</summary>
internal sealed class BentPart(Element element, int[] nodes)
{
    /// <summary>Currents that differ by less are alike, A.</summary>
    public const double Alike = 1e-7;

    // So far behind a bend is the other side of it, V: more than a search ends with at any voltage of a vehicle, so that a step which
    // only crosses a bend never ends one.
    private const double Beyond = 1e-6;

    private readonly double[] _voltages = new double[nodes.Length];
    private readonly double[] _currents = new double[nodes.Length];

    /// <summary>The element.</summary>
    public Element Element
    {
        get;
        set
        {
            field = value;
            Two = value as TwoTerminal;
        }
    } = element;

    /// <summary>The same, where it has two terminals.</summary>
    public TwoTerminal? Two { get; private set; } = element as TwoTerminal;

    /// <summary>Its nodes.</summary>
    public int[] Nodes => nodes;

    /// <summary>Their places among those a mesh keeps.</summary>
    public int[] Places { get; set; } = [];

    /// <summary>How its currents change with each voltage, S, row after row.</summary>
    public double[] Conductances { get; } = new double[nodes.Length * nodes.Length];

    /// <summary>Its currents, A; the voltages are those of the nodes a mesh kept, by their places, or of all.</summary>
    public double[] Evaluate(double[] v, int[] places)
    {
        for (var i = 0; i < places.Length; i++)
        {
            _voltages[i] = At(v, places[i]);
        }

        Element.Evaluate(_voltages, _currents, Conductances);
        return _currents;
    }

    /// <summary>The current into its first node, A, by the voltages of all nodes.</summary>
    public double Current(double[] v) => Two?.At(At(v, nodes[0]) - At(v, nodes[1])).Current ?? Evaluate(v, nodes)[0];

    /// <summary>Whether another element in its place would carry what it does, by the voltages of all nodes.</summary>
    public bool IsAlike(Element other, double[] v)
    {
        double[] own = [.. Evaluate(v, nodes)];
        other.Evaluate(_voltages, _currents, Conductances);
        for (var i = 0; i < own.Length; i++)
        {
            if (!(Math.Abs(own[i] - _currents[i]) < Alike))
            {
                return false;
            }
        }

        return true;
    }

    /// <summary>The speed of a motor, rad/s, by the voltages of all nodes.</summary>
    public double Speed(double[] v) => Element switch
    {
        MagnetMotor m => m.Speed(At(v, nodes[0]) - At(v, nodes[1])),
        SeriesMotor s => s.Speed(At(v, nodes[0]) - At(v, nodes[1])),
        TwoBrushMotor t => t.Speed(At(v, nodes[0]) - At(v, nodes[2]), At(v, nodes[1]) - At(v, nodes[2])),
        _ => 0,
    };

    /// <summary>Which share of a step reaches its first bend, and just beyond; 1 when it meets none.</summary>
    /// <param name="v">Where the step begins, by kept nodes.</param>
    /// <param name="step">The step.</param>
    public double ToBend(double[] v, double[] step)
    {
        var least = 1.0;
        if (Two?.Bends is { } bends)
        {
            var (from, way) = (At(v, Places[0]) - At(v, Places[1]), At(step, Places[0]) - At(step, Places[1]));
            foreach (var bend in (ReadOnlySpan<double>)[bends.First, bends.Second])
            {
                var share = (bend - from + Math.Sign(way) * Beyond) / way;
                if (share > 0 && share < least && (bend - from) * way >= 0)
                {
                    least = share;
                }
            }
        }

        return least;
    }
}
