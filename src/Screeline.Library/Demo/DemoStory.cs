using Screeline.Core.Access;
using Screeline.Core.Access.Planning;
using Screeline.Core.Fastening;
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
    ];

    // The new motor is in; both tips stand high by unlike amounts, and the step that sets them is due.
    private DemoJob TipsToSet(int n, string vehicle, string who)
    {
        var map = library.MapsFor("wiper", "Orlo Petrel")[0];
        var t = Tell(n, vehicle, who, TimeSpan.FromMinutes(150), "Wipers stopped half way up, hum and stay there", now.AddHours(3), "wiper", map.Map);
        t.Say(5, new ComplaintNoted("Wipers stopped half way up, hum and stay there", ["hums-only"], "In the first snow", 4, 4, "A second-hand motor two years ago"));
        t.Say(4, new ReadingTaken("low-volts", new Figure(11.9m, Units.Volt), null));
        t.Say(3, new ReadingTaken("ground-drop", new Figure(0.06m, Units.Volt), null));
        t.Say(6, new ReadingTaken("linkage-moved", null, "free"));
        t.Say(3, new DecisionMade(DecisionAct.Guess, "wiper motor replaced", "Feed, ground and linkage are good; the current was not measured.", "motor"));
        var plan = RoutePlanner.Best(map.Map);
        t.Say(2, new RouteTaken(map.Hash, "motor-exchanged", [.. plan.Removal.Select(a => a.Id)], [.. plan.Refit.Select(a => a.Id)]));
        plan.Removal.ToList().ForEach(a => Apart(t, a));
        Back(t, plan, plan.Refit.TakeWhile(a => a.Id != "tips-set").Count());
        return t.Done();
    }

    // Two tray screws would not turn: the wheel arch was the other way, seen with its cost before it was taken.
    private DemoJob SeizedTray(int n, string vehicle, string who)
    {
        var t = Tell(n, vehicle, who, TimeSpan.FromDays(4), "A clunk, lamps stay bright, nothing turns", null);
        Diagnosed(t, "one-clunk", "A clunk, lamps stay bright, nothing turns", 12.5m, 12.35m, 12.2m, 0.05m, 12.0m);
        t.Say(2, new DecisionMade(DecisionAct.Proven, "starter replaced", "Power, ground, command and free movement shown; it still does not crank.", "starter"));
        var off = TakeRoute(t).Removal.TakeWhile(a => a.Id != "undertray").ToList();
        off.ForEach(a => Apart(t, a));
        t.Say(6, new FastenerFound("undertray", "edge", FastenerState.Seized, 2, null, "both rear ones, soaked twice"));
        List<string> done = [.. off.Select(a => a.Id)];
        var plan = RoutePlanner.Plan(new PlanRequest(_map.Map, "compared") { Done = done.ToHashSet(StringComparer.Ordinal), Blocked = new HashSet<string> { "undertray" }, Position = off[^1].Position }).Routes[0];
        t.Say(1, new RouteTaken(_map.Hash, "starter-exchanged", [.. done, .. plan.Removal.Select(a => a.Id)], [.. plan.Refit.Select(a => a.Id)]));
        plan.Removal.ToList().ForEach(a => Apart(t, a));
        Back(t, plan, plan.Refit.Count);
        Proved(t, 11.0m);
        t.Say(4, new HandedBack("Starter open inside. The undertray's rear screws are seized; the way led through the wheel arch.", "Two undertray screws want drilling out at the next service.", null));
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
        t.Say(3, new ProofTaken("all-speeds", null, "all"));
        t.Say(2, new ProofTaken("drain-clear", null, "clear"));
        t.Say(4, new HandedBack("A nest in the blower wheel. Nothing bought.", null, "Keep the intake under the screen clear of leaves."));
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
        t.Say(2, new ProofTaken("travel-up-after", new Figure(4.4m, Units.Second), null));
        t.Say(2, new ProofTaken("reverses-after", null, "reverses"));
        t.Say(3, new SettingKept(null, "window", "Within the band of good runs", true, new Dictionary<string, string>
        {
            ["window"] = "fellgate-door", ["ups"] = "4.4", ["up"] = "6.1 5.3 5.0 5.1 5.1 5.2 5.2 5.4 5.5 5.9 6.3 7.1", ["downs"] = "3.7", ["down"] = "3.3 2.9 2.8 2.9 2.9 2.9 3.0 3.1 3.1 3.2 3.5 4.3",
            ["did-loose"] = "yes", ["did-up"] = "yes", ["did-tight"] = "yes", ["did-down"] = "yes", ["did-again"] = "yes",
        }));
        t.Say(4, new HandedBack("The run channels were dry; motor and regulator are good.", null, null));
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

            Apart(t, action);
        }

        Back(t, plan, plan.Refit.Count);
        Proved(t, 11.1m);
        t.Say(4, new HandedBack("Starter open inside: a solid clunk with the battery hardly moving.", missing ? "One undertray screw was missing and is on order." : null, "Battery is four years old: test it before winter."));
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
        Proved(t, 11.2m);
        t.Say(5, new HandedBack("The engine's ground strap sat on paint; the starter is good.", null, null));
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

            Apart(t, action);
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
        plan.Removal.ToList().ForEach(a => Apart(t, a));
        // The rebuilt one came with another nut: the step took another socket at once.
        t.Say(1, new PartCompared("nut-size", false, "hex-15 on the new one"));
        t.Say(0, new FastenerFound("main-nut", "stud-nut", FastenerState.OtherSize, 1, "hex-15", "on the new part"));
        Back(t, plan, plan.Refit.TakeWhile(a => a.Id != "crank-test").Count());
        t.Say(3, new ProofTaken("cable-drop-refit", new Figure(0.21m, Units.Volt), null));
        return t.Done();
    }

    private DemoJob AlmostProved(int n, string vehicle, string who)
    {
        var t = Tell(n, vehicle, who, TimeSpan.FromHours(5), "Nothing but a click since Monday", now.AddHours(1.5));
        Diagnosed(t, "one-clunk", "Nothing but a click since Monday", 12.49m, 12.35m, 12.2m, 0.05m, 12.0m);
        t.Say(2, new DecisionMade(DecisionAct.Proven, "starter replaced", "Power, ground, command and free movement shown; it still does not crank.", "starter"));
        var plan = TakeRoute(t);
        plan.Removal.ToList().ForEach(a => Apart(t, a));
        Back(t, plan, plan.Refit.Count);
        t.Say(4, new ProofTaken("five-starts", null, "five"));
        return t.Done();
    }

    // Full volts at the starter with the key off look like a good cable; they show nothing.
    private DemoJob MisleadingReading(int n, string vehicle, string who)
    {
        var t = Tell(n, vehicle, who, TimeSpan.FromMinutes(80), "Push the button, clatter, nothing", now.AddHours(26));
        t.Say(5, new ComplaintNoted("Push the button, clatter, nothing", ["chatter"], "Always since yesterday's rain", 5, 5, null));
        Read(t, "battery-rest", 12.6m);
        Read(t, "main-terminal-key-off", 12.58m);
        t.Say(2, new ReadingTaken("lamp-main-terminal", null, "bright"));
        return t.Done();
    }

    private static void Diagnosed(Telling t, string behaviour, string words, decimal rest, decimal sag, decimal atStarter, decimal ground, decimal switched)
    {
        t.Say(5, new ComplaintNoted(words, [behaviour], "Cold and warm", 5, behaviour == "several-tries" ? 4 : 5, null));
        Read(t, "battery-rest", rest);
        Read(t, "battery-cranking", sag);
        Read(t, "starter-volts-cranking", atStarter);
        Read(t, "ground-drop-cranking", ground);
        Read(t, "switched-terminal-cranking", switched);
        t.Say(5, new ReadingTaken("engine-turns", null, "turns"));
    }

    private static void Read(Telling t, string test, decimal volts) => t.Say(3, new ReadingTaken(test, new Figure(volts, Units.Volt), null));

    private WayPlan TakeRoute(Telling t)
    {
        var plan = RoutePlanner.Best(_map.Map);
        t.Say(2, new PartChosen("starter-rebuilt", "Starter, rebuilt", 245, 60));
        t.Say(3, new RouteTaken(_map.Hash, "starter-exchanged", [.. plan.Removal.Select(a => a.Id)], [.. plan.Refit.Select(a => a.Id)]));
        return plan;
    }

    private static void Apart(Telling t, WalkAction action)
    {
        if (t.Map[action.Id].WaitMinutes is > 0 and var wait)
        {
            t.Say(1, new TimerStarted(action.Id, TimerKind.Cool, wait, "Exhaust cooling"));
            t.Say((double)wait, new NoteAdded(action.Id, "Touched the downpipe: hand-warm."));
        }

        t.Say((double)action.Work.Likely, new StepDone(WorkPhase.Apart, action.Id, t.Map[action.Id].Fasteners.Count > 0 ? t.NextCell() : null, []));
        if (action.Id == "compared")
        {
            t.Say(1, new PartCompared("teeth", true, null));
            t.Say(1, new PartCompared("flange", true, null));
            t.Say(2, new PartCarried("loom-bracket"));
        }
    }

    // What was measured at the gates of the way back.
    private static readonly Dictionary<string, ProofTaken> BeforeCovers = new(StringComparer.Ordinal)
    {
        ["cable-drop-refit"] = new("cable-drop-refit", new Figure(0.18m, Units.Volt), null), ["ground-drop-refit"] = new("ground-drop-refit", new Figure(0.06m, Units.Volt), null),
        ["nothing-rubs"] = new("nothing-rubs", null, "clear"), ["clear-of-cowl"] = new("clear-of-cowl", null, "clear"),
    };

    private static void Back(Telling t, WayPlan plan, int steps)
    {
        foreach (var action in plan.Refit.Take(steps))
        {
            foreach (var check in t.Map.Step(action.Id)?.Checks ?? [])
            {
                t.Say(2, BeforeCovers[check]);
            }

            var fasteners = t.Map.Operation(action.Id)?.Fasteners ?? [];
            t.Say((double)action.Work.Likely, new StepDone(WorkPhase.Refit, action.Id, null, [.. fasteners.Select(f => Outcome(t, action.Id, f))]));
            foreach (var f in fasteners.Where(f => f.Torque is not null))
            {
                t.Say(0, new TorqueSet(action.Id, f.Id, f.Torque!.Value, f.Torque.Value.Base switch { > 120 => null, >= 24 => "torque-wrench-20-120", >= 5 => "torque-wrench-5-25", >= 1.2m => "torque-wrench-1-6", _ => null }));
            }
        }
    }

    private static FastenerOutcome Outcome(Telling t, string step, Fastener f)
    {
        var missing = t.Found.Where(x => x.Step == step && x.Fastener == f.Id && x.Found == FastenerState.Missing).Sum(x => x.Count);
        return f.Reuse == "renew" ? new FastenerOutcome(f.Id, 0, f.Count, 0) : new FastenerOutcome(f.Id, f.Count - missing, 0, missing);
    }

    private static void Proved(Telling t, decimal cranking)
    {
        t.Say(6, new ProofTaken("five-starts", null, "five"));
        t.Say(1, new ProofTaken("cranking-volts", new Figure(cranking, Units.Volt), null));
        t.Say(2, new ProofTaken("charging-idle", new Figure(14.1m, Units.Volt), null));
        t.Say(2, new ProofTaken("codes-clear", null, "none"));
        t.Say(3, new ProofTaken("restored", null, "restored"));
        foreach (var tool in t.ToolsLeft)
        {
            t.Say(0, new ToolBack(tool));
        }
    }

    private Telling Tell(int n, string vehicle, string who, TimeSpan ago, string words, DateTimeOffset? promised, string family = "starting", AccessMap? map = null)
    {
        var v = fleet.Vehicle(vehicle);
        var t = new Telling(n, fleet.Person(who).Id, ago, map ?? _map.Map);
        t.Say(0, new JobOpened(v.Id, v.Name, v.Model, v.NominalVolts, family, words, promised));
        return t;
    }

    // Keeps the clock while a job is told.
    private sealed class Telling(int n, Guid actor, TimeSpan ago, AccessMap map)
    {
        public AccessMap Map => map;

        private readonly List<DemoEntry> _entries = [];
        private TimeSpan _ago = ago;
        private int _cell;

        public IEnumerable<FastenerFound> Found => _entries.Select(e => e.Payload).OfType<FastenerFound>();

        public IEnumerable<string> ToolsLeft =>
            _entries.Select(e => e.Payload).OfType<StepDone>().Where(s => s.Phase == WorkPhase.Apart).SelectMany(s => map[s.Step].Leaves).Distinct().ToList();

        public int NextCell() => ++_cell;

        public void Say(double minutesLater, Payload payload, Guid? id = null)
        {
            // A story never runs past now, however long its steps take.
            var later = _ago - TimeSpan.FromMinutes(minutesLater);
            _ago = later > TimeSpan.FromSeconds(30) ? later : _ago;
            _entries.Add(new DemoEntry(_ago, actor, payload, id));
        }

        public DemoJob Done() => new(new Guid($"10b00000-0000-4000-8000-{n:D12}"), _entries);
    }
}
