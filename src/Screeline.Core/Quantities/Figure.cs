using System.Globalization;

namespace Screeline.Core.Quantities;

/// <summary>
/// A number with its unit exactly as somebody stated it: read off a meter, typed, or printed in a specification. It is kept
/// unaltered; a conversion is always a second figure beside it.
/// </summary>
/// <param name="Number">The number as stated.</param>
/// <param name="Unit">The unit as stated.</param>
public readonly record struct Figure(decimal Number, Unit Unit)
{
    /// <summary>What kind of quantity this is.</summary>
    public QuantityKind Kind => Unit.Kind;

    /// <summary>The value in the base unit of its kind.</summary>
    public decimal Base => Unit.ToBase(Number);

    /// <summary>The typed quantity.</summary>
    /// <exception cref="QuantityException">The figure is of another kind.</exception>
    public T As<T>() where T : struct, IQuantity<T> =>
        T.Kind == Kind ? T.FromBase(Base) : throw new QuantityException($"{this} is a {Kind.ToString().ToLowerInvariant()}, not a {T.Kind.ToString().ToLowerInvariant()}.");

    /// <summary>The same value in another unit of the same kind, unrounded.</summary>
    /// <exception cref="QuantityException">The unit is of another kind.</exception>
    public Figure In(Unit other) =>
        other.Kind == Kind ? new Figure(other.FromBase(Base), other) : throw new QuantityException($"{this} cannot be told in {other}.");

    /// <summary>
    /// The figure as printed: the number as stated (no digits added or dropped) and the unit, for example "12.4 V".
    /// </summary>
    public override string ToString() => Print(Number, Unit);

    /// <summary>The figure in another unit, rounded to the digits that are worth reading in it, for example "16.2 lbf·ft".</summary>
    public string Format(Unit other)
    {
        var converted = In(other).Number;
        // Small values would round to nothing at the unit's usual digits: keep three that count.
        var decimals = other.Decimals;
        while (converted != 0 && decimals < 6 && Math.Abs(converted) < Power(1 - decimals))
        {
            decimals++;
        }

        return Print(Normal(Math.Round(converted, decimals, MidpointRounding.AwayFromZero)), other);
    }

    private static decimal Power(int exponent) => exponent >= 0 ? (decimal)Math.Pow(10, exponent) : 1m / (decimal)Math.Pow(10, -exponent);

    private static decimal Normal(decimal number) => number / 1.000000000000000000000000000000000m;

    /// <summary>From so many ohms on a resistance is open: more than an ordinary meter tells.</summary>
    public const decimal OpenFrom = 10_000_000m;

    private static string Print(decimal number, Unit unit)
    {
        if (unit.Kind == QuantityKind.Resistance && unit.ToBase(number) >= OpenFrom)
        {
            return "open";
        }

        var digits = number.ToString(CultureInfo.InvariantCulture);
        return unit.Symbol.Length == 0 ? digits : $"{digits} {unit.Symbol}";
    }
}

/// <summary>Thrown when quantities of different kinds are mixed or a quantity is refused.</summary>
public sealed class QuantityException(string message) : Exception(message);

/// <summary>One kind of quantity as a type of its own, so that the compiler keeps kinds apart.</summary>
/// <typeparam name="TSelf">The quantity itself.</typeparam>
public interface IQuantity<TSelf> where TSelf : struct, IQuantity<TSelf>
{
    /// <summary>The kind.</summary>
    static abstract QuantityKind Kind { get; }

    /// <summary>Makes the quantity from a value in the base unit of its kind.</summary>
    static abstract TSelf FromBase(decimal value);

    /// <summary>The value in the base unit of the kind.</summary>
    decimal Base { get; }
}
