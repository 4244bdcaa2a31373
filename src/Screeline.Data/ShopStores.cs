using System.Security.Cryptography;
using System.Text;
using Npgsql;

namespace Screeline.Data;

/// <summary>Somebody who works here.</summary>
public sealed record Person(Guid Id, string Name, string Role);

/// <summary>A vehicle of the fleet.</summary>
public sealed record Vehicle(Guid Id, string Name, string Model, string Version, int? Year, decimal NominalVolts);

/// <summary>Thrown when a name that must be unique is taken.</summary>
public sealed class NameTakenException(string name) : Exception($"“{name}” is taken.");

/// <summary>People.</summary>
public sealed class PeopleStore(Database database)
{
    /// <summary>All, by name.</summary>
    public Task<IReadOnlyList<Person>> AllAsync(CancellationToken cancel = default) => database.Memory.GetAsync<IReadOnlyList<Person>>("people", async () =>
    {
        await using var command = database.Command("select id, name, role from people order by name, id");
        return await command.ListAsync(r => new Person(r.GetGuid(0), r.GetString(1), r.GetString(2)), cancel);
    }, cancel);

    /// <summary>Adds a person; one that is there already stays as it is.</summary>
    public async Task AddAsync(Person person, CancellationToken cancel = default)
    {
        await using var command = database.Command("insert into people (id, name, role) values ($1, $2, $3) on conflict (id) do nothing");
        command.With(person.Id, person.Name, person.Role);
        await command.ExecuteNonQueryAsync(cancel);
    }
}

/// <summary>Vehicles.</summary>
public sealed class VehicleStore(Database database)
{
    private const string Columns = "select id, name, model, version, year, nominal_volts from vehicles";

    /// <summary>All, by name.</summary>
    public async Task<IReadOnlyList<Vehicle>> AllAsync(CancellationToken cancel = default)
    {
        await using var command = database.Command($"{Columns} order by name, id");
        return await command.ListAsync(Read, cancel);
    }

    /// <summary>One, or null.</summary>
    public Task<Vehicle?> FindAsync(Guid id, CancellationToken cancel = default) => database.Memory.GetAsync<Vehicle?>($"vehicle {id}", async () =>
    {
        await using var command = database.Command($"{Columns} where id = $1");
        command.With(id);
        return (await command.ListAsync(Read, cancel)).SingleOrDefault();
    }, cancel);

    /// <summary>Adds a vehicle; one with this id that is there already stays as it is.</summary>
    /// <exception cref="NameTakenException">Another vehicle has this name.</exception>
    public async Task AddAsync(Vehicle vehicle, CancellationToken cancel = default)
    {
        await using var command = database.Command("insert into vehicles (id, name, model, version, year, nominal_volts) values ($1, $2, $3, $4, $5, $6) on conflict (id) do nothing");
        command.With(vehicle.Id, vehicle.Name, vehicle.Model, vehicle.Version, (object?)vehicle.Year ?? DBNull.Value, vehicle.NominalVolts);
        try
        {
            await command.ExecuteNonQueryAsync(cancel);
        }
        catch (PostgresException e) when (e.ConstraintName == "vehicles_by_name")
        {
            throw new NameTakenException(vehicle.Name);
        }
    }

    private static Vehicle Read(NpgsqlDataReader r) =>
        new(r.GetGuid(0), r.GetString(1), r.GetString(2), r.GetString(3), r.IsDBNull(4) ? null : r.GetInt32(4), r.GetDecimal(5));
}

/// <summary>Tools the shop owns, by the library's tool ids.</summary>
public sealed class ToolStore(Database database)
{
    /// <summary>All ids.</summary>
    public Task<IReadOnlySet<string>> OwnedAsync(CancellationToken cancel = default) => database.Memory.GetAsync<IReadOnlySet<string>>("tools owned", async () =>
    {
        await using var command = database.Command("select tool from tools_owned");
        return (await command.ListAsync(r => r.GetString(0), cancel)).ToHashSet(StringComparer.Ordinal);
    }, cancel);

    /// <summary>When the owned ones were last calibrated; those nobody knows of are left out.</summary>
    public Task<IReadOnlyDictionary<string, DateOnly>> CalibrationsAsync(CancellationToken cancel = default) => database.Memory.GetAsync<IReadOnlyDictionary<string, DateOnly>>("calibrations", async () =>
    {
        await using var command = database.Command("select tool, calibrated_on from tools_owned where calibrated_on is not null");
        return (await command.ListAsync(r => (r.GetString(0), r.GetFieldValue<DateOnly>(1)), cancel)).ToDictionary(x => x.Item1, x => x.Item2, StringComparer.Ordinal);
    }, cancel);

    /// <summary>Says when an owned tool was last calibrated; null when nobody knows.</summary>
    public async Task CalibratedAsync(string tool, DateOnly? on, CancellationToken cancel = default)
    {
        await using var command = database.Command("update tools_owned set calibrated_on = $2 where tool = $1");
        command.With(tool, (object?)on ?? DBNull.Value);
        await command.ExecuteNonQueryAsync(cancel);
    }

    /// <summary>Replaces the list by another; what stays keeps its calibration.</summary>
    public async Task SetAsync(IReadOnlyCollection<string> tools, CancellationToken cancel = default)
    {
        await using var connection = await database.OpenAsync(cancel);
        await using var transaction = await connection.BeginTransactionAsync(cancel);
        await using (var gone = new NpgsqlCommand("delete from tools_owned where not tool = any($1)", connection, transaction).With((object)tools.ToArray()))
        {
            await gone.ExecuteNonQueryAsync(cancel);
        }

        await using (var added = new NpgsqlCommand("insert into tools_owned (tool) select unnest($1) on conflict do nothing", connection, transaction).With((object)tools.ToArray()))
        {
            await added.ExecuteNonQueryAsync(cancel);
        }

        await transaction.CommitAsync(cancel);
    }
}

/// <summary>Texts and pictures by the SHA-256 of their content.</summary>
public sealed class DocumentStore(Database database)
{
    /// <summary>Keeps a text and tells its hash (lower-case hex). Keeping it again changes nothing.</summary>
    public Task<string> KeepAsync(string text, string mediaType, CancellationToken cancel = default) => KeepAsync(Encoding.UTF8.GetBytes(text), mediaType, cancel);

    /// <summary>A document by its hash, or null.</summary>
    public async Task<(string MediaType, byte[] Content)?> FindAsync(string sha256, CancellationToken cancel = default)
    {
        await using var command = database.Command("select media_type, content from documents where sha256 = $1").With(sha256);
        var found = await command.ListAsync(r => (r.GetString(0), r.GetFieldValue<byte[]>(1)), cancel);
        return found is [var one, ..] ? one : null;
    }

    /// <summary>Keeps bytes and tells their hash (lower-case hex). Keeping them again changes nothing.</summary>
    public async Task<string> KeepAsync(byte[] content, string mediaType, CancellationToken cancel = default)
    {
        var hash = Convert.ToHexStringLower(SHA256.HashData(content));
        await using var command = database.Command("insert into documents (sha256, media_type, content) values ($1, $2, $3) on conflict do nothing").With(hash, mediaType, content);
        await command.ExecuteNonQueryAsync(cancel);
        return hash;
    }
}

/// <summary>Choices of the shop in words, by name.</summary>
public sealed class ShopChoiceStore(Database database)
{
    /// <summary>Where and with what work was last planned: "ground", "lift", with " power" when power tools are at hand.</summary>
    public const string Workplace = "workplace";

    /// <summary>How the tray is laid.</summary>
    public const string Tray = "tray";

    /// <summary>A choice, or null.</summary>
    public Task<string?> FindAsync(string name, CancellationToken cancel = default) => database.Memory.GetAsync<string?>($"choice {name}", async () =>
    {
        await using var command = database.Command("select value from shop_choices where name = $1").With(name);
        return (string?)await command.ExecuteScalarAsync(cancel);
    }, cancel);

    /// <summary>Makes a choice.</summary>
    public async Task SetAsync(string name, string value, CancellationToken cancel = default)
    {
        await using var command = database.Command("insert into shop_choices (name, value) values ($1, $2) on conflict (name) do update set value = excluded.value").With(name, value);
        await command.ExecuteNonQueryAsync(cancel);
    }
}

/// <summary>What this installation holds.</summary>
public sealed class InstallationStore(Database database)
{
    /// <summary>"demo", "own", or null when it is new.</summary>
    public async Task<string?> KindAsync(CancellationToken cancel = default)
    {
        await using var command = database.Command("select kind from installation");
        return (string?)await command.ExecuteScalarAsync(cancel);
    }

    /// <summary>Says what it holds, once and for all.</summary>
    public async Task MarkAsync(string kind, CancellationToken cancel = default)
    {
        await using var command = database.Command("insert into installation (kind) values ($1) on conflict do nothing").With(kind);
        await command.ExecuteNonQueryAsync(cancel);
    }
}

/// <summary>Keys that sign cookies and forms, so that several processes, and a process started again, read each other's.</summary>
public sealed class KeyStore(Database database)
{
    /// <summary>All keys as XML.</summary>
    public IReadOnlyList<string> All()
    {
        using var command = database.Command("select xml from data_protection_keys order by created_at, name");
        using var reader = command.ExecuteReader();
        var keys = new List<string>();
        while (reader.Read())
        {
            keys.Add(reader.GetString(0));
        }

        return keys;
    }

    /// <summary>Adds a key.</summary>
    public void Add(string name, string xml)
    {
        using var command = database.Command("insert into data_protection_keys (name, xml) values ($1, $2) on conflict do nothing").With(name, xml);
        command.ExecuteNonQuery();
    }
}
