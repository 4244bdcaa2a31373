using Screeline.Core.Access;
using Screeline.Core.Access.Planning;
using Screeline.Core.Diagnosis;
using Screeline.Core.Jobs;
using Screeline.Core.Proof;
using Screeline.Core.Quantities;
using Screeline.Library.Demo;

namespace Screeline.Library.Tests;

/// <summary>
/// Every kind of job of the trade done from complaint to hand-back, and what each is known to punish. Whether a lesson is one:
/// common practice, no source.
/// </summary>
public sealed partial class TradeTests
{
    private static readonly ShippedLibrary Library = ShippedLibrary.Load();

    /// <summary>The kinds of job that must be covered, and the belt-driven alternator beside them.</summary>
    public static TheoryData<string, string> Kinds => new()
    {
        { "Starter behind the exhaust, two ways", "ternwick-starter" },
        { "Starter of a heavy four-wheel drive, from underneath and the wheel arch", "fellgate-starter" },
        { "Starter under the intake box and battery tray", "wherry-starter" },
        { "Starter seen through the wheel arch, taken out downwards", "tideway-starter" },
        { "Push-button no-crank in a tight bay", "petrel-starter" },
        { "Starter above an undertray", "carrier-starter" },
        { "Flywheel coil and regulator of a small diesel", "winch-coil" },
        { "Belt-driven alternator", "tideway-alternator" },
        { "Blower behind a glovebox, cleaned and greased", "tideway-blower" },
        { "Quick blower under a cover", "dinghy-blower" },
        { "Blower with a nest in it", "petrel-blower" },
        { "Twist-lock blower behind a shield", "ternwick-blower" },
        { "Front wiper motor on a linkage", "wiper-tideway" },
        { "Front wiper with a measured setting", "petrel-wiper" },
        { "Front wiper with a locating hole", "wiper-fellgate" },
        { "Linkage replaced, motor kept or new", "wiper-carrier" },
        { "Rear wiper", "wiper-ternwick-rear" },
        { "Regulator with motor in a door", "tideway-window" },
        { "Twin fan module, motor changed at the bench", "ternwick-fan" },
        { "One fan out to reach the other", "petrel-fan" },
        { "Axle-lock actuator under the vehicle", "fellgate-lock" },
        { "Valve-lift motor inside the head", "ternwick-valve" },
    };

    public static TheoryData<string, string> Targets => [.. Library.Maps.SelectMany(m => m.Map.Targets.Select(t => (m.Map.Id, t.Id)))];

    [Theory]
    [MemberData(nameof(Kinds))]
    public void Every_kind_of_job_has_its_map(string subject, string map)
    {
        Assert.Equal(subject, Library.Map(map).Map.Subject);
        Assert.NotEmpty(Library.Map(map).Map.Lessons);
        Assert.Equal(Kinds.Count, Library.Maps.Count);
    }

    /// <summary>A job walked through its entries: no rule broken, no entry malformed, every gate held, every proof taken, nothing left over.</summary>
    [Theory]
    [MemberData(nameof(Targets))]
    public void It_can_be_done_from_complaint_to_hand_back(string map, string target)
    {
        var t = Begun(map, target);
        var plan = t.Take(t.Map.Targets.First(x => x.Id == target).Repairs is [var repair, ..] ? repair : Motor(t.Map.Family).Id);
        Assert.Equal(t.Map.Targets.First(x => x.Id == target).Operation, plan.Removal[^1].Id);
        plan.Removal.ToList().ForEach(t.Apart);
        Assert.Equal(Stage.Refit, t.Job.Current);
        foreach (var action in plan.Refit)
        {
            HoldsBehindItsGate(t.Job, plan, action);
            t.Back(action);
        }

        Assert.Equal(Stage.Prove, t.Job.Current);
        Assert.NotNull(JobRules.OutOfOrder(t.Job, new HandedBack("x", null, null, null, [.. t.Job.Checks.Select(c => c.Id)]), DateTimeOffset.Now));
        t.Prove();
        t.Close("Done.", null, null, t.Job.System.RootCauses[0].Id);
        var job = t.Job;
        Assert.NotNull(job.HandedBack);
        Assert.Empty(job.Disputes);
        Assert.Empty(job.MissingFromProof);
        Assert.True(job.Count.Balances);
        Assert.All(job.Count.Pieces, p => Assert.True(p.On, p.Piece.What));
        NothingWasMalformed(t);
    }

    // An entry is judged against the job as it stood before it.
    private static void NothingWasMalformed(DemoTelling t)
    {
        var entries = t.Job.History.Select(h => h.Entry).ToList();
        var knowledge = new JobKnowledge(new Families(Library), new Dictionary<string, AccessMap> { [t.MapHash] = t.Map });
        for (var i = 1; i < entries.Count; i++)
        {
            Assert.Empty(JobRules.Malformed(Job.Fold([.. entries.Take(i)], knowledge), entries[i].Payload));
        }
    }

    // While a gate is open, the next thing behind it is refused.
    private static void HoldsBehindItsGate(Job job, WayPlan plan, WalkAction action)
    {
        var order = plan.Refit.Select(a => a.Id).ToList();
        if (WalkRules.IsGate(plan.Map, action.Id) && order.SkipWhile(id => id != action.Id).Skip(1).FirstOrDefault() is { } behind)
        {
            Assert.NotNull(JobRules.OutOfOrder(job, new StepDone(WorkPhase.Refit, behind, null, []), DateTimeOffset.MaxValue));
        }
    }

    /// <summary>Whatever the battery feeds is closed before the negative lead goes on for good, except the hatch over it.</summary>
    [Theory]
    [MemberData(nameof(Targets))]
    public void The_negative_lead_goes_on_last(string map, string target)
    {
        var m = Library.Map(map).Map;
        var plan = RoutePlanner.Plan(new PlanRequest(m, m.Targets.First(t => t.Id == target).Operation)).Routes[0];
        var refit = plan.Refit.Select(a => a.Id).ToList();
        if (refit.FirstOrDefault(id => m.Operation(id)?.Provides.Contains("battery-isolated") == true) is not { } negative)
        {
            return;
        }

        var after = refit.SkipWhile(id => id != negative).Skip(1).Select(m.Operation).OfType<Operation>().ToList();
        Assert.DoesNotContain(after, o => o.Off.Any(x => x.Kind == "connector") && m[negative].Needs.Names.All(n => n != o.Id));
    }

    /// <summary>Each family's checks before the covers are held by a gate of every map, as far as the map names any.</summary>
    [Fact]
    public void What_must_be_proved_before_the_covers_is_held_by_gates()
    {
        foreach (var map in Library.Maps.Select(m => m.Map).Where(m => m.Id != "winch-coil"))
        {
            var wanted = Library.System(map.Family)!.Checks.Where(c => c.Moment == ProofMoment.BeforeCovers).Select(c => c.Id).ToHashSet();
            // The Petrel's wiper was measured at its gate otherwise: its current is read at the end.
            wanted.ExceptWith(map.Id == "petrel-wiper" ? ["current-after"] : []);
            Assert.Superset(wanted, map.RefitSteps.Where(s => s.Gate).SelectMany(s => s.Checks).ToHashSet());
        }
    }

    [Fact]
    public void A_failed_check_leads_to_the_step_that_is_suspect_and_back_to_find()
    {
        var t = Begun("ternwick-starter");
        var plan = t.Take();
        plan.Removal.ToList().ForEach(t.Apart);
        t.Back(plan, plan.Refit.Count);
        t.Say(2, new ProofTaken("cranking-volts", new Figure(8.1m, Units.Volt), null));
        var check = t.Job.Check("cranking-volts")!;
        var leads = ProofLead.FromCheck(t.Job, check);
        Assert.Equal("main-nut", leads[0].Step);
        Assert.Null(leads[^1].Step);
        var told = t.Job.Refitted.Count;
        t.Say(1, new SentBack(check.Id, "main-nut", leads[0].Why));
        // What must be open for the cable is open again, what has nothing to do with it is not.
        var job = t.Job;
        Assert.Equal(told - leads[0].Again, job.Refitted.Count);
        Assert.DoesNotContain("main-nut", job.Refitted.Keys);
        Assert.DoesNotContain("negative-off", job.Refitted.Keys);
        Assert.DoesNotContain("crank-test", job.Refitted.Keys);
        Assert.Contains("small-plug", job.Refitted.Keys);
        Assert.Equal(Stage.Refit, job.Current);
        foreach (var id in Refit.Order(job).Where(id => !job.Refitted.ContainsKey(id)).ToList())
        {
            t.Back(plan.Refit.First(a => a.Id == id));
        }

        t.Say(1, new ProofTaken("cranking-volts", new Figure(11.2m, Units.Volt), null));
        t.Prove();
        t.Close("Cable was loose.", null, null, "joint");
        Assert.Empty(t.Job.Disputes);
        Assert.NotNull(t.Job.HandedBack);
    }

    [Fact]
    public void Sent_back_to_find_the_readings_stay_and_the_way_is_gone()
    {
        var t = Begun("dinghy-blower");
        t.Say(1, new ReadingTaken("top-current", new Figure(24, Units.Ampere), null));
        var plan = t.Take();
        plan.Removal.ToList().ForEach(t.Apart);
        t.Back(plan, plan.Refit.Count);
        t.Say(1, new ProofTaken("dash-still", null, "bad"));
        t.Say(1, new ProofTaken("dash-still", null, "shakes"));
        t.Say(1, new SentBack("dash-still", null, "Shakes as before."));
        var job = t.Job;
        Assert.Equal(Stage.Find, job.Current);
        Assert.Single(job.Readings);
        Assert.Null(job.Route);
        Assert.Empty(job.Removed);
        Assert.Empty(job.Proofs);
        Assert.Equal("Shakes as before.", Assert.Single(job.SentBacks).Payload.Why);
    }

    /// <summary>docs/library.md is made from the data.</summary>
    [Fact]
    public void The_coverage_table_is_up_to_date()
    {
        var folder = new DirectoryInfo(AppContext.BaseDirectory);
        while (!File.Exists(Path.Combine(folder.FullName, "Directory.Packages.props")))
        {
            folder = folder.Parent!;
        }

        Assert.Equal(LibraryTable.Write(Library), File.ReadAllText(Path.Combine(folder.FullName, "docs", "library.md")));
    }

    /// <summary>Whether the vehicle may be driven is answered by rule for every behaviour of every family.</summary>
    [Fact]
    public void Driving_meanwhile_is_answered_for_whatever_is_observed()
    {
        foreach (var system in Library.Systems)
        {
            Assert.All(system.Behaviours, b => Assert.NotEmpty(DriveMeanwhile.Of(system, [b.Id]).Words));
            Assert.Contains(system.DriveRules, r => r.When.Count == 0);
            Assert.True(system.RootCauses.Count >= 6);
            Assert.All(system.DriveRules.SelectMany(r => r.When), w => Assert.Contains(system.Behaviours, b => b.Id == w));
        }

        Assert.Equal(MayDrive.No, DriveMeanwhile.Of(Library.System("wiper")!, ["dead"]).Answer);
        Assert.Equal(MayDrive.No, DriveMeanwhile.Of(Library.System("starting")!, ["chatter", "silence"]).Answer);
    }

    // A dead motor for the wiper, an ordinary complaint else; five tries as told.
    private static DemoTelling Begun(string map, string? target = null)
    {
        var shipped = Library.Map(map);
        var family = Library.System(shipped.Map.Family)!;
        var repair = shipped.Map.Targets.FirstOrDefault(t => t.Id == target)?.Repairs is [var named, ..] ? family.Repair(named)! : Motor(family.Id);
        var t = new DemoTelling(Library, Guid.NewGuid(), Guid.NewGuid(), TimeSpan.FromDays(3), shipped);
        t.Say(0, new JobOpened(Guid.NewGuid(), "V", shipped.Map.AppliesTo[0].Model, map.StartsWith("carrier", StringComparison.Ordinal) ? 24 : 12, family.Id, "It fails", null));
        t.Say(1, new ComplaintNoted("It fails", [family.Behaviours[0].Id], "Always", 5, 5, null));
        t.Say(1, new DecisionMade(DecisionAct.Guess, repair.Title, "For the test.", repair.Id));
        return t;
    }

    private static Repair Motor(string family) => Library.System(family)!.Repairs.First(r => r.IsMotor);

    private static IReadOnlyList<WayPlan> Routes(string map, string? target = null)
    {
        var m = Library.Map(map).Map;
        return RoutePlanner.Plan(new PlanRequest(m, target ?? m.TargetFor(null).Operation) { Blocked = DeadMotor.LeavesOut(m, dead: false).Concat(m.Fitted?.Choices[0].Without ?? []).ToHashSet(), Routes = 3 }).Routes;
    }

    private static WayPlan Best(AccessMap map, bool dead) =>
        RoutePlanner.Plan(new PlanRequest(map, map.Targets[0].Operation) { Blocked = DeadMotor.LeavesOut(map, dead) }).Routes[0];

    private static void InOrder(IReadOnlyList<WalkAction> walk, params string[] ids)
    {
        var order = walk.Select(a => a.Id).ToList();
        Assert.Equal(ids, order.Where(ids.Contains));
    }

    // What the reader says of a map with some words taken out of it.
    private static IReadOnlyList<Core.Formats.FormatFault> Without(ShippedMap map, string words)
    {
        Assert.Contains(words, map.Json, StringComparison.Ordinal);
        return AccessMapReader.Read(map.Json.Replace(words, "", StringComparison.Ordinal), Library.Cautions).Faults;
    }
}
