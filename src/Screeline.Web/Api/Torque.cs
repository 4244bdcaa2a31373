using System.Text.Json;
using System.Text.Json.Serialization;
using Screeline.Core.Access;
using Screeline.Core.Fastening;
using Screeline.Core.Formats;
using Screeline.Core.Quantities;
using Screeline.Web.Infrastructure;

namespace Screeline.Web.Api;

/// <summary>What is asked of the torque calculator.</summary>
/// <param name="Value">Torque at the fastener; null asks what to do where none is given.</param>
/// <param name="Unit">Its unit.</param>
/// <param name="Thread">Metric thread, or null.</param>
/// <param name="Joint">steel, light-alloy, copper-stud, self-tapper or plastic.</param>
/// <param name="Strength">Class of the bolt.</param>
/// <param name="Friction">0.05 to 0.3.</param>
/// <param name="EngagementMm">Thread in light alloy.</param>
/// <param name="Adaptor">What stands between wrench and fastener.</param>
/// <param name="Wrenches">Wrenches to choose from; null for those the shop owns.</param>
public sealed record TorqueInput(decimal? Value, string? Unit, string? Thread, string? Joint, string? Strength, double? Friction, double? EngagementMm, AdaptorInput? Adaptor, IReadOnlyList<WrenchInput>? Wrenches);

/// <summary>An adaptor.</summary>
public sealed record AdaptorInput(decimal OffsetMm, decimal Angle);

/// <summary>A torque wrench.</summary>
public sealed record WrenchInput(string Id, decimal Low, decimal High, decimal Step, string Unit, decimal LengthMm);

/// <summary>The answer of the torque calculator.</summary>
/// <param name="In">The torque in every unit, by symbol.</param>
/// <param name="Doubt">What is asked about it, or null.</param>
/// <param name="Settings">How it is set, the best wrench first.</param>
/// <param name="Worked">What to do where none is given.</param>
public sealed record TorqueOutput(IReadOnlyDictionary<string, decimal>? In, string? Doubt, IReadOnlyList<SettingOutput> Settings, WorkedOutput? Worked);

/// <summary>How a torque is set on a wrench.</summary>
public sealed record SettingOutput(string Wrench, decimal Set, string Unit, decimal GivesNm, decimal LeastNm, decimal MostNm, IReadOnlyList<string> Doubts);

/// <summary>What to do where none is given.</summary>
public sealed record WorkedOutput(double? ValueNm, double CeilingNm, double? Angle, string How, string Why);

/// <summary>The torque calculator over JSON: the same numbers as on the screens.</summary>
public static class Torques
{
    private static readonly JsonSerializerOptions Json = new(JsonSerializerDefaults.Web) { PropertyNamingPolicy = JsonNamingPolicy.SnakeCaseLower, DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingNull };

    /// <summary>Maps POST /api/v1/torque.</summary>
    public static void MapTorque(this IEndpointRouteBuilder app) =>
        app.MapPost("/api/v1/torque", PostAsync).WithSummary("Torque: units, wrench and adaptor, doubt, and what to do where none is given")
            .Accepts<TorqueInput>("application/json").Produces<TorqueOutput>().Produces<FaultsOutput>(StatusCodes.Status422UnprocessableEntity);

    private static async Task<IResult> PostAsync(HttpRequest request, ToolCrib crib, CancellationToken cancel)
    {
        if (!request.HasJsonContentType())
        {
            return Results.Json(new { error = "application/json is wanted here" }, statusCode: StatusCodes.Status415UnsupportedMediaType);
        }

        var faults = new List<FormatFault>();
        using var reader = new StreamReader(request.Body);
        using var document = JsonReader.Parse(await reader.ReadToEndAsync(cancel), faults);
        TorqueOutput? told = null;
        if (document is not null)
        {
            var owned = await crib.OwnedAsync(cancel);
            told = Work(new JsonReader(document.RootElement, "$", faults), owned.Wrenches);
        }

        return told is null || faults.Count > 0
            ? Results.Json(new FaultsOutput([.. faults.Select(f => new FaultOutput(f.Path, f.Message))]), Json, statusCode: StatusCodes.Status422UnprocessableEntity)
            : Results.Json(told, Json);
    }

    private static TorqueOutput? Work(JsonReader r, IReadOnlyList<TorqueWrench> owned)
    {
        var symbols = Units.OfKind(QuantityKind.Torque).Select(u => u.Symbol).ToList();
        var number = r.OptionalNumber("value", 0.01m, 100_000);
        Figure? value = number is { } n ? new Figure(n, Units.BySymbol(r.Choice("unit", symbols)) ?? Units.NewtonMetre) : null;
        if (number is null)
        {
            r.OptionalText("unit");
        }

        MetricThread? thread = null;
        if (r.OptionalText("thread") is { } text)
        {
            (thread, var reason) = MetricThread.Read(text);
            if (reason is not null)
            {
                r.Fault(reason, "thread");
            }
        }

        var joint = r.Given("joint") ? AccessMapReader.Joints.GetValueOrDefault(r.Choice("joint", [.. AccessMapReader.Joints.Keys])) : Joint.Steel;
        var strength = r.Given("strength") ? StrengthClass.Parse(r.Choice("strength", StrengthClass.Names)) : null;
        var friction = r.OptionalNumber("friction", 0.05m, 0.3m);
        var engagement = r.OptionalNumber("engagement_mm", 1, 200);
        var adaptor = r.Object("adaptor", a => new Adaptor(a.Number("offset_mm", 0, 1000), a.Number("angle", 0, 180)), optional: true);
        var wrenches = r.Given("wrenches")
            ? r.List("wrenches", w => new TorqueWrench(w.Text("id"), "", w.Number("low", 0.01m), w.Number("high", 0.01m), w.Number("step", 0.001m), Units.BySymbol(w.Choice("unit", symbols)) ?? Units.NewtonMetre, w.Number("length_mm", 50, 2000), ToolCrib.Today))
            : owned;
        r.RefuseOthers();
        if (value is null && thread is null)
        {
            r.Fault("a value, or a thread to work one out for, is wanted here");
        }

        if (r.Faults.Count > 0)
        {
            return null;
        }

        IReadOnlyList<WrenchSetting> settings = [];
        try
        {
            settings = value is { } v ? WrenchChoice.For(v, wrenches, adaptor, ToolCrib.Today) : [];
        }
        catch (ArgumentException e)
        {
            r.Fault(e.Message, "adaptor");
            return null;
        }

        var worked = value is null ? TighteningTorque.Work(thread!, joint, strength ?? StrengthClass.Parse("8.8")!, (double)(friction ?? (decimal)TighteningTorque.UsualFriction), (double?)engagement) : null;
        return new TorqueOutput(
            value?.Kind == QuantityKind.Torque ? Units.OfKind(QuantityKind.Torque).ToDictionary(u => u.Symbol, u => Math.Round(value.Value.In(u).Number, 6)) : null,
            value is { } asked && thread is not null ? TorqueDoubt.Find(asked, thread, joint) : null,
            [.. settings.Select(s => new SettingOutput(s.Wrench.Id, s.Set.Number, s.Set.Unit.Symbol, Math.Round(s.Gives, 4), Math.Round(s.Least, 4), Math.Round(s.Most, 4), s.Doubts))],
            worked is null ? null : new WorkedOutput(worked.Value, worked.Ceiling, worked.AngleDegrees, worked.How, worked.Why));
    }
}
