using System.Text.Json.Serialization;
using Screeline.Core.Fastening;

namespace Screeline.Core.Jobs;

// What is said at the vehicle besides ticks, readings and torques.

/// <summary>A fastener the map does not know: found hidden, or left by somebody's earlier repair.</summary>
/// <param name="Step">The operation it belongs to.</param>
/// <param name="Fastener">An id of its own within the operation.</param>
/// <param name="Holds">What it holds.</param>
/// <param name="Kind">bolt, screw, nut …</param>
/// <param name="Drive">Drive and size, or null by hand.</param>
/// <param name="Thread">Thread, or null.</param>
/// <param name="LengthMillimetres">Length, or null.</param>
/// <param name="Count">How many.</param>
/// <param name="Place">Where it sits.</param>
public sealed record ExtraFound(string Step, string Fastener, string Holds, string Kind, string? Drive, string? Thread, decimal? LengthMillimetres, int Count, string? Place) : Payload
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override string Subject => $"{Step}/{Fastener}";

    /// <summary>The fastener as maps write it; used again as it is found, without a torque.</summary>
    public Fastener ToFastener() => new()
    {
        Id = Fastener, Holds = Holds, Kind = Kind, Drive = Drive, Thread = Thread, LengthMillimetres = LengthMillimetres, Count = Count, Place = Place, Reuse = "yes", Treatment = "dry",
    };
}

/// <summary>What goes otherwise with a whole step.</summary>
public enum StepTrouble
{
    /// <summary>It clings although its last fastener is out.</summary>
    Clings,
}

/// <summary>A step goes otherwise than planned.</summary>
/// <param name="Step">The operation.</param>
/// <param name="What">How.</param>
/// <param name="Note">In words, or null.</param>
public sealed record StepException(string Step, StepTrouble What, string? Note) : Payload
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override string Subject => Step;
}

/// <summary>Something is plugged back for a moment, or taken off again.</summary>
/// <param name="What">The connection in words.</param>
/// <param name="Step">The operation that took it off, or null.</param>
/// <param name="On">Whether it is on now.</param>
public sealed record TemporaryConnection(string What, string? Step, bool On) : Payload
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override string Subject => What;
}

/// <summary>How many of a group are out (or in) so far, counted as they come.</summary>
/// <param name="Phase">Which direction.</param>
/// <param name="Step">The operation.</param>
/// <param name="Fastener">Its group.</param>
/// <param name="Count">So far.</param>
public sealed record FastenersCounted(WorkPhase Phase, string Step, string Fastener, int Count) : Payload
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override string Subject => $"{Phase}:{Step}/{Fastener}";
}

/// <summary>What a timer waits for.</summary>
public enum TimerKind
{
    /// <summary>Something hot cools down.</summary>
    Cool,
    /// <summary>Penetrating oil soaks in.</summary>
    Soak,
    /// <summary>Sealant or thread-locker cures.</summary>
    Cure,
    /// <summary>Restraint parts lose their charge.</summary>
    Restraint,
    /// <summary>Anything else.</summary>
    Wait,
}

/// <summary>A wait begins.</summary>
/// <param name="Step">The step that waits for it.</param>
/// <param name="Kind">For what.</param>
/// <param name="Minutes">How long.</param>
/// <param name="What">In words.</param>
public sealed record TimerStarted(string Step, TimerKind Kind, decimal Minutes, string What) : Payload
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override string Subject => Step;
}

/// <summary>A wait is over before its time, because somebody looked.</summary>
/// <param name="Timer">The entry that began it.</param>
public sealed record TimerEnded(Guid Timer) : Payload
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override string Subject => Timer.ToString();
}

/// <summary>Words kept with a step or the job.</summary>
/// <param name="Step">The step, or null.</param>
/// <param name="Text">The words.</param>
public sealed record NoteAdded(string? Step, string Text) : Payload;

/// <summary>A picture was taken. The picture lies in the documents under its hash.</summary>
/// <param name="Step">The step it belongs to, or null.</param>
/// <param name="Sha256">Hash of its bytes, lower-case hex.</param>
/// <param name="Width">Pixels.</param>
/// <param name="Height">Pixels.</param>
/// <param name="Caption">What it shows, or null.</param>
/// <param name="Over">The entry of an earlier picture of the same place, whose pins are laid over this one; null for none.</param>
public sealed record PictureTaken(string? Step, string Sha256, int Width, int Height, string? Caption, Guid? Over) : Payload;

/// <summary>What a pin marks.</summary>
public enum PinKind
{
    /// <summary>A screw, bolt or nut.</summary>
    Screw,
    /// <summary>A clip or push pin.</summary>
    Clip,
    /// <summary>A plug.</summary>
    Plug,
    /// <summary>The way a wire or hose runs: a line of points.</summary>
    Wire,
}

/// <summary>A place on a picture, in hundredths of its width and height.</summary>
public sealed record PinPoint(decimal X, decimal Y);

/// <summary>A mark on a picture.</summary>
/// <param name="Kind">What it marks.</param>
/// <param name="Points">One point; a wire has as many as were tapped.</param>
/// <param name="Label">A few words, or null.</param>
public sealed record Pin(PinKind Kind, IReadOnlyList<PinPoint> Points, string? Label);

/// <summary>All the pins of a picture; the latest entry counts.</summary>
/// <param name="Picture">The entry of the picture.</param>
/// <param name="Pins">All of them.</param>
public sealed record PinsSet(Guid Picture, IReadOnlyList<Pin> Pins) : Payload
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override string Subject => Picture.ToString();
}

/// <summary>Old and new part held side by side at one point.</summary>
/// <param name="Point">The point of comparison.</param>
/// <param name="Same">Whether they are alike there.</param>
/// <param name="Found">What differs, in words; null when nothing does.</param>
public sealed record PartCompared(string Point, bool Same, string? Found) : Payload
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override string Subject => Point;
}

/// <summary>Which of the parts on offer is taken.</summary>
/// <param name="Offer">The offer's id.</param>
/// <param name="Title">The offer in words, with its price then.</param>
/// <param name="Price">Without the deposit, in the shop's currency.</param>
/// <param name="Deposit">On the old core; 0 for none.</param>
public sealed record PartChosen(string Offer, string Title, decimal Price, decimal Deposit) : Payload;

/// <summary>A piece of the old part went over to the new one.</summary>
/// <param name="Piece">Its id.</param>
public sealed record PartCarried(string Piece) : Payload
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override string Subject => Piece;
}

/// <summary>The old core went back for its deposit.</summary>
public sealed record CoreReturned : Payload;

/// <summary>A tool that stays in or on the vehicle: a locking pin, a wedge, a latched bonnet switch.</summary>
/// <param name="Tool">Its id, or what it is called.</param>
/// <param name="Where">Where it sits.</param>
/// <param name="Step">The step, or null.</param>
public sealed record ToolLeft(string Tool, string? Where, string? Step) : Payload
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override string Subject => Tool;
}

/// <summary>Something lies on the bench that nobody missed.</summary>
/// <param name="What">What it is.</param>
/// <param name="Count">How many.</param>
public sealed record LeftOverFound(string What, int Count) : Payload;

/// <summary>What became of something left over.</summary>
/// <param name="LeftOver">The entry that found it.</param>
/// <param name="How">Where it went, or why it belongs to nothing.</param>
public sealed record LeftOverSettled(Guid LeftOver, string How) : Payload
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override string Subject => LeftOver.ToString();
}

/// <summary>Somebody answers with their name for a count that does not balance.</summary>
/// <param name="Reason">Why it may go all the same.</param>
/// <param name="Covers">The differences it covers, each as "step/fastener:count"; one that arises later is not covered.</param>
public sealed record DifferenceSigned(string Reason, IReadOnlyList<string> Covers) : Payload;

/// <summary>A setting was worked out and made: what was measured, what it came to, whether it holds.</summary>
/// <param name="Step">The step of the way back it belongs to, or null.</param>
/// <param name="Setting">Its kind: see <see cref="Access.RefitStep.Settings"/>.</param>
/// <param name="Words">The result in one line.</param>
/// <param name="Holds">Whether everything is where it belongs.</param>
/// <param name="Asked">Everything typed, by field, so that it can be opened again as it was.</param>
public sealed record SettingKept(string? Step, string Setting, string Words, bool Holds, IReadOnlyDictionary<string, string> Asked) : Payload
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override string Subject => $"{Step}/{Setting}";
}
