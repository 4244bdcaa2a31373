using System.Text.Json;
using System.Text.Json.Serialization;
using Screeline.Core.Diagnosis;
using Screeline.Core.Formats;
using Screeline.Core.Quantities;
using Screeline.Library;
using Screeline.Web.Infrastructure;

namespace Screeline.Web.Api;

/// <summary>The diagnosis engine over JSON; the same figures as on the screens. Shapes and meanings: docs/formats.md.</summary>
public static class Diagnosis
{
    private static readonly JsonSerializerOptions Json = new(JsonSerializerDefaults.Web)
    {
        PropertyNamingPolicy = JsonNamingPolicy.SnakeCaseLower,
        DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingNull,
    };

    /// <summary>Maps GET /api/v1/systems, GET /api/v1/systems/{id} and POST /api/v1/diagnosis.</summary>
    public static void MapDiagnosis(this IEndpointRouteBuilder app)
    {
        app.MapGet("/api/v1/systems", (ShippedLibrary library) => Results.Json(library.Systems.OrderBy(s => s.Id, StringComparer.Ordinal).Select(s => new SystemLine(s.Id, s.Title, s.Faults.Count, s.Tests.Count)), Json))
            .WithSummary("The families").Produces<SystemLine[]>();
        app.MapGet("/api/v1/systems/{id}", (string id, ShippedLibrary library) => library.System(id) is { } system ? Results.Json(Tell(system), Json) : Results.Json(new { error = $"no system “{id}”" }, statusCode: StatusCodes.Status404NotFound))
            .WithSummary("A family: parameters a vehicle may state, faults, repairs, tests").Produces<SystemOutput>().Produces(StatusCodes.Status404NotFound);
        app.MapPost("/api/v1/diagnosis", PostAsync)
            .WithSummary("Judges readings").Accepts<DiagnosisInput>("application/json").Produces<DiagnosisOutput>().Produces<FaultsOutput>(StatusCodes.Status422UnprocessableEntity);
    }

    private static async Task<IResult> PostAsync(HttpRequest request, ShippedLibrary library, DiagnosisTables tables, Screeline.Data.HistoryStore history, CancellationToken cancel)
    {
        if (!request.HasJsonContentType())
        {
            return Results.Json(new { error = "application/json is wanted here" }, statusCode: StatusCodes.Status415UnsupportedMediaType);
        }

        var faults = new List<FormatFault>();
        using var reader = new StreamReader(request.Body);
        using var document = JsonReader.Parse(await reader.ReadToEndAsync(cancel), faults);
        var asked = document is null ? null : DiagnosisRequest.Read(document.RootElement, library, faults);
        if (asked is null || faults.Count > 0)
        {
            return Results.Json(new FaultsOutput([.. faults.Select(f => new FaultOutput(f.Path, f.Message))]), Json, statusCode: StatusCodes.Status422UnprocessableEntity);
        }

        var shop = asked.Model is { } model ? await history.OfAsync(asked.System.Id, model, cancel) : ShopHistory.None;
        var judgement = tables.For(asked.System, asked.Setting).Judge(asked.Inquiry with { History = shop });
        return Results.Json(Tell(judgement), Json);
    }

    private static SystemOutput Tell(FaultSystem s) => new(
        s.Id, s.Title,
        [.. s.VehicleParameters.Select(p => new ParameterOutput(p.Id, p.Title, p.Unit, p.Low!.Value, p.High!.Value, p.Choices.Count > 0 ? p.Choices : null))],
        [.. s.Repairs.Select(r => new RepairOutput(r.Id, r.Title, r.Part?.ToString().ToLowerInvariant(), r.Minutes, r.Price))],
        [.. s.Faults.Select(f => new FaultLine(f.Id, f.Title, f.Repair, f.Prior / s.Faults.Sum(x => x.Prior)))],
        [.. s.Tests.Select(t => new TestOutput(t.Id, t.Title, t.Unit?.Symbol, t.Choices.Count > 0 ? [.. t.Choices.Select(c => c.Id)] : null, (double)t.Minutes, t.Where, t.Access, t.People, t.Unit is null ? null : t.Accuracy, t.Unit is null ? null : t.Relative, t.GoodWords(12) is { Length: > 0 } good ? good : null, t.State.Id, t.Complaint))]);

    private static DiagnosisOutput Tell(Judgement j) => new(
        [.. j.Beliefs.Select(b => new BeliefOutput(b.Fault.Id, b.Fault.Repair, Round(b.Probability)))],
        [.. j.Repairs.Select(r => new RepairBeliefOutput(r.Repair.Id, Round(r.Probability)))],
        [.. j.Evidence.Select(e => new EvidenceOutput(e.Test?.Id ?? "attempts", e.Value is { } v ? Round(v) : null, e.Test?.Unit?.Symbol, e.Choices.Count > 0 ? e.Choices : null, e.ExpectedLow is { } low ? [Round(low), Round(e.ExpectedHigh!.Value)] : null, e.ExpectedChoice, [.. e.SpeaksFor.Select(f => f.Id)], [.. e.SpeaksAgainst.Select(f => f.Id)], Round(e.Bits)))],
        [.. j.Next.Select(n => new NextOutput(n.Test.Id, Round(n.GainBits), n.Minutes, n.AccessMinutes, n.GoingMinutes, Round(n.GainPerMinute), n.Because))],
        new RoundOutput([.. j.Round.Tests.Select(t => t.Id)], Round(j.Round.Minutes), j.Round.ForProof),
        j.Proof.Proof.ToDictionary(l => l.Part.ToString().ToLowerInvariant(), l => l.State.ToString().ToLowerInvariant()),
        new DecisionOutput(j.Decision.Act.ToString().ToLowerInvariant(), j.Decision.Repair?.Id, j.Decision.Test?.Id, j.Decision.Why, new CostOutput(Round(j.Decision.CostNow), j.Decision.CostTested is { } tested ? Round(tested) : null, Round(j.Decision.ChanceWrong), Round(j.Decision.CostOfRepair), Round(j.Decision.CostIfWrong))),
        [.. j.Equipment.Select(e => new EquipmentOutput(e.Parameter.Id, e.Parameter.Choices[e.Choice], Round(e.Probability), e.Stated is { } s ? e.Parameter.Choices[s] : null))], Round(j.Unknown), j.Surprise, j.Contradiction is { } c ? [.. c.Readings.Select(t => t.Id)] : null);

    private static double Round(double value) => Math.Round(value, 6);
}

/// <summary>Reads a request and tells its faults with their paths.</summary>
public sealed record DiagnosisRequest(FaultSystem System, VehicleSetting Setting, Inquiry Inquiry, string? Model)
{
    /// <summary>Null when the system is unknown; other faults are in the list.</summary>
    public static DiagnosisRequest? Read(JsonElement root, ShippedLibrary library, List<FormatFault> faults)
    {
        var r = new JsonReader(root, "$", faults);
        var id = r.Text("system");
        var system = library.System(id);
        if (system is null)
        {
            r.Fault($"“{id}” is none of: {string.Join(", ", library.Systems.Select(s => s.Id).Order(StringComparer.Ordinal))}", "system");
            return null;
        }

        var stated = new Dictionary<string, double>(StringComparer.Ordinal);
        if (r.Get("vehicle") is { } vehicle)
        {
            ReadVehicle(r, system, vehicle, stated);
        }

        stated.TryAdd(VehicleSetting.Volts, 12);
        var setting = new VehicleSetting(stated, (double)(r.OptionalNumber("temperature_c") ?? 20));
        faults.AddRange(setting.Faults(system));
        var volts = stated[VehicleSetting.Volts] == 24 ? 24m : 12m;
        var readings = r.List("readings", x => ReadReading(x, system, volts)).OfType<Evidence>().ToList();
        var done = r.Texts("done", optional: true).ToHashSet(StringComparer.Ordinal);
        var assumptions = r.Object("assumptions", a => new Assumptions((double)(a.OptionalNumber("labour_per_hour", 0, 10_000) ?? 60), (double)(a.OptionalNumber("comeback", 0, 1_000_000) ?? 90), Numbers(a, "minutes", system), Numbers(a, "prices", system)), optional: true) ?? Assumptions.Usual;
        var at = r.Object("at", a => new Whereabouts(ReadPlace(a, system), a.Given("helper") && a.YesNo("helper"), a.Given("alone") && a.YesNo("alone")), optional: true) ?? Whereabouts.Nowhere;
        var model = r.OptionalText("history_of_model");
        r.RefuseOthers();
        return new DiagnosisRequest(system, setting.ReadAt(readings), new Inquiry(new FindCase(system, volts, [], readings), done, new Dictionary<string, double>(), ShopHistory.None, assumptions) { At = at }, model);
    }

    private static string? ReadPlace(JsonReader a, FaultSystem system)
    {
        var place = a.OptionalText("place");
        if (place is not null && system.Tests.All(t => t.Where != place))
        {
            a.Fault($"one of: {string.Join(", ", system.Tests.Where(t => !t.Complaint).Select(t => t.Where).Distinct())}", "place");
        }

        return place;
    }

    private static void ReadVehicle(JsonReader r, FaultSystem system, JsonElement vehicle, Dictionary<string, double> stated)
    {
        if (vehicle.ValueKind != JsonValueKind.Object)
        {
            r.Fault("an object { … } is wanted here", "vehicle");
            return;
        }

        foreach (var value in vehicle.EnumerateObject())
        {
            var choices = system.Parameters.FirstOrDefault(p => p.Id == value.Name)?.Choices ?? [];
            if (value.Value.ValueKind == JsonValueKind.Number)
            {
                stated[value.Name] = value.Value.GetDouble();
            }
            else if (value.Value.ValueKind == JsonValueKind.String && choices.ToList().IndexOf(value.Value.GetString()!) is >= 0 and var index)
            {
                stated[value.Name] = index;
            }
            else
            {
                r.Fault(choices.Count > 0 ? $"one of: {string.Join(", ", choices)}" : "a number is wanted here", $"vehicle.{value.Name}");
            }
        }
    }

    private static Evidence? ReadReading(JsonReader x, FaultSystem system, decimal volts)
    {
        var id = x.Text("test");
        var choice = x.OptionalText("choice");
        var unitText = x.OptionalText("unit");
        var number = x.OptionalNumber("value", -1_000_000_000, 1_000_000_000);
        var celsius = (double?)x.OptionalNumber("temperature_c", VehicleSetting.LeastCelsius, VehicleSetting.MostCelsius);
        if (system.Test(id) is not { } test)
        {
            x.Fault($"“{id}” is not a test of {system.Title}", "test");
            return null;
        }

        if (test.Unit is null)
        {
            if (number is not null || choice is null || test.Choices.All(c => c.Id != choice))
            {
                x.Fault($"one of: {string.Join(", ", test.Choices.Select(c => c.Id))}", "choice");
                return null;
            }

            return new Evidence(id, null, choice, celsius);
        }

        if (number is null || choice is not null)
        {
            x.Fault($"{QuantityParser.Word(test.Unit.Kind)} is wanted here", "value");
            return null;
        }

        var unit = unitText is null ? null : Units.BySymbol(unitText);
        if (unit is null || unit.Kind != test.Unit.Kind)
        {
            x.Fault(unitText is null ? $"is missing; {test.Unit.Symbol} for example" : $"“{unitText}” does not measure {QuantityParser.Word(test.Unit.Kind)}; {test.Unit.Symbol} does", "unit");
            return null;
        }

        var figure = new Figure(number.Value, unit);
        if (test.Doubt(figure, volts) is { } doubt)
        {
            x.Fault(doubt, "value");
            return null;
        }

        return new Evidence(id, figure, null, celsius);
    }

    private static Dictionary<string, double> Numbers(JsonReader a, string key, FaultSystem system)
    {
        var numbers = new Dictionary<string, double>(StringComparer.Ordinal);
        if (a.Get(key) is { ValueKind: JsonValueKind.Object } given)
        {
            foreach (var value in given.EnumerateObject())
            {
                if (system.Repair(value.Name) is null || value.Value.ValueKind != JsonValueKind.Number || value.Value.GetDouble() is < 0 or > 1_000_000)
                {
                    a.Fault(system.Repair(value.Name) is null ? "no repair of this name" : "a number from 0 to 1000000 is wanted here", $"{key}.{value.Name}");
                }
                else
                {
                    numbers[value.Name] = value.Value.GetDouble();
                }
            }
        }

        return numbers;
    }
}
