namespace Screeline.Core.Access.Planning;

/// <summary>How long a search may go on, and how much it may keep in mind.</summary>
internal sealed class Clock(TimeSpan budget, CancellationToken stop)
{
    private const int MostStates = 300_000;

    private readonly long _end = Environment.TickCount64 + (long)budget.TotalMilliseconds;

    /// <summary>Whether the search must end.</summary>
    public bool IsOut => Environment.TickCount64 >= _end || stop.IsCancellationRequested;

    /// <summary>Whether so many states may still be kept in mind.</summary>
    public static bool Room(int states) => states < MostStates;
}
