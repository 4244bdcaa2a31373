using Screeline.Core.Circuits;

namespace Screeline.Core.Motion;

/// <summary>Which way the glass goes.</summary>
public enum GlassWay
{
    /// <summary>Closing.</summary>
    Up,
    /// <summary>Opening.</summary>
    Down,
}

/// <summary>One run of the glass from stop to stop.</summary>
/// <param name="Way">Which way.</param>
/// <param name="Seconds">How long it took.</param>
/// <param name="Amperes">Current at even steps of the way, from its beginning to its end; the glass at the bottom is 0 for both ways.</param>
public sealed record WindowRun(GlassWay Way, double Seconds, IReadOnlyList<double> Amperes)
{
    /// <summary>Steps of the way: one for every fiftieth.</summary>
    public const int Steps = 51;

    /// <summary>Position of a step: 0 at the bottom, 1 at the top.</summary>
    public static double Position(int step) => step / (Steps - 1.0);

    /// <summary>Made from samples at any positions.</summary>
    /// <param name="way">Which way.</param>
    /// <param name="seconds">How long it took.</param>
    /// <param name="samples">Share of the way up, 0 at the bottom to 1 at the top, and amperes; at least two.</param>
    public static WindowRun From(GlassWay way, double seconds, IEnumerable<(double Position, double Amperes)> samples)
    {
        var sorted = samples.OrderBy(s => s.Position).ToList();
        var at = 0;
        var amperes = new double[Steps];
        for (var i = 0; i < Steps; i++)
        {
            var p = Position(i);
            while (at + 2 < sorted.Count && sorted[at + 1].Position < p)
            {
                at++;
            }

            var (a, b) = (sorted[at], sorted[at + 1]);
            var share = b.Position > a.Position ? Math.Clamp((p - a.Position) / (b.Position - a.Position), 0, 1) : 0;
            amperes[i] = a.Amperes + share * (b.Amperes - a.Amperes);
        }

        return new WindowRun(way, seconds, amperes);
    }
}

/// <summary>The motor and what it lifts.</summary>
/// <param name="NewtonsPerAmpere">Lifting force at the glass for each ampere above idle.</param>
/// <param name="IdleAmperes">Current of the motor that lifts nothing.</param>
/// <param name="Ohms">Motor and its wiring at 20 °C.</param>
/// <param name="GlassKilograms">Mass of the glass.</param>
public sealed record WindowLift(double NewtonsPerAmpere, double IdleAmperes, double Ohms, double GlassKilograms);

/// <summary>A stretch where the current leaves its band.</summary>
/// <param name="Way">Which way the glass went.</param>
/// <param name="From">Begins here, 0 at the bottom to 1 at the top.</param>
/// <param name="To">Ends here.</param>
/// <param name="Worst">Farthest above (or, below zero, under) the band, A.</param>
/// <param name="Newtons">The same as force.</param>
public sealed record WindowStretch(GlassWay Way, double From, double To, double Worst, double Newtons);

/// <summary>The band of good runs.</summary>
/// <param name="Low">Lowest usual current at each step.</param>
/// <param name="High">Highest.</param>
/// <param name="Seconds">Mean time.</param>
/// <param name="Runs">From how many runs.</param>
public sealed record WindowBand(IReadOnlyList<double> Low, IReadOnlyList<double> High, double Seconds, int Runs)
{
    /// <summary>A band is at least this share of the current wide, either way (common practice, no source).</summary>
    public const double LeastShare = 0.12;

    /// <summary>
    /// The band in which the next good run lies: mean ± 3 standard deviations · √(1 + 1/n), at least <see cref="LeastShare"/> of the
    /// mean; with one run a fifth of it.
    /// </summary>
    /// <exception cref="ArgumentException">No run.</exception>
    public static WindowBand FromRuns(IReadOnlyList<WindowRun> good)
    {
        if (good.Count == 0)
        {
            throw new ArgumentException("no good run", nameof(good));
        }

        var (low, high) = (new double[WindowRun.Steps], new double[WindowRun.Steps]);
        for (var i = 0; i < WindowRun.Steps; i++)
        {
            var mean = good.Average(r => r.Amperes[i]);
            var spread = good.Count > 1 ? Math.Sqrt(good.Sum(r => Math.Pow(r.Amperes[i] - mean, 2)) / (good.Count - 1)) : 0;
            var wide = Math.Max(3 * spread * Math.Sqrt(1 + 1.0 / good.Count), (good.Count > 1 ? LeastShare : 0.2) * mean);
            (low[i], high[i]) = (mean - wide, mean + wide);
        }

        return new WindowBand(low, high, good.Average(r => r.Seconds), good.Count);
    }
}

/// <summary>What the runs of a window say.</summary>
/// <param name="Stretches">Where the current leaves its band.</param>
/// <param name="Friction">At each step, N; null without a run each way.</param>
/// <param name="Weight">Weight that the motor feels, N; null without a run each way.</param>
/// <param name="Said">What that speaks for, the gravest first.</param>
public sealed record WindowAnswer(IReadOnlyList<WindowStretch> Stretches, IReadOnlyList<double>? Friction, double? Weight, IReadOnlyList<ActuatorSaid> Said);

/// <summary>Travel of a window.</summary>
public static class WindowTravel
{
    /// <summary>Inrush at the start and the stall at the stop belong to no band: these shares of the way are left out.</summary>
    public const double StartShare = 0.08;
    /// <summary>The same at the end of the way.</summary>
    public const double EndShare = 0.04;
    /// <summary>Largest force on what is trapped by a closing window, N (UN Regulation No. 21, paragraph 5.8, from memory).</summary>
    public const double AntiTrapNewtons = 100;
    /// <summary>By how much stiffer seals are at −20 °C than at 20 °C (common practice, no source).</summary>
    public const double ColdSeals = 1.6;
    private const double Gravity = 9.81;

    /// <summary>Whether a step of a run counts.</summary>
    public static bool Counts(GlassWay way, int step)
    {
        var gone = way == GlassWay.Up ? WindowRun.Position(step) : 1 - WindowRun.Position(step);
        return gone >= StartShare && gone <= 1 - EndShare;
    }

    /// <summary>Judges runs against the bands of good ones.</summary>
    /// <param name="runs">One run each way, or one.</param>
    /// <param name="bands">The band of each way that is known.</param>
    /// <param name="lift">Motor and glass.</param>
    public static WindowAnswer Judge(IReadOnlyList<WindowRun> runs, IReadOnlyDictionary<GlassWay, WindowBand> bands, WindowLift lift)
    {
        var stretches = runs.Where(r => bands.ContainsKey(r.Way)).SelectMany(r => Outside(r, bands[r.Way], lift)).ToList();
        var (up, down) = (runs.FirstOrDefault(r => r.Way == GlassWay.Up), runs.FirstOrDefault(r => r.Way == GlassWay.Down));
        double[]? friction = null;
        double? weight = null;
        if (up is not null && down is not null)
        {
            // Upwards the motor lifts against weight and friction, downwards against friction less weight.
            double Force(WindowRun run, int i) => lift.NewtonsPerAmpere * (run.Amperes[i] - lift.IdleAmperes);
            int[] counted = [.. Enumerable.Range(0, WindowRun.Steps).Where(i => Counts(GlassWay.Up, i) && Counts(GlassWay.Down, i))];
            friction = [.. Enumerable.Range(0, WindowRun.Steps).Select(i => (Force(up, i) + Force(down, i)) / 2)];
            weight = counted.Average(i => (Force(up, i) - Force(down, i)) / 2);
        }

        return new WindowAnswer(stretches, friction, weight, Say(runs, bands, lift, stretches, weight));
    }

    /// <summary>Force that is left over when the battery is low and the seals are cold.</summary>
    /// <param name="lift">Motor and glass.</param>
    /// <param name="frictionNewtons">Highest friction on the way, measured at about 20 °C.</param>
    /// <param name="volts">Lowest supply at the motor's plug.</param>
    /// <param name="celsius">Lowest temperature.</param>
    /// <returns>Force the motor can give, force that is needed, N.</returns>
    public static (double Available, double Needed) Margin(WindowLift lift, double frictionNewtons, double volts, double celsius)
    {
        // Copper: 0.00393 per kelvin (IEC 60028). The motor is stalled where its force is largest.
        var ohms = lift.Ohms * (1 + Wire.CopperCoefficient * (celsius - 20));
        var stiffer = 1 + (ColdSeals - 1) * Math.Clamp((20 - celsius) / 40, 0, 1.5);
        return (lift.NewtonsPerAmpere * (volts / ohms - lift.IdleAmperes), lift.GlassKilograms * Gravity + stiffer * frictionNewtons);
    }

    /// <summary>Tilt of the glass from the heights of its two lower corners, degrees; above zero when the rear hangs.</summary>
    /// <param name="front">Height of the front corner, mm.</param>
    /// <param name="rear">Height of the rear corner, mm.</param>
    /// <param name="width">Distance of the corners, mm.</param>
    public static double Tilt(double front, double rear, double width) => Math.Atan2(front - rear, width) * 180 / Math.PI;

    private static IEnumerable<WindowStretch> Outside(WindowRun run, WindowBand band, WindowLift lift)
    {
        double Off(int i) => !Counts(run.Way, i) ? 0 : run.Amperes[i] > band.High[i] ? run.Amperes[i] - band.High[i] : run.Amperes[i] < band.Low[i] ? run.Amperes[i] - band.Low[i] : 0;
        for (var i = 0; i < WindowRun.Steps; i++)
        {
            var sign = Math.Sign(Off(i));
            if (sign == 0)
            {
                continue;
            }

            var (from, worst) = (i, Off(i));
            while (i + 1 < WindowRun.Steps && Math.Sign(Off(i + 1)) == sign)
            {
                i++;
                worst = Math.Abs(Off(i)) > Math.Abs(worst) ? Off(i) : worst;
            }

            // One step alone is noise.
            if (i > from)
            {
                yield return new WindowStretch(run.Way, WindowRun.Position(from), WindowRun.Position(i), worst, worst * lift.NewtonsPerAmpere);
            }
        }
    }

    private static List<ActuatorSaid> Say(IReadOnlyList<WindowRun> runs, IReadOnlyDictionary<GlassWay, WindowBand> bands, WindowLift lift, List<WindowStretch> stretches, double? weight)
    {
        var said = new List<ActuatorSaid>();
        double Share(GlassWay way, int sign) => stretches.Where(s => s.Way == way && Math.Sign(s.Worst) == sign).Sum(s => s.To - s.From) / (1 - StartShare - EndShare);
        if (Share(GlassWay.Up, -1) > 0.6)
        {
            said.Add(new("Draws too little all the way up", "Because the motor lifts next to nothing: cable off its drum, or the glass out of its carrier.", true));
        }

        if (Share(GlassWay.Up, 1) > 0.6)
        {
            said.Add(Share(GlassWay.Down, 1) > 0.6
                ? new("Stiff all the way, both ways", "Because friction works both ways: dry seals, guide too tight, a new seal not run in, or a worn motor.", true)
                : new("Stiff all the way up, free downwards", "Because only weight pulls one way: a heavier glass, a balance spring that is broken, or a low supply.", true));
        }
        else
        {
            foreach (var s in stretches.Where(s => s.Worst > 0 && s.To - s.From <= 0.6).OrderByDescending(s => s.Worst))
            {
                var both = stretches.Any(o => o.Way != s.Way && o.Worst > 0 && o.From < s.To && s.From < o.To);
                if (both && s.Way == GlassWay.Down)
                {
                    continue;
                }

                said.Add(new($"Binds at {100 * s.From:0} to {100 * s.To:0} % of the way{(both ? ", both ways" : s.Way == GlassWay.Up ? ", going up" : ", going down")}: {s.Newtons:0} N over the band",
                    both ? "Because it is at one place both ways: the guide is bent or the seal pinched there." : "Because it is one way only: the glass tilts and jams. Set the guide, glass fully up.", true));
            }
        }

        foreach (var run in runs.Where(r => bands.ContainsKey(r.Way) && r.Seconds > 1.25 * bands[r.Way].Seconds))
        {
            said.Add(new($"{(run.Way == GlassWay.Up ? "Up" : "Down")} takes {run.Seconds:0.0} s, usual is {bands[run.Way].Seconds:0.0} s",
                said.Any(s => s.Bad) ? "Because of the same." : "Because the current is as usual: the supply is low. Measure volts at the motor while it runs.", true));
        }

        if (weight is { } w && Math.Abs(w - lift.GlassKilograms * Gravity) > Math.Max(15, 0.5 * lift.GlassKilograms * Gravity))
        {
            said.Add(new($"The motor feels {w:0} N of weight, the glass weighs {lift.GlassKilograms * Gravity:0} N", "Because up and down differ otherwise than the glass would make them: a spring, or a motor that pulls unlike both ways.", false));
        }

        if (said.Count == 0)
        {
            said.Add(new(bands.Count == 0 ? "Nothing to compare with" : "Within the band of good runs", bands.Count == 0 ? "Keep good runs of this vehicle: they become its band." : "Time and current are as they were when it was good.", false));
        }

        return said;
    }
}

/// <summary>Whether a motor's thermal cut-out may be open.</summary>
public enum CutOut
{
    /// <summary>Cool enough: what the motor does not do is not the cut-out.</summary>
    Closed,
    /// <summary>It may have opened.</summary>
    Perhaps,
    /// <summary>It has opened very likely: do not condemn the motor while it is hot.</summary>
    Open,
}

/// <summary>
/// Heat of a small motor in seconds of stall: a stalled second counts one, a running one a seventh, and it cools with a time
/// constant of five minutes (common practice, no source).
/// </summary>
public static class ThermalCutOut
{
    private const double RunningShare = 1 / 7.0;
    private const double CoolingSeconds = 300;
    /// <summary>From here on it may have opened, seconds of stall.</summary>
    public const double MayOpen = 8;
    /// <summary>From here on it very likely has.</summary>
    public const double Opens = 16;

    /// <summary>Its state after some tries and a rest.</summary>
    /// <param name="stalledSeconds">Stalled altogether.</param>
    /// <param name="runningSeconds">Ran altogether.</param>
    /// <param name="restedSeconds">Since then.</param>
    /// <returns>The state, and seconds until it is surely closed again.</returns>
    public static (CutOut State, double SecondsToWait) After(double stalledSeconds, double runningSeconds, double restedSeconds)
    {
        var heat = (stalledSeconds + RunningShare * runningSeconds) * Math.Exp(-restedSeconds / CoolingSeconds);
        return (heat >= Opens ? CutOut.Open : heat >= MayOpen ? CutOut.Perhaps : CutOut.Closed, heat < MayOpen ? 0 : CoolingSeconds * Math.Log(heat / MayOpen));
    }
}
