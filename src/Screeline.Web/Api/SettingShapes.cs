using System.Text.Json.Nodes;

namespace Screeline.Web.Api;

// The shapes of POST /api/v1/linkage, /balance and /settings/{kind} as the OpenAPI document tells them. Meanings: docs/formats.md.

/// <summary>What is asked about a linkage: its turn, what to turn, missing lengths; any of them together.</summary>
/// <param name="Linkage">A linkage, <c>screeline/linkage@1</c>; or give <paramref name="LinkageId"/>.</param>
/// <param name="LinkageId">One of the library.</param>
/// <param name="TurnStepDeg">Step of the turn to tell, 0.25 to 90°; null for none.</param>
/// <param name="Seen">What was measured on the glass.</param>
/// <param name="Seek">Lengths that are not known.</param>
/// <param name="Measured">Angles of arms to find them by.</param>
public sealed record LinkageInput(JsonObject? Linkage, string? LinkageId, decimal? TurnStepDeg, IReadOnlyList<SeenInput>? Seen, IReadOnlyList<SoughtInput>? Seek, IReadOnlyList<MeasuredInput>? Measured);

/// <summary>One thing measured on the glass.</summary>
/// <param name="What">park-height, low-height, sweep-angle or pillar-clearance.</param>
/// <param name="Arm">Which arm, from 0.</param>
/// <param name="Value">mm, or degrees for sweep-angle.</param>
/// <param name="Error">Standard error; null for the usual one.</param>
/// <param name="Place">Which of two park positions, from 0.</param>
public sealed record SeenInput(string What, int Arm, decimal Value, decimal? Error, int? Place);

/// <summary>A length that is sought.</summary>
/// <param name="What">crank, link, lever, arm-angle or park-angle.</param>
/// <param name="Rocker">Whose, from 0; −1 or left out for crank and park-angle.</param>
/// <param name="Guess">First value.</param>
/// <param name="Spread">Its standard error.</param>
public sealed record SoughtInput(string What, int? Rocker, decimal Guess, decimal Spread);

/// <summary>An angle measured.</summary>
/// <param name="What">at-park, at-low, at-high or sweep.</param>
/// <param name="Rocker">Whose arm, from 0.</param>
/// <param name="Value">Degrees.</param>
/// <param name="Error">Standard error, degrees.</param>
public sealed record MeasuredInput(string What, int Rocker, decimal Value, decimal Error);

/// <summary>A linkage through its turn, and what was asked of it.</summary>
public sealed record LinkageOutput(JsonObject Linkage, IReadOnlyList<RockerOutput> Rockers, GaugeOutput? Gauge, IReadOnlyList<JsonObject>? Turn, IReadOnlyList<JsonObject>? Seen, bool? FitsNone, IReadOnlyList<CauseOutput>? Causes, JsonObject? Next, JsonObject? Fit);

/// <summary>One arm's movement.</summary>
public sealed record RockerOutput(string Title, double LowDeg, double HighDeg, double SweepDeg, double LowCrankDeg, double HighCrankDeg, double ParkHeightMm, double PillarClearanceMm, double LeastTransmissionDeg, [property: System.Text.Json.Serialization.JsonPropertyName("top_speed_at_45_rpm_deg_per_s")] double TopSpeedAt45, [property: System.Text.Json.Serialization.JsonPropertyName("top_speed_at_65_rpm_deg_per_s")] double TopSpeedAt65, string Grashof);

/// <summary>What the gap at the crank leaves open: lowest and highest place of each tip, and the gaps at which all bands hold.</summary>
public sealed record GaugeOutput(IReadOnlyList<double[]> SpansMm, double[]? AllHoldGapMm);

/// <summary>An explanation, the likeliest first.</summary>
public sealed record CauseOutput(double Probability, double ChanceOfMisfit, IReadOnlyList<ChangeOutput> Changes, IReadOnlyList<double> After);

/// <summary>One thing that is off: degrees, teeth or mm, and what to do.</summary>
public sealed record ChangeOutput(string Fault, string? Arm, double Amount, double Error, string Act);

/// <summary>What is asked of balancing.</summary>
/// <param name="Runs">As found first, then with weights.</param>
/// <param name="Rotor">The wheel; needed with runs.</param>
/// <param name="Growth">Amplitude at several speeds.</param>
public sealed record BalanceInput(IReadOnlyList<RunInput>? Runs, RotorInput? Rotor, IReadOnlyList<GrowthInput>? Growth);

/// <summary>A run: amplitude in any unit, weights in grams at angles from the mark.</summary>
public sealed record RunInput(decimal Amplitude, IReadOnlyList<WeightOutput>? Weights);

/// <summary>A weight.</summary>
public sealed record WeightOutput(double Grams, double Degrees);

/// <summary>The wheel.</summary>
public sealed record RotorInput(decimal Kilograms, decimal RevolutionsPerMinute, decimal RadiusMm, decimal? Grade, int? Blades);

/// <summary>Amplitude at a speed.</summary>
public sealed record GrowthInput(decimal RevolutionsPerMinute, decimal Amplitude);

/// <summary>The balance.</summary>
public sealed record BalanceOutput(WeightOutput Correction, WeightOutput Addition, double InfluencePerGram, double Misfit, IReadOnlyList<JsonObject>? Blades, double ResidualGMm, double PermissibleGMm, double ReachedGrade, bool Holds, JsonObject? Growth);

/// <summary>The fields of a setting's screen, by name.</summary>
public sealed record SettingInput(IReadOnlyDictionary<string, string> Fields);
