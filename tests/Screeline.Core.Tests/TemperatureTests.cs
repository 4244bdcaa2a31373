using Screeline.Core.Circuits;
using Screeline.Core.Diagnosis;
using Screeline.Core.Quantities;

namespace Screeline.Core.Tests;

/// <summary>Temperature belongs to a reading: what was read in the yard in the frost and what was read in the shop stand beside each other.</summary>
public sealed class TemperatureTests
{
    private const int Few = 128;

    public static TheoryData<string> Families => [.. JobStory.Library.Systems.Select(s => s.Id)];

    private static VehicleSetting Setting(double celsius) => new VehicleSetting(new Dictionary<string, double>(), celsius).With(VehicleSetting.Volts, 12);

    private static Evidence At(double? celsius) => new("battery-rest", new Figure(12.6m, Units.Volt), null, celsius);

    [Theory]
    [InlineData(20, "", "20")]
    [InlineData(20, "none none", "20")]
    [InlineData(20, "18 23 24.6", "20 25")]
    [InlineData(20, "-12.4 -11.6 -12 -9", "20 -12")]
    [InlineData(-5, "20 20 40 40 -30", "-5 20 40")]
    [InlineData(21.5, "16.4", "21.5 16")]
    public void Readings_a_few_degrees_apart_count_as_taken_at_one_temperature(double now, string readings, string expected)
    {
        var setting = Setting(now).ReadAt(readings.Split(' ', StringSplitOptions.RemoveEmptyEntries).Select(r => At(r == "none" ? null : double.Parse(r, System.Globalization.CultureInfo.InvariantCulture))));
        Assert.Equal(expected, string.Join(' ', setting.Temperatures.Select(t => t.ToString(System.Globalization.CultureInfo.InvariantCulture))));
        Assert.Equal(0, setting.At(null));
        Assert.All(setting.Temperatures.Index(), t => Assert.Equal(t.Index, setting.At(t.Item)));
        Assert.Equal(now - 10, (setting with { Celsius = now - 10 }).Temperatures[0]);
    }

    /// <summary>The same vehicles are read at each temperature: what a table of two says of one is what the table of that one says.</summary>
    [Theory]
    [MemberData(nameof(Families))]
    public void A_table_of_two_temperatures_reads_at_each_what_a_table_of_that_one_reads(string family)
    {
        var system = JobStory.Library.System(family)!;
        var both = FaultTable.Build(system, Setting(20).ReadAt([At(-15)]), Few);
        foreach (var (place, celsius) in new[] { (0, 20.0), (1, -15.0) })
        {
            var one = FaultTable.Build(system, Setting(celsius), Few);
            for (var f = 0; f < system.Faults.Count; f++)
            {
                foreach (var test in one.NumberTests)
                {
                    double Mean(FaultTable table, int variable) => table.Components[f].Sum(c => table.Configurations[c.Configuration].Share * c.Weight * c.Mean(variable));
                    Assert.Equal(Mean(one, one.Variable[test]), Mean(both, both.VariableAt(test, place)), 1e-3 * Math.Max(1, Math.Abs(Mean(one, one.Variable[test]))));
                    if (system.Faults[f].IsIntermittent)
                    {
                        Assert.Equal(Mean(one, one.Numbers + one.Variable[test]), Mean(both, both.Numbers + both.VariableAt(test, place)), 1e-3 * Math.Max(1, Math.Abs(Mean(one, one.Numbers + one.Variable[test]))));
                    }
                }
            }
        }
    }

    /// <summary>
    /// A sound vehicle that was tried in the frost before it was brought in: read as what it is, it is sound; had the frosty readings been taken in
    /// the shop, the battery would be weak (common practice, no source).
    /// </summary>
    [Fact]
    public void What_was_read_in_the_frost_is_judged_by_the_frost()
    {
        var system = JobStory.Library.System("starting")!;
        Judgement Judged(double? celsius)
        {
            var cold = Reads(system, -20, celsius, "battery-cranking", "cranking-current", "battery-load");
            var warm = Reads(system, 20, null, "battery-rest", "cable-drop-cranking", "ground-drop-cranking");
            FindCase c = new(system, 12, [], [.. cold, .. warm]);
            return new DiagnosisEngine(FaultTable.Build(system, Setting(20).ReadAt(c.Readings))).Judge(new Inquiry(c));
        }

        var (told, untold) = (Judged(-20), Judged(null));
        Assert.True(told.Repairs.First(r => r.Repair.Nothing).Probability > 2 * untold.Repairs.First(r => r.Repair.Nothing).Probability, $"{told.Repairs.First(r => r.Repair.Nothing).Probability:0.000}, {untold.Repairs.First(r => r.Repair.Nothing).Probability:0.000}");
        var load = told.Evidence.Single(e => e.Test?.Id == "battery-load");
        Assert.InRange(load.Value!.Value, load.ExpectedLow!.Value, load.ExpectedHigh!.Value);
        Assert.DoesNotContain(told.Evidence, e => e.Outlier > 0.2);
    }

    /// <summary>The least good voltage under load falls as in the load-test table (as in <see cref="Battery.LoadTestVolts"/>, common practice).</summary>
    [Theory]
    [InlineData(null)]
    [InlineData(30.0)]
    [InlineData(10.0)]
    [InlineData(-1.0)]
    [InlineData(-12.0)]
    [InlineData(-18.0)]
    public void A_cold_battery_may_read_less_under_load(double? celsius)
    {
        var test = JobStory.Library.System("starting")!.Test("battery-load")!;
        Assert.Equal(Battery.LoadTestVolts(celsius ?? 20), (double)test.Good!.LowAt(celsius)!.Value, 0.15);
        Assert.True(test.IsGood(new Figure(test.Good.LowAt(celsius)!.Value, Units.Volt), null, 12, _ => null, celsius));
        Assert.False(test.IsGood(new Figure(2 * test.Good.LowAt(celsius)!.Value - 0.1m, Units.Volt), null, 24, _ => null, celsius));
        Assert.Equal(celsius < 20, test.GoodWords(12, celsius).Contains("°C", StringComparison.Ordinal));
    }

    // What a sound vehicle in the middle of its ranges reads.
    private static IEnumerable<Evidence> Reads(FaultSystem system, double celsius, double? told, params string[] tests)
    {
        var circuit = new SampledCircuit(system);
        var row = SystemTests.Draw(system, circuit, Setting(celsius), system.Faults[0], [.. system.Parameters.Select(_ => 0.5)]);
        Assert.True(circuit.TrySolve(row));
        foreach (var id in tests)
        {
            var test = system.Test(id)!;
            yield return new Evidence(id, new Figure(decimal.Round(test.Unit!.FromBase((decimal)circuit.Number(system.Tests.ToList().IndexOf(test), row, row)), 2), test.Unit), null, told);
        }
    }
}
