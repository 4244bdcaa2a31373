using Screeline.Core.Access;
using Screeline.Core.Access.Planning;

namespace Screeline.Core.Diagnosis;

/// <summary>How long it takes to get to each test on one vehicle, by its access map.</summary>
public static class TestAccess
{
    /// <summary>
    /// Minutes to each test that wants something opened, by test: the planner's cheapest way to open it from what is open
    /// already, and the system's own minutes for what the map does not know.
    /// </summary>
    /// <param name="system">The family.</param>
    /// <param name="map">The vehicle's map.</param>
    /// <param name="done">What is open, by id.</param>
    public static IReadOnlyDictionary<string, double> Minutes(FaultSystem system, AccessMap map, IReadOnlySet<string> done)
    {
        var open = done.Where(id => map.Operation(id) is not null).ToHashSet(StringComparer.Ordinal);
        // What a test wants off is off when the operation that opens it here is done, or nothing stands in its way on this vehicle.
        var reached = done.Concat(system.Access.Select(a => a.Id).Where(id => map.OpenerOf(id) is { } opener ? open.Contains(opener) : map.Reaches.ContainsKey(id))).ToHashSet(StringComparer.Ordinal);
        var known = new Dictionary<string, double>(StringComparer.Ordinal);
        var minutes = new Dictionary<string, double>(StringComparer.Ordinal);
        foreach (var test in system.Tests.Where(t => t.Access.Count > 0))
        {
            var wanted = Wanted(system, test, reached);
            var key = string.Join(' ', wanted.Order(StringComparer.Ordinal));
            if (!known.TryGetValue(key, out var total))
            {
                List<string> mapped = [.. wanted.Select(map.OpenerOf).OfType<string>().Distinct()];
                var planned = mapped.Count == 0 ? 0 : RoutePlanner.MinutesToOpen(map, mapped, open);
                total = wanted.Where(id => planned is null || map.OpenerOf(id) is null).Sum(id => system.Access.First(a => a.Id == id).Minutes) + (double)(planned ?? 0);
                known[key] = total;
            }

            minutes[test.Id] = total;
        }

        return minutes;
    }

    /// <summary>What a test wants opened that is not open yet.</summary>
    public static IReadOnlySet<string> Wanted(FaultSystem system, FaultTest test, IReadOnlySet<string> done)
    {
        var wanted = new HashSet<string>(StringComparer.Ordinal);
        void Need(string id)
        {
            if (!done.Contains(id) && wanted.Add(id))
            {
                system.Access.First(a => a.Id == id).Needs.ToList().ForEach(Need);
            }
        }

        test.Access.ToList().ForEach(Need);
        return wanted;
    }
}
