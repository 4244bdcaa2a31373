namespace Screeline.Core.Access;

/// <summary>
/// What must be open or done: nothing, one operation, all of a list, or any of a list, nested freely and without negation.
/// </summary>
public abstract record Needs
{
    /// <summary>Nothing is needed.</summary>
    public static readonly Needs Nothing = new All([]);

    /// <summary>True when the needs are met by what is open or done.</summary>
    public abstract bool Hold(Func<string, bool> openOrDone);

    /// <summary>Every operation named anywhere inside.</summary>
    public abstract IEnumerable<string> Names { get; }

    /// <summary>One operation.</summary>
    public sealed record One(string Operation) : Needs
    {
        /// <inheritdoc/>
        public override bool Hold(Func<string, bool> openOrDone) => openOrDone(Operation);
        /// <inheritdoc/>
        public override IEnumerable<string> Names => [Operation];
    }

    /// <summary>All of a list; the empty list is always met.</summary>
    public sealed record All(IReadOnlyList<Needs> Of) : Needs
    {
        /// <inheritdoc/>
        public override bool Hold(Func<string, bool> openOrDone) => Of.All(n => n.Hold(openOrDone));
        /// <inheritdoc/>
        public override IEnumerable<string> Names => Of.SelectMany(n => n.Names);
    }

    /// <summary>Any of a list, which is never empty.</summary>
    public sealed record Any(IReadOnlyList<Needs> Of) : Needs
    {
        /// <inheritdoc/>
        public override bool Hold(Func<string, bool> openOrDone) => Of.Any(n => n.Hold(openOrDone));
        /// <inheritdoc/>
        public override IEnumerable<string> Names => Of.SelectMany(n => n.Names);
    }
}
