using System.Diagnostics;
using Screeline.Core.Motion;
using Screeline.Library;

// How long a turn, an answer and a fit take, for every linkage of the library: median of 200 after warming up.
foreach (var named in ShippedLibrary.Load().Linkages)
{
    var linkage = named.Linkage;
    var seen = (from arm in Enumerable.Range(0, linkage.Rockers.Count)
                from what in Enum.GetValues<TipMeasure>()
                where what != TipMeasure.LowHeight || linkage.Drive != WiperDrive.Reversing
                select new TipSeen(what, arm, 0, TipSeen.UsualError(what))).Select(s => s with { Value = s.On(Change.Crank(linkage, 7)) }).ToList();
    List<Sought> sought = linkage.Crank > 0 ? [new(LinkageLength.Crank, -1, linkage.Crank + 3, 4), new(LinkageLength.ArmAngle, 0, linkage.Rockers[0].Arm.Angle - 3, 4)] : [];
    var measured = Enumerable.Range(0, linkage.Rockers.Count).SelectMany(r => new[] { new ArmMeasured(ArmSeen.AtLow, r, linkage.SweepOf(r).Low, 0.3), new ArmMeasured(ArmSeen.AtHigh, r, linkage.SweepOf(r).High, 0.3) }).ToList();
    if (linkage.Rockers.Count > 1 && linkage.Crank > 0)
    {
        sought.AddRange([new(LinkageLength.Lever, 1, linkage.Rockers[1].Lever + 3, 4), new(LinkageLength.ArmAngle, 1, linkage.Rockers[1].Arm.Angle + 3, 5)]);
    }

    Console.WriteLine(FormattableString.Invariant($"{named.Id}: full turn at 1° {Median(() => linkage.Turn(1)):0.000} ms, what to turn {Median(() => SettingFinder.Find(linkage, seen)):0.0} ms from {seen.Count} readings")
        + (sought.Count == 0 ? "" : FormattableString.Invariant($", fit of {sought.Count} lengths {Median(() => LinkageFit.Fit(linkage, sought, measured)):0.0} ms")));
}

static double Median(Action act)
{
    for (var i = 0; i < 100; i++)
    {
        act();
    }

    var times = new List<double>();
    for (var i = 0; i < 200; i++)
    {
        var watch = Stopwatch.StartNew();
        act();
        times.Add(watch.Elapsed.TotalMilliseconds);
    }

    times.Sort();
    return times[100];
}
