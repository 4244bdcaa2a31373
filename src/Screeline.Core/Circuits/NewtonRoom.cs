using MathNet.Numerics.Providers.LinearAlgebra;

namespace Screeline.Core.Circuits;

/// <summary>Arrays of Newton's method for a number of nodes.</summary>
internal sealed class NewtonRoom(int nodes)
{
    private readonly double[] _at = new double[nodes];
    // The Jacobian that was factored last, and its factors.
    private readonly double[] _factored = new double[nodes * nodes], _factors = new double[nodes * nodes];
    private readonly int[] _pivots = new int[nodes];
    private bool _isAssembled;

    /// <summary>Where the search is.</summary>
    public double[] Voltages { get; private set; } = new double[nodes];

    /// <summary>Where it looks next.</summary>
    public double[] Trial { get; private set; } = new double[nodes];

    /// <summary>How many steps before the last one.</summary>
    public int Steps { get; set; }

    /// <summary>Goes there.</summary>
    public void Step() => (Voltages, Trial) = (Trial, Voltages);

    /// <summary>How far currents are from balance.</summary>
    public double[] Residual { get; } = new double[nodes];

    public double[] Delta { get; } = new double[nodes];

    /// <summary>How that changes with each voltage, by columns.</summary>
    public double[] Jacobian { get; } = new double[nodes * nodes];

    /// <summary>Tells where residual and Jacobian are assembled.</summary>
    public void Assembled(double[] at)
    {
        at.CopyTo(_at, 0);
        _isAssembled = true;
    }

    /// <summary>Whether the Jacobian is there, for these voltages.</summary>
    public bool IsAssembledAt(double[] voltages) => _isAssembled && _at.AsSpan().SequenceEqual(voltages);

    /// <summary>Solves the Jacobian for so many right sides, one after the other.</summary>
    public void Solve(int sides, double[] right)
    {
        if (nodes == 0)
        {
            return;
        }

        // Where a motor stands all is straight lines, and it is the same from step to step.
        var provider = LinearAlgebraControl.Provider;
        if (!Jacobian.AsSpan().SequenceEqual(_factored))
        {
            Jacobian.CopyTo(_factored, 0);
            Jacobian.CopyTo(_factors, 0);
            provider.LUFactor(_factors, nodes, _pivots);
        }

        provider.LUSolveFactored(sides, _factors, nodes, _pivots, right);
    }
}

/// <summary>Instruments between pairs of nodes: what each sees behind it (ohm), and arrays to work that out.</summary>
internal sealed class Probes((int From, int To, int[] Between)[] pairs, int kept, int all)
{
    public (int From, int To, int[] Between)[] Pairs => pairs;

    public double[] Ohms { get; } = new double[pairs.Length];

    /// <summary>What each drives at the kept nodes, A.</summary>
    public double[] Kept { get; } = new double[kept * pairs.Length];

    /// <summary>The voltages that this makes there.</summary>
    public double[] Volts { get; } = new double[kept * pairs.Length];

    public double[] Driven { get; } = new double[all];
}
