using Screeline.Core.Access;
using Screeline.Core.Diagnosis;
using Screeline.Core.Proof;

namespace Screeline.Core.Jobs;

/// <summary>The stages of a job in the order of the work.</summary>
public enum Stage
{
    /// <summary>The complaint turned into observed behaviour.</summary>
    Complaint,
    /// <summary>What is wrong.</summary>
    Find,
    /// <summary>How the part is reached.</summary>
    WayIn,
    /// <summary>The way in.</summary>
    TakeApart,
    /// <summary>The way back.</summary>
    Refit,
    /// <summary>The proof.</summary>
    Prove,
    /// <summary>Back to the owner.</summary>
    HandBack,
}

/// <summary>How a stage stands.</summary>
public enum StageState
{
    /// <summary>Still to come.</summary>
    ToDo,
    /// <summary>The work is here.</summary>
    Now,
    /// <summary>Finished.</summary>
    Done,
    /// <summary>The work is here and waits for something.</summary>
    Waiting,
    /// <summary>This job does not need it.</summary>
    NotNeeded,
}

/// <summary>Names of stages.</summary>
public static class Stages
{
    /// <summary>All, in order.</summary>
    public static IReadOnlyList<Stage> All { get; } = Enum.GetValues<Stage>();

    /// <summary>The name on the screen.</summary>
    public static string Name(this Stage stage) => stage switch
    {
        Stage.WayIn => "Way in",
        Stage.TakeApart => "Take apart",
        Stage.Refit => "Set and refit",
        Stage.HandBack => "Hand back",
        _ => stage.ToString(),
    };

    /// <summary>Those at which one works step by step at the vehicle, also without a network.</summary>
    public static IReadOnlyList<Stage> AtVehicle { get; } = [Stage.TakeApart, Stage.Refit, Stage.Prove];

    /// <summary>The name in an address.</summary>
    public static string Slug(this Stage stage) => stage switch
    {
        Stage.WayIn => "way-in",
        Stage.TakeApart => "take-apart",
        Stage.HandBack => "hand-back",
        _ => stage.ToString().ToLowerInvariant(),
    };
}

// What each stage needs to be finished, and what is next in it.
public sealed partial class Job
{
    /// <summary>Whether a stage is finished.</summary>
    public bool IsDone(Stage stage) => stage switch
    {
        Stage.Complaint => Complaint is not null,
        Stage.Find => Decision is not null,
        Stage.WayIn => Route is not null || ActsElsewhere,
        Stage.TakeApart when Recording is not null => ActsElsewhere || Reached is not null,
        Stage.TakeApart => ActsElsewhere || (Route is not null && Route.Payload.Removal.All(_removed.ContainsKey)),
        Stage.Refit => ActsElsewhere || (Map is not null && IsDone(Stage.TakeApart) && WalkRules.RefitActions(Map, Set).All(_refitted.ContainsKey)),
        Stage.Prove => IsDone(Stage.Refit) && (HandedBack is not null || MissingFromProof.Count == 0),
        _ => HandedBack is not null,
    };

    /// <summary>Where the work is: the first stage that is not finished; Hand back when all are.</summary>
    public Stage Current => Stages.All.FirstOrDefault(s => !IsDone(s), Stage.HandBack);

    /// <summary>How a stage stands.</summary>
    public StageState StateOf(Stage stage) =>
        ActsElsewhere && stage is (Stage.WayIn or Stage.TakeApart or Stage.Refit) ? StageState.NotNeeded
        : stage < Current || IsDone(stage) ? StageState.Done
        : stage > Current ? StageState.ToDo
        : Waiting is not null || Left is not null ? StageState.Waiting
        : StageState.Now;

    private bool ActsElsewhere => Decision?.Payload.Act == DecisionAct.Elsewhere;

    /// <summary>What is next, in a few words.</summary>
    public string Next => Current switch
    {
        _ when Left is { } left => Capital(left.Payload.Describe(this)),
        _ when HandedBack is not null => Decision is { } d ? $"{Capital(d.Payload.Repair)}. Handed back." : "Handed back",
        Stage.Complaint => "Note what is observed",
        Stage.Find when Finding is var found => found switch
        {
            { Contradiction: { } odd } => $"Take again: {odd.TakeAgain[0].Title}",
            { Proven: [.., var repair] } => $"Proven: {repair.Name}. Decide.",
            { Missing: [var first, ..] } => first.Title,
            _ => "Decide what is repaired",
        },
        Stage.WayIn => "Choose the way in",
        Stage.TakeApart when Recording is not null => "Record what comes off",
        Stage.TakeApart => Map![Route!.Payload.Removal.First(id => !Removed.ContainsKey(id))].Title,
        Stage.Refit => Refit.Order(this).FirstOrDefault(id => !Refitted.ContainsKey(id)) is { } id
            ? Refit.Title(Map!, id) : "No order left: look at what is disputed",
        Stage.Prove => ProofSheet.Rows(this, ProofMoment.End).FirstOrDefault(r => r.Held != true)?.Check.Title ?? MissingFromProof.FirstOrDefault() ?? "Prove the repair",
        _ => "Hand back",
    };

    private static string Capital(string words) => words.Length == 0 ? words : char.ToUpperInvariant(words[0]) + words[1..];
}
