using Screeline.Core.Access;
using Screeline.Core.Access.Recording;

namespace Screeline.Web.Drawing;

/// <summary>A kind of job of the family as it is offered where no map fits: what comes off, in which order of magnitude, what it punishes.</summary>
/// <param name="Map">The map's id.</param>
/// <param name="Title">The kind of job.</param>
/// <param name="Minutes">Its minutes in words, wide.</param>
/// <param name="Off">What comes off, in a few words each, in order.</param>
/// <param name="Punishes">What it is known to punish, or null.</param>
/// <param name="Places">Places along the way, top to bottom in the picture.</param>
/// <param name="Path">The way through them: step by step, as an SVG path.</param>
/// <param name="Width">Width of the picture.</param>
public sealed record BeginCard(string Map, string Title, string Minutes, IReadOnlyList<string> Off, string? Punishes, IReadOnlyList<string> Places, string Path, int Width)
{
    /// <summary>Height of a place in the picture.</summary>
    public const int RowHeight = 24;

    private const int StepWidth = 16, LetterWidth = 9;

    /// <summary>The card of a map.</summary>
    /// <param name="map">The map.</param>
    /// <param name="minutes">Minutes of its best way there and back.</param>
    public static BeginCard Of(AccessMap map, double minutes)
    {
        var way = WalkRules.InOrder(map).Where(o => o.Kind == OperationKind.Open).ToList();
        var places = way.Select(Place).Distinct().ToList();
        string Place(Operation o) => AnyPlaces.Title(map.Positions.First(p => p.Id == o.Position).Kind ?? o.Position);
        var left = places.Max(p => p.Length) * LetterWidth + 8;
        double Y(Operation o) => places.IndexOf(Place(o)) * RowHeight + 12;
        var path = string.Concat(way.Select((o, i) => $"{(i == 0 ? "M" : "L")}{left + i * StepWidth} {Y(o):0}h{StepWidth - 4}"));
        return new BeginCard(
            map.Id, map.Subject ?? map.Title, Magnitude(minutes), [.. way.Where(o => o.Provides.Count == 0).Select(o => o.DoneWords)], map.Lessons is [var lesson, ..] ? lesson.Words : null, places, path, left + Math.Max(1, way.Count) * StepWidth + 4);
    }

    // On another vehicle nothing more exact is known.
    private static string Magnitude(double minutes) => minutes switch
    {
        < 25 => "under half an hour", < 60 => "half an hour to an hour", < 120 => "one to two hours", < 240 => "two to four hours", < 480 => "half a day to a day", _ => "more than a day",
    };
}
