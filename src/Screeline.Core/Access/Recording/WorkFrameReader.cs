using Screeline.Core.Formats;
using Screeline.Core.Motion;

namespace Screeline.Core.Access.Recording;

/// <summary>Reads a family's part of the frame and what all families share.</summary>
public static class WorkFrameReader
{
    private static readonly string[] Moments = ["first", "asked", "out"], StepPlaces = ["before-part", "before-covers", "after-words", "before-power", "last"];

    /// <summary>What all families share: operations by id, and the steps of the way back that all have.</summary>
    /// <param name="r">The root of <c>screeline/frame@1</c>.</param>
    public static WorkFrame ReadShared(JsonReader r)
    {
        r.Choice("format", ["screeline/frame@1"]);
        var frame = new WorkFrame(r.List("operations", ReadOperation), r.List("steps", ReadStep), r.Object("power_on", ReadStep)?.Step, r.Object("power_off", ReadStep)?.Step,
            r.List("restores", x => new Restore(x.Text("id"), x.Text("what"), x.Text("how"), x.Text("after"))));
        r.RefuseOthers();
        return frame;
    }

    /// <summary>A family's own part.</summary>
    /// <param name="r">The value of "frame" in a system.</param>
    /// <returns>Ids of shared operations that it begins with, and its own.</returns>
    public static FamilyFrame ReadFamily(JsonReader r) => new(r.Texts("begins_with", optional: true), r.List("operations", ReadOperation, optional: true), r.List("steps", ReadStep, optional: true));

    private static FrameOperation ReadOperation(JsonReader r) => new(
        new Operation
        {
            Id = r.Text("id"), Title = r.Text("title"), Done = r.OptionalText("done"), Undone = r.OptionalText("undone"), Why = r.OptionalText("why"), Unpowered = r.OptionalText("unpowered"),
            Kind = r.Choice("kind", ["open", "once"]) == "open" ? OperationKind.Open : OperationKind.Once, Position = r.Choice("place", Position.Kinds),
            Minutes = NoMinutes, WaitMinutes = r.OptionalNumber("wait_minutes", 0, 1440) ?? 0, Needs = Needed(r.Texts("needs", optional: true)), Tools = [],
            Cautions = r.Texts("cautions", optional: true), Provides = r.Texts("provides", optional: true), Off = [.. r.Texts("leads", optional: true).Select(what => new PieceOff("earth-lead", what, 1))],
            Live = r.Given("live") && r.YesNo("live"), ByMotor = r.Given("by_motor") && r.YesNo("by_motor"), Damage = new Damage(0, 0, ""), Consumes = [], Close = new Closing(null, null, false, r.OptionalText("close")),
        },
        (FrameMoment)Array.IndexOf(Moments, r.Choice("moment", Moments)));

    private static FrameStep ReadStep(JsonReader r)
    {
        var setting = r.OptionalText("setting");
        if (setting is not null && !SettingKinds.OnVehicle.Contains(setting))
        {
            r.Fault($"“{setting}” is none of: {string.Join(", ", SettingKinds.OnVehicle)}", "setting");
        }

        return new FrameStep(
            new RefitStep
            {
                Id = r.Text("id"), Title = r.Text("title"), Done = r.OptionalText("done"), Why = r.OptionalText("why"), Position = r.Choice("place", Position.Kinds), Minutes = NoMinutes, WaitMinutes = r.OptionalNumber("wait_minutes", 0, 1440) ?? 0,
                Tools = [], After = [], Before = [], Gate = r.Given("gate") && r.YesNo("gate"), Cautions = r.Texts("cautions", optional: true), Checks = r.Texts("checks", optional: true), Setting = setting,
            },
            (FramePlace)Array.IndexOf(StepPlaces, r.Choice("stands", StepPlaces)), r.Given("powered") && r.YesNo("powered"), r.Texts("words", optional: true));
    }

    /// <summary>Minutes that nobody has estimated.</summary>
    internal static readonly Minutes NoMinutes = new(0, 0, 0);

    private static Needs Needed(IReadOnlyList<string> ids) => ids.Count == 0 ? Needs.Nothing : new Needs.All([.. ids.Select(id => new Needs.One(id))]);
}

/// <summary>A family's own part of the frame.</summary>
/// <param name="BeginsWith">Shared operations that are offered before anything comes off.</param>
/// <param name="Operations">Its own.</param>
/// <param name="Steps">Its own.</param>
public sealed record FamilyFrame(IReadOnlyList<string> BeginsWith, IReadOnlyList<FrameOperation> Operations, IReadOnlyList<FrameStep> Steps)
{
    /// <summary>Nothing of its own.</summary>
    public static FamilyFrame Empty { get; } = new([], [], []);

    /// <summary>The whole frame: the shared operations it begins with go first, its own after them as it tells them, then what is only asked for.</summary>
    /// <param name="shared">What all families share.</param>
    public WorkFrame With(WorkFrame shared)
    {
        var begun = shared.Operations.Where(o => BeginsWith.Contains(o.Operation.Id)).Select(o => o with { Moment = FrameMoment.First }).ToList();
        // What wants power comes before what takes it.
        var own = begun.Concat(Operations.Where(o => o.Moment == FrameMoment.First)).OrderBy(o => o.Operation.Live ? 0 : o.Operation.Provides.Contains(AccessMapChecks.Isolated) ? 2 : 1);
        return shared with
        {
            Operations = [.. own, .. shared.Operations.Where(o => !BeginsWith.Contains(o.Operation.Id)), .. Operations.Where(o => o.Moment != FrameMoment.First)],
            Steps = [.. Steps, .. shared.Steps],
        };
    }
}
