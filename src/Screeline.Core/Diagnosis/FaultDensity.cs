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
    // Few samples tell little of how readings vary together: so many are lent to them by the whole fault.
    private const double Lent = 3;

    // Numbers that differ by no more than this, in standard errors of the instrument, are the same.
    private const float Same = 0.01f;

    // No answer is told to be rarer, and none surer than all but so much: the sampled vehicles are not all there are, and what fewer
    // of them give hangs on which were drawn (decision 0031).
    internal const double Rarest = 0.005;

    // Farther than so many deviations from the mean a number counts as if it lay there: one vehicle of thousands, whose relay stays
    // open, would make a density several times as wide. That is what slips and astray readings are for (decision 0033).
    private const double Far = 5;
    private const int Times = 3;

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
    /// <param name="weights">How many each sample stands for.</param>
    /// <param name="blown">By sample: a number for the fuses that are blown.</param>
    /// <param name="isMargin">Whether a variable is an answer's margin: it is told in its own deviations, its mean where as much lies above zero as samples gave the answer.</param>
    internal static IReadOnlyList<FaultDensity> Of(IReadOnlyList<float[]> variables, double[] weights, int[] blown, Func<int, bool> isMargin)
    {
        var groups = Enumerable.Range(0, blown.Length).GroupBy(i => blown[i]).OrderBy(g => g.Min()).Select(g => g.ToArray()).ToArray();
        var (means, sums, isStill) = (new double[groups.Length][], new double[groups.Length][][], new bool[groups.Length][]);
        var pooled = Triangle(variables.Count);
        for (var g = 0; g < groups.Length; g++)
        {
            var whole = Weight(groups[g]);
            (means[g], sums[g], isStill[g]) = (new double[variables.Count], Triangle(variables.Count), new bool[variables.Count]);
            var group = groups[g];
            var roots = Array.ConvertAll(group, i => Math.Sqrt(weights[i]));
            var away = new double[variables.Count][];
            for (var v = 0; v < variables.Count; v++)
            {
                var (values, sum) = (variables[v], 0.0);
                foreach (var i in group)
                {
                    sum += weights[i] * values[i];
                }

                means[g][v] = sum / whole;
                var first = values[group[0]];
                var (varies, isSame) = (false, true);
                foreach (var i in group)
                {
                    varies |= values[i] != first;
                    isSame &= Math.Abs(values[i] - first) <= Same;
                }

                isStill[g][v] = isMargin(v) ? !varies : isSame;
                if (!varies)
                {
                    // Most margins.
                    (means[g][v], away[v]) = (first, []);
                    continue;
                }

                away[v] = new double[group.Length];
                for (var k = 0; k < away[v].Length; k++)
                {
                    away[v][k] = roots[k] * (values[group[k]] - means[g][v]);
                }

                // Nearer the mean it makes a density less wide, and is then far off again.
                var times = isMargin(v) ? 0 : Times;
                while (times-- > 0 && Bring(g, v, Far * Math.Sqrt(Product(away[v], away[v]) / whole), roots, away[v]))
                {
                }

                for (var w = 0; w <= v; w++)
                {
                    if (away[w].Length > 0)
                    {
                        sums[g][v][w] = Product(away[v], away[w]);
                        pooled[v][w] += sums[g][v][w];
                    }
                }
            }
        }

        var all = weights.Sum();
        return [.. groups.Select(Made)];

        double Weight(IEnumerable<int> group) => group.Sum(i => weights[i]);

        // Brings what lies farther from the mean than that back to there; false when nothing does.
        bool Bring(int g, int v, double most, double[] roots, double[] away)
        {
            var (mean, values, group, sum, isAny) = (means[g][v], variables[v], groups[g], 0.0, false);
            double Brought(int i) => Math.Clamp(values[i], mean - most, mean + most);
            foreach (var i in group)
            {
                isAny |= !(Math.Abs(values[i] - mean) <= most);
                sum += weights[i] * Brought(i);
            }

            if (!isAny)
            {
                return false;
            }

            means[g][v] = sum / Weight(group);
            for (var k = 0; k < away.Length; k++)
            {
                away[k] = roots[k] * (Brought(group[k]) - means[g][v]);
            }

            return true;
        }

        FaultDensity Made(int[] group, int g)
        {
            var (whole, covariances, kept) = (Weight(group), sums[g], new double[variables.Count]);
            for (var v = 0; v < variables.Count; v++)
            {
                for (var w = 0; w <= v; w++)
                {
                    // What is the same in all samples does not vary, as no current through a blown fuse: what would be lent hangs on how many there are.
                    covariances[v][w] = isStill[g][v] || isStill[g][w] ? covariances[v][w] / whole : (covariances[v][w] + Lent * pooled[v][w] / all) / (whole + Lent);
                }

                kept[v] = isMargin(v) ? Margin(v) : 1;
            }

            for (var v = 0; v < variables.Count; v++)
            {
                for (var w = 0; w < v; w++)
                {
                    covariances[v][w] *= kept[v] * kept[w];
                }
            }

            return new FaultDensity(whole / all, means[g], covariances);

            // Makes a margin's deviation one and puts its mean where its share is; tells by how much its covariances are to be multiplied.
            double Margin(int v)
            {
                // The same in all samples: it varies by itself alone.
                var (mean, deviation) = (means[g][v], covariances[v][v] > 0 ? Math.Sqrt(covariances[v][v]) : 1);
                var (share, margins) = (0.0, variables[v]);
                foreach (var i in group)
                {
                    share += weights[i] * AnswerMargins.Given(margins[i], deviation);
                }

                share /= whole;
                var away = Normal.InvCDF(0, 1, Math.Clamp(share, Rarest, 1 - Rarest));
                // A margin bends where a motor stalls: its mean and deviation alone would give another share. And where all samples but
                // one are as far from turning as is counted, its deviation is next to nothing.
                (means[g][v], covariances[v][v]) = (away, 1);
                var rare = Math.Min(share, 1 - share);
                if (rare >= 2 * Rarest)
                {
                    return 1 / deviation;
                }

                // Nearer to turning than the samples are, it is wider by something of its own.
                var told = Math.Min(1, Math.Abs(away) * deviation / Math.Abs(mean));
                return (told + (1 - told) * Math.Max(0, rare / Rarest - 1)) / deviation;
            }
        }
    }

    private static double[][] Triangle(int size)
    {
        var rows = new double[size][];
        for (var v = 0; v < size; v++)
        {
            rows[v] = new double[v + 1];
        }

        return rows;
    }

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
