using Screeline.Core.Circuits;
using Screeline.Core.Diagnosis;

namespace Screeline.Core.Tests;

/// <summary>How vehicles are sampled and grouped into the components of a fault's mixture.</summary>
public sealed class SamplingTests
{
    private static readonly VehicleSetting Usual = VehicleSetting.Usual.With(VehicleSetting.Volts, 12);

    /// <summary>What makes a Latin hypercube: each column takes each of its places once (McKay, Beckman and Conover 1979); each row has its mirror image.</summary>
    [Theory]
    [InlineData(2)]
    [InlineData(64)]
    [InlineData(768)]
    public void A_latin_hypercube_takes_each_place_once_and_has_mirror_images(int rows)
    {
        var columns = LatinHypercube.Of(7, rows, 3);
        Assert.All(columns, c => Assert.Equal(Enumerable.Range(0, rows).Select(k => (k + 0.5) / rows), c.Order(), (a, b) => Math.Abs(a - b) < 1e-12));
        Assert.All(Enumerable.Range(0, rows), r => Assert.All(columns, c => Assert.Equal(1, c[r] + c[rows - 1 - r], 12)));
        Assert.Equal(columns[..3], LatinHypercube.Of(3, rows, 3));
        Assert.Equal("rows", Assert.Throws<ArgumentOutOfRangeException>(() => LatinHypercube.Of(2, rows + 1, 1)).ParamName);
    }

    [Theory]
    [MemberData(nameof(SystemTests.Families), MemberType = typeof(SystemTests))]
    public void Weights_of_components_sum_to_one_in_each_configuration(string family)
    {
        var table = FaultTable.Build(JobStory.Library.System(family)!, Usual, 128);
        Assert.Equal(1, table.Configurations.Sum(c => c.Share), 9);
        for (var f = 0; f < table.System.Faults.Count; f++)
        {
            for (var c = 0; c < table.Configurations.Count; c++)
            {
                Assert.Equal(table.Applies[c][f] ? 1 : 0, table.Components[f].Where(x => x.Configuration == c).Sum(x => x.Weight), 6);
            }

            Assert.All(table.Components[f], c => Assert.All(Enumerable.Range(0, table.System.Tests.Count).Select(c.Answers).OfType<double[]>(), a => Assert.Equal(1, a.Sum(), 6)));
        }
    }

    /// <summary>What nobody stated is a mixture; what is stated may be wrong once in fifty; what changes nothing is no choice.</summary>
    [Fact]
    public void Equipment_that_nobody_stated_is_a_mixture()
    {
        var blower = JobStory.Library.System("blower")!;
        double[] Shares(VehicleSetting setting) => [.. FaultTable.Build(blower, setting, 64).Configurations.Select(c => c.Share)];
        Assert.Equal([0.6, 0.4], Shares(Usual), (a, b) => Math.Abs(a - b) < 1e-9);
        Assert.Equal([0.02, 0.98], Shares(Usual.With("control", 1)), (a, b) => Math.Abs(a - b) < 1e-9);
        // A button and a key make the same circuit.
        Assert.DoesNotContain(FaultTable.Build(JobStory.Library.System("starting")!, Usual, 64).Configurations, c => c.Choices.ContainsKey("button"));
        // Only a pack can have its link open.
        var table = FaultTable.Build(blower, Usual, 64);
        Assert.All(table.Components[blower.Faults.ToList().FindIndex(f => f.Id == "link")], c => Assert.Equal(0, table.Configurations[c.Configuration].Choices["control"]));
    }

    /// <summary>A joint's components run from just noticeable to open, each decade of severity with its share.</summary>
    [Fact]
    public void A_joint_is_sampled_from_just_noticeable_to_open()
    {
        var system = JobStory.Library.System("wiper")!;
        var table = FaultTable.Build(system, Usual.With("relay_kind", 0));
        var (f, t) = (system.Faults.ToList().FindIndex(x => x.Id == "ground"), system.Tests.ToList().FindIndex(x => x.Id == "ground-drop"));
        var drops = table.Components[f].Where(c => c.Configuration == 0).Select(c => (Volts: table.Scales[t].From(c.Mean(table.Variable[t])), c.Weight)).ToList();
        foreach (var (low, high) in new[] { (0.15, 0.7), (0.7, 3.0), (3.0, 11.0), (11.0, 13.0) })
        {
            Assert.InRange(drops.Where(d => d.Volts > low && d.Volts <= high).Sum(d => d.Weight), 0.05, 0.9);
        }
    }

    /// <summary>A fuse bears 1.1 to 1.6 times its rating: in as many components it is blown as in vehicles drawn at will.</summary>
    [Theory]
    [InlineData("fan", "seized")]
    [InlineData("blower", "jammed")]
    [InlineData("wiper", "seized")]
    public void A_fuse_is_blown_in_as_many_vehicles_as_fuses_would_blow(string family, string fault)
    {
        var system = JobStory.Library.System(family)!;
        var setting = system.VehicleParameters.Where(p => p.Choices.Count > 0).Aggregate(Usual, (s, p) => s.With(p.Id, 0));
        var table = FaultTable.Build(system, setting);
        var (f, circuit) = (system.Faults.ToList().FindIndex(x => x.Id == fault), new SampledCircuit(system));
        var (random, fuses, vehicles, counted) = (new Random(5), circuit.Slots.Regime().Where(r => !r.IsSpeed).Select(r => r.Slot).ToArray(), 600, 0);
        var blownSlots = system.States.SelectMany(s => system.Circuit.Where(p => p.Kind == "fuse").Select(p => circuit.Slots.Find($"blown.{p.Id}", s.Id)!.Value)).ToArray();
        Assert.NotEmpty(fuses);
        for (var i = 0; i < vehicles; i++)
        {
            var row = SystemTests.Draw(system, circuit, setting, system.Faults[f], [.. system.Parameters.Select(_ => random.NextDouble())]);
            Assert.True(circuit.TrySolve(row, null, Fuse.Least + (Fuse.Most - Fuse.Least) * (i + 0.5) / vehicles));
            counted += blownSlots.Any(slot => row[slot] != 0) ? 1 : 0;
        }

        var farSide = table.Variable[system.Tests.ToList().FindIndex(t => t.Id == "fuse-far-side")];
        var scale = table.Scales[system.Tests.ToList().FindIndex(t => t.Id == "fuse-far-side")];
        var configuration = table.Configurations.Select((c, i) => (c.Share, i)).MaxBy(c => c.Share).i;
        var blown = table.Components[f].Where(c => c.Configuration == configuration && scale.From(c.Mean(farSide)) < 1).Sum(c => c.Weight);
        var error = Math.Sqrt(blown * (1 - blown) / vehicles) + 0.01;
        Assert.InRange(counted / (double)vehicles, blown - 4 * error, blown + 4 * error);
    }
}
