using Screeline.Core.Access;
using Screeline.Core.Access.Planning;
using Screeline.Core.Access.Recording;
using Screeline.Library;

namespace Screeline.Access;

/// <summary>How often what comes off next stands among what is offered: each shipped map's best way, offered from all other maps.</summary>
internal static class Likely
{
    public static void Print()
    {
        var library = ShippedLibrary.Load();
        var words = library.PartWords;
        var (all, first, six, unknown) = (0, 0, 0, 0);
        foreach (var family in library.Systems)
        {
            var (of, hits, tops) = (0, 0, 0);
            foreach (var map in library.Maps.Select(m => m.Map).Where(m => m.Family == family.Id))
            {
                List<WorkSequence> others = [.. library.Maps.Where(m => m.Map.Id != map.Id).Select(m => WorkSequence.FromMap(m.Map, words))];
                var off = new HashSet<string>(StringComparer.Ordinal);
                foreach (var o in RoutePlanner.Best(map).Removal.Select(a => map[a.Id]).Where(o => o.Kind == OperationKind.Open && family.Frame.Find(o.Id) is null && o.Provides.Count == 0))
                {
                    var named = words.In(o.Title, family.Id).Select(w => w.Id).ToList();
                    var place = map.Positions.First(p => p.Id == o.Position).Kind ?? "";
                    var offered = LikelyNext.Rank(others, words, family.Id, place, off).Select(l => l.Word.Id).ToList();
                    unknown += named.Count == 0 ? 1 : 0;
                    of++;
                    hits += named.Any(offered.Contains) ? 1 : 0;
                    tops += offered.Count > 0 && named.Contains(offered[0]) ? 1 : 0;
                    off.UnionWith(named);
                }
            }

            Console.WriteLine($"{family.Id}: {of} things, {hits} among the first six, {tops} first");
            (all, six, first) = (all + of, six + hits, first + tops);
        }

        Console.WriteLine($"all: {all} things, {six} among the first six ({six * 100.0 / all:0} %), {first} first ({first * 100.0 / all:0} %); {unknown} without a known word");
    }
}
