using Npgsql;

namespace Screeline.Data;

/// <summary>Small helpers over plain ADO.NET.</summary>
internal static class Commands
{
    /// <summary>Adds positional parameters.</summary>
    public static NpgsqlCommand With(this NpgsqlCommand command, params object[] values)
    {
        foreach (var value in values)
        {
            command.Parameters.Add(new NpgsqlParameter { Value = value });
        }

        return command;
    }

    /// <summary>Adds a command with positional parameters to a batch: everything in it goes to the server in one message.</summary>
    public static NpgsqlBatchCommand Add(this NpgsqlBatch batch, string sql, params object[] values)
    {
        var command = new NpgsqlBatchCommand(sql);
        foreach (var value in values)
        {
            command.Parameters.Add(new NpgsqlParameter { Value = value });
        }

        batch.BatchCommands.Add(command);
        return command;
    }

    /// <summary>Reads all rows of the result a reader stands at.</summary>
    public static async Task<List<T>> RowsAsync<T>(this NpgsqlDataReader reader, Func<NpgsqlDataReader, T> read, CancellationToken cancel)
    {
        var rows = new List<T>();
        while (await reader.ReadAsync(cancel))
        {
            rows.Add(read(reader));
        }

        return rows;
    }

    /// <summary>Reads all rows.</summary>
    public static async Task<IReadOnlyList<T>> ListAsync<T>(this NpgsqlCommand command, Func<NpgsqlDataReader, T> read, CancellationToken cancel)
    {
        await using var reader = await command.ExecuteReaderAsync(cancel);
        var rows = new List<T>();
        while (await reader.ReadAsync(cancel))
        {
            rows.Add(read(reader));
        }

        return rows;
    }
}
