using System.Text;
using System.Text.Json;
using Screeline.Core.Formats;
using Screeline.Core.Jobs;
using Screeline.Core.People;
using Screeline.Core.Quantities;
using Screeline.Library;

namespace Screeline.Data.Tests;

/// <summary>Whatever is taken in, by whichever way and in whatever order: the record stays whole, and a job goes out and in again as it was.</summary>
public sealed class AcceptedInputTests(AcceptedInputTests.OwnDatabase db) : IClassFixture<AcceptedInputTests.OwnDatabase>
{
    /// <summary>A database that no other tests write to: the check is of all of it.</summary>
    public sealed class OwnDatabase : TestDatabase;

    private static readonly Families Families = new(TestDatabase.Library);

    // Things that can be said, sense and nonsense: what is taken in is for the store to say.
    private static Payload Any(Random random, List<Guid> ids)
    {
        var step = TestDatabase.Map.Map.Operations[random.Next(TestDatabase.Map.Map.Operations.Count)].Id;
        var id = ids[random.Next(ids.Count)];
        return random.Next(14) switch
        {
            0 => new NoteAdded(null, new string((char)random.Next(32, 0xD7FF), random.Next(1, 30))),
            1 => new ReadingTaken("battery-rest", new Figure(random.Next(0, 20) + random.Next(100) / 100m, Units.Volt), null),
            2 => new ReadingTaken("engine-turns", null, "turns"),
            3 => new ComplaintNoted("w “ü” \u2028", ["one-clunk"], "always", 5, random.Next(7), null),
            4 => new DecisionMade((DecisionAct)random.Next(3), "starter replaced", "for the test", random.Next(2) == 0 ? "starter" : null),
            5 => new StepDone((WorkPhase)random.Next(2), step, random.Next(3) == 0 ? random.Next(-1, 5) : null, []),
            6 => new WaitingSet(random.Next(2) == 0 ? null : "a part", random.Next(2) == 0 ? null : DateTimeOffset.UnixEpoch.AddDays(random.Next(40_000))),
            7 => new TimerStarted(step, (TimerKind)random.Next(5), random.Next(-5, 30), "w"),
            8 => new LeftOverFound("M6 screw", random.Next(0, 4)),
            9 => new EntryWithdrawn(id),
            10 => new EntryCorrected(id, EntryKinds.Write(new NoteAdded(null, "corrected"))),
            11 => new EntryCorrected(id, EntryKinds.Write(new ReadingTaken("battery-rest", new Figure(12.1m, Units.Volt), null))),
            12 => new EntryCorrected(id, JsonDocument.Parse("{\"kind\":\"cool\",\"minutes\":1e27,\"step\":\"cooled\",\"what\":\"w\"}").RootElement),
            _ => new SecondSigned(id),
        };
    }

    // The same thing in another spelling, the keys still in order: what a file of another program may hold.
    private static string Respelled(string body, Random random) => random.Next(4) switch
    {
        0 => body.Replace("+00:00\"", "Z\"", StringComparison.Ordinal),
        // More digits than a decimal holds.
        1 => System.Text.RegularExpressions.Regex.Replace(body, "(\"unit\":\"V\",\"value\":[0-9]+)(\\.[0-9]+)?", m => $"{m.Groups[1]}{(m.Groups[2].Success ? m.Groups[2].Value : ".")}{new string('0', 40)}"),
        2 => body.Replace(".000000+", "+", StringComparison.Ordinal),
        _ => body,
    };

    [Theory]
    [InlineData(1)]
    [InlineData(2)]
    [InlineData(3)]
    [InlineData(4)]
    public async Task What_is_accepted_leaves_the_record_whole(int seed)
    {
        var random = new Random(seed);
        var (accepted, refused) = (0, 0);
        for (var round = 0; round < 6; round++)
        {
            var (id, _) = await db.OpenJobAsync();
            var ids = new List<Guid> { (await db.Jobs.FindAsync(id))!.Job.Opened.Entry.Id, Guid.NewGuid() };
            for (var i = 0; i < 25; i++)
            {
                var head = (await db.Jobs.FindAsync(id))!.Job.Head;
                var entry = random.Next(8) == 0 ? ids[random.Next(ids.Count)] : Guid.NewGuid();
                var draft = new EntryDraft(entry, id, random.Next(2) == 0 ? head : random.Next(-1, head + 2), random.Next(3) == 0 ? TestDatabase.Bram : TestDatabase.Ansa, DateTimeOffset.UtcNow.AddMinutes(random.Next(-3000, 10)), Any(random, ids), random.Next(3) switch { 0 => 0, 1 => random.Next(4000), _ => null });
                var outcome = await db.Jobs.AppendAsync(id, [draft], TestDatabase.Ansa, (OutOfTurn)random.Next(3), (SameAgain)random.Next(2), sender: (Role)random.Next(1, 4));
                _ = outcome is AppendResult.Kept ? accepted++ : refused++;
                ids.Add(entry);
            }

            // Out, spelled otherwise, and into an empty installation.
            var file = (await db.Jobs.ExportAsync(id))!;
            var (hash, entries) = (EntryChain.Start, new List<FileEntry>());
            foreach (var e in file.Entries)
            {
                var body = Encoding.UTF8.GetBytes(Respelled(Encoding.UTF8.GetString(e.Body), random));
                hash = EntryChain.Next(hash, e.Entry.Position, e.Entry.SentBy, e.Entry.ReceivedAt, body);
                entries.Add(e with { Body = body, Hash = hash });
            }

            var owner = await TestDatabase.CreateAsync();
            await Migrator.MigrateAsync(owner);
            await using var empty = new Database(owner, "screeline_app");
            var there = new JobStore(empty, Families);
            try
            {
                var read = JobFile.Read((file with { Entries = entries }).Write(), Families);
                var taken = await there.ImportAsync(read, ("job.json", new string('a', 64)), TestDatabase.Ansa, Role.Foreman);
                Assert.Empty(taken.Faults);
                var again = (await there.ExportAsync(id))!;
                Assert.Equal(entries.Select(e => Convert.ToHexString(e.Body)), again.Entries.SkipLast(1).Select(e => Convert.ToHexString(e.Body)));
                Assert.Equal(again.Write(), JobFile.Read(again.Write(), Families).Write());
                accepted++;
            }
            catch (RefusedFileException e)
            {
                Assert.NotEmpty(e.Faults);
                refused++;
            }

            Assert.Null((await new TrailStore(empty).CheckAsync()).Break);
        }

        Assert.Null((await new TrailStore(db.Database).CheckAsync()).Break);
        // Both happen, or nothing is shown here.
        Assert.InRange(accepted, 20, 200);
        Assert.InRange(refused, 20, 200);
    }
}
