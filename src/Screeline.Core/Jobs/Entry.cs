using System.Security.Cryptography;
using System.Text;
using System.Text.Json;

namespace Screeline.Core.Jobs;

/// <summary>An entry as its author made it, before it has a place in the job.</summary>
/// <param name="Id">Made by the client, so that sending it twice stores it once.</param>
/// <param name="Job">The job.</param>
/// <param name="BasedOn">The position the author had seen.</param>
/// <param name="Actor">The person who did it.</param>
/// <param name="OccurredAt">The client's clock: data, not order.</param>
/// <param name="Payload">What it says.</param>
/// <param name="WaitedSeconds">How long it waited on its device before it was sent, by the running clock of the page on which it was pressed and
/// not by its date; 0 for what was sent at once. Put by whoever takes it in. Null for entries of versions that did not ask.</param>
public sealed record EntryDraft(Guid Id, Guid Job, int BasedOn, Guid Actor, DateTimeOffset OccurredAt, Payload Payload, int? WaitedSeconds = null)
{
    /// <summary>The exact bytes that are kept and hashed: canonical JSON of everything the author said.</summary>
    public byte[] Body()
    {
        var kind = EntryKinds.ForPayload(Payload);
        var said = new Dictionary<string, object?>
        {
            ["actor"] = Actor,
            ["based_on"] = BasedOn,
            ["id"] = Id,
            ["job"] = Job,
            ["kind"] = kind.Tag,
            ["occurred_at"] = OccurredAt.ToString("yyyy-MM-ddTHH:mm:ss.ffffffzzz", System.Globalization.CultureInfo.InvariantCulture),
            ["payload"] = EntryKinds.Write(Payload),
        };
        if (WaitedSeconds is { } waited)
        {
            said["waited_seconds"] = waited;
        }

        return CanonicalJson.Write(JsonSerializer.SerializeToElement(said));
    }
}

/// <summary>An entry that has its place in a job.</summary>
/// <param name="Draft">What its author said.</param>
/// <param name="Position">Its place, from 1 without a gap.</param>
/// <param name="SentBy">Who was signed in when it was sent.</param>
/// <param name="ReceivedAt">The server's clock.</param>
public sealed record Entry(EntryDraft Draft, int Position, Guid SentBy, DateTimeOffset ReceivedAt)
{
    /// <summary>The entry's id.</summary>
    public Guid Id => Draft.Id;
    /// <summary>What it says.</summary>
    public Payload Payload => Draft.Payload;
    /// <summary>
    /// When it was said as far as anybody but its author knows: the server's clock, less what the page's own running clock counted. Waits
    /// that protect people go by it, since a date can be set. Of entries of versions that did not ask, their date.
    /// </summary>
    public DateTimeOffset TrustedAt => Draft.WaitedSeconds is { } waited ? ReceivedAt.AddSeconds(-waited) : Draft.OccurredAt;
}

/// <summary>The chain over a job's entries and the chain over all jobs' heads.</summary>
public static class EntryChain
{
    /// <summary>Stands before the first entry: 32 zero bytes.</summary>
    public static byte[] Start { get; } = new byte[32];

    /// <summary>
    /// SHA-256 over the previous hash (32 bytes), one line of UTF-8 text "position sent_by received_at" ending in a line feed
    /// (received_at in UTC with microseconds), and the exact body.
    /// </summary>
    public static byte[] Next(byte[] previous, int position, Guid sentBy, DateTimeOffset receivedAt, byte[] body)
    {
        var line = string.Create(System.Globalization.CultureInfo.InvariantCulture, $"{position} {sentBy} {receivedAt.UtcDateTime:yyyy-MM-ddTHH:mm:ss.ffffff}Z\n");
        return SHA256.HashData([.. previous, .. Encoding.UTF8.GetBytes(line), .. body]);
    }

    /// <summary>SHA-256 over the previous link (32 bytes), the job's id as text, a line feed, and the job's head hash.</summary>
    public static byte[] NextHead(byte[] previous, Guid job, byte[] head) =>
        SHA256.HashData([.. previous, .. Encoding.UTF8.GetBytes($"{job}\n"), .. head]);
}
