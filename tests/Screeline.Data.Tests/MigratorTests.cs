using Npgsql;

namespace Screeline.Data.Tests;

/// <summary>Making a database ready, and the stores beside jobs.</summary>
public sealed class MigratorTests(TestDatabase db)
{
    [Fact]
    public async Task Migrating_twice_and_at_once_changes_nothing()
    {
        var owner = await TestDatabase.CreateAsync();
        await Task.WhenAll(Enumerable.Range(0, 3).Select(_ => Migrator.MigrateAsync(owner)));
        await Migrator.MigrateAsync(owner);
        await using var database = new Database(owner, "screeline_app");
        Assert.Null(await database.NotReadyAsync());
    }

    [Fact]
    public async Task An_empty_database_is_not_ready_and_says_why()
    {
        await using var database = new Database(await TestDatabase.CreateAsync());
        Assert.Contains("not migrated", await database.NotReadyAsync(), StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_newer_database_is_left_alone()
    {
        var owner = await TestDatabase.CreateAsync();
        await Migrator.MigrateAsync(owner);
        await using (var connection = new NpgsqlConnection(owner))
        {
            await connection.OpenAsync();
            await using var newer = new NpgsqlCommand("insert into schemaversions (scriptname, applied) values ('9999-later.sql', now())", connection);
            await newer.ExecuteNonQueryAsync();
        }

        Assert.Contains("newer than this program", (await Assert.ThrowsAsync<DatabaseNotReadyException>(() => Migrator.MigrateAsync(owner))).Message, StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("Host=127.0.0.1;Port=1;Database=x;Username=x;Password=x;Timeout=2")]
    public async Task An_unreachable_database_is_told_in_one_line(string connection)
    {
        var told = await Assert.ThrowsAsync<DatabaseNotReadyException>(() => Migrator.MigrateAsync(connection));
        Assert.Contains("cannot be reached", told.Message, StringComparison.Ordinal);
        Assert.DoesNotContain('\n', told.Message);
        await using var database = new Database(connection);
        Assert.Contains("does not answer", await database.NotReadyAsync(), StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_vehicles_name_is_taken_once()
    {
        var store = new VehicleStore(db.Database);
        await Assert.ThrowsAsync<NameTakenException>(() => store.AddAsync(TestDatabase.Van with { Id = Guid.NewGuid(), Name = "TIDEWAY 3" }));
        Assert.Equal(TestDatabase.Van, await store.FindAsync(TestDatabase.Van.Id));
    }

    [Fact]
    public async Task Tools_are_replaced_as_a_whole()
    {
        var store = new ToolStore(db.Database);
        await store.SetAsync(["a", "b"]);
        await store.SetAsync(["b", "c"]);
        Assert.Equal(["b", "c"], (await store.OwnedAsync()).Order());
    }

    [Fact]
    public async Task A_document_is_named_by_its_content_and_kept_once()
    {
        var store = new DocumentStore(db.Database);
        Assert.Equal(TestDatabase.Map.Hash, await store.KeepAsync(TestDatabase.Map.Json, "application/json"));
        Assert.Equal(TestDatabase.Map.Hash, await store.KeepAsync(TestDatabase.Map.Json, "application/json"));
        Assert.Equal(1, await db.ScalarAsync<long>($"select count(*) from documents where sha256 = '{TestDatabase.Map.Hash}'"));
    }

    [Fact]
    public void Keys_are_read_back()
    {
        var store = new KeyStore(db.Database);
        store.Add("k", "<key/>");
        store.Add("k", "<other/>");
        Assert.Contains("<key/>", store.All());
    }

    [Fact]
    public async Task An_installation_says_once_what_it_holds()
    {
        var store = new InstallationStore(db.Database);
        Assert.Null(await store.KindAsync());
        await store.MarkAsync("own");
        await store.MarkAsync("demo");
        Assert.Equal("own", await store.KindAsync());
    }
}
