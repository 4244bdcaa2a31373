using System.Globalization;
using Screeline.Core.Quantities;

namespace Screeline.Core.Fastening;

/// <summary>A setting torque wrench (type II of ISO 6789-1) with its own scale.</summary>
/// <param name="Id">The tool's id.</param>
/// <param name="Title">What people call it.</param>
/// <param name="Low">Least value of its scale.</param>
/// <param name="High">Greatest value of its scale.</param>
/// <param name="Step">What one mark of the scale is worth, in the scale's unit.</param>
/// <param name="Unit">The unit of its scale.</param>
/// <param name="LengthMillimetres">From the middle of the grip to the square drive, mm.</param>
/// <param name="Calibrated">When it was last calibrated; null when nobody knows.</param>
public sealed record TorqueWrench(string Id, string Title, decimal Low, decimal High, decimal Step, Unit Unit, decimal LengthMillimetres, DateOnly? Calibrated = null)
{
    /// <summary>Below this share of full scale a click wrench is not trusted (common practice, no source).</summary>
    public const decimal LeastShare = 0.2m;

    /// <summary>Months a calibration holds when nobody says otherwise (ISO 6789-1: 12 months or 5,000 cycles).</summary>
    public const int CalibrationMonths = 12;

    /// <summary>Permitted deviation as a share: 6 % for wrenches up to 10 N·m, 4 % above (ISO 6789-1, type II classes A to C).</summary>
    public decimal Tolerance => Unit.ToBase(High) <= 10m ? 0.06m : 0.04m;

    /// <summary>Whether its calibration holds on a day.</summary>
    public bool InCalibration(DateOnly day) => Calibrated is { } at && at.AddMonths(CalibrationMonths) >= day;

    /// <summary>Why a value cannot be set on it; null when it can.</summary>
    public string? Refuses(decimal newtonMetres)
    {
        var own = Unit.FromBase(newtonMetres);
        return own < Low ? $"begins at {Format(Low)}" : own > High ? $"ends at {Format(High)}"
            : own < LeastShare * High ? $"is not trusted below a fifth of its {Format(High)}" : null;
    }

    private string Format(decimal value) => $"{value.ToString("0.##", CultureInfo.InvariantCulture)} {Unit.Symbol}";
}

/// <summary>An adaptor across the axis: a crow-foot or an extension that moves the fastener away from the square drive.</summary>
/// <param name="OffsetMillimetres">From the square drive to the fastener, mm.</param>
/// <param name="AngleDegrees">Between the adaptor and the wrench's axis; 0 straight ahead, 90 across, 180 back over the grip.</param>
public sealed record Adaptor(decimal OffsetMillimetres, decimal AngleDegrees)
{
    /// <summary>
    /// The value to set for a torque at the fastener: target · L / (L + E·cos φ), L from the middle of the grip to the square drive. At 90° nothing changes.
    /// </summary>
    /// <exception cref="ArgumentException">The fastener would lie at or behind the grip.</exception>
    public decimal Set(decimal target, decimal length)
    {
        var arm = (double)length + (double)OffsetMillimetres * Math.Cos((double)AngleDegrees * Math.PI / 180);
        return arm > 0.05 * (double)length ? target * length / (decimal)arm : throw new ArgumentException("The adaptor reaches back to the grip: no torque is defined there.");
    }
}

/// <summary>How a torque is set with one wrench.</summary>
/// <param name="Wrench">The wrench.</param>
/// <param name="Set">What to set, on its own scale.</param>
/// <param name="Gives">What that gives at the fastener, N·m.</param>
/// <param name="Least">The least that may come out, N·m.</param>
/// <param name="Most">The most that may come out, N·m.</param>
/// <param name="Doubts">What to know of it: calibration, rounding.</param>
public sealed record WrenchSetting(TorqueWrench Wrench, Figure Set, decimal Gives, decimal Least, decimal Most, IReadOnlyList<string> Doubts);

/// <summary>Chooses a torque wrench and what to set on it.</summary>
public static class WrenchChoice
{
    /// <summary>Every wrench that reaches the torque, the best first: calibrated before others, then the one whose middle lies nearest.</summary>
    /// <param name="target">At the fastener.</param>
    /// <param name="wrenches">Those owned.</param>
    /// <param name="adaptor">What sits between, or null.</param>
    /// <param name="today">For the calibration.</param>
    public static IReadOnlyList<WrenchSetting> For(Figure target, IEnumerable<TorqueWrench> wrenches, Adaptor? adaptor, DateOnly today) =>
    [
        .. from wrench in wrenches
           let setting = On(target, wrench, adaptor, today)
           where setting is not null
           let share = setting.Set.Number / wrench.High
           orderby wrench.InCalibration(today) descending, Math.Abs(share - 0.6m)
           select setting,
    ];

    /// <summary>How a torque is set on one wrench; null when it does not reach it.</summary>
    public static WrenchSetting? On(Figure target, TorqueWrench wrench, Adaptor? adaptor, DateOnly today)
    {
        var wanted = adaptor is null ? target.Base : adaptor.Set(target.Base, wrench.LengthMillimetres);
        if (wrench.Refuses(wanted) is not null)
        {
            return null;
        }

        var own = wrench.Unit.FromBase(wanted);
        var set = Math.Min(wrench.High, Math.Max(wrench.Low, Math.Round(own / wrench.Step, MidpointRounding.AwayFromZero) * wrench.Step));
        var gives = wrench.Unit.ToBase(set) * target.Base / wanted;
        var doubts = new List<string>();
        if (!wrench.InCalibration(today))
        {
            doubts.Add(wrench.Calibrated is { } at ? $"calibration ran out on {at.AddMonths(TorqueWrench.CalibrationMonths).ToString("d MMM yyyy", CultureInfo.InvariantCulture)}" : "no calibration date is known");
        }

        if (Math.Abs(gives - target.Base) > 0.01m * target.Base)
        {
            doubts.Add($"its scale gives {(gives / target.Base - 1m) * 100m:+0.#;-0.#} %");
        }

        return new WrenchSetting(wrench, new Figure(set / 1.0000000000000000000000000000m, wrench.Unit), gives, gives * (1 - wrench.Tolerance), gives * (1 + wrench.Tolerance), doubts);
    }

    /// <summary>Why no wrench owned reaches a torque, in words.</summary>
    public static string WhyNone(Figure target, IEnumerable<TorqueWrench> wrenches) =>
        wrenches.Select(w => $"{w.Title} {w.Refuses(target.Base) ?? "reaches it without the adaptor"}").ToList() is { Count: > 0 } reasons ? $"No wrench owned sets it: {string.Join("; ", reasons)}." : "No torque wrench is owned.";
}
