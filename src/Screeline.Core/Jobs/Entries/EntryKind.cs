using System.Reflection;
using Screeline.Core.People;

namespace Screeline.Core.Jobs;

/// <summary>When two entries made without knowledge of each other get in each other's way.</summary>
public enum Clash
{
    /// <summary>Never: either order gives the same job.</summary>
    Never,
    /// <summary>Only when both speak of the same thing.</summary>
    SameSubject,
    /// <summary>Always: whoever came second should see what the first did.</summary>
    Always,
}

/// <summary>A kind of entry as it declares itself.</summary>
public sealed class EntryKind
{
    private EntryKind(string name, bool isObservation, Clash withItself, Clash withObservations, IReadOnlyDictionary<string, Clash> with, Role by, string? otherwise, IReadOnlyList<Upcaster> older) =>
        (Name, IsObservation, WithItself, WithObservations, With, By, Otherwise, Older) = (name, isObservation, withItself, withObservations, with, by, otherwise, older);

    /// <summary>Declares something seen or done in the world: it is never refused for its order, but stored and shown as disputed. It clashes with no other observation.</summary>
    /// <param name="name">Its name in the stream, such as "step-done".</param>
    /// <param name="withItself">When two of this kind clash.</param>
    /// <param name="by">Who may say it: this role and every higher one.</param>
    /// <param name="with">Kinds with which it clashes otherwise than the rule says.</param>
    /// <param name="older">What turns each older version into the next, the first one first.</param>
    public static EntryKind Observation(string name, Clash withItself, Role by, IReadOnlyDictionary<string, Clash>? with = null, IReadOnlyList<Upcaster>? older = null) =>
        new(name, true, withItself, Clash.Never, with ?? new Dictionary<string, Clash>(), by, null, older ?? []);

    /// <summary>Declares a decision about the record, which can be refused. It clashes with every other decision.</summary>
    /// <param name="name">Its name in the stream, such as "route-taken".</param>
    /// <param name="withItself">When two of this kind clash.</param>
    /// <param name="withObservations">When it clashes with what is seen or done meanwhile.</param>
    /// <param name="by">Who may say it: this role and every higher one.</param>
    /// <param name="otherwise">What somebody of a lower role is told; needed for more than an apprentice.</param>
    /// <param name="with">Kinds with which it clashes otherwise than the rule says.</param>
    /// <param name="older">What turns each older version into the next, the first one first.</param>
    public static EntryKind Decision(string name, Clash withItself, Clash withObservations, Role by, string? otherwise = null, IReadOnlyDictionary<string, Clash>? with = null, IReadOnlyList<Upcaster>? older = null) =>
        new(name, false, withItself, withObservations, with ?? new Dictionary<string, Clash>(), by, otherwise, older ?? []);

    /// <summary>Its name in the stream.</summary>
    public string Name { get; }
    /// <summary>What turns each older version into the next, the first one first.</summary>
    public IReadOnlyList<Upcaster> Older { get; }
    /// <summary>The version written today.</summary>
    public int Version => Older.Count + 1;
    /// <summary>True for an observation, false for a decision.</summary>
    public bool IsObservation { get; }
    /// <summary>When two of this kind clash.</summary>
    public Clash WithItself { get; }
    /// <summary>When it clashes with observations of other kinds.</summary>
    public Clash WithObservations { get; }
    /// <summary>Kinds with which it clashes otherwise, by name; it is enough that one of the two says so.</summary>
    public IReadOnlyDictionary<string, Clash> With { get; }
    /// <summary>The least role that may say it.</summary>
    public Role By { get; }
    /// <summary>What somebody of a lower role is told; null where every role that works may say it.</summary>
    public string? Otherwise { get; }
    /// <summary>Name and version as they stand in an entry: "step-done@1".</summary>
    public string Tag => $"{Name}@{Version}";

    /// <summary>The kind that a payload's type declares.</summary>
    /// <exception cref="InvalidOperationException">It declares none.</exception>
    internal static EntryKind DeclaredBy(Type payload) =>
        payload.GetProperty(nameof(EntryKind), BindingFlags.Public | BindingFlags.Static | BindingFlags.DeclaredOnly)?.GetValue(null) as EntryKind
        ?? throw new InvalidOperationException($"{payload.Name} is a payload and declares no {nameof(EntryKind)}.");
}
