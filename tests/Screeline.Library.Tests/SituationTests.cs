using System.Globalization;
using System.Text.Json;
using Screeline.Core.Diagnosis;

namespace Screeline.Library.Tests;

/// <summary>
/// Situations written from practice and Ohm's law, with the arithmetic by hand, before the engine that judges them
/// (situations.json; common practice, no source). They are never adjusted to what the engine says.
/// </summary>
public sealed class SituationTests
{
    // Nearly certain: what cannot be decided yet must stay below.
    private const double NearlySure = 0.9;

    private static readonly ShippedLibrary Library = ShippedLibrary.Load();
    private static readonly IReadOnlyList<Situation> All = Situation.Read();

    [Fact]
    public void Sixty_situations_and_more_over_all_families_say_what_can_be_read()
    {
        Assert.True(All.Count >= 60);
        Assert.Equal(Library.Systems.Select(s => s.Id).Order(), All.Select(s => s.Family).Distinct().Order());
        Assert.Equal(All.Count, All.Select(s => s.Id).Distinct().Count());
        Assert.All(All, s => Assert.NotEmpty(s.Arithmetic));
        Assert.All(All, s => Assert.Empty(s.Setting.Faults(s.System)));
        Assert.All(All, s => Assert.All(s.Right, r => Assert.NotNull(s.System.Repair(r))));
    }

    /// <summary>A situation of the file.</summary>
    public sealed record Situation(string Id, FaultSystem System, VehicleSetting Setting, FindCase Case, string Expect, IReadOnlyList<string> Right, IReadOnlyList<string> Named, string Arithmetic)
    {
        public string Family => System.Id;

        public static IReadOnlyList<Situation> Read()
        {
            using var file = JsonDocument.Parse(File.ReadAllText(Path.Combine(AppContext.BaseDirectory, "situations.json")));
            return [.. file.RootElement.EnumerateArray().Select(Of)];
        }

        private static Situation Of(JsonElement e)
        {
            string[] Words(string name) => e.TryGetProperty(name, out var list) ? [.. list.EnumerateArray().Select(x => x.GetString()!)] : [];
            var system = Library.Systems.First(s => s.Id == e.GetProperty("family").GetString());
            var stated = e.TryGetProperty("vehicle", out var vehicle) ? vehicle.EnumerateObject().ToDictionary(p => p.Name, p => p.Value.GetDouble()) : [];
            var setting = new VehicleSetting(stated, e.TryGetProperty("celsius", out var celsius) ? celsius.GetDouble() : 20);
            var volts = (decimal)stated.GetValueOrDefault(VehicleSetting.Volts, 12);
            Evidence Reading(JsonProperty p)
            {
                var test = system.Test(p.Name) ?? throw new FormatException($"{p.Name} is no test of {system.Id}.");
                var (value, choice, reason) = p.Value.ValueKind == JsonValueKind.String ? test.ReadAnswer(null, p.Value.GetString(), volts) : test.ReadAnswer(p.Value.GetDouble().ToString(CultureInfo.InvariantCulture), null, volts);
                return reason is null ? new Evidence(p.Name, value, choice) : throw new FormatException($"{e.GetProperty("id").GetString()}: {reason}");
            }

            return new Situation(e.GetProperty("id").GetString()!, system, setting, new FindCase(system, volts, Words("behaviours"), [.. e.GetProperty("readings").EnumerateObject().Select(Reading)]),
                e.GetProperty("expect").GetString()!, Words("right"), Words("named"), e.GetProperty("arithmetic").GetString()!);
        }
    }

    /// <summary>What an engine says of a situation, and whether that is right.</summary>
    private static (bool IsRight, bool IsWronglyProven, string Told) Judged(DiagnosisEngine engine, Situation s)
    {
        var judgement = engine.Judge(new Inquiry(s.Case));
        var (top, isProven) = (judgement.Repairs[0], judgement.Decision.Act == Act.Proven);
        var isWronglyProven = isProven && (s.Expect != "leads" || !s.Right.Contains(judgement.Decision.Repair!.Id));
        var isRight = !isWronglyProven && s.Expect switch
        {
            "leads" => s.Right.Contains(top.Repair.Id),
            "open" => s.Right.Contains(top.Repair.Id) && (s.Right.Count == 1 || top.Probability < NearlySure),
            _ => judgement.Contradiction is { } found && (found.Readings.All(t => s.Named.Contains(t.Id)) || (s.Named.Count == 1 && found.Readings.Any(t => t.Id == s.Named[0]))),
        };
        return (isRight, isWronglyProven, $"{s.Id}: {(isProven ? "proven " : "")}{string.Join(", ", judgement.Repairs.Take(3).Select(r => $"{r.Repair.Id} {r.Probability:0.00}"))}{(judgement.Contradiction is { } c ? $"; {string.Join(" against ", c.Readings.Select(t => t.Id))}" : "")}; unknown {judgement.Unknown:0.00}");
    }

    [Fact]
    public void Nineteen_of_twenty_are_judged_right_and_nothing_is_wrongly_proven()
    {
        var judged = All.GroupBy(s => s.Setting.Key(s.System)).AsParallel().AsOrdered().SelectMany(g => new DiagnosisEngine(FaultTable.Build(g.First().System, g.First().Setting)) is var engine ? g.Select(s => Judged(engine, s)).ToList() : []).ToList();
        Assert.Empty(judged.Where(j => j.IsWronglyProven).Select(j => j.Told));
        Assert.True(judged.Count(j => j.IsRight) >= 0.95 * judged.Count, string.Join(Environment.NewLine, judged.Where(j => !j.IsRight).Select(j => j.Told).Append($"{judged.Count(j => j.IsRight)} of {judged.Count}")));
    }
}
