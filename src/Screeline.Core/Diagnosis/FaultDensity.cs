using System.Numerics;
using MathNet.Numerics.Distributions;

namespace Screeline.Core.Diagnosis;

/// <summary>
/// How everything that can be read varies together under one fault while the same fuses are blown: the joint normal density that
/// has the means and the covariances of the sampled vehicles. Variable v is the number of test v, or from the number of tests on an
/// answer's margin (<see cref="FaultTable.FirstMargin"/>), while the fault shows; v + <see cref="FaultTable.Variables"/> is the
/// same while it does not, for a fault that comes and goes.
/// </summary>
public sealed class FaultDensity
{
    // Few samples tell little of how readings vary together: so many of all, as a share, are lent to them by the whole fault.
    private const double Lent = 0.05;

    private readonly double[] _means;
    private readonly double[][] _covariances;

    private FaultDensity(double share, double[] means, double[][] covariances) => (Share, _means, _covariances) = (share, means, covariances);

    /// <summary>The share of the fault's samples that it describes.</summary>
    public double Share { get; }

    /// <summary>Bytes held.</summary>
    public long Bytes => 8L * (_means.Length + _covariances.Sum(c => c.Length));

    /// <summary>The mean of a variable.</summary>
    public double Mean(int variable) => _means[variable];

    /// <summary>The covariance of two variables.</summary>
    public double Covariance(int a, int b) => a >= b ? _covariances[a][b] : _covariances[b][a];

    /// <summary>Measures a density for each set of samples with the same fuses blown: between whole and blown nothing is normal.</summary>
    /// <param name="variables">Each variable's values, by sample.</param>
    /// <param name="blown">By sample: a number for the fuses that are blown.</param>
    /// <param name="isMargin">Whether a variable is an answer's margin: its mean is put where as much lies above zero as samples gave the answer.</param>
    internal static IReadOnlyList<FaultDensity> Of(IReadOnlyList<float[]> variables, int[] blown, Func<int, bool> isMargin)
    {
        var groups = Enumerable.Range(0, blown.Length).GroupBy(i => blown[i]).OrderBy(g => g.Min()).Select(g => g.ToArray()).ToList();
        var (means, sums) = (new List<double[]>(), new List<double[][]>());
        var pooled = Triangle(variables.Count, (_, _) => 0);
        foreach (var group in groups)
        {
            var own = variables.Select(v => group.Average(i => (double)v[i])).ToArray();
            var away = variables.Select((v, k) => group.Select(i => v[i] - own[k]).ToArray()).ToArray();
            var products = Triangle(variables.Count, (v, w) => Product(away[v], away[w]));
            pooled = Triangle(variables.Count, (v, w) => pooled[v][w] + products[v][w]);
            (means, sums) = ([.. means, own], [.. sums, products]);
        }

        var lent = Lent * blown.Length;
        return [.. groups.Select(Made)];

        FaultDensity Made(int[] group, int k)
        {
            var covariances = Triangle(variables.Count, (v, w) => (sums[k][v][w] + Lent * pooled[v][w]) / (group.Length + lent));
            for (var v = 0; v < variables.Count; v++)
            {
                if (isMargin(v) && covariances[v][v] > 0)
                {
                    // A margin bends where a motor stalls: its mean and deviation alone would give another share.
                    var share = group.Count(i => variables[v][i] > 0) / (double)group.Length;
                    means[k][v] = Math.Sqrt(covariances[v][v]) * Math.Clamp(Normal.InvCDF(0, 1, share), -AnswerMargins.Sure, AnswerMargins.Sure);
                }
            }

            return new FaultDensity((double)group.Length / blown.Length, means[k], covariances);
        }
    }

    private static double[][] Triangle(int size, Func<int, int, double> value) => [.. Enumerable.Range(0, size).Select(v => Enumerable.Range(0, v + 1).Select(w => value(v, w)).ToArray())];

    private static double Product(double[] a, double[] b)
    {
        var (sum, at) = (Vector<double>.Zero, 0);
        for (; at <= a.Length - Vector<double>.Count; at += Vector<double>.Count)
        {
            sum += new Vector<double>(a, at) * new Vector<double>(b, at);
        }

        var product = Vector.Sum(sum);
        for (; at < a.Length; at++)
        {
            product += a[at] * b[at];
        }

        return product;
    }
}
