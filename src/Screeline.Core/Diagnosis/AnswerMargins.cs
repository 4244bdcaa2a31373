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

    private const double Least = 1e-3;

    /// <summary>Measures the margins.</summary>
    /// <param name="circuit">Knows the rules.</param>
    /// <param name="test">The test's place in the system.</param>
    /// <param name="comparisons">By sample: how far each comparison is from turning; null for samples that were not solved. Scaled in place.</param>
    /// <param name="decided">By sample: the answer.</param>
    /// <param name="margins">By answer, and last that none is decided: gets each sample's margin.</param>
    public static void Measure(SampledCircuit circuit, int test, double[]?[] comparisons, ReadOnlySpan<byte> decided, Span<float[]> margins)
    {
        Scale([.. comparisons.OfType<double[]>()]);
        for (var i = 0; i < comparisons.Length; i++)
        {
            if (comparisons[i] is not { } row)
            {
                continue;
            }

            var given = decided[i] == FaultTable.Undecided ? margins.Length - 1 : decided[i];
            var own = circuit.Margins(test, row);
            for (var a = 0; a < own.Length; a++)
            {
                // Where two sides are just equal the sign is the answer's.
                margins[a][i] = (float)(a == given ? Math.Clamp(own[a], Least, Sure) : Math.Clamp(own[a], -Sure, -Least));
            }
        }
    }

    private static void Scale(double[][] rows)
    {
        for (var k = 0; rows.Length > 0 && k < rows[0].Length; k++)
        {
            // Equal where equal is asked for, and a plain yes or no, are as far from turning as the others are on the average.
            var finite = rows.Where(r => double.IsFinite(r[k])).Select(r => Math.Abs(r[k])).ToList();
            var usual = finite.Count == 0 ? 1 : Math.Max(1e-9, finite.Average());
            foreach (var row in rows.Where(r => double.IsInfinity(r[k])))
            {
                row[k] = Math.Sign(row[k]) * usual;
            }

            var mean = rows.Average(r => r[k]);
            var deviation = Math.Sqrt(rows.Average(r => (r[k] - mean) * (r[k] - mean)));
            foreach (var row in rows)
            {
                row[k] = deviation < 1e-9 * usual ? Sure * Math.Sign(row[k]) : Math.Clamp(row[k] / deviation, -Sure, Sure);
            }
        }
    }
}
