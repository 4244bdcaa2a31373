namespace Screeline.Library.Tests;

/// <summary>The glossary: everything named on a screen is explained, briefly, and found where it is written.</summary>
public sealed class GlossaryTests
{
    private static readonly ShippedLibrary Library = ShippedLibrary.Load();

    [Fact]
    public void Every_test_tool_and_caution_has_a_how_and_a_why()
    {
        Assert.All(Library.Systems.SelectMany(s => s.Tests), t => Assert.True(t.How.Length > 10 && t.Why.Length > 10, t.Id));
        Assert.All(Library.Tools, t => Assert.NotNull(Library.Words.ForTool(t.Id)));
        Assert.All(Library.Cautions.Keys, c => Assert.NotNull(Library.Words.ForCaution(c)));
    }

    [Fact]
    public void An_explanation_is_short_and_says_why()
    {
        Assert.All(Library.Words.Entries, e =>
        {
            Assert.StartsWith("Because ", e.Why, StringComparison.Ordinal);
            Assert.All(new[] { e.Is, e.How, e.Why }, t => Assert.True(t.EndsWith('.') && t.Split(' ').Length <= 40, $"{e.Id}: {t}"));
        });
    }

    [Theory]
    [InlineData("Ground drop at the plug, top speed", "ground-drop")]
    [InlineData("What is a GROUND DROP?", "ground-drop")]
    [InlineData("Drop, battery + post to main terminal", "voltage-drop,main-terminal")]
    [InlineData("Back-probe both sides of the plug", "back-probe")]
    [InlineData("The grounds for it", "")]
    [InlineData("A dropped screw", "")]
    [InlineData("5 V reference at rest", "reference")]
    [InlineData("Set and forget", "")]
    public void Words_are_found_whole_the_longest_first(string text, string ids) =>
        Assert.Equal(ids, string.Join(',', Library.Words.In(text).Select(e => e.Id)));

    [Fact]
    public void A_word_is_told_once_in_the_order_it_is_met() =>
        Assert.Equal(["relay", "fuse"], Library.Words.In("Relay, fuse, relay", null, "fuse").Select(e => e.Id));

    [Theory]
    [InlineData("M0 0H8V8Z", true)]
    [InlineData("M0 0L8 8M9 9H3", true)]
    [InlineData("M0 0", false)]
    [InlineData("M0 0C1 1 2 2 3 3", false)]
    [InlineData("M0 0H8\" onload=\"x", false)]
    [InlineData("", false)]
    public void A_sketch_is_drawn_from_plain_paths_alone(string path, bool good) => Assert.Equal(good, SketchShape.IsPath(path));

    [Fact]
    public void What_an_apprentice_asks_first_has_a_drawing() =>
        Assert.All(["ground-drop", "voltage-drop", "back-probe", "test-lamp", "clamp", "crow-foot", "negative-first", "jack-stands", "stud", "pattern"], id => Assert.NotNull(Library.Words.Find(id)!.Sketch));
}
