using Screeline.Core.Diagnosis;

namespace Screeline.Core.Tests;

/// <summary>The arithmetic of beliefs against textbook formulas, on the shipped families.</summary>
public sealed class BeliefTests
{
    public static TheoryData<string> Families => [.. JobStory.Library.Systems.Select(s => s.Id)];

    private static readonly VehicleSetting Usual = VehicleSetting.Usual.With(VehicleSetting.Volts, 12);

    private static int Test(FaultSystem system, string id) => system.Tests.ToList().FindIndex(t => t.Id == id);

    /// <summary>
    /// The likelihood of readings is a sum over components of normal densities (as in any handbook: 1/(2π√D)·exp(−½ dᵀΣ⁻¹d)), three
    /// times the instrument's error added, or the reading is an outlier; and beside the faults stands what is not known.
    /// </summary>
    [Theory]
    [InlineData("starting", "battery-cranking", "ground-drop-cranking", 10.4, 0.6)]
    [InlineData("starting", "battery-cranking", "cable-drop-cranking", 11.9, 2.5)]
    [InlineData("charging", "idle-volts", "loaded-volts", 13.1, 12.6)]
    [InlineData("blower", "plug-volts", "ground-drop", 7.5, 4.8)]
    [InlineData("wiper", "fuse-far-side", "low-current", 12.5, 4.0)]
    public void Readings_have_the_likelihood_of_a_mixture_of_normal_densities(string family, string first, string second, double one, double other)
    {
        var system = JobStory.Library.System(family)!;
        var table = FaultTable.Build(system, Usual, 256);
        var (a, b) = (Test(system, first), Test(system, second));
        var (x, y) = (table.Scales[a].To(one), table.Scales[b].To(other));
        var faults = Enumerable.Range(0, system.Faults.Count).Where(f => !system.Faults[f].IsIntermittent).ToArray();
        const double kept = 1 - Reading.Outlier;
        Check([new Observation(a, one, [])], c => kept * One(x - c.Mean(V(a)), c.Covariance(V(a), V(a)) + 9) + Outlier(a));
        Check([new Observation(b, other, [])], c => kept * One(y - c.Mean(V(b)), c.Covariance(V(b), V(b)) + 9) + Outlier(b));
        Check([new Observation(b, other, []), new Observation(a, one, [])], Two);

        int V(int test) => table.Variable[test];
        double Outlier(int t) => Reading.Outlier * table.Anywhere[t];
        static double One(double away, double variance) => Math.Exp(-0.5 * away * away / variance) / Math.Sqrt(2 * Math.PI * variance);
        double Two(MixtureComponent d)
        {
            var (va, vb, c) = (d.Covariance(V(a), V(a)) + 9, d.Covariance(V(b), V(b)) + 9, d.Covariance(V(a), V(b)));
            var (dx, dy, determinant) = (x - d.Mean(V(a)), y - d.Mean(V(b)), va * vb - c * c);
            var both = Math.Exp(-0.5 * (dx * dx * vb - 2 * dx * dy * c + dy * dy * va) / determinant) / (2 * Math.PI * Math.Sqrt(determinant));
            return kept * kept * both + kept * One(dx, va) * Outlier(b) + kept * One(dy, vb) * Outlier(a) + Outlier(a) * Outlier(b);
        }

        void Check(Observation[] observations, Func<MixtureComponent, double> likelihood)
        {
            var beliefs = new Beliefs(table, ShopHistory.None.Priors(system), observations);
            var expected = faults.Select(f => table.Components[f].Sum(c => PriorOf(f, c) * likelihood(c))).ToArray();
            var got = faults.Select(f => beliefs.ByFault[f]).ToArray();
            for (var i = 0; i < faults.Length; i++)
            {
                // What is under a thousandth of a component's likeliest explanation is not followed.
                Assert.True(Math.Abs(expected[i] / expected.Sum() - got[i] / got.Sum()) < 2e-3, $"{observations.Length} readings, {system.Faults[faults[i]].Id}: {got[i] / got.Sum():0.00000} instead of {expected[i] / expected.Sum():0.00000}");
            }
        }

        double PriorOf(int fault, MixtureComponent c)
        {
            var priors = ShopHistory.None.Priors(system);
            return table.Configurations[c.Configuration].Share * priors[fault] / priors.Where((_, f) => table.Applies[c.Configuration][f]).Sum() * c.Weight;
        }
    }

    /// <summary>A reading taken away leaves what was believed before it, whichever it is (leave-one-out; Rasmussen and Williams 2006, section 5.4.2, from memory).</summary>
    [Theory]
    [MemberData(nameof(Families))]
    public void Without_a_reading_is_as_if_it_had_never_been_taken(string family)
    {
        var system = JobStory.Library.System(family)!;
        var table = FaultTable.Build(system, Usual, 256);
        var random = new Random(9);
        for (var i = 0; i < 6; i++)
        {
            var observations = Some(table, random, 5);
            var all = new Beliefs(table, ShopHistory.None.Priors(system), observations);
            for (var o = 0; o < all.Observations.Count; o++)
            {
                var before = new Beliefs(table, ShopHistory.None.Priors(system), all.Observations.Where((_, k) => k != o));
                // Nearly: of each component only the likeliest explanations are asked.
                Assert.All(before.ByFault.Zip(all.ByFaultWithout(o)), x => Assert.Equal(x.First, x.Second, 1e-9));
            }
        }
    }

    /// <summary>All words of a complaint together make nothing more than thirty times likelier against anything else.</summary>
    [Theory]
    [MemberData(nameof(Families))]
    public void Complaint_words_weigh_thirty_to_one_at_most(string family)
    {
        var system = JobStory.Library.System(family)!;
        var table = FaultTable.Build(system, Usual, 128);
        var prior = new Beliefs(table, ShopHistory.None.Priors(system), []);
        foreach (var b in system.Behaviours.Where(b => system.Test(b.Test)!.Measure != Measure.Attempts))
        {
            var c = new FindCase(system, 12, [.. system.Behaviours.Where(x => x == b || x.Test != b.Test).Select(x => x.Id)], []);
            var told = new DiagnosisEngine(table).BeliefsOf(c with { Behaviours = [b.Id] }, ShopHistory.None);
            var ratios = told.ByFault.Zip(prior.ByFault).Where(x => x.Second > 1e-9).Select(x => x.First / x.Second).Append(told.Unknown / prior.Unknown).ToList();
            Assert.InRange(ratios.Max() / ratios.Min(), 1, Beliefs.ComplaintWeighs + 1e-6);
        }
    }

    /// <summary>Something that is not known always has a chance, and leads where nothing known fits.</summary>
    [Theory]
    [MemberData(nameof(Families))]
    public void What_is_not_known_is_a_hypothesis_of_its_own(string family)
    {
        var system = JobStory.Library.System(family)!;
        var table = FaultTable.Build(system, Usual, 128);
        var nothing = new Beliefs(table, ShopHistory.None.Priors(system), []);
        Assert.Equal(Beliefs.PriorOfUnknown, nothing.Unknown, 9);
        Assert.Equal(1, nothing.ByRepair.Sum() + nothing.Unknown, 9);
        // Numbers at random: no vehicle gives these.
        var random = new Random(4);
        var wild = Enumerable.Range(0, 20).Select(_ => new Beliefs(table, ShopHistory.None.Priors(system), [.. table.NumberTests.Take(9).Select(t => new Observation(t, Anything(t), []))])).ToList();
        Assert.All(wild, b => Assert.Equal(1, b.ByRepair.Sum() + b.Unknown, 9));
        Assert.InRange(wild.Count(b => b.Outlying > DiagnosisEngine.DoubtFrom), 18, 20);

        double Anything(int t) => system.Tests[t] is { Plausible: { } p, Unit: { } unit } test ? (double)(unit.ToBase(p.Low + (decimal)random.NextDouble() * (p.High - p.Low)) * test.Scale(12)) : 0;
    }

    /// <summary>What is expected of a reading follows one that was taken: a deep drop across the ground goes with little left for the motor.</summary>
    [Fact]
    public void A_reading_changes_what_is_expected_of_the_others()
    {
        var system = JobStory.Library.System("blower")!;
        var table = FaultTable.Build(system, Usual);
        var ground = system.Repairs.ToList().FindIndex(r => r.Id == "ground");
        double Expected(double drop) => table.Scales[Test(system, "plug-volts")].From(new Beliefs(table, ShopHistory.None.Priors(system), [new Observation(Test(system, "ground-drop"), drop, [])]).Expected(Test(system, "plug-volts"), ground));
        Assert.True(Expected(2) > Expected(6) + 2, $"{Expected(2):0.0} V after 2 V, {Expected(6):0.0} V after 6 V");
        var beliefs = new Beliefs(table, ShopHistory.None.Priors(system), []);
        Assert.Equal(1, beliefs.ChanceBetween(Test(system, "plug-volts"), double.NegativeInfinity, double.PositiveInfinity, ground), 6);
        Assert.True(beliefs.ChanceBetween(Test(system, "plug-volts"), 0, 100, ground) <= beliefs.ChanceBetween(Test(system, "plug-volts"), 0, 200, ground));
    }

    // Readings as one component gives them on the average.
    private static List<Observation> Some(FaultTable table, Random random, int count)
    {
        var component = table.Components.SelectMany(c => c).ElementAt(random.Next(table.Components.Sum(c => c.Count)));
        return [.. table.NumberTests.OrderBy(_ => random.Next()).Take(count).Select(t => new Observation(t, table.Scales[t].From(component.Mean(table.Variable[t])), []))];
    }
}
