namespace Screeline.Core.Diagnosis;

/// <summary>
/// How far each answer of a test is from turning, over the samples of one fault: each comparison of its rules in units of its own
/// deviation, then the least of what must hold together and the most of what may stand for each other. Above zero while the answer
/// is given. A chance worked out from such margins hangs far less on how many samples there are than one counted from answers.
/// </summary>
internal static class AnswerMargins
{
    /// <summary>Nothing is surer than so many deviations.</summary>
    public const double Sure = 4;

    /// <summary>Where two sides are just equal a margin is no more than this, and its sign is the answer's.</summary>
    public const float Least = 1e-3f;

    // As near as this to turning, in its own deviations, an answer is given in part by a sampled vehicle: a share hangs less on which
    // were drawn (decision 0032).
    private const double Border = 0.25;

    /// <summary>How much of an answer a vehicle gives, 0 to 1.</summary>
    /// <param name="margin">Its margin.</param>
    /// <param name="deviation">That of all vehicles' margins.</param>
    public static double Given(float margin, double deviation) =>
        Math.Abs(margin) <= Least ? (margin > 0 ? 1 : 0) : Math.Clamp(0.5 + margin / deviation / (2 * Border), 0, 1);

    /// <summary>Measures the margins.</summary>
    /// <param name="circuit">Knows the rules.</param>
    /// <param name="test">The test's place in the system.</param>
    /// <param name="comparisons">By sample: how far each comparison is from turning. Scaled in place.</param>
    /// <param name="count">How many comparisons there are.</param>
    /// <param name="solved">Which samples were solved; the others are left out.</param>
    /// <param name="weights">By sample: how many evenly drawn ones it stands for.</param>
    /// <param name="decided">By sample: the answer.</param>
    /// <param name="margins">By answer, and last that none is decided: gets each sample's margin.</param>
    public static void Measure(SampledCircuit circuit, int test, double[] comparisons, int count, int[] solved, float[] weights, ReadOnlySpan<byte> decided, Span<float[]> margins)
    {
        for (var k = 0; k < count; k++)
        {
            Scale(comparisons, k, count, solved, weights);
        }

        var own = new double[margins.Length];
        foreach (var i in solved)
        {
            var given = decided[i] == FaultTable.Undecided ? margins.Length - 1 : decided[i];
            circuit.Margins(test, comparisons.AsSpan(i * count, count), own);
            for (var a = 0; a < own.Length; a++)
            {
                margins[a][i] = (float)(a == given ? Math.Clamp(own[a], Least, Sure) : Math.Clamp(own[a], -Sure, -Least));
            }
        }
    }

    // One of so many comparisons, in all samples.
    private static void Scale(double[] comparisons, int comparison, int count, int[] solved, float[] weights)
    {
        var (sum, finite) = (0.0, 0.0);
        foreach (var i in solved)
        {
            var value = comparisons[i * count + comparison];
            if (double.IsFinite(value))
            {
                sum += weights[i] * Math.Abs(value);
                finite += weights[i];
            }
        }

        // Equal where equal is asked for, and a plain yes or no, are as far from turning as the others are on the average.
        var usual = finite == 0 ? 1 : Math.Max(1e-9, sum / finite);
        var (mean, square, whole) = (0.0, 0.0, solved.Sum(i => (double)weights[i]));
        foreach (var i in solved)
        {
            ref var value = ref comparisons[i * count + comparison];
            value = double.IsInfinity(value) ? Math.Sign(value) * usual : value;
            mean += weights[i] * value / whole;
        }

        foreach (var i in solved)
        {
            var away = comparisons[i * count + comparison] - mean;
            square += weights[i] * away * away;
        }

        var deviation = Math.Sqrt(square / whole);
        foreach (var i in solved)
        {
            ref var value = ref comparisons[i * count + comparison];
            value = deviation < 1e-9 * usual ? Sure * Math.Sign(value) : Math.Clamp(value / deviation, -Sure, Sure);
        }
    }
}
