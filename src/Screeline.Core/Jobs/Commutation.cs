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

/// <summary>
/// The table of pairs of entry kinds: what commutes is taken silently, what clashes is asked. A pair that the table does not
/// list never clashes when both are observations, and always when one is a decision. "*" is any observation.
/// </summary>
public static class Commutation
{
    private static readonly Dictionary<(string, string), Clash> Table = new()
    {
        [("reading-taken", "reading-taken")] = Clash.SameSubject,
        [("complaint-noted", "complaint-noted")] = Clash.Always,
        [("step-done", "step-done")] = Clash.SameSubject,
        [("fastener-found", "fastener-found")] = Clash.SameSubject,
        [("torque-set", "torque-set")] = Clash.SameSubject,
        [("proof-taken", "proof-taken")] = Clash.SameSubject,
        [("tool-back", "tool-back")] = Clash.SameSubject,
        [("fastener-extra", "fastener-extra")] = Clash.SameSubject,
        [("temporary-connection", "temporary-connection")] = Clash.SameSubject,
        [("fasteners-counted", "fasteners-counted")] = Clash.SameSubject,
        [("timer-started", "timer-started")] = Clash.SameSubject,
        [("pins-set", "pins-set")] = Clash.SameSubject,
        [("setting-kept", "setting-kept")] = Clash.SameSubject,
        [("part-compared", "part-compared")] = Clash.SameSubject,
        [("left-over-settled", "left-over-settled")] = Clash.SameSubject,
        // Which part is bought does not touch the work on the vehicle.
        [("*", "part-chosen")] = Clash.Never,
        [("*", "part-cancelled")] = Clash.Never,
        // Somebody looks at what was done; the work goes on beside it.
        [("*", "second-signed")] = Clash.Never,
        [("second-signed", "second-signed")] = Clash.SameSubject,
        [("second-signed", "entry-withdrawn")] = Clash.SameSubject,
        [("second-signed", "entry-corrected")] = Clash.SameSubject,
        [("entry-withdrawn", "entry-withdrawn")] = Clash.SameSubject,
        [("entry-corrected", "entry-corrected")] = Clash.SameSubject,
        [("entry-corrected", "entry-withdrawn")] = Clash.SameSubject,
        // Waiting for a part is said beside the work, not instead of it.
        [("*", "waiting-set")] = Clash.Never,
        // Taking something back does not touch what others observe; if they stand on it, the fold says so.
        [("*", "entry-withdrawn")] = Clash.Never,
        [("*", "entry-corrected")] = Clash.Never,
        // What is measured or found while the way is being chosen does not change the choice behind anybody's back.
        [("reading-taken", "route-taken")] = Clash.Never,
        [("fastener-found", "route-taken")] = Clash.Never,
    };

    /// <summary>Whether two payloads, each made without knowledge of the other, clash. Symmetric.</summary>
    public static bool Clashes(Payload a, Payload b)
    {
        var (ka, kb) = (EntryKinds.Of(a), EntryKinds.Of(b));
        var clash = Listed(ka, kb) ?? Listed(kb, ka) ?? (ka.IsObservation && kb.IsObservation ? Clash.Never : Clash.Always);
        return clash == Clash.Always || (clash == Clash.SameSubject && a.Subject == b.Subject);
    }

    private static Clash? Listed(EntryKind a, EntryKind b) =>
        Table.TryGetValue((a.Name, b.Name), out var exact) ? exact
        : a.IsObservation && Table.TryGetValue(("*", b.Name), out var any) ? any
        : null;
}
