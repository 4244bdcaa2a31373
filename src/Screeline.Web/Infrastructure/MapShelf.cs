using System.Collections.Concurrent;
using Screeline.Core.Access;
using Screeline.Core.Access.Learning;
using Screeline.Core.Access.Recording;
using Screeline.Core.Access.Planning;
using Screeline.Core.Diagnosis;
using Screeline.Data;
using Screeline.Library;

namespace Screeline.Web.Infrastructure;

/// <summary>A map as this shop plans on it.</summary>
/// <param name="Plain">As written, in its latest version.</param>
/// <param name="Json">Its text.</param>
/// <param name="Version">0 for the shipped one.</param>
/// <param name="Marks">What somebody found not to be needed, also what was taken back.</param>
/// <param name="Times">The shop's own times.</param>
/// <param name="Jobs">How many closed jobs those are from.</param>
/// <param name="Experience">What the latest closed jobs on it say besides.</param>
public sealed record ShelvedMap(AccessMap Plain, string Json, int Version, IReadOnlyList<NotNeededMark> Marks, IReadOnlyDictionary<string, OwnTimes> Times, int Jobs, MapExperience Experience)
{
    /// <summary>The operations that plans leave out.</summary>
    public IReadOnlySet<string> LeftOut => Marks.Where(m => m.Stands && Plain.Operation(m.Operation) is not null).Select(m => m.Operation).ToHashSet(StringComparer.Ordinal);

    private readonly ConcurrentDictionary<string, IReadOnlyDictionary<string, double>> _minutes = new(StringComparer.Ordinal);

    /// <summary>The map to plan on, with nothing out of the ordinary asked.</summary>
    public AccessMap Usual => field ??= ForPlans();

    /// <summary>Minutes of the best way there and back.</summary>
    public double BestMinutes => (double)(_best ??= RoutePlanner.Best(Usual)).ExpectedMinutes;

    private WayPlan? _best;

    /// <summary>Minutes to each test from what is open, by test (<see cref="TestAccess"/>); worked out once for what is open.</summary>
    public IReadOnlyDictionary<string, double> MinutesToTests(FaultSystem system, IReadOnlySet<string> open) =>
        _minutes.GetOrAdd($"{system.Id} {string.Join(' ', open.Order(StringComparer.Ordinal))}", _ => TestAccess.Minutes(system, Usual, open));

    /// <summary>The map to plan on.</summary>
    /// <param name="more">Operations left out besides those marked.</param>
    /// <param name="all">Whether what was marked as not needed is planned all the same.</param>
    /// <param name="history">Whether the shop's own times pull the estimates.</param>
    public AccessMap ForPlans(IEnumerable<string>? more = null, bool all = false, bool history = true)
    {
        var left = (all ? Enumerable.Empty<string>() : LeftOut).Concat(more ?? []).ToHashSet(StringComparer.Ordinal);
        var map = MapChanges.Without(Plain, left);
        return history ? MapChanges.WithTimes(map, Times) : map;
    }
}

/// <summary>All access maps: the shipped ones, and over them the shop's own versions with what was learned.</summary>
public sealed class MapShelf(MapStore maps, ShippedLibrary library, ShopMemory memory)
{
    /// <summary>Every map in its latest version, by title; without what was learned.</summary>
    public Task<IReadOnlyList<(AccessMap Map, string Json, int Version)>> AllAsync(CancellationToken cancel) => memory.GetAsync<IReadOnlyList<(AccessMap Map, string Json, int Version)>>("shelf", async () =>
    {
        var left = await maps.JobsLeftOutAsync(cancel);
        var own = (await maps.LatestAsync(cancel)).Select(v => Without(AccessMapReader.ReadKept(v.Json)!, v.Json, v.Version, left)).Where(m => m.Map.Operations.Count > 0).ToList();
        return [.. own.Concat(library.Maps.Where(s => own.All(o => o.Map.Id != s.Map.Id)).Select(s => (s.Map, s.Json, 0))).OrderBy(m => m.Item1.Title, StringComparer.Ordinal)];
    }, cancel);

    // A job that is left out of what the shop knows is left out of its maps too; it is back as soon as it counts again.
    private (AccessMap Map, string Json, int Version) Without(AccessMap map, string json, int version, IReadOnlySet<Guid> left)
    {
        if (map.Learned?.Jobs.Any(j => left.Contains(j.Job)) != true)
        {
            return (map, json, version);
        }

        foreach (var job in map.Learned.Jobs.Where(j => left.Contains(j.Job)).Select(j => j.Job).ToList())
        {
            map = LearnedMap.Without(map, job, library.System(map.Family)?.Frame ?? WorkFrame.Empty, caution => library.Cautions.GetValueOrDefault(caution) ?? []);
        }

        return (map, AccessMapWriter.Write(map), version);
    }

    /// <summary>The map of this id, or null.</summary>
    public async Task<ShelvedMap?> FindAsync(string id, CancellationToken cancel) =>
        (await AllAsync(cancel)).Where(m => m.Map.Id == id).Select(m => ((AccessMap, string, int)?)m).FirstOrDefault() is { } found ? await LearnedAsync(found, cancel) : null;

    /// <summary>The surest map of a family that fits a model, or null; of several equally sure ones that of the vehicle's version.</summary>
    public async Task<ShelvedMap?> ForAsync(string family, string model, CancellationToken cancel, string? version = null)
    {
        var fitting = (await AllAsync(cancel)).Where(m => m.Map.Family == family && m.Map.AppliesTo.Any(a => a.Model == model))
            .OrderBy(m => m.Map.AppliesTo.Where(a => a.Model == model).Min(a => a.Certainty switch { "done" => 0, "looks-same" => 1, _ => 2 }))
            .ThenBy(m => m.Map.AppliesTo.Where(a => a.Model == model).Min(a => string.Equals(a.Version ?? "", version ?? "", StringComparison.OrdinalIgnoreCase) ? 0 : a.Version is null ? 1 : 2)).ToList();
        return fitting is [var first, ..] ? await LearnedAsync(first, cancel) : null;
    }

    /// <summary>What comes off by every map and came off in the latest closed jobs, in the words of the trade.</summary>
    public Task<IReadOnlyList<WorkSequence>> SequencesAsync(CancellationToken cancel) => memory.GetAsync<IReadOnlyList<WorkSequence>>("sequences", async () =>
        [.. (await AllAsync(cancel)).Select(m => WorkSequence.FromMap(m.Map, library.PartWords)), .. (await maps.CameOffAsync(cancel)).Select(j => WorkSequence.FromOrder(j.Family, j.CameOff))], cancel);

    private Task<ShelvedMap> LearnedAsync((AccessMap Map, string Json, int Version) m, CancellationToken cancel) => memory.GetAsync($"shelved {m.Map.Id}", async () =>
    {
        var (times, jobs) = await maps.TimesAsync(m.Map.Id, cancel);
        return new ShelvedMap(m.Map, m.Json, m.Version, await maps.NotNeededAsync(m.Map.Id, cancel), times, jobs, await maps.ExperienceAsync(m.Map.Id, cancel));
    }, cancel);
}
