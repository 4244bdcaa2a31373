using Screeline.Core.Motion;

namespace Screeline.Core.Tests;

/// <summary>What counts as right for each kind of setting, and when too little is known to say so. The limits are common practice, no source, where none is named.</summary>
public sealed class SettingVerdictTests
{
    [Fact]
    public void Every_kind_has_a_name_and_a_title_of_its_own()
    {
        Assert.Equal(SettingKinds.All.Count, SettingKinds.All.Select(k => k.Id).Distinct().Count());
        Assert.Equal(SettingKinds.All.Count, SettingKinds.All.Select(k => k.Title).Distinct().Count());
        Assert.All(SettingKinds.All, k => Assert.Equal(k, SettingKinds.Find(k.Id)));
        Assert.Null(SettingKinds.Find("door"));
    }

    [Theory]
    [InlineData(null, null, null, null, null, null)]
    [InlineData(null, null, null, 2400.0, null, "2400 rev/min at the alternator")]
    [InlineData(300.0, null, null, null, null, "300 N")]
    [InlineData(300.0, 280.0, null, null, null, "300 N")]
    [InlineData(300.0, 280.0, 320.0, null, true, "300 N, within what is wanted")]
    [InlineData(280.0, 280.0, 320.0, null, true, "280 N, within what is wanted")]
    [InlineData(279.0, 280.0, 320.0, null, false, "279 N: too slack")]
    [InlineData(321.0, 280.0, 320.0, null, false, "321 N: too tight")]
    public void A_belt(double? tension, double? least, double? most, double? speed, bool? holds, string? words) =>
        Assert.Equal(new SettingVerdict(words, holds), SettingVerdicts.Belt(tension, least, most, speed));

    [Theory]
    [InlineData(null, null, null, null)]
    [InlineData(double.NaN, 12.0, false, "A dead cell: renew it")]
    [InlineData(0.9, null, null, "90 % charged")]
    [InlineData(0.5, null, null, "50 % charged: charge before you judge anything")]
    [InlineData(0.9, 9.6, true, "Sound under load")]
    [InlineData(0.5, 9.6, true, "Sound under load")]
    [InlineData(0.5, 9.5, null, "Charge it first, then load it again")]
    [InlineData(0.9, 9.5, false, "Weak under load: renew it")]
    public void A_battery(double? charge, double? load, bool? holds, string? words) =>
        Assert.Equal(new SettingVerdict(words, holds), SettingVerdicts.Battery(charge, load, 9.6));

    [Theory]
    [InlineData(CutOut.Open, 90, "The cut-out is open very likely: wait 2 min before you judge the motor", false)]
    [InlineData(CutOut.Closed, 120, "Pinches with 120 N, 100 N is the most", false)]
    [InlineData(CutOut.Closed, 100, null, null)]
    public void A_window_that_cannot_be_judged_yet_or_pinches(CutOut cutOut, double trap, string? words, bool? holds) =>
        Assert.Equal(new SettingVerdict(words, holds), SettingVerdicts.Window(null, false, [], null, trap, (cutOut, 90), true));

    public static TheoryData<bool, bool, double[], (double, double)?, bool, bool?> Windows => new()
    {
        // bad, both ways, tilts, margin, set in order: holds
        { false, true, [0, 1], (200, 100), true, true },
        { false, true, [], null, true, true },
        { false, true, [0, 1], (200, 100), false, null },
        { false, false, [0, 1], (200, 100), true, null },
        { false, true, [0, 3.5], (200, 100), true, false },
        { false, true, [0, 3], (200, 100), true, true },
        { false, true, [0, 1], (90, 100), true, false },
        { true, true, [0, 1], (200, 100), true, false },
    };

    [Theory]
    [MemberData(nameof(Windows))]
    public void A_window(bool bad, bool bothWays, double[] tilts, (double, double)? margin, bool inOrder, bool? holds) =>
        Assert.Equal(holds, SettingVerdicts.Window(new WindowAnswer([], null, null, [new ActuatorSaid("said", "because", bad)]), bothWays, tilts, margin, null, null, inOrder).Holds);

    [Theory]
    [InlineData(true, true, false, "bad")]
    [InlineData(true, false, false, "bad")]
    [InlineData(false, true, true, "Ends, stroke and current as they should be")]
    [InlineData(false, false, null, "Stroke right; current not measured")]
    public void An_actuator(bool bad, bool current, bool? holds, string words) =>
        Assert.Equal(new SettingVerdict(words, holds), SettingVerdicts.Actuator([new("good", "", false), new("bad", "", bad)], current));

    [Theory]
    [InlineData("gap", false, true)]
    [InlineData("run", false, true)]
    [InlineData("marks", true, true)]
    [InlineData("marks", false, false)]
    public void Marks_are_taken_only_from_an_old_position_that_was_good(string school, bool good, bool taken) =>
        Assert.Equal(taken, ParkSchool.Find(school)!.Refuse(good) is null);
}
