using Screeline.Core.Access;
using Screeline.Core.Access.Learning;
using Screeline.Core.Jobs;
using Screeline.Data;
using Screeline.Library;
using Screeline.Library.Demo;
using Screeline.Web.SignIn;

namespace Screeline.Web.Infrastructure;

/// <summary>Makes a database ready: migrates it and, once, fills it with the demo story.</summary>
public static class Preparation
{
    /// <summary>Exit code 0 when ready; otherwise one line on the error stream says what to do.</summary>
    public static async Task<int> RunAsync(bool demo)
    {
        var settings = Settings.FromEnvironment();
        if (settings.Fault is { } fault)
        {
            await Console.Error.WriteLineAsync(fault);
            return 2;
        }

        try
        {
            await Migrator.MigrateAsync(settings.Owner);
            await using var database = new Database(settings.Connection, settings.AsRole);
            var installation = new InstallationStore(database);
            var kind = await installation.KindAsync();
            if (demo && kind == "own")
            {
                await Console.Error.WriteLineAsync("This database holds a shop's own work; the demo is not mixed into it. Start with ./run --empty, or set SCREELINE_HOME to another folder.");
                return 2;
            }

            if (!demo && kind == "demo")
            {
                await Console.Error.WriteLineAsync("This database holds the demo. For an empty one set SCREELINE_HOME to another folder.");
                return 2;
            }

            if (demo && kind is null)
            {
                await LoadDemoAsync(database);
            }

            // After an upgrade, closed jobs are worked out anew.
            if (await new ExperienceStore(database).LacksFactsAsync())
            {
                await new JobStore(database, new Families(ShippedLibrary.Load())).RebuildSummariesAsync();
            }

            await installation.MarkAsync(demo ? "demo" : "own");
            await LetInAsync(database, demo, settings);
            return 0;
        }
        catch (DatabaseNotReadyException e)
        {
            await Console.Error.WriteLineAsync(e.Message);
            return 3;
        }
        catch (Exception e) when (Database.IsAway(e))
        {
            await Console.Error.WriteLineAsync($"The database cannot be reached ({e.Message.ReplaceLineEndings(" ")}). Check SCREELINE_DB and that the server runs.");
            return 3;
        }
    }

    /// <summary>Works the whole record out again and prints what it found; with a head from a sheet or a file, where that stands.</summary>
    /// <returns>0 when it is whole and the head is in it, 1 when not, 2 and 3 when it could not be looked at.</returns>
    public static async Task<int> CheckAsync(string? head)
    {
        var settings = Settings.FromEnvironment();
        if (settings.Fault is { } fault)
        {
            await Console.Error.WriteLineAsync(fault);
            return 2;
        }

        try
        {
            await using var database = new Database(settings.Owner);
            if (await Migrator.UnknownAsync(settings.Owner) is { } unknown)
            {
                await Console.Error.WriteLineAsync($"The database is newer than this program (it has {unknown}).");
                return 3;
            }

            var trail = new TrailStore(database);
            var report = await trail.CheckAsync();
            Console.WriteLine(report.Break ?? $"Whole: {report.Jobs} jobs, {report.Entries} entries, {report.Links} links. Nothing kept before the last head that was printed or exported has been changed since.");
            Console.WriteLine($"End of the chain: {report.Tip}");
            if (string.IsNullOrEmpty(head))
            {
                return report.Break is null ? 0 : 1;
            }

            var found = head.Length >= 8 && head.All(char.IsAsciiHexDigit) ? await trail.FindAsync(head.ToLowerInvariant()) : [];
            Console.WriteLine(found.Count == 0 ? $"The head {head} is not in this record." : string.Join('\n', found.Select(f => $"The head is job {f.Number}'s, entry {f.Position} of {f.Last}.")));
            return report.Break is null && found.Count > 0 ? 0 : 1;
        }
        catch (Exception e) when (Database.IsAway(e))
        {
            await Console.Error.WriteLineAsync($"The database cannot be looked at ({e.Message.ReplaceLineEndings(" ")}).");
            return 3;
        }
    }

    // The demo's own people, or a code for the first foreman; and whoever the environment's token works as.
    private static async Task LetInAsync(Database database, bool demo, Settings settings)
    {
        var accounts = new AccountStore(database);
        if (await accounts.AnyAsync())
        {
            // Somebody can come in.
        }
        else if (demo)
        {
            await DemoAccounts.AddAsync(accounts);
        }
        else
        {
            Console.WriteLine($"Nobody can sign in yet. Code for the first foreman, at /setup: {await Gatekeeper.NewCodeAsync(new SetupStore(database))}");
        }

        if (settings.ApiToken is not null)
        {
            await accounts.AddAsync(TokenScheme.Automation, "automation", null, null);
        }
    }

    /// <summary>Loads the demo; loading it again after a break changes nothing that is there.</summary>
    public static async Task LoadDemoAsync(Database database)
    {
        var library = ShippedLibrary.Load();
        var fleet = DemoFleet.Load();
        var people = new PeopleStore(database);
        foreach (var p in fleet.People)
        {
            await people.AddAsync(new Person(p.Id, p.Name, p.Role));
        }

        var vehicles = new VehicleStore(database);
        foreach (var v in fleet.Vehicles)
        {
            await vehicles.AddAsync(new Vehicle(v.Id, v.Name, v.Model, v.Version, v.Year, v.NominalVolts));
        }

        await new ToolStore(database).SetAsync([.. fleet.ToolsOwned]);
        foreach (var (tool, ago) in fleet.Calibrated)
        {
            await new ToolStore(database).CalibratedAsync(tool, DateOnly.FromDateTime(DateTime.Today).AddDays(-ago));
        }

        var documents = new DocumentStore(database);
        foreach (var map in library.Maps)
        {
            await documents.KeepAsync(map.Json, "application/json");
        }

        await documents.KeepAsync(DemoStory.UndertrayPicture, "image/jpeg");
        var store = new JobStore(database, new Families(library));
        var now = DateTimeOffset.Now;
        foreach (var job in new DemoStory(library, fleet, now).Jobs())
        {
            await LoadAsync(store, job, now);
        }

        // What was recorded without a map is the way in of the next one.
        if ((await store.FindAsync(DemoStory.FanRecorded))?.Job is { } recorded)
        {
            var (frame, model) = (recorded.System.Frame, recorded.Opened.Payload.Model);
            var worked = WorkedWay.Of(recorded, id => fleet.People.First(p => p.Id == id).Name, fleet.Vehicle("Tideway 4").Version);
            var empty = LearnedMap.New("fan-brannock-tideway", $"Radiator fan, {model}", recorded.System.Id, model, worked.Version, 58);
            var map = LearnedMap.With(empty, worked with { Names = LearnedMap.Names(empty, worked, false, new Dictionary<string, string>(), frame) }, frame, caution => library.Cautions.GetValueOrDefault(caution) ?? []);
            await new MapStore(database).KeepAsync(map.Id, await documents.KeepAsync(AccessMapWriter.Write(map), "application/json"), fleet.Person("Bram").Id, 0);
        }

        // Found by whoever did it: the printed step that nobody needs.
        if (library.Maps.FirstOrDefault(m => m.Map.Id == "fellgate-starter") is { Map: var fellgate })
        {
            await new MapStore(database).MarkAsync(fellgate.Id, "bolt-slid", fleet.Person("Bram").Id, null);
        }
    }

    private static async Task LoadAsync(JobStore store, DemoJob job, DateTimeOffset now)
    {
        var drafts = job.Entries.Select((e, i) => new EntryDraft(e.Id ?? Guid.NewGuid(), job.Id, i, e.Actor, now - e.Ago, e.Payload)).ToList();

        // A load that was broken off goes on where it stopped.
        var there = (await store.FindAsync(job.Id))?.Job.Head ?? 0;
        if (there == 0)
        {
            await store.OpenAsync(drafts[0], drafts[0].Actor);
            there = 1;
        }

        foreach (var draft in drafts.Skip(there))
        {
            var result = await store.AppendAsync(job.Id, [draft], draft.Actor, OutOfTurn.Refuse, receivedAt: draft.OccurredAt);
            if (result is not AppendResult.Kept)
            {
                throw new InvalidOperationException($"The demo breaks the rules at {EntryKinds.ForPayload(draft.Payload).Tag} {draft.Payload.Subject()}: {result}");
            }
        }
    }
}
