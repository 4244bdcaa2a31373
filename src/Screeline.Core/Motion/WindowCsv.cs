using System.Globalization;
using CsvHelper;
using CsvHelper.Configuration;
using Screeline.Core.Formats;

namespace Screeline.Core.Motion;

/// <summary>
/// Runs of a window as CSV (RFC 4180): a header row, then one sample a row. Columns: <c>current_a</c> and <c>position_percent</c>
/// (0 at the bottom) or <c>time_s</c>; <c>way</c> (up or down) may be left out for a single run up. Exact meanings in docs/formats.md.
/// </summary>
public static class WindowCsv
{
    private const int MostRows = 20_000;
    // A window that stands for so long in the middle of a file is a hole in the record.
    private const double LargestStep = 0.25;

    private static readonly string[] Known = ["way", "time_s", "position_percent", "current_a"];

    // What a column is often called, to say what is meant.
    private static readonly Dictionary<string, string> OtherUnits = new(StringComparer.OrdinalIgnoreCase)
    {
        ["time_ms"] = "time_s (seconds)", ["time"] = "time_s (seconds)", ["current_ma"] = "current_a (amperes)", ["current"] = "current_a (amperes)", ["amperes"] = "current_a (amperes)",
        ["position"] = "position_percent (0 at the bottom to 100)", ["position_mm"] = "position_percent (0 at the bottom to 100)", ["direction"] = "way (up or down)",
    };

    /// <summary>Reads runs; every fault names its row and column.</summary>
    /// <exception cref="RefusedFileException">The text has faults.</exception>
    public static IReadOnlyList<WindowRun> Read(string text, string source)
    {
        var faults = new List<FormatFault>();
        void Fault(int row, string column, string message) => faults.Add(new FormatFault($"row {row}, column {column}", message));
        var samples = new List<(int Row, GlassWay Way, double? Time, double? Position, double Amperes)>();
        using var csv = new CsvReader(new StringReader(text), new CsvConfiguration(CultureInfo.InvariantCulture) { BadDataFound = null, MissingFieldFound = null, TrimOptions = TrimOptions.Trim, DetectDelimiter = true, DetectDelimiterValues = [",", ";", "\t"] });
        if (!csv.Read() || !csv.ReadHeader())
        {
            throw new RefusedFileException(source, [new FormatFault("row 1", "a header row is wanted here")]);
        }

        var header = (csv.HeaderRecord ?? []).Select(h => h.Trim('\uFEFF')).ToList();
        foreach (var (name, i) in header.Select((name, i) => (name, i)).Where(h => !Known.Contains(h.name, StringComparer.OrdinalIgnoreCase)))
        {
            Fault(1, (i + 1).ToString(CultureInfo.InvariantCulture), OtherUnits.TryGetValue(name, out var meant) ? $"“{name}”: {meant} is wanted here" : $"“{name}” is none of: {string.Join(", ", Known)}");
        }

        int Column(string name) => header.FindIndex(h => h.Equals(name, StringComparison.OrdinalIgnoreCase));
        var (way, time, position, current) = (Column("way"), Column("time_s"), Column("position_percent"), Column("current_a"));
        if (current < 0)
        {
            Fault(1, "current_a", "is missing");
        }

        if (time < 0 && position < 0)
        {
            Fault(1, "time_s", "time_s or position_percent is missing");
        }

        while (faults.Count == 0 && csv.Read())
        {
            var row = csv.Parser.RawRow;
            double? Number(int column, double low, double high)
            {
                var field = csv.GetField(column) ?? "";
                if (double.TryParse(field.Replace(',', '.'), NumberStyles.Float, CultureInfo.InvariantCulture, out var number) && number >= low && number <= high)
                {
                    return number;
                }

                Fault(row, header[column], field.Length == 0 ? "is empty" : $"“{field}”: a number from {low} to {high} is wanted here");
                return null;
            }

            var amperes = Number(current, -200, 200);
            var at = time >= 0 ? Number(time, 0, 600) : null;
            var share = position >= 0 ? Number(position, -5, 105) : null;
            var direction = way < 0 ? "up" : csv.GetField(way) ?? "";
            if (direction is not ("up" or "down"))
            {
                Fault(row, "way", $"“{direction}”: up or down");
            }

            samples.Add((row, direction == "down" ? GlassWay.Down : GlassWay.Up, at, share, Math.Abs(amperes ?? 0)));
            if (samples.Count > MostRows)
            {
                Fault(row, "current_a", $"more than {MostRows} rows");
            }
        }

        if (faults.Count == 0 && samples.Count == 0)
        {
            faults.Add(new FormatFault("row 2", "no sample"));
        }

        // A new run begins when the way changes or the clock starts again.
        var runs = new List<WindowRun>();
        for (var first = 0; first < samples.Count && faults.Count == 0;)
        {
            var last = first;
            while (last + 1 < samples.Count && samples[last + 1].Way == samples[first].Way && !(samples[last + 1].Time < samples[last].Time))
            {
                last++;
            }

            if (RunOf(samples[first..(last + 1)], Fault) is { } run)
            {
                runs.Add(run);
            }

            first = last + 1;
        }

        return faults.Count > 0 ? throw new RefusedFileException(source, [.. faults.Take(20)]) : runs;
    }

    private static WindowRun? RunOf(List<(int Row, GlassWay Way, double? Time, double? Position, double Amperes)> samples, Action<int, string, string> fault)
    {
        if (samples.Count < 10)
        {
            fault(samples[^1].Row, "current_a", $"the run ends after {samples.Count} samples, at least 10 are wanted");
            return null;
        }

        var whole = (samples[^1].Time ?? 0) - (samples[0].Time ?? 0);
        if (samples[0].Time is not null && whole <= 0)
        {
            fault(samples[^1].Row, "time_s", "no time passes in this run");
            return null;
        }

        // With times only, the glass is taken to go evenly.
        var gone = samples.Select(s => s.Position is { } p ? (s.Way == GlassWay.Up ? p : 100 - p) / 100 : (s.Time!.Value - samples[0].Time!.Value) / whole).ToList();
        for (var i = 1; i < gone.Count; i++)
        {
            if (gone[i] - gone[i - 1] > LargestStep)
            {
                fault(samples[i].Row, samples[i].Position is null ? "time_s" : "position_percent", $"a gap: {100 * (gone[i] - gone[i - 1]):0} % of the way without a sample");
                return null;
            }
        }

        if (gone.Min() > 0.2 || gone.Max() < 0.8)
        {
            fault(samples[^1].Row, "position_percent", $"only {100 * gone.Min():0} to {100 * gone.Max():0} % of the way: a run goes from stop to stop");
            return null;
        }

        var way = samples[0].Way;
        return WindowRun.From(way, whole, samples.Select((s, i) => (way == GlassWay.Up ? gone[i] : 1 - gone[i], s.Amperes)));
    }

    /// <summary>Writes a run as CSV.</summary>
    public static string Write(IEnumerable<WindowRun> runs)
    {
        using var text = new StringWriter(CultureInfo.InvariantCulture) { NewLine = "\r\n" };
        using var csv = new CsvWriter(text, CultureInfo.InvariantCulture);
        foreach (var name in Known)
        {
            csv.WriteField(name);
        }

        csv.NextRecord();
        foreach (var run in runs)
        {
            // In the order of time: downwards from the top.
            foreach (var i in run.Way == GlassWay.Up ? Enumerable.Range(0, WindowRun.Steps) : Enumerable.Range(0, WindowRun.Steps).Reverse())
            {
                var p = WindowRun.Position(i);
                csv.WriteField(run.Way == GlassWay.Up ? "up" : "down");
                csv.WriteField(Math.Round(run.Seconds * (run.Way == GlassWay.Up ? p : 1 - p), 3));
                csv.WriteField(Math.Round(100 * p, 1));
                csv.WriteField(Math.Round(run.Amperes[i], 3));
                csv.NextRecord();
            }
        }

        csv.Flush();
        return text.ToString();
    }
}
