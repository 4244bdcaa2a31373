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
    /// <param name="levels">L: an odd prime, or the square of one that is one less than a multiple of four, such as 9.</param>
    /// <param name="seed">Of the shuffling.</param>
    /// <returns>By column and row: the place, 0 to 1.</returns>
    /// <exception cref="ArgumentOutOfRangeException">The number of levels is neither.</exception>
    public static double[][] Of(int columns, int levels, int seed)
    {
        var field = Field.Of(levels) ?? throw new ArgumentOutOfRangeException(nameof(levels), levels, "The number of levels is an odd prime, or the square of one that is one less than a multiple of four.");
        var random = new Random(seed);
        var points = Points(field, random);
        return [.. Enumerable.Range(0, columns).Select(c => Column(c < points.Length ? points[c] : null, field, random))];
    }

    // The points of the projective plane, first those of the conic (1, t, t²), (0, 0, 1), then the others as they come.
    private static int[][] Points(Field field, Random random)
    {
        var levels = field.Levels;
        int[][] conic = [.. Enumerable.Range(0, levels).Select(t => new[] { 1, t, field.Product(t, t) }), [0, 0, 1]];
        var all = Enumerable.Range(0, levels * levels).Select(k => new[] { 1, k / levels, k % levels }).Concat(Enumerable.Range(0, levels).Select(k => new[] { 0, 1, k }));
        var others = all.Where(p => !conic.Any(c => c.SequenceEqual(p))).ToArray();
        random.Shuffle(others);
        return [.. conic, .. others];
    }

    // Rows are vectors of three elements of the field, their digits. A row's level in a column is its product with the column's point.
    private static double[] Column(int[]? point, Field field, Random random)
    {
        var levels = field.Levels;
        var (square, rows, half) = (levels * levels, levels * levels * levels, levels / 2);
        int Mirror(int row) => field.Negative(row / square) * square + field.Negative(row / levels % levels) * levels + field.Negative(row % levels);

        // Levels lie in pairs about the middle one. Which pair is nearest, and which of it is above, is shuffled: otherwise sums of
        // a few columns would be as regular as the array is.
        int[] firsts = [.. Enumerable.Range(1, levels - 1).Where(x => x < field.Negative(x))];
        var outwards = Enumerable.Range(1, half).ToArray();
        random.Shuffle(outwards);
        var above = outwards.Select(_ => random.Next(2) == 0 ? 1 : -1).ToArray();
        int Band(int row)
        {
            var level = point is null ? 0 : field.Sum(field.Sum(field.Product(row / square, point[0]), field.Product(row / levels % levels, point[1])), field.Product(row % levels, point[2]));
            var first = Math.Min(level, field.Negative(level));
            var pair = Array.IndexOf(firsts, first);
            return pair < 0 ? 0 : outwards[pair] * above[pair] * (level == first ? 1 : -1);
        }

        var places = new double[rows];
        places[0] = 0.5;
        var bands = Enumerable.Range(1, rows - 1).ToLookup(Band);
        for (var band = 0; band <= half; band++)
        {
            var inside = bands[band].Where(r => band > 0 || r < Mirror(r)).ToArray();
            random.Shuffle(inside);
            var start = band == 0 ? 1 : band * square - square / 2;
            for (var k = 0; k < inside.Length; k++)
            {
                var away = (start + k) / (double)rows * (band > 0 || random.Next(2) == 0 ? 1 : -1);
                places[inside[k]] = 0.5 + away;
                places[Mirror(inside[k])] = 0.5 - away;
            }
        }

        return places;
    }

    // The finite field of so many elements: numbers modulo a prime, or of the square of a prime p the numbers a + bi, written b·p + a.
    private sealed class Field
    {
        private readonly int[,] _sums, _products;
        private readonly int[] _negatives;

        private Field(int levels, Func<int, int, int> sum, Func<int, int, int> product)
        {
            (Levels, _sums, _products) = (levels, new int[levels, levels], new int[levels, levels]);
            for (var a = 0; a < levels; a++)
            {
                for (var b = 0; b < levels; b++)
                {
                    (_sums[a, b], _products[a, b]) = (sum(a, b), product(a, b));
                }
            }

            _negatives = [.. Enumerable.Range(0, levels).Select(a => Enumerable.Range(0, levels).First(b => _sums[a, b] == 0))];
        }

        public int Levels { get; }

        /// <summary>The field; null when there is none of this kind. −1 has no root modulo a prime that is one less than a multiple of four.</summary>
        public static Field? Of(int levels)
        {
            var root = (int)Math.Round(Math.Sqrt(levels));
            return IsOddPrime(levels) ? new Field(levels, (a, b) => (a + b) % levels, (a, b) => a * b % levels)
                : root * root == levels && root % 4 == 3 && IsOddPrime(root) ? new Field(levels, (a, b) => (a / root + b / root) % root * root + (a + b) % root,
                    (a, b) => (a / root * (b % root) + a % root * (b / root)) % root * root + (a % root * (b % root) + root * root - a / root * (b / root)) % root)
                : null;
        }

        public int Sum(int a, int b) => _sums[a, b];

        public int Product(int a, int b) => _products[a, b];

        public int Negative(int a) => _negatives[a];

        private static bool IsOddPrime(int n) => n >= 3 && Enumerable.Range(2, n - 2).All(d => n % d != 0);
    }
}
