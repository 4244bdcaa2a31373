using System.Globalization;
using System.Text;
using CsvHelper;

namespace Screeline.Web.Infrastructure;

/// <summary>A table as CSV (RFC 4180): header row, UTF-8, units in the header names.</summary>
public static class CsvTable
{
    /// <summary>Answers with a table as a file.</summary>
    public static IResult Answer(string name, IReadOnlyList<string> header, IEnumerable<IReadOnlyList<object?>> rows) =>
        Results.File(Encoding.UTF8.GetBytes(Write(header, rows)), "text/csv; charset=utf-8", name);

    /// <summary>A table as text.</summary>
    public static string Write(IReadOnlyList<string> header, IEnumerable<IReadOnlyList<object?>> rows)
    {
        using var text = new StringWriter(CultureInfo.InvariantCulture) { NewLine = "\r\n" };
        using (var csv = new CsvWriter(text, CultureInfo.InvariantCulture, leaveOpen: true))
        {
            foreach (var row in rows.Prepend([.. header]))
            {
                foreach (var field in row)
                {
                    csv.WriteField(field switch
                    {
                        null => "",
                        DateTimeOffset at => at.ToString("yyyy-MM-ddTHH:mm:sszzz", CultureInfo.InvariantCulture),
                        IFormattable number => number.ToString(null, CultureInfo.InvariantCulture),
                        _ => Plain(field.ToString() ?? ""),
                    });
                }

                csv.NextRecord();
            }
        }

        return text.ToString();
    }

    // A spreadsheet takes a field that begins like a formula for one.
    private static string Plain(string text) => text.Length > 0 && "=+-@\t\r".Contains(text[0], StringComparison.Ordinal) ? "'" + text : text;
}
