namespace Screeline.Core.Access.Planning;

/// <summary>How long a search may go on, and how much it may keep in mind: by time where somebody waits, by work where the same question must have the same answer.</summary>
internal sealed class SearchLimit
{
    private const int MostStates = 300_000;

    private readonly long _end;
    private readonly CancellationToken _stop;
    private long _looks;

    private SearchLimit(long end, long looks, CancellationToken stop) => (_end, _looks, _stop) = (end, looks, stop);

    /// <summary>Ends after a time, or when it is stopped.</summary>
    public static SearchLimit OfTime(TimeSpan budget, CancellationToken stop) => new(Environment.TickCount64 + (long)budget.TotalMilliseconds, long.MaxValue, stop);

    /// <summary>Ends after having been asked so many times, once for each state looked at: the same on every machine, however busy.</summary>
    public static SearchLimit OfWork(long looks) => new(long.MaxValue, looks, CancellationToken.None);

    /// <summary>Asks whether the search must end; each call is a look.</summary>
    public bool IsReached() => --_looks < 0 || (_end != long.MaxValue && Environment.TickCount64 >= _end) || _stop.IsCancellationRequested;

    /// <summary>Whether so many states may still be kept in mind.</summary>
    public static bool Room(int states) => states < MostStates;
}
