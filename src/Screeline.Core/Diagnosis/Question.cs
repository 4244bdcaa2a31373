using Screeline.Core.Quantities;

namespace Screeline.Core.Diagnosis;

/// <summary>One answer of a test that is not a number.</summary>
public sealed record Choice(string Id, string Title);

/// <summary>
/// The bounds of a good value at 12 V nominal; a bound may be missing, or be told against another test taken at the same moment.
/// </summary>
/// <param name="Low">Least good value, or null.</param>
/// <param name="High">Greatest good value, or null.</param>
/// <param name="Of">A test this one is compared with, or null.</param>
/// <param name="By">How far below that test it may lie.</param>
/// <param name="Colder">How much the least good value falls with each degree below 20 °C; null when it does not hang on temperature.</param>
public sealed record GoodRange(decimal? Low, decimal? High, string? Of, decimal? By, decimal? Colder = null)
{
    /// <summary>The least good value at a temperature, °C; 20 where none is said.</summary>
    public decimal? LowAt(double? celsius) => Low - (Colder ?? 0) * Math.Max(0, 20 - (decimal)(celsius ?? 20));
}

/// <summary>
/// What is asked of the vehicle, in Find or in Prove: a number with a unit or one of a few answers.
/// </summary>
public abstract record Question
{
    /// <summary>Identifier.</summary>
    public required string Id { get; init; }
    /// <summary>What is measured or looked at.</summary>
    public required string Title { get; init; }
    /// <summary>Unit of the number, or null when it is answered by a choice.</summary>
    public Unit? Unit { get; init; }
    /// <summary>Possible answers; empty when it is a number.</summary>
    public required IReadOnlyList<Choice> Choices { get; init; }
    /// <summary>The good range, or null.</summary>
    public GoodRange? Good { get; init; }
    /// <summary>The good answer, or null.</summary>
    public string? GoodChoice { get; init; }
    /// <summary>Least and greatest number a working meter could show at 12 V nominal; null for a choice.</summary>
    public (decimal Low, decimal High)? Plausible { get; init; }
    /// <summary>Whether good and plausible bounds grow with the system's voltage (24 V: twice).</summary>
    public bool ScalesWithSystem { get; init; }
    /// <summary>How it is done, one or two sentences.</summary>
    public required string How { get; init; }

    /// <summary>The factor on bounds for a system of this nominal voltage.</summary>
    public decimal Scale(decimal nominalVolts) => ScalesWithSystem ? nominalVolts / 12m : 1m;

    /// <summary>The good range in words, at a temperature, °C: "at least 9.6 V", "0.2 V at most", "turns".</summary>
    public string GoodWords(decimal nominalVolts, double? celsius = null)
    {
        if (GoodChoice is not null)
        {
            return Choices.First(c => c.Id == GoodChoice).Title;
        }

        string Tell(decimal bound) => new Figure(Trim(bound * Scale(nominalVolts)), Unit!).ToString();
        return Good switch
        {
            { Of: not null, By: { } by } => $"within {Tell(by)} of the battery",
            { Low: { } low, High: { } high } => $"{Tell(low)} to {Tell(high)}",
            { Colder: not null } cold when celsius < 20 => $"at least {Tell(decimal.Round(cold.LowAt(celsius)!.Value, 1))} at {celsius:0} °C",
            { Low: { } low } => $"at least {Tell(low)}",
            { High: { } high } => $"{Tell(high)} at most",
            _ => "",
        };
    }

    /// <summary>Reads an answer typed or chosen for this question.</summary>
    /// <param name="text">The number as typed, or null.</param>
    /// <param name="choice">The id of the chosen answer, or null.</param>
    /// <param name="nominalVolts">The vehicle's system voltage.</param>
    /// <returns>The figure or choice, or the reason for refusing it.</returns>
    public (Figure? Value, string? Choice, string? Reason) ReadAnswer(string? text, string? choice, decimal nominalVolts)
    {
        if (Unit is null)
        {
            return choice is not null && Choices.Any(c => c.Id == choice)
                ? (null, choice, null)
                : (null, null, $"Choose one: {string.Join(", ", Choices.Select(c => c.Title))}.");
        }

        var parsed = QuantityParser.Read(Unit.Kind, text, Unit);
        return parsed.Figure is not { } figure ? (null, null, parsed.Reason)
            : Doubt(figure, nominalVolts) is { } doubt ? (null, null, doubt)
            : (figure, null, null);
    }

    /// <summary>Why a figure cannot be what was read, with the likeliest slip named; null when it can.</summary>
    public string? Doubt(Figure figure, decimal nominalVolts)
    {
        if (Unit is null || figure.Kind != Unit.Kind)
        {
            return $"{figure} does not answer “{Title}”.";
        }

        if (Plausible is not { } plausible)
        {
            return null;
        }

        bool Fits(decimal value) => value >= Unit.ToBase(plausible.Low) * Scale(nominalVolts) && value <= Unit.ToBase(plausible.High) * Scale(nominalVolts);
        if (Fits(figure.Base))
        {
            return null;
        }

        var where = Unit.Kind == QuantityKind.Voltage ? $"{figure} on a {Trim(nominalVolts)} V system" : figure.ToString();
        var slip = new[] { 0.1m, 0.01m, 0.001m, 10m, -1m }.Where(f => Fits(figure.Base * f)).Select(f => (decimal?)f).FirstOrDefault();
        return slip is { } factor
            ? $"{where} cannot be. Meant {new Figure(Trim(Unit.FromBase(figure.Base * factor)), Unit)}?"
            : $"{where} cannot be: {Trim(plausible.Low * Scale(nominalVolts))} to {new Figure(Trim(plausible.High * Scale(nominalVolts)), Unit)} can.";
    }

    /// <summary>Whether an answer is good, taken at a temperature, °C; null when the question has no good range or needs another reading.</summary>
    public bool? IsGood(Figure? value, string? choice, decimal nominalVolts, Func<string, Figure?> other, double? celsius = null)
    {
        if (GoodChoice is not null)
        {
            return choice == GoodChoice;
        }

        if (value is not { } figure || Good is not { } good || Unit is null)
        {
            return null;
        }

        decimal Bound(decimal bound) => Unit.ToBase(bound) * Scale(nominalVolts);
        if (good.Of is { } of)
        {
            return other(of) is { } compared ? compared.Base - figure.Base <= Bound(good.By ?? 0) : null;
        }

        return (good.LowAt(celsius) is not { } low || figure.Base >= Bound(low)) && (good.High is not { } high || figure.Base <= Bound(high));
    }

    private static decimal Trim(decimal number) => number / 1.000000000000000000000000000000000m;
}
