using System.Collections.Concurrent;

namespace Screeline.Data;

/// <summary>
/// What the shop knows and seldom changes, in memory as it was last read. It is used only while the database says that nothing of it has changed since,
/// which is one small question instead of many large ones; so processes side by side never show different things.
/// </summary>
/// <remarks>What is kept must not be changed by whoever gets it. The tables it covers are those with the trigger of migration 0007.</remarks>
public sealed class ShopMemory(Database database)
{
    // Some twenty things a vehicle and map; the bound keeps odd requests from filling memory.
    private const int Most = 2000;

    private static readonly AsyncLocal<Look?> Looking = new();
    private readonly ConcurrentDictionary<string, (long Revision, object? Value)> _kept = new(StringComparer.Ordinal);

    /// <summary>
    /// Begins a look that changes nothing, such as the making of one page: within it the database is asked once whether anything has changed. Not for what
    /// goes on for long. Ends when disposed.
    /// </summary>
    public static IDisposable BeginLook() => Looking.Value = new Look();

    /// <summary>What was read before under this name, while it still holds; else what reading it gives.</summary>
    /// <param name="name">Names it with all that it depends on.</param>
    /// <param name="read">Reads it, or works it out from what is in the tables and from what never changes.</param>
    /// <param name="cancel">Stops waiting.</param>
    public async Task<T> GetAsync<T>(string name, Func<Task<T>> read, CancellationToken cancel)
    {
        // Asked before reading: what is read may be newer than its number, never older.
        var revision = await RevisionAsync(cancel);
        if (_kept.TryGetValue(name, out var kept) && kept.Revision == revision)
        {
            return (T)kept.Value!;
        }

        var value = await read();
        if (_kept.Count >= Most)
        {
            _kept.Clear();
        }

        _kept[name] = (revision, value);
        return value;
    }

    private async Task<long> RevisionAsync(CancellationToken cancel)
    {
        if (Looking.Value?.Revision is { } seen)
        {
            return seen;
        }

        await using var command = database.Command("select revision from shop_revision");
        var revision = (long)(await command.ExecuteScalarAsync(cancel))!;
        if (Looking.Value is { } look)
        {
            look.Revision = revision;
        }

        return revision;
    }

    private sealed class Look : IDisposable
    {
        public long? Revision { get; set; }

        public void Dispose() => Looking.Value = null;
    }
}
