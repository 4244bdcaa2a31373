using System.Text.RegularExpressions;

namespace Screeline.Core.Tests;

/// <summary>What the source itself must not hold, read from the files.</summary>
public sealed partial class SourceTests
{
    private static readonly string Root = Find();

    private static IEnumerable<(string Name, string Text)> Files(string folder, params string[] endings) =>
        from file in Directory.EnumerateFiles(Path.Combine(Root, folder), "*", SearchOption.AllDirectories)
        where endings.Contains(Path.GetExtension(file)) && !file.Contains("/obj/", StringComparison.Ordinal) && !file.Contains("/bin/", StringComparison.Ordinal)
        select (Path.GetRelativePath(Root, file), File.ReadAllText(file));

    /// <summary>SQL is text that never holds a value: what is put together are only constants of the same file.</summary>
    [Fact]
    public void SQL_takes_values_only_as_parameters()
    {
        var found = 0;
        foreach (var (name, text) in Files("src", ".cs"))
        {
            foreach (Match match in Sql().Matches(text))
            {
                found++;
                foreach (Match hole in Hole().Matches(match.Groups["text"].Value))
                {
                    Assert.True(match.Groups["dollar"].Length == 0 || Regex.IsMatch(text, $@"\bconst (string|long|int) {hole.Groups[1].Value}\b"), $"{name}: {match.Value}");
                }

                Assert.DoesNotMatch(@"^\s*\+", text[(match.Index + match.Length)..].Split('\n')[0]);
            }
        }

        Assert.InRange(found, 60, 1000);
    }

    [Fact]
    public void No_page_writes_raw_HTML_and_no_log_line_holds_a_form()
    {
        // One place: JSON of numbers for the moving drawing, in an element that is no script to the browser.
        var raw = Files("src/Screeline.Web/Pages", ".cshtml").SelectMany(f => f.Text.Split('\n').Where(l => l.Contains("Html.Raw", StringComparison.Ordinal)).Select(l => l.Trim()));
        Assert.Equal(["<script type=\"application/json\" id=\"frames\">@Html.Raw(work.Frames)</script>"], raw);
        foreach (var (name, text) in Files("src", ".cs"))
        {
            foreach (Match line in Log().Matches(text))
            {
                Assert.DoesNotMatch("(?i)password|pin\\b|token|Request\\.Form|Cookie|Authorization", line.Value);
            }

            Assert.DoesNotMatch(@"\b(MD5|SHA1|TripleDES|RC2)\.(Create|HashData)", text);
            Assert.False(text.Contains("Process.Start(", StringComparison.Ordinal), name);
        }
    }

    private static string Find()
    {
        var folder = new DirectoryInfo(AppContext.BaseDirectory);
        while (!File.Exists(Path.Combine(folder.FullName, "Screeline.slnx")))
        {
            folder = folder.Parent!;
        }

        return folder.FullName;
    }

    // Every literal that begins as SQL does, wherever it goes from there.
    [GeneratedRegex("(?<dollar>\\$?)(?:\"\"\"\\s*(?<text>(?:select|insert into|update|delete from|with|listen)\\s.*?)\"\"\"|\"(?<text>(?:select|insert into|update|delete from|with|listen|\\{Columns\\})\\s[^\"]*)\")", RegexOptions.Singleline)]
    private static partial Regex Sql();

    [GeneratedRegex("\\{([A-Za-z.]+)\\}")]
    private static partial Regex Hole();

    [GeneratedRegex("[lL]og(?:ger)?\\.Log[A-Z][a-z]+\\([^;]*;")]
    private static partial Regex Log();
}
