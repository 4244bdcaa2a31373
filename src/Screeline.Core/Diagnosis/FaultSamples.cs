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
    internal FaultSamples(FaultSystem system, int vehicles, int times)
    {
        var count = times * vehicles;
        (Vehicles, Solved, Weights, Blown) = ([.. Enumerable.Range(0, count).Select(i => i % vehicles)], new bool[count], new float[count], new int[count]);
        _numbers = [.. system.Tests.Select(t => t.Unit is null ? [] : new float[count])];
        _decided = [.. system.Tests.Select(t => t.Unit is null ? new byte[count] : [])];
    }

    private FaultSamples(FaultSamples all, int[] which)
    {
        (Vehicles, Solved, Weights, Blown) = (Of(all.Vehicles), Of(all.Solved), Of(all.Weights), Of(all.Blown));
        (_numbers, _decided) = (Array.ConvertAll(all._numbers, Of), Array.ConvertAll(all._decided, Of));

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
    /// <summary>By margin and sample: how far an answer is from turning; there from when margins are measured until the densities are.</summary>
    internal float[][] Margins { get; set; } = [];
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

    /// <summary>Some of them.</summary>
    internal FaultSamples Only(int[] which) => new(this, which);

    /// <summary>Those that were solved.</summary>
    internal int[] WhichSolved() => [.. Enumerable.Range(0, Count).Where(i => Solved[i])];

    /// <summary>
    /// What is rare: for each answer, and each set of fuses that can be blown, that is there in less than a tenth of the vehicles that
    /// were solved so far, the samples in which it is. Its share hangs on few of them.
    /// </summary>
    internal IEnumerable<int[]> Rare()
    {
        var solved = WhichSolved();
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
        var solved = WhichSolved();
        var whole = solved.Sum(i => (double)Weights[i]);
        foreach (var margins in Margins)
        {
            var (isGiven, varies, mean) = (false, false, 0.0);
            foreach (var i in solved)
            {
                isGiven |= margins[i] > 0;
                varies |= margins[i] != margins[solved[0]];
                mean += Weights[i] * (double)margins[i];
            }

            if (isGiven || !varies)
            {
                continue;
            }

            mean /= whole;
            var (square, share) = (0.0, 0.0);
            foreach (var i in solved)
            {
                square += Weights[i] * ((margins[i] - mean) * (margins[i] - mean));
            }

            var deviation = Math.Sqrt(square / whole);
            foreach (var i in solved)
            {
                share += Weights[i] * AnswerMargins.Given(margins[i], deviation);
            }

            if (share / whole > FaultDensity.Rarest)
            {
                yield return Array.FindAll(solved, i => AnswerMargins.Given(margins[i], deviation) > 0);
            }
        }
    }
}
