using Screeline.Core.Access;
using Screeline.Core.Jobs;
using Screeline.Core.Proof;

namespace Screeline.Web.Drawing;

/// <summary>Entries in a few words, for histories, undo buttons and what others did meanwhile.</summary>
public static class Words
{
    /// <summary>An entry's content in a few words.</summary>
    public static string Of(Payload payload, Job job) => payload switch
    {
        JobOpened => "job opened",
        ComplaintNoted p => $"observed: {string.Join(", ", p.Behaviours.Select(b => job.System.Behaviours.FirstOrDefault(x => x.Id == b)?.Title ?? b))}",
        ReadingTaken p => job.System.Test(p.Test) is { } test ? $"{test.Title}: {ProofSheet.Told(test, p.Value, p.Choice)}" : p.Test,
        DecisionMade p => $"decided: {p.Repair} ({Act(p.Act)})",
        RouteTaken p => $"way in taken, {p.Removal.Count} steps",
        StepDone p => Step(job.Map, p),
        FastenerFound p => $"{Found(p.Found)}: {Holds(job.Map, p.Step, p.Fastener)}{(p.Size is null ? "" : $", {p.Size} fits")}",
        TorqueSet p => $"{p.Value} set: {Holds(job.Map, p.Step, p.Fastener)}",
        ProofTaken p => job.System.Check(p.Check) is { } check ? $"{check.Title}: {ProofSheet.Told(check, p.Value, p.Choice)}" : p.Check,
        ToolBack p => $"back in its place: {job.ToolTitle(p.Tool)}",
        WaitingSet p => p.For is null ? "waits no longer" : $"waits for {p.For}",
        HandedBack => "handed back",
        EntryWithdrawn p => $"withdrawn: {Entry(job, p.Entry)}",
        EntryCorrected p => $"corrected: {Entry(job, p.Entry)}",
        _ => "",
    };

    /// <summary>The ground of a decision.</summary>
    public static string Act(DecisionAct act) => act switch
    {
        DecisionAct.Proven => "proven",
        DecisionAct.Guess => "a guess",
        _ => "fault elsewhere",
    };

    /// <summary>How a fastener was found.</summary>
    public static string Found(FastenerState state) => state switch
    {
        FastenerState.OtherSize => "Other size",
        FastenerState.Missing => "Missing on arrival",
        FastenerState.Seized => "Seized",
        _ => "Broken",
    };

    /// <summary>What a step's tick says.</summary>
    public static string Step(AccessMap? map, StepDone p) =>
        map is null ? p.Step
        : map.Step(p.Step) is { } step ? step.DoneWords
        : map.Operation(p.Step) is { } operation ? (p.Phase == WorkPhase.Apart ? operation.DoneWords : operation.UndoneWords)
        : p.Step;

    private static string Holds(AccessMap? map, string step, string fastener) =>
        map?.Operation(step)?.Fasteners.FirstOrDefault(f => f.Id == fastener)?.Holds ?? fastener;

    private static string Entry(Job job, Guid id) => job.History.FirstOrDefault(h => h.Entry.Id == id)?.Entry is { } entry ? Of(entry.Payload, job) : "an entry not yet here";
}
