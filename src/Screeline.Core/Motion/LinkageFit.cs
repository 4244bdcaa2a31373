using MathNet.Numerics.LinearAlgebra;

namespace Screeline.Core.Motion;

/// <summary>A length or angle of a linkage that can be sought.</summary>
public enum LinkageLength
{
    /// <summary>The crank, mm.</summary>
    Crank,
    /// <summary>A rocker's link, mm.</summary>
    Link,
    /// <summary>A rocker's lever, mm.</summary>
    Lever,
    /// <summary>An arm's direction against its lever, degrees.</summary>
    ArmAngle,
    /// <summary>The crank's angle at park, degrees.</summary>
    ParkAngle,
}

/// <summary>Something sought.</summary>
/// <param name="What">What.</param>
/// <param name="Rocker">Whose; −1 for the crank.</param>
/// <param name="Guess">A first value, for example measured with a rule on the vehicle.</param>
/// <param name="Spread">How far off that may be, one standard error.</param>
public sealed record Sought(LinkageLength What, int Rocker, double Guess, double Spread);

/// <summary>What an arm was seen to do.</summary>
public enum ArmSeen
{
    /// <summary>Its direction at park, degrees.</summary>
    AtPark,
    /// <summary>Its direction at the lower end of the sweep, degrees.</summary>
    AtLow,
    /// <summary>Its direction at the upper end, degrees.</summary>
    AtHigh,
    /// <summary>The angle it sweeps, degrees.</summary>
    Sweep,
}

/// <summary>One measurement to fit to.</summary>
/// <param name="What">What.</param>
/// <param name="Rocker">Whose arm.</param>
/// <param name="Value">Degrees.</param>
/// <param name="Error">Standard error, degrees.</param>
public sealed record ArmMeasured(ArmSeen What, int Rocker, double Value, double Error);

/// <summary>Something found.</summary>
/// <param name="Sought">What was sought.</param>
/// <param name="Value">Its value.</param>
/// <param name="Error">Standard error that remains.</param>
public sealed record Fitted(Sought Sought, double Value, double Error)
{
    /// <summary>Whether the measurements say more of it than the guess did.</summary>
    public bool IsFixed => Error < 0.7 * Sought.Spread;
}

/// <summary>The fit.</summary>
/// <param name="Linkage">The linkage found.</param>
/// <param name="Found">What was sought, with what remains uncertain.</param>
/// <param name="Misfit">Root mean square of the distances from the measurements, in standard errors.</param>
public sealed record LinkageFound(WiperLinkage Linkage, IReadOnlyList<Fitted> Found, double Misfit);

/// <summary>
/// Missing lengths from what can be measured on the vehicle: least squares with the guesses as measurements of their own, by
/// Levenberg and Marquardt's damping (D. W. Marquardt 1963, from memory), the uncertainty from the curvature at the best point.
/// </summary>
public static class LinkageFit
{
    /// <summary>Fits.</summary>
    /// <param name="linkage">The linkage with the guesses or anything else at the places sought.</param>
    /// <param name="sought">What is sought, at least one thing.</param>
    /// <param name="measured">What was measured.</param>
    /// <exception cref="MotionException">No linkage near the guesses goes round.</exception>
    public static LinkageFound Fit(WiperLinkage linkage, IReadOnlyList<Sought> sought, IReadOnlyList<ArmMeasured> measured)
    {
        var start = sought.Select(s => s.Guess).ToArray();
        if (Left(linkage, sought, measured, start) is not { } left)
        {
            throw new MotionException("With these guesses the linkage does not go round: nothing to start from.");
        }

        var (values, damping) = (start, 1e-3);
        var slopes = Slopes(linkage, sought, measured, values, left);
        for (var turn = 0; turn < 60 && damping < 1e9; turn++)
        {
            var normal = slopes.TransposeThisAndMultiply(slopes);
            var downhill = slopes.TransposeThisAndMultiply(left);
            var damped = normal + Matrix<double>.Build.DenseOfDiagonalArray([.. normal.Diagonal().Select(d => damping * d)]);
            var step = damped.Solve(downhill);
            var next = values.Select((v, i) => v + step[i]).ToArray();
            if (Left(linkage, sought, measured, next) is { } there && there * there < left * left)
            {
                var gain = left * left - there * there;
                (values, left, damping) = (next, there, damping / 5);
                slopes = Slopes(linkage, sought, measured, values, left);
                if (gain < 1e-9 * (1 + left * left))
                {
                    break;
                }
            }
            else
            {
                damping *= 6;
            }
        }

        var covariance = slopes.TransposeThisAndMultiply(slopes).Inverse();
        var misfit = measured.Count == 0 ? 0 : Math.Sqrt(left.Take(measured.Count).Sum(x => x * x) / measured.Count);
        return new LinkageFound(With(linkage, sought, values), [.. sought.Select((s, i) => new Fitted(s, values[i], Math.Sqrt(covariance[i, i])))], misfit);
    }

    private static WiperLinkage With(WiperLinkage linkage, IReadOnlyList<Sought> sought, double[] values)
    {
        foreach (var (s, value) in sought.Zip(values))
        {
            linkage = s.What switch
            {
                LinkageLength.Crank => linkage with { Crank = value },
                LinkageLength.ParkAngle => linkage with { Park = [value, .. linkage.Park.Skip(1)] },
                _ => linkage with
                {
                    Rockers = [.. linkage.Rockers.Select((r, i) => i != s.Rocker ? r : s.What switch
                    {
                        LinkageLength.Link => r with { Link = value },
                        LinkageLength.Lever => r with { Lever = value },
                        _ => r with { Arm = r.Arm with { Angle = value } },
                    })],
                },
            };
        }

        return linkage;
    }

    // Distances of measurements and guesses in standard errors; null where the linkage does not go round.
    private static Vector<double>? Left(WiperLinkage linkage, IReadOnlyList<Sought> sought, IReadOnlyList<ArmMeasured> measured, double[] values)
    {
        try
        {
            var there = With(linkage, sought, values);
            if (there.Crank < 0 || there.Rockers.Any(r => r.Link < 0 || r.Lever < 0))
            {
                return null;
            }

            var sweeps = measured.Where(m => m.What != ArmSeen.AtPark).Select(m => m.Rocker).Distinct().ToDictionary(r => r, there.SweepOf);
            var park = measured.Any(m => m.What == ArmSeen.AtPark) ? there.At(there.Park[0]) ?? throw new MotionException("does not reach") : null;
            return Vector<double>.Build.DenseOfEnumerable(
            [
                .. measured.Select(m => (m.Value - (m.What switch
                {
                    ArmSeen.AtPark => park!.Rockers[m.Rocker].ArmDegrees,
                    ArmSeen.AtLow => sweeps[m.Rocker].Low,
                    ArmSeen.AtHigh => sweeps[m.Rocker].High,
                    _ => sweeps[m.Rocker].Angle,
                })) / m.Error),
                .. sought.Select((s, i) => (s.Guess - values[i]) / s.Spread),
            ]);
        }
        catch (MotionException)
        {
            return null;
        }
    }

    private static Matrix<double> Slopes(WiperLinkage linkage, IReadOnlyList<Sought> sought, IReadOnlyList<ArmMeasured> measured, double[] values, Vector<double> left)
    {
        var slopes = Matrix<double>.Build.Dense(left.Count, values.Length);
        for (var i = 0; i < values.Length; i++)
        {
            var step = 1e-3 * sought[i].Spread;
            double[] moved = [.. values];
            moved[i] += step;
            // At the very edge of what goes round only the other side can be seen.
            if (Left(linkage, sought, measured, moved) is not { } there)
            {
                moved[i] -= 2 * step;
                step = -step;
                there = Left(linkage, sought, measured, moved) ?? throw new MotionException("The linkage found only just goes round: measure more.");
            }

            slopes.SetColumn(i, (left - there) / step);
        }

        return slopes;
    }
}
