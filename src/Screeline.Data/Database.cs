using Npgsql;

namespace Screeline.Data;

/// <summary>The database as the application uses it.</summary>
public sealed class Database : IAsyncDisposable
{
    private readonly NpgsqlDataSource _source;
    private readonly string _listening;

    /// <summary>Prepares connections; none is opened yet.</summary>
    /// <param name="connection">Connection string of the login the application uses.</param>
    /// <param name="asRole">
    /// The role to work as once connected, for a login that could do more; null when the login has only what the application
    /// needs.
    /// </param>
    public Database(string connection, string? asRole = null)
    {
        var builder = new NpgsqlConnectionStringBuilder(connection)
        {
            // "Kept" on a screen means that the commit is on disk, whatever the server's default.
            Options = string.Join(' ', new[] { "-c synchronous_commit=on", asRole is null ? null : $"-c role={asRole}" }.Where(o => o is not null)),
            ApplicationName = "screeline",
            Timeout = 5,
            CommandTimeout = 15,
            MaxPoolSize = 40,
            // The same few statements over and over: planned once a connection.
            MaxAutoPrepare = 60,
            AutoPrepareMinUsages = 2,
            // Nothing here leaves anything behind in a session, so that nothing need be cleared between two uses of a connection.
            NoResetOnClose = true,
        };
        _source = NpgsqlDataSource.Create(builder);
        _listening = new NpgsqlConnectionStringBuilder(builder.ConnectionString) { Pooling = false }.ConnectionString;
        Memory = new ShopMemory(this);
    }

    /// <summary>What the shop knows and seldom changes, as it was last read.</summary>
    public ShopMemory Memory { get; }

    /// <summary>An open connection.</summary>
    public ValueTask<NpgsqlConnection> OpenAsync(CancellationToken cancel = default) => _source.OpenConnectionAsync(cancel);

    /// <summary>Hears which job grew to how many entries, whichever process let it, until the connection breaks or nobody waits any longer.</summary>
    /// <param name="grew">Told for each, as it is committed.</param>
    /// <param name="begun">Told once it listens: what came before was not heard.</param>
    /// <param name="cancel">Ends it.</param>
    public async Task ListenAsync(Action<Guid, int> grew, Action begun, CancellationToken cancel)
    {
        // Its own: one that goes on listening must not be lent to others.
        await using var connection = new NpgsqlConnection(_listening);
        await connection.OpenAsync(cancel);
        connection.Notification += (_, told) =>
        {
            if (told.Payload.Split(' ') is [var id, var position] && Guid.TryParse(id, out var job) && int.TryParse(position, System.Globalization.CultureInfo.InvariantCulture, out var head))
            {
                grew(job, head);
            }
        };
        await using (var listen = new NpgsqlCommand("listen job_grew", connection))
        {
            await listen.ExecuteNonQueryAsync(cancel);
        }

        begun();
        while (true)
        {
            await connection.WaitAsync(cancel);
        }
    }

    /// <summary>Forgets connections that nobody uses: after the server was away they are broken, and each would show it only to whoever got it next.</summary>
    public void ForgetConnections() => _source.Clear();

    /// <summary>A command outside a transaction.</summary>
    public NpgsqlCommand Command(string sql) => _source.CreateCommand(sql);

    /// <summary>Whether the database answers and is migrated to just what this program knows; else why not.</summary>
    public async Task<string?> NotReadyAsync(CancellationToken cancel = default)
    {
        try
        {
            await using var connection = await OpenAsync(cancel);
            var applied = await Migrator.AppliedAsync(connection, cancel);
            return applied.ToHashSet().SetEquals(Migrator.Known) ? null : "The database is not migrated to this version.";
        }
        catch (Exception e) when (IsAway(e))
        {
            return "The database does not answer.";
        }
    }

    /// <summary>Whether an error means that the database is away, so that trying again later can help.</summary>
    public static bool IsAway(Exception error) => error switch
    {
        PostgresException p => p.SqlState.StartsWith("08", StringComparison.Ordinal) || p.SqlState.StartsWith("57P", StringComparison.Ordinal) || p.SqlState.StartsWith("53", StringComparison.Ordinal),
        NpgsqlException => true,
        TimeoutException => true,
        System.Net.Sockets.SocketException => true,
        _ => error.InnerException is { } inner && IsAway(inner),
    };

    /// <inheritdoc/>
    public ValueTask DisposeAsync() => _source.DisposeAsync();
}
