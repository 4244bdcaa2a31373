using System.Diagnostics;
using Npgsql;

namespace Screeline.Web.Tests;

/// <summary>What an operator types when the worst has happened: backup, restore and check, on a PostgreSQL elsewhere.</summary>
public sealed class RunScriptTests : IAsyncLifetime
{
    private readonly Site _site = new();
    private readonly string _folder = Directory.CreateTempSubdirectory("screeline-run-").FullName;

    // The demo, with nobody on it: a database changes places only when it is let go.
    public async ValueTask InitializeAsync()
    {
        await _site.InitializeAsync();
        await _site.KillAsync();
    }

    public async ValueTask DisposeAsync()
    {
        await _site.DisposeAsync();
        Directory.Delete(_folder, true);
    }

    [Fact]
    public async Task What_was_backed_up_comes_back_and_what_was_there_is_kept_beside_it()
    {
        var file = Path.Combine(_folder, "shop.backup");
        var entries = await _site.ScalarAsync<long>("select count(*) from entries");
        Assert.Contains("Backup: ", (await RunAsync(0, "backup", file)), StringComparison.Ordinal);
        // It holds password hashes.
        Assert.True(OperatingSystem.IsWindows() || File.GetUnixFileMode(file) == (UnixFileMode.UserRead | UnixFileMode.UserWrite));
        var first = await File.ReadAllBytesAsync(file);
        Assert.Contains("is there already", await RunAsync(1, "backup", file), StringComparison.Ordinal);
        Assert.Equal(first, await File.ReadAllBytesAsync(file));

        await _site.ScalarAsync<string>("insert into shop_figures (name, value) values ('afterwards', 1) returning name");
        Assert.Contains("Restored from", await RunAsync(0, "restore", file), StringComparison.Ordinal);
        Assert.Equal(0L, await _site.ScalarAsync<long>("select count(*) from shop_figures where name = 'afterwards'"));
        Assert.Equal(entries, await _site.ScalarAsync<long>("select count(*) from entries"));
        var database = new NpgsqlConnectionStringBuilder(_site.Owner).Database;
        var before = await _site.ScalarAsync<string>($"select datname from pg_database where datname like '{database}_before_%'");
        await using (var connection = new NpgsqlConnection(new NpgsqlConnectionStringBuilder(_site.Owner) { Database = before, Pooling = false }.ConnectionString))
        {
            await connection.OpenAsync();
            await using var command = new NpgsqlCommand("select count(*) from shop_figures where name = 'afterwards'", connection);
            Assert.Equal(1L, await command.ExecuteScalarAsync());
        }

        // It serves as before.
        await _site.StartAsync();
    }

    [Fact]
    public async Task What_is_no_backup_or_not_whole_changes_nothing()
    {
        var (junk, broken) = (Path.Combine(_folder, "junk"), Path.Combine(_folder, "broken.backup"));
        await File.WriteAllTextAsync(junk, "not a backup");
        Assert.Contains("Nothing was changed", await RunAsync(1, "restore", junk), StringComparison.Ordinal);
        Assert.Contains("Whole: ", await RunAsync(0, "check"), StringComparison.Ordinal);

        // A record that somebody with the owner's password wrote anew: backed up as it is, seen by the check, and never put in place of another.
        await _site.ScalarAsync<int>("update entries set body = convert_to(replace(convert_from(body, 'UTF8'), 'clicks', 'hums'), 'UTF8') where position = 1 and convert_from(body, 'UTF8') like '%clicks%' returning position");
        await RunAsync(1, "check");
        await RunAsync(0, "backup", broken);
        await _site.ScalarAsync<string>("insert into shop_figures (name, value) values ('stays', 1) returning name");
        Assert.Contains("Nothing was changed", await RunAsync(1, "restore", broken), StringComparison.Ordinal);
        Assert.Equal(1L, await _site.ScalarAsync<long>("select count(*) from shop_figures where name = 'stays'"));
        var database = new NpgsqlConnectionStringBuilder(_site.Owner).Database;
        Assert.Equal(1L, await _site.ScalarAsync<long>($"select count(*) from pg_database where datname like '{database}%'"));
    }

    private async Task<string> RunAsync(int expected, params string[] arguments)
    {
        NpgsqlConnection.ClearAllPools();
        var start = new ProcessStartInfo(Site.InTree("run")) { RedirectStandardOutput = true, RedirectStandardError = true };
        arguments.ToList().ForEach(start.ArgumentList.Add);
        start.Environment["SCREELINE_DB"] = _site.Owner;
        using var process = Process.Start(start)!;
        var (told, faults) = (process.StandardOutput.ReadToEndAsync(), process.StandardError.ReadToEndAsync());
        await process.WaitForExitAsync(new CancellationTokenSource(TimeSpan.FromMinutes(3)).Token);
        var all = await told + await faults;
        Assert.True(process.ExitCode == expected, $"./run {string.Join(' ', arguments)}: {process.ExitCode}\n{all}");
        return all;
    }
}
