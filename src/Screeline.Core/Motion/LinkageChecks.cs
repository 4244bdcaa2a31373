using Screeline.Core.Formats;

namespace Screeline.Core.Motion;

/// <summary>Whether a linkage can be put together and does what its drive asks of it.</summary>
public static class LinkageChecks
{
    /// <summary>Below this angle between link and lever a linkage is stiff and wears (common practice, no source).</summary>
    public const double LeastTransmission = 30;

    /// <summary>All that is wrong with it; empty when nothing is. Paths are those of the format.</summary>
    public static IReadOnlyList<FormatFault> FaultsOf(WiperLinkage linkage)
    {
        var faults = new List<FormatFault>();
        void Fault(string path, string message) => faults.Add(new FormatFault("$." + path, message));
        if (linkage.Rockers.Count == 0)
        {
            Fault("rockers", "at least one arm");
        }

        if (linkage.Crank < 0 || (linkage.Crank == 0 && linkage.Rockers.Any(r => !r.IsDirect && r.DrivenBy < 0)))
        {
            Fault("crank", "a length above nothing");
        }

        if (linkage.Park.Count != (linkage.Drive == WiperDrive.AlternatingPark ? 2 : 1))
        {
            Fault("park", linkage.Drive == WiperDrive.AlternatingPark ? "two angles, one for each of the places it parks in" : "one angle");
        }

        if ((linkage.Drive == WiperDrive.Reversing) != linkage.Ends.HasValue || linkage.Ends is { } e && Math.Abs(e.From - e.To) is < 1 or > 359)
        {
            Fault("ends", linkage.Drive == WiperDrive.Reversing ? "the two angles the motor goes between, 1 to 359 degrees apart" : "only a reversing motor has learned ends");
        }

        if (linkage.Gauge is { } gauge && (gauge.Radius <= 0 || gauge.Tolerance < 0 || gauge.Tolerance >= gauge.Radius || gauge.Gap < 0))
        {
            Fault("gauge", "radius above nothing, gap and tolerance not below it, the tolerance less than the radius");
        }

        for (var i = 0; i < linkage.Rockers.Count; i++)
        {
            var (r, at) = (linkage.Rockers[i], $"rockers[{i}]");
            if (r.Arm.Tip <= 0 || r.Arm.Heel < 0 || r.Arm.Heel >= r.Arm.Tip)
            {
                Fault($"{at}.arm.tip", "the tip lies farther out than the lower end of the blade");
            }

            if (r.Arm.Teeth is < 0 or > 400)
            {
                Fault($"{at}.arm.teeth", "0 for none, up to 400");
            }

            if (r.Band.Tolerance < 0)
            {
                Fault($"{at}.band.tolerance", "not below nothing");
            }

            if (r.DrivenBy >= i || r.DrivenBy < -1)
            {
                Fault($"{at}.driven_by", "the crank, or a rocker that stands before this one");
                continue;
            }

            if (r.IsDirect)
            {
                if (linkage.Drive != WiperDrive.Reversing)
                {
                    Fault($"{at}.lever", "an arm on the motor's own shaft needs a motor that goes to and fro");
                }

                continue;
            }

            foreach (var (length, name) in new[] { (r.Link, "link"), (r.Lever, "lever"), (r.DrivenBy < 0 ? 1 : r.FromLever, "from_lever") })
            {
                if (!(length > 0))
                {
                    Fault($"{at}.{name}", "a length above nothing");
                }
            }

            if (faults.Count == 0)
            {
                CheckBars(linkage, i, at, Fault);
            }
        }

        if (linkage.Glass.Cowl.Count < 2 || linkage.Glass.LeftPillar.Count < 2 || linkage.Glass.RightPillar.Count < 2)
        {
            Fault("glass", "each edge has at least two points");
        }

        return faults;
    }

    private static void CheckBars(WiperLinkage linkage, int rocker, string at, Action<string, string> fault)
    {
        var r = linkage.Rockers[rocker];
        var (bars, _) = linkage.BarsOf(rocker)!.Value;
        if (bars.Ground <= 0)
        {
            fault($"{at}.pivot", "the same place as the shaft that drives it");
        }
        else if (bars.Kind == FourBarKind.Impossible)
        {
            fault($"{at}.link", "one length is longer than the others together: it cannot be put together");
        }
        else if (r.DrivenBy < 0 && linkage.Drive != WiperDrive.Reversing && bars.Kind != FourBarKind.CrankRocker)
        {
            var why = bars.Kind switch
            {
                FourBarKind.ChangePoint => "all links fall into one line, from where the arm may go either way",
                FourBarKind.DoubleCrank => "the lever would turn round and round with the crank",
                _ => $"the crank cannot turn fully: by Grashof's condition {-bars.TurnMargin:0.#} mm are missing",
            };
            fault($"{at}.link", why);
        }
        else if (linkage.Turns(rocker) is { } stuck)
        {
            fault($"{at}.link", $"at {stuck:0}° of the crank the link does not reach");
        }
    }

    // The first angle at which a rocker's link does not reach; null when it goes through.
    private static double? Turns(this WiperLinkage linkage, int rocker)
    {
        var upTo = linkage with { Rockers = [.. linkage.Rockers.Take(rocker + 1)] };
        var (from, to) = linkage.Range;
        for (var i = 0; i <= 180; i++)
        {
            var crank = from + i * (to - from) / 180;
            if (upTo.At(crank) is null)
            {
                return crank;
            }
        }

        return null;
    }
}
