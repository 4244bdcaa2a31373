namespace Screeline.Core.Access.Recording;

/// <summary>When a step of the frame is offered on the way in.</summary>
public enum FrameMoment
{
    /// <summary>Before anything comes off.</summary>
    First,
    /// <summary>When a place or a caution wants what it provides.</summary>
    Asked,
    /// <summary>Once the part is out.</summary>
    Out,
}

/// <summary>Where a step of the way back stands, whatever the vehicle.</summary>
public enum FramePlace
{
    /// <summary>Before the part goes back in.</summary>
    BeforePart,
    /// <summary>When the part and its connections are back, before the first cover that hides it.</summary>
    BeforeCovers,
    /// <summary>Right after the thing that its words name is back.</summary>
    AfterWords,
    /// <summary>When all is back but the battery.</summary>
    BeforePower,
    /// <summary>When all is back.</summary>
    Last,
}

/// <summary>An operation of the frame: what holds of every job of a family.</summary>
/// <param name="Operation">The operation; its needs name operations of the frame only.</param>
/// <param name="Moment">When it is offered.</param>
public sealed record FrameOperation(Operation Operation, FrameMoment Moment);

/// <summary>A step of the way back that a family wants on every vehicle.</summary>
/// <param name="Step">The step, without what comes before and after it.</param>
/// <param name="Place">Where it stands.</param>
/// <param name="Powered">Whether the vehicle needs its power for it.</param>
/// <param name="Words">Things of which one must have been off for it to apply; empty for always.</param>
public sealed record FrameStep(RefitStep Step, FramePlace Place, bool Powered, IReadOnlyList<string> Words);

/// <summary>
/// What must be done on every vehicle of a family, whatever it looks like: while there is power, to be safe, on the way back, to prove it. Part of
/// <c>screeline/system@2</c>, with what all families share from <c>screeline/frame@1</c>; exact meanings in docs/formats.md.
/// </summary>
/// <param name="Operations">On the way in, in their order.</param>
/// <param name="Steps">On the way back, in their order.</param>
/// <param name="PowerOn">Power for a test while the battery is isolated, and off again after it; null when nothing isolates.</param>
/// <param name="PowerOff">Its end.</param>
/// <param name="Restores">What must be set or learned again.</param>
public sealed record WorkFrame(IReadOnlyList<FrameOperation> Operations, IReadOnlyList<FrameStep> Steps, RefitStep? PowerOn, RefitStep? PowerOff, IReadOnlyList<Restore> Restores)
{
    /// <summary>Nothing is known of the family.</summary>
    public static WorkFrame Empty { get; } = new([], [], null, null, []);

    /// <summary>The operation with this id, or null.</summary>
    public FrameOperation? Find(string id) => Operations.FirstOrDefault(o => o.Operation.Id == id);

    /// <summary>The operation that provides a state, or null.</summary>
    public Operation? Providing(string state) => Operations.FirstOrDefault(o => o.Operation.Provides.Contains(state))?.Operation;
}

/// <summary>Places to work from on any vehicle.</summary>
public static class AnyPlaces
{
    /// <summary>One place of each kind; those under a raised vehicle require that it stands on more than a jack.</summary>
    public static IReadOnlyList<Position> All { get; } = [.. Position.Kinds.Select(k => new Position(k, Title(k), Position.UnderneathKinds.Contains(k) ? [AccessMapChecks.Supported] : [], k))];

    /// <summary>The name of a kind of place.</summary>
    public static string Title(string kind) => kind switch
    {
        "bay" => "Engine bay", "screen" => "At the windscreen", "cabin" => "Cabin", "footwell" => "Footwell", "door" => "Door", "tail" => "Tailgate", "floor" => "Beside it", "arch" => "Wheel arch",
        "under" => "Underneath", "bench" => "Bench", _ => kind.Length == 0 ? kind : char.ToUpperInvariant(kind[0]) + kind[1..].Replace('-', ' '),
    };
}
