using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using FsCheck;
using FsCheck.Xunit;
using Screeline.Core.Access.Recording;
using Screeline.Core.Formats;
using Screeline.Core.Jobs;
using Screeline.Core.Quantities;
using Screeline.Library;

namespace Screeline.Core.Tests;

/// <summary>Jobs as files: what goes out comes in as the same, and what is broken is refused whole.</summary>
public sealed class JobFileTests
{
    private static readonly Families Families = new(JobStory.Library);
    private static readonly JsonSerializerOptions AsWritten = new() { Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping };

    private static JobFile FileOf(JobStory story)
    {
        var hash = EntryChain.Start;
        var entries = new List<FileEntry>();
        foreach (var entry in story.Entries)
        {
            var body = entry.Draft.Body();
            hash = EntryChain.Next(hash, entry.Position, entry.SentBy, entry.ReceivedAt, body);
            entries.Add(new FileEntry(entry, body, hash));
        }

        var documents = JobFile.DocumentsOf(story.Entries.Select(e => e.Payload)).Select(_ => new FileDocument(JobStory.Map.Hash, "application/json", Encoding.UTF8.GetBytes(JobStory.Map.Json))).ToList();
        var vehicle = ((JobOpened)story.Entries[0].Payload).Vehicle;
        return new JobFile(story.Job.Id, new FileVehicle(vehicle, "Tideway 3", "Brannock Tideway", "2.2 diesel", 2033, 12), [new FilePerson(JobStory.Ansa, "Ansa Tollard", "technician")], entries, documents);
    }

    // No map: recorded as it went, and half way back.
    private static JobStory Recorded()
    {
        var story = new JobStory().Noted();
        story.Say(new DecisionMade(DecisionAct.Guess, "motor replaced", "for the test"));
        story.Say(new RecordingBegun(null, false, ["Remove the cover"]));
        story.Say(new GroupOut("screw", "T20", 3, 1));
        story.Say(new StepDone(WorkPhase.Apart, "line-1", 1, []));
        story.Say(new TakenOff(TakenAct.Plug, "Knorz", "footwell"));
        story.Say(new DangersTold("Knorz", []));
        story.Say(new TakenOff(TakenAct.Part, "Starter", "footwell", true));
        story.Say(new StepDone(WorkPhase.Refit, Refit.Order(story.Job)[0], null, []));
        Assert.Empty(story.Job.Disputes);
        return story;
    }

    private static JobStory At(int stage) => stage switch
    {
        0 => new JobStory(), 1 => new JobStory().Noted(), 2 => new JobStory().Proven(), 3 => new JobStory().OnItsWay(), 4 => new JobStory().Apart(), 5 => new JobStory().Together(), 6 => Recorded(), _ => new JobStory().Proved(),
    };

    /// <summary>Whatever was said, in whatever words: out, in and out again gives the same bytes and the same job.</summary>
    [Property(MaxTest = 60)]
    public void Out_and_in_and_out_again_is_the_same(DoNotSize<int> seed, NonNull<string> words)
    {
        var random = new Random(seed.Item);
        var story = At(random.Next(8));
        var text = new string([.. words.Get.Where(c => c != '\0' && !char.IsSurrogate(c))]);
        for (var i = random.Next(5); i > 0; i--)
        {
            story.Say(random.Next(4) switch
            {
                0 => new NoteAdded(null, text + random.Next()),
                1 => new LeftOverFound($"“{text}” \u2028 <b>&amp;</b>", 1 + random.Next(5)),
                2 => new WaitingSet(random.Next(2) == 0 ? null : "a part\n" + text, null),
                _ => new ReadingTaken("battery-rest", new Figure(12m + random.Next(100) / 100m, Units.Volt), null),
            });
        }

        var file = FileOf(story);
        var written = file.Write();
        var read = JobFile.Read(written, Families);
        Assert.Equal(written, read.Write());
        var (before, after) = (story.Job, Job.Fold([.. read.Entries.Select(e => e.Entry)], JobStory.Knowledge));
        Assert.Equal(before.Current, after.Current);
        Assert.Equal(before.Disputes.Count, after.Disputes.Count);
        Assert.Equal(before.Count.Out, after.Count.Out);
        Assert.Equal(before.History.Select(h => h.Entry.Id), after.History.Select(h => h.Entry.Id));
    }

    public static TheoryData<string, string, string> Broken => new()
    {
        { "\"format\": \"screeline/job@1\"", "\"format\": \"screeline/job@2\"", "$.format" },
        { "\"format\": \"screeline/job@1\"", "\"format\": \"somebody/else@1\"", "$.format" },
        { "\"format\": \"screeline/job@1\",", "", "$.format" },
        { "\"name\": \"Tideway 3\"", "\"name\": \"\"", "$.vehicle.name" },
        { "\"nominal_volts\": 12", "\"nominal_volts\": 13000", "$.vehicle.nominal_volts" },
        { "\"role\": \"technician\"", "\"role\": \"king\"", "$.people[0].role" },
        { "\"position\": 2,", "\"position\": 3,", "$.entries[1].position" },
        { "\"position\": 2,", "\"position\": \"two\",", "$.entries[1].position" },
        { "It only clicks", "It only hums", "$.entries[0].hash" },
        { "\"kind\":\"complaint-noted@1\"", "\"kind\":\"complaint-noted@9\"", "$.entries[1].body.kind" },
        { "\"kind\":\"complaint-noted@1\"", "\"kind\":\"prophecy@1\"", "$.entries[1].body.kind" },
        { "\"behaviours\"", "\"behaviors\"", "$.entries[1].body.payload" },
        { "\"sent_by\":", "\"sent_bye\":", "$.entries[0].sent_by" },
        { "\"family\":\"starting\"", "\"family\":\"flying\"", "$.entries[0].hash" },
        { "\"documents\": [", "\"documents\": [ {\"sha256\": \"00\", \"media_type\": \"application/json\", \"text\": \"{}\"},", "$.documents[0].sha256" },
        { "\"vehicle\": {", "\"colour\": 1, \"vehicle\": {", "$.colour" },
    };

    /// <summary>Spelled otherwise than written here, but saying what it says: taken as it came.</summary>
    [Theory]
    [InlineData("\"promised_at\":null", "\"promised_at\":\"2036-05-04T06:00:00Z\"")]
    [InlineData("\"payload\":{\"family\"", "\"payload\":{\"comeback_of\":null,\"family\"")]
    [InlineData("\"nominal_volts\":12", "\"nominal_volts\":12.0000000000000000000000000000000")]
    public void What_is_spelled_otherwise_goes_out_as_it_came(string there, string instead)
    {
        var text = Respelled(FileOf(At(1)), body => body.Replace(there, instead, StringComparison.Ordinal));
        Assert.Equal(text, JobFile.Read(text, Families).Write());
    }

    /// <summary>What no entry made here may say, no file may either.</summary>
    [Theory]
    [InlineData("\"promised_at\":null", "\"promised_at\":\"9999-12-31T23:59:59Z\"", "$.entries[0].body.payload.promised_at")]
    [InlineData("\"behaviours\":[\"one-clunk\"]", "\"behaviours\":[\"sings\"]", "$.entries[1].body.payload.behaviours[0]")]
    [InlineData("\"tried\":5", "\"tried\":100000", "$.entries[1].body.payload.failed")]
    [InlineData("\"nominal_volts\":12", "\"nominal_volts\":13", "$.vehicle.nominal_volts")]
    [InlineData("\"test\":\"", "\"test\":\"no-", "$.entries[2].body.payload.test")]
    [InlineData("\"actor\":", " \"actor\":", "$.entries[0].body")]
    [InlineData("08:00:00.000000+02:00", "08:00:00.0000001+02:00", "$.entries[0].body.occurred_at")]
    [InlineData("2036-05-04T08:00:00.000000+02:00", "1936-05-04T08:00:00.000000+02:00", "$.entries[0].body.occurred_at")]
    public void What_may_not_be_said_is_refused_in_a_file_too(string there, string instead, string path)
    {
        var text = Respelled(FileOf(At(2)), body => body.Replace(there, instead, StringComparison.Ordinal));
        Assert.Contains(Assert.Throws<RefusedFileException>(() => JobFile.Read(text, Families)).Faults, f => f.Path.StartsWith(path, StringComparison.Ordinal));
    }

    // The same file with its bodies changed as text, and a chain that holds again.
    private static string Respelled(JobFile file, Func<string, string> change)
    {
        var hash = EntryChain.Start;
        var entries = new List<FileEntry>();
        foreach (var e in file.Entries)
        {
            var body = Encoding.UTF8.GetBytes(change(Encoding.UTF8.GetString(e.Body)));
            hash = EntryChain.Next(hash, e.Entry.Position, e.Entry.SentBy, e.Entry.ReceivedAt, CanonicalJson.Write(JsonDocument.Parse(body).RootElement));
            entries.Add(e with { Body = body, Hash = hash });
        }

        return (file with { Entries = entries }).Write();
    }

    [Fact]
    public void More_entries_than_a_job_holds_are_refused_soon()
    {
        var story = At(1);
        for (var i = 0; i < JobFile.MostEntries; i++)
        {
            story.Say(new NoteAdded(null, "n"));
        }

        Assert.Equal("$.entries", Assert.Single(Assert.Throws<RefusedFileException>(() => JobFile.Read(FileOf(story).Write(), Families)).Faults).Path);
    }

    [Theory]
    [MemberData(nameof(Broken))]
    public void A_broken_file_is_refused_by_path(string there, string instead, string path)
    {
        var text = FileOf(At(3)).Write();
        var at = text.IndexOf(there, StringComparison.Ordinal);
        Assert.True(at >= 0, there);
        var refused = Assert.Throws<RefusedFileException>(() => JobFile.Read(text[..at] + instead + text[(at + there.Length)..], Families));
        Assert.Contains(refused.Faults, f => f.Path.StartsWith(path, StringComparison.Ordinal));
    }

    [Fact]
    public void A_cut_tail_a_missing_map_and_a_stranger_show()
    {
        var whole = JsonNode.Parse(FileOf(At(3)).Write())!;
        JsonNode Without(Action<JsonNode> change)
        {
            var copy = whole.DeepClone();
            change(copy);
            return copy;
        }

        string[] Faults(JsonNode file) => [.. Assert.Throws<RefusedFileException>(() => JobFile.Read(file.ToJsonString(AsWritten), Families)).Faults.Select(f => f.Path)];
        Assert.Contains("$.head", Faults(Without(f => f["entries"]!.AsArray().RemoveAt(f["entries"]!.AsArray().Count - 1))));
        Assert.Contains("$.documents", Faults(Without(f => f["documents"] = new JsonArray())));
        Assert.Contains("$.entries[0].body.actor", Faults(Without(f => f["people"]![0]!["id"] = Guid.NewGuid().ToString())));
        Assert.Contains("$.vehicle.id", Faults(Without(f => f["vehicle"]!["id"] = Guid.NewGuid().ToString())));
        Assert.Contains("$.entries", Faults(Without(f => f["entries"] = new JsonArray())));
    }

    [Theory]
    [InlineData("")]
    [InlineData("[]")]
    [InlineData("{}")]
    [InlineData("null")]
    [InlineData("{\"format\": 7}")]
    [InlineData("{\"format\": \"screeline/job@1\"}")]
    [InlineData("{\"format\": \"screeline/job@1\", \"entries\": [1, null, {}], \"documents\": [[]], \"people\": {}, \"vehicle\": [], \"job\": 0, \"head\": 1}")]
    public void Nonsense_is_refused_and_never_thrown_at(string text) =>
        Assert.NotEmpty(Assert.Throws<RefusedFileException>(() => JobFile.Read(text, Families)).Faults);
}
