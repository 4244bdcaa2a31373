using DbUp;
using DbUp.Engine.Output;
using Npgsql;

namespace Screeline.Data;

/// <summary>Why the database could not be made ready, in one line that says what to do.</summary>
public sealed class DatabaseNotReadyException(string message, Exception? inner = null) : Exception(message, inner);

/// <summary>Brings a database to the schema this program knows.</summary>
public static class Migrator
{
    // Any number will do as long as no other program takes the same advisory lock in this database.
    private const long Lock = 0x5C4EE11;

    /// <summary>Names of the migrations this program knows, in order.</summary>
    public static IReadOnlyList<string> Known { get; } =
        [.. typeof(Migrator).Assembly.GetManifestResourceNames().Where(n => n.EndsWith(".sql", StringComparison.Ordinal)).Order(StringComparer.Ordinal)];

    /// <summary>Runs what has not run yet, one process at a time. Touches nothing when the database is newer than this program.</summary>
    /// <param name="owner">Connection of the role that owns, or will own, the tables.</param>
    /// <param name="cancel">Stops waiting.</param>
    /// <exception cref="DatabaseNotReadyException">It cannot be reached, is newer than this program, or a migration failed.</exception>
    public static async Task MigrateAsync(string owner, CancellationToken cancel = default)
    {
        await using var connection = new NpgsqlConnection(owner);
        try
        {
            await connection.OpenAsync(cancel);
            await ExecuteAsync(connection, $"select pg_advisory_lock({Lock})", cancel);
        }
        catch (Exception e) when (e is NpgsqlException or TimeoutException or ArgumentException or System.Net.Sockets.SocketException)
        {
            throw new DatabaseNotReadyException($"The database cannot be reached ({e.Message.ReplaceLineEndings(" ")}). Check SCREELINE_DB and that the server runs.", e);
        }

        try
        {
            var applied = await AppliedAsync(connection, cancel);
            if (applied.FirstOrDefault(name => !Known.Contains(name)) is { } unknown)
            {
                throw new DatabaseNotReadyException($"The database is newer than this program (it has {unknown}). Start the newer program, or restore an older backup.");
            }

            var result = DeployChanges.To.PostgresqlDatabase(owner)
                .WithScriptsEmbeddedInAssembly(typeof(Migrator).Assembly)
                .WithTransactionPerScript()
                .WithVariablesDisabled()
                .LogTo(new Silent())
                .Build().PerformUpgrade();
            if (!result.Successful)
            {
                throw new DatabaseNotReadyException($"Migration {result.ErrorScript?.Name} failed: {Explain(result.Error)}", result.Error);
            }
        }
        finally
        {
            await ExecuteAsync(connection, $"select pg_advisory_unlock({Lock})", CancellationToken.None);
        }
    }

    private static string Explain(Exception error) => error is PostgresException { SqlState: PostgresErrorCodes.InsufficientPrivilege }
        ? "the owner's role may not create roles. Give it CREATEROLE, or create the role screeline_app beforehand."
        : error.Message.ReplaceLineEndings(" ");

    /// <summary>The first migration in the database that this program does not know; null when it knows all.</summary>
    public static async Task<string?> UnknownAsync(string owner, CancellationToken cancel = default)
    {
        await using var connection = new NpgsqlConnection(owner);
        await connection.OpenAsync(cancel);
        return (await AppliedAsync(connection, cancel)).FirstOrDefault(name => !Known.Contains(name));
    }

    /// <summary>Migrations recorded in the database.</summary>
    internal static async Task<IReadOnlyList<string>> AppliedAsync(NpgsqlConnection connection, CancellationToken cancel)
    {
        await using var exists = new NpgsqlCommand("select to_regclass('public.schemaversions') is not null", connection);
        if (await exists.ExecuteScalarAsync(cancel) is not true)
        {
            return [];
        }

        await using var command = new NpgsqlCommand("select scriptname from schemaversions", connection);
        await using var reader = await command.ExecuteReaderAsync(cancel);
        var names = new List<string>();
        while (await reader.ReadAsync(cancel))
        {
            names.Add(reader.GetString(0));
        }

        return names;
    }

    private static async Task ExecuteAsync(NpgsqlConnection connection, string sql, CancellationToken cancel)
    {
        await using var command = new NpgsqlCommand(sql, connection);
        await command.ExecuteNonQueryAsync(cancel);
    }

    // What goes wrong is in the result; a running commentary helps nobody.
    private sealed class Silent : IUpgradeLog
    {
        public void LogTrace(string format, params object[] args) { }
        public void LogDebug(string format, params object[] args) { }
        public void LogInformation(string format, params object[] args) { }
        public void LogWarning(string format, params object[] args) { }
        public void LogError(string format, params object[] args) { }
        public void LogError(Exception ex, string format, params object[] args) { }
    }
}
