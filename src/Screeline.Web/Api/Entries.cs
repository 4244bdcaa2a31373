using System.Globalization;
using System.Text.Json;
using Screeline.Core.Formats;
using Screeline.Core.Jobs;
using Screeline.Data;
using Screeline.Web.Infrastructure;

namespace Screeline.Web.Api;

/// <summary>
/// The stream of a job over JSON, for devices that were without a network. An observation is never refused for its order: it
/// is stored as disputed. The same id with the same bytes gets the original answer.
/// </summary>
public static class Entries
{
    /// <summary>Maps GET and POST /api/v1/jobs/{id}/entries.</summary>
    public static void MapEntries(this IEndpointRouteBuilder app)
    {
        app.MapGet("/api/v1/jobs/{id:guid}/entries", async (Guid id, int? after, JobStore jobs, CancellationToken cancel) =>
            await jobs.FindAsync(id, cancel) is { } found
                ? Results.Json(new { job = id, head = found.Job.Head, entries = found.Job.History.Where(h => h.Entry.Position > (after ?? 0)).Select(h => Tell(h, found.Job)) })
                : NotFound());
        app.MapPost("/api/v1/jobs/{id:guid}/entries", PostAsync);
    }

    private static async Task<IResult> PostAsync(Guid id, HttpRequest request, JobStore jobs, CurrentPerson current, Metrics metrics, CancellationToken cancel)
    {
        // A form of another site cannot send JSON, and a script of another site must tell where it comes from.
        if (!request.HasJsonContentType())
        {
            return Problem(StatusCodes.Status415UnsupportedMediaType, "application/json is wanted here");
        }

        if (request.Headers.Origin is { Count: > 0 } origin && !(Uri.TryCreate(origin, UriKind.Absolute, out var from) && from.Authority == request.Host.Value))
        {
            return Problem(StatusCodes.Status403Forbidden, "sent from another site");
        }

        var (person, sentBy) = (current.Signed!.Worker.Person, current.Signed.SignedIn.Person);
        var faults = new List<FormatFault>();
        using var reader = new StreamReader(request.Body);
        using var document = JsonReader.Parse(await reader.ReadToEndAsync(cancel), faults);
        if (document is null)
        {
            return Faults(faults);
        }

        var draft = Read(document.RootElement, id, person, faults);
        if (draft is null)
        {
            return Faults(faults);
        }

        var outcome = await jobs.AppendAsync(id, [draft], sentBy, OutOfTurn.Keep, sender: current.Signed!.Role, cancel: cancel);
        metrics.Entry(outcome.GetType().Name);
        return outcome switch
        {
            AppendResult.Kept kept => Results.Json(Tell(kept.Job.History.First(h => h.Entry.Id == draft.Id), kept.Job), statusCode: StatusCodes.Status201Created),
            AppendResult.Repeated again => Results.Json(Tell(again.Job.History.First(h => h.Entry.Id == draft.Id), again.Job)),
            AppendResult.Clashed clash => Results.Json(new { error = "Somebody else came first. Look at what they did and send it again based on the new head.", head = clash.Job.Head, since = clash.Since.Select(e => Tell(clash.Job.History[e.Position - 1], clash.Job)) }, statusCode: StatusCodes.Status409Conflict),
            AppendResult.IdTaken taken => Problem(StatusCodes.Status409Conflict, $"The id {taken.Id} is taken by other content. Both are kept; the first one counts."),
            AppendResult.NotAllowed not => Problem(StatusCodes.Status403Forbidden, not.Reason),
            AppendResult.OutOfOrder order => Problem(StatusCodes.Status409Conflict, order.Reason),
            AppendResult.Malformed malformed => Faults(malformed.Faults),
            _ => NotFound(),
        };
    }

    private static EntryDraft? Read(JsonElement root, Guid job, Guid person, List<FormatFault> faults)
    {
        var r = new JsonReader(root, "$", faults);
        var id = r.Text("id");
        var basedOn = r.Whole("based_on", 0, int.MaxValue);
        var occurred = r.Text("occurred_at");
        var kind = r.Text("kind");
        var payload = r.Get("payload");
        if (payload is null)
        {
            r.Fault("is missing", "payload");
        }

        r.RefuseOthers();
        if (!Guid.TryParseExact(id, "D", out var guid))
        {
            r.Fault("a UUID is wanted here", "id");
        }

        if (!DateTimeOffset.TryParseExact(occurred, ["yyyy-MM-ddTHH:mm:ssK", "yyyy-MM-ddTHH:mm:ss.FFFFFFFK"], CultureInfo.InvariantCulture, DateTimeStyles.AssumeUniversal, out var at) || at.Year is < 2000 or > 2200)
        {
            r.Fault("an ISO 8601 time with its offset is wanted here", "occurred_at");
        }

        if (faults.Count > 0)
        {
            return null;
        }

        try
        {
            var read = EntryKinds.Read(kind, payload!.Value);
            if (read is JobOpened or SecondWanted or JobImported)
            {
                faults.Add(new FormatFault("$.kind", read switch { JobOpened => "a job is opened at /jobs/new", JobImported => "a file is taken in at /api/v1/jobs", _ => "the server asks for a second person itself" }));
                return null;
            }

            return new EntryDraft(guid, job, basedOn, person, at, read, WaitedSeconds: 0);
        }
        catch (RefusedFileException e)
        {
            faults.AddRange(e.Faults);
            return null;
        }
    }

    private static object Tell(HistoryLine line, Job job) => new
    {
        id = line.Entry.Id,
        position = line.Entry.Position,
        based_on = line.Entry.Draft.BasedOn,
        actor = line.Entry.Draft.Actor,
        sent_by = line.Entry.SentBy,
        occurred_at = line.Entry.Draft.OccurredAt,
        received_at = line.Entry.ReceivedAt,
        kind = EntryKinds.ForPayload(line.Entry.Payload).Tag,
        payload = EntryKinds.Write(line.Entry.Payload),
        told_by_file = job.IsToldByFile(line.Entry),
        withdrawn_by = line.WithdrawnBy?.Id,
        corrected_by = line.CorrectedBy?.Id,
        disputed = job.Disputes.FirstOrDefault(d => d.Entry.Id == line.Entry.Id)?.Reason,
    };

    private static IResult Faults(IReadOnlyList<FormatFault> faults) => Results.Json(new { faults = faults.Select(f => new { path = f.Path, message = f.Message }) }, statusCode: StatusCodes.Status422UnprocessableEntity);

    private static IResult Problem(int status, string message) => Results.Json(new { error = message }, statusCode: status);

    private static IResult NotFound() => Problem(StatusCodes.Status404NotFound, "no such job");
}
