using System.Collections.Concurrent;
using System.Diagnostics;
using System.Net;
using System.Net.Sockets;
using Npgsql;

[assembly: AssemblyFixture(typeof(Screeline.Web.Tests.Site))]

namespace Screeline.Web.Tests;

/// <summary>
/// The application as a process of its own, with the demo, on a database of its own behind a small proxy that can be cut.
/// </summary>
public sealed class Site : IAsyncLifetime
{
    private static readonly ConcurrentDictionary<(bool, string), Lazy<Task<string>>> Templates = new();
    // Roles belong to the whole server: two databases migrated at once would both make the same one. Nor can one template be copied twice at once.
    private static readonly SemaphoreSlim OneAtATime = new(1);
    private readonly List<string> _log = [];
    private Process? _process;
    private string _server = "";

    /// <summary>A person and a vehicle of the demo.</summary>
    public const string Ansa = "5c0a0000-0000-4000-8000-000000000001", Bram = "5c0a0000-0000-4000-8000-000000000002", Nell = "5c0a0000-0000-4000-8000-000000000003", Orrin = "5c0a0000-0000-4000-8000-000000000004";

    public Uri Address { get; private set; } = null!;

    /// <summary>Between the application and its database.</summary>
    public Cable Cable { get; private set; } = null!;

    /// <summary>Connection string of the owner, straight to the server.</summary>
    public string Owner { get; private set; } = "";

    /// <summary>Whether all is done that can be, for which one wants an hour: ./test --all.</summary>
    public static bool Everything { get; } = Environment.GetEnvironmentVariable("SCREELINE_TEST_ALL") is "yes";

    public bool Demo { get; init; } = true;

    /// <summary>Whether the open jobs are judged before it is ready.</summary>
    public bool WarmUp { get; init; }

    /// <summary>Whether a proxy on this machine is believed.</summary>
    public bool BehindProxy { get; init; }

    /// <summary>Another PostgreSQL than the one that all tests share, as a connection string; null for that one.</summary>
    public string? Server { get; init; }

    private readonly ConcurrentDictionary<string, Lazy<string>> _cookies = new(StringComparer.Ordinal);

    /// <summary>The code for the first foreman of a site without the demo.</summary>
    public static string? SetupCode { get; private set; }

    /// <summary>The cookie of somebody of the demo who has signed in; each signs in once on a site.</summary>
    public string CookieOf(string person) => _cookies.GetOrAdd(person, p => new Lazy<string>(() => SignInAsync(p).GetAwaiter().GetResult())).Value;

    /// <summary>Signs somebody of the demo in anew, as the page does, and tells the cookie.</summary>
    public async Task<string> SignInAsync(string person)
    {
        var cookies = new CookieContainer();
        using var client = new HttpClient(new HttpClientHandler { CookieContainer = cookies, AllowAutoRedirect = false }) { BaseAddress = Address };
        var page = new AngleSharp.Html.Parser.HtmlParser().ParseDocument(await client.GetStringAsync("/sign-in"));
        var answer = await client.PostAsync("/sign-in", new FormUrlEncodedContent(new Dictionary<string, string>
        {
            ["form-token"] = page.QuerySelector("#sign-in input[name=form-token]")!.GetAttribute("value")!,
            ["login"] = LoginOf.GetValueOrDefault(person, person),
            ["password"] = SignIn.DemoAccounts.Password,
        }));
        Assert.True(answer.StatusCode == HttpStatusCode.Redirect, $"sign-in: {answer.StatusCode}");
        return cookies.GetCookies(Address)[SignIn.SignInSetup.Cookie]!.Value;
    }

    private Lazy<Task<string>>? _viewer;

    /// <summary>The cookie of a viewer, whom the foreman lets in; the demo has none.</summary>
    public Task<string> ViewerAsync()
    {
        lock (_cookies)
        {
            _viewer ??= new Lazy<Task<string>>(async () =>
            {
                var login = $"viewer{Guid.NewGuid():N}"[..20];
                await using var connection = new NpgsqlConnection(Owner);
                await connection.OpenAsync();
                await using var add = new NpgsqlCommand("with p as (insert into people (id, name, role) values (gen_random_uuid(), 'Somebody who looks', 'viewer') returning id) insert into accounts (person_id, login, password_hash) select p.id, $1, a.password_hash from p, accounts a where a.login = 'ansa'", connection);
                add.Parameters.Add(new NpgsqlParameter { Value = login });
                await add.ExecuteNonQueryAsync();
                return await SignInAsync(login);
            });
        }

        return _viewer.Value;
    }

    private static readonly Dictionary<string, string> LoginOf = new() { [Ansa] = "ansa", [Bram] = "bram", [Nell] = "nell", [Orrin] = "orrin" };

    public async ValueTask InitializeAsync()
    {
        _server = Server ?? Environment.GetEnvironmentVariable("SCREELINE_TEST_DB") ?? throw new InvalidOperationException("SCREELINE_TEST_DB is not set: start the tests with ./test.");
        // The demo is told once; every site takes a copy of it.
        var template = await Templates.GetOrAdd((Demo, _server), what => new Lazy<Task<string>>(() => PrepareAsync(what.Item1))).Value;
        var name = $"site_{Guid.NewGuid():N}";
        await ServerAsync($"create database {name} template {template}");
        Owner = new NpgsqlConnectionStringBuilder(_server) { Database = name }.ConnectionString;
        Cable = new Cable(new NpgsqlConnectionStringBuilder(_server).Port);
        var port = FreePort();
        Address = new Uri($"http://127.0.0.1:{port}");
        await StartAsync();
    }

    /// <summary>Starts the process and waits until it is ready.</summary>
    public async Task StartAsync()
    {
        _process = Launch(Address.Port, []);
        using var client = new HttpClient { BaseAddress = Address };
        var deadline = DateTime.UtcNow.AddSeconds(60);
        while (true)
        {
            Assert.False(_process.HasExited, string.Join('\n', _log));
            try
            {
                if ((await client.GetAsync("/health/ready")).IsSuccessStatusCode)
                {
                    return;
                }
            }
            catch (HttpRequestException) when (DateTime.UtcNow < deadline)
            {
                // Not listening yet.
            }

            Assert.True(DateTime.UtcNow < deadline, "The application did not get ready.\n" + string.Join('\n', _log));
            await Task.Delay(50);
        }
    }

    /// <summary>The end of what the process wrote.</summary>
    public string Log
    {
        get
        {
            lock (_log)
            {
                return string.Join('\n', _log.TakeLast(40));
            }
        }
    }

    /// <summary>A second process on the same database, as they stand behind a proxy; ends with the site.</summary>
    public async Task<Uri> StartAnotherAsync()
    {
        var port = FreePort();
        _others.Add(Launch(port, []));
        var address = new Uri($"http://127.0.0.1:{port}");
        using var client = new HttpClient { BaseAddress = address };
        for (var deadline = DateTime.UtcNow.AddSeconds(60); ;)
        {
            try
            {
                if ((await client.GetAsync("/health/ready")).IsSuccessStatusCode)
                {
                    return address;
                }
            }
            catch (HttpRequestException) when (DateTime.UtcNow < deadline)
            {
                // Not listening yet.
            }

            Assert.True(DateTime.UtcNow < deadline, "The second process did not get ready.");
            await Task.Delay(50);
        }
    }

    private readonly List<Process> _others = [];

    /// <summary>Kills the process with SIGKILL, as a crash would.</summary>
    public async Task KillAsync()
    {
        _process!.Kill(entireProcessTree: true);
        await _process.WaitForExitAsync();
    }

    public async ValueTask DisposeAsync()
    {
        foreach (var process in _others.Prepend(_process).OfType<Process>())
        {
            await EndAsync(process);
        }

        Cable.Dispose();
    }

    /// <summary>One value from the database, as its owner.</summary>
    public async Task<T?> ScalarAsync<T>(string sql)
    {
        await using var connection = new NpgsqlConnection(Owner);
        await connection.OpenAsync();
        await using var command = new NpgsqlCommand(sql, connection);
        return (T?)await command.ExecuteScalarAsync();
    }

    // A database as the application prepares it, closed again so that it can be copied.
    private async Task<string> PrepareAsync(bool demo)
    {
        var name = $"prepared_{Guid.NewGuid():N}";
        await ServerAsync($"create database {name}");
        Owner = new NpgsqlConnectionStringBuilder(_server) { Database = name }.ConnectionString;
        using var cable = Cable = new Cable(new NpgsqlConnectionStringBuilder(_server).Port);
        await OneAtATime.WaitAsync();
        try
        {
            using var prepare = Launch(FreePort(), ["prepare", .. demo ? new[] { "--demo" } : []]);
            await prepare.WaitForExitAsync(new CancellationTokenSource(TimeSpan.FromMinutes(3)).Token);
            prepare.WaitForExit();
            Assert.True(prepare.ExitCode == 0, string.Join('\n', _log));
            lock (_log)
            {
                SetupCode ??= _log.Select(l => System.Text.RegularExpressions.Regex.Match(l, "[A-Z2-9]{5}-[A-Z2-9]{5}")).FirstOrDefault(m => m.Success)?.Value;
            }
        }
        finally
        {
            OneAtATime.Release();
        }

        return name;
    }

    private async Task ServerAsync(string sql)
    {
        await OneAtATime.WaitAsync();
        try
        {
            await using var connection = new NpgsqlConnection(_server);
            await connection.OpenAsync();
            await using var command = new NpgsqlCommand(sql, connection) { CommandTimeout = 120 };
            await command.ExecuteNonQueryAsync();
        }
        finally
        {
            OneAtATime.Release();
        }
    }

    // As a service is stopped.
    private static async Task EndAsync(Process process)
    {
        if (!process.HasExited)
        {
            using var kill = Process.Start("kill", ["-TERM", process.Id.ToString(System.Globalization.CultureInfo.InvariantCulture)]);
            using var patience = new CancellationTokenSource(TimeSpan.FromSeconds(20));
            try
            {
                await process.WaitForExitAsync(patience.Token);
            }
            catch (OperationCanceledException)
            {
                process.Kill(entireProcessTree: true);
                Assert.Fail("The application did not end within 20 s after SIGTERM.");
            }
        }

        process.Dispose();
    }

    private Process Launch(int port, string[] arguments)
    {
        var start = new ProcessStartInfo("dotnet") { RedirectStandardError = true, RedirectStandardOutput = true };
        start.ArgumentList.Add(Program());
        arguments.ToList().ForEach(start.ArgumentList.Add);
        start.Environment["SCREELINE_DB"] = new NpgsqlConnectionStringBuilder(Owner) { Host = "127.0.0.1", Port = Cable.Port }.ConnectionString;
        start.Environment["SCREELINE_PORT"] = port.ToString(System.Globalization.CultureInfo.InvariantCulture);
        start.Environment["ASPNETCORE_ENVIRONMENT"] = "Production";
        start.Environment["SCREELINE_DEMO"] = Demo ? "yes" : "no";
        // Only the site that all tests share is looked at often enough.
        start.Environment["SCREELINE_WARM_UP"] = WarmUp ? "yes" : "no";
        start.Environment["SCREELINE_PROXY"] = BehindProxy ? "yes" : "no";
        var process = Process.Start(start)!;
        void Keep(object _, DataReceivedEventArgs line)
        {
            lock (_log)
            {
                _log.Add(line.Data ?? "");
            }
        }

        process.OutputDataReceived += Keep;
        process.ErrorDataReceived += Keep;
        process.BeginOutputReadLine();
        process.BeginErrorReadLine();
        return process;
    }

    // As it is published and started, where ./test has made that; else the application's own build output, of the configuration these tests were built in.
    private static string Program()
    {
        if (Environment.GetEnvironmentVariable("SCREELINE_TEST_APP") is { Length: > 0 } published)
        {
            return published;
        }

        return InTree($"src/Screeline.Web/bin/{new DirectoryInfo(AppContext.BaseDirectory).Parent!.Name}/net10.0/Screeline.Web.dll");
    }

    /// <summary>A file of the source tree that these tests were built from.</summary>
    internal static string InTree(string path)
    {
        var folder = new DirectoryInfo(AppContext.BaseDirectory);
        while (!File.Exists(Path.Combine(folder.FullName, "Screeline.slnx")))
        {
            folder = folder.Parent!;
        }

        return Path.Combine(folder.FullName, path);
    }

    internal static int FreePort()
    {
        using var probe = new TcpListener(IPAddress.Loopback, 0);
        probe.Start();
        return ((IPEndPoint)probe.LocalEndpoint).Port;
    }
}

/// <summary>A TCP connection that can be cut and mended: what a network does, without touching the server.</summary>
public sealed class Cable : IDisposable
{
    private readonly int[] _to;
    private readonly int[] _taken;
    private readonly HashSet<TcpClient> _open = [];
    private TcpListener _listener;
    private int _next;

    /// <summary>Leads to one port, or to several in turn, a connection each.</summary>
    public Cable(params int[] to)
    {
        (_to, _taken) = (to, new int[to.Length]);
        _listener = new TcpListener(IPAddress.Loopback, 0);
        _listener.Start();
        Port = ((IPEndPoint)_listener.LocalEndpoint).Port;
        _ = AcceptAsync(_listener);
    }

    public int Port { get; }

    /// <summary>How many connections went to each.</summary>
    public IReadOnlyList<int> Taken => _taken;

    /// <summary>Refuses new connections and breaks those that are open.</summary>
    public void Cut()
    {
        _listener.Stop();
        lock (_open)
        {
            _open.ToList().ForEach(c => c.Dispose());
            _open.Clear();
        }
    }

    /// <summary>Takes connections again.</summary>
    public void Mend()
    {
        _listener = new TcpListener(IPAddress.Loopback, Port);
        _listener.Start();
        _ = AcceptAsync(_listener);
    }

    public void Dispose() => Cut();

    private async Task AcceptAsync(TcpListener listener)
    {
        try
        {
            while (true)
            {
                _ = ForwardAsync(await listener.AcceptTcpClientAsync());
            }
        }
        catch (Exception e) when (e is SocketException or ObjectDisposedException)
        {
            // Cut.
        }
    }

    private async Task ForwardAsync(TcpClient near)
    {
        // Small packets go at once: waiting to fill them would cost 40 ms a round trip, which is not what is tested.
        using var far = new TcpClient { NoDelay = true };
        near.NoDelay = true;
        try
        {
            var turn = (int)((uint)Interlocked.Increment(ref _next) % _to.Length);
            Interlocked.Increment(ref _taken[turn]);
            await far.ConnectAsync(IPAddress.Loopback, _to[turn]);
            lock (_open)
            {
                _open.Add(near);
                _open.Add(far);
            }

            await Task.WhenAny(near.GetStream().CopyToAsync(far.GetStream()), far.GetStream().CopyToAsync(near.GetStream()));
        }
        catch (Exception e) when (e is SocketException or IOException or ObjectDisposedException)
        {
            // Either side went away.
        }
        finally
        {
            near.Dispose();
            lock (_open)
            {
                _open.Remove(near);
                _open.Remove(far);
            }
        }
    }
}
