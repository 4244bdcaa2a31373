namespace Screeline.Core.Diagnosis;

/// <summary>A fault with its chance.</summary>
public sealed record Belief(Fault Fault, double Probability, double Prior);

/// <summary>A repair with its chance.</summary>
/// <param name="Repair">The repair.</param>
/// <param name="Probability">Its chance now.</param>
/// <param name="Prior">Its chance before any reading.</param>
public sealed record RepairBelief(Repair Repair, double Probability, double Prior);

/// <summary>What equipment the vehicle is likely to have, where it bears on what is read.</summary>
/// <param name="Parameter">The choice.</param>
/// <param name="Choice">The likeliest: its number among the parameter's choices.</param>
/// <param name="Probability">Its chance.</param>
/// <param name="Stated">What the vehicle's file states, by number; null when it states nothing.</param>
public sealed record EquipmentBelief(Parameter Parameter, int Choice, double Probability, int? Stated)
{
    /// <summary>Whether what was read speaks for other equipment than the file states.</summary>
    public bool IsContradicted => Stated is { } stated && stated != Choice;
}

/// <summary>What one reading says.</summary>
/// <param name="Test">The test; null for attempts before anything was measured.</param>
/// <param name="Value">The number in the test's unit; null for an answer.</param>
/// <param name="Choices">The answers; empty for a number.</param>
/// <param name="ExpectedLow">What 19 of 20 good vehicles would read at least, in the test's unit; null for an answer.</param>
/// <param name="ExpectedHigh">And at most.</param>
/// <param name="ExpectedChoice">The answer a good vehicle gives most often; null for a number.</param>
/// <param name="SpeaksFor">Faults it makes likelier, the most first.</param>
/// <param name="SpeaksAgainst">Faults it makes less likely.</param>
/// <param name="Bits">How far it moves the beliefs, given all other readings: the Kullback-Leibler divergence over faults, bit.</param>
/// <param name="Outlier">The chance that it is not what the vehicle gave.</param>
public sealed record EvidenceLine(FaultTest? Test, double? Value, IReadOnlyList<string> Choices, double? ExpectedLow, double? ExpectedHigh, string? ExpectedChoice, IReadOnlyList<Fault> SpeaksFor, IReadOnlyList<Fault> SpeaksAgainst, double Bits, double Outlier);

/// <summary>A test that could be done next.</summary>
/// <param name="Test">The test.</param>
/// <param name="GainBits">Expected information about the repair, bit.</param>
/// <param name="Minutes">Minutes of the test, every person's counted.</param>
/// <param name="AccessMinutes">Minutes to get there from what is off already; removal only.</param>
/// <param name="GoingMinutes">Minutes to go there and to call a second person, from where one is.</param>
/// <param name="ForProof">Whether it is proposed because the proof lacks it.</param>
/// <param name="Because">Why, in one line.</param>
public sealed record NextTest(FaultTest Test, double GainBits, double Minutes, double AccessMinutes, double GoingMinutes, bool ForProof, string Because)
{
    /// <summary>Expected information per minute.</summary>
    public double GainPerMinute => GainBits / Math.Max(0.1, AllMinutes);

    /// <summary>All minutes until it is done.</summary>
    public double AllMinutes => Minutes + AccessMinutes + GoingMinutes;
}

/// <summary>What is done in one visit: tests in order, each kept as it is read, in whatever order they are read.</summary>
/// <param name="Tests">The tests; the first is the top of what comes next.</param>
/// <param name="Minutes">Minutes of all of them with the ways between, every person's counted.</param>
/// <param name="ForProof">Whether they complete a proof, if they come out as expected.</param>
public sealed record Round(IReadOnlyList<FaultTest> Tests, double Minutes, bool ForProof);

/// <summary>What to do now.</summary>
public enum Act
{
    /// <summary>Nothing is known or nothing is to be done.</summary>
    None,
    /// <summary>Test on.</summary>
    Test,
    /// <summary>Acting now is cheaper than testing on; by likelihood, and called a guess.</summary>
    Guess,
    /// <summary>The four-way proof stands.</summary>
    Proven,
}

/// <summary>Stop or go on, as money.</summary>
/// <param name="Act">What to do.</param>
/// <param name="Repair">The repair that acting now would mean; null when there is none.</param>
/// <param name="Test">The test that comes next; null when none is left.</param>
/// <param name="Why">Why, in one line.</param>
/// <param name="CostNow">Expected cost of acting now on that repair.</param>
/// <param name="CostTested">Expected cost of doing that test first and then acting on what is best; null without a test.</param>
/// <param name="ChanceWrong">Chance that the repair is not the right one.</param>
/// <param name="CostOfRepair">Parts and labour of the repair.</param>
/// <param name="CostIfWrong">What a wrong one costs more than it: the comeback and the right repair, on average.</param>
public sealed record MoneyDecision(Act Act, Repair? Repair, FaultTest? Test, string Why, double CostNow, double? CostTested, double ChanceWrong, double CostOfRepair, double CostIfWrong);

/// <summary>The whole judgement of a case.</summary>
/// <param name="Beliefs">Faults, the likeliest first.</param>
/// <param name="Repairs">Repairs, the likeliest first.</param>
/// <param name="Evidence">What each reading says, in the order of the tests.</param>
/// <param name="Next">Tests that could be done next, the best first.</param>
/// <param name="Round">What of that is done in one visit.</param>
/// <param name="Proof">The four-way proof.</param>
/// <param name="Decision">Stop or go on.</param>
/// <param name="Equipment">What equipment the vehicle is likely to have, where that bears on what is read.</param>
/// <param name="Unknown">The chance that it is something that is not known here.</param>
/// <param name="Surprise">Set when no fault known here explains all readings; says which.</param>
/// <param name="Contradiction">The readings that contradict each other, and which to take again.</param>
/// <param name="Unsolved">Sampled circuits without a steady state, which were left out.</param>
public sealed record Judgement(IReadOnlyList<Belief> Beliefs, IReadOnlyList<RepairBelief> Repairs, IReadOnlyList<EvidenceLine> Evidence, IReadOnlyList<NextTest> Next, Round Round, Finding Proof, MoneyDecision Decision, IReadOnlyList<EquipmentBelief> Equipment, double Unknown, string? Surprise, Contradiction? Contradiction, int Unsolved);
