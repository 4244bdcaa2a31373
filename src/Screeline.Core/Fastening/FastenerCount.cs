using Screeline.Core.Access;
using Screeline.Core.Jobs;

namespace Screeline.Core.Fastening;

/// <summary>The account of one group of fasteners.</summary>
/// <param name="Step">The operation.</param>
/// <param name="Fastener">The group.</param>
/// <param name="Cell">The tray cell it went into, or null.</param>
/// <param name="Out">Places that were opened.</param>
/// <param name="Back">Old ones in again.</param>
/// <param name="Renewed">New ones in.</param>
/// <param name="Missing">Declared missing.</param>
/// <param name="Refitted">Whether the step was closed again.</param>
/// <param name="InPlace">Loose, but in their holes or by hand on their studs: there, though not in the tray.</param>
/// <param name="Gone">Not in the tray because they broke or were missing on arrival.</param>
public sealed record FastenerAccount(string Step, Fastener Fastener, int? Cell, int Out, int Back, int Renewed, int Missing, bool Refitted, int InPlace = 0, int Gone = 0)
{
    /// <summary>How many lie in the tray cell.</summary>
    public int InCell => Refitted ? 0 : Math.Max(0, Out - InPlace - Gone);

    /// <summary>Names the difference as it is: another number is another difference.</summary>
    public string Key => $"{Step}/{Fastener.Id}:{Unaccounted}";

    /// <summary>Places nobody has accounted for.</summary>
    public int Unaccounted => Out - Back - Renewed - Missing;

    /// <summary>What is unaccounted for, in words.</summary>
    public string Words => $"{Fastener.Words(Unaccounted)} unaccounted for: {Fastener.Holds}.{(Cell is null ? "" : $" Last seen: cell {Cell}.")}";
}

/// <summary>A plug, hose, lead, shield or cover that came off.</summary>
/// <param name="Step">The operation.</param>
/// <param name="Piece">What.</param>
/// <param name="On">Whether its step was closed again.</param>
public sealed record PieceAccount(string Step, PieceOff Piece, bool On);

/// <summary>
/// The count of fasteners: out = in + renewed + declared missing. It counts places: one found empty on arrival is opened all
/// the same, and is either filled or declared missing.
/// </summary>
public sealed record FastenerCount(IReadOnlyList<FastenerAccount> Accounts)
{
    /// <summary>Places opened.</summary>
    public int Out => Accounts.Sum(a => a.Out);
    /// <summary>Old ones in again.</summary>
    public int Back => Accounts.Sum(a => a.Back);
    /// <summary>New ones in.</summary>
    public int Renewed => Accounts.Sum(a => a.Renewed);
    /// <summary>Declared missing.</summary>
    public int Missing => Accounts.Sum(a => a.Missing);
    /// <summary>Whether it balances.</summary>
    public bool Balances => Out == Back + Renewed + Missing;
    /// <summary>Groups that were closed again and do not add up, or still lie in the tray.</summary>
    public IReadOnlyList<FastenerAccount> Unaccounted => [.. Accounts.Where(a => a.Unaccounted != 0)];
    /// <summary>What lies in the tray now, by cell.</summary>
    public IReadOnlyList<FastenerAccount> InTray => [.. Accounts.Where(a => a.Cell is not null && a.InCell > 0).OrderBy(a => a.Cell)];

    /// <summary>The lowest tray cell that no step that is off has had: a closing that is undone finds its cell as it left it.</summary>
    public int FreeCell
    {
        get
        {
            var taken = Accounts.Where(a => a.Cell is not null).Select(a => a.Cell!.Value).ToHashSet();
            return Enumerable.Range(1, taken.Count + 1).First(cell => !taken.Contains(cell));
        }
    }

    /// <summary>The account of a job as it stands.</summary>
    public static FastenerCount ForJob(Job job) => new(
    [
        .. from removed in job.Removed.Values
           orderby removed.Entry.Position
           let operation = job.Map![removed.Payload.Step]
           where operation.Kind == OperationKind.Open
           from fastener in job.FastenersOf(operation.Id)
           let refit = job.Refitted.GetValueOrDefault(operation.Id)
           let outcome = refit?.Payload.Fasteners.FirstOrDefault(o => o.Fastener == fastener.Id)
           select new FastenerAccount(operation.Id, fastener, removed.Payload.Cell, fastener.Count, outcome?.Back ?? 0, outcome?.Renewed ?? 0, outcome?.Missing ?? 0, refit is not null,
               job.FoundCount(operation.Id, fastener.Id, FastenerState.StaysInHole) + job.FoundCount(operation.Id, fastener.Id, FastenerState.OnStud),
               job.FoundCount(operation.Id, fastener.Id, FastenerState.Missing) + job.FoundCount(operation.Id, fastener.Id, FastenerState.Broken)),
    ])
    {
        Pieces = [.. from removed in job.Removed.Values
                     orderby removed.Entry.Position
                     from piece in job.Map![removed.Payload.Step].Off
                     select new PieceAccount(removed.Payload.Step, piece, job.Refitted.ContainsKey(removed.Payload.Step))],
    };

    /// <summary>Plugs, hoses, leads, shields and covers that came off.</summary>
    public IReadOnlyList<PieceAccount> Pieces { get; init; } = [];

    /// <summary>
    /// What one would expect to go back: everything that came off; broken ones and one-time ones renewed; places empty on
    /// arrival still empty and declared missing.
    /// </summary>
    public static FastenerOutcome Expected(Job job, string step, Fastener fastener)
    {
        int Found(FastenerState state) => job.FoundCount(step, fastener.Id, state);
        var missing = Math.Min(fastener.Count, Found(FastenerState.Missing));
        var renewed = fastener.Reuse == "renew" ? fastener.Count - missing : Math.Min(fastener.Count - missing, Found(FastenerState.Broken));
        return new FastenerOutcome(fastener.Id, fastener.Count - missing - renewed, renewed, missing);
    }
}
