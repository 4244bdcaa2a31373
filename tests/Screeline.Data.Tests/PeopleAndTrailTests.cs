using Npgsql;
using Screeline.Core.Jobs;
using Screeline.Core.Quantities;

namespace Screeline.Data.Tests;

/// <summary>Accounts, tries, tokens and the trail on a real PostgreSQL.</summary>
public sealed class PeopleAndTrailTests(TestDatabase db)
{
    private static readonly Guid Nell = new("5c0a0000-0000-4000-8000-000000000003");

    private static async Task<(string Owner, Database Database, JobStore Jobs)> OwnAsync()
    {
        var owner = await TestDatabase.CreateAsync();
        await Migrator.MigrateAsync(owner);
        var database = new Database(owner, "screeline_app");
        await new PeopleStore(database).AddAsync(new Person(TestDatabase.Ansa, "Ansa Tollard", "technician"));
        await new VehicleStore(database).AddAsync(TestDatabase.Van);
        var jobs = new JobStore(database, new Library.Families(TestDatabase.Library));
        for (var j = 0; j < 3; j++)
        {
            var id = Guid.NewGuid();
            await jobs.OpenAsync(new EntryDraft(Guid.NewGuid(), id, 0, TestDatabase.Ansa, DateTimeOffset.Now, new JobOpened(TestDatabase.Van.Id, TestDatabase.Van.Name, TestDatabase.Van.Model, 12, "starting", "It only clicks", null)), TestDatabase.Ansa);
            for (var i = 1; i < 5; i++)
            {
                await jobs.AppendAsync(id, [new EntryDraft(Guid.NewGuid(), id, i, TestDatabase.Ansa, DateTimeOffset.Now, new NoteAdded(null, $"note {i}"))], TestDatabase.Ansa, OutOfTurn.Refuse);
            }
        }

        return (owner, database, jobs);
    }

    /// <summary>Whatever the database's owner changes behind the application's back, the check names the first break.</summary>
    [Theory]
    [InlineData("select 1", null)]
    [InlineData("update entries set body = convert_to(replace(convert_from(body, 'UTF8'), 'note 2', 'note 7'), 'UTF8') where position = 3 and job_id = (select id from jobs where number = 2)", "Job 2: entry 3 was changed after it was kept.")]
    [InlineData("update entries set payload = '{\"step\": null, \"text\": \"note 7\"}' where position = 3 and job_id = (select id from jobs where number = 2)", "Job 2: the copy of entry 3 that queries read differs")]
    [InlineData("update entries set received_at = received_at - interval '1 day' where position = 3 and job_id = (select id from jobs where number = 2)", "Job 2: entry 3 was changed after it was kept.")]
    [InlineData("delete from entries where position = 3 and job_id = (select id from jobs where number = 2)", "Job 2: entry 3 is gone.")]
    [InlineData("delete from entries where position = 5 and job_id = (select id from jobs where number = 2)", "Job 2: entry 5 to 5 are gone.")]
    [InlineData("update jobs set head = 4, head_hash = (select hash from entries where job_id = jobs.id and position = 4) where number = 2; delete from entries where position = 5 and job_id = (select id from jobs where number = 2)", "the head at entry 5 that link 10 names is not there")]
    [InlineData("delete from chain where link = 7", "The chain of heads lacks link 7.")]
    [InlineData("delete from chain where link = 15", "The end of the chain of heads is cut")]
    [InlineData("update chain set head_hash = sha256('x') where link = 7", "The chain of heads was changed at link 7.")]
    [InlineData("update jobs set head_hash = sha256('x') where number = 3", "Job 3: its head was changed.")]
    public async Task The_first_break_is_named(string tampering, string? said)
    {
        var (owner, database, _) = await OwnAsync();
        await using var _d = database;
        await using (var connection = new NpgsqlConnection(owner))
        {
            await connection.OpenAsync();
            await using var change = new NpgsqlCommand(tampering, connection);
            await change.ExecuteNonQueryAsync();
        }

        var report = await new TrailStore(database).CheckAsync();
        if (said is null)
        {
            Assert.Equal(new TrailReport(3, 15, 15, null, report.Tip), report);
        }
        else
        {
            Assert.Contains(said, report.Break, StringComparison.Ordinal);
        }
    }

    [Fact]
    public async Task A_head_that_left_the_house_is_found_again()
    {
        var (_, database, jobs) = await OwnAsync();
        await using var _d = database;
        var trail = new TrailStore(database);
        var (job, head) = (await jobs.HeadAsync(2))!.Value;
        var hash = await jobs.HeadHashAsync(job);
        await trail.RecordAsync(job, "printed", TestDatabase.Ansa);
        await trail.RecordAsync(job, "printed", TestDatabase.Ansa);
        var told = Assert.Single(await trail.ToldAsync(10));
        Assert.Equal((2, head, hash, 15), (told.Number, told.Position, told.Hash, told.Link));
        await jobs.AppendAsync(job, [new EntryDraft(Guid.NewGuid(), job, head, TestDatabase.Ansa, DateTimeOffset.Now, new NoteAdded(null, "later"))], TestDatabase.Ansa, OutOfTurn.Refuse);
        var found = Assert.Single(await trail.FindAsync(hash[..10]));
        Assert.Equal((2, head, head + 1), (found.Number, found.Position, found.Last));
        Assert.Empty(await trail.FindAsync(new string('0', 10)));
        // The end of the chain that a check told stands where its link does.
        Assert.Equal((2, head + 1), (await trail.FindAsync((await trail.CheckAsync()).Tip)) is [var end] ? (end.Number, end.Position) : (0, 0));
    }

    /// <summary>The application's own role cannot do what the check would find.</summary>
    [Theory]
    [InlineData("update entries set actor = actor")]
    [InlineData("delete from entries")]
    [InlineData("update chain set link = link")]
    [InlineData("delete from heads_told")]
    [InlineData("drop table entries")]
    public async Task The_application_may_only_append(string sql)
    {
        await using var command = db.Database.Command(sql);
        Assert.Equal(PostgresErrorCodes.InsufficientPrivilege, (await Assert.ThrowsAsync<PostgresException>(() => command.ExecuteNonQueryAsync())).SqlState);
    }

    [Fact]
    public async Task Five_wrong_tries_lock_and_a_right_one_forgets()
    {
        var tries = new TryStore(db.Database);
        var what = $"account {Guid.NewGuid()}";
        for (var i = 0; i < 5; i++)
        {
            Assert.Null(await tries.CountAsync(what, 5));
        }

        var until = await tries.CountAsync(what, 5);
        Assert.InRange((until!.Value - DateTimeOffset.UtcNow).TotalSeconds, 20, 31);
        await tries.ClearAsync(what);
        Assert.Null(await tries.CountAsync(what, 5));
        // A hundred at once: no more than the allowed ones are looked at.
        var other = $"account {Guid.NewGuid()}";
        var all = await Task.WhenAll(Enumerable.Range(0, 100).Select(_ => tries.CountAsync(other, 5)));
        Assert.InRange(all.Count(x => x is null), 1, 5);
    }

    /// <summary>Two foremen who demote, or shut out, each other at once: one of them stays.</summary>
    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public async Task Two_foremen_at_once_leave_one(bool shutOut)
    {
        await using var own = new Database(await TestDatabase.OwnerOfNewAsync(), "screeline_app");
        var accounts = new AccountStore(own);
        Person[] foremen = [new(Guid.NewGuid(), "One", "foreman"), new(Guid.NewGuid(), "Other", "foreman")];
        foreach (var foreman in foremen)
        {
            await accounts.AddAsync(foreman, foreman.Name, "hash", null);
        }

        for (var i = 0; i < 12; i++)
        {
            var changed = await Task.WhenAll(foremen.Select(f => shutOut ? accounts.SetDisabledAsync(f.Id, true) : accounts.SetRoleAsync(f.Id, "technician")));
            Assert.Single(changed, c => c);
            Assert.Single(await accounts.AllAsync(), a => a is { Role: "foreman", DisabledAt: null });
            foreach (var foreman in foremen)
            {
                Assert.True(shutOut ? await accounts.SetDisabledAsync(foreman.Id, false) : await accounts.SetRoleAsync(foreman.Id, "foreman"));
            }
        }
    }

    /// <summary>Names that look alike are one, for coming in, for counting and for giving out.</summary>
    [Fact]
    public async Task A_name_is_compared_one_way()
    {
        var accounts = new AccountStore(db.Database);
        var mark = Guid.NewGuid().ToString("N")[..8];
        await accounts.AddAsync(new Person(Guid.NewGuid(), "Änne", "technician"), $"Änne{mark}", "hash", null);
        // Composed, decomposed, upper case, full width, with a blank: NFKC of The Unicode Standard, annex 15.
        string[] alike = [$"änne{mark}", $"a\u0308nne{mark}", $"ÄNNE{mark}", $"äｎｎｅ{mark}", $" Änne{mark} "];
        Assert.Single((await Task.WhenAll(alike.Select(a => accounts.NormalAsync(a)))).Distinct());
        foreach (var name in alike)
        {
            Assert.NotNull(await accounts.FindAsync(name));
            await Assert.ThrowsAsync<NameTakenException>(() => accounts.AddAsync(new Person(Guid.NewGuid(), "Another", "viewer"), name, "hash", null));
        }
    }

    /// <summary>Another PIN ends what the old one opened.</summary>
    [Fact]
    public async Task Another_pin_is_another_stamp()
    {
        var accounts = new AccountStore(db.Database);
        var person = new Person(Guid.NewGuid(), "Marren Oakes", "technician");
        await accounts.AddAsync(person, $"p{person.Id:N}", "hash", "pin");
        var before = (await accounts.FindAsync([person.Id])).Single().Stamp;
        Assert.NotEqual(before, await accounts.SetPinAsync(person.Id, "other"));
    }

    /// <summary>A right try takes its own count back and no other.</summary>
    [Fact]
    public async Task Ones_own_success_does_not_clear_an_address()
    {
        var (tries, what) = (new TryStore(db.Database), $"address {Guid.NewGuid()}");
        for (var i = 0; i < 4; i++)
        {
            Assert.Null(await tries.CountAsync(what, 5));
        }

        // Somebody comes in in between; the fifth failure still locks.
        Assert.Null(await tries.CountAsync(what, 6));
        await tries.TakeBackAsync(what);
        Assert.Null(await tries.CountAsync(what, 5));
        Assert.NotNull(await tries.CountAsync(what, 5));
    }

    [Fact]
    public async Task An_account_is_one_login_and_its_sign_ins_end_with_its_stamp()
    {
        var accounts = new AccountStore(db.Database);
        var person = new Person(Guid.NewGuid(), "Marren Oakes", "technician");
        var login = $"m{person.Id:N}";
        await accounts.AddAsync(person, login, "hash", null);
        await Assert.ThrowsAsync<NameTakenException>(() => accounts.AddAsync(new Person(Guid.NewGuid(), "Another", "viewer"), login.ToUpperInvariant(), "hash", null));
        var before = (await accounts.FindAsync(login.ToUpperInvariant()))!;
        Assert.NotEqual(before.Stamp, await accounts.EndSignInsAsync(person.Id));
        before = (await accounts.FindAsync(login))!;
        Assert.True(await accounts.SetDisabledAsync(person.Id, true));
        var after = (await accounts.FindAsync([person.Id])).Single();
        Assert.NotNull(after.DisabledAt);
        Assert.NotEqual(before.Stamp, after.Stamp);
        await Assert.ThrowsAsync<InvalidOperationException>(() => accounts.SetPinAsync(Guid.NewGuid(), null));
    }

    [Fact]
    public async Task A_token_holds_until_it_is_over_or_taken_back()
    {
        var tokens = new TokenStore(db.Database);
        async Task<byte[]> AddAsync(DateTimeOffset until, Guid id)
        {
            var hash = System.Security.Cryptography.SHA256.HashData(id.ToByteArray());
            await tokens.AddAsync(new ApiToken(id, "scale", TestDatabase.Ansa, "read", default, until, null), hash, TestDatabase.Ansa);
            return hash;
        }

        Assert.Null(await tokens.FindAsync(await AddAsync(DateTimeOffset.UtcNow.AddMinutes(-1), Guid.NewGuid())));
        var id = Guid.NewGuid();
        var hash = await AddAsync(DateTimeOffset.UtcNow.AddDays(1), id);
        Assert.Equal(id, (await tokens.FindAsync(hash))!.Id);
        await tokens.RevokeAsync(id);
        Assert.Null(await tokens.FindAsync(hash));
    }

    /// <summary>An apprentice's supports: the store itself asks for the second person, once, also when the tick is sent again.</summary>
    [Fact]
    public async Task The_store_asks_for_a_second_person()
    {
        await new PeopleStore(db.Database).AddAsync(new Person(Nell, "Nell Harrop", "apprentice"));
        var (id, _) = await db.OpenJobAsync();
        await db.SayAsync(id, new ComplaintNoted("It only clicks", ["one-clunk"], "always", 5, 5, null));
        await db.SayAsync(id, new DecisionMade(DecisionAct.Guess, "starter replaced", "for the test", "starter"));
        var plan = Core.Access.Planning.RoutePlanner.Best(TestDatabase.Map.Map);
        await db.SayAsync(id, new RouteTaken(TestDatabase.Map.Hash, TestDatabase.Map.Map.Targets[0].Id, [.. plan.Removal.Select(a => a.Id)], [.. plan.Refit.Select(a => a.Id)]));
        foreach (var step in plan.Removal.Select(a => a.Id).TakeWhile(s => s != "raised"))
        {
            Assert.IsType<AppendResult.Kept>(await db.SayAsync(id, new StepDone(WorkPhase.Apart, step, null, []), actor: Nell));
        }

        var tick = Guid.NewGuid();
        var at = DateTimeOffset.UtcNow;
        var head = (await db.Jobs.FindAsync(id))!.Job.Head;
        var draft = new EntryDraft(tick, id, head, Nell, new DateTimeOffset(at.UtcTicks / 10 * 10, TimeSpan.Zero), new StepDone(WorkPhase.Apart, "raised", null, []));
        Assert.IsType<AppendResult.Kept>(await db.Jobs.AppendAsync(id, [draft], Nell, OutOfTurn.Refuse));
        Assert.IsType<AppendResult.Repeated>(await db.Jobs.AppendAsync(id, [draft], Nell, OutOfTurn.Refuse));
        var job = (await db.Jobs.FindAsync(id))!.Job;
        Assert.Equal(tick, Assert.Single(job.SecondsMissing).Tick.Id);
        Assert.Equal(head + 2, job.Head);
        Assert.IsType<AppendResult.OutOfOrder>(await db.SayAsync(id, new StepDone(WorkPhase.Apart, "undertray", 1, []), actor: Nell));
        Assert.IsType<AppendResult.NotAllowed>(await db.SayAsync(id, new SecondSigned(tick), actor: Nell));
        Assert.IsType<AppendResult.Kept>(await db.SayAsync(id, new SecondSigned(tick), actor: TestDatabase.Bram));
        Assert.IsType<AppendResult.Kept>(await db.SayAsync(id, new StepDone(WorkPhase.Apart, "undertray", 1, []), actor: Nell));
        // A technician needs nobody.
        Assert.Empty((await db.Jobs.FindAsync(id))!.Job.SecondsMissing);
    }

    [Fact]
    public async Task A_torque_stays_who_set_it_whoever_sends_it()
    {
        var (id, _) = await db.OpenJobAsync();
        var draft = new EntryDraft(Guid.NewGuid(), id, 1, TestDatabase.Bram, new DateTimeOffset(2036, 5, 4, 8, 0, 0, TimeSpan.Zero), new ReadingTaken("battery-rest", new Figure(12.4m, Units.Volt), null));
        Assert.IsType<AppendResult.Kept>(await db.Jobs.AppendAsync(id, [draft], TestDatabase.Ansa, OutOfTurn.Keep));
        var kept = (await db.Jobs.FindAsync(id))!.Job.History[^1].Entry;
        Assert.Equal((TestDatabase.Bram, TestDatabase.Ansa), (kept.Draft.Actor, kept.SentBy));
    }
}
