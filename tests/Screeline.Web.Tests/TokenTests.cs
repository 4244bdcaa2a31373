using System.Globalization;
using System.Text.RegularExpressions;

namespace Screeline.Web.Tests;

/// <summary>The colours of both looks against each other, also where axe does not look: text in drawings.</summary>
public sealed class TokenTests
{
    private static readonly Dictionary<string, (string Light, string Dark)> Tokens = Read();

    // What stands on what; 4.5 for text, 3 for lines that carry meaning (WCAG 2.2, 1.4.3 and 1.4.11).
    public static TheoryData<string, string, double> Pairs()
    {
        var pairs = new TheoryData<string, string, double>();
        foreach (var ground in new[] { "ground", "sheet", "inset", "danger-ground", "wait-ground" })
        {
            pairs.Add("ink", ground, 4.5);
        }

        foreach (var (text, grounds) in new[] { ("ink-2", new[] { "ground", "sheet", "inset" }), ("danger", ["ground", "sheet", "inset", "danger-ground"]), ("wait", ["ground", "sheet", "inset", "wait-ground"]) })
        {
            grounds.ToList().ForEach(g => pairs.Add(text, g, 4.5));
        }

        pairs.Add("on-pen", "pen", 4.5);
        new[] { "ground", "sheet", "inset" }.ToList().ForEach(g => pairs.Add("rule", g, 3));
        return pairs;
    }

    [Theory]
    [MemberData(nameof(Pairs))]
    public void What_is_read_stands_out(string text, string ground, double least)
    {
        Assert.True(Contrast(Tokens[text].Light, Tokens[ground].Light) >= least, $"light: {text} on {ground}");
        Assert.True(Contrast(Tokens[text].Dark, Tokens[ground].Dark) >= least, $"dark: {text} on {ground}");
    }

    [Theory]
    [InlineData("#000000", "#FFFFFF", 21)]
    [InlineData("#777777", "#FFFFFF", 4.48)]
    [InlineData("#767676", "#FFFFFF", 4.54)]
    public void The_measure_is_that_of_WCAG(string text, string ground, double contrast) => Assert.Equal(contrast, Contrast(text, ground), 2);

    // Relative luminance and contrast ratio as WCAG 2.2 defines them.
    private static double Contrast(string one, string other)
    {
        static double Luminance(string colour)
        {
            double Channel(int at)
            {
                var c = int.Parse(colour.AsSpan(at, 2), NumberStyles.HexNumber, CultureInfo.InvariantCulture) / 255.0;
                return c <= 0.04045 ? c / 12.92 : Math.Pow((c + 0.055) / 1.055, 2.4);
            }

            return 0.2126 * Channel(1) + 0.7152 * Channel(3) + 0.0722 * Channel(5);
        }

        var (a, b) = (Luminance(one), Luminance(other));
        return (Math.Max(a, b) + 0.05) / (Math.Min(a, b) + 0.05);
    }

    private static Dictionary<string, (string, string)> Read()
    {
        var css = File.ReadAllText(Site.InTree("src/Screeline.Web/wwwroot/css/tokens.css"));
        var both = Regex.Matches(css, @"--([a-z0-9-]+): light-dark\((#[0-9A-F]{6}), (#[0-9A-F]{6})\)").ToDictionary(m => m.Groups[1].Value, m => (m.Groups[2].Value, m.Groups[3].Value));
        both["on-pen"] = Regex.Match(css, @"--on-pen: (#[0-9A-F]{6})") is { Success: true } pen ? (pen.Groups[1].Value, pen.Groups[1].Value) : throw new InvalidOperationException("no --on-pen");
        return both;
    }
}
