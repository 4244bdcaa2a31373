using System.Text.Json;
using System.Text.Json.Serialization;
using Screeline.Core.Quantities;

namespace Screeline.Core.Jobs;

/// <summary>What an entry says. Its kind and version are found in <see cref="EntryKinds"/>.</summary>
public abstract record Payload
{
    /// <summary>
    /// What in the job it speaks of (a step, a test, a fastener): two entries about different things seldom conflict. Empty
    /// when it speaks of the job as a whole.
    /// </summary>
    [JsonIgnore]
    public virtual string Subject => "";
}

/// <summary>The first entry of every job.</summary>
/// <param name="Vehicle">The vehicle's id.</param>
/// <param name="VehicleName">Its name at that time.</param>
/// <param name="Model">Its model at that time, which picks the access map.</param>
/// <param name="NominalVolts">12 or 24.</param>
/// <param name="Family">starting, charging …</param>
/// <param name="Words">The customer's words.</param>
/// <param name="PromisedAt">When it is promised, or null.</param>
/// <param name="ComebackOf">The closed job whose fault has come back, or null.</param>
public sealed record JobOpened(
    Guid Vehicle, string VehicleName, string Model, decimal NominalVolts, string Family, string Words, DateTimeOffset? PromisedAt,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)] Guid? ComebackOf = null) : Payload;

/// <summary>The complaint turned into observed behaviour.</summary>
/// <param name="Words">The customer's words.</param>
/// <param name="Behaviours">Ids of observed behaviours.</param>
/// <param name="When">Hot, cold, always, now and then, since when; in words.</param>
/// <param name="Tried">How often it was tried.</param>
/// <param name="Failed">How often it failed.</param>
/// <param name="Lately">What was done to the vehicle lately; null when nothing.</param>
public sealed record ComplaintNoted(string Words, IReadOnlyList<string> Behaviours, string When, int Tried, int Failed, string? Lately) : Payload;

/// <summary>A reading or an answer to a test.</summary>
public sealed record ReadingTaken(string Test, Figure? Value, string? Choice) : Payload
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override string Subject => Test;
}

/// <summary>On what ground somebody acts.</summary>
public enum DecisionAct
{
    /// <summary>The four-way proof condemns the motor.</summary>
    Proven,
    /// <summary>By likelihood; called a guess.</summary>
    Guess,
    /// <summary>The fault lies elsewhere and was put right where it was found; nothing comes apart.</summary>
    Elsewhere,
}

/// <summary>What is done about it.</summary>
/// <param name="Act">On what ground.</param>
/// <param name="Repair">What is repaired or replaced.</param>
/// <param name="Why">Why, in words.</param>
/// <param name="RepairId">The repair as the family knows it, so that closed jobs can be counted; null when it is none of those.</param>
public sealed record DecisionMade(
    DecisionAct Act, string Repair, string Why,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)] string? RepairId = null) : Payload;

/// <summary>The way in that is taken.</summary>
/// <param name="Map">SHA-256 (lower-case hex) of the map's text, so that the job keeps the version it was planned on.</param>
/// <param name="Target">The target's id.</param>
/// <param name="Removal">Operation ids in order.</param>
/// <param name="Refit">The planned way back: ids of operations to close and of refit steps, in order. Gates hold what stands behind them here.</param>
public sealed record RouteTaken(string Map, string Target, IReadOnlyList<string> Removal, IReadOnlyList<string> Refit) : Payload;

/// <summary>The two directions of the work on the vehicle.</summary>
public enum WorkPhase
{
    /// <summary>On the way in.</summary>
    Apart,
    /// <summary>On the way back.</summary>
    Refit,
}

/// <summary>What became of a group of fasteners on the way back.</summary>
/// <param name="Fastener">Its id within the step.</param>
/// <param name="Back">How many of the old ones are in again.</param>
/// <param name="Renewed">How many new ones are in.</param>
/// <param name="Missing">How many are declared missing.</param>
public sealed record FastenerOutcome(string Fastener, int Back, int Renewed, int Missing);

/// <summary>A step was done: an operation on the way in, its closing, or a refit step.</summary>
/// <param name="Phase">Which direction.</param>
/// <param name="Step">Operation or refit step.</param>
/// <param name="Cell">The tray cell its fasteners went into; null when there are none.</param>
/// <param name="Fasteners">On the way back: what became of them.</param>
public sealed record StepDone(WorkPhase Phase, string Step, int? Cell, IReadOnlyList<FastenerOutcome> Fasteners) : Payload
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override string Subject => $"{(Phase == WorkPhase.Apart ? "apart" : "refit")}:{Step}";
}

/// <summary>How a fastener was found.</summary>
public enum FastenerState
{
    /// <summary>Another size than the map says.</summary>
    OtherSize,
    /// <summary>Not there when the work began.</summary>
    Missing,
    /// <summary>Will not turn.</summary>
    Seized,
    /// <summary>Broke.</summary>
    Broken,
    /// <summary>Came out with its stud.</summary>
    StudOut,
    /// <summary>Somebody had put it into the wrong hole.</summary>
    WrongHole,
    /// <summary>Loose, but cannot be withdrawn: it stays in its hole.</summary>
    StaysInHole,
    /// <summary>Threaded the other way round than expected.</summary>
    OtherHand,
    /// <summary>Put back by hand where it belongs, so that it is not lost.</summary>
    OnStud,
}

/// <summary>A fastener was found otherwise than expected; what is not recorded was as expected.</summary>
/// <param name="Step">The operation.</param>
/// <param name="Fastener">Its id within the operation.</param>
/// <param name="Found">How.</param>
/// <param name="Count">How many of the group.</param>
/// <param name="Size">The drive that fits, for another size.</param>
/// <param name="Note">In words, or null.</param>
public sealed record FastenerFound(string Step, string Fastener, FastenerState Found, int Count, string? Size, string? Note) : Payload
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override string Subject => $"{Step}/{Fastener}";
}

/// <summary>A fastener was tightened.</summary>
/// <param name="Step">The operation it belongs to.</param>
/// <param name="Fastener">Its id within the operation.</param>
/// <param name="Value">The value set, in the unit it was set in.</param>
/// <param name="Tool">The wrench, or null.</param>
/// <param name="Setting">What was set on the wrench's own scale, when that is another figure; null otherwise.</param>
/// <param name="AngleDegrees">The further angle, or null.</param>
public sealed record TorqueSet(
    string Step, string Fastener, Figure Value, string? Tool,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)] Figure? Setting = null,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)] decimal? AngleDegrees = null) : Payload
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override string Subject => $"{Step}/{Fastener}";
}

/// <summary>A check of the proof was taken.</summary>
public sealed record ProofTaken(string Check, Figure? Value, string? Choice) : Payload
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override string Subject => Check;
}

/// <summary>A tool that stayed in the vehicle was put back in its place.</summary>
public sealed record ToolBack(string Tool) : Payload
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override string Subject => Tool;
}

/// <summary>The job waits for something, or no longer does.</summary>
/// <param name="For">What it waits for; null when it waits no longer.</param>
/// <param name="Until">When that is expected, or null.</param>
public sealed record WaitingSet(string? For, DateTimeOffset? Until) : Payload;

/// <summary>The vehicle went back to its owner.</summary>
/// <param name="Found">What was found.</param>
/// <param name="Left">What was found and left alone.</param>
/// <param name="Watch">What to watch.</param>
/// <param name="Cause">What killed the part and what was done about it; null where nothing was repaired.</param>
/// <param name="Checks">The checks that were asked for and held then: what is asked for later does not undo it.</param>
public sealed record HandedBack(
    string Found, string? Left, string? Watch,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)] CauseSaid? Cause = null,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)] IReadOnlyList<string>? Checks = null) : Payload;

/// <summary>What killed a part, as said at the end.</summary>
/// <param name="Cause">A root cause of the family, or <see cref="Unknown"/>.</param>
/// <param name="Done">What was done about it; for an unknown one, why it is not known.</param>
public sealed record CauseSaid(string Cause, string Done)
{
    /// <summary>Nobody knows.</summary>
    public const string Unknown = "unknown";
}

/// <summary>A failed check leads back: to a step that is done again, or to Find with the readings kept.</summary>
/// <param name="Check">The check that failed, or null when something was seen on the way.</param>
/// <param name="Step">The step of the way back to do again; null for Find.</param>
/// <param name="Why">Why, in words.</param>
public sealed record SentBack(string? Check, string? Step, string Why) : Payload;

/// <summary>The part that was chosen is not bought after all.</summary>
/// <param name="Why">Why, in words.</param>
public sealed record PartCancelled(string Why) : Payload;

/// <summary>An entry is withdrawn: it was never so.</summary>
public sealed record EntryWithdrawn(Guid Entry) : Payload
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override string Subject => Entry.ToString();
}

/// <summary>An entry said something wrong; this payload stands in its place.</summary>
/// <param name="Entry">The entry corrected.</param>
/// <param name="Payload">A payload of the same kind.</param>
public sealed record EntryCorrected(Guid Entry, JsonElement Payload) : Payload
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override string Subject => Entry.ToString();
}
