using System.Diagnostics;
using System.Text.RegularExpressions;

namespace Screeline.Fleet;

/// <summary>Asks for yard, job, vehicle and insight pages as people do, and tells how long the answers take.</summary>
internal static partial class Pages
{
    // The token the server was started with; and with SCREELINE_RATE=5000, since all users here come under one name.
    private static readonly string? Bearer = Environment.GetEnvironmentVariable("SCREELINE_API_TOKEN");

    public static async Task<int> RunAsync(Uri address, int users, int seconds, int think)
    {
        using var client = new HttpClient(new SocketsHttpHandler { MaxConnectionsPerServer = users, UseCookies = false }) { BaseAddress = address };
        client.DefaultRequestHeaders.Add("Authorization", $"Bearer {Bearer}");
        var yard = await client.GetStringAsync("/");
        var closed = await client.GetStringAsync("/?show=closed");
        var library = await client.GetStringAsync("/library");
        List<string> Found(string text, Regex what) => [.. what.Matches(text).Select(m => m.Value).Distinct()];
        var kinds = new (string Name, List<string> Addresses)[]
        {
            ("yard", ["/", "/?show=closed", "/?q=vehicle+7"]),
            ("job", [.. Found(yard, JobAddress()).SelectMany(j => new[] { $"{j}/find", $"{j}/way-in", $"{j}/take-apart", $"{j}/prove" })]),
            ("closed job", [.. Found(closed, JobAddress()).SelectMany(j => new[] { $"{j}/sheet", $"{j}/history" })]),
            ("vehicle", [.. Found(library, VehicleAddress()).SelectMany(v => new[] { v, $"{v}?next=starting" })]),
            ("insight", ["/insight", "/insight?family=starting", "/insight?months=3", "/insight?months=60"]),
        };
        var times = kinds.ToDictionary(k => k.Name, _ => new List<double>());
        var faults = 0;
        var until = Stopwatch.StartNew();
        await Task.WhenAll(Enumerable.Range(0, users).Select(async u =>
        {
            var random = new Random(u + 1);
            await Task.Delay(random.Next(Math.Max(1, think)));
            while (until.Elapsed.TotalSeconds < seconds)
            {
                var (name, addresses) = kinds[random.Next(kinds.Length)];
                var watch = Stopwatch.StartNew();
                using var answer = await client.GetAsync(addresses[random.Next(addresses.Count)]);
                await answer.Content.ReadAsByteArrayAsync();
                lock (times)
                {
                    faults += answer.IsSuccessStatusCode ? 0 : 1;
                    // The first ten seconds warm it up.
                    if (until.Elapsed.TotalSeconds > 10)
                    {
                        times[name].Add(watch.Elapsed.TotalMilliseconds);
                    }
                }

                await Task.Delay(think == 0 ? 0 : random.Next(think / 2, think * 3 / 2));
            }
        }));
        Console.WriteLine($"{users} users, {seconds} s, {think} ms between pages, {times.Values.Sum(t => t.Count)} answers, {faults} faults");
        foreach (var (name, list) in times)
        {
            list.Sort();
            Console.WriteLine(list.Count == 0 ? $"{name}: none" : $"{name}: {list.Count} answers, median {list[list.Count / 2]:0} ms, 95th {list[(int)(list.Count * 0.95)]:0} ms, most {list[^1]:0} ms");
        }

        return faults == 0 ? 0 : 1;
    }

    [GeneratedRegex("/jobs/\\d+")]
    private static partial Regex JobAddress();

    [GeneratedRegex("/vehicles/[0-9a-f-]{36}")]
    private static partial Regex VehicleAddress();
}
