namespace Screeline.Core.Diagnosis;

/// <summary>
/// Sampled vehicles that have one fault: what every test would read on each of them. A vehicle whose current is such that some fuses
/// bear it and some blow is there twice, with the share of either.
/// </summary>
public sealed class FaultSamples
{
    private const float RareShare = 0.1f;

    private readonly float[][] _numbers;
    private readonly byte[][] _decided;

    /// <summary>Makes room.</summary>
    /// <param name="system">The family.</param>
    /// <param name="vehicles">How many vehicles.</param>
    /// <param name="times">How often there is room for each.</param>
    /// <param name="margins">How many margins of answers there are.</param>
    internal FaultSamples(FaultSystem system, int vehicles, int times, int margins)
    {
        var count = times * vehicles;
        (Vehicles, Solved, Weights, Blown) = ([.. Enumerable.Range(0, count).Select(i => i % vehicles)], new bool[count], new float[count], new int[count]);
        _numbers = [.. system.Tests.Select(t => t.Unit is null ? [] : new float[count])];
        _decided = [.. system.Tests.Select(t => t.Unit is null ? new byte[count] : [])];
        Margins = new float[margins][];
        for (var m = 0; m < margins; m++)
        {
            Margins[m] = new float[count];
        }
    }

    private FaultSamples(FaultSamples all, int[] which)
    {
        (Vehicles, Solved, Weights, Blown) = (Of(all.Vehicles), Of(all.Solved), Of(all.Weights), Of(all.Blown));
        (_numbers, _decided, Margins) = (Array.ConvertAll(all._numbers, Of), Array.ConvertAll(all._decided, Of), Array.ConvertAll(all.Margins, Of));

        T[] Of<T>(T[] values) => values.Length == 0 ? values : Array.ConvertAll(which, i => values[i]);
    }

    /// <summary>How many samples.</summary>
    public int Count => Vehicles.Length;
    /// <summary>By sample: which vehicle it is.</summary>
    public int[] Vehicles { get; }
    /// <summary>Whether a sample's circuits were solved; those that were not are left out and counted.</summary>
    public bool[] Solved { get; }
    /// <summary>How many evenly drawn vehicles each stands for; they sum to about as many as there are.</summary>
    public float[] Weights { get; }
    /// <summary>By sample: a number for the fuses that are blown.</summary>
    internal int[] Blown { get; }
    /// <summary>By margin and sample: how far an answer is from turning; let go when the densities are measured.</summary>
    internal float[][] Margins { get; set; }
    /// <summary>Bytes held.</summary>
    public long Bytes => _numbers.Sum(n => 4L * n.Length) + _decided.Sum(d => (long)d.Length) + 13L * Count;

    /// <summary>A test's numbers on its reading scale, by sample; empty when it is answered by a choice.</summary>
    public ReadOnlySpan<float> Numbers(int test) => _numbers[test];

    /// <summary>A test's answers that the simulated state decides, by sample, or <see cref="FaultTable.Undecided"/>.</summary>
    public ReadOnlySpan<byte> Decided(int test) => _decided[test];

    /// <summary>Keeps what a test reads on a sample, on its reading scale.</summary>
    internal void Keep(int test, int sample, float number) => _numbers[test][sample] = number;

    /// <summary>Keeps what a test is answered on a sample.</summary>
    internal void Keep(int test, int sample, byte answer) => _decided[test][sample] = answer;

    /// <summary>Without the room that was not needed.</summary>
    internal FaultSamples Trimmed(int vehicles) =>
        new(this, [.. Enumerable.Range(0, Count).Where(i => i < vehicles || Weights[i] > 0)]);

    /// <summary>
    /// What is rare: for each answer, and each set of fuses that can be blown, that is there in less than a tenth of the vehicles that
    /// were solved so far, the samples in which it is. Its share hangs on few of them.
    /// </summary>
    internal IEnumerable<int[]> Rare()
    {
        int[] solved = [.. Enumerable.Range(0, Count).Where(i => Solved[i])];
        var whole = solved.Sum(i => Weights[i]);
        bool IsRare(float part) => part > 0 && part < RareShare * whole;
        var parts = new float[byte.MaxValue + 1];
        foreach (var answers in _decided.Where(d => d.Length > 0))
        {
            Array.Clear(parts);
            foreach (var i in solved)
            {
                parts[answers[i]] += Weights[i];
            }

            for (var a = 0; a < parts.Length; a++)
            {
                if (IsRare(parts[a]))
                {
                    yield return Array.FindAll(solved, i => answers[i] == a);
                }
            }
        }

        foreach (var group in solved.GroupBy(i => Blown[i]).Where(group => IsRare(group.Sum(i => Weights[i]))))
        {
            yield return [.. group];
        }
    }

    /// <summary>
    /// What no sample gives but some nearly do, so that it is not told as rare as can be: for each such answer the samples that are
    /// near it. Its share hangs on how near they happen to be. Nothing before margins are measured.
    /// </summary>
    internal IEnumerable<int[]> Near()
    {
        int[] solved = [.. Enumerable.Range(0, Count).Where(i => Solved[i])];
        double Average(Func<int, double> value) => solved.Sum(i => Weights[i] * value(i)) / solved.Sum(i => (double)Weights[i]);
        foreach (var margins in Margins)
        {
            if (Array.Exists(solved, i => margins[i] > 0) || Array.TrueForAll(solved, i => margins[i] == margins[solved[0]]))
            {
                continue;
            }

            var mean = Average(i => margins[i]);
            var deviation = Math.Sqrt(Average(i => (margins[i] - mean) * (margins[i] - mean)));
            if (Average(i => AnswerMargins.Given(margins[i], deviation)) > FaultDensity.Rarest)
            {
                yield return Array.FindAll(solved, i => AnswerMargins.Given(margins[i], deviation) > 0);
            }
        }
    }
}
