using Screeline.Core.Access;
using Screeline.Core.Access.Planning;
using Screeline.Core.Diagnosis;
using Screeline.Core.Fastening;
using Screeline.Core.Jobs;
using Screeline.Core.Proof;
using Screeline.Core.Quantities;

namespace Screeline.Library.Tests;

// What jobs on starters and alternators punish.
public sealed partial class TradeTests
{
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
        Assert.NotNull(TorqueDoubt.Find(new Figure(stud.Torque!.Value.Number * 4, stud.Torque.Value.Unit), stud.Metric!, Joint.CopperStud));
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
}
