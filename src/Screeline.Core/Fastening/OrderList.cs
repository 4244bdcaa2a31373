using Screeline.Core.Access;
using Screeline.Core.Jobs;

namespace Screeline.Core.Fastening;

/// <summary>One thing to have at hand before it is needed.</summary>
/// <param name="What">What.</param>
/// <param name="Quantity">How many.</param>
/// <param name="Price">Each; null when nobody knows.</param>
/// <param name="Why">Why it is needed.</param>
public sealed record OrderLine(string What, decimal Quantity, decimal? Price, string Why)
{
    /// <summary>Price of the line; null when nobody knows.</summary>
    public decimal? Total => Price * Quantity;
}

/// <summary>What a job needs that is not in the vehicle: the part, what the way uses up, one-time fasteners, what broke or was missing.</summary>
public static class OrderList
{
    /// <summary>The list for a job on a way.</summary>
    /// <param name="job">The job.</param>
    /// <param name="map">The map of the way.</param>
    /// <param name="set">Operations of the way.</param>
    public static IReadOnlyList<OrderLine> ForJob(Job job, AccessMap map, IEnumerable<string> set)
    {
        var lines = new List<OrderLine>();
        var part = job.Part;
        if (job.PartTaken?.Payload is { } taken)
        {
            lines.Add(new OrderLine(taken.Title, 1, taken.Price, taken.Deposit > 0 ? $"deposit {taken.Deposit:0.##} until the old core is back" : "the part that is exchanged"));
        }

        foreach (var operation in map.Operations.Where(o => set.Contains(o.Id)))
        {
            // The exchanged part is bought by its offer, not by what the map once took.
            var used = operation.Consumes.Where(c => part is null || job.PartTaken is null || !c.Part.StartsWith(part.Title, StringComparison.OrdinalIgnoreCase)).ToList();
            lines.AddRange(used.Select(c => new OrderLine(c.Part, c.Quantity, c.Price, $"used up: {operation.Title}")));
            foreach (var fastener in job.Map is null ? operation.Fasteners : job.FastenersOf(operation.Id))
            {
                var kind = fastener.Kind.Replace('-', ' ');
                if (fastener.Reuse == "renew" && !used.Any(c => c.Part.Contains(kind, StringComparison.OrdinalIgnoreCase)))
                {
                    lines.Add(new OrderLine($"{fastener.Words(1)[2..]}, {fastener.Holds}", fastener.Count, null, "for one use only"));
                }

                foreach (var (state, why) in new[] { (FastenerState.Broken, "broke"), (FastenerState.Missing, "was missing on arrival") })
                {
                    if (job.FoundCount(operation.Id, fastener.Id, state) is var count and > 0 && fastener.Reuse != "renew")
                    {
                        lines.Add(new OrderLine($"{fastener.Words(1)[2..]}{(fastener.LengthMillimetres is { } mm ? $" {mm:0} mm" : "")}, {fastener.Holds}", count, null, why));
                    }
                }
            }
        }

        return lines;
    }
}
