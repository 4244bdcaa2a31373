using Screeline.Core.Access;
using Screeline.Core.Diagnosis;
using Screeline.Core.Jobs;
using Screeline.Library.Demo;

namespace Screeline.Library.Tests;

/// <summary>What ships is whole, and the demo keeps the rules that everybody keeps.</summary>
public sealed class ShippedLibraryTests
{
    private static readonly ShippedLibrary Library = ShippedLibrary.Load();
    private static readonly DemoFleet Fleet = DemoFleet.Load();

    [Fact]
    public void Every_family_says_what_to_compare_and_what_can_be_had()
    {
        foreach (var family in Library.Systems.Select(s => s.Id))
        {
            var part = Library.Part(family, "Brannock Tideway")!;
            Assert.True(part.Points.Count >= 3 && part.Offers.Count >= 2, family);
            Assert.All(part.Points, p => Assert.StartsWith("Because ", p.Why, StringComparison.Ordinal));
            Assert.Equal(part.Points.Count, part.Points.Select(p => p.Id).Distinct().Count());
            foreach (var point in part.Points.Where(p => p.Step is not null))
            {
                Assert.Contains(Library.Maps.Where(m => m.Map.Family == family), m => m.Map.Operation(point.Step!)?.Fasteners.Any(f => f.Id == point.Fastener) == true);
            }
        }

        Assert.Null(Library.Part("no-such", "Brannock Tideway"));
        Assert.NotNull(Library.Part("starting", "Orlo Petrel"));
    }

    [Fact]
    public void Tools_that_turn_fasteners_say_which_and_torque_wrenches_have_their_scale()
    {
        Assert.All(Library.Tools.Where(t => t.Id.StartsWith("socket-", StringComparison.Ordinal) || t.Id.StartsWith("bit-", StringComparison.Ordinal) || t.Id.StartsWith("spanner-", StringComparison.Ordinal)), t => Assert.True(t.Drive is not null, t.Id));
        Assert.All(Library.Tools.Where(t => t.Id.StartsWith("torque-wrench-", StringComparison.Ordinal)), t => Assert.True(t.Wrench is { } w && w.Low < w.High && w.Step > 0, t.Id));
        // Every drive in the shipped maps is one that is known.
        foreach (var fastener in Library.Maps.SelectMany(m => m.Map.Operations).SelectMany(o => o.Fasteners).Where(f => f.Drive is not null))
        {
            Assert.True(Core.Fastening.Drive.Read(fastener.Drive).Drive is not null, fastener.Drive);
            Assert.True(fastener.Thread is null || fastener.Metric is not null, fastener.Thread);
        }
    }

    [Fact]
    public void No_torque_in_a_shipped_map_is_one_its_thread_cannot_mean()
    {
        foreach (var fastener in Library.Maps.SelectMany(m => m.Map.Operations).SelectMany(o => o.Fasteners).Where(f => f is { Torque: not null, Metric: not null }))
        {
            Assert.All(fastener.Torque!.All, t => Assert.Null(Core.Fastening.TorqueDoubt.Find(t.Value, fastener.Metric!, fastener.Joint)));
        }
    }

    [Fact]
    public void The_starter_map_holds_what_a_real_job_needs()
    {
        var map = Library.MapsFor("starting", "Brannock Tideway")[0].Map;
        Assert.True(map.Operations.Count >= 15);
        Assert.True(map.RefitSteps.Count >= 2);
        Assert.Contains(map.RefitSteps, s => s.Gate && s.Checks.Count > 0);
        Assert.Contains(map.Operations, o => o.Needs is Needs.All { Of: var of } && of.Any(n => n is Needs.Any));
        Assert.All(map.Operations.SelectMany(o => o.Fasteners).Where(f => f.Torque is not null), f => Assert.NotEmpty(f.Torque!.Source));
        Assert.True(map.Operations.SelectMany(o => o.Fasteners).Select(f => f.Torque?.Value.Unit).Where(u => u is not null).Distinct().Count() > 1, "specified torques keep the unit of their source");
        Assert.Contains(map.Operations, o => o.Leaves.Count > 0);
    }

    [Fact]
    public void Every_caution_and_tool_a_map_names_has_words()
    {
        foreach (var map in Library.Maps.Select(m => m.Map))
        {
            Assert.All(map.Operations.SelectMany(o => o.Cautions).Concat(map.RefitSteps.SelectMany(s => s.Cautions)), c => Assert.NotEqual(c, Library.CautionWords(c)));
            Assert.All(map.Operations.SelectMany(o => o.Tools), t => Assert.NotEqual(t, Library.ToolTitle(t)));
        }
    }

    [Fact]
    public void Whoever_works_underneath_has_the_vehicle_on_stands()
    {
        foreach (var map in Library.Maps.Select(m => m.Map))
        {
            foreach (var operation in map.Operations.Where(o => map.Positions.First(p => p.Id == o.Position).Requires.Contains("vehicle-supported")))
            {
                // Without the operations that provide the state, it must not be reachable.
                var without = map.Operations.Where(o => !o.Provides.Contains("vehicle-supported")).ToList();
                var done = new HashSet<string>();
                while (without.Where(o => !done.Contains(o.Id) && o.Needs.Hold(done.Contains)).Select(o => o.Id).ToList() is { Count: > 0 } next)
                {
                    done.UnionWith(next);
                }

                Assert.DoesNotContain(operation.Id, done);

                // Nor on the way back: read from its end, it must not be there before what holds the vehicle up.
                var once = map.Operations.Where(o => o.Kind == Core.Access.OperationKind.Once).Select(o => o.Id).ToHashSet();
                var open = new HashSet<string>(once);
                while (without.Where(o => !open.Contains(o.Id) && o.CloseWhile.Hold(id => id != o.Id && open.Contains(id))).Select(o => o.Id).ToList() is { Count: > 0 } next)
                {
                    open.UnionWith(next);
                }

                Assert.True(operation.Kind == Core.Access.OperationKind.Once || !open.Contains(operation.Id), $"{operation.Id} could be closed after the vehicle is let down");
            }
        }
    }

    [Fact]
    public void A_map_knows_its_version_by_its_content()
    {
        var shipped = Library.Map("tideway-starter");
        Assert.Equal(ShippedLibrary.Hash(shipped.Json), shipped.Hash);
        Assert.NotEqual(shipped.Hash, ShippedLibrary.Hash(shipped.Json + " "));
    }

    [Fact]
    public void Starting_has_the_tests_that_need_the_motors_own_current()
    {
        var starting = Library.System("starting")!;
        Assert.Superset(new HashSet<string> { "battery-cranking", "starter-volts-cranking", "ground-drop-cranking", "switched-terminal-cranking" }, starting.Tests.Where(t => t.Commanded).Select(t => t.Id).ToHashSet());
        Assert.Contains(starting.Checks, c => c.Moment == ProofMoment.BeforeCovers);
        Assert.All(starting.Checks, c => Assert.NotEmpty(c.LimitBy));
    }

    public static TheoryData<string> Families => [.. Library.Systems.Select(s => s.Id)];

    /// <summary>What a family must hold to be reasoned about.</summary>
    [Theory]
    [MemberData(nameof(Families))]
    public void A_family_is_whole(string id)
    {
        var s = Library.System(id)!;
        Assert.True(s.Faults.Count >= 14, $"{s.Faults.Count} faults");
        Assert.True(s.Tests.Count(t => !t.Complaint) >= 12, $"{s.Tests.Count} tests");
        Assert.True(s.Points.Count >= 4);
        Assert.True(s.VehicleParameters.Count() >= 4);
        Assert.Contains(s.VehicleParameters, p => p.Choices.Count > 1);
        Assert.Contains(s.Tests, t => t.Complaint);
        Assert.NotEmpty(s.Behaviours);
        Assert.Equal(4, s.Proof.Count);
        // At least one double fault, one intermittent one, and a repair for every part of the proof and for the motor.
        Assert.Contains(s.Faults, f => f.Id.Contains("-and-", StringComparison.Ordinal) || f.Id.Contains("both", StringComparison.Ordinal));
        Assert.Contains(s.Faults, f => f.IsIntermittent);
        Assert.Contains(s.Repairs, r => r.IsMotor);
        Assert.Superset(Enum.GetValues<ProofPart>().ToHashSet(), s.Repairs.Select(r => r.Part).OfType<ProofPart>().ToHashSet());
        Assert.All(s.Tests, t => Assert.True(t.How.Length > 10 && t.Why.Length > 10, t.Id));
        Assert.All(s.Points, p => Assert.InRange(p.X, 0, s.Drawing.Width));
        Assert.Contains(s.Checks, c => c.Moment == ProofMoment.End);
    }

    /// <summary>Whatever is done while the motor may move, or under the vehicle, tells what can hurt (common practice, no source).</summary>
    [Theory]
    [MemberData(nameof(Families))]
    public void A_test_that_can_hurt_says_so(string id)
    {
        var s = Library.System(id)!;
        Assert.All(s.Tests.Where(t => t.Access.Contains("raised")), t => Assert.Contains("on stands", t.Caution ?? "", StringComparison.Ordinal));
        if (id is "starting" or "fan" or "window" or "charging")
        {
            Assert.All(s.Tests.Where(t => t.Commanded && !t.Complaint && t.State.Id != "key"), t => Assert.False(string.IsNullOrEmpty(t.Caution), t.Id));
        }
    }

    [Fact]
    public void All_seven_families_ship() =>
        Assert.Equal(["actuator", "blower", "charging", "fan", "starting", "window", "wiper"], Library.Systems.Select(s => s.Id).Order(StringComparer.Ordinal));

    [Fact]
    public void The_demo_keeps_the_rules_and_shows_every_stage()
    {
        var knowledge = new JobKnowledge(new Families(Library), Library.Maps.ToDictionary(m => m.Hash, m => m.Map));
        var jobs = new DemoStory(Library, Fleet, DateTimeOffset.Now).Jobs().Select(d =>
        {
            var entries = d.Entries.Select((e, i) => new Entry(new EntryDraft(e.Id ?? Guid.NewGuid(), d.Id, i, e.Actor, DateTimeOffset.Now - e.Ago, e.Payload), i + 1, e.Actor, DateTimeOffset.Now)).ToList();
            return Job.Fold(entries, knowledge);
        }).ToList();
        Assert.All(jobs, j => Assert.Empty(j.Disputes));
        Assert.All(jobs, j => Assert.All(j.History, h => Assert.Empty(JobRules.Malformed(j, h.Entry.Payload))));
        Assert.Contains(jobs, j => j.Waiting is not null);
        Assert.Contains(jobs, j => j.Decision?.Payload.Act == DecisionAct.Elsewhere && j.HandedBack is not null);
        Assert.Contains(jobs, j => j.Found.Any(f => f.Payload.Found == FastenerState.Broken));
        Assert.Superset(Stages.All.ToHashSet(), jobs.Select(j => j.Current).ToHashSet());
        Assert.All(jobs, j => Assert.Equal(j.Opened.Payload.VehicleName, Fleet.Vehicles.Single(v => v.Id == j.Opened.Payload.Vehicle).Name));
    }
}

/// <summary>The system files' reader tells every fault with its path.</summary>
public sealed class FaultSystemReaderTests
{
    [Theory]
    [InlineData("\"motor\": \"starter\"", "\"motor\": 3", "$.motor")]
    [InlineData("\"id\": \"battery-cranking\"", "\"id\": \"battery-rest\"", "$.tests[2].id")]
    [InlineData("\"good_choice\": \"turns\"", "\"good_choice\": \"flies\"", "$.tests[12].good_choice")]
    [InlineData("\"before_test\": \"battery-cranking\"", "\"before_test\": \"zz\"", "$.checks[4].before_test")]
    [InlineData("\"moment\": \"end\"", "\"moment\": \"later\"", "$.checks[3].moment")]
    [InlineData("\"title\": \"Starting\"", "\"title\": \"Starting\", \"colour\": 1", "$.colour")]
    [InlineData("\"value\": \"volts / 12\"", "\"value\": \"volts / twelve\"", "$.parameters[1].value")]
    [InlineData("\"value\": \"volts / 12\"", "\"value\": \"volts / (12\"", "$.parameters[1].value")]
    [InlineData("\"vehicle\": [0.4, 9]", "\"vehicle\": [9, 0.4]", "$.parameters[8].vehicle")]
    [InlineData("\"kind\": \"wire\", \"nodes\": [\"plus\", \"lug\"]", "\"kind\": \"rope\", \"nodes\": [\"plus\", \"lug\"]", "$.circuit[3].kind")]
    [InlineData("\"nodes\": [\"plus\", \"lug\"]", "\"nodes\": [\"plus\"]", "$.circuit[3].nodes")]
    [InlineData("\"node\": \"block\"", "\"node\": \"moon\"", "$.points[3].node")]
    [InlineData("\"repair\": \"ring-gear\"", "\"repair\": \"zz\"", "$.faults[24].repair")]
    [InlineData("\"set\": {\"dead_cells\": 1", "\"set\": {\"live_cells\": 1", "$.faults[3].set.live_cells")]
    [InlineData("{\"engine-turns\": {\"stuck\": 0.97}}", "{\"engine-turns\": {\"stuck\": 1.97}}", "$.faults[25].signs.engine-turns")]
    [InlineData("{\"engine-turns\": {\"stuck\": 0.97}}", "{\"engine-turns\": {\"flies\": 0.97}}", "$.faults[25].signs.engine-turns")]
    [InlineData("\"when\": \"speed.starter = 0\"", "\"when\": \"speed.stator = 0\"", "$.tests[0].rules[2].when")]
    [InlineData("\"element\": \"cable\", \"accuracy\"", "\"element\": \"rope\", \"accuracy\"", "$.tests[11].element")]
    [InlineData("\"test\": \"repeat-command\"", "\"test\": \"repeat\"", "$.behaviours[4]")]
    [InlineData("\"engine-turns=stuck\"", "\"engine-turns=flies\"", "$.proof.mechanical")]
    public void A_fault_is_told_with_its_path(string was, string now, string path)
    {
        using var stream = typeof(ShippedLibrary).Assembly.GetManifestResourceStream("systems/starting.json")!;
        var text = new StreamReader(stream).ReadToEnd();
        Assert.Contains(was, text, StringComparison.Ordinal);
        var (system, faults) = FaultSystemReader.Read(text.Replace(was, now, StringComparison.Ordinal));
        Assert.Null(system);
        Assert.Contains(faults, f => f.Path == path);
    }
}
