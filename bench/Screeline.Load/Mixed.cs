using System.Diagnostics;
using System.Globalization;
using System.Net;
using System.Net.Http.Json;
using System.Text.RegularExpressions;

namespace Screeline.Load;

/// <summary>
/// Reading and ticking at a set rate, whatever the answers take, over one or more processes in turn: of five requests two tick a step of a job and three
/// look at a page: every other one at the step runner of such a job, the rest at the demo's jobs in all their stages. Every job is taken apart by one pair of hands, which wait for an answer before the next tick.
/// It ends after the seconds given.
/// </summary>
internal static partial class Mixed
{
    private const int OutOf = 5, Ticks = 2;
    private static readonly string[] Logins = ["ansa", "bram", "orrin"];

    private static readonly string[] Read = ["/", "/jobs/8/complaint", "/jobs/7/find", "/jobs/12/find", "/jobs/4/way-in", "/jobs/5/take-apart", "/jobs/9/refit", "/jobs/6/prove", "/jobs/1/sheet", "/jobs/5/prepare"];

    private sealed class Hands(string job, string address, int head)
    {
        public string Job { get; } = job;
        public string Address { get; } = address;
        public int Head { get; set; } = head;
        public int Done { get; set; }
        public SemaphoreSlim Free { get; } = new(1);
    }

    public static async Task<int> RunAsync(IReadOnlyList<Uri> addresses, int seconds, int rate)
    {
        var clients = new List<HttpClient>();
        foreach (var (address, i) in addresses.SelectMany(a => Logins.Select(_ => a)).Select((a, i) => (a, i)))
        {
            clients.Add(await SignInAsync(address, Logins[i % Logins.Length]));
        }

        var route = await Work.RouteAsync(clients[0]);
        var steps = Work.StepsOf(route);
        var ticks = seconds * rate * Ticks / OutOf;
        var jobs = new List<Hands>();
        for (var i = 0; i < ticks / steps.Count + 1; i++)
        {
            var (job, address, head) = await Work.PreparedAsync(clients[i % clients.Count], route);
            jobs.Add(new Hands(job, address, head));
        }

        clients.ForEach(c => c.DefaultRequestHeaders.AcceptEncoding.ParseAdd("br"));
        Console.WriteLine($"{jobs.Count} jobs of {steps.Count} steps opened.");
        var (reading, ticking, faults) = (new List<double>(), new List<double>(), new List<string>());
        var running = new List<Task>();
        var clock = Stopwatch.StartNew();
        for (var n = 0; n < seconds * rate; n++)
        {
            var due = TimeSpan.FromSeconds((double)n / rate);
            while (clock.Elapsed < due)
            {
                await Task.Delay(1);
            }

            var (client, isTick, turn) = (clients[n % clients.Count], n % OutOf < Ticks, n / OutOf);
            var hands = jobs[(turn * Ticks + n % Ticks) % jobs.Count];
            var page = n % 2 == 0 ? $"{hands.Address}/take-apart" : Read[n / 2 % Read.Length];
            // From when it was due, so that waiting in line counts too.
            running.Add(Task.Run(async () =>
            {
                try
                {
                    if (isTick)
                    {
                        await TickAsync(client, hands, steps);
                    }
                    else
                    {
                        using var answer = await client.GetAsync(page);
                        await answer.Content.CopyToAsync(Stream.Null);
                        answer.EnsureSuccessStatusCode();
                    }

                    lock (reading)
                    {
                        (isTick ? ticking : reading).Add((clock.Elapsed - due).TotalMilliseconds);
                    }
                }
                catch (Exception e) when (e is HttpRequestException or IOException or TaskCanceledException)
                {
                    lock (reading)
                    {
                        faults.Add(e.Message);
                    }
                }
            }));
        }

        await Task.WhenAll(running);
        var took = clock.Elapsed.TotalSeconds;
        List<double> all = [.. reading, .. ticking];
        Console.WriteLine("| what | requests | a second | median ms | p95 ms | p99 ms |");
        Console.WriteLine("| --- | ---: | ---: | ---: | ---: | ---: |");
        foreach (var (name, times) in new[] { ("pages", reading), ("ticks", ticking), ("all", all) })
        {
            times.Sort();
            double At(double share) => times.Count == 0 ? 0 : times[Math.Min(times.Count - 1, (int)(share * times.Count))];
            Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"| {name} | {times.Count} | {times.Count / took:0} | {At(0.5):0.0} | {At(0.95):0.0} | {At(0.99):0.0} |"));
        }

        Console.WriteLine($"{faults.Count} errors{(faults.Count > 0 ? ": " + string.Join("; ", faults.Distinct().Take(3)) : "")}");
        return faults.Count == 0 ? 0 : 1;
    }

    private static async Task TickAsync(HttpClient client, Hands hands, IReadOnlyList<string> steps)
    {
        await hands.Free.WaitAsync();
        try
        {
            using var answer = await client.PostAsJsonAsync($"/api/v1/jobs/{hands.Job}/entries", Work.Tick(hands.Head, steps[hands.Done]));
            await answer.Content.CopyToAsync(Stream.Null);
            answer.EnsureSuccessStatusCode();
            hands.Head++;
            hands.Done++;
        }
        finally
        {
            hands.Free.Release();
        }
    }

    private static async Task<HttpClient> SignInAsync(Uri address, string login)
    {
        var client = new HttpClient(new SocketsHttpHandler { CookieContainer = new CookieContainer(), PooledConnectionLifetime = TimeSpan.FromMinutes(5) }) { BaseAddress = address };
        var page = await client.GetStringAsync("/sign-in");
        var token = Token().Match(page).Groups[1].Value;
        var password = Password().Match(page).Groups[1].Value;
        using var answer = await client.PostAsync("/sign-in", new FormUrlEncodedContent(new Dictionary<string, string> { ["form-token"] = token, ["login"] = login, ["password"] = password }));
        return answer.RequestMessage!.RequestUri!.AbsolutePath == "/" ? client : throw new InvalidOperationException($"{login} cannot sign in at {address}: is the demo there?");
    }

    [GeneratedRegex("name=\"form-token\"[^>]*value=\"([^\"]+)\"")]
    private static partial Regex Token();

    [GeneratedRegex("name=\"password\" value=\"([^\"]+)\"")]
    private static partial Regex Password();
}
