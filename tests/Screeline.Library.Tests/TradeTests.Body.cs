using Screeline.Core.Access;
using Screeline.Core.Access.Planning;
using Screeline.Core.Diagnosis;
using Screeline.Core.Fastening;
using Screeline.Core.Jobs;
using Screeline.Core.Quantities;

namespace Screeline.Library.Tests;

// What jobs on blowers, wipers, windows, fans and actuators punish.
public sealed partial class TradeTests
{
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
        Assert.NotEqual(Fit.Fits, SocketFit.Judge(Drive.Read("hex-8").Drive!, Drive.Read("5/16").Drive!).Fit);
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
        Assert.Equal(nut.Torque.Value, TorqueChoice.Choose([new SourcedTorque(nut.Torque.Value, nut.Torque.Source, nut.Torque.Grade), .. nut.Torque.Others], nut.Structural).Chosen!.Value);
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
        Assert.All(WhileLive.InWay(map, Best(map, dead: false).Removal.Select(a => a.Id)).Where(l => l.Operation.ByMotor), l => Assert.NotNull(l.Unpowered));
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
}
