namespace Screeline.Core.Fastening;

/// <summary>What is known of a part that is exchanged: what to compare, what goes over to the new one, what is on offer.</summary>
/// <param name="Title">The part.</param>
/// <param name="Points">Where old and new are held side by side.</param>
/// <param name="Carried">Pieces of the old one that the new one needs.</param>
/// <param name="Offers">What can be had.</param>
public sealed record PartKnowledge(string Title, IReadOnlyList<ComparePoint> Points, IReadOnlyList<CarriedPiece> Carried, IReadOnlyList<PartOffer> Offers);

/// <summary>Where old and new are held side by side.</summary>
/// <param name="Id">Identifier.</param>
/// <param name="Title">What to look at.</param>
/// <param name="Why">What goes wrong when it differs.</param>
/// <param name="Step">The operation whose fastener the point is about, or null.</param>
/// <param name="Fastener">That fastener; another size found here changes the step's tool.</param>
public sealed record ComparePoint(string Id, string Title, string Why, string? Step, string? Fastener);

/// <summary>A piece that goes over from the old part to the new one.</summary>
public sealed record CarriedPiece(string Id, string Title);

/// <summary>A part on offer.</summary>
/// <param name="Id">Identifier.</param>
/// <param name="Title">What it is.</param>
/// <param name="Kind">"new", "rebuilt" or "aftermarket".</param>
/// <param name="Price">Without the deposit.</param>
/// <param name="Deposit">On the old core, paid back when it returns intact.</param>
/// <param name="WarrantyMonths">Months of warranty.</param>
/// <param name="LifeMonths">Months it is expected to last.</param>
/// <param name="LeadDays">Days until it is here.</param>
public sealed record PartOffer(string Id, string Title, string Kind, decimal Price, decimal Deposit, int WarrantyMonths, int LifeMonths, int LeadDays)
{
    /// <summary>Kinds that are allowed.</summary>
    public static IReadOnlyList<string> Kinds { get; } = ["new", "rebuilt", "aftermarket"];

    /// <summary>
    /// What a year with it costs: price and the labour of putting it in, over the years it is expected to last, never fewer than its warranty. The
    /// deposit comes back and is left out.
    /// </summary>
    public decimal PerYear(decimal labour) => (Price + labour) / (Math.Max(LifeMonths, WarrantyMonths) / 12m);
}
