namespace Screeline.Core.Quantities;

/// <summary>A tightening torque in newton metres.</summary>
/// <param name="NewtonMetres">The value; may be negative where the quantity may (a drop measured the wrong way round).</param>
public readonly record struct Torque(decimal NewtonMetres) : IQuantity<Torque>, IComparable<Torque>
{
    /// <inheritdoc/>
    public static QuantityKind Kind => QuantityKind.Torque;

    /// <inheritdoc/>
    public static Torque FromBase(decimal value) => new(value);

    /// <inheritdoc/>
    public decimal Base => NewtonMetres;

    /// <inheritdoc/>
    public int CompareTo(Torque other) => NewtonMetres.CompareTo(other.NewtonMetres);

    /// <summary>The sum.</summary>
    public static Torque operator +(Torque a, Torque b) => new(a.NewtonMetres + b.NewtonMetres);

    /// <summary>The difference.</summary>
    public static Torque operator -(Torque a, Torque b) => new(a.NewtonMetres - b.NewtonMetres);
}

/// <summary>A voltage in volts.</summary>
/// <param name="Volts">The value; may be negative where the quantity may (a drop measured the wrong way round).</param>
public readonly record struct Voltage(decimal Volts) : IQuantity<Voltage>, IComparable<Voltage>
{
    /// <inheritdoc/>
    public static QuantityKind Kind => QuantityKind.Voltage;

    /// <inheritdoc/>
    public static Voltage FromBase(decimal value) => new(value);

    /// <inheritdoc/>
    public decimal Base => Volts;

    /// <inheritdoc/>
    public int CompareTo(Voltage other) => Volts.CompareTo(other.Volts);

    /// <summary>The sum.</summary>
    public static Voltage operator +(Voltage a, Voltage b) => new(a.Volts + b.Volts);

    /// <summary>The difference.</summary>
    public static Voltage operator -(Voltage a, Voltage b) => new(a.Volts - b.Volts);
}

/// <summary>A current in amperes.</summary>
/// <param name="Amperes">The value; may be negative where the quantity may (a drop measured the wrong way round).</param>
public readonly record struct Current(decimal Amperes) : IQuantity<Current>, IComparable<Current>
{
    /// <inheritdoc/>
    public static QuantityKind Kind => QuantityKind.Current;

    /// <inheritdoc/>
    public static Current FromBase(decimal value) => new(value);

    /// <inheritdoc/>
    public decimal Base => Amperes;

    /// <inheritdoc/>
    public int CompareTo(Current other) => Amperes.CompareTo(other.Amperes);

    /// <summary>The sum.</summary>
    public static Current operator +(Current a, Current b) => new(a.Amperes + b.Amperes);

    /// <summary>The difference.</summary>
    public static Current operator -(Current a, Current b) => new(a.Amperes - b.Amperes);
}

/// <summary>A resistance in ohms.</summary>
/// <param name="Ohms">The value; may be negative where the quantity may (a drop measured the wrong way round).</param>
public readonly record struct Resistance(decimal Ohms) : IQuantity<Resistance>, IComparable<Resistance>
{
    /// <inheritdoc/>
    public static QuantityKind Kind => QuantityKind.Resistance;

    /// <inheritdoc/>
    public static Resistance FromBase(decimal value) => new(value);

    /// <inheritdoc/>
    public decimal Base => Ohms;

    /// <inheritdoc/>
    public int CompareTo(Resistance other) => Ohms.CompareTo(other.Ohms);

    /// <summary>The sum.</summary>
    public static Resistance operator +(Resistance a, Resistance b) => new(a.Ohms + b.Ohms);

    /// <summary>The difference.</summary>
    public static Resistance operator -(Resistance a, Resistance b) => new(a.Ohms - b.Ohms);
}

/// <summary>A temperature in degrees Celsius.</summary>
/// <param name="DegreesCelsius">The value; may be negative where the quantity may (a drop measured the wrong way round).</param>
public readonly record struct Temperature(decimal DegreesCelsius) : IQuantity<Temperature>, IComparable<Temperature>
{
    /// <inheritdoc/>
    public static QuantityKind Kind => QuantityKind.Temperature;

    /// <inheritdoc/>
    public static Temperature FromBase(decimal value) => new(value);

    /// <inheritdoc/>
    public decimal Base => DegreesCelsius;

    /// <inheritdoc/>
    public int CompareTo(Temperature other) => DegreesCelsius.CompareTo(other.DegreesCelsius);
}

/// <summary>A length of time in minutes.</summary>
/// <param name="Minutes">The value; may be negative where the quantity may (a drop measured the wrong way round).</param>
public readonly record struct Duration(decimal Minutes) : IQuantity<Duration>, IComparable<Duration>
{
    /// <inheritdoc/>
    public static QuantityKind Kind => QuantityKind.Duration;

    /// <inheritdoc/>
    public static Duration FromBase(decimal value) => new(value);

    /// <inheritdoc/>
    public decimal Base => Minutes;

    /// <inheritdoc/>
    public int CompareTo(Duration other) => Minutes.CompareTo(other.Minutes);

    /// <summary>The sum.</summary>
    public static Duration operator +(Duration a, Duration b) => new(a.Minutes + b.Minutes);

    /// <summary>The difference.</summary>
    public static Duration operator -(Duration a, Duration b) => new(a.Minutes - b.Minutes);
}

/// <summary>A length in millimetres.</summary>
/// <param name="Millimetres">The value; may be negative where the quantity may (a drop measured the wrong way round).</param>
public readonly record struct Length(decimal Millimetres) : IQuantity<Length>, IComparable<Length>
{
    /// <inheritdoc/>
    public static QuantityKind Kind => QuantityKind.Length;

    /// <inheritdoc/>
    public static Length FromBase(decimal value) => new(value);

    /// <inheritdoc/>
    public decimal Base => Millimetres;

    /// <inheritdoc/>
    public int CompareTo(Length other) => Millimetres.CompareTo(other.Millimetres);

    /// <summary>The sum.</summary>
    public static Length operator +(Length a, Length b) => new(a.Millimetres + b.Millimetres);

    /// <summary>The difference.</summary>
    public static Length operator -(Length a, Length b) => new(a.Millimetres - b.Millimetres);
}

/// <summary>An amount of money in the shop's own currency.</summary>
/// <param name="Amount">The value; may be negative where the quantity may (a drop measured the wrong way round).</param>
public readonly record struct Money(decimal Amount) : IQuantity<Money>, IComparable<Money>
{
    /// <inheritdoc/>
    public static QuantityKind Kind => QuantityKind.Money;

    /// <inheritdoc/>
    public static Money FromBase(decimal value) => new(value);

    /// <inheritdoc/>
    public decimal Base => Amount;

    /// <inheritdoc/>
    public int CompareTo(Money other) => Amount.CompareTo(other.Amount);

    /// <summary>The sum.</summary>
    public static Money operator +(Money a, Money b) => new(a.Amount + b.Amount);

    /// <summary>The difference.</summary>
    public static Money operator -(Money a, Money b) => new(a.Amount - b.Amount);
}
