namespace Screeline.Core.Diagnosis;

/// <summary>
/// Where sampled vehicles lie in the ranges of their parameters: L³ rows, a column for each parameter. The columns are those of an
/// orthogonal array of L levels (Rao 1947; its generators are the points of the projective plane over L) made as fine as a Latin
/// hypercube (Tang 1993), both from memory: a column takes each of L³ places once, and two columns each pair of levels equally
/// often, so that what one or two parameters do to a reading is averaged without chance. The first L + 1 lie on a conic, no three of
/// them in a line: of these any three columns take each triple of levels once (Bush 1952, from memory). Each row has its mirror
/// image: what grows on one side shrinks on the other.
/// </summary>
public static class SamplePlaces
{
    /// <summary>Lays the rows out.</summary>
    /// <param name="columns">How many columns; those beyond the L² + L + 1 points are plain Latin hypercubes.</param>
    /// <param name="levels">L: an odd prime.</param>
    /// <param name="seed">Of the shuffling.</param>
    /// <returns>By column and row: the place, 0 to 1.</returns>
    /// <exception cref="ArgumentOutOfRangeException">The number of levels is not an odd prime.</exception>
    public static double[][] Of(int columns, int levels, int seed)
    {
        if (levels < 3 || Enumerable.Range(2, levels - 2).Any(d => levels % d == 0))
        {
            throw new ArgumentOutOfRangeException(nameof(levels), levels, "The number of levels is an odd prime.");
        }

        var random = new Random(seed);
        var points = Points(levels, random);
        return [.. Enumerable.Range(0, columns).Select(c => Column(c < points.Length ? points[c] : null, levels, random))];
    }

    // The points of the projective plane, first those of the conic (1, t, t²), (0, 0, 1), then the others as they come.
    private static int[][] Points(int levels, Random random)
    {
        int[][] conic = [.. Enumerable.Range(0, levels).Select(t => new[] { 1, t, t * t % levels }), [0, 0, 1]];
        var all = Enumerable.Range(0, levels * levels).Select(k => new[] { 1, k / levels, k % levels }).Concat(Enumerable.Range(0, levels).Select(k => new[] { 0, 1, k }));
        var others = all.Where(p => !conic.Any(c => c.SequenceEqual(p))).ToArray();
        random.Shuffle(others);
        return [.. conic, .. others];
    }

    // Rows are vectors of three numbers modulo the levels, their digits. A row's level in a column is its product with the column's point.
    private static double[] Column(int[]? point, int levels, Random random)
    {
        var (square, rows, half) = (levels * levels, levels * levels * levels, levels / 2);
        int Mirror(int row) => (levels - row / square) % levels * square + (levels - row / levels % levels) % levels * levels + (levels - row % levels) % levels;

        // Levels lie in pairs about the middle one. Which pair is nearest, and which of it is above, is shuffled: otherwise sums of
        // a few columns would be as regular as the array is.
        var outwards = Enumerable.Range(1, half).ToArray();
        random.Shuffle(outwards);
        var above = outwards.Select(_ => random.Next(2) == 0 ? 1 : -1).ToArray();
        int Band(int row)
        {
            var level = point is null ? 0 : (row / square * point[0] + row / levels % levels * point[1] + row % levels * point[2]) % levels;
            var pair = Math.Min(level, levels - level);
            return pair == 0 ? 0 : outwards[pair - 1] * above[pair - 1] * (level == pair ? 1 : -1);
        }

        var places = new double[rows];
        places[0] = 0.5;
        for (var band = 0; band <= half; band++)
        {
            var inside = Enumerable.Range(1, rows - 1).Where(r => Band(r) == band && (band > 0 || r < Mirror(r))).ToArray();
            random.Shuffle(inside);
            var first = band == 0 ? 1 : band * square - square / 2;
            for (var k = 0; k < inside.Length; k++)
            {
                var away = (first + k) / (double)rows * (band > 0 || random.Next(2) == 0 ? 1 : -1);
                places[inside[k]] = 0.5 + away;
                places[Mirror(inside[k])] = 0.5 - away;
            }
        }

        return places;
    }
}
