using System.Collections.Concurrent;
using System.Diagnostics;
using System.Globalization;
using System.Net;
using System.Text;
using System.Text.Json;
using Npgsql;
using Screeline.Data;
using Screeline.Web.SignIn;

namespace Screeline.Web.Tests;

/// <summary>
/// SIGKILL while entries are written, ten times each and fifty with ./test --all: what was acknowledged is there, once, and every chain is whole. A writer does what a
/// device does: the same entry with the same id until it is acknowledged.
/// </summary>
public sealed class KillTests
{
    private const int Writers = 3;
    private static readonly int Kills = Site.Everything ? 50 : 10;

    [Fact]
    public async Task The_web_process_killed_while_writing_loses_nothing_it_acknowledged()
    {
        await using var site = new Site();
        await site.InitializeAsync();
        await HoldAsync(site, async () =>
        {
            await site.KillAsync();
            await site.StartAsync();
        });
    }

    [Fact]
    public async Task PostgreSQL_killed_while_writing_loses_nothing_that_was_acknowledged()
    {
        using var cluster = Cluster.Start();
        await using var site = new Site { Server = cluster.Connection };
        await site.InitializeAsync();
        await HoldAsync(site, () =>
        {
            cluster.KillAndStart();
            return Task.CompletedTask;
        });
    }

    private static async Task HoldAsync(Site site, Func<Task> kill)
    {
        var cookie = site.CookieOf(Site.Bram);
        var acknowledged = new ConcurrentDictionary<Guid, int>();
        using var stop = new CancellationTokenSource();
        var writers = Enumerable.Range(0, Writers).Select(w => Task.Run(() => WriteAsync(site.Address, cookie, $"10b00000-0000-4000-8000-{w + 4:D12}", acknowledged, () => site.Log, stop.Token))).ToList();
        var random = new Random(14);
        for (var i = 0; i < Kills; i++)
        {
            // At least one more is acknowledged, so that every kill meets writers at work; then at any moment.
            var before = acknowledged.Count;
            await WaitAsync(writers, () => acknowledged.Count > before, $"nothing was acknowledged after kill {i}");
            await Task.Delay(random.Next(60));
            await kill();
        }

        var last = acknowledged.Count;
        await WaitAsync(writers, () => acknowledged.Count > last, "nothing was acknowledged in the end");
        await stop.CancelAsync();
        await Task.WhenAll(writers);
        await using var connection = new NpgsqlConnection(site.Owner);
        await connection.OpenAsync();
        await using var there = new NpgsqlCommand("select count(*), count(distinct id) from entries where id = any($1)", connection);
        there.Parameters.Add(new NpgsqlParameter { Value = acknowledged.Keys.ToArray() });
        await using (var reader = await there.ExecuteReaderAsync())
        {
            await reader.ReadAsync();
            Assert.Equal(((long)acknowledged.Count, (long)acknowledged.Count), (reader.GetInt64(0), reader.GetInt64(1)));
        }

        Assert.InRange(acknowledged.Count, Kills, int.MaxValue);
        await using var database = new Database(site.Owner);
        var report = await new TrailStore(database).CheckAsync();
        Assert.Null(report.Break);
        TestContext.Current.TestOutputHelper?.WriteLine($"{acknowledged.Count} acknowledged over {Kills} kills; sent again {acknowledged.Values.Sum(t => t - 1)} times; {report.Entries} entries, {report.Links} links whole");
    }

    private static async Task WriteAsync(Uri address, string cookie, string job, ConcurrentDictionary<Guid, int> acknowledged, Func<string> log, CancellationToken stop)
    {
        using var client = new HttpClient { BaseAddress = address, Timeout = TimeSpan.FromSeconds(10) };
        client.DefaultRequestHeaders.Add("Cookie", $"{SignInSetup.Cookie}={cookie}");
        using var told = JsonDocument.Parse(await client.GetStringAsync($"/api/v1/jobs/{job}/entries?after=100000", stop));
        var head = told.RootElement.GetProperty("head").GetInt32();
        while (!stop.IsCancellationRequested)
        {
            var id = Guid.NewGuid();
            var text = JsonSerializer.Serialize(new { id, based_on = head, occurred_at = DateTimeOffset.UtcNow.ToString("yyyy-MM-ddTHH:mm:ss", CultureInfo.InvariantCulture) + "Z", kind = "note-added@1", payload = new { step = (string?)null, text = "written while it was killed" } });
            for (var tries = 1; !stop.IsCancellationRequested; tries++)
            {
                try
                {
                    using var answer = await client.PostAsync($"/api/v1/jobs/{job}/entries", new StringContent(text, Encoding.UTF8, "application/json"), stop);
                    if (answer.StatusCode is HttpStatusCode.Created or HttpStatusCode.OK)
                    {
                        acknowledged[id] = tries;
                        break;
                    }

                    Assert.True(answer.StatusCode is HttpStatusCode.ServiceUnavailable or HttpStatusCode.TooManyRequests, $"{answer.StatusCode}: {log()} {await answer.Content.ReadAsStringAsync(stop)}");
                }
                catch (Exception e) when (e is HttpRequestException or IOException or OperationCanceledException)
                {
                    // Nobody answered: it may have been kept or not. The same again.
                }

                await Task.Delay(15, CancellationToken.None);
            }
        }
    }

    private static async Task WaitAsync(IEnumerable<Task> writers, Func<bool> condition, string otherwise)
    {
        for (var clock = Stopwatch.StartNew(); !condition();)
        {
            if (writers.FirstOrDefault(w => w.IsFaulted) is { } fell)
            {
                await fell;
            }

            Assert.True(clock.Elapsed < TimeSpan.FromSeconds(60), otherwise);
            await Task.Delay(5);
        }
    }

    /// <summary>A PostgreSQL of its own, with its disk taken seriously.</summary>
    private sealed class Cluster : IDisposable
    {
        private readonly string _folder = Directory.CreateTempSubdirectory("screeline-kill-").FullName;
        private readonly int _port = Site.FreePort();
        private readonly string _root = Site.InTree(".");

        public string Connection => $"Host=127.0.0.1;Port={_port};Database=postgres;Username=screeline_owner;Password=killed";

        public static Cluster Start()
        {
            var cluster = new Cluster();
            cluster.Bash($"""
                chmod 755 "{cluster._folder}"; mkdir -p "{cluster._folder}/postgres" "{cluster._folder}/sockets"; chmod 700 "{cluster._folder}/postgres"; touch "{cluster._folder}/postgres.log"
                [ "$(id -u)" = 0 ] && chown postgres "{cluster._folder}/postgres" "{cluster._folder}/postgres.log" "{cluster._folder}/sockets"
                make_cluster "{cluster._folder}/postgres" killed; {cluster.Begin}
                """);
            return cluster;
        }

        // The server and everything it started, at once; then again, with what its log on disk says.
        public void KillAndStart() => Bash($"""
            pid=$(as_postgres head -n 1 "{_folder}/postgres/postmaster.pid"); children=$(pgrep -P "$pid"); kill -KILL "$pid" $children
            while kill -0 "$pid" 2>/dev/null || [ -n "$(for c in $children; do kill -0 "$c" 2>/dev/null && echo "$c"; done)" ]; do sleep 0.02; done
            {Begin}
            """);

        public void Dispose()
        {
            Bash($"stop_cluster \"{_folder}/postgres\"; rm -rf \"{_folder}\"");
        }

        private string Begin => $"start_cluster \"{_folder}/postgres\" {_port} \"{_folder}/sockets\" \"-c max_connections=100\"";

        private void Bash(string script)
        {
            var start = new ProcessStartInfo("bash") { WorkingDirectory = _root, RedirectStandardError = true, RedirectStandardOutput = true };
            start.ArgumentList.Add("-c");
            start.ArgumentList.Add($". tools/common.sh; fail() {{ printf '%s\\n' \"$*\" >&2; exit 1; }}; programs=$(postgres_programs); {script}");
            using var process = Process.Start(start)!;
            var told = process.StandardError.ReadToEnd();
            process.WaitForExit();
            Assert.True(process.ExitCode == 0, $"{script}\n{told}");
        }
    }
}
