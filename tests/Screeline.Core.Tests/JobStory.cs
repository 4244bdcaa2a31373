using Screeline.Core.Access;
using Screeline.Core.Access.Planning;
using Screeline.Core.Diagnosis;
using Screeline.Core.Fastening;
using Screeline.Core.Jobs;
using Screeline.Core.Quantities;
using Screeline.Library;
using Screeline.Library.Demo;

namespace Screeline.Core.Tests;

/// <summary>Tells jobs entry by entry for tests.</summary>
internal sealed class JobStory
{
    public static readonly ShippedLibrary Library = ShippedLibrary.Load();
    public static readonly ShippedMap Map = Library.MapsFor("starting", "Brannock Tideway")[0];
    public static readonly WayPlan Plan = RoutePlanner.Best(Map.Map);
    public static readonly JobKnowledge Knowledge = new(new Families(Library), new Dictionary<string, AccessMap> { [Map.Hash] = Map.Map });
    public static readonly Guid Ansa = new("5c0a0000-0000-4000-8000-000000000001");

    private static readonly DateTimeOffset Begin = new(2036, 5, 4, 8, 0, 0, TimeSpan.FromHours(2));
    private readonly Guid _job = Guid.NewGuid();

    public List<Entry> Entries { get; } = [];

    public Job Job => Job.Fold(Entries, Knowledge);

    /// <summary>The way that this story takes.</summary>
    public WayPlan Way { get; init; } = Plan;

    /// <summary>Another way, on which wheel bolts come off.</summary>
    public static readonly WayPlan WheelWay = RoutePlanner.Plan(new PlanRequest(Map.Map, Map.Map.Targets[0].Operation) { Blocked = new HashSet<string> { "undertray" } }).Routes[0];

    public JobStory(string family = "starting") => Say(new JobOpened(Guid.NewGuid(), "Tideway 3", "Brannock Tideway", 12, family, "It only clicks", null));

    public Entry Say(Payload payload, Guid? id = null, Guid? by = null)
    {
        var entry = new Entry(new EntryDraft(id ?? Guid.NewGuid(), _job, Entries.Count, by ?? Ansa, Begin.AddMinutes(Entries.Count), payload), Entries.Count + 1, by ?? Ansa, Begin.AddMinutes(Entries.Count));
        Entries.Add(entry);
        return entry;
    }

    public JobStory Noted()
    {
        Say(new ComplaintNoted("It only clicks", ["one-clunk"], "always", 5, 5, null));
        return this;
    }

    public JobStory Proven()
    {
        Noted();
        foreach (var (test, volts) in new[] { ("battery-rest", 12.6m), ("battery-cranking", 12.4m), ("starter-volts-cranking", 12.3m), ("switched-terminal-cranking", 12m) })
        {
            Say(new ReadingTaken(test, new Figure(volts, Units.Volt), null));
        }

        Say(new ReadingTaken("engine-turns", null, "turns"));
        // It decides: read a second time.
        Say(new ReadingTaken("starter-volts-cranking", new Figure(12.32m, Units.Volt), null));
        Say(new DecisionMade(DecisionAct.Proven, "starter replaced", "shown"));
        return this;
    }

    public JobStory OnItsWay()
    {
        Proven();
        Say(new RouteTaken(Map.Hash, Map.Map.Targets[0].Id, [.. Way.Removal.Select(a => a.Id)], [.. Way.Refit.Select(a => a.Id)]));
        return this;
    }

    public JobStory Apart(string? before = null)
    {
        OnItsWay();
        foreach (var id in Way.Removal.Select(a => a.Id).TakeWhile(id => id != before))
        {
            Off(id);
        }

        return this;
    }

    public Entry Off(string id) => Say(new StepDone(WorkPhase.Apart, id, Map.Map[id].Fasteners.Count > 0 ? Job.Count.FreeCell : null, []));

    public Entry On(string id) => Say(new StepDone(WorkPhase.Refit, id, null, [.. (Map.Map.Operation(id)?.Fasteners ?? []).Select(f => FastenerCount.Expected(Job, id, f))]));

    public void Gate()
    {
        Say(new ProofTaken("cable-drop-refit", new Figure(0.2m, Units.Volt), null));
        Say(new ProofTaken("ground-drop-refit", new Figure(0.1m, Units.Volt), null));
        Say(new ProofTaken("nothing-rubs", null, "clear"));
    }

    public JobStory Together(string? before = null)
    {
        Apart();
        foreach (var id in Way.Refit.Select(a => a.Id).TakeWhile(id => id != before))
        {
            if (id == "crank-test")
            {
                Gate();
            }

            On(id);
        }

        return this;
    }

    public JobStory Proved()
    {
        Together();
        foreach (var check in Job.Checks.Where(c => c.Moment == ProofMoment.End))
        {
            Say(DemoTelling.Good(check, 12));
        }

        foreach (var piece in Job.NotCarried)
        {
            Say(new PartCarried(piece.Id));
        }

        foreach (var (tool, _) in Job.ToolsLeft)
        {
            Say(new ToolBack(tool));
        }

        return this;
    }
}
