namespace Screeline.Core.Diagnosis;

/// <summary>
/// A mirrored Latin hypercube sample (McKay, Beckman and Conover 1979; mirrored as antithetic variates, Hammersley and Morton 1956;
/// both from memory): each column takes each of its places once, and each row has its mirror image, so that what grows on one side of a
/// range shrinks on the other.
/// </summary>
public static class LatinHypercube
{
    /// <summary>Lays the rows out.</summary>
    /// <param name="columns">How many columns.</param>
    /// <param name="rows">How many rows; an even number above zero.</param>
    /// <param name="seed">Of the shuffling. The first columns are the same however many there are.</param>
    /// <returns>By column and row: the place, 0 to 1.</returns>
    /// <exception cref="ArgumentOutOfRangeException">The number of rows is not even or not above zero.</exception>
    public static double[][] Of(int columns, int rows, int seed)
    {
        if (rows <= 0 || rows % 2 != 0)
        {
            throw new ArgumentOutOfRangeException(nameof(rows), rows, "An even number of rows above zero is wanted.");
        }

        var random = new Random(seed);
        return [.. Enumerable.Range(0, columns).Select(_ => Column(rows, random))];
    }

    private static double[] Column(int rows, Random random)
    {
        var (half, places) = (rows / 2, new double[rows]);
        int[] order = [.. Enumerable.Range(0, half)];
        random.Shuffle(order);
        for (var k = 0; k < half; k++)
        {
            var place = (order[k] + 0.5) / rows;
            var isBelow = random.Next(2) == 0;
            (places[k], places[rows - 1 - k]) = isBelow ? (place, 1 - place) : (1 - place, place);
        }

        return places;
    }
}
