namespace Screeline.Core.Jobs;

/// <summary>Which entries made without knowledge of each other get in each other's way: what commutes is taken silently, what clashes is asked.</summary>
public static class ConflictingEntries
{
    /// <summary>Whether two payloads, each made without knowledge of the other, clash. Symmetric.</summary>
    public static bool Clashes(Payload a, Payload b)
    {
        var clash = Between(EntryKinds.ForPayload(a), EntryKinds.ForPayload(b));
        return clash == Clash.Always || (clash == Clash.SameSubject && a.Subject() == b.Subject());
    }

    private static Clash Between(EntryKind a, EntryKind b) =>
        a.With.TryGetValue(b.Name, out var said) || b.With.TryGetValue(a.Name, out said) ? said
        : a == b ? a.WithItself
        : a.IsObservation ? b.WithObservations
        : b.IsObservation ? a.WithObservations
        : Clash.Always;
}
