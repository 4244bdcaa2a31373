using Screeline.Core.Access;
using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using FsCheck;
using FsCheck.Xunit;
using Screeline.Core.Access.Recording;
using Screeline.Core.Fastening;
using Screeline.Core.Formats;
using Screeline.Core.Jobs;
using Screeline.Core.People;
using Screeline.Core.Quantities;

namespace Screeline.Core.Tests;

/// <summary>Entries as bytes: canonical, hashed, versioned, and what commutes.</summary>
public sealed class EntryTests
{
    public static IReadOnlyList<Payload> Samples { get; } =
    [
        new JobOpened(Guid.NewGuid(), "v", "m", 12, "starting", "w", DateTimeOffset.UnixEpoch),
        new ComplaintNoted("“w” ü", ["silence"], "x", 3, 2, null),
        new ReadingTaken("battery-rest", new Figure(12.40m, Units.Volt), null),
        new ReadingTaken("engine-turns", null, "turns", -12),
        new DecisionMade(DecisionAct.Guess, "r", "w"),
        new RouteTaken("h", "t", ["a"], ["a"]),
        new StepDone(WorkPhase.Refit, "a", 3, [new FastenerOutcome("f", 1, 0, 0)]),
        new FastenerFound("a", "f", FastenerState.OtherSize, 1, "hex-15", "n"),
        new TorqueSet("a", "f", TorqueHow.Wrench, new Figure(27, Units.PoundForceInch), null),
        new TorqueSet("a", "f", TorqueHow.ByHand, null, null),
        new TorqueSet("a", "f", TorqueHow.NotDone, null, null, Why: "no room"),
        new ProofTaken("c", new Figure(0.2m, Units.Volt), null, 4.5),
        new ToolBack("t"),
        new TorqueSet("a", "f", TorqueHow.Wrench, new Figure(8, Units.NewtonMetre), "w", new Figure(71, Units.PoundForceInch), 90),
        new ExtraFound("a", "found-1", "tray", "screw", "T30", "M6", 16.5m, 1, "behind the flap"),
        new StepException("a", StepTrouble.Clings, null),
        new TemporaryConnection("window switch", "a", true),
        new FastenersCounted(WorkPhase.Apart, "a", "f", 3),
        new TimerStarted("a", TimerKind.Soak, 10, "soaks"),
        new TimerEnded(Guid.NewGuid()),
        new NoteAdded(null, "n"),
        new PictureTaken("a", new string('a', 64), 1600, 1200, null, Guid.NewGuid()),
        new PinsSet(Guid.NewGuid(), [new Pin(PinKind.Wire, [new PinPoint(1.5m, 2), new PinPoint(3, 4)], null)]),
        new PartCompared("teeth", false, "one more"),
        new PartChosen("o", "Starter, rebuilt", 245, 60),
        new PartCarried("loom-bracket"),
        new CoreReturned(),
        new ToolLeft("locking pin", "cam wheel", null),
        new LeftOverFound("M6 screw", 1),
        new LeftOverSettled(Guid.NewGuid(), "belongs to the arch liner"),
        new DifferenceSigned("on order", ["undertray/edge:1"]),
        new SettingKept("tips-set", "wiper", "Tips in their bands", true, new Dictionary<string, string> { ["park0"] = "10", ["l-crank"] = "42" }),
        new WaitingSet("p", DateTimeOffset.UnixEpoch),
        new HandedBack("f", null, null),
        new HandedBack("f", null, null, new CauseSaid("age", "noted"), ["five-starts"]),
        new HandedBack("f", null, null, new CauseSaid("age", null), ["five-starts"]),
        new CauseTold(new CauseSaid(CauseSaid.Unknown, null)),
        new JointChecked("a", "f", "tightened again to the maker's figure"),
        new JobLeft(WayOut.Declined, "too dear", "the owner", false, "the old one in a bag", DateTimeOffset.UnixEpoch),
        new JobResumed(null),
        new ArrivalNoted(null, [], ["starter"], ["lower bolt"], ["two cables on one stud"], "no belt"),
        new IntakeNoted(["door scratched"], "SC 104", new MeterReading(123400, MeterUnit.Kilometres), "0100 22"),
        new IntakeNoted([]),
        new ArrivalNoted(null, [], [], [], []),
        new SeenBeside("leak", SeenUrgency.NextVisit, null),
        new JobLeft(WayOut.Scrapped, null, null, null),
        new SeenBeside("oil at the sump seam", SeenUrgency.Soon, null, new string('c', 64)),
        new SeenSettled(Guid.NewGuid(), SeenEnd.LetBe, null),
        new WorkClocked(ClockedMoment.Pause),
        new StepDone(WorkPhase.Apart, "a", 3, [], Together: true),
        new PictureTaken(null, new string('a', 64), 1600, 1200, null, null, PictureTaken.Intake),
        new SentBack("five-starts", "main-nut", "loose"),
        new PartCancelled("a nest"),
        new SecondWanted(Guid.NewGuid(), "Supports"),
        new SecondSigned(Guid.NewGuid()),
        new RecordingBegun(new string('d', 64), true, ["Remove the cover"]),
        new RecordingBegun(null, false, []),
        new GroupOut("screw", "T20", 3, 4),
        new GroupOut("bolt", "hex-13", 2, null, 35.5m, "M8", "the tray", "behind the flap", true, "rusty, with washers", "ratchet"),
        new TakenOff(TakenAct.Part, "Undertray", "under"),
        new TakenOff(TakenAct.Plug, "Blower plug", "footwell", true, "r-1", "cover-off", "left of the pedal", ["pick"]),
        new ExpectationStruck("shield", null),
        new DangersTold("Knorz", ["hot", "heavy"]),
        new WayTried("from above, past the intake", 12.5m, "bay"),
        new WayTried("from the arch"),
        new OnlyThis("r-2", ["r-1"]),
        new OrderMoved(WorkPhase.Refit, "r-2", null),
        new NeededFor("r-1", ["r-2"], ["r-3"]),
        new NeededFor("r-1", []),
        new BecauseOf("filled", "r-1"),
        new StepBesides("Pin greased", "under"),
        new SisterLooked("wherry-starter", "Plug faces the firewall", true),
        new PlaceTold(true, false),
        new FigureTold("r-2", "g-1", FigureFrom.Maker, new Figure(25, Units.NewtonMetre), "maker's manual"),
        new FigureTold("r-2", "g-1", FigureFrom.Worked, null, null, "M8", "8.8", Joint.LightAlloy, false),
        new JobImported("job-7.json", new string('a', 64), new string('b', 64)),
        new EntryWithdrawn(Guid.NewGuid()),
        new EntryCorrected(Guid.NewGuid(), JsonDocument.Parse("{\"tool\": \"t\"}").RootElement),
    ];

    [Fact]
    public void Every_kind_survives_its_JSON()
    {
        Assert.Equal(EntryKinds.All.ToHashSet(), Samples.Select(EntryKinds.ForPayload).ToHashSet());
        foreach (var sample in Samples)
        {
            var json = EntryKinds.Write(sample);
            var again = EntryKinds.Write(EntryKinds.Read(EntryKinds.ForPayload(sample).Tag, json));
            Assert.Equal(json.GetRawText(), again.GetRawText());
        }
    }

    /// <summary>What a payload works out of itself does not belong into what is hashed.</summary>
    [Fact]
    public void A_payload_writes_what_it_was_told_and_nothing_else() => Assert.All(Samples, sample =>
    {
        var told = sample.GetType().GetConstructors().MaxBy(c => c.GetParameters().Length)!.GetParameters().Select(p => JsonNamingPolicy.SnakeCaseLower.ConvertName(p.Name!));
        Assert.Empty(EntryKinds.Write(sample).EnumerateObject().Select(p => p.Name).Except(told));
    });

    /// <summary>What is left out where it is nothing has to be read so too.</summary>
    [Fact]
    public void What_a_payload_leaves_out_has_a_default() => Assert.All(EntryKinds.All, kind =>
    {
        var type = Samples.First(s => EntryKinds.ForPayload(s) == kind).GetType();
        var needed = type.GetConstructors().MaxBy(c => c.GetParameters().Length)!.GetParameters().Where(p => !p.HasDefaultValue).Select(p => type.GetProperty(p.Name!)!);
        Assert.DoesNotContain(needed, p => p.GetCustomAttributes(typeof(System.Text.Json.Serialization.JsonIgnoreAttribute), false).Length > 0);
    });

    [Fact]
    public void Every_kind_tells_itself_in_words() =>
        Assert.All(Samples, sample => Assert.NotEmpty(sample.Describe(new JobStory().OnItsWay().Job)));

    private abstract record Odd : Payload
    {
        public override string Subject() => "";

        public override string Describe(Job job) => "odd";

        protected override void Validate(Job job, EntryFaults faults)
        {
        }

        protected override string? OutOfOrder(Job job, DateTimeOffset at) => null;

        protected override void Apply(Job job, Entry entry)
        {
        }
    }

    private sealed record WithoutKind : Odd;

    private sealed record Inherits : Odd
    {
        public static string EntryKind => "odd";
    }

    private sealed record SameName : Odd
    {
        public static EntryKind EntryKind { get; } = Jobs.EntryKind.Observation("tool-back", Clash.Never, Role.Apprentice);
    }

    private sealed record BadName : Odd
    {
        public static EntryKind EntryKind { get; } = Jobs.EntryKind.Observation("Odd_thing", Clash.Never, Role.Apprentice);
    }

    private sealed record NoRight : Odd
    {
        public static EntryKind EntryKind { get; } = Jobs.EntryKind.Observation("odd", Clash.Never, Role.Viewer);
    }

    private sealed record NoWord : Odd
    {
        public static EntryKind EntryKind { get; } = Jobs.EntryKind.Decision("odd", Clash.Always, Clash.Always, Role.Foreman);
    }

    private sealed record ClashesWithNobody : Odd
    {
        public static EntryKind EntryKind { get; } = Jobs.EntryKind.Decision("odd", Clash.Always, Clash.Never, Role.Apprentice, with: new Dictionary<string, Clash> { ["even"] = Clash.Never });
    }

    private sealed record Complete : Odd
    {
        public static EntryKind EntryKind { get; } = Jobs.EntryKind.Decision("odd", Clash.Always, Clash.Never, Role.Technician, "No.", new Dictionary<string, Clash> { ["tool-back"] = Clash.Never });
    }

    // What a kind must say, check and do the compiler asks for: a payload without it does not build. The rest is asked at the start.
    [Theory]
    [InlineData(typeof(WithoutKind), "declares no EntryKind")]
    [InlineData(typeof(Inherits), "declares no EntryKind")]
    [InlineData(typeof(SameName), "tool-back is declared by")]
    [InlineData(typeof(BadName), "Odd_thing@1 is no name")]
    [InlineData(typeof(NoRight), "odd does not tell whom it refuses")]
    [InlineData(typeof(NoWord), "odd does not tell whom it refuses")]
    [InlineData(typeof(ClashesWithNobody), "odd clashes with even")]
    [InlineData(typeof(Complete), null)]
    public void The_register_refuses_a_kind_that_lacks_something(Type payload, string? why)
    {
        Type[] types = [.. typeof(Payload).Assembly.GetTypes(), payload];
        if (why is null)
        {
            Assert.Equal("odd", EntryKinds.Register(types)[payload].Name);
        }
        else
        {
            Assert.Contains(why, Assert.Throws<InvalidOperationException>(() => EntryKinds.Register(types)).Message, StringComparison.Ordinal);
        }
    }

    [Theory]
    [InlineData("step-made@1", "{}", "$.kind")]
    [InlineData("tool-back@2", "{}", "$.kind")]
    [InlineData("tool-back", "{}", "$.kind")]
    [InlineData("tool-back@1", "[]", "$.payload")]
    [InlineData("tool-back@1", "{}", "$.payload")]
    [InlineData("tool-back@1", "{\"tool\": null}", "$.payload.tool")]
    [InlineData("tool-back@1", "{\"tool\": \"a\", \"more\": 1}", "$.payload.more")]
    [InlineData("tool-back@1", "{\"tool\": \"a\", \"tool\": \"b\"}", "$.payload")]
    [InlineData("reading-taken@1", "{\"test\": \"t\", \"value\": {\"value\": 1, \"unit\": \"parsec\"}, \"choice\": null}", "$.payload.value")]
    [InlineData("reading-taken@1", "{\"test\": \"t\", \"value\": 3, \"choice\": null}", "$.payload.value")]
    [InlineData("reading-taken@1", "{\"test\": \"t\", \"value\": {\"value\": 1e40, \"unit\": \"V\"}, \"choice\": null}", "$.payload.value")]
    [InlineData("step-done@1", "{\"phase\": 7, \"step\": \"a\", \"cell\": null, \"fasteners\": []}", "$.payload.phase")]
    public void What_does_not_fit_its_kind_is_refused_with_a_path(string tag, string payload, string path)
    {
        var refused = Assert.Throws<RefusedFileException>(() => EntryKinds.Read(tag, JsonDocument.Parse(payload).RootElement));
        Assert.StartsWith(path, refused.Faults[0].Path, StringComparison.Ordinal);
    }

    [Fact]
    public void A_payload_one_version_old_is_cast_up()
    {
        // The same mechanism with the clock turned back: version 0 is read by casting it up to 1.
        static JsonObject NameWas(JsonObject older) => new() { ["tool"] = older["name"]!.DeepClone() };
        var upcasters = new Dictionary<(string, int), Upcaster> { [("tool-back", 0)] = NameWas };
        Assert.Throws<RefusedFileException>(() => EntryKinds.Read("tool-back@0", JsonDocument.Parse("{\"name\": \"t\"}").RootElement));
        Assert.Equal(new ToolBack("t"), EntryKinds.Read("tool-back@0", JsonDocument.Parse("{\"name\": \"t\"}").RootElement, upcasters));
    }

    [Theory]
    [InlineData("{\"b\":1,\"a\":[true,null,\"x\"]}", "{\"a\":[true,null,\"x\"],\"b\":1}")]
    [InlineData("{ \"a\" : 12.40 , \"A\":{\"z\":1,\"y\":2}}", "{\"A\":{\"y\":2,\"z\":1},\"a\":12.40}")]
    [InlineData("\"\\u00e4\\/\\n\"", "\"ä/\\n\"")]
    public void JSON_has_one_spelling(string json, string canonical) =>
        Assert.Equal(canonical, Encoding.UTF8.GetString(CanonicalJson.Write(JsonDocument.Parse(json).RootElement)));

    [Property]
    public bool The_canonical_spelling_of_a_spelling_is_itself(string? a, string? b, int n)
    {
        var json = new JsonObject { ["k" + Clean(a)] = Clean(b), ["n"] = n, ["x"] = new JsonArray(n, Clean(a)) };
        var once = CanonicalJson.Write(JsonDocument.Parse(json.ToJsonString()).RootElement);
        return once.AsSpan().SequenceEqual(CanonicalJson.Write(JsonDocument.Parse(once).RootElement));
    }

    /// <summary>The definition of docs/formats.md, with the hash worked out by the command sha256sum over the same bytes.</summary>
    [Fact]
    public void The_chain_is_what_its_definition_says()
    {
        var body = Encoding.UTF8.GetBytes("{}");
        var at = new DateTimeOffset(2036, 5, 4, 6, 0, 0, TimeSpan.Zero);
        var hash = EntryChain.Next(EntryChain.Start, 1, Guid.Empty, at, body);
        // (head -c 32 /dev/zero; printf '1 00000000-0000-0000-0000-000000000000 2036-05-04T06:00:00.000000Z\n{}') | sha256sum
        Assert.Equal("ae74a124d5161fcfc031a5f8f0ee5bf19b5889284859c8ae3c6741ea859e4e51", Convert.ToHexStringLower(hash));
    }

    [Property]
    public bool Any_change_shows_in_the_hash(byte[] body, PositiveInt position, PositiveInt at)
    {
        body ??= [];
        var when = DateTimeOffset.UnixEpoch.AddSeconds(at.Get);
        var hash = EntryChain.Next(EntryChain.Start, position.Get, JobStory.Ansa, when, body);
        byte[][] others =
        [
            EntryChain.Next(hash, position.Get, JobStory.Ansa, when, body),
            EntryChain.Next(EntryChain.Start, position.Get + 1, JobStory.Ansa, when, body),
            EntryChain.Next(EntryChain.Start, position.Get, Guid.Empty, when, body),
            EntryChain.Next(EntryChain.Start, position.Get, JobStory.Ansa, when.AddSeconds(1), body),
            EntryChain.Next(EntryChain.Start, position.Get, JobStory.Ansa, when, [.. body, 0]),
        ];
        return others.All(o => !o.AsSpan().SequenceEqual(hash));
    }

    public static TheoryData<Payload, Payload, bool> Pairs => new()
    {
        { new ReadingTaken("battery-rest", null, null), new ReadingTaken("engine-turns", null, null), false },
        { new ReadingTaken("battery-rest", null, null), new ReadingTaken("battery-rest", null, null), true },
        { new StepDone(WorkPhase.Apart, "a", 1, []), new StepDone(WorkPhase.Apart, "b", 1, []), false },
        { new StepDone(WorkPhase.Apart, "a", 1, []), new StepDone(WorkPhase.Apart, "a", 2, []), true },
        { new StepDone(WorkPhase.Apart, "a", 1, []), new StepDone(WorkPhase.Refit, "a", null, []), false },
        { new StepDone(WorkPhase.Apart, "a", 1, []), new FastenerFound("a", "f", FastenerState.Seized, 1, null, null), false },
        { new StepDone(WorkPhase.Apart, "a", 1, []), new WaitingSet("p", null), false },
        { new StepDone(WorkPhase.Apart, "a", 1, []), new RouteTaken("h", "t", [], []), true },
        { new ReadingTaken("battery-rest", null, null), new DecisionMade(DecisionAct.Guess, "r", "w"), true },
        { new DecisionMade(DecisionAct.Guess, "r", "w"), new DecisionMade(DecisionAct.Guess, "r", "w"), true },
        { new ReadingTaken("battery-rest", null, null), new EntryWithdrawn(Guid.Empty), false },
        { new EntryWithdrawn(Guid.Empty), new EntryWithdrawn(Guid.Empty), true },
        { new ProofTaken("c", null, null), new HandedBack("f", null, null), true },
    };

    [Theory]
    [MemberData(nameof(Pairs))]
    public void The_table_says_what_clashes(Payload a, Payload b, bool clash)
    {
        Assert.Equal(clash, ConflictingEntries.Clashes(a, b));
        Assert.Equal(clash, ConflictingEntries.Clashes(b, a));
    }

    [Fact]
    public void Clashing_is_symmetric_for_every_pair_of_kinds() =>
        Assert.All(Samples.SelectMany(a => Samples.Select(b => (a, b))), p => Assert.Equal(ConflictingEntries.Clashes(p.a, p.b), ConflictingEntries.Clashes(p.b, p.a)));

    [Fact]
    public void Observations_that_commute_give_the_same_job_in_either_order()
    {
        Payload[] pair = [new ReadingTaken("battery-rest", new Figure(12.6m, Units.Volt), null), new ReadingTaken("battery-cranking", new Figure(12.3m, Units.Volt), null)];
        var (one, two) = (new JobStory().Noted(), new JobStory().Noted());
        pair.ToList().ForEach(p => one.Say(p));
        pair.Reverse().ToList().ForEach(p => two.Say(p));
        Assert.Equal(one.Job.Finding.Proof, two.Job.Finding.Proof);
    }

    private static string Clean(string? text) => new([.. (text ?? "").Where(c => !char.IsSurrogate(c) && c != '\0')]);
}
