using MathNet.Numerics.Distributions;
using MathNet.Numerics.LinearAlgebra;

namespace Screeline.Core.Motion;

/// <summary>What can be wrong with a wiper's setting.</summary>
public enum SettingFault
{
    /// <summary>Nothing: what was measured is as it should be.</summary>
    None,
    /// <summary>The crank sits at the wrong angle on the motor's shaft.</summary>
    CrankAngle,
    /// <summary>A reversing motor goes between other ends than it should.</summary>
    LearnedEnds,
    /// <summary>An arm sits whole teeth off on its knurl.</summary>
    ArmTooth,
    /// <summary>An arm sits a little off on its taper.</summary>
    ArmFine,
    /// <summary>A wrong or bent crank.</summary>
    CrankLength,
    /// <summary>A wrong or bent link.</summary>
    LinkLength,
    /// <summary>A wrong or bent lever.</summary>
    LeverLength,
    /// <summary>A wrong arm or blade, for example left for right.</summary>
    WrongArm,
    /// <summary>A worn joint: the arm goes here and there by its play.</summary>
    WornJoint,
}

/// <summary>One thing that is off, and by how much.</summary>
/// <param name="Fault">What.</param>
/// <param name="Arm">Whose; −1 for the crank.</param>
/// <param name="Amount">Degrees for angles, teeth for a knurl, mm for lengths; 0 for a worn joint.</param>
/// <param name="Error">Its standard error.</param>
public sealed record SettingChange(SettingFault Fault, int Arm, double Amount, double Error);

/// <summary>One explanation of what was measured.</summary>
/// <param name="Changes">What is off: one thing, or two; none when nothing is.</param>
/// <param name="Probability">Against the other explanations.</param>
/// <param name="Linkage">The linkage as it would stand now.</param>
/// <param name="Misfit">Sum of the squared distances from what was measured, in standard errors.</param>
/// <param name="Freedom">Measurements more than things fitted.</param>
/// <param name="After">What each measurement should be once this is put right.</param>
public sealed record SettingCause(IReadOnlyList<SettingChange> Changes, double Probability, WiperLinkage Linkage, double Misfit, int Freedom, IReadOnlyList<double> After)
{
    /// <summary>Chance of as bad a fit or worse, were this the cause; 1 when nothing is left to judge it by.</summary>
    public double ChanceOfMisfit => Freedom <= 0 ? 1 : 1 - ChiSquared.CDF(Freedom, Misfit);
}

/// <summary>What to measure next to tell the first explanations apart.</summary>
/// <param name="What">What.</param>
/// <param name="Arm">On which arm.</param>
/// <param name="First">What it would be by the first explanation.</param>
/// <param name="Second">And by the second.</param>
public sealed record NextMeasure(TipMeasure What, int Arm, double First, double Second);

/// <summary>The answer.</summary>
/// <param name="Causes">The likeliest first.</param>
/// <param name="FitsNone">Whether nothing known explains what was measured.</param>
/// <param name="Next">What would tell the first two apart, or null.</param>
/// <param name="Expected">What each measurement would be on a right vehicle.</param>
public sealed record SettingAnswer(IReadOnlyList<SettingCause> Causes, bool FitsNone, NextMeasure? Next, IReadOnlyList<double> Expected);

/// <summary>
/// "What do I turn, and by how much?" Each cause moves the measurements in a way of its own, by the linkage. With normal errors and
/// a normal spread of how far each thing can be off, the chance of what was measured is a normal density whose covariance is the
/// errors' and the cause's together (the linear Gaussian model; C. M. Bishop, "Pattern Recognition and Machine Learning", 2006,
/// section 2.3.3, from memory). Causes are ranked by it, one or two at a time; the amount is then fitted on the linkage itself.
/// </summary>
public static class SettingFinder
{
    // How often each thing is met, and how far it is off (common practice, no source).
    private static readonly Dictionary<SettingFault, (double Weight, double Spread)> Usual = new()
    {
        [SettingFault.CrankAngle] = (0.22, 8), [SettingFault.LearnedEnds] = (0.15, 8), [SettingFault.ArmTooth] = (0.2, 0), [SettingFault.ArmFine] = (0.12, 1.2),
        [SettingFault.CrankLength] = (0.03, 3), [SettingFault.LinkLength] = (0.05, 4), [SettingFault.LeverLength] = (0.03, 3), [SettingFault.WrongArm] = (0.04, 30), [SettingFault.WornJoint] = (0.08, 0),
    };

    private const double Nothing = 0.15;
    private const double Both = 0.3;
    // A worn joint moves an arm's readings each on its own.
    private const double PlayMillimetres = 5;
    private const double PlayDegrees = 1.2;
    // Below this chance of as bad a fit, an explanation explains nothing.
    private const double Unexplained = 0.001;

    private sealed record Candidate(SettingFault Fault, int Arm, double Weight, double Spread, double Fixed);

    /// <summary>Works it out.</summary>
    /// <param name="linkage">The linkage as it should be; must have no faults.</param>
    /// <param name="seen">What was measured, at least one thing.</param>
    public static SettingAnswer Find(WiperLinkage linkage, IReadOnlyList<TipSeen> seen)
    {
        if (seen.Count == 0)
        {
            throw new ArgumentException("nothing was measured", nameof(seen));
        }

        var expected = Predict(linkage, seen)!;
        var off = Vector<double>.Build.DenseOfEnumerable(seen.Select((s, i) => s.Value - expected[i]));
        var errors = seen.Select(s => s.Error * s.Error + Math.Pow(TipSeen.Scatter(s.What, linkage.Rockers[s.Arm].Band), 2)).ToArray();
        var candidates = CandidatesOf(linkage).Select(c => (Candidate: c, Moves: MovesOf(linkage, seen, expected, c))).Where(c => c.Moves is not null).ToList();

        var scored = new List<(Candidate[] Parts, double Score)> { ([], Math.Log(Nothing) + LogDensity(off, errors, [], seen)) };
        for (var i = 0; i < candidates.Count; i++)
        {
            var (one, moves) = candidates[i];
            scored.Add(([one], Math.Log(one.Weight) + LogDensity(off, errors, [(one, moves!)], seen)));
            for (var j = i + 1; j < candidates.Count; j++)
            {
                var (other, others) = candidates[j];
                if (!SameThing(one, other))
                {
                    scored.Add(([one, other], Math.Log(one.Weight * other.Weight * Both) + LogDensity(off, errors, [(one, moves!), (other, others!)], seen)));
                }
            }
        }

        var best = scored.Max(s => s.Score);
        var whole = scored.Sum(s => Math.Exp(s.Score - best));
        var causes = scored.OrderByDescending(s => s.Score).Take(6).Where(s => s.Score > best - 6)
            .Select(s => Fit(linkage, seen, expected, errors, s.Parts, Math.Exp(s.Score - best) / whole)).OfType<SettingCause>().ToList();
        return new SettingAnswer(causes, causes.All(c => c.ChanceOfMisfit < Unexplained), Next(linkage, seen, causes), expected);
    }

    // Two words for what cannot be told apart are no double cause.
    private static bool SameThing(Candidate one, Candidate other)
    {
        static bool IsArm(SettingFault f) => f is SettingFault.ArmTooth or SettingFault.ArmFine;
        static bool IsShift(SettingFault f) => f is SettingFault.CrankAngle or SettingFault.LearnedEnds;
        return (IsShift(one.Fault) && IsShift(other.Fault)) || (IsArm(one.Fault) && IsArm(other.Fault) && one.Arm == other.Arm);
    }

    private static IEnumerable<Candidate> CandidatesOf(WiperLinkage linkage)
    {
        Candidate Of(SettingFault fault, int arm, double share = 1, double set = 0) => new(fault, arm, Usual[fault].Weight * share, Usual[fault].Spread, set);
        var arms = linkage.Rockers.Count;
        if (linkage.Crank > 0 || linkage.Drive == WiperDrive.Reversing)
        {
            yield return Of(SettingFault.CrankAngle, -1);
        }

        if (linkage.Drive == WiperDrive.Reversing)
        {
            yield return Of(SettingFault.LearnedEnds, -1);
        }

        if (linkage.Crank > 0)
        {
            yield return Of(SettingFault.CrankLength, -1);
        }

        for (var r = 0; r < arms; r++)
        {
            foreach (var (teeth, share) in linkage.Rockers[r].Arm.Teeth > 0 ? new[] { (1, 0.35), (-1, 0.35), (2, 0.1), (-2, 0.1), (3, 0.05), (-3, 0.05) } : [])
            {
                yield return Of(SettingFault.ArmTooth, r, share / arms, teeth);
            }

            yield return Of(SettingFault.ArmFine, r, 1.0 / arms);
            yield return Of(SettingFault.WrongArm, r, 1.0 / arms);
            if (!linkage.Rockers[r].IsDirect)
            {
                yield return Of(SettingFault.LinkLength, r, 1.0 / arms);
                yield return Of(SettingFault.LeverLength, r, 1.0 / arms);
                yield return Of(SettingFault.WornJoint, r, 1.0 / arms);
            }
        }
    }

    private static WiperLinkage With(WiperLinkage linkage, Candidate c, double amount) => c.Fault switch
    {
        SettingFault.CrankAngle or SettingFault.LearnedEnds => Change.Crank(linkage, amount),
        SettingFault.ArmTooth => Change.Arm(linkage, c.Arm, amount * linkage.Rockers[c.Arm].Arm.ToothDegrees!.Value),
        SettingFault.ArmFine => Change.Arm(linkage, c.Arm, amount),
        SettingFault.CrankLength => linkage with { Crank = linkage.Crank + amount },
        SettingFault.LinkLength => Change.Link(linkage, c.Arm, amount),
        SettingFault.LeverLength => Change.Lever(linkage, c.Arm, amount),
        SettingFault.WrongArm => Change.Tip(linkage, c.Arm, amount),
        _ => linkage,
    };

    private static double[]? Predict(WiperLinkage linkage, IReadOnlyList<TipSeen> seen)
    {
        try
        {
            return [.. seen.Select(s => s.On(linkage))];
        }
        catch (MotionException)
        {
            // A change that stops the linkage explains no measurement of one that goes.
            return null;
        }
    }

    // What one unit of a cause moves each measurement by; what its teeth move it by; all zero for a worn joint.
    private static Vector<double>? MovesOf(WiperLinkage linkage, IReadOnlyList<TipSeen> seen, double[] expected, Candidate c)
    {
        if (c.Fault == SettingFault.WornJoint)
        {
            return Vector<double>.Build.Dense(seen.Count);
        }

        if (c.Fixed != 0)
        {
            return Predict(With(linkage, c, c.Fixed), seen) is { } toothed ? Vector<double>.Build.DenseOfEnumerable(toothed.Select((p, i) => p - expected[i])) : null;
        }

        var step = 0.1 * c.Spread;
        return Predict(With(linkage, c, step), seen) is { } up && Predict(With(linkage, c, -step), seen) is { } down
            ? Vector<double>.Build.DenseOfEnumerable(up.Select((p, i) => (p - down[i]) / (2 * step))) : null;
    }

    private static double LogDensity(Vector<double> off, double[] errors, (Candidate Part, Vector<double> Moves)[] parts, IReadOnlyList<TipSeen> seen)
    {
        var (left, covariance) = (off, Matrix<double>.Build.DenseDiagonal(off.Count, off.Count, i => errors[i]));
        foreach (var (part, moves) in parts)
        {
            if (part.Fault == SettingFault.WornJoint)
            {
                covariance += Play(part, seen);
            }
            else if (part.Fixed != 0)
            {
                left -= moves;
            }
            else
            {
                covariance += part.Spread * part.Spread * moves.OuterProduct(moves);
            }
        }

        // A cause that moves one reading by metres and another by nothing leaves a matrix that rounding makes indefinite.
        covariance += Matrix<double>.Build.DenseDiagonal(off.Count, off.Count, 1e-10 * covariance.Trace());
        var cholesky = covariance.Cholesky();
        return -0.5 * (left * cholesky.Solve(left) + cholesky.DeterminantLn + off.Count * Math.Log(2 * Math.PI));
    }

    private static Matrix<double> Play(Candidate part, IReadOnlyList<TipSeen> seen) =>
        Matrix<double>.Build.DenseDiagonal(seen.Count, seen.Count, i => seen[i].Arm != part.Arm ? 0 : Math.Pow(seen[i].What == TipMeasure.SweepAngle ? PlayDegrees : PlayMillimetres, 2));

    // Fits the amounts on the linkage itself: Gauss-Newton with the spread as a pull towards nothing.
    private static SettingCause? Fit(WiperLinkage linkage, IReadOnlyList<TipSeen> seen, double[] expected, double[] errors, Candidate[] parts, double probability)
    {
        var free = parts.Where(p => p.Fixed == 0 && p.Fault != SettingFault.WornJoint).ToArray();
        var start = parts.Where(p => p.Fixed != 0).Aggregate(linkage, (l, p) => With(l, p, p.Fixed));
        WiperLinkage At(double[] amounts) => free.Zip(amounts).Aggregate(start, (l, x) => With(l, x.First, x.Second));
        var variances = errors.ToArray();
        foreach (var worn in parts.Where(p => p.Fault == SettingFault.WornJoint))
        {
            var play = Play(worn, seen);
            variances = [.. variances.Select((v, i) => v + play[i, i])];
        }

        var amounts = new double[free.Length];
        var spreads = Array.Empty<double>();
        var predicted = Predict(At(amounts), seen);
        for (var turn = 0; turn < 8 && predicted is not null && free.Length > 0; turn++)
        {
            var slopes = Matrix<double>.Build.Dense(seen.Count, free.Length);
            for (var f = 0; f < free.Length; f++)
            {
                var step = 0.02 * free[f].Spread;
                var moved = amounts.ToArray();
                moved[f] += step;
                if (Predict(At(moved), seen) is not { } there)
                {
                    return null;
                }

                slopes.SetColumn(f, [.. there.Select((p, i) => (p - predicted[i]) / step)]);
            }

            var weight = Matrix<double>.Build.DenseOfDiagonalArray([.. variances.Select(v => 1 / v)]);
            var pull = Matrix<double>.Build.DenseOfDiagonalArray([.. free.Select(f => 1 / (f.Spread * f.Spread))]);
            var normal = slopes.TransposeThisAndMultiply(weight) * slopes + pull;
            var left = Vector<double>.Build.DenseOfEnumerable(seen.Select((s, i) => s.Value - predicted[i]));
            var change = normal.Solve(slopes.TransposeThisAndMultiply(weight) * left - pull * Vector<double>.Build.Dense(amounts));
            amounts = [.. amounts.Select((a, f) => a + Math.Clamp(change[f], -2 * free[f].Spread, 2 * free[f].Spread))];
            spreads = [.. normal.Inverse().Diagonal().Select(Math.Sqrt)];
            predicted = Predict(At(amounts), seen);
            if (change.AbsoluteMaximum() < 1e-4)
            {
                break;
            }
        }

        if (predicted is null)
        {
            return null;
        }

        var changes = parts.Select(p => p.Fixed != 0 ? new SettingChange(p.Fault, p.Arm, p.Fixed, 0)
            : Array.IndexOf(free, p) is >= 0 and var f ? new SettingChange(p.Fault, p.Arm, amounts[f], spreads[f]) : new SettingChange(p.Fault, p.Arm, 0, 0)).ToList();
        var misfit = seen.Select((s, i) => Math.Pow(s.Value - predicted[i], 2) / variances[i]).Sum();
        return new SettingCause(changes, probability, At(amounts), misfit, seen.Count - free.Length, [.. seen.Select((s, i) => s.Value - (predicted[i] - expected[i]))]);
    }

    private static NextMeasure? Next(WiperLinkage linkage, IReadOnlyList<TipSeen> seen, List<SettingCause> causes)
    {
        if (causes.Count < 2)
        {
            return null;
        }

        var open = (from arm in Enumerable.Range(0, linkage.Rockers.Count)
                    from what in Enum.GetValues<TipMeasure>()
                    where !(what == TipMeasure.LowHeight && linkage.Drive == WiperDrive.Reversing)
                    let asked = new TipSeen(what, arm, 0, TipSeen.UsualError(what))
                    where !seen.Any(s => s.IsSame(asked))
                    let told = Predict(causes[0].Linkage, [asked])?[0]
                    let otherwise = Predict(causes[1].Linkage, [asked])?[0]
                    where told is not null && otherwise is not null
                    let apart = Math.Abs(told.Value - otherwise.Value) / Math.Sqrt(asked.Error * asked.Error + Math.Pow(TipSeen.Scatter(what, linkage.Rockers[arm].Band), 2))
                    orderby apart descending
                    select (Next: new NextMeasure(what, arm, told.Value, otherwise.Value), Apart: apart)).ToList();
        return open is [{ Apart: > 1.5 } best, ..] ? best.Next : null;
    }
}
