using Screeline.Core.Access;
using Screeline.Core.Access.Planning;
using Screeline.Core.Access.Recording;
using Screeline.Core.Jobs;
using Screeline.Core.Quantities;

namespace Screeline.Library.Demo;

/// <summary>One entry of the story.</summary>
/// <param name="Ago">How long before now it happened.</param>
/// <param name="Actor">Who.</param>
/// <param name="Payload">What.</param>
/// <param name="Id">Its id, where a later entry names it; null for any.</param>
public sealed record DemoEntry(TimeSpan Ago, Guid Actor, Payload Payload, Guid? Id = null);

/// <summary>One job of the story, its entries oldest first.</summary>
public sealed record DemoJob(Guid Id, IReadOnlyList<DemoEntry> Entries);

/// <summary>
/// A few jobs of the demo fleet in different stages, told as entries: they go through the same rules as anybody's.
/// Every figure is invented.
/// </summary>
public sealed class DemoStory(ShippedLibrary library, DemoFleet fleet, DateTimeOffset now)
{
    /// <summary>A drawn picture of an undertray, JPEG, 960 by 720.</summary>
    public static byte[] UndertrayPicture { get; } = ShippedLibrary.Bytes("demo/undertray.jpg");

    private readonly ShippedMap _map = library.MapsFor("starting", "Brannock Tideway")[0];

    /// <summary>All jobs, the oldest first.</summary>
    public IReadOnlyList<DemoJob> Jobs() =>
    [
        Closed(1, "Tideway 4", "Bram", 23, "Only a clunk in the mornings, since last week", "one-clunk", 12.58m, 12.31m, 12.2m, 0.04m, 11.9m, missing: true),
        FoundElsewhere(2, "Tideway 2", "Ansa"),
        Closed(3, "Tideway 1", "Ansa", 9, "Sometimes nothing, then it starts after all", "several-tries", 12.55m, 12.3m, 12.15m, 0.05m, 12.0m, missing: false),
        WaitsForPart(4, "Tideway 2", "Bram"),
        HalfApart(5, "Tideway 1", "Ansa"),
        AlmostProved(6, "Tideway 5", "Bram"),
        MisleadingReading(7, "Harbour Petrel", "Nell"),
        OnlyClicks(8, "Tideway 3", "Ansa"),
        AtTheGate(9, "Tideway 4", "Bram"),
        NestInTheBlower(10, "Pool estate", "Nell"),
        StiffWindow(11, "Pilot pick-up", "Ansa"),
        LeavesInTheBlower(12, "Tideway 2", "Ansa"),
        DeadFan(13, "Harbour Petrel", "Bram"),
        ManyLamps(14, "Pilot pick-up", "Nell"),
        SeizedTray(15, "Tideway 3", "Bram"),
        TipsToSet(16, "Harbour Petrel", "Ansa"),
        .. Past.Select(Done),
        NestFoundApart(60, "Harbour Petrel", "Ansa"),
        Comeback(61, "Tideway 1", "Bram"),
        CameBackToday(62, "Pilot pick-up", "Ansa"),
        NoMapYet(63, "Pilot pick-up", "Bram"),
        RecordedAsItGoes(64, "Pool runabout", "Ansa"),
        RecordedToTheEnd(65, "Tideway 4", "Bram"),
        SecondOnItsWay(66, "Tideway 1", "Ansa"),
    ];

    // Closed jobs of the last year and more: what the shop's priors, times and pictures stand on.
    private sealed record Before(int N, string Vehicle, string Who, int DaysAgo, string Map, string Words, string Behaviour, string Repair, string Cause, double Pace, (string Step, string Fastener, FastenerState Found, string? Size)? Found = null);

    private static readonly Before[] Past =
    [
        new(17, "Tideway 3", "Ansa", 410, "tideway-blower", "Blower chirps over every bump on the quay", "chirp", "motor", "dry", 1.2),
        new(18, "Tideway 2", "Bram", 330, "tideway-starter", "Clunk, nothing, clunk, nothing", "one-clunk", "starter", "age", 1.25, ("undertray", "edge", FastenerState.Seized, null)),
        new(19, "Tideway 3", "Ansa", 210, "wiper-tideway", "Wipers dead in the first rain", "dead", "motor", "water", 1.1),
        new(20, "Library bus", "Bram", 196, "carrier-starter", "Only a click under the seats", "one-clunk", "starter", "age", 1.2),
        new(21, "Library bus", "Ansa", 171, "wiper-carrier", "Wipers crawl, then hum", "slow", "linkage", "pivots", 0.95, ("cowl-upper", "upper-screws", FastenerState.Missing, null)),
        new(22, "Pool estate", "Bram", 150, "ternwick-starter", "Cranks cold, dead when hot", "several-tries", "starter", "heat", 0.9),
        new(23, "Quay tractor", "Ansa", 141, "dinghy-blower", "No air in the cab", "dead", "motor", "age", 1),
        new(24, "Pilot pick-up", "Bram", 60, "fellgate-starter", "Click after the causeway", "one-clunk", "starter", "water", 1.35, ("main-nut", "stud-nut", FastenerState.OtherSize, "hex-15")),
        new(25, "Pool runabout", "Ansa", 118, "wherry-starter", "Nothing at all since the battery was changed", "silence", "starter", "joint", 1.05),
        new(26, "Slip winch", "Bram", 105, "winch-coil", "Battery flat after every slip", "keeps-dying", "alternator", "chafed", 1),
        new(27, "Tideway 1", "Ansa", 44, "tideway-alternator", "Battery lamp glows on the hill", "lamp-on", "alternator", "age", 1.1),
        new(28, "Pool estate", "Bram", 86, "wiper-ternwick-rear", "Rear wiper stands in the middle", "no-park", "motor", "water", 0.9),
        new(29, "Tideway 5", "Ansa", 74, "tideway-window", "Window goes crooked and sticks", "tilts", "regulator", "bent", 1.15, ("frame-bolts", "guide-bolts", FastenerState.WrongHole, null)),
        new(30, "Harbour Petrel", "Bram", 66, "petrel-fan", "Runs hot in the ferry queue", "this-dead", "motor", "bearing", 1),
        new(31, "Pilot pick-up", "Ansa", 58, "fellgate-lock", "Lock greyed out, lamp on", "greyed", "actuator", "water", 1.4, ("link-bolts", "link-bolt", FastenerState.Seized, null)),
        new(32, "Pool estate", "Bram", 49, "ternwick-valve", "End stop fault every morning", "end-stop", "actuator", "gear", 1.1),
        new(33, "Harbour Petrel", "Ansa", 38, "petrel-starter", "Press, press, press, starts", "several-tries", "starter", "age", 1),
        new(34, "Tideway 2", "Nell", 31, "tideway-blower", "Chirps, quiet when warm", "chirp", "clean", "dry", 1.3),
        new(35, "Pool estate", "Ansa", 27, "ternwick-fan", "One fan ticks, then stands", "this-dead", "motor", "debris", 0.95),
        new(36, "Tideway 4", "Bram", 160, "tideway-starter", "Clicks once, lights stay bright", "one-clunk", "starter", "water", 1.15, ("undertray", "edge", FastenerState.Seized, null)),
        new(37, "Tideway 5", "Ansa", 122, "tideway-starter", "Will not turn over on the slip", "one-clunk", "starter", "heat", 1.05, ("main-nut", "stud-nut", FastenerState.OtherSize, "hex-15")),
        new(38, "Tideway 3", "Bram", 93, "tideway-starter", "Clunk and that is it", "one-clunk", "starter", "age", 1.1, ("main-nut", "stud-nut", FastenerState.OtherSize, "hex-15")),
        new(39, "Pool estate", "Nell", 21, "ternwick-blower", "Blower roars", "roar", "motor", "age", 1.2),
        new(40, "Pilot pick-up", "Ansa", 15, "wiper-fellgate", "Wipers hum and stand", "hums-only", "motor", "ice", 1.05),
    ];

    // Begun to end as a careful technician would, on the map's best way for that repair.
    private DemoJob Done(Before b)
    {
        var shipped = library.Map(b.Map);
        var system = library.System(shipped.Map.Family)!;
        var repair = system.Repair(b.Repair)!;
        var t = Tell(b.N, b.Vehicle, b.Who, TimeSpan.FromDays(b.DaysAgo), b.Words, null, system.Id, b.Map, b.Pace);
        if (system.Id == "starting" && b.Behaviour == "one-clunk" && fleet.Vehicle(b.Vehicle).NominalVolts == 12)
        {
            Diagnosed(t, b.Behaviour, b.Words, 12.55m, 12.35m, 12.2m, 0.05m, 12.0m);
            t.Say(2, new DecisionMade(DecisionAct.Proven, repair.Title, "Power, ground, command and free movement shown; it still does not crank.", repair.Id));
        }
        else
        {
            t.Say(6, new ComplaintNoted(b.Words, [b.Behaviour], "Always", 3, 3, null));
            t.Say(9, new DecisionMade(DecisionAct.Guess, repair.Title, "The likeliest by far; the next test would have cost more than it saves.", repair.Id));
        }

        if (repair.IsMotor && t.Job.Part?.Offers.MinBy(o => o.Price) is { } offer)
        {
            t.Say(3, new PartChosen(offer.Id, offer.Title, offer.Price, offer.Deposit));
        }

        var dead = system.Behaviours.Any(x => x.Dead && x.Id == b.Behaviour);
        var plan = t.Take(repair.Id, DeadMotor.LeavesOut(shipped.Map, dead));
        foreach (var action in plan.Removal)
        {
            if (b.Found is { } f && f.Step == action.Id && shipped.Map[f.Step].Fasteners.FirstOrDefault(x => x.Id == f.Fastener) is not null)
            {
                t.Say(2, new FastenerFound(f.Step, f.Fastener, f.Found, 1, f.Size, null));
            }

            t.Apart(action);
        }

        t.Back(plan, plan.Refit.Count);
        t.Prove();
        t.Close($"{char.ToUpperInvariant(repair.Title[0])}{repair.Title[1..]}.", null, null, b.Cause);
        return t.Done();
    }

    // Surely the motor, a new one ordered; out on the bench its wheel held a nest. Decided again with the blower out, order cancelled.
    private DemoJob NestFoundApart(int n, string vehicle, string who)
    {
        var t = Tell(n, vehicle, who, TimeSpan.FromDays(19), "Shakes the whole dash at full blast", null, "blower", "petrel-blower");
        t.Say(5, new ComplaintNoted("Shakes the whole dash at full blast", ["vibration"], "At top speed", 3, 3, "Stood under the limes all week"));
        t.Say(6, new DecisionMade(DecisionAct.Guess, "blower motor replaced", "Bearing, surely.", "motor"));
        t.Say(2, new PartChosen("blower-aftermarket", "Blower motor, aftermarket", 88, 0));
        var plan = t.Take("motor");
        plan.Removal.ToList().ForEach(t.Apart);
        t.Say(1, new SentBack(null, null, "A nest in the wheel; the bearing is good."));
        t.Say(0, new PartCancelled("A nest, not the motor."));
        t.Say(2, new ReadingTaken("wheel-looked", null, "debris"));
        t.Say(1, new DecisionMade(DecisionAct.Guess, "leaves and nest cleaned out, drain cleared", "Seen: the wheel is full of it.", "clean"));
        List<string> off = [.. plan.Removal.Select(a => a.Id)];
        var target = t.Map.TargetFor("clean");
        var rest = RoutePlanner.Plan(new PlanRequest(t.Map, target.Operation) { Done = off.ToHashSet(StringComparer.Ordinal), Position = plan.Removal[^1].Position }).Routes[0];
        t.Say(1, new RouteTaken(t.MapHash, target.Id, [.. off, .. rest.Removal.Select(a => a.Id)], [.. rest.Refit.Select(a => a.Id)]));
        rest.Removal.ToList().ForEach(t.Apart);
        t.Back(rest, rest.Refit.Count);
        t.Prove();
        t.Close("A nest in the wheel. The motor went back; nothing bought.", null, "Keep the intake clear of leaves.", "debris");
        return t.Done();
    }

    // The alternator of six weeks ago again: its belt had slipped all along.
    private DemoJob Comeback(int n, string vehicle, string who)
    {
        var t = Tell(n, vehicle, who, TimeSpan.FromDays(12), "Battery lamp again, on the same hill", null, "charging", "tideway-alternator", comebackOf: 27);
        t.Say(5, new ComplaintNoted("Battery lamp again, on the same hill", ["lamp-on"], "Uphill, loaded", 4, 4, "Alternator new six weeks ago"));
        t.Say(3, new ReadingTaken("belt-looked", null, "glazed"));
        t.Say(4, new ReadingTaken("loaded-volts", new Figure(12.1m, Units.Volt), null));
        t.Say(15, new DecisionMade(DecisionAct.Elsewhere, "belt or its tensioner renewed", "The belt slips under load; the new alternator is good, and the old one was.", "belt"));
        t.Prove();
        t.Close("Belt and tensioner renewed: it was the belt the first time as well.", null, null, "belt");
        return t.Done();
    }

    // Open: the starter of two months ago, the same click.
    private DemoJob CameBackToday(int n, string vehicle, string who)
    {
        var t = Tell(n, vehicle, who, TimeSpan.FromMinutes(45), "The same click as in autumn", now.AddHours(9), "starting", "fellgate-starter", comebackOf: 24);
        t.Say(4, new ComplaintNoted("The same click as in autumn", ["one-clunk"], "Since the spring tide", 5, 4, "Starter new two months ago"));
        Read(t, "battery-rest", 12.61m);
        return t.Done();
    }

    // The new motor is in; both tips stand high by unlike amounts, and the step that sets them is due.
    private DemoJob TipsToSet(int n, string vehicle, string who)
    {
        var t = Tell(n, vehicle, who, TimeSpan.FromMinutes(150), "Wipers stopped half way up, hum and stay there", now.AddHours(3), "wiper", "petrel-wiper");
        t.Say(5, new ComplaintNoted("Wipers stopped half way up, hum and stay there", ["hums-only"], "In the first snow", 4, 4, "A second-hand motor two years ago"));
        t.Say(4, new ReadingTaken("low-volts", new Figure(11.9m, Units.Volt), null));
        t.Say(3, new ReadingTaken("ground-drop", new Figure(0.06m, Units.Volt), null));
        t.Say(6, new ReadingTaken("linkage-moved", null, "free"));
        t.Say(3, new DecisionMade(DecisionAct.Guess, "wiper motor replaced", "Feed, ground and linkage are good; the current was not measured.", "motor"));
        var plan = t.Take("motor");
        plan.Removal.ToList().ForEach(a => t.Apart(a));
        t.Back(plan, plan.Refit.TakeWhile(a => a.Id != "tips-set").Count());
        return t.Done();
    }

    // Two tray screws would not turn: the wheel arch was the other way, seen with its cost before it was taken.
    private DemoJob SeizedTray(int n, string vehicle, string who)
    {
        var t = Tell(n, vehicle, who, TimeSpan.FromDays(4), "A clunk, lamps stay bright, nothing turns", null);
        Diagnosed(t, "one-clunk", "A clunk, lamps stay bright, nothing turns", 12.5m, 12.35m, 12.2m, 0.05m, 12.0m);
        t.Say(2, new DecisionMade(DecisionAct.Proven, "starter replaced", "Power, ground, command and free movement shown; it still does not crank.", "starter"));
        var off = TakeRoute(t).Removal.TakeWhile(a => a.Id != "undertray").ToList();
        off.ForEach(a => t.Apart(a));
        t.Say(6, new FastenerFound("undertray", "edge", FastenerState.Seized, 2, null, "both rear ones, soaked twice"));
        List<string> done = [.. off.Select(a => a.Id)];
        var plan = RoutePlanner.Plan(new PlanRequest(_map.Map, "compared") { Done = done.ToHashSet(StringComparer.Ordinal), Blocked = new HashSet<string> { "undertray" }, Position = off[^1].Position }).Routes[0];
        t.Say(1, new RouteTaken(_map.Hash, "starter-exchanged", [.. done, .. plan.Removal.Select(a => a.Id)], [.. plan.Refit.Select(a => a.Id)]));
        plan.Removal.ToList().ForEach(a => t.Apart(a));
        t.Back(plan, plan.Refit.Count);
        t.Prove(("cranking-volts", new Figure(11.0m, Units.Volt)));
        t.Say(1, new IntakeNoted(["Left sill scratched"], "HS 31", new MeterReading(148_200, MeterUnit.Kilometres)));
        t.Say(1, new SeenBeside("Front left brake pad thin, about 3 mm", SeenUrgency.Soon, null));
        t.Close("Starter open inside. The undertray's rear screws are seized; the way led through the wheel arch.", "Two undertray screws want drilling out at the next service.", null, "water");
        return t.Done();
    }

    // Surely the motor, and one was on order; the wheel was full of a nest, and the order was cancelled.
    private DemoJob NestInTheBlower(int n, string vehicle, string who)
    {
        var t = Tell(n, vehicle, who, TimeSpan.FromDays(17), "Roars like a saw and hardly blows. Must be the motor.", null, "blower");
        t.Say(6, new ComplaintNoted("Roars like a saw and hardly blows. Must be the motor.", ["weak", "roar"], "Always, since it stood under the limes", 3, 3, null));
        t.Say(4, new WaitingSet("Blower motor, aftermarket", now.AddDays(-15)));
        t.Say(3, new ReadingTaken("top-current", new Figure(26.5m, Units.Ampere), null));
        t.Say(3, new ReadingTaken("wheel-looked", null, "debris"));
        t.Say(1, new WaitingSet(null, null));
        t.Say(12, new DecisionMade(DecisionAct.Elsewhere, "leaves and nest cleaned out, drain cleared", "Wheel full of a nest; the motor runs true and quiet without it. The order for a motor is cancelled.", "clean"));
        t.Prove();
        t.Close("A nest in the blower wheel. Nothing bought.", null, "Keep the intake under the screen clear of leaves.", "debris");
        return t.Done();
    }

    private DemoJob StiffWindow(int n, string vehicle, string who)
    {
        var t = Tell(n, vehicle, who, TimeSpan.FromDays(6), "Driver's window crawls up", null, "window");
        t.Say(5, new ComplaintNoted("Driver's window crawls up", ["slow"], "Worse in the cold", 4, 4, null));
        t.Say(3, new ReadingTaken("travel-up", new Figure(9.1m, Units.Second), null));
        t.Say(2, new ReadingTaken("up-current", new Figure(9.8m, Units.Ampere), null));
        t.Say(7, new ReadingTaken("guides-greased", null, "better"));
        t.Say(5, new DecisionMade(DecisionAct.Elsewhere, "guides cleaned, greased, aligned", "Clearly better with clean guides: it was never the motor.", "guides"));
        t.Prove(("travel-up-after", new Figure(4.4m, Units.Second)), ("travel-down-after", new Figure(3.7m, Units.Second)));
        t.Say(3, new SettingKept(null, "window", "Within the band of good runs", true, new Dictionary<string, string>
        {
            ["window"] = "fellgate-door", ["ups"] = "4.4", ["up"] = "6.1 5.3 5.0 5.1 5.1 5.2 5.2 5.4 5.5 5.9 6.3 7.1", ["downs"] = "3.7", ["down"] = "3.3 2.9 2.8 2.9 2.9 2.9 3.0 3.1 3.1 3.2 3.5 4.3",
            ["did-loose"] = "yes", ["did-up"] = "yes", ["did-tight"] = "yes", ["did-down"] = "yes", ["did-again"] = "yes",
        }));
        t.Close("The run channels were dry; motor and regulator are good.", null, null, "dry");
        return t.Done();
    }

    // Open at Find, the first reading taken: current high, wheel slow.
    private DemoJob LeavesInTheBlower(int n, string vehicle, string who)
    {
        var t = Tell(n, vehicle, who, TimeSpan.FromMinutes(50), "Blower shakes the dash on full, weak on the feet", now.AddHours(5), "blower");
        t.Say(6, new ComplaintNoted("Blower shakes the dash on full, weak on the feet", ["weak", "vibration"], "Always", 3, 3, "Parked under trees all autumn"));
        t.Say(4, new ReadingTaken("relay-feed", new Figure(12.2m, Units.Volt), null));
        return t.Done();
    }

    private DemoJob DeadFan(int n, string vehicle, string who)
    {
        var t = Tell(n, vehicle, who, TimeSpan.FromMinutes(95), "Gets hot in the ferry queue, left fan stands", now.AddHours(20), "fan");
        t.Say(6, new ComplaintNoted("Gets hot in the ferry queue, left fan stands", ["this-dead", "quiet"], "When hot", 3, 3, null));
        t.Say(3, new ReadingTaken("fan-spun", null, "free"));
        t.Say(2, new ReadingTaken("blade-looked", null, "whole"));
        t.Say(6, new ReadingTaken("plug-volts", new Figure(12.1m, Units.Volt), null));
        return t.Done();
    }

    // Several warning lamps: one shorted sensor seen by several modules.
    private DemoJob ManyLamps(int n, string vehicle, string who)
    {
        var t = Tell(n, vehicle, who, TimeSpan.FromMinutes(70), "Christmas tree on the dash since the flooded causeway, axle lock greyed out", now.AddHours(30), "actuator");
        t.Say(7, new ComplaintNoted("Christmas tree on the dash since the flooded causeway, axle lock greyed out", ["several-lamps"], "Since the causeway", 2, 2, "Drove through salt water on Sunday"));
        t.Say(5, new ReadingTaken("codes", null, "several"));
        t.Say(8, new ReadingTaken("reference-plugged", new Figure(1.34m, Units.Volt), null));
        return t.Done();
    }

    // Ready to be walked through: opened this morning, nothing observed yet.
    private DemoJob OnlyClicks(int n, string vehicle, string who)
    {
        var t = Tell(n, vehicle, who, TimeSpan.FromMinutes(35), "It only clicks. Two days now, worse in the morning.", now.AddHours(7));
        return t.Done();
    }

    private DemoJob Closed(int n, string vehicle, string who, int daysAgo, string words, string behaviour, decimal rest, decimal sag, decimal atStarter, decimal ground, decimal switched, bool missing)
    {
        var t = Tell(n, vehicle, who, TimeSpan.FromDays(daysAgo), words, null);
        Diagnosed(t, behaviour, words, rest, sag, atStarter, ground, switched);
        t.Say(2, new DecisionMade(DecisionAct.Proven, "starter replaced", "Power, ground, command and free movement shown; it still does not crank.", "starter"));
        var plan = TakeRoute(t);
        foreach (var action in plan.Removal)
        {
            if (missing && action.Id == "undertray")
            {
                t.Say(1, new FastenerFound("undertray", "edge", FastenerState.Missing, 1, null, "gone before we began"));
            }

            t.Apart(action);
        }

        t.Back(plan, plan.Refit.Count);
        t.Prove(("cranking-volts", new Figure(11.1m, Units.Volt)));
        t.Close("Starter open inside: a solid clunk with the battery hardly moving.", missing ? "One undertray screw was missing and is on order." : null, "Battery is four years old: test it before winter.", "age");
        return t.Done();
    }

    // The first idea was the starter; the ground drop turned it.
    private DemoJob FoundElsewhere(int n, string vehicle, string who)
    {
        var t = Tell(n, vehicle, who, TimeSpan.FromDays(12), "Cranks so slowly it hardly starts. Surely the starter.", null);
        t.Say(6, new ComplaintNoted("Cranks so slowly it hardly starts. Surely the starter.", ["slow-crank"], "Always, since the gearbox was out", 4, 4, "Gearbox out and in two weeks ago"));
        Read(t, "battery-rest", 12.61m);
        Read(t, "battery-cranking", 11.3m);
        Read(t, "starter-volts-cranking", 9.4m);
        Read(t, "ground-drop-cranking", 1.6m);
        Read(t, "switched-terminal-cranking", 9.6m);
        t.Say(12, new DecisionMade(DecisionAct.Elsewhere, "engine ground strap cleaned", "1.6 V lost on the ground side while commanded: the strap was put back over paint. Cleaned bright, tightened.", "ground-path"));
        t.Prove(("cranking-volts", new Figure(11.2m, Units.Volt)));
        t.Close("The engine's ground strap sat on paint; the starter is good.", null, null, "repair");
        return t.Done();
    }

    private DemoJob WaitsForPart(int n, string vehicle, string who)
    {
        var t = Tell(n, vehicle, who, TimeSpan.FromHours(26), "One clunk and that is it", now.AddHours(28));
        Diagnosed(t, "one-clunk", "One clunk and that is it", 12.52m, 12.4m, 12.3m, 0.03m, 12.1m);
        t.Say(3, new DecisionMade(DecisionAct.Proven, "starter replaced", "Power, ground, command and free movement shown; it still does not crank.", "starter"));
        t.Say(2, new WaitingSet("Starter, rebuilt", now.AddHours(20)));
        return t.Done();
    }

    private DemoJob HalfApart(int n, string vehicle, string who)
    {
        var t = Tell(n, vehicle, who, TimeSpan.FromHours(3), "Starts on the third or fourth turn of the key", now.AddHours(3));
        Diagnosed(t, "several-tries", "Starts on the third or fourth turn of the key", 12.57m, 12.2m, 12.1m, 0.06m, 11.9m);
        t.Say(2, new DecisionMade(DecisionAct.Proven, "starter replaced", "Power, ground, command and free movement shown; it still fails three times in four.", "starter"));
        var plan = TakeRoute(t);
        foreach (var action in plan.Removal.TakeWhile(a => a.Id != "main-nut"))
        {
            if (action.Id == "undertray")
            {
                var picture = new Guid($"91c00000-0000-4000-8000-{n:D12}");
                t.Say(1, new PictureTaken("undertray", Convert.ToHexStringLower(System.Security.Cryptography.SHA256.HashData(UndertrayPicture)), 960, 720, "Undertray from below", null), picture);
                t.Say(1, new PinsSet(picture, [.. new (decimal X, decimal Y)[] { (30, 18.9m), (70.8m, 18.9m), (86.7m, 36.7m), (88.3m, 64.4m), (72.5m, 83.3m), (30, 83.3m), (10.8m, 64.4m), (12.5m, 36.7m) }.Select(p => new Pin(PinKind.Screw, [new PinPoint(p.X, p.Y)], null)),
                    new Pin(PinKind.Wire, [new PinPoint(15, 26.7m), new PinPoint(32, 34.4m), new PinPoint(50, 33.3m), new PinPoint(65, 31), new PinPoint(85, 43.3m)], "lamp wire")]));
            }

            if (action.Id == "heat-shield")
            {
                t.Say(2, new FastenerFound("heat-shield", "shield-bolts", FastenerState.Broken, 1, null, "head off, rusted through"));
            }

            t.Apart(action);
        }

        return t.Done();
    }

    // The new starter is in; the test before the covers is half done.
    private DemoJob AtTheGate(int n, string vehicle, string who)
    {
        var t = Tell(n, vehicle, who, TimeSpan.FromHours(4), "Clicks once, lights stay bright", now.AddHours(2));
        Diagnosed(t, "one-clunk", "Clicks once, lights stay bright", 12.55m, 12.4m, 12.25m, 0.04m, 12.0m);
        t.Say(2, new DecisionMade(DecisionAct.Proven, "starter replaced", "Power, ground, command and free movement shown; it still does not crank.", "starter"));
        var plan = TakeRoute(t);
        plan.Removal.ToList().ForEach(a => t.Apart(a));
        // The rebuilt one came with another nut: the step took another socket at once.
        t.Say(1, new PartCompared("nut-size", false, "hex-15 on the new one"));
        t.Say(0, new FastenerFound("main-nut", "stud-nut", FastenerState.OtherSize, 1, "hex-15", "on the new part"));
        t.Back(plan, plan.Refit.TakeWhile(a => a.Id != "crank-test").Count());
        t.Say(3, new ProofTaken("cable-drop-refit", new Figure(0.21m, Units.Volt), null));
        return t.Done();
    }

    private DemoJob AlmostProved(int n, string vehicle, string who)
    {
        var t = Tell(n, vehicle, who, TimeSpan.FromHours(5), "Nothing but a click since Monday", now.AddHours(1.5));
        Diagnosed(t, "one-clunk", "Nothing but a click since Monday", 12.49m, 12.35m, 12.2m, 0.05m, 12.0m);
        t.Say(2, new DecisionMade(DecisionAct.Proven, "starter replaced", "Power, ground, command and free movement shown; it still does not crank.", "starter"));
        var plan = TakeRoute(t);
        plan.Removal.ToList().ForEach(a => t.Apart(a));
        t.Back(plan, plan.Refit.Count);
        t.Say(4, new ProofTaken("five-starts", null, "five"));
        return t.Done();
    }

    // Full volts at the starter with the key off look like a good cable; they show nothing.
    // Decided, and nobody has ever drawn this vehicle's dash.
    private DemoJob NoMapYet(int n, string vehicle, string who)
    {
        var t = Tell(n, vehicle, who, TimeSpan.FromHours(3), "Howls since the beach, then smells", now.AddDays(2), "blower");
        t.Say(5, new ComplaintNoted("Howls since the beach, then smells", ["grind"], "At every speed", 5, 5, null));
        t.Say(20, new DecisionMade(DecisionAct.Guess, t.Job.System.Repair("motor")!.Title, "Bearing rough by hand through the grille; sand in it.", "motor"));
        return t.Done();
    }

    // Half way in without a map: what comes off is told as it goes.
    private DemoJob RecordedAsItGoes(int n, string vehicle, string who)
    {
        var t = Tell(n, vehicle, who, TimeSpan.FromHours(2), "Fan roars all the time, even cold", now.AddHours(30), "fan");
        t.Say(5, new ComplaintNoted("Fan roars all the time, even cold", ["for-ever"], "From the first start", 5, 5, null));
        t.Say(20, new DecisionMade(DecisionAct.Guess, t.Job.System.Repair("motor")!.Title, "Runs unevenly on its own feed, scrapes.", "motor"));
        t.Say(3, new RecordingBegun(null, false, []));
        t.Say(4, new StepDone(WorkPhase.Apart, "codes-saved", null, []));
        t.Say(2, new GroupOut("nut", "hex-10", 1, 1));
        t.Say(2, new StepDone(WorkPhase.Apart, "negative-off", 1, []));
        t.Say(2, new GroupOut("push-pin", null, 6, 2));
        t.Say(3, new TakenOff(TakenAct.Part, "Air guide", "bay"));
        t.Say(6, new WayTried("from below, past the beam", 6, "bay"));
        t.Say(2, new TakenOff(TakenAct.Plug, "Fan plug", "bay"));
        t.Say(2, new TakenOff(TakenAct.Aside, "Horn bracket", "bay"));
        t.Say(3, new GroupOut("bolt", "hex-10", 2, 3, 22, "M6", Hidden: true));
        return t.Done();
    }

    /// <summary>The job out of which the demo's map of a Tideway's fan came.</summary>
    public static Guid FanRecorded => JobId(65);

    // Without a map from complaint to sheet; its way in was kept for the next one.
    private DemoJob RecordedToTheEnd(int n, string vehicle, string who)
    {
        var t = Tell(n, vehicle, who, TimeSpan.FromDays(8), "Runs hot in the ferry queue", null, "fan");
        t.Say(5, new ComplaintNoted("Runs hot in the ferry queue", ["this-dead"], "Standing still", 3, 3, null));
        t.Say(12, new DecisionMade(DecisionAct.Guess, t.Job.System.Repair("motor")!.Title, "Feed and ground good, and it stands.", "motor"));
        t.Say(2, new RecordingBegun(null, false, []));
        t.Say(3, new StepDone(WorkPhase.Apart, "codes-saved", null, []));
        t.Say(1, new GroupOut("nut", "hex-10", 1, 1));
        t.Say(2, new StepDone(WorkPhase.Apart, "negative-off", 1, []));
        t.Say(1, new GroupOut("push-pin", null, 8, 2));
        t.Say(3, new TakenOff(TakenAct.Part, "Upper grille cover", "bay"));
        t.Say(1, new GroupOut("screw", "T25", 2, 3));
        t.Say(4, new TakenOff(TakenAct.Part, "Intake snorkel", "bay"));
        t.Say(2, new TakenOff(TakenAct.Plug, "Fan plug", "bay"));
        t.Say(2, new TakenOff(TakenAct.Aside, "Loom", "bay"));
        t.Say(2, new GroupOut("bolt", "hex-10", 4, 4, 16, "M6"));
        t.Say(6, new TakenOff(TakenAct.Part, "Fan with its frame", "bay", IsTarget: true));
        var frame = t.Job.Things[^1];
        t.Say(1, new OnlyThis(frame.Id, [.. t.Job.Things.Where(x => x.Press?.Payload.What is "Upper grille cover" or "Fan plug").Select(x => x.Id)]));
        t.Say(1, new FigureTold(frame.Id, t.Job.FastenersOf(frame.Id)[0].Id, FigureFrom.Maker, new Figure(9, Units.NewtonMetre), "maker's manual"));
        foreach (var piece in t.Job.NotCarried)
        {
            t.Say(1, new PartCarried(piece.Id));
        }

        t.BackAsRecorded();
        t.Prove();
        t.Close("Fan motor renewed, in its frame.", null, null, "age");
        return t.Done();
    }

    // The next one on that model: decided, and the way in is there.
    private DemoJob SecondOnItsWay(int n, string vehicle, string who)
    {
        var t = Tell(n, vehicle, who, TimeSpan.FromHours(1), "Fan never comes in, steams on the hill", now.AddHours(28), "fan");
        t.Say(5, new ComplaintNoted("Fan never comes in, steams on the hill", ["this-dead"], "Every time", 4, 4, null));
        t.Say(15, new DecisionMade(DecisionAct.Guess, t.Job.System.Repair("motor")!.Title, "Stands on its own feed.", "motor"));
        return t.Done();
    }

    private DemoJob MisleadingReading(int n, string vehicle, string who)
    {
        var t = Tell(n, vehicle, who, TimeSpan.FromMinutes(80), "Push the button, clatter, nothing", now.AddHours(26));
        t.Say(5, new ComplaintNoted("Push the button, clatter, nothing", ["chatter"], "Always since yesterday's rain", 5, 5, null));
        Read(t, "battery-rest", 12.6m);
        Read(t, "main-terminal-key-off", 12.58m);
        t.Say(2, new ReadingTaken("lamp-main-terminal", null, "bright"));
        return t.Done();
    }

    private static void Diagnosed(DemoTelling t, string behaviour, string words, decimal rest, decimal sag, decimal atStarter, decimal ground, decimal switched)
    {
        t.Say(5, new ComplaintNoted(words, [behaviour], "Cold and warm", 5, behaviour == "several-tries" ? 4 : 5, null));
        Read(t, "battery-rest", rest);
        Read(t, "battery-cranking", sag);
        Read(t, "starter-volts-cranking", atStarter);
        Read(t, "ground-drop-cranking", ground);
        Read(t, "switched-terminal-cranking", switched);
        t.Say(5, new ReadingTaken("engine-turns", null, "turns"));
        // It decides: read a second time, nearly the same.
        t.Say(1, new ReadingTaken("starter-volts-cranking", new Figure(atStarter + 0.02m, Units.Volt), null));
    }

    private static void Read(DemoTelling t, string test, decimal volts) => t.Say(3, new ReadingTaken(test, new Figure(volts, Units.Volt), null));

    private static WayPlan TakeRoute(DemoTelling t)
    {
        t.Say(2, new PartChosen("starter-rebuilt", "Starter, rebuilt", 245, 60));
        return t.Take("starter");
    }

    private DemoTelling Tell(int n, string vehicle, string who, TimeSpan ago, string words, DateTimeOffset? promised, string family = "starting", string? map = null, double pace = 1, int? comebackOf = null)
    {
        var v = fleet.Vehicle(vehicle);
        var t = new DemoTelling(library, JobId(n), fleet.Person(who).Id, ago, map is null ? library.MapsFor(family, v.Model).FirstOrDefault() : library.Map(map)) { Pace = pace, Second = fleet.Person(who).Role == "apprentice" ? fleet.Person("Bram").Id : null };
        t.Say(0, new JobOpened(v.Id, v.Name, v.Model, v.NominalVolts, family, words, promised, comebackOf is { } first ? JobId(first) : null));
        return t;
    }

    private static Guid JobId(int n) => new($"10b00000-0000-4000-8000-{n:D12}");
}
