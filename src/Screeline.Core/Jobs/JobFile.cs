using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using System.Text.Encodings.Web;
using System.Text.Json;
using Screeline.Core.Access;
using Screeline.Core.Formats;

namespace Screeline.Core.Jobs;

/// <summary>A person as a job's file names them.</summary>
public sealed record FilePerson(Guid Id, string Name, string Role);

/// <summary>The vehicle as a job's file names it.</summary>
public sealed record FileVehicle(Guid Id, string Name, string Model, string Version, int? Year, decimal NominalVolts);

/// <summary>An entry as it is kept: the exact bytes its author said, and the hash that chains it.</summary>
/// <param name="Entry">What it says.</param>
/// <param name="Body">Canonical JSON, UTF-8.</param>
/// <param name="Hash">Of the chain up to here.</param>
public sealed record FileEntry(Entry Entry, byte[] Body, byte[] Hash);

/// <summary>A map or a picture by the hash of its content.</summary>
public sealed record FileDocument(string Sha256, string MediaType, byte[] Content);

/// <summary>
/// Everything recorded about one job, the format <c>screeline/job@1</c>: exact meanings in docs/formats.md. Taken into an empty
/// installation it shows the same job, with the same chain.
/// </summary>
/// <param name="Id">The job.</param>
/// <param name="Vehicle">Its vehicle.</param>
/// <param name="People">Everybody its entries name.</param>
/// <param name="Entries">All entries, oldest first.</param>
/// <param name="Documents">Every map and picture they name, by hash.</param>
public sealed record JobFile(Guid Id, FileVehicle Vehicle, IReadOnlyList<FilePerson> People, IReadOnlyList<FileEntry> Entries, IReadOnlyList<FileDocument> Documents)
{
    /// <summary>Its name.</summary>
    public const string Format = "screeline/job@1";

    /// <summary>Most bytes of a file: pictures are in it.</summary>
    public const int MostBytes = 60 * 1024 * 1024;

    /// <summary>Most entries of a job: some thirty times what a long one has.</summary>
    public const int MostEntries = 3000;

    /// <summary>Longest that an entry waits on a device before it is sent: a month.</summary>
    public const int MostWaitedSeconds = 31 * 24 * 3600;

    /// <summary>Hashes of the documents that entries name.</summary>
    public static IEnumerable<string> DocumentsOf(IEnumerable<Payload> payloads) =>
        payloads.SelectMany(p => new[] { p.NamesMap(), p.NamesPicture() }).OfType<string>().Distinct().Order(StringComparer.Ordinal);

    /// <summary>The file's text. The same job always gives the same text.</summary>
    public string Write()
    {
        using var memory = new MemoryStream();
        using (var w = new Utf8JsonWriter(memory, new JsonWriterOptions { Indented = true, Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping, NewLine = "\n" }))
        {
            w.WriteStartObject();
            w.WriteString("format", Format);
            w.WriteString("job", Id);
            w.WriteString("head", Entries.Count == 0 ? Convert.ToHexStringLower(EntryChain.Start) : Convert.ToHexStringLower(Entries[^1].Hash));
            w.WriteStartObject("vehicle");
            w.WriteString("id", Vehicle.Id);
            w.WriteString("name", Vehicle.Name);
            w.WriteString("model", Vehicle.Model);
            w.WriteString("version", Vehicle.Version);
            if (Vehicle.Year is { } year)
            {
                w.WriteNumber("year", year);
            }

            w.WriteNumber("nominal_volts", Vehicle.NominalVolts / 1.000000m);
            w.WriteEndObject();
            w.WriteStartArray("people");
            foreach (var p in People.OrderBy(p => p.Id))
            {
                w.WriteStartObject();
                w.WriteString("id", p.Id);
                w.WriteString("name", p.Name);
                w.WriteString("role", p.Role);
                w.WriteEndObject();
            }

            w.WriteEndArray();
            w.WriteStartArray("entries");
            foreach (var e in Entries)
            {
                w.WriteStartObject();
                w.WriteNumber("position", e.Entry.Position);
                w.WriteString("sent_by", e.Entry.SentBy);
                w.WriteString("received_at", e.Entry.ReceivedAt.UtcDateTime.ToString("yyyy-MM-ddTHH:mm:ss.ffffffZ", CultureInfo.InvariantCulture));
                w.WriteString("hash", Convert.ToHexStringLower(e.Hash));
                w.WritePropertyName("body");
                w.WriteRawValue(e.Body);
                w.WriteEndObject();
            }

            w.WriteEndArray();
            w.WriteStartArray("documents");
            foreach (var d in Documents.OrderBy(d => d.Sha256, StringComparer.Ordinal))
            {
                w.WriteStartObject();
                w.WriteString("sha256", d.Sha256);
                w.WriteString("media_type", d.MediaType);
                if (d.MediaType == "application/json")
                {
                    w.WriteString("text", d.Content);
                }
                else
                {
                    w.WriteBase64String("base64", d.Content);
                }

                w.WriteEndObject();
            }

            w.WriteEndArray();
            w.WriteEndObject();
        }

        return Encoding.UTF8.GetString(memory.ToArray()) + "\n";
    }

    /// <summary>Reads a file; all faults at once with their JSON path.</summary>
    /// <param name="text">The file's text.</param>
    /// <param name="families">What is known here: a job of a family that is not cannot be shown.</param>
    /// <exception cref="RefusedFileException">The file has faults.</exception>
    public static JobFile Read(string text, IFamilies families)
    {
        var faults = new List<FormatFault>();
        using var document = JsonReader.Parse(text, faults);
        var file = document is null ? null : Read(new JsonReader(document.RootElement, "$", faults), families);
        return faults.Count > 0 || file is null ? throw new RefusedFileException("job", faults) : file;
    }

    private static JobFile? Read(JsonReader r, IFamilies families)
    {
        var format = r.Text("format");
        if (format != Format)
        {
            if (format.Length > 0)
            {
                r.Fault(format.StartsWith("screeline/job@", StringComparison.Ordinal) ? $"“{format}” is of another version; {Format} is read here" : $"“{format}” is not read here; {Format} is", "format");
            }

            // What follows is of another shape: its keys say nothing here.
            return null;
        }

        var job = Uuid(r, "job");
        var head = r.Text("head");
        var vehicle = r.Object("vehicle", v => new FileVehicle(Uuid(v, "id"), v.Text("name"), v.Text("model"), v.Get("version")?.GetString() ?? "", v.Given("year") ? v.Whole("year", 1900, 2200) : null, v.Number("nominal_volts", 12, 24)));
        var people = r.List("people", p => new FilePerson(Uuid(p, "id"), p.Text("name"), p.Choice("role", ["technician", "foreman", "apprentice", "viewer"])));
        var entries = r.List("entries", e => ReadEntry(e, job));
        var documents = r.List("documents", ReadDocument);
        r.RefuseOthers();
        var faults = r.Faults;
        if (faults.Count > 0 || vehicle is null)
        {
            return null;
        }

        var file = new JobFile(job, vehicle, people, [.. entries.OfType<FileEntry>()], documents);
        file.Check(head, families, faults);
        return file;
    }

    // Names that must exist, the order, the chain, and that all of it together is a job.
    private void Check(string head, IFamilies families, List<FormatFault> faults)
    {
        void Fault(string path, string message) => faults.Add(new FormatFault(path, message));
        var people = People.Select(p => p.Id).ToHashSet();
        if (people.Count < People.Count)
        {
            Fault("$.people", "somebody stands twice");
        }

        if (Entries.Count == 0)
        {
            Fault("$.entries", "a job begins with the entry that opens it");
            return;
        }

        if (Entries.Count > MostEntries)
        {
            Fault("$.entries", $"{Entries.Count} entries: a job holds at most {MostEntries}");
            return;
        }

        foreach (var (name, path) in People.Select((p, i) => (p.Name, $"$.people[{i}].name")).Concat([(Vehicle.Name, "$.vehicle.name"), (Vehicle.Model, "$.vehicle.model"), (Vehicle.Version, "$.vehicle.version")]).Where(x => x.Item1.Length > 200))
        {
            Fault(path, "longer than 200 characters");
        }

        if (Vehicle.NominalVolts is not (12 or 24))
        {
            Fault("$.vehicle.nominal_volts", "12 or 24");
        }

        var hash = EntryChain.Start;
        var ids = new HashSet<Guid>();
        for (var i = 0; i < Entries.Count; i++)
        {
            var (e, path) = (Entries[i].Entry, $"$.entries[{i}]");
            hash = EntryChain.Next(hash, e.Position, e.SentBy, e.ReceivedAt, Entries[i].Body);
            if (e.Position != i + 1)
            {
                Fault($"{path}.position", $"{i + 1} is wanted here: positions have no gap");
            }

            if (e.Draft.Job != Id)
            {
                Fault($"{path}.body.job", "is another job's");
            }

            if (e.Draft.BasedOn < 0 || e.Draft.BasedOn >= e.Position)
            {
                Fault($"{path}.body.based_on", "below its own position");
            }

            if (!ids.Add(e.Id))
            {
                Fault($"{path}.body.id", "stands twice");
            }

            foreach (var (person, key) in new[] { (e.Draft.Actor, "body.actor"), (e.SentBy, "sent_by") })
            {
                if (!people.Contains(person))
                {
                    Fault($"{path}.{key}", "is nobody of $.people");
                }
            }

            if (!hash.AsSpan().SequenceEqual(Entries[i].Hash))
            {
                Fault($"{path}.hash", "the chain breaks here: this entry, or one before it, was changed");
                return;
            }
        }

        if (head != Convert.ToHexStringLower(hash))
        {
            Fault("$.head", "is not the hash of the last entry: the end is missing");
        }

        var known = Documents.Select(d => d.Sha256).ToHashSet(StringComparer.Ordinal);
        foreach (var missing in DocumentsOf(Entries.Select(e => e.Entry.Payload)).Where(h => !known.Contains(h)))
        {
            Fault("$.documents", $"{missing} is named by an entry and is not here");
        }

        if (Entries[0].Entry.Payload is not JobOpened opened)
        {
            Fault("$.entries[0].body.kind", "the first entry opens the job");
        }
        else if (families.System(opened.Family) is null)
        {
            Fault("$.entries[0].body.payload.family", $"no family “{opened.Family}” is known here");
        }
        else if (opened.Vehicle != Vehicle.Id)
        {
            Fault("$.vehicle.id", "is not the vehicle the job was opened for");
        }
        else if (opened.NominalVolts != Vehicle.NominalVolts)
        {
            Fault("$.vehicle.nominal_volts", "is not what the job was opened with");
        }

        if (faults.Count == 0)
        {
            var maps = Documents.Where(d => d.MediaType == "application/json").Select(d => (d.Sha256, Map: AccessMapReader.ReadKept(Encoding.UTF8.GetString(d.Content)))).ToList();
            maps.Where(m => m.Map is null).ToList().ForEach(m => Fault("$.documents", $"{m.Sha256} is no access map"));
            if (faults.Count == 0)
            {
                CheckEntries(new JobKnowledge(families, maps.ToDictionary(m => m.Sha256, m => m.Map!, StringComparer.Ordinal)), faults);
            }
        }
    }

    // The same checks as of an entry that is made here, each with the job as it stood then.
    private void CheckEntries(JobKnowledge knowledge, List<FormatFault> faults)
    {
        List<Entry> entries = [.. Entries.Select(e => e.Entry)];
        var corrections = entries.Where(e => e.Payload is EntryCorrected).ToLookup(e => ((EntryCorrected)e.Payload).Entry);
        void Look(Job job, Entry entry, Payload payload) =>
            faults.AddRange(JobRules.Malformed(job, payload, fromFile: true).Select(f => f with { Path = $"$.entries[{entry.Position - 1}].body{f.Path[1..]}" }));
        try
        {
            Look(Job.Fold([entries[0]], knowledge), entries[0], entries[0].Payload);
            Job.Walk(entries, knowledge, (job, entry) =>
            {
                // A correction may have come before what it corrects; then it is looked at when that comes.
                if (entry.Payload is not EntryCorrected correction || job.Find(correction.Entry) is not null)
                {
                    Look(job, entry, entry.Payload);
                }

                foreach (var early in corrections[entry.Id].Where(c => c.Position < entry.Position))
                {
                    try
                    {
                        Look(job, early, EntryKinds.ReadCorrection(EntryKinds.ForPayload(entry.Payload), ((EntryCorrected)early.Payload).Payload));
                    }
                    catch (RefusedFileException e)
                    {
                        faults.Add(new FormatFault($"$.entries[{early.Position - 1}].body.payload.payload", e.Faults[0].Message));
                    }
                }
            });
        }
        catch (Exception e) when (e is ArgumentException or KeyNotFoundException or InvalidOperationException)
        {
            faults.Add(new FormatFault("$.entries", $"together they are no job: {e.Message}"));
        }
    }

    private static FileEntry? ReadEntry(JsonReader r, Guid job)
    {
        var position = r.Whole("position", 1, 1_000_000);
        var (sentBy, hash) = (Uuid(r, "sent_by"), Hash(r, "hash"));
        var received = Time(r, "received_at");
        if (r.Get("body") is not { ValueKind: JsonValueKind.Object } body)
        {
            r.Fault(r.Given("body") ? "an object { … } is wanted here" : "is missing", "body");
            return null;
        }

        var before = r.Faults.Count;
        var b = new JsonReader(body, $"{r.Path}.body", r.Faults);
        var (id, actor, of, kind, basedOn, occurred) = (Uuid(b, "id"), Uuid(b, "actor"), Uuid(b, "job"), b.Text("kind"), b.Whole("based_on", 0, 1_000_000), Time(b, "occurred_at"));
        Payload? payload = null;
        if (b.Get("payload") is { } said && kind.Length > 0)
        {
            try
            {
                payload = EntryKinds.Read(kind, said.Clone());
            }
            catch (RefusedFileException e)
            {
                r.Faults.AddRange(e.Faults.Select(f => f with { Path = $"{r.Path}.body{f.Path[1..]}" }));
            }
        }
        else if (kind.Length > 0)
        {
            b.Fault("is missing", "payload");
        }

        int? waited = b.Given("waited_seconds") ? b.Whole("waited_seconds", 0, MostWaitedSeconds) : null;
        b.RefuseOthers();
        var bytes = CanonicalJson.Write(body);
        if (r.Faults.Count == before && !bytes.AsSpan().SequenceEqual(Encoding.UTF8.GetBytes(body.GetRawText())))
        {
            // What is taken in goes out again as it came; a spelling of its own would not.
            r.Fault("is not spelled as docs/formats.md says: keys in order, no blanks, no needless escapes", "body");
        }

        return payload is null || r.Faults.Count > before ? null
            : new FileEntry(new Entry(new EntryDraft(id, of == Guid.Empty ? job : of, basedOn, actor, occurred, payload, waited), position, sentBy, received), bytes, hash);
    }

    private static FileDocument ReadDocument(JsonReader r)
    {
        var faults = r.Faults.Count;
        var (sha, media) = (r.Text("sha256"), r.Choice("media_type", ["application/json", "image/jpeg", "image/png"]));
        byte[] content = [];
        if (media == "application/json")
        {
            content = Encoding.UTF8.GetBytes(r.Text("text"));
        }
        else if (r.Get("base64") is not { ValueKind: JsonValueKind.String } text || !text.TryGetBytesFromBase64(out content!))
        {
            r.Fault("base64 text is wanted here", "base64");
            content = [];
        }

        if (content.Length == 0 && r.Faults.Count == faults)
        {
            r.Fault("is empty", media == "application/json" ? "text" : "base64");
        }

        if (content.Length > 0 && sha != Convert.ToHexStringLower(SHA256.HashData(content)))
        {
            r.Fault("is not the hash of this content", "sha256");
        }

        return new FileDocument(sha, media, content);
    }

    private static Guid Uuid(JsonReader r, string key)
    {
        var text = r.Text(key);
        if (!Guid.TryParseExact(text, "D", out var id) && text.Length > 0)
        {
            r.Fault("a UUID is wanted here", key);
        }

        return id;
    }

    private static byte[] Hash(JsonReader r, string key)
    {
        var text = r.Text(key);
        if (text.Length == 64 && text.All(char.IsAsciiHexDigitLower))
        {
            return Convert.FromHexString(text);
        }

        if (text.Length > 0)
        {
            r.Fault("64 hexadecimal digits are wanted here", key);
        }

        return [];
    }

    private static DateTimeOffset Time(JsonReader r, string key)
    {
        var text = r.Text(key);
        if (DateTimeOffset.TryParse(text, CultureInfo.InvariantCulture, DateTimeStyles.AssumeUniversal, out var time) && Math.Abs(time.Offset.TotalHours) <= 18)
        {
            if (time.UtcDateTime.Year is < 2000 or > 2200 || time.Ticks % 10 != 0)
            {
                r.Fault("from the year 2000 to 2200, and no finer than a microsecond", key);
            }

            return time;
        }

        if (text.Length > 0)
        {
            r.Fault("ISO 8601 with offset is wanted here", key);
        }

        return DateTimeOffset.UnixEpoch;
    }
}
