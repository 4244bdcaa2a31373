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
