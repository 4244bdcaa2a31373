using System.Numerics;
using MathNet.Numerics.LinearAlgebra;
using Reals = MathNet.Numerics.LinearAlgebra.Vector<double>;

namespace Screeline.Core.Motion;

/// <summary>A weight on the rotor.</summary>
/// <param name="Grams">Its mass, g.</param>
/// <param name="Degrees">Where it sits, from the mark on the rotor, in the direction the angles are numbered.</param>
public readonly record struct RotorWeight(double Grams, double Degrees)
{
    /// <summary>As a vector: mass times direction.</summary>
    public Complex Vector => Complex.FromPolarCoordinates(Grams, Degrees * Math.PI / 180);

    /// <summary>The weight of a vector; angle from 0 up to 360.</summary>
    public static RotorWeight FromVector(Complex vector)
    {
        var degrees = vector.Phase * 180 / Math.PI;
        return new RotorWeight(vector.Magnitude, degrees < 0 ? degrees + 360 : degrees);
    }
}

/// <summary>A run of the rotor.</summary>
/// <param name="Amplitude">Vibration at shaft speed, in any unit that is the same for all runs.</param>
/// <param name="Weights">What sat on the rotor besides itself.</param>
public sealed record BalanceRun(double Amplitude, IReadOnlyList<RotorWeight> Weights)
{
    /// <summary>All weights together.</summary>
    public Complex Weight => Weights.Aggregate(Complex.Zero, (sum, w) => sum + w.Vector);
}

/// <summary>
/// Single-plane balancing without a phase reading. A run shows A = k·|u + w|: the rotor's imbalance u and the weights w on it,
/// both as vectors in grams at the radius of the weights, times an influence k. Three runs with a trial weight at three angles and
/// one without fix k and u; further runs, with the correction on, make them better (the method of the intersecting circles; J. P. Den
/// Hartog, "Mechanical Vibrations", 1956, section 6.4, from memory).
/// </summary>
/// <param name="Imbalance">u, g at the radius of the weights.</param>
/// <param name="Influence">k, amplitude for each gram.</param>
/// <param name="Misfit">Root mean square of what the circles miss each other by, as a share of the first amplitude.</param>
/// <param name="Runs">The runs it was worked out from.</param>
public sealed record Balance(Complex Imbalance, double Influence, double Misfit, IReadOnlyList<BalanceRun> Runs)
{
    /// <summary>Above this share the circles do not meet: the amplitudes are not at shaft speed, or the trial weight moved (common practice, no source).</summary>
    public const double LargestMisfit = 0.1;

    /// <summary>The weight that takes the imbalance away, instead of all weights on the rotor now.</summary>
    public RotorWeight Correction => RotorWeight.FromVector(-Imbalance);

    /// <summary>The weight to add to what was on the rotor in the last run.</summary>
    public RotorWeight Addition => RotorWeight.FromVector(-Imbalance - Runs[^1].Weight);

    /// <summary>Imbalance that the last run shows, g at the radius of the weights.</summary>
    public double LeftInLastRun => Runs[^1].Amplitude / Influence;

    /// <summary>Whether the trial weight changed the amplitude enough to tell anything: at least by a fifth in one run (common practice, no source).</summary>
    public bool TrialTells => Runs.Skip(1).Any(r => Math.Abs(r.Amplitude - Runs[0].Amplitude) > 0.2 * Runs[0].Amplitude);

    /// <summary>Works it out.</summary>
    /// <param name="runs">The run as found first, then at least three with weights in three different directions.</param>
    /// <exception cref="MotionException">The runs do not fix it; the message says why.</exception>
    public static Balance FromRuns(IReadOnlyList<BalanceRun> runs)
    {
        if (runs.Count < 4)
        {
            throw new MotionException("One run as found and three with a weight are needed.");
        }

        if (runs[0].Amplitude <= 0)
        {
            throw new MotionException("As found it does not vibrate: nothing to balance.");
        }

        // A² = c0 + cx·wx + cy·wy + k²·|w|², linear in what is sought: a start that needs no guess.
        var rows = Matrix<double>.Build.Dense(runs.Count, 4);
        for (var i = 0; i < runs.Count; i++)
        {
            var w = runs[i].Weight;
            rows.SetRow(i, [1, w.Real, w.Imaginary, w.Magnitude * w.Magnitude]);
        }

        if (rows.TransposeThisAndMultiply(rows) is var square && square.ConditionNumber() > 1e13)
        {
            throw new MotionException("The weights must sit at three different angles.");
        }

        var c = rows.Solve(Reals.Build.DenseOfEnumerable(runs.Select(r => r.Amplitude * r.Amplitude)));
        var k = Math.Sqrt(Math.Max(c[3], 1e-12));
        if (c[3] <= 0)
        {
            throw new MotionException("With the weight on, the vibration falls all round: these amplitudes cannot belong together.");
        }

        var u = new Complex(c[1], c[2]) / (2 * c[3]);
        (u, k) = Refine(runs, u, k);
        var misfit = Math.Sqrt(runs.Sum(r => Math.Pow(r.Amplitude - k * (u + r.Weight).Magnitude, 2)) / runs.Count) / runs[0].Amplitude;
        return new Balance(u, k, misfit, runs);
    }

    // Least squares on the amplitudes themselves: Gauss-Newton on ux, uy and k.
    private static (Complex, double) Refine(IReadOnlyList<BalanceRun> runs, Complex u, double k)
    {
        for (var turn = 0; turn < 30; turn++)
        {
            var slopes = Matrix<double>.Build.Dense(runs.Count, 3);
            var left = Reals.Build.Dense(runs.Count);
            for (var i = 0; i < runs.Count; i++)
            {
                var at = u + runs[i].Weight;
                var size = Math.Max(1e-9, at.Magnitude);
                slopes.SetRow(i, [k * at.Real / size, k * at.Imaginary / size, size]);
                left[i] = runs[i].Amplitude - k * size;
            }

            var step = slopes.QR().Solve(left);
            if (step.Any(double.IsNaN))
            {
                break;
            }

            (u, k) = (u + new Complex(step[0], step[1]), Math.Max(1e-12, k + step[2]));
            if (step.L2Norm() < 1e-12 * (1 + u.Magnitude))
            {
                break;
            }
        }

        return (u, k);
    }

    /// <summary>A weight shared by the two blades nearest to its place.</summary>
    /// <param name="weight">The weight.</param>
    /// <param name="blades">Number of blades, evenly spaced; at least 3.</param>
    /// <param name="first">Angle of the first blade, degrees.</param>
    public static IReadOnlyList<(int Blade, RotorWeight Weight)> Split(RotorWeight weight, int blades, double first = 0)
    {
        var pitch = 360.0 / blades;
        var before = (int)Math.Floor((weight.Degrees - first) / pitch);
        var into = weight.Degrees - first - before * pitch;
        double Sin(double degrees) => Math.Sin(degrees * Math.PI / 180);
        int Number(int n) => ((n % blades) + blades) % blades;
        RotorWeight At(int n, double share) => new(weight.Grams * share, first + Number(n) * pitch);
        return
        [
            (Number(before) + 1, At(before, Sin(pitch - into) / Sin(pitch))),
            (Number(before + 1) + 1, At(before + 1, Sin(into) / Sin(pitch))),
        ];
    }
}

/// <summary>Balance grades of ISO 21940-11: G is the permissible imbalance's speed, mm/s.</summary>
public static class BalanceGrade
{
    /// <summary>The grades of the standard's table 1 (from memory).</summary>
    public static IReadOnlyList<double> Grades { get; } = [0.4, 1, 2.5, 6.3, 16, 40, 100, 250];
    /// <summary>The grade of fans.</summary>
    public const double Fans = 6.3;

    /// <summary>Permissible residual imbalance, g·mm: 9549 · G · m / n (ISO 21940-11:2016, formula 6, from memory).</summary>
    /// <param name="grade">G, mm/s.</param>
    /// <param name="kilograms">Mass of the rotor.</param>
    /// <param name="revolutionsPerMinute">Highest service speed.</param>
    public static double Permissible(double grade, double kilograms, double revolutionsPerMinute) => 9549 * grade * kilograms / revolutionsPerMinute;

    /// <summary>The G that an imbalance comes to, mm/s.</summary>
    public static double Reached(double gramMillimetres, double kilograms, double revolutionsPerMinute) => gramMillimetres * revolutionsPerMinute / (9549 * kilograms);
}

/// <summary>What a vibration comes from, by how it grows with speed.</summary>
public enum VibrationSource
{
    /// <summary>Too few speeds, or too close together.</summary>
    MoreSpeeds,
    /// <summary>It grows with the square of speed: imbalance.</summary>
    Imbalance,
    /// <summary>It hardly grows with speed: bearing, rubbing, looseness.</summary>
    Bearing,
    /// <summary>It has a peak at one speed: something there is in resonance.</summary>
    Resonance,
    /// <summary>Neither.</summary>
    Unclear,
}

/// <summary>How a vibration grows with speed: amplitude = c · nᵖ, by least squares on the logarithms. For acceleration, as a phone reads it.</summary>
/// <param name="Source">What that speaks for.</param>
/// <param name="Power">p; NaN with too few speeds.</param>
/// <param name="Error">Its standard error.</param>
public sealed record VibrationGrowth(VibrationSource Source, double Power, double Error)
{
    /// <summary>Judges amplitudes at speeds.</summary>
    /// <param name="points">Speed in rev/min and amplitude, both above nothing.</param>
    public static VibrationGrowth Judge(IReadOnlyList<(double Speed, double Amplitude)> points)
    {
        var sorted = points.OrderBy(p => p.Speed).ToList();
        if (sorted.Count < 3 || sorted[^1].Speed < 1.5 * sorted[0].Speed)
        {
            return new VibrationGrowth(VibrationSource.MoreSpeeds, double.NaN, double.NaN);
        }

        var (x, y) = (sorted.Select(p => Math.Log(p.Speed)).ToArray(), sorted.Select(p => Math.Log(p.Amplitude)).ToArray());
        var (mx, my) = (x.Average(), y.Average());
        var square = x.Sum(v => (v - mx) * (v - mx));
        var power = x.Zip(y).Sum(p => (p.First - mx) * (p.Second - my)) / square;
        var left = x.Zip(y).Sum(p => Math.Pow(p.Second - my - power * (p.First - mx), 2));
        // Nobody reads an amplitude to better than a tenth.
        var error = Math.Sqrt(Math.Max(left / Math.Max(1, x.Length - 2), 0.01) / square);
        var peak = Enumerable.Range(1, sorted.Count - 2).Any(i => sorted[i].Amplitude > 1.3 * sorted[i + 1].Amplitude && sorted[i].Amplitude > 1.3 * sorted[i - 1].Amplitude);
        var source = peak ? VibrationSource.Resonance
            : Math.Abs(power - 2) <= Math.Max(0.5, 2 * error) && power - 2 * error > 0.8 ? VibrationSource.Imbalance
            : power + error < 1.2 ? VibrationSource.Bearing
            : VibrationSource.Unclear;
        return new VibrationGrowth(source, power, error);
    }

    /// <summary>What it speaks for, and why, in words.</summary>
    public (string What, string Because) Words => Source switch
    {
        VibrationSource.Imbalance => ("Imbalance", $"Because it grows as speed to the power of {SettingVerdict.Number(Power, 1)}; imbalance grows with the square."),
        VibrationSource.Bearing => ("Not imbalance: bearing, rubbing or looseness", $"Because it grows only as speed to the power of {SettingVerdict.Number(Power, 1)}. A chirp or growl is heard as well."),
        VibrationSource.Resonance => ("Something resonates at one speed", "Because there is a peak and less beyond it: a loose bracket or housing. Hold it and look whether the peak goes."),
        VibrationSource.MoreSpeeds => ("More speeds: at least three, the highest half as fast again as the lowest", "Because two points always lie on some curve."),
        _ => ("Not clear", $"Because it grows as speed to the power of {SettingVerdict.Number(Power, 1)}, between what imbalance and bearings do."),
    };
}
