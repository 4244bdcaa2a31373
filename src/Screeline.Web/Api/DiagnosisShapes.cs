namespace Screeline.Web.Api;

/// <summary>A family in the list.</summary>
public sealed record SystemLine(string Id, string Title, int Faults, int Tests);

/// <summary>A family.</summary>
public sealed record SystemOutput(string Id, string Title, IReadOnlyList<ParameterOutput> Parameters, IReadOnlyList<RepairOutput> Repairs, IReadOnlyList<FaultLine> Faults, IReadOnlyList<TestOutput> Tests);

/// <summary>A parameter that a vehicle may state.</summary>
/// <param name="Id">Identifier.</param>
/// <param name="Title">What it is.</param>
/// <param name="Unit">Its unit.</param>
/// <param name="Low">Least value.</param>
/// <param name="High">Greatest value.</param>
/// <param name="Choices">Names of the values 0, 1, … where it is a choice.</param>
public sealed record ParameterOutput(string Id, string Title, string Unit, double Low, double High, IReadOnlyList<string>? Choices);

/// <summary>A remedy; faults with the same one are one class.</summary>
public sealed record RepairOutput(string Id, string Title, string? Part, double Minutes, double Price);

/// <summary>A fault with its chance before any reading.</summary>
public sealed record FaultLine(string Id, string Title, string Repair, double Prior);

/// <summary>A test. Accuracy is the fixed standard error in the test's unit, relative the share of the reading; good is told for 12 V.</summary>
public sealed record TestOutput(string Id, string Title, string? Unit, IReadOnlyList<string>? Choices, double Minutes, string Position, IReadOnlyList<string> Access, int People, double? Accuracy, double? Relative, string? Good, string State, bool Complaint);

/// <summary>What is asked.</summary>
/// <param name="System">The family.</param>
/// <param name="Vehicle">Stated parameters: numbers, or the name of a choice.</param>
/// <param name="TemperatureC">Temperature here and now, °C; 20 when left out.</param>
/// <param name="Readings">Readings in any order.</param>
/// <param name="Done">Access needs that are met already.</param>
/// <param name="At">Where one is; left out, nowhere yet.</param>
/// <param name="Assumptions">Money; left out, the usual figures count.</param>
/// <param name="HistoryOfModel">A vehicle model whose closed jobs shall shift the priors; left out, none do.</param>
public sealed record DiagnosisInput(string System, IReadOnlyDictionary<string, double>? Vehicle, double? TemperatureC, IReadOnlyList<ReadingInput> Readings, IReadOnlyList<string>? Done, AtInput? At, AssumptionsInput? Assumptions, string? HistoryOfModel);

/// <summary>A reading: a value with its unit, or a choice; and the temperature it was taken at, °C, where it was not the one of here and now.</summary>
public sealed record ReadingInput(string Test, double? Value, string? Unit, string? Choice, double? TemperatureC);

/// <summary>Money.</summary>
public sealed record AssumptionsInput(double? LabourPerHour, double? Comeback, IReadOnlyDictionary<string, double>? Minutes, IReadOnlyDictionary<string, double>? Prices);

/// <summary>The judgement.</summary>
public sealed record DiagnosisOutput(IReadOnlyList<BeliefOutput> Beliefs, IReadOnlyList<RepairBeliefOutput> Repairs, IReadOnlyList<EvidenceOutput> Evidence, IReadOnlyList<NextOutput> Next, RoundOutput Round, IReadOnlyDictionary<string, string> Proof, DecisionOutput Decision, IReadOnlyList<EquipmentOutput> Equipment, double Unknown, string? Surprise, IReadOnlyList<string>? Contradiction);

/// <summary>What equipment the vehicle is likely to have: a parameter, the likeliest choice by name, its chance, and what was stated.</summary>
public sealed record EquipmentOutput(string Parameter, string Choice, double Probability, string? Stated);

/// <summary>A fault with its chance.</summary>
public sealed record BeliefOutput(string Fault, string Repair, double Probability);

/// <summary>A repair with its chance.</summary>
public sealed record RepairBeliefOutput(string Repair, double Probability);

/// <summary>What a reading says.</summary>
public sealed record EvidenceOutput(string Test, double? Value, string? Unit, IReadOnlyList<string>? Choices, IReadOnlyList<double>? ExpectedIfGood, string? ExpectedChoice, IReadOnlyList<string> SpeaksFor, IReadOnlyList<string> SpeaksAgainst, double Bits);

/// <summary>A test that could be done next; every person's minutes count.</summary>
public sealed record NextOutput(string Test, double GainBits, double Minutes, double AccessMinutes, double GoingMinutes, double GainPerMinute, string Because);

/// <summary>Where one is: a place in the words of the tests, whether a second person is there, and whether there is nobody to call.</summary>
public sealed record AtInput(string? Place, bool? Helper, bool? Alone);

/// <summary>What is done in one visit: tests in order, and minutes of all with the ways between.</summary>
public sealed record RoundOutput(IReadOnlyList<string> Tests, double Minutes, bool ForProof);

/// <summary>Stop or go on: proven, guess, test or none.</summary>
public sealed record DecisionOutput(string Act, string? Repair, string? Test, string Why, CostOutput ExpectedCost);

/// <summary>Expected cost of acting now, and of doing the best test first.</summary>
public sealed record CostOutput(double Now, double? AfterTest, double ChanceWrong, double Repair, double IfWrong);

/// <summary>Faults in a request.</summary>
public sealed record FaultsOutput(IReadOnlyList<FaultOutput> Faults);

/// <summary>A fault with its JSON path.</summary>
public sealed record FaultOutput(string Path, string Message);
