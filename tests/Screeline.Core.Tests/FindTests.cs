using Screeline.Core.Diagnosis;
using Screeline.Core.Quantities;
using Screeline.Library;

namespace Screeline.Core.Tests;

/// <summary>
/// The four-way proof for starters against facts of the trade. Every limit here is common practice, no source; the cases follow
/// the reasoning that only the motor's own current shows power and ground.
/// </summary>
public sealed class FindTests
{
    private static readonly FaultSystem Starting = ShippedLibrary.Load().System("starting")!;

    private const string R = "battery-rest", B = "battery-cranking", G = "ground-drop-cranking", T = "switched-terminal-cranking", E = "engine-turns";

    /// <summary>behaviour; readings; the four parts (s shown, f failed, o open) in the order power, ground, command, mechanical; verdict.</summary>
    public static TheoryData<string, string, string, FindVerdict> Cases => new()
    {
        { "one-clunk", "", "oooo", FindVerdict.Open },
        // A low battery is what has failed: it is recharged and tested again before anything else is condemned.
        { "chatter", "battery-rest=12.3", "fooo", FindVerdict.Elsewhere },
        { "chatter", "battery-rest=12.3;battery-rest=12.6", "oooo", FindVerdict.Open },
        // A meter and a lamp without the motor's own current show neither power nor ground.
        { "chatter", "battery-rest=12.6;main-terminal-key-off=12.6;lamp-main-terminal=bright", "oooo", FindVerdict.Open },
        // Volts at the starter alone say nothing without the battery's own at that moment.
        { "one-clunk", "battery-rest=12.6;starter-volts-cranking=12.2", "oooo", FindVerdict.Open },
        // Within one volt of the battery while commanded: power and ground at once.
        { "one-clunk", "battery-rest=12.6;battery-cranking=12.3;starter-volts-cranking=12.1", "ssoo", FindVerdict.Open },
        // A solid clunk, all shown and hardly any sag: the starter is open inside, condemned.
        { "one-clunk", "battery-rest=12.6;battery-cranking=12.4;starter-volts-cranking=12.3;switched-terminal-cranking=12;engine-turns=turns", "ssss", FindVerdict.MotorProven },
        // A clunk with a deep sag shows the command: current flows. The engine is turned by hand before anything is condemned.
        { "one-clunk", "battery-rest=12.6;battery-cranking=8.4", "ooso", FindVerdict.Open },
        { "one-clunk", "battery-rest=12.6;battery-cranking=8.4;engine-turns=stuck", "oosf", FindVerdict.Elsewhere },
        // Still sagging with a free engine: weak battery or stalled starter, told apart by the load test.
        { "one-clunk", "battery-rest=12.6;battery-cranking=8.4;engine-turns=turns;starter-volts-cranking=8.1", "osss", FindVerdict.Open },
        { "one-clunk", "battery-rest=12.6;battery-cranking=8.4;engine-turns=turns;starter-volts-cranking=8.1;battery-load=9.9;switched-terminal-cranking=9.1", "ssss", FindVerdict.MotorProven },
        { "slow-crank", "battery-rest=12.6;battery-cranking=8.4;engine-turns=turns;starter-volts-cranking=8.1;battery-load=8.2", "fsss", FindVerdict.Elsewhere },
        // Volts lost, side unknown.
        { "slow-crank", "battery-rest=12.6;battery-cranking=11;starter-volts-cranking=9", "ooso", FindVerdict.Open },
        // 1.6 of 2 V on the ground side: the ground failed, the plus side is still good.
        { "slow-crank", "battery-rest=12.6;battery-cranking=11.3;starter-volts-cranking=9.4;ground-drop-cranking=1.6", "sfso", FindVerdict.Elsewhere },
        // 20 milliohms in the cable at 100 A cost 2 V: the plus side failed, whatever the lamp said.
        { "slow-crank", "lamp-main-terminal=bright;battery-rest=12.6;battery-cranking=11.3;starter-volts-cranking=9.2;ground-drop-cranking=0.1", "fsso", FindVerdict.Elsewhere },
        // Within a volt in all, but nearly all of it on the plus side: 0.8 V is more than a cable may lose.
        { "slow-crank", "battery-rest=12.6;battery-cranking=11.3;starter-volts-cranking=10.4;ground-drop-cranking=0.1", "fsso", FindVerdict.Elsewhere },
        // Nothing at the switched terminal: the command chain, not the starter.
        { "silence", "battery-rest=12.6;battery-cranking=12.6;starter-volts-cranking=12.6;switched-terminal-cranking=0.1", "ssfo", FindVerdict.Elsewhere },
        // A starter that whirrs has power, ground and command; it is condemned only when the ring gear was looked at.
        { "whirr", "engine-turns=turns", "ssso", FindVerdict.Open },
        { "whirr", "engine-turns=turns;ring-gear-looked=sound", "ssss", FindVerdict.MotorProven },
        { "whirr", "engine-turns=turns;ring-gear-looked=broken", "sssf", FindVerdict.Elsewhere },
    };

    [Theory]
    [MemberData(nameof(Cases))]
    public void The_proof_follows_the_trade(string behaviour, string readings, string proof, FindVerdict verdict)
    {
        var finding = FourWayProof.Assess(Case(12, behaviour, readings));
        Assert.Equal(proof, string.Concat(finding.Proof.Select(l => l.State switch { ProofState.Shown => 's', ProofState.Failed => 'f', _ => 'o' })));
        Assert.Equal(verdict, finding.Verdict);
        Assert.All(finding.Proof, l => Assert.NotEmpty(l.Because));
    }

    [Fact]
    public void Limits_double_on_a_24_volt_system()
    {
        Assert.Equal(FindVerdict.MotorProven, FourWayProof.Assess(Case(24, "one-clunk", "battery-rest=25.2;battery-cranking=24.4;starter-volts-cranking=22.6;switched-terminal-cranking=23;engine-turns=turns")).Verdict);
        Assert.Equal(ProofState.Failed, FourWayProof.Assess(Case(24, "one-clunk", "battery-rest=24.4"))[ProofPart.Power].State);
        Assert.Equal("at least 19.2 V", Starting.Test(B)!.GoodWords(24));
    }

    [Fact]
    public void What_is_missing_is_named_and_settles_the_proof()
    {
        var c = Case(12, "one-clunk", "");
        for (var i = 0; i < 10 && FourWayProof.Assess(c) is { Verdict: FindVerdict.Open, Missing: [var test, ..] }; i++)
        {
            c = c with { Readings = [.. c.Readings, test.Unit is null ? new Evidence(test.Id, null, test.GoodChoice) : new Evidence(test.Id, new Figure(test.Id.Contains("drop", StringComparison.Ordinal) ? 0.05m : 12.5m, test.Unit), null)] };
        }

        Assert.Equal(FindVerdict.MotorProven, FourWayProof.Assess(c).Verdict);
    }

    [Fact]
    public void A_drop_that_follows_from_other_readings_need_not_be_taken()
    {
        var c = Case(12, "slow-crank", "battery-cranking=11.3;starter-volts-cranking=9.2;ground-drop-cranking=0.1");
        Assert.Equal(2.0m, c.Value("cable-drop-cranking"));
        Assert.Equal("2.0 V", c.Told("cable-drop-cranking"));
        Assert.Equal(0.3m, (c with { Readings = [.. c.Readings, new Evidence("cable-drop-cranking", new Figure(0.3m, Units.Volt), null)] }).Value("cable-drop-cranking"));
    }

    [Theory]
    [InlineData(R, "12,4", 12, true, null)]
    [InlineData(R, "12400 mV", 12, true, null)]
    [InlineData(R, "125", 12, false, "125 V on a 12 V system cannot be. Meant 12.5 V?")]
    [InlineData(R, "12400", 12, false, "Meant 12.4 V?")]
    [InlineData(R, "25.2", 24, true, null)]
    [InlineData(R, "25.2", 12, false, "Meant 2.52 V?")]
    [InlineData(B, "-12.2", 12, false, "Meant 12.2 V?")]
    [InlineData(R, "12.4 A", 12, false, "measures a current")]
    [InlineData(E, "12.4", 12, false, "Choose one")]
    public void A_doubtful_reading_is_questioned(string test, string typed, int volts, bool taken, string? reason)
    {
        var (value, _, refusal) = Starting.Test(test)!.ReadAnswer(typed, null, volts);
        Assert.Equal(taken, value is not null);
        Assert.Contains(reason ?? "", refusal ?? "", StringComparison.Ordinal);
    }

    [Theory]
    [InlineData(R, 12.4, true)]
    [InlineData(R, 12.39, false)]
    [InlineData(B, 9.6, true)]
    [InlineData(B, 9.5, false)]
    [InlineData(G, 0.2, true)]
    [InlineData(G, 0.21, false)]
    [InlineData(T, 9.0, true)]
    [InlineData(T, 8.9, false)]
    public void Limits_are_those_of_common_practice(string test, double volts, bool good) =>
        Assert.Equal(good, Starting.Test(test)!.IsGood(new Figure((decimal)volts, Units.Volt), null, 12, _ => null));

    internal static FindCase Case(decimal volts, string behaviour, string readings) => CaseOf(Starting, volts, behaviour, readings);

    internal static FindCase CaseOf(FaultSystem system, decimal volts, string behaviours, string readings) => new(system, volts, behaviours.Split(' ', StringSplitOptions.RemoveEmptyEntries),
        [.. readings.Split(';', StringSplitOptions.RemoveEmptyEntries).Select(r => r.Split('=')).Select(r =>
            decimal.TryParse(r[1], System.Globalization.CultureInfo.InvariantCulture, out var v)
                ? new Evidence(r[0], new Figure(v, system.Test(r[0])!.Unit!), null)
                : new Evidence(r[0], null, r[1]))]);

    /// <summary>What a meter cannot tell is open, in a word, and never a large number of ohms.</summary>
    [Theory]
    [InlineData("OL")]
    [InlineData("open")]
    [InlineData(" ol ")]
    [InlineData("20 Mohm")]
    public void Open_is_told_with_a_word(string typed)
    {
        var test = JobStory.Library.System("blower")!.Test("pack-ohms")!;
        var (value, _, reason) = test.ReadAnswer(typed, null, 12);
        Assert.True(reason is null && value is not null, reason);
        Assert.Equal("open", value.ToString());
        Assert.False(test.IsGood(value, null, 12, _ => null));
        // A voltage cannot be open.
        Assert.NotNull(JobStory.Library.System("blower")!.Test("plug-volts")!.ReadAnswer("OL", null, 12).Reason);
    }
}
