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
