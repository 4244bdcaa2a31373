using Npgsql;
using Screeline.Core.Jobs;
using Screeline.Library;

[assembly: AssemblyFixture(typeof(Screeline.Data.Tests.TestDatabase))]

namespace Screeline.Data.Tests;

/// <summary>A migrated database of its own on the PostgreSQL that ./test started; SCREELINE_TEST_DB says where.</summary>
public class TestDatabase : IAsyncLifetime
{
    public static readonly ShippedLibrary Library = ShippedLibrary.Load();
    public static readonly ShippedMap Map = Library.MapsFor("starting", "Brannock Tideway")[0];
    public static readonly Guid Ansa = new("5c0a0000-0000-4000-8000-000000000001");
    public static readonly Guid Bram = new("5c0a0000-0000-4000-8000-000000000002");
    public static readonly Vehicle Van = new(new("7e1c0000-0000-4000-8000-000000000001"), "Tideway 3", "Brannock Tideway", "2.2 diesel", 2033, 12);

    /// <summary>Connection of the owner, who may do everything.</summary>
    public string Owner { get; private set; } = "";

    public Database Database { get; private set; } = null!;

    public JobStore Jobs { get; private set; } = null!;

    public async ValueTask InitializeAsync()
    {
        Owner = await OwnerOfNewAsync();
        Database = new Database(Owner, "screeline_app");
        Jobs = new JobStore(Database, new Families(Library));
        await new PeopleStore(Database).AddAsync(new Person(Bram, "Bram Quillow", "technician"));
    }

    public async ValueTask DisposeAsync()
    {
        await Database.DisposeAsync();
        GC.SuppressFinalize(this);
    }

    /// <summary>Creates an empty database and tells its connection string.</summary>
    public static async Task<string> CreateAsync()
    {
        var server = Environment.GetEnvironmentVariable("SCREELINE_TEST_DB") ?? throw new InvalidOperationException("SCREELINE_TEST_DB is not set: start the tests with ./test.");
        var name = $"test_{Guid.NewGuid():N}";
        await using var connection = new NpgsqlConnection(server);
        await connection.OpenAsync();
        await using var create = new NpgsqlCommand($"create database {name}", connection);
        await create.ExecuteNonQueryAsync();
        return new NpgsqlConnectionStringBuilder(server) { Database = name }.ConnectionString;
    }

    /// <summary>Makes a database with a technician, a vehicle and its map, and tells its connection string.</summary>
    public static async Task<string> OwnerOfNewAsync()
    {
        var owner = await CreateAsync();
        await Migrator.MigrateAsync(owner);
        await using var database = new Database(owner, "screeline_app");
        await new PeopleStore(database).AddAsync(new Person(Ansa, "Ansa Tollard", "technician"));
        await new VehicleStore(database).AddAsync(Van);
        await new DocumentStore(database).KeepAsync(Map.Json, "application/json");
        return owner;
    }

    public async Task<(Guid Id, long Number)> OpenJobAsync()
    {
        var id = Guid.NewGuid();
        var number = await Jobs.OpenAsync(new EntryDraft(Guid.NewGuid(), id, 0, Ansa, DateTimeOffset.Now, new JobOpened(Van.Id, Van.Name, Van.Model, 12, "starting", "It only clicks", null)), Ansa);
        return (id, number);
    }

    public async Task<AppendResult> SayAsync(Guid job, Payload payload, int? basedOn = null, Guid? id = null, OutOfTurn outOfTurn = OutOfTurn.Refuse, Guid? actor = null, DateTimeOffset? at = null) =>
        await Jobs.AppendAsync(job, [new EntryDraft(id ?? Guid.NewGuid(), job, basedOn ?? (await Jobs.FindAsync(job))!.Job.Head, actor ?? Ansa, at ?? DateTimeOffset.Now, payload)], actor ?? Ansa, outOfTurn);

    public async Task<T?> ScalarAsync<T>(string sql)
    {
        await using var connection = new NpgsqlConnection(Owner);
        await connection.OpenAsync();
        await using var command = new NpgsqlCommand(sql, connection);
        return (T?)await command.ExecuteScalarAsync();
    }
}
