namespace Screeline.Core.Diagnosis;

/// <summary>
/// One component of a fault's Gaussian mixture: the sampled vehicles of one stratum of its severity whose circuits settled in one
/// regime (relays pulled in, fuses blown, motors turning). Between regimes nothing is normal; within one the numbers that can be read
/// nearly are. Variable v is the number of the test that stands at that place among those that read numbers, while the fault shows, at
/// one temperature after the other; then come the same while it does not show, for a fault that comes and goes.
/// </summary>
public sealed class MixtureComponent
{
    private readonly double[] _means;
    private readonly double[][] _covariances;
    private readonly double[]?[] _answers;

    // A number that differs by so little, in standard errors of its instrument, tells nothing of whether a fault shows.
    private const double Same = 0.1;

    private readonly bool[] _hangsOnFault;

    internal MixtureComponent(int configuration, double weight, double[] means, double[][] covariances, double[]?[] answers, int numbers)
    {
        (Configuration, Weight, _means, _covariances, _answers) = (configuration, weight, means, covariances, answers);
        _hangsOnFault = [.. Enumerable.Range(0, numbers).Select(v => means.Length > numbers && (Math.Abs(means[v] - means[numbers + v]) > Same || Math.Abs(covariances[v][v] - covariances[numbers + v][numbers + v]) > Same))];
    }

    /// <summary>The vehicle's configuration (<see cref="FaultTable.Configurations"/>).</summary>
    public int Configuration { get; }

    /// <summary>The share of the fault's sampled vehicles of this configuration.</summary>
    public double Weight { get; }

    /// <summary>Bytes held.</summary>
    public long Bytes => 8L * (_means.Length + _covariances.Sum(c => c.Length) + _answers.Sum(a => a?.Length ?? 0));

    /// <summary>Whether a number that can be read is other while a fault that comes and goes shows than while it does not.</summary>
    public bool HangsOnFault(int variable) => _hangsOnFault[variable];

    /// <summary>The mean of a variable.</summary>
    public double Mean(int variable) => _means[variable];

    /// <summary>The covariance of two variables.</summary>
    public double Covariance(int a, int b) => a >= b ? _covariances[a][b] : _covariances[b][a];

    /// <summary>Chances of a test's answers; null for a number, and where nothing but stated chances decides.</summary>
    /// <param name="test">The test, at one temperature after the other; then the same while the fault does not show.</param>
    public double[]? Answers(int test) => _answers[test];
}

/// <summary>Makes the components of a fault in one configuration.</summary>
internal static class MixtureComponents
{
    // Few vehicles tell little of how readings vary together: so many are lent to them by all vehicles of the same regime (shrinkage).
    private const double Lent = 12;

    // A stratum of fewer vehicles is joined with the next of the same regime; and so are neighbours whose means differ by no more
    // than this in any number, in standard errors of its instrument: a joint of 1 kΩ and one of 1 MΩ read alike.
    private const int Fewest = 8;
    private const double Alike = 6;

    /// <summary>Groups sampled vehicles by stratum and regime and measures each group.</summary>
    /// <param name="configuration">The configuration they have.</param>
    /// <param name="samples">What was read of them.</param>
    /// <param name="answers">By group of samples: the chances of answers, by test.</param>
    /// <param name="numbers">How many numbers can be read, over all temperatures.</param>
    public static IEnumerable<MixtureComponent> Of(int configuration, SampledFault samples, Func<int[], double[]?[]> answers, int numbers)
    {
        int[] solved = [.. Enumerable.Range(0, samples.Solved.Length).Where(i => samples.Solved[i])];
        var variables = samples.Variables;
        var all = (double)solved.Length;
        foreach (var regime in solved.GroupBy(i => samples.Regimes[i]))
        {
            int[] vehicles = [.. regime];
            var groups = Strata(vehicles, samples.Strata, variables).Select(g => (Vehicles: g, Moments: Moments.Of(variables, g))).ToArray();
            var within = Moments.Pooled([.. groups.Select(g => g.Moments)], variables.Length);
            foreach (var (group, moments) in groups)
            {
                yield return new MixtureComponent(configuration, group.Length / all, moments.Means, moments.Shrunk(within, groups.Length == 1 ? 0 : Lent), answers(group), numbers);
            }
        }
    }

    // Neighbouring strata, joined until each has vehicles enough and reads otherwise than the next.
    private static List<int[]> Strata(int[] vehicles, int[] strata, float[][] variables)
    {
        var groups = new List<int[]>();
        foreach (var stratum in vehicles.GroupBy(i => strata[i]).OrderBy(g => g.Key))
        {
            int[] own = [.. stratum];
            if (groups.Count > 0 && (groups[^1].Length < Fewest || own.Length < Fewest || Array.TrueForAll(variables, v => Math.Abs(Mean(v, own) - Mean(v, groups[^1])) <= Alike)))
            {
                groups[^1] = [.. groups[^1], .. own];
            }
            else
            {
                groups.Add(own);
            }
        }

        return groups;
    }

    private static double Mean(float[] values, int[] group)
    {
        var sum = 0.0;
        foreach (var i in group)
        {
            sum += values[i];
        }

        return sum / group.Length;
    }

    // Means, and sums of products of what lies away from them.
    private sealed record Moments(int Count, double[] Means, double[][] Sums)
    {
        public static Moments Of(float[][] variables, int[] group)
        {
            var (means, away, sums) = (new double[variables.Length], new double[variables.Length][], Triangle(variables.Length));
            for (var v = 0; v < variables.Length; v++)
            {
                var values = variables[v];
                means[v] = Mean(values, group);
                var own = away[v] = new double[group.Length];
                for (var k = 0; k < own.Length; k++)
                {
                    own[k] = values[group[k]] - means[v];
                }

                for (var w = 0; w <= v; w++)
                {
                    sums[v][w] = Product(own, away[w]);
                }
            }

            return new Moments(group.Length, means, sums);
        }

        public static Moments Pooled(Moments[] groups, int variables)
        {
            var sums = Triangle(variables);
            for (var v = 0; v < variables; v++)
            {
                for (var w = 0; w <= v; w++)
                {
                    sums[v][w] = groups.Sum(g => g.Sums[v][w]);
                }
            }

            return new Moments(groups.Sum(g => g.Count), [], sums);
        }

        public double[][] Shrunk(Moments pooled, double lent)
        {
            var covariances = Triangle(Means.Length);
            for (var v = 0; v < covariances.Length; v++)
            {
                for (var w = 0; w <= v; w++)
                {
                    covariances[v][w] = (Sums[v][w] + lent * pooled.Sums[v][w] / pooled.Count) / (Count + lent);
                }
            }

            return covariances;
        }
    }

    private static double Product(double[] a, double[] b)
    {
        var sum = 0.0;
        for (var k = 0; k < a.Length; k++)
        {
            sum += a[k] * b[k];
        }

        return sum;
    }

    private static double[][] Triangle(int size) => [.. Enumerable.Range(1, size).Select(n => new double[n])];
}
