using Screeline.Core.Diagnosis;

namespace Screeline.Core.Tests;

/// <summary>The arithmetic of beliefs against textbook formulas, on the shipped families.</summary>
public sealed class BeliefTests
{
    public static TheoryData<string> Families => [.. JobStory.Library.Systems.Select(s => s.Id)];

    private static FaultTable Table(FaultSystem system, int levels = 5) => FaultTable.Build(system, VehicleSetting.Usual.With(VehicleSetting.Volts, 12), new Sampling(levels, levels));

    /// <summary>Mean and covariance as every handbook of statistics defines them; where fuses blow in some samples, over them together.</summary>
    [Theory]
    [MemberData(nameof(Families))]
    public void A_density_has_the_means_and_covariances_of_its_samples(string family)
    {
        var table = Table(JobStory.Library.System(family)!);
        var numbers = Enumerable.Range(0, table.System.Tests.Count).Where(t => table.System.Tests[t].Unit is not null).ToArray();
        for (var f = 0; f < table.System.Faults.Count; f++)
        {
            if (!table.Applies[f])
            {
                continue;
            }

            var (densities, samples) = (table.Densities[f], table.Samples[f]);
            Assert.Equal(1, densities.Sum(d => d.Share), 9);
            double[] Values(int t) => [.. Enumerable.Range(0, samples.Count).Where(i => samples.Solved[i]).Select(i => (double)samples.Numbers(t)[i])];
            var weights = Enumerable.Range(0, samples.Count).Where(i => samples.Solved[i]).Select(i => (double)samples.Weights[i]).ToArray();
            double Average(IEnumerable<double> values) => values.Zip(weights).Sum(x => x.First * x.Second) / weights.Sum();
            foreach (var t in numbers)
            {
                var values = Values(t);
                Close(Average(values), densities.Sum(d => d.Share * d.Mean(t)));
                foreach (var other in numbers.Where(o => o <= t))
                {
                    var others = Values(other);
                    var covariance = Average(values.Zip(others, (value, second) => (value - Average(values)) * (second - Average(others))));
                    // What varies within the densities and between them is what varies in all; few samples borrow, so the sum holds for one density only.
                    if (densities.Count == 1)
                    {
                        Close(covariance, densities[0].Covariance(t, other));
                    }

                    Assert.All(densities, d => Assert.Equal(d.Covariance(t, other), d.Covariance(other, t)));
                    Assert.All(densities, d => Assert.True(d.Covariance(t, other) * d.Covariance(t, other) <= d.Covariance(t, t) * d.Covariance(other, other) * (1 + 1e-9) + 1e-6));
                }
            }
        }

        static void Close(double wanted, double got) => Assert.True(Math.Abs(wanted - got) <= 1e-6 * (1 + Math.Abs(wanted)), $"{got} instead of {wanted}");
    }

    /// <summary>
    /// The likelihood of two readings is the bivariate normal density with three times the instrument's error added, mixed with either or both
    /// being slips (the density as in any handbook: 1/(2π√D)·exp(−½ dᵀΣ⁻¹d)).
    /// </summary>
    [Theory]
    [InlineData("starting", "battery-cranking", "ground-drop-cranking", 10.4, 0.6)]
    [InlineData("starting", "battery-cranking", "cable-drop-cranking", 11.9, 2.5)]
    [InlineData("charging", "idle-volts", "loaded-volts", 13.1, 12.6)]
    [InlineData("blower", "plug-volts", "ground-drop", 7.5, 4.8)]
    [InlineData("wiper", "fuse-far-side", "low-current", 12.5, 4.0)]
    public void Two_readings_have_the_bivariate_normal_likelihood(string family, string first, string second, double one, double other)
    {
        var system = JobStory.Library.System(family)!;
        var table = Table(system);
        int Test(string id) => system.Tests.ToList().FindIndex(t => t.Id == id);
        var (a, b) = (Test(first), Test(second));
        var beliefs = new Beliefs(table, ShopHistory.None.Priors(system), [new Observation(b, other, []), new Observation(a, one, [])]);
        var (x, y) = ((double)table.Scales[a].To(one), (double)table.Scales[b].To(other));
        var faults = Enumerable.Range(0, system.Faults.Count).Where(f => table.Applies[f] && !system.Faults[f].IsIntermittent).ToArray();
        // A slip falls anywhere in what a working meter could show.
        double Slip(int t)
        {
            var test = system.Tests[t];
            var (low, high) = ((double)(test.Unit!.ToBase(test.Plausible!.Value.Low) * test.Scale(12)), (double)(test.Unit.ToBase(test.Plausible!.Value.High) * test.Scale(12)));
            return Reading.Slip / Math.Max(1, table.Scales[t].To(high) - table.Scales[t].To(low));
        }

        double Likelihood(int fault) => table.Densities[fault].Sum(d =>
        {
            const double kept = 1 - Reading.Slip;
            var (va, vb, c) = (d.Covariance(a, a) + 9, d.Covariance(b, b) + 9, d.Covariance(a, b));
            var (dx, dy, determinant) = (x - d.Mean(a), y - d.Mean(b), va * vb - c * c);
            double One(double away, double variance) => Math.Exp(-0.5 * away * away / variance) / Math.Sqrt(2 * Math.PI * variance);
            var both = Math.Exp(-0.5 * (dx * dx * vb - 2 * dx * dy * c + dy * dy * va) / determinant) / (2 * Math.PI * Math.Sqrt(determinant));
            return d.Share * (kept * kept * both + kept * One(dx, va) * Slip(b) + kept * One(dy, vb) * Slip(a) + Slip(a) * Slip(b));
        });
        var expected = faults.Select(f => beliefs.Priors[f] * Likelihood(f)).ToArray();
        var got = faults.Select(f => beliefs.ByFault[f]).ToArray();
        for (var i = 0; i < faults.Length; i++)
        {
            Assert.True(Math.Abs(expected[i] / expected.Sum() - got[i] / got.Sum()) < 2e-4, $"{system.Faults[faults[i]].Id}: {got[i] / got.Sum():0.00000} instead of {expected[i] / expected.Sum():0.00000}");
        }
    }

    /// <summary>
    /// The chance of an answer by its margins against the share of the samples that give it, or on which none is decided (counted);
    /// none is rarer than half a per cent, and none surer than all but that.
    /// </summary>
    [Theory]
    [MemberData(nameof(Families))]
    public void Margins_give_the_answers_that_are_counted(string family)
    {
        var system = JobStory.Library.System(family)!;
        var table = Table(system, 7);
        var differences = new List<double>();
        for (var f = 0; f < system.Faults.Count; f++)
        {
            if (!table.Applies[f])
            {
                continue;
            }

            var alone = system.Faults.Select((_, i) => i == f ? 1.0 : 0).ToArray();
            var beliefs = new Beliefs(table, alone, []);
            for (var t = 0; t < system.Tests.Count; t++)
            {
                var test = system.Tests[t];
                if (test.Unit is not null || test.Measure == Measure.Attempts || system.Faults[f].Signs.ContainsKey(test.Id))
                {
                    continue;
                }

                var (decided, weights) = (table.Samples[f].Decided(t).ToArray(), table.Samples[f].Weights);
                double Counted(int answer) => Math.Clamp(decided.Zip(weights).Where(x => x.First == answer).Sum(x => x.Second) / weights.Sum(), 0.005, 0.995);
                var (answers, undecided) = (Enumerable.Range(0, test.Choices.Count).Select(Counted).ToArray(), Counted(FaultTable.Undecided));
                var told = answers.Select((_, a) => beliefs.ChanceOf(t, a, table.RepairOf[f])).ToArray();
                Assert.Equal(1, told.Sum(), 2);
                differences.AddRange(told.Select((chance, a) => Math.Abs(chance - (answers[a] + undecided * table.Chances[t][f][a]) / (answers.Sum() + undecided))));
            }
        }

        Assert.True(differences.Average() < 0.005, $"{differences.Average():0.000} on the average");
        Assert.True(differences.Max() < 0.05, $"{differences.Max():0.000} at most");
    }

    /// <summary>
    /// None of the usual 2,197 vehicles with a bad case ground lights the charge lamp, a few of 12,167 do: what was not drawn is not
    /// impossible. The case ground was believed 0.11 here by the first and 0.53 by the others.
    /// </summary>
    [Fact]
    public void What_no_sampled_vehicle_gives_is_not_taken_for_impossible()
    {
        var system = JobStory.Library.System("charging")!;
        var vehicle = VehicleSetting.Usual.With(VehicleSetting.Volts, 12);
        var c = FindTests.CaseOf(system, 12, "lamp-on", "belt-looked=good;idle-volts=12.88;control-signal=right;lamp-key-on=lit;stud-key-off=12.27;loaded-volts=9.54");
        double[] By(Sampling sampling) => new DiagnosisEngine(FaultTable.Build(system, vehicle, sampling)).BeliefsOf(c, ShopHistory.None).ByRepair;
        var (few, many) = (By(Sampling.Usual), By(new Sampling(9, 23)));
        Assert.InRange(many[system.Repairs.ToList().FindIndex(r => r.Id == "case-ground")], 0.4, 0.6);
        Assert.All(few.Zip(many), b => Assert.Equal(b.Second, b.First, 0.02));
    }

    /// <summary>What is expected of a reading follows one that was taken: a deep drop across the ground goes with little left for the motor.</summary>
    [Fact]
    public void A_reading_changes_what_is_expected_of_the_others()
    {
        var system = JobStory.Library.System("blower")!;
        var table = Table(system);
        int Test(string id) => system.Tests.ToList().FindIndex(t => t.Id == id);
        var ground = system.Repairs.ToList().FindIndex(r => r.Id == "ground");
        double Expected(double drop) => table.Scales[Test("plug-volts")].From(new Beliefs(table, ShopHistory.None.Priors(system), [new Observation(Test("ground-drop"), drop, [])]).Expected(Test("plug-volts"), ground));
        Assert.True(Expected(2) > Expected(6) + 2, $"{Expected(2):0.0} V after 2 V, {Expected(6):0.0} V after 6 V");
        var beliefs = new Beliefs(table, ShopHistory.None.Priors(system), []);
        Assert.Equal(1, beliefs.ChanceBetween(Test("plug-volts"), double.NegativeInfinity, double.PositiveInfinity, ground), 6);
        Assert.True(beliefs.ChanceBetween(Test("plug-volts"), 0, 100, ground) <= beliefs.ChanceBetween(Test("plug-volts"), 0, 200, ground));
    }
}
