using System.Text.Json;
using System.Text.Json.Serialization;
using Screeline.Core.Access;
using Screeline.Core.Access.Planning;
using Screeline.Core.Formats;
using Screeline.Library;
using Screeline.Web.Infrastructure;

namespace Screeline.Web.Api;

/// <summary>The planner over JSON. Shapes and meanings: docs/formats.md.</summary>
public static class Plans
{
    private static readonly JsonSerializerOptions Json = new(JsonSerializerDefaults.Web)
    {
        PropertyNamingPolicy = JsonNamingPolicy.SnakeCaseLower,
        DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingNull,
    };

    // A search may take its two seconds of one processor; whoever looks at a page meanwhile must find another one free.
    private static readonly SemaphoreSlim Searches = new(Math.Max(1, Environment.ProcessorCount - 1));

    /// <summary>Maps POST /api/v1/plan.</summary>
    public static void MapPlans(this IEndpointRouteBuilder app) =>
        app.MapPost("/api/v1/plan", PostAsync).WithSummary("Plans the best ways in and back on an access map")
            .Accepts<PlanInput>("application/json").Produces<PlanOutput>().Produces<FaultsOutput>(StatusCodes.Status422UnprocessableEntity);

    private static async Task<IResult> PostAsync(HttpRequest request, ShippedLibrary library, MapShelf shelf, CancellationToken cancel)
    {
        if (!request.HasJsonContentType())
        {
            return Results.Json(new { error = "application/json is wanted here" }, statusCode: StatusCodes.Status415UnsupportedMediaType);
        }

        var faults = new List<FormatFault>();
        using var reader = new StreamReader(request.Body);
        using var document = JsonReader.Parse(await reader.ReadToEndAsync(cancel), faults);
        var asked = document is null ? null : await ReadAsync(document.RootElement, library, shelf, faults, cancel);
        if (asked is null || faults.Count > 0)
        {
            return Results.Json(new FaultsOutput([.. faults.Select(f => new FaultOutput(f.Path, f.Message))]), Json, statusCode: StatusCodes.Status422UnprocessableEntity);
        }

        await Searches.WaitAsync(cancel);
        PlanAnswer answer;
        try
        {
            answer = await Task.Run(() => RoutePlanner.Plan(asked, cancel), cancel);
        }
        finally
        {
            Searches.Release();
        }

        return answer.Unreachable is { } u
            ? Results.Json(new UnreachableAnswer(new UnreachableOutput(u.Target, u.Blocked, [.. u.MissingTools.Select(m => new MissingOutput(m.Operation, m.Tools))], u.Unmet, u.NoWayBack)), Json, statusCode: StatusCodes.Status422UnprocessableEntity)
            : Results.Json(new PlanOutput(answer.Proven, answer.Gap, [.. answer.Routes.Select(r => Tell(asked, r))]), Json);
    }

    private static RouteOutput Tell(PlanRequest asked, WayPlan plan)
    {
        var missing = plan.Refit.SelectMany(a => asked.Lacks(a.Tools, asked.Map.Operation(a.Id)?.OrTools)).Distinct();
        return new RouteOutput(
            plan.ExpectedMinutes, plan.Money, plan.ExpectedMinutes, plan.P80Minutes, plan.Set,
            [.. plan.Removal.Select(a => new ActionOutput(a.Id, null, a.Work.Mean, a.MoveMinutes, a.ToolChangeMinutes))],
            [.. plan.Refit.Select(a => new ActionOutput(a.Part == WalkPart.Closing ? a.Id : null, a.Part == WalkPart.RefitStep ? a.Id : null, a.Work.Mean, a.MoveMinutes, a.ToolChangeMinutes))],
            [.. missing]);
    }

    private static async Task<PlanRequest?> ReadAsync(JsonElement root, ShippedLibrary library, MapShelf shelf, List<FormatFault> faults, CancellationToken cancel)
    {
        var r = new JsonReader(root, "$", faults);
        var history = !r.Given("history") || r.YesNo("history");
        var map = await ReadMapAsync(r, library, shelf, history, cancel);
        var target = r.Text("target");
        var objective = r.Given("objective") ? r.Choice("objective", ["fastest", "thrifty"]) : "fastest";
        var (done, blocked) = (r.Texts("done", optional: true), r.Texts("blocked", optional: true));
        var tools = r.Given("tools") ? r.Texts("tools").ToHashSet(StringComparer.Ordinal) : null;
        _ = r.Get("tools");
        var (position, tool) = (r.OptionalText("position"), r.OptionalText("tool"));
        var routes = r.Given("routes") ? r.Whole("routes", 1, 50) : 3;
        r.RefuseOthers();
        if (map is null)
        {
            return null;
        }

        void Known(IReadOnlyList<string> ids, string key)
        {
            for (var i = 0; i < ids.Count; i++)
            {
                if (map.Operation(ids[i]) is null)
                {
                    r.Fault($"no operation “{ids[i]}”", $"{key}[{i}]");
                }
            }
        }

        Known(done, "done");
        Known(blocked, "blocked");
        if (position is not null && map.Positions.All(p => p.Id != position))
        {
            r.Fault($"“{position}” is none of: {string.Join(", ", map.Positions.Select(p => p.Id))}", "position");
        }

        // A target's id; an operation's own is taken too, so that any of them can be aimed at.
        var operation = map.Targets.FirstOrDefault(t => t.Id == target)?.Operation ?? map.Operation(target)?.Id;
        if (operation is null && target.Length > 0)
        {
            r.Fault($"“{target}” is none of: {string.Join(", ", map.Targets.Select(t => t.Id))}", "target");
        }

        return operation is null ? null : new PlanRequest(map, operation)
        {
            Objective = objective == "thrifty" ? PlanObjective.Thrifty : PlanObjective.Fastest,
            Done = done.ToHashSet(StringComparer.Ordinal),
            Blocked = blocked.ToHashSet(StringComparer.Ordinal),
            Tools = tools,
            Position = position,
            Tool = tool,
            Routes = routes,
        };
    }

    private static async Task<AccessMap?> ReadMapAsync(JsonReader r, ShippedLibrary library, MapShelf shelf, bool history, CancellationToken cancel)
    {
        var (inline, id) = (r.Get("map"), r.OptionalText("map_id"));
        if (inline is not { ValueKind: not JsonValueKind.Null })
        {
            if (id is null)
            {
                r.Fault("a \"map\" or a \"map_id\" is wanted here");
                return null;
            }

            var known = await shelf.FindAsync(id, cancel);
            if (known is null)
            {
                r.Fault($"no map “{id}”", "map_id");
            }

            return known?.ForPlans(all: !history, history: history);
        }

        if (id is not null)
        {
            r.Fault("either \"map\" or \"map_id\", not both", "map_id");
        }

        var reading = AccessMapReader.Read(inline.Value.GetRawText(), library.Cautions);
        r.Faults.AddRange(reading.Faults.Select(f => f with { Path = "$.map" + f.Path[1..] }));
        return reading.Map;
    }
}

/// <summary>What the planner is asked; a map or the id of one.</summary>
public sealed record PlanInput(JsonElement? Map, string? MapId, string Target, string? Objective, IReadOnlyList<string>? Done, IReadOnlyList<string>? Blocked, IReadOnlyList<string>? Tools, string? Position, string? Tool, int? Routes, bool? History);

/// <summary>Routes, best first.</summary>
/// <param name="Proven">No walk is better than the first.</param>
/// <param name="Gap">(cost − lower bound) / cost of the first in the objective; 0 when proven.</param>
/// <param name="Routes">Best first; each holds none of those before it whole.</param>
public sealed record PlanOutput(bool Proven, double Gap, IReadOnlyList<RouteOutput> Routes);

/// <summary>A way in and back.</summary>
public sealed record RouteOutput(decimal Minutes, decimal Money, decimal P50, decimal P80, IReadOnlyList<string> Set, IReadOnlyList<ActionOutput> Removal, IReadOnlyList<ActionOutput> Refit, IReadOnlyList<string> RefitToolsMissing);

/// <summary>An action: an operation or a refit step.</summary>
/// <param name="Op">The operation.</param>
/// <param name="Step">The refit step.</param>
/// <param name="Minutes">Its own.</param>
/// <param name="Move">Of the change of position before it.</param>
/// <param name="ToolChange">Of the change of tool before it.</param>
public sealed record ActionOutput(string? Op, string? Step, decimal Minutes, decimal Move, decimal ToolChange);

/// <summary>What stands in the way.</summary>
public sealed record UnreachableAnswer(UnreachableOutput Unreachable);

/// <summary>What stands in the way to a target.</summary>
public sealed record UnreachableOutput(string Target, IReadOnlyList<string> Blocked, IReadOnlyList<MissingOutput> MissingTools, IReadOnlyList<string> Unmet, bool NoWayBack);

/// <summary>An operation and the tools it lacks.</summary>
public sealed record MissingOutput(string Op, IReadOnlyList<string> Tools);
