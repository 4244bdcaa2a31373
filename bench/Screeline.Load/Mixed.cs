using System.Diagnostics;
using System.Globalization;
using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using System.Text.RegularExpressions;

namespace Screeline.Load;

/// <summary>
/// Reading and ticking at a set rate, whatever the answers take: pages of the demo's open jobs and entries kept on them, over one or
/// more processes in turn. It ends after the seconds given.
/// </summary>
internal static partial class Mixed
{
    // Out of five requests two keep an entry, as the step runner does: look, press, look.
    private const int OutOf = 5, Entries = 2;

    private static readonly string[] Read = ["/", "/jobs/8/complaint", "/jobs/7/find", "/jobs/12/find", "/jobs/4/way-in", "/jobs/5/take-apart", "/jobs/9/refit", "/jobs/6/prove", "/jobs/1/sheet", "/jobs/5/prepare"];
    private static readonly string[] Logins = ["ansa", "bram", "orrin"];

    public static async Task<int> RunAsync(IReadOnlyList<Uri> addresses, int seconds, int rate)
    {
        var clients = new List<HttpClient>();
        foreach (var (address, i) in addresses.SelectMany(a => Logins.Select(l => (a, l))).Select((x, i) => (x.a, i)))
        {
            clients.Add(await SignInAsync(address, Logins[i % Logins.Length]));
        }

        string[] jobs = [.. Enumerable.Range(4, 13).Where(n => n is not (10 or 11)).Select(n => $"10b00000-0000-4000-8000-{n:D12}")];
        var heads = new Dictionary<string, int>();
        foreach (var job in jobs)
        {
            using var told = JsonDocument.Parse(await clients[0].GetStringAsync($"/api/v1/jobs/{job}/entries?after=100000"));
            heads[job] = told.RootElement.GetProperty("head").GetInt32();
        }

        var (reading, keeping, faults) = (new List<double>(), new List<double>(), new List<string>());
        var running = new List<Task>();
        var clock = Stopwatch.StartNew();
        for (var n = 0; n < seconds * rate; n++)
        {
            var due = TimeSpan.FromSeconds((double)n / rate);
            while (clock.Elapsed < due)
            {
                await Task.Delay(1);
            }

            var (client, number) = (clients[n % clients.Count], n);
            running.Add(Task.Run(async () =>
            {
                var keeps = number % OutOf < Entries;
                // From when it was due, so that waiting in line counts too.
                var began = clock.Elapsed;
                try
                {
                    using var answer = keeps
                        ? await client.PostAsJsonAsync($"/api/v1/jobs/{jobs[number % jobs.Length]}/entries", new { id = Guid.NewGuid(), based_on = heads[jobs[number % jobs.Length]], occurred_at = DateTimeOffset.UtcNow.ToString("yyyy-MM-ddTHH:mm:ss", CultureInfo.InvariantCulture) + "Z", kind = "note-added@1", payload = new { step = (string?)null, text = "at a set rate" } })
                        : await client.GetAsync(Read[number / OutOf % Read.Length]);
                    await answer.Content.ReadAsByteArrayAsync();
                    answer.EnsureSuccessStatusCode();
                    lock (reading)
                    {
                        (keeps ? keeping : reading).Add((clock.Elapsed - began).TotalMilliseconds);
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
        List<double> all = [.. reading, .. keeping];
        Console.WriteLine("| what | requests | a second | median ms | p95 ms | p99 ms |");
        Console.WriteLine("| --- | ---: | ---: | ---: | ---: | ---: |");
        foreach (var (name, times) in new[] { ("pages", reading), ("entries kept", keeping), ("all", all) })
        {
            times.Sort();
            double At(double share) => times.Count == 0 ? 0 : times[Math.Min(times.Count - 1, (int)(share * times.Count))];
            Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"| {name} | {times.Count} | {times.Count / took:0} | {At(0.5):0.0} | {At(0.95):0.0} | {At(0.99):0.0} |"));
        }

        Console.WriteLine($"{faults.Count} errors{(faults.Count > 0 ? ": " + string.Join("; ", faults.Distinct().Take(3)) : "")}");
        return faults.Count == 0 ? 0 : 1;
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
