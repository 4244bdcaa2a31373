namespace Screeline.Core.Fastening;

/// <summary>A place on a part outline, both from 0 to 100: x from the left, y from the top.</summary>
public readonly record struct Spot(double X, double Y)
{
    /// <summary>Distance to another spot.</summary>
    public double To(Spot other) => Math.Sqrt((X - other.X) * (X - other.X) + (Y - other.Y) * (Y - other.Y));
}

/// <summary>In which order the fasteners of a group are tightened, and in how many passes.</summary>
public static class TighteningOrder
{
    /// <summary>Patterns known here.</summary>
    public static IReadOnlyList<string> Patterns { get; } = ["line", "ring", "crosswise", "centre-out"];

    /// <summary>
    /// The order as indices into the spots. "line": along the longer side, starting in the middle and going outwards to both ends;
    /// "ring": round the middle, the way the clock runs; "crosswise": always the one farthest across from the last, that is
    /// free; "centre-out": by distance from the middle. A pattern that is not known, or none: as they stand.
    /// </summary>
    public static IReadOnlyList<int> ForSpots(IReadOnlyList<Spot> spots, string? pattern)
    {
        var all = Enumerable.Range(0, spots.Count).ToList();
        if (spots.Count < 2)
        {
            return all;
        }

        var middle = new Spot(spots.Average(s => s.X), spots.Average(s => s.Y));
        double Turn(int i) => Math.Atan2(spots[i].X - middle.X, middle.Y - spots[i].Y) is var a && a < -1e-9 ? a + 2 * Math.PI : a;
        switch (pattern)
        {
            case "line":
                var wide = spots.Max(s => s.X) - spots.Min(s => s.X) >= spots.Max(s => s.Y) - spots.Min(s => s.Y);
                double Along(int i) => wide ? spots[i].X : spots[i].Y;
                return [.. all.OrderBy(i => Math.Round(Math.Abs(Along(i) - (wide ? middle.X : middle.Y)), 6)).ThenBy(Along)];
            case "ring": return [.. all.OrderBy(Turn)];
            case "centre-out": return [.. all.OrderBy(i => Math.Round(spots[i].To(middle), 6)).ThenBy(Turn)];
            case "crosswise":
                var ring = all.OrderBy(Turn).ToList();
                var order = new List<int> { ring[0] };
                ring.RemoveAt(0);
                while (ring.Count > 0)
                {
                    var (last, before) = (order[^1], order.Count > 1 ? order[^2] : order[^1]);
                    // Across from the last one; of two that are as far, the one farther from the one before, so that the pairs turn.
                    var next = ring.OrderByDescending(i => Math.Round(spots[i].To(spots[last]), 6)).ThenByDescending(i => Math.Round(spots[i].To(spots[before]), 6)).ThenBy(Turn).First();
                    order.Add(next);
                    ring.Remove(next);
                }

                return order;
            default: return all;
        }
    }

    /// <summary>
    /// Places for a group whose map gives none: a line, a ring, or for one alone the middle. They show the order, not the part.
    /// </summary>
    public static IReadOnlyList<Spot> Places(int count, string? pattern) =>
        count == 1 ? [new Spot(50, 50)]
        : pattern == "line" ? [.. Enumerable.Range(0, count).Select(i => new Spot(10 + 80.0 * i / (count - 1), 50))]
        : [.. Enumerable.Range(0, count).Select(i => 2 * Math.PI * i / count).Select(a => new Spot(50 + 40 * Math.Sin(a), 50 - 40 * Math.Cos(a)))];

    /// <summary>
    /// Shares of the torque pass by pass: given ones, or half and whole for four or more of a group, else whole at once.
    /// </summary>
    public static IReadOnlyList<decimal> Passes(int count, IReadOnlyList<decimal> given) => given.Count > 0 ? given : count >= 4 ? [0.5m, 1m] : [1m];
}
