using Npgsql;
using Screeline.Core.People;

namespace Screeline.Data;

/// <summary>Somebody who may come in.</summary>
/// <param name="Person">Who.</param>
/// <param name="Name">Their name as it stands on records.</param>
/// <param name="Role">viewer, apprentice, technician or foreman.</param>
/// <param name="Login">What they type to come in; case does not count.</param>
/// <param name="PasswordHash">As the framework's hasher writes it; null while none is chosen.</param>
/// <param name="PinHash">The same for the quick switch on a shared tablet; null when they have none.</param>
/// <param name="Stamp">What every sign-in of theirs carries.</param>
/// <param name="DisabledAt">Since when they may not come in; null when they may.</param>
public sealed record Account(Guid Person, string Name, string Role, string Login, string? PasswordHash, string? PinHash, Guid Stamp, DateTimeOffset? DisabledAt);

/// <summary>Accounts.</summary>
public sealed class AccountStore(Database database)
{
    private const string Columns = "select a.person_id, p.name, p.role, a.login, a.password_hash, a.pin_hash, a.stamp, a.disabled_at from accounts a join people p on p.id = a.person_id";

    /// <summary>Whether anybody can sign in.</summary>
    public async Task<bool> AnyAsync(CancellationToken cancel = default)
    {
        await using var command = database.Command("select exists (select from accounts where password_hash is not null)");
        return (bool)(await command.ExecuteScalarAsync(cancel))!;
    }

    /// <summary>All, by name.</summary>
    public async Task<IReadOnlyList<Account>> AllAsync(CancellationToken cancel = default)
    {
        await using var command = database.Command($"{Columns} order by p.name, p.id");
        return await command.ListAsync(Read, cancel);
    }

    /// <summary>By what they type, or null.</summary>
    public async Task<Account?> FindAsync(string login, CancellationToken cancel = default)
    {
        var wanted = await NormalAsync(login, cancel);
        await using var command = database.Command("select person_id, normalize(btrim(login), NFKC) from accounts");
        var person = (await command.ListAsync(r => (Person: r.GetGuid(0), Login: r.GetString(1).ToLowerInvariant()), cancel)).FirstOrDefault(a => a.Login == wanted).Person;
        return (await FindAsync([person], cancel)).SingleOrDefault();
    }

    /// <summary>The form in which names of sign-ins are compared and counted: what looks alike is alike (Unicode NFKC, worked out by the database), case does not count.</summary>
    public async Task<string> NormalAsync(string login, CancellationToken cancel = default)
    {
        await using var command = database.Command("select normalize(btrim($1), NFKC)").With(login);
        return ((string)(await command.ExecuteScalarAsync(cancel))!).ToLowerInvariant();
    }

    /// <summary>Those of these people, in no order.</summary>
    public Task<IReadOnlyList<Account>> FindAsync(IEnumerable<Guid> people, CancellationToken cancel = default) => database.Memory.GetAsync<IReadOnlyList<Account>>($"accounts {string.Join(' ', people)}", async () =>
    {
        await using var command = database.Command($"{Columns} where a.person_id = any($1)").With((object)people.ToArray());
        return await command.ListAsync(Read, cancel);
    }, cancel);

    /// <summary>Lets a person in: somebody new, or somebody who was only a name on records. One who has an account keeps it.</summary>
    /// <exception cref="NameTakenException">Somebody else has this login.</exception>
    public async Task AddAsync(Person person, string login, string? passwordHash, string? pinHash, CancellationToken cancel = default)
    {
        await using var connection = await database.OpenAsync(cancel);
        await using var transaction = await connection.BeginTransactionAsync(cancel);
        await LockAsync(connection, transaction, cancel);
        var wanted = await NormalAsync(login, cancel);
        await using (var taken = new NpgsqlCommand("select normalize(btrim(login), NFKC) from accounts where person_id <> $1", connection, transaction).With(person.Id))
        {
            if ((await taken.ListAsync(r => r.GetString(0).ToLowerInvariant(), cancel)).Contains(wanted))
            {
                throw new NameTakenException(login);
            }
        }

        await using var batch = new NpgsqlBatch(connection, transaction);
        batch.Add("insert into people (id, name, role) values ($1, $2, $3) on conflict (id) do nothing", person.Id, person.Name, person.Role);
        batch.Add("insert into accounts (person_id, login, password_hash, pin_hash) values ($1, $2, $3, $4) on conflict (person_id) do nothing", person.Id, login, (object?)passwordHash ?? DBNull.Value, (object?)pinHash ?? DBNull.Value);
        try
        {
            await batch.ExecuteNonQueryAsync(cancel);
            await transaction.CommitAsync(cancel);
        }
        catch (PostgresException e) when (e.ConstraintName == "accounts_by_login")
        {
            throw new NameTakenException(login);
        }
    }

    /// <summary>Another password. Every sign-in made with the old one ends.</summary>
    /// <returns>The new stamp.</returns>
    public Task<Guid> SetPasswordAsync(Guid person, string hash, CancellationToken cancel = default) =>
        StampAsync("update accounts set password_hash = $2, stamp = gen_random_uuid() where person_id = $1 returning stamp", cancel, person, hash);

    /// <summary>Another PIN, or none. What was opened with the old one ends, and every other sign-in of theirs with it.</summary>
    public Task<Guid> SetPinAsync(Guid person, string? hash, CancellationToken cancel = default) =>
        StampAsync("update accounts set pin_hash = $2, stamp = gen_random_uuid() where person_id = $1 returning stamp", cancel, person, (object?)hash ?? DBNull.Value);

    /// <summary>Ends every sign-in of a person.</summary>
    /// <returns>The new stamp.</returns>
    public Task<Guid> EndSignInsAsync(Guid person, CancellationToken cancel = default) =>
        StampAsync("update accounts set stamp = gen_random_uuid() where person_id = $1 returning stamp", cancel, person);

    /// <summary>Lets somebody in no longer, or again. Either way their sign-ins end.</summary>
    /// <returns>False when nobody would be left who can let others in; then nothing is changed.</returns>
    public Task<bool> SetDisabledAsync(Guid person, bool disabled, CancellationToken cancel = default) =>
        ChangeAsync(person, leavesForeman: !disabled, "update accounts set disabled_at = case when $2 then now() end, stamp = gen_random_uuid() where person_id = $1", [person, disabled], cancel);

    /// <summary>Gives somebody another role.</summary>
    /// <returns>False when nobody would be left who can let others in; then nothing is changed.</returns>
    public Task<bool> SetRoleAsync(Guid person, string role, CancellationToken cancel = default) =>
        ChangeAsync(person, leavesForeman: role == Roles.Name(Role.Foreman), "update people set role = $2 where id = $1", [person, role], cancel);

    // Two who change each other at once stand in line here, so that the second sees what the first did.
    private async Task<bool> ChangeAsync(Guid person, bool leavesForeman, string sql, object[] values, CancellationToken cancel)
    {
        await using var connection = await database.OpenAsync(cancel);
        await using var transaction = await connection.BeginTransactionAsync(cancel);
        await LockAsync(connection, transaction, cancel);
        await using (var others = new NpgsqlCommand("select exists (select from people p join accounts a on a.person_id = p.id where p.role = 'foreman' and a.disabled_at is null and p.id <> $1) or not exists (select from people p join accounts a on a.person_id = p.id where p.role = 'foreman' and a.disabled_at is null and p.id = $1)", connection, transaction).With(person))
        {
            if (!leavesForeman && !(bool)(await others.ExecuteScalarAsync(cancel))!)
            {
                return false;
            }
        }

        await using var change = new NpgsqlCommand(sql, connection, transaction).With(values);
        await change.ExecuteNonQueryAsync(cancel);
        await transaction.CommitAsync(cancel);
        return true;
    }

    private static async Task LockAsync(NpgsqlConnection connection, NpgsqlTransaction transaction, CancellationToken cancel)
    {
        await using var wait = new NpgsqlCommand("select pg_advisory_xact_lock(hashtext('screeline accounts'))", connection, transaction);
        await wait.ExecuteNonQueryAsync(cancel);
    }

    private async Task<Guid> StampAsync(string sql, CancellationToken cancel, params object[] values)
    {
        await using var command = database.Command(sql).With(values);
        return await command.ExecuteScalarAsync(cancel) is Guid stamp ? stamp : throw new InvalidOperationException("There is no such account.");
    }

    private static Account Read(NpgsqlDataReader r) => new(
        r.GetGuid(0), r.GetString(1), r.GetString(2), r.GetString(3), r.IsDBNull(4) ? null : r.GetString(4), r.IsDBNull(5) ? null : r.GetString(5), r.GetGuid(6), r.IsDBNull(7) ? null : r.GetFieldValue<DateTimeOffset>(7));
}

/// <summary>Failed tries to come in, by account and by address; every process counts in the same place.</summary>
public sealed class TryStore(Database database)
{
    /// <summary>
    /// Counts a try before it is looked at, so that many at once cannot all pass; <see cref="ClearAsync"/> takes the count back when it was
    /// right. From the last allowed one on, each further failure locks for twice as long: 30 s, 1 min, … at most 15 min. A quarter of an
    /// hour without a try forgets them.
    /// </summary>
    /// <returns>Until when it is locked, for a try that comes too early; null when it may be looked at.</returns>
    public async Task<DateTimeOffset?> CountAsync(string what, int allowed, CancellationToken cancel = default)
    {
        await using var connection = await database.OpenAsync(cancel);
        // One transaction; the row is locked between looking and counting, also when it is new.
        await using var count = new NpgsqlBatch(connection);
        count.Add("insert into sign_in_tries (what, failures, last_at) values ($1, 0, now()) on conflict do nothing", what);
        count.Add("select locked_until from sign_in_tries where what = $1 for update", what);
        count.Add(
            """
            update sign_in_tries t set
              failures = case when t.last_at < now() - interval '15 minutes' then 1 else t.failures + 1 end,
              last_at = now(),
              locked_until = case
                when t.last_at < now() - interval '15 minutes' or t.failures + 1 < $2 then null
                else now() + least(interval '15 minutes', interval '30 seconds' * power(2, least(10, t.failures + 1 - $2))) end
            where what = $1 and coalesce(locked_until <= now(), true)
            """, what, allowed);
        await using var reader = await count.ExecuteReaderAsync(cancel);
        return await reader.RowsAsync(r => r.IsDBNull(0) ? (DateTimeOffset?)null : r.GetFieldValue<DateTimeOffset>(0), cancel) is [{ } until] && until > DateTimeOffset.UtcNow ? until : null;
    }

    /// <summary>Takes the count of one try back that was right; those that failed before it stay.</summary>
    public async Task TakeBackAsync(string what, CancellationToken cancel = default)
    {
        await using var command = database.Command("update sign_in_tries set failures = greatest(0, failures - 1), locked_until = case when failures <= 1 then null else locked_until end where what = $1").With(what);
        await command.ExecuteNonQueryAsync(cancel);
    }

    /// <summary>Forgets failed tries.</summary>
    public async Task ClearAsync(string what, CancellationToken cancel = default)
    {
        await using var command = database.Command("delete from sign_in_tries where what = $1").With(what);
        await command.ExecuteNonQueryAsync(cancel);
    }
}

/// <summary>The code that lets the first foreman in.</summary>
public sealed class SetupStore(Database database)
{
    /// <summary>Puts a code in place of any before it.</summary>
    public async Task SetAsync(byte[] sha256, CancellationToken cancel = default)
    {
        await using var command = database.Command("insert into setup_code (sha256) values ($1) on conflict (only_row) do update set sha256 = excluded.sha256, made_at = now()").With(sha256);
        await command.ExecuteNonQueryAsync(cancel);
    }

    /// <summary>Uses the code up; false when it is another one, or used already.</summary>
    public async Task<bool> UseAsync(byte[] sha256, CancellationToken cancel = default)
    {
        await using var command = database.Command("delete from setup_code where sha256 = $1").With(sha256);
        return await command.ExecuteNonQueryAsync(cancel) == 1;
    }
}

/// <summary>A token of a program.</summary>
/// <param name="Id">Identifier.</param>
/// <param name="Name">What it is for.</param>
/// <param name="Person">Whose name stands on what it does.</param>
/// <param name="Scope">"read" or "work".</param>
/// <param name="CreatedAt">Since when.</param>
/// <param name="ExpiresAt">Until when.</param>
/// <param name="RevokedAt">When it was taken back, or null.</param>
public sealed record ApiToken(Guid Id, string Name, Guid Person, string Scope, DateTimeOffset CreatedAt, DateTimeOffset ExpiresAt, DateTimeOffset? RevokedAt);

/// <summary>Tokens of programs, by the hash of what they send.</summary>
public sealed class TokenStore(Database database)
{
    private const string Columns = "select id, name, person_id, scope, created_at, expires_at, revoked_at from api_tokens";

    /// <summary>All, newest first.</summary>
    public async Task<IReadOnlyList<ApiToken>> AllAsync(CancellationToken cancel = default)
    {
        await using var command = database.Command($"{Columns} order by created_at desc, id");
        return await command.ListAsync(Read, cancel);
    }

    /// <summary>The one that holds now, or null.</summary>
    public async Task<ApiToken?> FindAsync(byte[] sha256, CancellationToken cancel = default)
    {
        await using var command = database.Command($"{Columns} where sha256 = $1 and revoked_at is null and expires_at > now()").With(sha256);
        return (await command.ListAsync(Read, cancel)).SingleOrDefault();
    }

    /// <summary>Adds one.</summary>
    public async Task AddAsync(ApiToken token, byte[] sha256, Guid by, CancellationToken cancel = default)
    {
        await using var command = database.Command("insert into api_tokens (id, name, person_id, scope, sha256, created_by, expires_at) values ($1, $2, $3, $4, $5, $6, $7)")
            .With(token.Id, token.Name, token.Person, token.Scope, sha256, by, token.ExpiresAt.ToUniversalTime());
        await command.ExecuteNonQueryAsync(cancel);
    }

    /// <summary>Takes one back.</summary>
    public async Task RevokeAsync(Guid id, CancellationToken cancel = default)
    {
        await using var command = database.Command("update api_tokens set revoked_at = now() where id = $1 and revoked_at is null").With(id);
        await command.ExecuteNonQueryAsync(cancel);
    }

    private static ApiToken Read(NpgsqlDataReader r) => new(
        r.GetGuid(0), r.GetString(1), r.GetGuid(2), r.GetString(3), r.GetFieldValue<DateTimeOffset>(4), r.GetFieldValue<DateTimeOffset>(5), r.IsDBNull(6) ? null : r.GetFieldValue<DateTimeOffset>(6));
}
