using Screeline.Core.Access;
using Screeline.Core.Access.Planning;
using Screeline.Core.Diagnosis;
using Screeline.Core.Fastening;
using Screeline.Core.Jobs;
using Screeline.Core.Proof;
using Screeline.Core.Quantities;
using Screeline.Library.Demo;

namespace Screeline.Library.Tests;

/// <summary>
/// Every kind of job of the trade done from complaint to hand-back, and what each is known to punish. Whether a lesson is one:
/// common practice, no source.
/// </summary>
public sealed class TradeTests
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
    public void Routes_are_laid_side_by_side_and_the_way_back_is_not_the_way_in_turned_round()
    {
        // Starter behind the exhaust.
        var map = Library.Map("ternwick-starter").Map;
        var routes = Routes("ternwick-starter");
        Assert.True(routes[1].ExpectedMinutes - routes[0].ExpectedMinutes > 20);
        Assert.Contains("mount-bolts", routes[0].Set);
        Assert.Contains("exhaust-down", routes[1].Set);
        InOrder(routes[0].Refit, "small-plug", "main-nut", "upper-bolt");
        Assert.NotEqual(routes[0].Removal.Select(a => a.Id).Reverse().Where(id => map[id].Kind == OperationKind.Open), routes[0].Refit.Where(a => map.Step(a.Id) is null).Select(a => a.Id));
        // Without the support there is no mount bolt.
        Assert.DoesNotContain("mount-bolts", RoutePlanner.Plan(new PlanRequest(map, "compared") { Blocked = new HashSet<string> { "engine-held" } }).Routes.SelectMany(r => r.Set));
        Assert.Contains(Without(Library.Map("ternwick-starter"), "\"provides\": [\"engine-supported\"], "), f => f.Message.Contains("engine-supported", StringComparison.Ordinal));
    }

    [Fact]
    public void Weight_is_named_a_step_is_not_needed_and_a_nut_is_another_one()
    {
        // Heavy four-wheel drive.
        var shipped = Library.Map("fellgate-starter");
        var map = shipped.Map;
        Assert.Contains("weight", map["starter-out"].Cautions);
        Assert.Equal(2, map["starter-out"].Hands);
        Assert.DoesNotContain("bolt-slid", Routes("fellgate-starter")[0].Set);
        var printed = WayOption.Printed(map, "compared", (removal, progress, at, tool) => RoutePlanner.Back(map, removal, progress, at, tool))!;
        Assert.Contains("bolt-slid", printed.Set);
        Assert.True(printed.ExpectedMinutes > Routes("fellgate-starter")[0].ExpectedMinutes + 5);
        Assert.DoesNotContain("bolt-slid", MapChanges.Without(map, new HashSet<string> { "bolt-slid" }).Operations.Select(o => o.Id));
        var t = Begun("fellgate-starter");
        var plan = t.Take();
        plan.Removal.ToList().ForEach(t.Apart);
        t.Say(1, new FastenerFound("main-nut", "stud-nut", FastenerState.OtherSize, 1, "hex-15", "on the new part"));
        Assert.Equal("hex-15", t.Job.Found.Single(f => f.Payload.Step == "main-nut").Payload.Size);
        Assert.Superset(new HashSet<string> { "starter heat shield", "starter upper plug" }, t.Job.Count.Pieces.Select(p => p.Piece.What).ToHashSet());
        Assert.All(map.Operations.SelectMany(o => o.Off).Where(o => o.What.Contains("shield", StringComparison.Ordinal) || o.What.Contains("upper plug", StringComparison.Ordinal)), o => Assert.NotNull(o.Forgotten));
    }

    [Fact]
    public void Small_connectors_are_tried_and_the_trays_earth_lead_holds_the_battery_back()
    {
        // Intake box and battery tray.
        var t = Begun("wherry-starter");
        var plan = t.Take();
        plan.Removal.ToList().ForEach(t.Apart);
        InOrder(plan.Refit, "tray-out", "tray-earth", "battery-out");
        InOrder(plan.Refit, "duct-off", "duct-tight", "engine-cover");
        Assert.Equal(2, t.Job.Checks.Count(c => c.Id.StartsWith("works-sensor-plugs", StringComparison.Ordinal)));
        // A nut put back on its stud is where it belongs, and lies in no cell.
        t.Say(1, new FastenerFound("main-nut", "stud-nut", FastenerState.OnStud, 1, null, null));
        Assert.DoesNotContain(t.Job.Count.InTray, a => a.Step == "main-nut");
        t.Back(plan, plan.Refit.TakeWhile(a => a.Id != "tray-earth").Count());
        Assert.NotNull(JobRules.OutOfOrder(t.Job, new StepDone(WorkPhase.Refit, "battery-out", null, []), DateTimeOffset.MaxValue));
    }

    [Fact]
    public void The_exhaust_cools_while_something_else_is_done_and_the_stud_has_a_ceiling()
    {
        // Through the wheel arch.
        var t = Begun("tideway-starter");
        var plan = t.Take();
        var cooled = plan.Removal.First(a => a.Id == "cooled");
        foreach (var action in plan.Removal.TakeWhile(a => a.Id != "cooled"))
        {
            t.Apart(action);
        }

        t.Say(1, new TimerStarted("cooled", TimerKind.Cool, cooled.WaitMinutes, "cooling"));
        Assert.NotEqual("cooled", WorkOrder.Due(t.Job, [.. plan.Removal.Select(a => a.Id)], WorkPhase.Apart, t.Job.History[^1].Entry.Draft.OccurredAt.AddMinutes(1)));
        var stud = t.Map["main-nut"].Fasteners.First(f => f.Joint == Joint.CopperStud);
        Assert.NotNull(TorqueDoubt.Of(new Figure(stud.Torque!.Value.Number * 4, stud.Torque.Value.Unit), stud.Metric!, Joint.CopperStud));
        Assert.Contains(t.Map["lower-bolt"].Never, n => n.Contains("linked", StringComparison.Ordinal));
        // One that stays in its hole is counted as there.
        var whole = Begun("tideway-starter");
        var way = whole.Take();
        way.Removal.ToList().ForEach(whole.Apart);
        whole.Say(1, new FastenerFound("lower-bolt", whole.Map["lower-bolt"].Fasteners[0].Id, FastenerState.StaysInHole, 1, null, null));
        Assert.DoesNotContain(whole.Job.Count.InTray, a => a.Step == "lower-bolt");
        Assert.True(way.Removal.Count(a => whole.Map[a.Id].Provides.Any(p => p is "vehicle-supported" or "starter-held")) == 2, "supported at two points");
    }

    [Fact]
    public void An_intermittent_fault_is_seen_before_anything_is_unplugged_and_the_last_nut_comes_half_out()
    {
        // Push-button.
        var plan = Routes("petrel-starter")[0];
        InOrder(plan.Removal, "battery-first", "fault-seen", "codes-saved", "negative-off", "starter-twisted", "main-nut", "bench-tried");
        InOrder(plan.Refit, "main-nut", "starter-twisted", "lower-bolt");
        Assert.NotEmpty(plan.Map["bench-tried"].Never);
        var t = Begun("petrel-starter");
        Assert.Contains("5 times", t.Job.Check(JobChecks.Complaint)!.How, StringComparison.Ordinal);
    }

    [Fact]
    public void Proofs_at_the_starter_come_before_the_spanner_and_cost_their_way_in()
    {
        // Above an undertray.
        var plan = Routes("carrier-starter")[0];
        InOrder(plan.Removal, "undertray", "proved-here", "negative-off", "main-nut", "easy-bolts", "hidden-bolt");
        InOrder(plan.Refit, "starter-out", "bolts-started", "hidden-bolt", "crank-test");
        InOrder(plan.Refit, "main-nut", "nothing-on-earth", "crank-test");
        var system = Library.System("starting")!;
        var behind = system.Test("starter-volts-cranking")!;
        var closed = TestAccess.Minutes(system, plan.Map, new HashSet<string>())[behind.Id];
        var open = TestAccess.Minutes(system, plan.Map, new HashSet<string> { "chocked", "raised", "undertray" }).GetValueOrDefault(behind.Id);
        Assert.True(closed > open + 8, $"{closed} closed, {open} with the tray off");
        Assert.Contains(Library.Part("starting", "Hest Carrier")!.Offers, o => o.Deposit > 0);
    }

    [Fact]
    public void The_fuse_comes_first_and_the_other_motor_is_in_the_account()
    {
        // Flywheel coil.
        var t = Begun("winch-coil");
        var plan = t.Take();
        Assert.Equal("fuse-looked", plan.Removal[0].Id);
        plan.Removal.ToList().ForEach(t.Apart);
        Assert.Contains(t.Job.Count.Accounts, a => a.Step == "starter-off" && a.Fastener.Torque is not null);
        Assert.Contains(t.Job.Checks, c => c.Id.StartsWith("works-starter-off", StringComparison.Ordinal));
        InOrder(plan.Refit, "silencer-started", "silencer-off");
        // Beside it: the belt's way is kept before it comes off, and its tension is a gate.
        var belt = Routes("tideway-alternator")[0];
        InOrder(belt.Removal, "belt-routed", "belt-off", "bolts-out");
        Assert.Equal("belt", belt.Map.Step("belt-true")!.Setting);
    }

    [Fact]
    public void A_blower_is_cleaned_and_not_replaced_and_what_is_forbidden_stands_at_the_step()
    {
        // Behind a glovebox.
        var map = Library.Map("tideway-blower").Map;
        Assert.Equal("blower-cleaned", map.TargetFor("clean").Id);
        Assert.Equal("blower-out", map.TargetFor(Motor("blower").Id).Id);
        Assert.Contains(map["cleaned"].Never, n => n.Contains("water", StringComparison.Ordinal));
        Assert.Contains(map["oiled"].Never, n => n.Contains("commutator", StringComparison.Ordinal));
        Assert.Contains(map["glovebox-out"].Fasteners, f => f is { Id: "hidden", Count: 2, Place.Length: > 0 });
        InOrder(Routes("tideway-blower", "oiled")[0].Removal, "motor-plug", "motor-out", "looked", "cleaned");
        // The quick one: one socket for everything that is turned, and the gate before the cover.
        var quick = Routes("dinghy-blower")[0];
        Assert.Single(quick.Removal.SelectMany(a => quick.Map[a.Id].Fasteners).Select(f => f.Drive).OfType<string>().Distinct());
        Assert.All(quick.Removal.SelectMany(a => quick.Map[a.Id].Fasteners).Where(f => f.Torque is not null), f => Assert.True(f.Torque!.Value.Base < 2));
        InOrder(quick.Refit, "tried-open", "cover-off");
    }

    [Fact]
    public void A_nest_found_at_the_inspection_changes_the_decision_and_cancels_the_order()
    {
        var t = Begun("petrel-blower");
        t.Say(1, new PartChosen("blower-aftermarket", "Blower motor, aftermarket", 88, 0));
        var plan = t.Take(Motor("blower").Id);
        plan.Removal.ToList().ForEach(t.Apart);
        var readings = t.Job.Readings.Count;
        var refused = JobRules.OutOfOrder(t.Job, new DecisionMade(DecisionAct.Guess, "cleaned", "a nest", "clean"), DateTimeOffset.Now);
        Assert.Contains("apart already", refused);

        t.Say(1, new SentBack(null, null, "A nest in the wheel; the bearing is good."));
        t.Say(1, new PartCancelled("A nest, not the motor."));
        var job = t.Job;
        Assert.Equal(Stage.Find, job.Current);
        Assert.Equal(readings, job.Readings.Count);
        Assert.Null(job.PartTaken);
        Assert.True(job.OpenOperations > 0);
        Assert.Contains("vehicle is apart", JobRules.OutOfOrder(job, new DecisionMade(DecisionAct.Elsewhere, "cleaned", "a nest", "clean"), DateTimeOffset.Now));

        t.Say(1, new DecisionMade(DecisionAct.Guess, "leaves and nest cleaned out", "Seen.", "clean"));
        var off = t.Job.Removed.Values.OrderBy(r => r.Entry.Position).Select(r => r.Payload.Step).ToList();
        var target = t.Map.TargetFor("clean");
        var rest = RoutePlanner.Plan(new PlanRequest(t.Map, target.Operation) { Done = off.ToHashSet() }).Routes[0];
        t.Say(1, new RouteTaken(t.MapHash, target.Id, [.. off, .. rest.Removal.Select(a => a.Id)], [.. rest.Refit.Select(a => a.Id)]));
        rest.Removal.ToList().ForEach(t.Apart);
        Assert.Empty(t.Job.NotCarried);
        t.Back(rest, rest.Refit.Count);
        t.Prove();
        t.Close("A nest.", null, null, "debris");
        Assert.NotNull(t.Job.HandedBack);
        Assert.Empty(t.Job.Disputes);
        Assert.Contains("rodents", t.Map["nest-out"].Cautions);
    }

    [Fact]
    public void Two_hands_alignment_and_inches_beside_millimetres()
    {
        // Twist-lock.
        var plan = Routes("ternwick-blower")[0];
        Assert.Equal(2, plan.Map["motor-out"].Hands);
        InOrder(plan.Refit, "motor-out", "front-first", "motor-plug", "tried-open", "shield-started", "shield-off");
        var drives = plan.Removal.SelectMany(a => plan.Map[a.Id].Fasteners).Select(f => f.Drive).OfType<string>().ToHashSet();
        Assert.Superset(new HashSet<string> { "5/16", "hex-7" }, drives);
        Assert.NotEqual(Fit.Fits, SocketFit.Of(Drive.Read("hex-8").Drive!, Drive.Read("5/16").Drive!).Fit);
    }

    [Fact]
    public void Pieces_go_over_to_the_new_motor_which_runs_to_park_before_its_crank()
    {
        // On a linkage.
        var t = Begun("wiper-tideway");
        var plan = t.Take();
        InOrder(plan.Refit, "motor-out", "new-motor-parked", "crank-off", "linkage-out", "free-sweep", "cowl-off", "arms-off", "tips-set");
        Assert.True(plan.Map.Step("new-motor-parked")!.Gate);
        plan.Removal.ToList().ForEach(a => t.Say(1, new StepDone(WorkPhase.Apart, a.Id, null, [])));
        Assert.Equal(Library.Part("wiper", "Brannock Tideway")!.Carried.Select(c => c.Id), t.Job.NotCarried.Select(c => c.Id));
        Assert.Contains(t.Job.MissingFromProof, m => m.StartsWith("Not carried over", StringComparison.Ordinal));
    }

    [Fact]
    public void Two_sources_for_one_torque_stay_side_by_side_and_the_maker_wins()
    {
        // Measured setting.
        var map = Library.Map("petrel-wiper").Map;
        var nut = map["crank-off"].Fasteners[0];
        Assert.Single(nut.Torque!.Others);
        Assert.Equal(nut.Torque.Value, TorqueChoice.Of([new SourcedTorque(nut.Torque.Value, nut.Torque.Source, nut.Torque.Grade), .. nut.Torque.Others], nut.Structural).Chosen!.Value);
        Assert.Equal("wiper", map.Step("tips-set")!.Setting);
        Assert.Contains(Library.System("wiper")!.Checks, c => c.Id == "bonnet-normal");
        Assert.Contains("linkage-moves", map.Step("free-sweep")!.Cautions);
    }

    [Fact]
    public void The_key_makes_a_state_and_the_pin_comes_out_again()
    {
        // Locating hole.
        var map = Library.Map("wiper-fellgate").Map;
        var routes = Routes("wiper-fellgate");
        Assert.Contains(routes, r => r.Set.Contains("crank-pulled") && !r.Set.Contains("linkage-raised"));
        Assert.Contains(routes, r => r.Set.Contains("linkage-raised"));
        foreach (var route in routes)
        {
            var crank = route.Set.Contains("crank-pulled") ? "crank-pulled" : "crank-out-bolt";
            InOrder(route.Refit, "motor-out", "power-for-run", "motor-run-delay", "power-off-run", "pin-in", crank, "pin-out", "cowl-left");
            Assert.Contains("lock-pin-6", route.Removal.SelectMany(a => map[a.Id].Leaves));
        }
    }

    [Fact]
    public void A_dead_motor_is_turned_by_hand_halves_overlap_and_a_screw_was_missing_already()
    {
        // Linkage.
        var map = Library.Map("wiper-carrier").Map;
        Assert.Contains("nut-shown", Best(map, dead: false).Set);
        Assert.DoesNotContain("turned-by-hand", Best(map, dead: false).Set);
        Assert.Contains("turned-by-hand", Best(map, dead: true).Set);
        Assert.DoesNotContain("nut-shown", Best(map, dead: true).Set);
        Assert.All(WhileLive.Of(map, Best(map, dead: false).Removal.Select(a => a.Id)).Where(l => l.Operation.ByMotor), l => Assert.NotNull(l.Unpowered));
        InOrder(Best(map, dead: false).Refit, "screws-started", "cowl-lower", "cowl-upper");
        Assert.Equal(Units.PoundForceInch, map["cowl-upper"].Fasteners[0].Torque!.Value.Unit);
        Assert.Equal([25m, 45m], map["linkage-out"].Fasteners.Select(f => f.LengthMillimetres ?? 0));

        var t = Begun("wiper-carrier", "linkage-exchanged");
        var plan = t.Take("linkage");
        foreach (var action in plan.Removal)
        {
            if (action.Id == "cowl-upper")
            {
                t.Say(1, new FastenerFound("cowl-upper", "upper-screws", FastenerState.Missing, 1, null, "gone before we began"));
            }

            t.Apart(action);
        }

        t.Back(plan, plan.Refit.Count);
        Assert.True(t.Job.Count.Balances);
        Assert.Equal(1, t.Job.Count.Missing);
    }

    [Fact]
    public void Clips_are_counted_and_a_third_of_the_price_is_on_offer()
    {
        // Rear wiper.
        var map = Library.Map("wiper-ternwick-rear").Map;
        Assert.Equal(12, map["trim-off"].Fasteners.Single(f => f.Kind == "clip").Count);
        var offers = Library.Part("wiper", "Ternwick 5")!.Offers;
        Assert.True(offers.Min(o => o.Price) <= offers.Single(o => o.Kind == "new").Price * 0.36m);
        Assert.Contains(Without(Library.Map("wiper-ternwick-rear"), "\"provides\": [\"tailgate-held\"], "), f => f.Message.Contains("tailgate-held", StringComparison.Ordinal));
    }

    [Fact]
    public void Glass_is_held_by_more_than_hands_and_a_window_is_set_with_figures()
    {
        // Door.
        var shipped = Library.Map("tideway-window");
        Assert.Contains("drive-released", Best(shipped.Map, dead: true).Set);
        Assert.Contains("glass-lowered", Best(shipped.Map, dead: false).Set);
        Assert.Contains(Without(shipped, "\"provides\": [\"glass-held\"], "), f => f.Message.Contains("glass-held", StringComparison.Ordinal));
        InOrder(Best(shipped.Map, dead: false).Refit, "guides-loose", "frame-bolts", "glass-up", "glass-bolts", "power-for-setting", "window-set", "power-off-again", "film-off", "film-looked", "panel-off");
        Assert.Equal("window", shipped.Map.Step("window-set")!.Setting);
        Assert.Superset(new HashSet<string> { "bent", "hole", "dry" }, Library.System("window")!.RootCauses.Select(c => c.Id).ToHashSet());
        // Restraint parts sit beside it: isolated, and waited.
        InOrder(Best(shipped.Map, dead: false).Removal, "negative-off", "restraint-waited", "plug-off");
        Assert.Contains(Without(shipped, "\"wait_minutes\": 10, "), f => f.Message.Contains("waiting time", StringComparison.Ordinal));
    }

    [Fact]
    public void Room_is_bought_with_coolant_or_paid_with_scratches_and_twins_have_an_order()
    {
        // Twin module.
        var routes = Routes("ternwick-fan");
        Assert.Contains(routes, r => r.Set.Contains("hose-off") && r.Refit.Any(a => a.Id == "filled"));
        Assert.Contains(routes, r => !r.Set.Contains("hose-off") && r.Refit.All(a => a.Id != "filled"));
        Assert.Contains("feel", routes[0].Map["clip-felt"].Fasteners[0].Place, StringComparison.Ordinal);
        var t = Begun("ternwick-fan");
        t.Take().Removal.ToList().ForEach(t.Apart);
        Assert.Contains(t.Job.Checks, c => c.Id.StartsWith("works-air-guide", StringComparison.Ordinal));
        // One out to reach the other.
        var twin = Routes("petrel-fan")[0];
        InOrder(twin.Removal, "right-out", "left-raised", "left-plug", "left-out");
        InOrder(twin.Refit, "left-out", "left-plug", "left-raised", "right-out");
        InOrder(twin.Refit, "pins-seated", "left-raised");
    }

    [Fact]
    public void A_shared_fault_comes_first_a_jack_holds_a_height_and_the_routes_differ_by_hours()
    {
        // Axle lock.
        var routes = Routes("fellgate-lock", "gear-parted");
        InOrder(routes[0].Removal, "supply-first", "housing-carried", "link-bolts", "housing-lowered", "lock-plug", "cover-open", "bench-fed", "gear-parted");
        Assert.True(routes[1].ExpectedMinutes - routes[0].ExpectedMinutes > 120);
        Assert.Contains("housing-out", routes[1].Set);
        Assert.Contains(Without(Library.Map("fellgate-lock"), "\"provides\": [\"housing-carried\"], "), f => f.Message.Contains("housing-carried", StringComparison.Ordinal));
        Assert.Equal(MayDrive.No, DriveMeanwhile.Of(Library.System("actuator")!, ["several-lamps"]).Answer);
    }

    [Fact]
    public void Stored_energy_is_locked_and_the_key_comes_out_again()
    {
        // Inside the head.
        var shipped = Library.Map("ternwick-valve");
        var plan = Best(shipped.Map, dead: false);
        InOrder(plan.Removal, "run-full", "locked", "stop-out", "let-back", "motor-out", "gears-looked");
        InOrder(plan.Refit, "motor-out", "let-back", "stop-out", "locked", "key-out", "ends-learned", "head-cover");
        InOrder(plan.Refit, "key-out", "wells-out");
        Assert.Contains(Without(shipped, "\"provides\": [\"mechanism-locked\"], "), f => f.Message.Contains("mechanism-locked", StringComparison.Ordinal));
        Assert.Contains("out of mesh", shipped.Map["stop-out"].Off[0].Forgotten, StringComparison.Ordinal);
        var t = Begun("ternwick-valve");
        var way = t.Take();
        way.Removal.ToList().ForEach(t.Apart);
        t.Back(way, way.Refit.Count);
        Assert.Contains(t.Job.MissingFromProof, m => m == "Not back: Locking key");
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
        var leads = ProofLead.Of(t.Job, check);
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
