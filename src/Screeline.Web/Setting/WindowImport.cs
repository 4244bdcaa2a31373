using Microsoft.AspNetCore.WebUtilities;
using Screeline.Core.Formats;
using Screeline.Core.Motion;

namespace Screeline.Web.Setting;

/// <summary>Runs of a window from a file into the fields of its screen.</summary>
public static class WindowImport
{
    private const int LargestFile = 900_000;

    /// <summary>The fields of a query string.</summary>
    public static Dictionary<string, string> Parse(string? query) =>
        QueryHelpers.ParseQuery(query ?? "").Where(q => q.Key.Length is > 0 and <= 40).ToDictionary(q => q.Key, q => q.Value.ToString(), StringComparer.Ordinal);

    /// <summary>Reads a file.</summary>
    /// <param name="file">The file.</param>
    /// <param name="asked">What was typed so far, as a query string.</param>
    /// <param name="into">"good" for runs that make the band; else the last run each way is the one to judge.</param>
    /// <returns>The query string with the runs, or what is wrong.</returns>
    public static async Task<(string Query, string? Fault)> ReadAsync(IFormFile? file, string? asked, string? into)
    {
        if (file is null || file.Length == 0)
        {
            return ("", "Choose a file first.");
        }

        if (file.Length > LargestFile)
        {
            return ("", $"Larger than {LargestFile / 1000} kB.");
        }

        using var reader = new StreamReader(file.OpenReadStream());
        IReadOnlyList<WindowRun> runs;
        try
        {
            runs = WindowCsv.Read(await reader.ReadToEndAsync(), file.FileName);
        }
        catch (RefusedFileException e)
        {
            return ("", string.Join(". ", e.Faults.Take(3).Select(f => $"{char.ToUpperInvariant(f.Path[0])}{f.Path[1..]}: {f.Message}")) + ".");
        }

        var fields = Parse(asked);
        // Every second step says as much and keeps the address short.
        static string Amperes(WindowRun run) => string.Join(" ", run.Amperes.Where((_, i) => i % 2 == 0).Select(a => SettingWork.Text(a, 2)));
        if (into == "good")
        {
            foreach (var (way, field) in new[] { (GlassWay.Up, "gup"), (GlassWay.Down, "gdown") })
            {
                fields[field] = string.Join(" | ", runs.Where(r => r.Way == way).Take(8).Select(r => $"{SettingWork.Text(r.Seconds, 2)}: {Amperes(r)}"));
            }
        }
        else
        {
            foreach (var run in runs)
            {
                var (field, seconds) = run.Way == GlassWay.Up ? ("up", "ups") : ("down", "downs");
                (fields[field], fields[seconds]) = (Amperes(run), SettingWork.Text(run.Seconds, 2));
            }
        }

        return (QueryHelpers.AddQueryString("", fields.Where(f => f.Value.Length > 0).ToDictionary(f => f.Key, f => (string?)f.Value)), null);
    }
}
