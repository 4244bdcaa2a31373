using System.Security.Cryptography;
using System.Text;
using Ical.Net;
using Ical.Net.CalendarComponents;
using Ical.Net.DataTypes;
using Ical.Net.Serialization;
using Screeline.Core.Formats;
using Screeline.Core.Jobs;
using Screeline.Data;
using Screeline.Library;
using Screeline.Web.Infrastructure;

namespace Screeline.Web.Api;

/// <summary>What goes out and comes in as files: jobs, lists, promised times.</summary>
public static class Files
{
    private const int MostRows = 50_000;

    /// <summary>Maps them.</summary>
    public static void MapFiles(this IEndpointRouteBuilder app)
    {
        app.MapGet("/jobs/{number:long}/file", async (long number, JobStore jobs, TrailStore trail, CurrentPerson current, CancellationToken cancel) =>
            await jobs.HeadAsync(number, cancel) is { } at && await SendOutAsync(at.Job, jobs, trail, current, cancel) is { } file
                ? Results.File(Encoding.UTF8.GetBytes(file.Write()), "application/json", $"job-{number}.json") : Results.NotFound()).ExcludeFromDescription();
        app.MapGet("/api/v1/jobs/{id:guid}", async (Guid id, JobStore jobs, TrailStore trail, CurrentPerson current, CancellationToken cancel) =>
            await SendOutAsync(id, jobs, trail, current, cancel) is { } file ? Results.Text(file.Write(), "application/json") : Results.Json(new { error = "no such job" }, statusCode: StatusCodes.Status404NotFound))
            .WithSummary("A job as a file, screeline/job@1");
        app.MapPost("/api/v1/jobs", PostJobAsync).WithSummary("Takes a job in from a file, screeline/job@1: whole or not at all");
        app.MapGet("/jobs.csv", JobsAsync).ExcludeFromDescription();
        app.MapGet("/vehicles.csv", async (VehicleStore vehicles, CancellationToken cancel) => CsvTable.Answer(
            "vehicles.csv", ["name", "model", "version", "year", "nominal_volts"], (await vehicles.AllAsync(cancel)).Select(v => (IReadOnlyList<object?>)[v.Name, v.Model, v.Version, v.Year, v.NominalVolts]))).ExcludeFromDescription();
        app.MapGet("/promised.ics", PromisedAsync).ExcludeFromDescription();
    }

    /// <summary>Reads a job's file and takes it in.</summary>
    /// <param name="text">The file.</param>
    /// <param name="name">What whoever brings it calls it.</param>
    /// <param name="jobs">Where it goes.</param>
    /// <param name="library">What is known of families.</param>
    /// <param name="current">Who brings it.</param>
    /// <param name="cancel">Stops waiting.</param>
    /// <returns>The job's number and whether it was new, or every fault by its path.</returns>
    public static async Task<TakenIn> TakeInAsync(string text, string name, JobStore jobs, ShippedLibrary library, CurrentPerson current, CancellationToken cancel)
    {
        try
        {
            var file = JobFile.Read(text, new Families(library));
            if (file.Documents.Select((d, i) => (d, i)).Where(x => x.d.MediaType != "application/json" && !Photographs.CanBeRead(x.d.Content)).Select(x => new FormatFault($"$.documents[{x.i}].base64", "is no picture that can be read")).ToList() is { Count: > 0 } faults)
            {
                return new TakenIn(null, false, faults);
            }

            var from = (name.Length is 0 or > 300 ? "a file without a name" : name, Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(text))));
            return await jobs.ImportAsync(file, from, current.Person!.Id, current.Role, cancel);
        }
        catch (RefusedFileException e)
        {
            return new TakenIn(null, false, e.Faults);
        }
    }

    // From here on somebody outside can hold it against the record.
    private static async Task<JobFile?> SendOutAsync(Guid id, JobStore jobs, TrailStore trail, CurrentPerson current, CancellationToken cancel)
    {
        var file = await jobs.ExportAsync(id, cancel);
        if (file is not null)
        {
            await trail.RecordAsync(id, "exported", current.Person!.Id, cancel);
        }

        return file;
    }

    private static async Task<IResult> PostJobAsync(HttpRequest request, JobStore jobs, ShippedLibrary library, CurrentPerson current, CancellationToken cancel)
    {
        if (!request.HasJsonContentType())
        {
            return Results.Json(new { error = "application/json is wanted here" }, statusCode: StatusCodes.Status415UnsupportedMediaType);
        }

        if (request.Headers.Origin is { Count: > 0 } origin && !(Uri.TryCreate(origin, UriKind.Absolute, out var from) && from.Authority == request.Host.Value))
        {
            return Results.Json(new { error = "sent from another site" }, statusCode: StatusCodes.Status403Forbidden);
        }

        using var reader = new StreamReader(request.Body);
        var taken = await TakeInAsync(await reader.ReadToEndAsync(cancel), request.Query["name"].ToString(), jobs, library, current, cancel);
        return taken.Number is { } number
            ? Results.Json(new { number, added = taken.New }, statusCode: taken.New ? StatusCodes.Status201Created : StatusCodes.Status200OK)
            : Results.Json(new { faults = taken.Faults.Select(f => new { path = f.Path, message = f.Message }) }, statusCode: StatusCodes.Status422UnprocessableEntity);
    }

    private static async Task<IResult> JobsAsync(string? show, string? q, SummaryStore summaries, ShippedLibrary library, CancellationToken cancel)
    {
        var rows = show == "closed" ? await summaries.ClosedAsync(q, 0, MostRows, cancel) : await summaries.OpenAsync(q, 0, MostRows, cancel);
        return CsvTable.Answer(
            show == "closed" ? "closed-jobs.csv" : "open-jobs.csv",
            ["job", "vehicle", "model", "family", "words", "stage", "next", "waits_for", "waits_until", "promised_at", "opened_at", "closed_at", "disputed_entries"],
            rows.Select(r => (IReadOnlyList<object?>)[r.Number, r.Summary.VehicleName, r.Summary.Model, library.System(r.Summary.Family)?.Title ?? r.Summary.Family, r.Summary.Words, r.Summary.Stage.Name(), r.Summary.Next,
                r.Summary.WaitsFor, r.Summary.WaitsUntil, r.Summary.PromisedAt, r.Summary.OpenedAt, r.Summary.ClosedAt, r.Summary.Disputes]));
    }

    // RFC 5545: one event for each open job that is promised, half an hour before it, so that a calendar shows when it must be ready.
    private static async Task<IResult> PromisedAsync(HttpRequest request, SummaryStore summaries, CancellationToken cancel)
    {
        var calendar = new Calendar { ProductId = "-//Screeline//Promised times//EN" };
        foreach (var row in (await summaries.OpenAsync(null, cancel: cancel)).Where(r => r.Summary.PromisedAt is not null))
        {
            var at = row.Summary.PromisedAt!.Value.UtcDateTime;
            calendar.Events.Add(new CalendarEvent
            {
                Uid = $"job-{row.Number}@screeline",
                DtStamp = new CalDateTime(row.Summary.OpenedAt.UtcDateTime),
                Start = new CalDateTime(at.AddMinutes(-30)),
                End = new CalDateTime(at),
                Summary = $"{row.Summary.VehicleName}: promised",
                Description = $"Job {row.Number}: {row.Summary.Words}. {row.Summary.Stage.Name()}: {row.Summary.Next}{(row.Summary.WaitsFor is { } waits ? $". Waits for {waits}" : "")}",
                Url = new Uri($"{request.Scheme}://{request.Host}/jobs/{row.Number}"),
            });
        }

        return Results.File(Encoding.UTF8.GetBytes(new CalendarSerializer().SerializeToString(calendar) ?? ""), "text/calendar; charset=utf-8", "promised.ics");
    }
}
