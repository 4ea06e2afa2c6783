using Dapper;
using Zandrik.Core.Records;
using Zandrik.Core.Shops;
using Zandrik.Core.Units;
using Zandrik.Storage.Documents;

namespace Zandrik.Storage;

/// <summary>Somebody who works in the shop.</summary>
public sealed record Colleague
{
    /// <summary>The person.</summary>
    public int Id { get; init; }

    /// <summary>What the person is called.</summary>
    public string Name { get; init; } = "";

    /// <summary>The sign-in name; absent until it was set.</summary>
    public string? Login { get; init; }

    /// <summary>What the person may do.</summary>
    public ShopRole Role { get; init; }

    /// <summary>True when the person has a password.</summary>
    public bool CanSignIn { get; init; }

    /// <summary>True when signing in takes a code of the person's phone as well.</summary>
    public bool HasCode { get; init; }

    /// <summary>When the person left; absent for somebody who works here.</summary>
    public DateTimeOffset? LeftAt { get; init; }

    /// <summary>Until when a one-time link is good that was not used yet; absent when there is none.</summary>
    public DateTimeOffset? LinkUntil { get; init; }
}

/// <summary>A bearer token of the shop, without its text, which is shown once only.</summary>
public sealed record ApiToken
{
    /// <summary>The token.</summary>
    public int Id { get; init; }

    /// <summary>What it is for.</summary>
    public string Label { get; init; } = "";

    /// <summary>The person it speaks for.</summary>
    public string Person { get; init; } = "";

    /// <summary>When it was made.</summary>
    public DateTimeOffset CreatedAt { get; init; }

    /// <summary>False for one that only reads.</summary>
    public bool MayWrite { get; init; }

    /// <summary>When it ends by itself; absent for one without an end.</summary>
    public DateTimeOffset? EndsAt { get; init; }

    /// <summary>When it was revoked; absent while it is good.</summary>
    public DateTimeOffset? RevokedAt { get; init; }
}

/// <summary>Keeps the people of a shop, its settings, and its tokens.</summary>
public sealed class PeopleStore(ShopDatabase database)
{
    /// <summary>How long a one-time link is good.</summary>
    public static readonly TimeSpan LinkGoodFor = TimeSpan.FromDays(7);

    internal const string Names = "select id, name from person order by left_at is not null, name;\n";

    /// <summary>Everybody of the shop: who works here first, by name.</summary>
    public Task<IReadOnlyList<Colleague>> ListAsync(ShopPerson who, DateTimeOffset now, CancellationToken cancel = default) =>
        database.InShopAsync<IReadOnlyList<Colleague>>(who, async (c, t) =>
            (await c.QueryAsync<ColleagueRow>(new CommandDefinition("""
                select p.id, p.name, p.login, p.role, p.password_hash is not null as can_sign_in, p.left_at, exists (select 1 from second_factor f where f.person_id = p.id) as has_code,
                       (select max(l.expires_at) from one_time_link l where l.person_id = p.id and l.used_at is null and l.expires_at > @now) as link_until
                from person p order by p.left_at is not null, p.name
                """, new { now }, t, cancellationToken: cancel)))
            .Select(r => new Colleague { Id = r.Id, Name = r.Name, Login = r.Login, Role = PersonRow.RoleOf(r.Role), CanSignIn = r.CanSignIn, HasCode = r.HasCode, LeftAt = r.LeftAt, LinkUntil = r.LinkUntil })
            .ToList(), cancel);

    /// <summary>Adds a person, who signs in by a one-time link first.</summary>
    /// <returns>The person; absent when the shop has somebody of that name.</returns>
    public Task<int?> AddAsync(ShopPerson who, string name, ShopRole role, CancellationToken cancel = default) =>
        database.InShopAsync(who, (c, t) => c.ExecuteScalarAsync<int?>(new CommandDefinition("""
            insert into person (shop_id, name, role) values (@shop, @name, @role) on conflict (shop_id, name) do nothing returning id
            """, new { shop = who.ShopId, name, role = RecordWords.Of(role) }, t, cancellationToken: cancel)), cancel);

    /// <summary>Makes a one-time link for a person; those made before are no longer good.</summary>
    /// <returns>The secret part of the link, to be shown once; absent when the shop has no such person working there.</returns>
    public Task<string?> MakeLinkAsync(ShopPerson who, int person, DateTimeOffset now, CancellationToken cancel = default) =>
        database.InShopAsync(who, async (c, t) =>
        {
            var word = SignInStore.RandomWord();
            await c.ExecuteAsync(new CommandDefinition(
                "update one_time_link set expires_at = @now where person_id = @person and used_at is null and expires_at > @now", new { person, now }, t, cancellationToken: cancel));
            var made = await c.ExecuteAsync(new CommandDefinition("""
                insert into one_time_link (shop_id, person_id, hash, made_at, expires_at)
                select @shop, p.id, @hash, @now, @until from person p where p.id = @person and p.left_at is null
                """, new { shop = who.ShopId, person, hash = SignInStore.Hash(word), now, until = now + LinkGoodFor }, t, cancellationToken: cancel));
            return made > 0 ? word : null;
        }, cancel);

    /// <summary>Uses a one-time link: sets name, sign-in name and password, and ends every earlier sign-in.</summary>
    /// <returns>The stamp for the cookie; absent when the link was used meanwhile.</returns>
    public Task<Guid?> UseLinkAsync(ShopPerson who, string link, string name, string login, string passwordHash, DateTimeOffset now, CancellationToken cancel = default) =>
        database.InShopAsync(who, async (c, t) =>
        {
            var used = await c.ExecuteAsync(new CommandDefinition(
                "update one_time_link set used_at = @now where hash = @hash and used_at is null and expires_at > @now", new { hash = SignInStore.Hash(link), now }, t, cancellationToken: cancel));
            return used == 0 ? null : await c.ExecuteScalarAsync<Guid?>(new CommandDefinition("""
                update person set name = @name, login = @login, password_hash = @passwordHash, stamp = gen_random_uuid()
                where id = @person returning stamp
                """, new { person = who.PersonId, name, login, passwordHash }, t, cancellationToken: cancel));
        }, cancel);

    /// <summary>Whether a sign-in name is free in the whole database for this person.</summary>
    public Task<bool> LoginIsFreeAsync(ShopPerson who, string login, CancellationToken cancel = default) =>
        database.InShopAsync(who, (c, t) => c.ExecuteScalarAsync<bool>(new CommandDefinition(
            "select login_is_free(@login, @person)", new { login, person = who.PersonId }, t, cancellationToken: cancel)), cancel);

    /// <summary>Whether a name is free in the shop for this person.</summary>
    public Task<bool> NameIsFreeAsync(ShopPerson who, string name, CancellationToken cancel = default) =>
        database.InShopAsync(who, (c, t) => c.ExecuteScalarAsync<bool>(new CommandDefinition(
            "select not exists (select 1 from person where name = @name and id <> @person)", new { name, person = who.PersonId }, t, cancellationToken: cancel)), cancel);

    /// <summary>The person's sign-in name; absent when it was never set.</summary>
    public Task<string?> LoginOfAsync(ShopPerson who, CancellationToken cancel = default) =>
        database.InShopAsync(who, (c, t) => c.ExecuteScalarAsync<string?>(new CommandDefinition(
            "select login from person where id = @person", new { person = who.PersonId }, t, cancellationToken: cancel)), cancel);

    /// <summary>Sets a new password, which ends every sign-in of the person.</summary>
    /// <returns>The new stamp.</returns>
    public Task<Guid> ChangePasswordAsync(ShopPerson who, string passwordHash, CancellationToken cancel = default) =>
        StampAsync(who, "password_hash = @passwordHash,", new { person = who.PersonId, passwordHash }, cancel);

    /// <summary>Ends every sign-in of the person, on every machine.</summary>
    public Task<Guid> SignOutEverywhereAsync(ShopPerson who, CancellationToken cancel = default) =>
        StampAsync(who, "", new { person = who.PersonId }, cancel);

    /// <summary>Changes what a person may do, or lets a person leave or come back. The last foreman stays foreman.</summary>
    /// <returns>False when it would leave the shop without a foreman who can sign in, or there is no such person.</returns>
    public Task<bool> ChangeAsync(ShopPerson who, int person, ShopRole role, DateTimeOffset? leftAt, CancellationToken cancel = default) =>
        database.InShopAsync(who, async (c, t) =>
        {
            // Two foremen demoting each other at once wait for each other here.
            await c.ExecuteAsync(new CommandDefinition("select 1 from person where role = 'foreman' for update", null, t, cancellationToken: cancel));
            if (role != ShopRole.Foreman || leftAt is not null)
            {
                var others = await c.ExecuteScalarAsync<int>(new CommandDefinition(
                    "select count(*) from person where role = 'foreman' and left_at is null and password_hash is not null and id <> @person", new { person }, t, cancellationToken: cancel));
                if (others == 0)
                {
                    return false;
                }
            }
            // Whoever leaves is signed out at once; a role is looked up with each page anyway.
            return await c.ExecuteAsync(new CommandDefinition("""
                update person set role = @role, left_at = case when @leaves then coalesce(left_at, @leftAt) end,
                    stamp = case when @leaves and left_at is null then gen_random_uuid() else stamp end
                where id = @person
                """, new { person, role = RecordWords.Of(role), leaves = leftAt is not null, leftAt }, t, cancellationToken: cancel)) > 0;
        }, cancel);

    /// <summary>Keeps the shop's settings.</summary>
    public Task SetSettingsAsync(ShopPerson who, string name, string timeZone, PressureUnit unit, ShopSettings settings, CancellationToken cancel = default) =>
        database.InShopAsync(who, (c, t) => c.ExecuteAsync(new CommandDefinition(
            "update shop set name = @name, time_zone = @timeZone, unit = @unit, settings = @settings::jsonb where id = @shop",
            new { shop = who.ShopId, name, timeZone, unit = RecordWords.Of(unit), settings = StoredDocuments.Write<SettingsDocumentV1, ShopSettings>(settings) },
            t, cancellationToken: cancel)), cancel);

    /// <summary>Notes a step of the guided set-up as done or skipped.</summary>
    public Task NoteSetupAsync(ShopPerson who, string step, CancellationToken cancel = default) =>
        database.InShopAsync(who, (c, t) => c.ExecuteAsync(new CommandDefinition(
            "update shop set setup = setup || @step where id = @shop and not @step = any(setup)", new { shop = who.ShopId, step }, t, cancellationToken: cancel)), cancel);

    /// <summary>The shop's tokens, newest first.</summary>
    public Task<IReadOnlyList<ApiToken>> TokensAsync(ShopPerson who, CancellationToken cancel = default) =>
        database.InShopAsync<IReadOnlyList<ApiToken>>(who, async (c, t) =>
            (await c.QueryAsync<ApiToken>(new CommandDefinition("""
                select t.id, t.label, p.name as person, t.created_at, t.revoked_at, t.may_write, t.ends_at
                from api_token t join person p on p.id = t.person_id order by t.revoked_at is not null, t.id desc
                """, null, t, cancellationToken: cancel))).AsList(), cancel);

    /// <summary>Makes a token that speaks for the person who makes it.</summary>
    /// <param name="who">The person.</param>
    /// <param name="label">What it is for, 1 to 100 characters.</param>
    /// <param name="mayWrite">False for one that only reads.</param>
    /// <param name="endsAt">When it ends by itself; absent for never.</param>
    /// <param name="cancel">Cancels the work.</param>
    /// <returns>Its text, to be shown once.</returns>
    public Task<string> MakeTokenAsync(ShopPerson who, string label, bool mayWrite = true, DateTimeOffset? endsAt = null, CancellationToken cancel = default) =>
        database.InShopAsync(who, async (c, t) =>
        {
            var word = "zandrik-" + SignInStore.RandomWord();
            await c.ExecuteAsync(new CommandDefinition(
                "insert into api_token (shop_id, person_id, label, hash, may_write, ends_at) values (@shop, @person, @label, @hash, @mayWrite, @endsAt)",
                new { shop = who.ShopId, person = who.PersonId, label, mayWrite, endsAt, hash = SignInStore.Hash(word) }, t, cancellationToken: cancel));
            return word;
        }, cancel);

    /// <summary>Revokes a token for good.</summary>
    public Task RevokeTokenAsync(ShopPerson who, int token, DateTimeOffset now, CancellationToken cancel = default) =>
        database.InShopAsync(who, (c, t) => c.ExecuteAsync(new CommandDefinition(
            "update api_token set revoked_at = coalesce(revoked_at, @now) where id = @token", new { token, now }, t, cancellationToken: cancel)), cancel);

    private Task<Guid> StampAsync(ShopPerson who, string more, object parameters, CancellationToken cancel) =>
        database.InShopAsync(who, (c, t) => c.ExecuteScalarAsync<Guid>(new CommandDefinition(
            $"update person set {more} stamp = gen_random_uuid() where id = @person returning stamp", parameters, t, cancellationToken: cancel)), cancel);

    private sealed record ColleagueRow
    {
        public int Id { get; init; }
        public string Name { get; init; } = "";
        public string? Login { get; init; }
        public string Role { get; init; } = "";
        public bool CanSignIn { get; init; }
        public bool HasCode { get; init; }
        public DateTimeOffset? LeftAt { get; init; }
        public DateTimeOffset? LinkUntil { get; init; }
    }
}
