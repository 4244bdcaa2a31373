using Screeline.Core.Access.Recording;

namespace Screeline.Core.Diagnosis;

/// <summary>
/// What the library knows of one family: its circuit, what can fail in it, what is observed, what can be tested, and what proves
/// the repair. The format <c>screeline/system@2</c>; meanings in docs/formats.md.
/// </summary>
public sealed record FaultSystem
{
    /// <summary>The family: starting, charging …</summary>
    public required string Id { get; init; }
    /// <summary>What people call it.</summary>
    public required string Title { get; init; }
    /// <summary>The part on trial, for sentences: "starter".</summary>
    public required string Motor { get; init; }
    /// <summary>What is commanded when the complaint is observed: "the start is commanded".</summary>
    public required string Command { get; init; }
    /// <summary>Its place among the families where they are offered, from 0; those of one place by their id.</summary>
    public int Order { get; init; }
    /// <summary>Kinds of setting (<see cref="Motion.SettingKinds"/>) that belong to its jobs, the most usual first.</summary>
    public IReadOnlyList<string> Settings { get; init; } = [];
    /// <summary>Quantities of the circuit, in an order in which each is worked out from those before it.</summary>
    public required IReadOnlyList<Parameter> Parameters { get; init; }
    /// <summary>Operating states.</summary>
    public required IReadOnlyList<OperatingState> States { get; init; }
    /// <summary>The circuit.</summary>
    public required IReadOnlyList<CircuitPart> Circuit { get; init; }
    /// <summary>Points a person can reach with a probe.</summary>
    public required IReadOnlyList<TestPoint> Points { get; init; }
    /// <summary>The circuit as it is drawn.</summary>
    public required CircuitDrawing Drawing { get; init; }
    /// <summary>What must come off before some points can be reached, unless the vehicle's map says otherwise.</summary>
    public required IReadOnlyList<AccessNeed> Access { get; init; }
    /// <summary>Remedies; faults that nothing outside the part tells apart share one.</summary>
    public required IReadOnlyList<Repair> Repairs { get; init; }
    /// <summary>The fault universe; the first one is "no fault".</summary>
    public required IReadOnlyList<Fault> Faults { get; init; }
    /// <summary>Behaviours that can be observed.</summary>
    public required IReadOnlyList<Behaviour> Behaviours { get; init; }
    /// <summary>Tests, in the order of the trade's tables.</summary>
    public required IReadOnlyList<FaultTest> Tests { get; init; }
    /// <summary>When each part of the four-way proof is shown, and when it has failed.</summary>
    public required IReadOnlyList<ProofRule> Proof { get; init; }
    /// <summary>What proves the repair.</summary>
    public required IReadOnlyList<ProofCheck> Checks { get; init; }
    /// <summary>Whether the vehicle may be driven meanwhile, by what was observed; the first that fits counts.</summary>
    public IReadOnlyList<DriveRule> DriveRules { get; init; } = [];
    /// <summary>What kills such a motor: asked before the vehicle goes back.</summary>
    public IReadOnlyList<RootCause> RootCauses { get; init; } = [];
    /// <summary>What its own file says of the work on any vehicle.</summary>
    public FamilyFrame OwnFrame { get; init; } = FamilyFrame.Empty;
    /// <summary>What is done on every vehicle of this family, with what all families share.</summary>
    public WorkFrame Frame { get; init; } = WorkFrame.Empty;

    /// <summary>The test with this id, or null.</summary>
    public FaultTest? Test(string id) => Tests.FirstOrDefault(t => t.Id == id);
    /// <summary>The proof check with this id, or null.</summary>
    public ProofCheck? Check(string id) => Checks.FirstOrDefault(c => c.Id == id);
    /// <summary>The remedy with this id, or null.</summary>
    public Repair? Repair(string id) => Repairs.FirstOrDefault(r => r.Id == id);
    /// <summary>The fault with this id, or null.</summary>
    public Fault? Fault(string id) => Faults.FirstOrDefault(f => f.Id == id);
    /// <summary>The parameters a vehicle may override.</summary>
    public IEnumerable<Parameter> VehicleParameters => Parameters.Where(p => p.Low is not null);
}

/// <summary>How a quantity is spread over vehicles that nobody measured.</summary>
public enum Spread
{
    /// <summary>One value.</summary>
    None,
    /// <summary>Evenly, the given share to both sides.</summary>
    Share,
    /// <summary>Evenly between two bounds.</summary>
    Even,
    /// <summary>Evenly over the orders of magnitude between two bounds above zero.</summary>
    Log,
}

/// <summary>How a value is drawn: a formula with a share to both sides, or a range.</summary>
/// <param name="Kind">The shape.</param>
/// <param name="Value">The middle; for a range what its bounds are multiplied by.</param>
/// <param name="Share">Share to both sides.</param>
/// <param name="From">Lower bound of a range.</param>
/// <param name="To">Upper bound of a range.</param>
/// <param name="Open">Of a range over orders of magnitude: the share of those that are open altogether (<see cref="OpenOhms"/>).</param>
public sealed record Draw(Spread Kind, Formula Value, double Share, double From, double To, double Open = 0)
{
    /// <summary>What is open, Ω.</summary>
    public const double OpenOhms = 1e7;

    /// <summary>The value at a place in the distribution.</summary>
    /// <param name="place">0 to 1.</param>
    /// <param name="values">Values of what comes before it.</param>
    public double At(double place, FormulaValues values) => Kind switch
    {
        Spread.Share => Value.At(values) * (1 + Share * (2 * place - 1)),
        Spread.Even => (From + (To - From) * place) * Value.At(values),
        Spread.Log when place > 1 - Open => OpenOhms,
        Spread.Log => From * Math.Pow(To / From, place / (1 - Open)) * Value.At(values),
        _ => Value.At(values),
    };
}

/// <summary>A quantity of the circuit.</summary>
/// <param name="Id">Identifier; formulas name it so.</param>
/// <param name="Title">What it is.</param>
/// <param name="Unit">Its unit in words, "" for a number.</param>
/// <param name="Draw">How it is drawn when the vehicle does not state it.</param>
/// <param name="Low">Least value a vehicle may state; null when a vehicle cannot state it.</param>
/// <param name="High">Greatest value a vehicle may state.</param>
/// <param name="Choices">Names of the values 0, 1, … when it is a choice; else empty.</param>
/// <param name="Shares">How common each choice is, summing to 1.</param>
public sealed record Parameter(string Id, string Title, string Unit, Draw Draw, double? Low, double? High, IReadOnlyList<string> Choices, IReadOnlyList<double> Shares);

/// <summary>An operating state: what is switched on.</summary>
/// <param name="Id">Identifier.</param>
/// <param name="Title">In words: "Start held".</param>
/// <param name="Commanded">Whether the motor is asked to run.</param>
/// <param name="Controls">Values of the controls that formulas name; those not given are 0.</param>
public sealed record OperatingState(string Id, string Title, bool Commanded, IReadOnlyDictionary<string, double> Controls);

/// <summary>An element of the circuit with its values as formulas.</summary>
/// <param name="Id">Identifier.</param>
/// <param name="Kind">battery, wire, resistor, switch, relay, fuse, lamp, diode, source, chopped, motor, two-brush-motor.</param>
/// <param name="Nodes">Its nodes, in the order of the kind.</param>
/// <param name="Values">Its values, in the order of <see cref="CircuitBuilder.Kinds"/>.</param>
public sealed record CircuitPart(string Id, string Kind, IReadOnlyList<string> Nodes, IReadOnlyList<Formula> Values);

/// <summary>A point that a person can reach with a probe.</summary>
/// <param name="Id">Identifier.</param>
/// <param name="Title">Its name.</param>
/// <param name="Node">The circuit's node.</param>
/// <param name="X">Where it is drawn.</param>
/// <param name="Y">Where it is drawn.</param>
public sealed record TestPoint(string Id, string Title, string Node, int X, int Y);

/// <summary>The drawing of a circuit on an 8-unit grid, source left, motor right, ground along the bottom.</summary>
public sealed record CircuitDrawing(int Width, int Height, IReadOnlyList<DrawnWire> Wires, IReadOnlyList<DrawnSymbol> Symbols);

/// <summary>A drawn wire.</summary>
/// <param name="Path">Corners "x y" as an SVG path.</param>
/// <param name="Element">The element whose current it carries, or null.</param>
public sealed record DrawnWire(string Path, string? Element);

/// <summary>A drawn object.</summary>
/// <param name="Kind">battery, switch, relay, fuse, motor, lamp, resistor, module, generator, box.</param>
/// <param name="X">Its middle.</param>
/// <param name="Y">Its middle.</param>
/// <param name="Label">What it is called.</param>
/// <param name="LabelX">Left end of the label.</param>
/// <param name="LabelY">Base line of the label.</param>
/// <param name="Width">Width of a module, to where its wires end.</param>
/// <param name="Height">Height of a module.</param>
public sealed record DrawnSymbol(string Kind, int X, int Y, string Label, int LabelX, int LabelY, int Width, int Height);

/// <summary>Something that must be off or open before a test.</summary>
/// <param name="Id">Identifier; a vehicle's map that has an operation of this id tells the minutes.</param>
/// <param name="Title">What it is.</param>
/// <param name="Minutes">Minutes when no map knows better.</param>
/// <param name="Needs">Others that come first.</param>
public sealed record AccessNeed(string Id, string Title, double Minutes, IReadOnlyList<string> Needs);

/// <summary>A remedy.</summary>
/// <param name="Id">Identifier.</param>
/// <param name="Name">What is to blame, as a noun: "starter".</param>
/// <param name="Title">What is done: "starter replaced".</param>
/// <param name="Part">The part of the proof that fails when this is needed; null for the motor itself.</param>
/// <param name="Minutes">Labour without a map of its own.</param>
/// <param name="Price">Parts.</param>
/// <param name="Nothing">Whether nothing is repaired: no fault, or something the operator sets right.</param>
/// <param name="Proof">What proves it: any of the alternatives, each of which sees both sides of the thing. Empty for the motor, which the four parts prove.</param>
public sealed record Repair(string Id, string Name, string Title, ProofPart? Part, double Minutes, double Price, bool Nothing, IReadOnlyList<IReadOnlyList<ProofCondition>> Proof)
{
    /// <summary>Whether it condemns the motor.</summary>
    public bool IsMotor => Part is null && !Nothing;
}

/// <summary>Something that can be wrong.</summary>
/// <param name="Id">Identifier.</param>
/// <param name="Title">What it is.</param>
/// <param name="Repair">Its remedy.</param>
/// <param name="Prior">How common it is, relative to the others of its family.</param>
/// <param name="Set">What it does to the parameters.</param>
/// <param name="Signs">By test: the chance of each answer, where physics does not decide it.</param>
/// <param name="Cold">Chance per attempt that it shows when cold: from, to.</param>
/// <param name="Hot">The same when hot.</param>
/// <param name="When">Which vehicles can have it, by their choices; null for all.</param>
public sealed record Fault(string Id, string Title, string Repair, double Prior, IReadOnlyDictionary<string, Draw> Set, IReadOnlyDictionary<string, IReadOnlyDictionary<string, double>> Signs, (double From, double To) Cold, (double From, double To) Hot, Formula? When)
{
    /// <summary>Whether it shows now and then only.</summary>
    public bool IsIntermittent => Cold != (1, 1) || Hot != (1, 1);
}

/// <summary>Something a person can see, hear or feel when the motor is commanded.</summary>
/// <param name="Id">Identifier.</param>
/// <param name="Title">In plain words.</param>
/// <param name="Test">The test whose answer it is.</param>
/// <param name="Choice">The answer.</param>
/// <param name="Dead">Whether the motor does not move at all then, so that it cannot be run to a place either.</param>
public sealed record Behaviour(string Id, string Title, string Test, string Choice, bool Dead = false);

/// <summary>Whether a vehicle may be driven before it is repaired.</summary>
public enum MayDrive
{
    /// <summary>Yes.</summary>
    Yes,
    /// <summary>Only as the words say.</summary>
    Limited,
    /// <summary>No.</summary>
    No,
}

/// <summary>A rule on driving meanwhile.</summary>
/// <param name="When">Behaviours of which one is enough; empty for what no other rule covers.</param>
/// <param name="Answer">The answer.</param>
/// <param name="Words">Why, and what to mind.</param>
public sealed record DriveRule(IReadOnlyList<string> When, MayDrive Answer, string Words);

/// <summary>What killed a part.</summary>
/// <param name="Id">Identifier.</param>
/// <param name="Title">In words.</param>
/// <param name="Remedy">What is done about it, so that the next one lives longer.</param>
public sealed record RootCause(string Id, string Title, string Remedy);

/// <summary>How a reading comes about.</summary>
public enum Measure
{
    /// <summary>A voltmeter between two points.</summary>
    Volts,
    /// <summary>A clamp round an element's wire, or a meter in series.</summary>
    Amperes,
    /// <summary>An ohmmeter between two points of what is disconnected.</summary>
    Ohms,
    /// <summary>A test lamp between two points.</summary>
    Lamp,
    /// <summary>Worked out by a formula from the simulated state: speeds, times, ripple.</summary>
    Gauge,
    /// <summary>Seen, heard or felt: by rules from the simulated state, else by stated chances.</summary>
    Seen,
    /// <summary>The command is given ten times: does it fail always, sometimes, never?</summary>
    Attempts,
}

/// <summary>An answer that follows from the simulated state.</summary>
/// <param name="Choice">The answer.</param>
/// <param name="When">The condition; the first rule that holds decides.</param>
public sealed record SeenRule(string Choice, Formula When);

/// <summary>A test of Find.</summary>
public sealed record FaultTest : Question
{
    /// <summary>Expected minutes once the place is reached.</summary>
    public required decimal Minutes { get; init; }
    /// <summary>Where it is done, in words.</summary>
    public required string Where { get; init; }
    /// <summary>People it takes.</summary>
    public required int People { get; init; }
    /// <summary>How one does it alone where it takes two; null where there is no safe way, or none is needed.</summary>
    public AloneWay? Alone { get; init; }
    /// <summary>What must not be known to be otherwise for it to be worth offering: the time of a window that stands cannot be taken.</summary>
    public required IReadOnlyList<ProofCondition> Wants { get; init; }
    /// <summary>The operating state it is done in.</summary>
    public required OperatingState State { get; init; }
    /// <summary>Why it is worth doing.</summary>
    public required string Why { get; init; }
    /// <summary>Points that are probed.</summary>
    public required IReadOnlyList<string> Probes { get; init; }
    /// <summary>What must be off first.</summary>
    public required IReadOnlyList<string> Access { get; init; }
    /// <summary>How the reading comes about.</summary>
    public required Measure Measure { get; init; }
    /// <summary>The element that is clamped, for <see cref="Measure.Amperes"/>.</summary>
    public string? Element { get; init; }
    /// <summary>The formula, for <see cref="Measure.Gauge"/>.</summary>
    public Formula? Value { get; init; }
    /// <summary>Rules, for <see cref="Measure.Seen"/>.</summary>
    public required IReadOnlyList<SeenRule> Rules { get; init; }
    /// <summary>Chances of the answers when neither a fault nor a rule decides; also how surely an answer is recognised.</summary>
    public required IReadOnlyDictionary<string, double> Usual { get; init; }
    /// <summary>Standard error of the reading, fixed part, in its unit.</summary>
    public required double Accuracy { get; init; }
    /// <summary>Standard error of the reading as a share of it.</summary>
    public required double Relative { get; init; }
    /// <summary>Whether it is done with the system hot.</summary>
    public required bool Hot { get; init; }
    /// <summary>Readings it follows from by addition, so that it need not be taken: test and sign.</summary>
    public required IReadOnlyList<(string Test, int Sign)> WorkedOutFrom { get; init; }
    /// <summary>What can hurt somebody, told before the reading is taken; null when nothing can.</summary>
    public string? Caution { get; init; }
    /// <summary>Whether it is part of the complaint, and so never proposed.</summary>
    public required bool Complaint { get; init; }
    /// <summary>Whether the motor is commanded meanwhile, so that its own current flows if it can.</summary>
    public bool Commanded => State.Commanded;
}

/// <summary>A safe way for one to do a test that takes two.</summary>
/// <param name="Minutes">Minutes in place of the test's own.</param>
/// <param name="How">How it is done, in place of the test's own words.</param>
public sealed record AloneWay(decimal Minutes, string How);

/// <summary>When a part of the proof is shown or failed: any of the alternatives, each of which needs all its conditions.</summary>
public sealed record ProofRule(ProofPart Part, IReadOnlyList<IReadOnlyList<ProofCondition>> Shown, IReadOnlyList<IReadOnlyList<ProofCondition>> Failed);

/// <summary>A condition on one test: its reading is good, or not, or a given answer, or any but a given answer.</summary>
/// <param name="Test">The test.</param>
/// <param name="Choice">The answer meant; null when goodness is meant.</param>
/// <param name="Negated">Whether the opposite is asked for.</param>
public sealed record ProofCondition(string Test, string? Choice, bool Negated);
