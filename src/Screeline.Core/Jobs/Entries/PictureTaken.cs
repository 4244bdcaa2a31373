using System.Text.Json.Serialization;
using Screeline.Core.People;

namespace Screeline.Core.Jobs;

/// <summary>A picture was taken. The picture lies in the documents under its hash.</summary>
/// <param name="Step">The step it belongs to, or null.</param>
/// <param name="Sha256">Hash of its bytes, lower-case hex.</param>
/// <param name="Width">Pixels.</param>
/// <param name="Height">Pixels.</param>
/// <param name="Caption">What it shows, or null.</param>
/// <param name="Over">The entry of an earlier picture of the same place, whose pins are laid over this one; null for none.</param>
/// <param name="About">What it shows where it belongs to no step: <see cref="Intake"/> or <see cref="Find"/>; null otherwise.</param>
public sealed record PictureTaken(
    string? Step, string Sha256, int Width, int Height, string? Caption, Guid? Over,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)] string? About = null) : Payload
{
    /// <summary>The vehicle as it came.</summary>
    public const string Intake = "intake";

    /// <summary>Something seen or measured while the fault was sought.</summary>
    public const string Find = "find";

    /// <summary>The kind.</summary>
    public static EntryKind EntryKind { get; } = EntryKind.Observation("picture-taken", withItself: Clash.Never, by: Role.Apprentice);

    /// <inheritdoc/>
    public override string? NamesPicture() => Sha256;

    /// <inheritdoc/>
    public override string Subject() => "";

    /// <inheritdoc/>
    public override string Describe(Job job) => Over is null ? "picture taken" : "picture of the same place";

    /// <inheritdoc/>
    protected internal override void Validate(Job job, EntryFaults faults)
    {
        faults.Step(job, Step, needed: false);
        faults.Text("caption", Caption, 500);
        if (Sha256.Length != 64 || Sha256.Any(c => !char.IsAsciiHexDigitLower(c)))
        {
            faults.Add("sha256", "64 digits of lower-case hex");
        }

        if (Width is < 1 or > 20_000 || Height is < 1 or > 20_000)
        {
            faults.Add("width", "1 to 20000 pixels each way");
        }

        if (About is not (null or Intake or Find) || (About is not null && Step is not null))
        {
            faults.Add("about", $"{Intake} or {Find}, and no step then");
        }

        if (Over is { } over && job.Pictures.All(x => x.Entry.Id != over))
        {
            faults.Add("over", "no such picture");
        }
    }

    /// <inheritdoc/>
    protected internal override string? OutOfOrder(Job job, DateTimeOffset at) => null;

    /// <inheritdoc/>
    protected internal override void Apply(Job job, Entry entry) => job.Record(entry, this);
}

public sealed partial class Job
{
    private readonly List<Recorded<PictureTaken>> _pictures = [];

    /// <summary>Pictures, oldest first, each with its pins or, when it shows a place again, with those of the first one.</summary>
    public IReadOnlyList<PinnedPicture> Pictures => [.. _pictures.Select(p => new PinnedPicture(p.Entry, p.Payload, _pins.GetValueOrDefault(p.Entry.Id) ?? (p.Payload.Over is { } over ? _pins.GetValueOrDefault(over) : null) ?? []))];

    internal void Record(Entry entry, PictureTaken p) => _pictures.Add(new(entry, p));
}
