using Screeline.Core.Access;
using Screeline.Core.Jobs;
using Screeline.Core.Proof;

namespace Screeline.Web.Drawing;

/// <summary>Entries in a few words, for histories, undo buttons and what others did meanwhile.</summary>
public static class EntryWords
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
        FastenerFound p => $"{Found(p.Found)}: {Holds(job, p.Step, p.Fastener)}{(p.Size is null ? "" : $", {p.Size} fits")}",
        TorqueSet p => $"{p.Value} set: {Holds(job, p.Step, p.Fastener)}",
        ProofTaken p => job.Check(p.Check) is { } check ? $"{check.Title}: {ProofSheet.Told(check, p.Value, p.Choice)}" : p.Check,
        ExtraFound p => $"found besides the map: {p.Count} {p.Kind.Replace('-', ' ')}, {p.Holds}",
        StepException p => $"clings: {job.Map?.Operation(p.Step)?.Title ?? p.Step}",
        TemporaryConnection p => p.On ? $"plugged back for a moment: {p.What}" : $"off again: {p.What}",
        FastenersCounted p => $"counted {p.Count}: {Holds(job, p.Step, p.Fastener)}",
        TimerStarted p => $"waits {Told.Minutes(p.Minutes)}: {p.What}",
        TimerEnded => "wait ended early",
        NoteAdded p => $"note: {p.Text}",
        SettingKept p => $"{Setting.SettingWork.Titles.GetValueOrDefault(p.Setting, p.Setting).ToLowerInvariant()}: {p.Words}",
        PictureTaken p => p.Over is null ? "picture taken" : "picture of the same place",
        PinsSet p => $"{p.Pins.Count} pins on a picture",
        PartCompared p => $"old and new {(p.Same ? "alike" : "differ")}: {job.Part?.Points.FirstOrDefault(x => x.Id == p.Point)?.Title ?? p.Point}{(p.Found is null ? "" : $", {p.Found}")}",
        PartChosen p => $"part taken: {p.Title}",
        PartCarried p => $"went over: {job.Part?.Carried.FirstOrDefault(x => x.Id == p.Piece)?.Title ?? p.Piece}",
        CoreReturned => "old core went back",
        ToolLeft p => $"stays in the vehicle: {job.ToolTitle(p.Tool)}",
        LeftOverFound p => $"left over: {p.Count} {p.What}",
        LeftOverSettled p => $"left over settled: {p.How}",
        DifferenceSigned p => $"difference signed: {p.Reason}",
        ToolBack p => $"back in its place: {job.ToolTitle(p.Tool)}",
        WaitingSet p => p.For is null ? "waits no longer" : $"waits for {p.For}",
        HandedBack => "handed back",
        SentBack p => $"sent back{(p.Check is { } failed ? $" by “{job.Check(failed)?.Title ?? failed}”" : "")}: {(p.Step is { } again && job.Map is { } map ? Refit.Title(map, again) : "to Find")}. {p.Why}",
        PartCancelled p => $"order cancelled: {p.Why}",
        SecondWanted p => $"waits for a second person: {p.Why}",
        SecondSigned p => $"second person for: {Entry(job, p.Entry)}",
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
        FastenerState.StudOut => "Came out with its stud",
        FastenerState.WrongHole => "Was in the wrong hole",
        FastenerState.StaysInHole => "Stays in its hole",
        FastenerState.OnStud => "By hand on its stud",
        FastenerState.OtherHand => "Turns the other way",
        _ => "Broken",
    };

    /// <summary>What a step's tick says.</summary>
    public static string Step(AccessMap? map, StepDone p) =>
        map is null ? p.Step
        : map.Step(p.Step) is { } step ? step.DoneWords
        : map.Operation(p.Step) is { } operation ? (p.Phase == WorkPhase.Apart ? operation.DoneWords : operation.UndoneWords)
        : p.Step;

    private static string Holds(Job job, string step, string fastener) =>
        job.FastenersOf(step).FirstOrDefault(f => f.Id == fastener)?.Holds ?? fastener;

    /// <summary>What an exception means for the work, one line.</summary>
    public static string Consequence(FastenerFound found, bool refit) => found.Found switch
    {
        FastenerState.Missing => refit ? "Fit a new one, or declare it missing." : "Nothing goes into the tray for it.",
        FastenerState.Broken => "A new one goes in; it is on the order list.",
        FastenerState.StudOut => refit ? "Stud first, with thread-locker, then its nut." : "Keep stud and nut together in the cell.",
        FastenerState.WrongHole => refit ? "Now into the right hole: compare the lengths." : "Mark it; it goes elsewhere on the way back.",
        FastenerState.StaysInHole or FastenerState.OnStud => "It is counted as there.",
        FastenerState.OtherHand => "It turns the other way than the map says.",
        _ => "",
    };

    private static string Entry(Job job, Guid id) => job.History.FirstOrDefault(h => h.Entry.Id == id)?.Entry is { } entry ? Of(entry.Payload, job) : "an entry not yet here";
}
