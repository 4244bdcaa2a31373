namespace Screeline.Core.Diagnosis;

/// <summary>Sampled vehicles that have one fault: what every test would read on each of them.</summary>
public sealed class FaultSamples
{
    private const float Rare = 0.1f;

    private readonly float[][] _numbers;
    private readonly byte[][] _decided;

    /// <summary>Makes room.</summary>
    /// <param name="system">The family.</param>
    /// <param name="count">How many vehicles.</param>
    /// <param name="margins">How many margins of answers there are.</param>
    internal FaultSamples(FaultSystem system, int count, int margins)
    {
        (Count, Solved, Weights, Blown) = (count, new bool[count], new float[count], new int[count]);
        _numbers = [.. system.Tests.Select(t => t.Unit is null ? [] : new float[count])];
        _decided = [.. system.Tests.Select(t => t.Unit is null ? new byte[count] : [])];
        Margins = new float[margins][];
        for (var m = 0; m < margins; m++)
        {
            Margins[m] = new float[count];
        }
    }

    /// <summary>How many vehicles.</summary>
    public int Count { get; }
    /// <summary>Whether a vehicle's circuits were solved; those that were not are left out and counted.</summary>
    public bool[] Solved { get; }
    /// <summary>How many evenly drawn vehicles each stands for; they sum to about as many as there are.</summary>
    public float[] Weights { get; }
    /// <summary>By vehicle: a number for the fuses that are blown.</summary>
    internal int[] Blown { get; }
    /// <summary>By margin and vehicle: how far an answer is from turning; let go when the densities are measured.</summary>
    internal float[][] Margins { get; set; }
    /// <summary>Bytes held.</summary>
    public long Bytes => _numbers.Sum(n => 4L * n.Length) + _decided.Sum(d => (long)d.Length) + 9L * Count;

    /// <summary>A test's numbers on its reading scale, by vehicle; empty when it is answered by a choice.</summary>
    public ReadOnlySpan<float> Numbers(int test) => _numbers[test];

    /// <summary>A test's answers that the simulated state decides, by vehicle, or <see cref="FaultTable.Undecided"/>.</summary>
    public ReadOnlySpan<byte> Decided(int test) => _decided[test];

    /// <summary>Keeps what a test reads on a vehicle, on its reading scale.</summary>
    internal void Keep(int test, int vehicle, float number) => _numbers[test][vehicle] = number;

    /// <summary>Keeps what a test is answered on a vehicle.</summary>
    internal void Keep(int test, int vehicle, byte answer) => _decided[test][vehicle] = answer;

    /// <summary>
    /// Whether a share hangs on few of these vehicles: something that can be answered, or a set of fuses that can be blown, is there in
    /// less than a tenth of those that were solved so far.
    /// </summary>
    internal bool HasRare
    {
        get
        {
            int[] solved = [.. Enumerable.Range(0, Count).Where(i => Solved[i])];
            var whole = solved.Sum(i => Weights[i]);
            bool IsRare(float part) => part > 0 && part < Rare * whole;
            var parts = new float[byte.MaxValue + 1];
            foreach (var answers in _decided.Where(d => d.Length > 0))
            {
                Array.Clear(parts);
                foreach (var i in solved)
                {
                    parts[answers[i]] += Weights[i];
                }

                if (parts.Any(IsRare))
                {
                    return true;
                }
            }

            return solved.GroupBy(i => Blown[i]).Any(group => IsRare(group.Sum(i => Weights[i])));
        }
    }
}
