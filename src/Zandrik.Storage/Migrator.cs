using Dapper;
using DbUp;
using Npgsql;
using Zandrik.Core.Records;
using Zandrik.Core.Shops;

namespace Zandrik.Storage;

/// <summary>Brings a database to the current schema. Runs with the owner's rights; the application itself has fewer.</summary>
public static class Migrator
{
    private static readonly IReadOnlyList<string> Names = [.. typeof(Migrator).Assembly.GetManifestResourceNames().Where(n => n.EndsWith(".sql", StringComparison.Ordinal)).Order(StringComparer.Ordinal)];

    /// <summary>The last migration this program knows, as in 0020-sessions.sql.</summary>
    public static string Newest => ShortName(Names[^1]);

    /// <summary>Whether this program knows a migration, by its short name.</summary>
    /// <returns>False for one of a newer program.</returns>
    public static bool Knows(string shortName) => Names.Any(n => ShortName(n) == shortName);

    internal static string ShortName(string script) => script.Split("Migrations.")[^1];

    /// <summary>Applies every migration not yet applied, each in a transaction of its own, and returns their names.</summary>
    /// <param name="ownerConnection">Connection string of a role that may create tables.</param>
    /// <param name="applicationRole">The plain role of the application, which must exist; letters, digits and underscores.</param>
    /// <exception cref="InvalidOperationException">A migration failed, or the database is a newer program's: the message says which and why.</exception>
    public static IReadOnlyList<string> Migrate(string ownerConnection, string applicationRole)
    {
        using (var connection = new NpgsqlConnection(new NpgsqlConnectionStringBuilder(ownerConnection) { Pooling = false }.ConnectionString))
        {
            // The rules that keep shops apart bind the owner of the tables too: without this it could neither save nor restore them.
            if (!connection.ExecuteScalar<bool>("select rolsuper or rolbypassrls from pg_roles where rolname = current_user"))
            {
                throw new InvalidOperationException($"The owner of the database, {new NpgsqlConnectionStringBuilder(ownerConnection).Username}, has to see the rows of every shop, for backups: alter role … bypassrls.");
            }
        }
        if (applicationRole.Length == 0 || !applicationRole.All(c => char.IsAsciiLetterLower(c) || char.IsAsciiDigit(c) || c == '_'))
        {
            throw new ArgumentException("The application's role is lower-case letters, digits and underscores.", nameof(applicationRole));
        }
        var upgrade = DeployChanges.To
            .PostgresqlDatabase(ownerConnection)
            .WithScriptsEmbeddedInAssembly(typeof(Migrator).Assembly)
            .WithVariable("app", applicationRole)
            .WithVariablesEnabled()
            .WithTransactionPerScript()
            .LogToNowhere()
            .Build();
        // What a newer program has made of it this one does not know: it would read it wrong, or write what the newer one cannot read.
        var known = upgrade.GetDiscoveredScripts().Select(s => s.Name).ToHashSet();
        if (upgrade.GetExecutedScripts().Where(s => !known.Contains(s)).Max() is { } newer)
        {
            throw new InvalidOperationException($"This database was made by a newer Zandrik: it has {ShortName(newer)}, which this one does not know. Start the newer Zandrik, or use another folder (--data). Nothing was changed.");
        }
        var result = upgrade.PerformUpgrade();
        return result.Successful
            ? [.. result.Scripts.Select(s => s.Name)]
            : throw new InvalidOperationException($"Migration {result.ErrorScript?.Name} failed: {result.Error.Message}", result.Error);
    }

    /// <summary>
    /// Looks whether the application's role is held by the rules that keep shops apart: a superuser, a role that passes
    /// row-level security, or the owner of the tables would see every shop's jobs on every page.
    /// </summary>
    /// <param name="applicationConnection">Connection string of the application, after the migrations.</param>
    /// <param name="cancel">Cancels the work.</param>
    /// <exception cref="InvalidOperationException">It is not; the message says what to do.</exception>
    public static async Task CheckRoleAsync(string applicationConnection, CancellationToken cancel = default)
    {
        await using var connection = new NpgsqlConnection(new NpgsqlConnectionStringBuilder(applicationConnection) { Pooling = false }.ConnectionString);
        if (await connection.ExecuteScalarAsync<bool>(new CommandDefinition("""
            select exists (select 1 from pg_roles where rolname = current_user and (rolsuper or rolbypassrls))
                or exists (select 1 from pg_tables where schemaname = 'public' and tablename = 'shop' and pg_has_role(tableowner, 'member'))
            """, cancellationToken: cancel)))
        {
            throw new InvalidOperationException($"The application signs in to the database as {new NpgsqlConnectionStringBuilder(applicationConnection).Username}, a role that sees the jobs of every shop. Give it a plain one that owns nothing: create role … login nosuperuser nobypassrls.");
        }
    }

    /// <summary>Notes in every shop that its database came from a backup.</summary>
    /// <param name="ownerConnection">Connection string of the owner, after the migrations.</param>
    /// <param name="about">From which moment.</param>
    /// <param name="cancel">Cancels the work.</param>
    public static async Task NoteRestoreAsync(string ownerConnection, string about, CancellationToken cancel = default)
    {
        await using var connection = new NpgsqlConnection(ownerConnection);
        await connection.ExecuteAsync(new CommandDefinition("insert into audit_event (shop_id, what, about) select id, @what, @about from shop", new { what = AuditStore.Restored, about }, cancellationToken: cancel));
    }

    /// <summary>
    /// Makes the first shop and its people when there is none. Runs with the owner's rights, because the
    /// application may not make shops. People of a demo that was made before they could sign in get their
    /// made-up accounts.
    /// </summary>
    /// <returns>True when it made one.</returns>
    public static async Task<bool> EnsureShopAsync(string ownerConnection, FirstShop shop, CancellationToken cancel = default)
    {
        await using var source = NpgsqlDataSource.Create(ownerConnection);
        await using var connection = await source.OpenConnectionAsync(cancel);
        await using var transaction = await connection.BeginTransactionAsync(cancel);
        var made = await connection.ExecuteScalarAsync<int?>(new CommandDefinition("""
            insert into shop (name, time_zone, unit, demo, setup) select @Name, @TimeZone, @Unit, @Demo, case when @Demo then array['over'] else cast('{}' as text[]) end where not exists (select 1 from shop) returning id
            """, shop, transaction, cancellationToken: cancel));
        var id = made ?? await connection.ExecuteScalarAsync<int?>(new CommandDefinition(
            "update shop set demo = true where name = @Name and @Demo and id = (select min(id) from shop) returning id", shop, transaction, cancellationToken: cancel));
        if (id is not null)
        {
            foreach (var person in shop.People)
            {
                await connection.ExecuteAsync(new CommandDefinition("""
                    insert into person (shop_id, name, login, password_hash, role) values (@id, @Name, @Login, @PasswordHash, @role)
                    on conflict (shop_id, name) do update set login = excluded.login, password_hash = excluded.password_hash, role = excluded.role
                    where person.login is null
                    """, new { id, person.Name, person.Login, person.PasswordHash, role = RecordWords.Of(person.Role) }, transaction, cancellationToken: cancel));
            }
        }
        if (made is not null && shop.Token is { } token)
        {
            await connection.ExecuteAsync(new CommandDefinition("""
                insert into api_token (shop_id, person_id, label, hash) select shop_id, id, 'Demo', @hash from person where shop_id = @made order by id limit 1
                """, new { made, hash = SignInStore.Hash(token) }, transaction, cancellationToken: cancel));
        }
        await transaction.CommitAsync(cancel);
        return made is not null;
    }

    /// <summary>
    /// Makes the one-time link of the first foreman while nobody can sign in yet; one made at an earlier
    /// start is no longer good.
    /// </summary>
    /// <returns>The secret part of the link; absent when somebody can sign in.</returns>
    public static async Task<string?> FirstLinkAsync(string ownerConnection, DateTimeOffset now, CancellationToken cancel = default)
    {
        await using var source = NpgsqlDataSource.Create(ownerConnection);
        await using var connection = await source.OpenConnectionAsync(cancel);
        var word = SignInStore.RandomWord();
        var made = await connection.ExecuteAsync(new CommandDefinition("""
            with nobody as (select 1 where not anybody_can_sign_in()),
                 old as (update one_time_link set expires_at = @now where used_at is null and expires_at > @now and exists (select 1 from nobody)),
                 first as (update person set role = 'foreman' where id = (select min(id) from person) and exists (select 1 from nobody) returning shop_id, id)
            insert into one_time_link (shop_id, person_id, hash, made_at, expires_at) select shop_id, id, @hash, @now, @until from first
            """, new { now = now.UtcDateTime, until = (now + PeopleStore.LinkGoodFor).UtcDateTime, hash = SignInStore.Hash(word) }, cancellationToken: cancel));
        return made > 0 ? word : null;
    }
}

/// <summary>The first shop of a new database.</summary>
/// <param name="Name">What it is called.</param>
/// <param name="TimeZone">IANA name of its time zone.</param>
/// <param name="Unit">The word of the pressure unit its gauges read.</param>
/// <param name="People">Its people, the first first.</param>
/// <param name="Token">A bearer token to make for the API; absent for none.</param>
/// <param name="Demo">True for made-up data: the sign-in page then names the accounts.</param>
public sealed record FirstShop(string Name, string TimeZone, string Unit, IReadOnlyList<FirstPerson> People, string? Token = null, bool Demo = false);

/// <summary>A person of the first shop.</summary>
/// <param name="Name">What the person is called.</param>
/// <param name="Role">What the person may do.</param>
/// <param name="Login">The sign-in name; absent until a one-time link is used.</param>
/// <param name="PasswordHash">Hash of the password; absent likewise.</param>
public sealed record FirstPerson(string Name, ShopRole Role, string? Login = null, string? PasswordHash = null);
