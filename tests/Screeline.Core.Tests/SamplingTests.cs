using Screeline.Core.Circuits;
using Screeline.Core.Diagnosis;

namespace Screeline.Core.Tests;

/// <summary>Where sampled vehicles lie. The properties of orthogonal arrays are from memory (Hedayat, Sloane, Stufken 1999).</summary>
public class SamplingTests
{
    [Theory]
    [InlineData(3)]
    [InlineData(5)]
    [InlineData(7)]
    [InlineData(9)]
    [InlineData(11)]
    public void Every_column_takes_each_place_once_and_each_row_has_its_mirror_image(int levels)
    {
        var columns = SamplePlaces.Of(levels * levels + levels + 4, levels, 1);
        var rows = levels * levels * levels;
        foreach (var column in columns)
        {
            Assert.Equal(Enumerable.Range(0, rows).Select(i => (i + 0.5) / rows), column.Order(), (a, b) => Math.Abs(a - b) < 1e-12);
        }

        string Row(int row, bool mirrored) => string.Join(' ', columns.Select(c => (int)(rows * (mirrored ? 1 - c[row] : c[row]))));
        Assert.Equal(Enumerable.Range(0, rows).Select(r => Row(r, false)).ToHashSet(), Enumerable.Range(0, rows).Select(r => Row(r, true)).ToHashSet());
    }

    /// <summary>Strength two: any two columns take each pair of levels equally often.</summary>
    [Theory]
    [InlineData(3)]
    [InlineData(5)]
    [InlineData(7)]
    [InlineData(9)]
    public void Two_columns_take_each_pair_of_levels_equally_often(int levels)
    {
        var columns = SamplePlaces.Of(levels * levels + levels + 1, levels, 2);
        for (var a = 0; a < columns.Length; a++)
        {
            for (var b = 0; b < a; b++)
            {
                Assert.All(columns[a].Zip(columns[b]).CountBy(x => (Level(x.First, levels), Level(x.Second, levels))), pair => Assert.Equal(levels, pair.Value));
            }
        }
    }

    /// <summary>Strength three on the conic: any three columns take each triple of levels once.</summary>
    [Theory]
    [InlineData(3)]
    [InlineData(5)]
    [InlineData(7)]
    [InlineData(9)]
    public void Three_of_the_first_columns_take_each_triple_of_levels_once(int levels)
    {
        var columns = SamplePlaces.Of(levels + 1, levels, 3);
        for (var a = 0; a < columns.Length; a++)
        {
            for (var b = 0; b < a; b++)
            {
                for (var c = 0; c < b; c++)
                {
                    var triples = Enumerable.Range(0, columns[0].Length).Select(r => (Level(columns[a][r], levels), Level(columns[b][r], levels), Level(columns[c][r], levels)));
                    Assert.Equal(columns[0].Length, triples.Distinct().Count());
                }
            }
        }
    }

    /// <summary>Columns laid out once serve whoever wants fewer.</summary>
    [Theory]
    [InlineData(7)]
    [InlineData(9)]
    public void Fewer_columns_are_the_first_of_more(int levels) =>
        Assert.Equal(SamplePlaces.Of(64, levels, 5)[..20], SamplePlaces.Of(20, levels, 5));

    /// <summary>What two parameters do together is averaged with far less chance than by as many plain draws.</summary>
    [Fact]
    public void What_two_parameters_do_together_is_averaged_well()
    {
        // The mean of (x - 1/2)(y - 1/2) is 0, that of its square 1/144.
        var columns = SamplePlaces.Of(20, 7, 4);
        var products = from a in Enumerable.Range(0, columns.Length) from b in Enumerable.Range(0, a) select columns[a].Zip(columns[b], (x, y) => (x - 0.5) * (y - 0.5)).ToArray();
        double Deviation(Func<double[], double> error) => Math.Sqrt(products.Average(p => error(p) * error(p)));
        // Plain draws deviate by 1/12 and by the root of (144/80)² - 1 over the root of 343: 0.0045 and 0.081.
        Assert.True(Deviation(p => p.Average()) < 0.0045 / 3, $"{Deviation(p => p.Average())}");
        Assert.True(Deviation(p => 144 * p.Average(x => x * x) - 1) < 0.081 / 3, $"{Deviation(p => 144 * p.Average(x => x * x) - 1)}");
    }

    [Theory]
    [InlineData(0)]
    [InlineData(2)]
    [InlineData(1)]
    [InlineData(4)]
    [InlineData(6)]
    [InlineData(25)]
    [InlineData(27)]
    public void There_must_be_a_field_of_so_many_levels(int levels) =>
        Assert.Equal("levels", Assert.Throws<ArgumentOutOfRangeException>(() => SamplePlaces.Of(3, levels, 1)).ParamName);

    /// <summary>Whatever the density, weights make up for it: averages over the range stay what they are.</summary>
    [Fact]
    public void Weights_make_up_for_the_density_of_a_range()
    {
        var random = new Random(5);
        for (var i = 0; i < 50; i++)
        {
            var numbers = Enumerable.Range(0, 17).Select(_ => new[] { random.NextDouble() * random.Next(40) }).ToArray();
            var answers = Enumerable.Range(0, 17).Select(k => new[] { (byte)(k * random.NextDouble() > 6 ? 1 : 0) }).ToArray();
            var rare = Enumerable.Range(0, random.Next(4)).Select(_ => (random.NextDouble(), random.NextDouble())).ToArray();
            var range = FaultRange.Of(numbers, answers).Toward(rare);
            var drawn = Enumerable.Range(0, 20_000).Select(k => range.At((k + 0.5) / 20_000)).ToArray();
            Assert.Equal(1, drawn.Average(d => d.Weight), 2);
            Assert.Equal(1.0 / 3, drawn.Average(d => d.Weight * d.Place * d.Place), 2);
            Assert.All(drawn, d => Assert.InRange(d.Place, 0, 1));
            Assert.Equal(drawn.Select(d => d.Place).Order(), drawn.Select(d => d.Place));
        }
    }

    [Fact]
    public void A_range_is_sampled_most_where_answers_turn_and_evenly_where_nothing_changes()
    {
        byte[][] Turning(int at) => [.. Enumerable.Range(0, 17).Select(k => new[] { (byte)(k > at ? 1 : 0) })];
        double[][] still = [.. Enumerable.Range(0, 17).Select(_ => new[] { 3.0 })];
        var range = FaultRange.Of(still, Turning(2));
        var places = Enumerable.Range(0, 1000).Select(k => range.At((k + 0.5) / 1000)).ToArray();
        Assert.True(places.Count(p => p.Place is > 2 / 16.0 and < 3 / 16.0) > 2 * 1000 / 16);
        Assert.All(places.Where(p => p.Place is > 2 / 16.0 and < 3 / 16.0), p => Assert.True(p.Weight < 0.5));

        var even = FaultRange.Of(still, Turning(99));
        Assert.All(Enumerable.Range(0, 100).Select(k => (Drawn: k / 100.0, Got: even.At(k / 100.0))), x =>
        {
            Assert.Equal(x.Drawn, x.Got.Place, 9);
            Assert.Equal(1, x.Got.Weight, 9);
        });
    }

    [Fact]
    public void A_range_is_sampled_more_where_something_rare_was_seen()
    {
        var range = FaultRange.Of([.. Enumerable.Range(0, 17).Select(_ => new[] { 3.0 })], [.. Enumerable.Range(0, 17).Select(_ => new byte[] { 0 })]);
        var places = Enumerable.Range(0, 1000).Select(k => range.Toward([(1, 0.5), (0.99, 0.5)]).At((k + 0.5) / 1000)).ToArray();
        Assert.True(places.Count(p => p.Place > 15 / 16.0) > 2 * 1000 / 16, $"{places.Count(p => p.Place > 15 / 16.0)}");
        Assert.True(places.Count(p => p.Place is > 13 / 16.0 and < 14 / 16.0) > 1.2 * 1000 / 16, "Beside it, too.");
        Assert.InRange(places.Count(p => p.Place < 0.5), 0.7 * 1000 / 2, 1000 / 2);
        Assert.Same(range, range.Toward([]));
    }

    /// <summary>A share that is told by few vehicles hangs on which were drawn: what is rare is looked for where a first few vehicles show it.</summary>
    [Theory]
    [InlineData("starting", "discharged")]
    [InlineData("starting", "flat-and-worn")]
    [InlineData("wiper", "water-and-ground")]
    [InlineData("window", "dry")]
    public void Rare_answers_are_told_by_more_vehicles_than_their_share(string family, string fault)
    {
        var system = JobStory.Library.System(family)!;
        var samples = FaultTable.Build(system, VehicleSetting.Usual.With(VehicleSetting.Volts, 12)).Samples[system.Faults.ToList().FindIndex(f => f.Id == fault)];
        var whole = samples.Weights.Sum();
        Assert.InRange(whole / samples.Vehicles.Distinct().Count(), 0.98, 1.02);
        var rare = Enumerable.Range(0, system.Tests.Count).Where(t => system.Tests[t].Unit is null)
            .SelectMany(t => Enumerable.Range(0, samples.Count).GroupBy(i => samples.Decided(t)[i])).Select(seen => seen.Select(i => samples.Weights[i]).ToArray())
            .Where(seen => seen.Sum() / whole is > 0.005f and < 0.1f).ToList();
        Assert.NotEmpty(rare);
        Assert.All(rare, seen => Assert.True(seen.Average() < 1.1, $"{seen.Length} samples, each for {seen.Average():0.00}"));
        Assert.Contains(rare, seen => seen.Average() < 0.8);
    }

    /// <summary>What a flat battery's rest voltage tells of its chattering is the same, however densely its charge is sampled where something turns.</summary>
    [Fact]
    public void Margins_do_not_hang_on_how_densely_a_range_is_sampled()
    {
        var system = JobStory.Library.System("starting")!;
        int Place<T>(IReadOnlyList<T> all, Func<T, bool> which) => all.ToList().FindIndex(x => which(x));
        var (heard, rest, fault) = (Place(system.Tests, t => t.Id == "start-heard"), Place(system.Tests, t => t.Id == "battery-rest"), Place(system.Faults, f => f.Id == "discharged"));
        // With as many coarse vehicles as fine ones no range is sharpened.
        var tables = new[] { Sampling.Usual, new Sampling(13, 13) }.Select(s => FaultTable.Build(system, VehicleSetting.Usual.With(VehicleSetting.Volts, 12), s)).ToArray();
        Assert.NotEqual(tables[0].Samples[fault].Weights.Max(), tables[1].Samples[fault].Weights.Max(), 0.1f);
        var correlations = tables.Select(table =>
        {
            var chatter = table.FirstMargin[heard] + Place(system.Tests[heard].Choices, c => c.Id == "chatter");
            var density = Assert.Single(table.Densities[fault]);
            return density.Covariance(chatter, rest) / Math.Sqrt(density.Covariance(rest, rest) * density.Covariance(chatter, chatter));
        }).ToArray();
        Assert.InRange(Math.Abs(correlations[0]), 0.2, 1);
        Assert.Equal(correlations[1], correlations[0], 0.03);
    }

    /// <summary>Where something is answered, or a fuse blown, in less than a tenth, and where two things are set in the circuit, the fine sampling is taken.</summary>
    [Theory]
    [MemberData(nameof(SystemTests.Families), MemberType = typeof(SystemTests))]
    public void What_is_rare_is_sampled_by_more_vehicles(string family)
    {
        var system = JobStory.Library.System(family)!;
        var table = FaultTable.Build(system, VehicleSetting.Usual.With(VehicleSetting.Volts, 12), new Sampling(5, 7));
        var circuit = new SampledCircuit(system);
        Assert.Equal(343, table.Samples[0].Count);
        Assert.Contains(table.Samples, s => s.Count == 125);
        for (var f = 1; f < system.Faults.Count; f++)
        {
            var samples = table.Samples[f];
            Assert.Equal(table.Applies[f], samples.Count > 0);
            if (samples.Count == 125)
            {
                Assert.True(system.Faults[f].Set.Count(s => s.Value.Kind != Spread.None && circuit.PartsOf(new HashSet<int> { circuit.Slots[s.Key] }).Length > 0) < 2);
                Assert.All(table.Densities[f], d => Assert.InRange(d.Share, 0.1, 1));
                Assert.All(Enumerable.Range(0, system.Tests.Count).Where(t => system.Tests[t].Unit is null), t =>
                    Assert.All(Enumerable.Range(0, samples.Count).GroupBy(i => samples.Decided(t)[i]), a => Assert.InRange(a.Sum(i => samples.Weights[i]) / samples.Weights.Sum(), 0.0999, 1)));
            }
        }
    }

    /// <summary>
    /// None of 729 blowers with a burnt plug runs at top speed only, but some are near it: how near they happen to be is no measure of the
    /// share. Told by them, plug and ground were believed 0.202 and 0.125 in this case, with more than four times the vehicles 0.219 and 0.110.
    /// </summary>
    [Fact]
    public void What_is_nearly_answered_is_sampled_by_more_vehicles()
    {
        var system = JobStory.Library.System("blower")!;
        var vehicle = VehicleSetting.Usual.With(VehicleSetting.Volts, 24);
        var (few, many) = (FaultTable.Build(system, vehicle), FaultTable.Build(system, vehicle, new Sampling(17, 17)));
        var (plug, speeds) = (system.Faults.ToList().FindIndex(f => f.Id == "plug"), system.Tests.ToList().FindIndex(t => t.Id == "blower-speeds"));
        var top = system.Tests[speeds].Choices.ToList().FindIndex(c => c.Id == "only-top");
        Assert.Equal(2197, few.Samples[plug].Vehicles.Distinct().Count());
        Assert.InRange(many.Samples[plug].Decided(speeds).ToArray().Count(a => a == top) / 4913.0, 0, 0.05);
        var c = FindTests.CaseOf(system, 24, "only-top", "pack-ohms=5.99;fuse-far-side=25.10") with { Behaviours = ["only-top", "quiet"] };
        double[] By(FaultTable table) => new DiagnosisEngine(table).BeliefsOf(c, ShopHistory.None).ByRepair;
        Assert.All(By(few).Zip(By(many)), b => Assert.Equal(b.Second, b.First, 0.01));
    }

    /// <summary>
    /// Where some fuses bear the current and others blow, a vehicle is told with both and their shares: in all as many as are counted
    /// of vehicles that are drawn at will and have fuses from the one that bears least to the one that bears most.
    /// </summary>
    [Theory]
    [InlineData("fan", "seized")]
    [InlineData("blower", "jammed")]
    [InlineData("wiper", "seized")]
    public void A_fuse_is_blown_in_as_many_vehicles_as_fuses_would_blow(string family, string fault)
    {
        var (system, setting, levels) = (JobStory.Library.System(family)!, VehicleSetting.Usual.With(VehicleSetting.Volts, 12), 7);
        var table = FaultTable.Build(system, setting, new Sampling(levels, levels));
        var f = system.Faults.ToList().FindIndex(x => x.Id == fault);
        var (samples, circuit) = (table.Samples[f], new SampledCircuit(system));
        var byVehicle = Enumerable.Range(0, samples.Count).GroupBy(i => samples.Vehicles[i]).ToArray();
        Assert.Equal(343, byVehicle.Length);
        Assert.All(byVehicle, v => Assert.Equal(1, v.Sum(i => (double)samples.Weights[i]), 5));

        var (random, fuses, vehicles, counted) = (new Random(5), circuit.Slots.Fuses().ToArray(), 600, 0);
        for (var i = 0; i < vehicles; i++)
        {
            var row = SystemTests.Draw(system, circuit, setting, system.Faults[f], [.. system.Parameters.Select(_ => random.NextDouble())]);
            Assert.True(circuit.TrySolve(row, null, Fuse.Least + (Fuse.Most - Fuse.Least) * (i + 0.5) / vehicles));
            counted += fuses.Any(slot => row[slot] != 0) ? 1 : 0;
        }

        var farSide = system.Tests.ToList().FindIndex(t => t.Id == "fuse-far-side");
        var blown = table.Densities[f].Where(d => table.Scales[farSide].From(d.Mean(farSide)) < 1).Sum(d => d.Share);
        var error = Math.Sqrt(blown * (1 - blown) / vehicles);
        Assert.InRange(counted / (double)vehicles, blown - 4 * error, blown + 4 * error);
        Assert.InRange(byVehicle.Count(v => v.Count() == 2), blown is > 0.001 and < 0.999 ? 1 : 0, byVehicle.Length);
    }

    private static int Level(double place, int levels) => (int)(place * levels);
}
