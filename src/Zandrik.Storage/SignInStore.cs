using System.Security.Cryptography;
using System.Text;
using Dapper;
using Zandrik.Core.Records;
using Zandrik.Core.Shops;
using Zandrik.Storage.Documents;

namespace Zandrik.Storage;

/// <summary>Who is asking: a person of a shop. Every store works for one of them, and sees that shop's rows only.</summary>
public sealed record ShopPerson
{
    /// <summary>The shop.</summary>
    public int ShopId { get; init; }

    /// <summary>The person.</summary>
    public int PersonId { get; init; }

    /// <summary>What the shop is called.</summary>
    public string Shop { get; init; } = "";

    /// <summary>What the person is called; stands on every reading.</summary>
    public string Person { get; init; } = "";

    /// <summary>IANA name of the shop's time zone.</summary>
    public string TimeZone { get; init; } = "";

    /// <summary>The word of the pressure unit the shop's gauges read.</summary>
    public string Unit { get; init; } = "";

    /// <summary>What the person may do.</summary>
    public ShopRole Role { get; init; }

    /// <summary>What this person is working on just now: rows of any other purpose are not there.</summary>
    public JobPurpose Purpose { get; init; }

    /// <summary>The shop's settings.</summary>
    public ShopSettings Settings { get; init; } = new();

    /// <summary>True where signing in takes a code of the person's phone as well.</summary>
    public bool HasCode { get; init; }

    /// <summary>True where every foreman of the shop has to have that.</summary>
    public bool ForemenNeedCode { get; init; }

    /// <summary>True for a foreman who has to set it up before going on as one.</summary>
    public bool LacksCode => MayManage && ForemenNeedCode && !HasCode;

    /// <summary>The steps of the guided set-up that were done or skipped, as words; with <see cref="SetupOver"/> when it is over.</summary>
    public IReadOnlyList<string> Setup { get; init; } = [];

    /// <summary>Stands among the steps when nobody is to be asked any more.</summary>
    public const string SetupOver = "over";

    /// <summary>True where the shop is still being set up, and this person is the one to do it.</summary>
    public bool IsSettingUp => MayManage && !Setup.Contains(SetupOver);

    /// <summary>True when the person may open jobs and take readings.</summary>
    public bool MayMeasure => Role != ShopRole.Viewer;

    /// <summary>True when the person may change people, settings, testers and sheets.</summary>
    public bool MayManage => Role == ShopRole.Foreman;
}

/// <summary>What is known of a person who wants to sign in.</summary>
public sealed record SignInAttempt
{
    /// <summary>The person.</summary>
    public required ShopPerson Who { get; init; }

    /// <summary>The stored hash of the password.</summary>
    public required string PasswordHash { get; init; }

    /// <summary>Stands in the cookie; a new one ends all sign-ins.</summary>
    public required Guid Stamp { get; init; }
}

/// <summary>A sign-in on one device.</summary>
public sealed record SessionLine
{
    /// <summary>The session.</summary>
    public Guid Id { get; init; }

    /// <summary>What the device is, in a few words.</summary>
    public string Device { get; init; } = "";

    /// <summary>When it began.</summary>
    public DateTimeOffset MadeAt { get; init; }

    /// <summary>When it was last used, to within five minutes.</summary>
    public DateTimeOffset SeenAt { get; init; }
}

/// <summary>Which jobs a page is about: one, or those of a list.</summary>
/// <param name="Job">The job's number; absent for a list.</param>
/// <param name="List">Which jobs; absent for one.</param>
/// <param name="ListSize">Most jobs of the list; one more is looked for, to know whether there are others.</param>
public sealed record VisitAbout(int? Job, JobFilter? List = null, int ListSize = 0);

/// <summary>What a sign-in cookie says: who, by which stamp, in which session.</summary>
/// <param name="Shop">The shop.</param>
/// <param name="Person">The person.</param>
/// <param name="Stamp">The person's stamp as it was.</param>
/// <param name="Session">The session.</param>
public readonly record struct SessionKey(int Shop, int Person, Guid Stamp, Guid Session);

/// <summary>Somebody who opens a page.</summary>
/// <param name="Who">The person.</param>
/// <param name="Jobs">What the jobs stand at that the page is about, in the order of the list.</param>
/// <param name="People">With a list: everybody of the shop, those who work here first, by name.</param>
public sealed record Visit(ShopPerson Who, IReadOnlyList<JobStamp> Jobs, IReadOnlyList<PersonName> People)
{
    /// <summary>When the session was last noted as used.</summary>
    public DateTimeOffset SeenAt { get; init; }

    /// <summary>Whose exercise the job of the page is; absent where it is work.</summary>
    public int? TraineeId { get; init; }
}

/// <summary>Somebody's name.</summary>
/// <param name="Id">The person.</param>
/// <param name="Name">What the person is called.</param>
public sealed record PersonName(int Id, string Name);

/// <summary>Finds out who is asking, before the shop is known.</summary>
public sealed class SignInStore(ShopDatabase database)
{
    /// <summary>Tries for a name, or from a known device, before each further one has to wait.</summary>
    public const int FreeTries = 5;

    /// <summary>Tries from an address, for whatever names, before each further one has to wait.</summary>
    public const int FreeTriesOfAddress = 30;

    /// <summary>How long a session lasts that nobody uses: a tablet that lies in a bay over a holiday is still signed in.</summary>
    public static readonly TimeSpan Idle = TimeSpan.FromDays(7);

    /// <summary>How long a session lasts at most; then the password is asked for again.</summary>
    public static readonly TimeSpan Longest = TimeSpan.FromDays(30);

    /// <summary>The person a bearer token speaks for; absent when the token is unknown, revoked or over, or the person has left.</summary>
    /// <param name="token">Its text.</param>
    /// <param name="now">The time.</param>
    /// <param name="cancel">Cancels the work.</param>
    /// <returns>The person, as a viewer where the token only reads.</returns>
    public async Task<ShopPerson?> ByTokenAsync(string token, DateTimeOffset now, CancellationToken cancel = default) =>
        await EnterAsync("select shop_id, person_id, may_write from shop_of_token(@hash, @now)", new { hash = Hash(token), now }, cancel) is { } row
            ? row.TokenWrites ? row.ToPerson() : row.ToPerson() with { Role = ShopRole.Viewer } : null;

    /// <summary>The shop of a calendar's secret address, as somebody who may only look; absent for one that was guessed or revoked.</summary>
    public async Task<ShopPerson?> ByFeedAsync(string secret, CancellationToken cancel = default) =>
        (await EnterAsync("select shop_id, person_id, false from shop_of_feed(@hash)", new { hash = Hash(secret) }, cancel))?.ToPerson() is { } who ? who with { Role = ShopRole.Viewer } : null;

    /// <summary>The first person of the first shop; absent in an empty database.</summary>
    public async Task<ShopPerson?> FirstAsync(CancellationToken cancel = default) =>
        (await EnterAsync("select shop_id, person_id, true from first_person()", null, cancel))?.ToPerson();

    /// <summary>The person of a sign-in cookie; absent when its stamp is no longer good.</summary>
    public async Task<ShopPerson?> BySessionAsync(SessionKey key, DateTimeOffset now, CancellationToken cancel = default) =>
        (await VisitAsync(key, now, null, cancel))?.Who;

    /// <summary>The person of a sign-in cookie and, in the same round trip, what the jobs stand at that the page is about.</summary>
    /// <param name="key">What the cookie says.</param>
    /// <param name="now">The time.</param>
    /// <param name="about">Which jobs; absent for none.</param>
    /// <param name="cancel">Cancels the work.</param>
    /// <returns>Absent when the cookie is no longer good.</returns>
    public Task<Visit?> VisitAsync(SessionKey key, DateTimeOffset now, VisitAbout? about, CancellationToken cancel = default)
    {
        // The number of a job says what it is for.
        var purpose = about?.Job is { } asked ? PracticeNumbers.PurposeOf(asked) : JobPurpose.Work;
        var practising = purpose == JobPurpose.Practice;
        var parameters = new DynamicParameters(new { person = key.Person, stamp = key.Stamp, session = key.Session, idle = now - Idle, oldest = now - Longest });
        var statements = PersonRow.Select + $" join session x on x.id = @session and x.person_id = p.id and {Open} where p.id = @person and p.stamp = @stamp and p.left_at is null;\n"
            + "select seen_at from session where id = @session;\n";
        if (about?.Job is { } number)
        {
            parameters.Add("number", number);
            statements += WorkspaceStore.Stamps("j.number = @number");
            statements += practising ? "select r.person_id from practice_run r join job j on j.id = r.job_id where j.number = @number;\n" : "";
        }
        else if (about?.List is { } list)
        {
            var (where, order) = JobStore.Condition(list, parameters, about.ListSize);
            statements += WorkspaceStore.Stamps(where, order) + PeopleStore.Names;
        }
        return database.ReadAsync(key.Shop, key.Person, purpose, statements, parameters, async grid =>
        {
            if (await grid.ReadSingleOrDefaultAsync<PersonRow>() is not { } row)
            {
                return null;
            }
            var seen = await grid.ReadSingleAsync<DateTimeOffset>();
            IReadOnlyList<JobStamp> jobs = about is { Job: null, List: null } or null ? [] : [.. await grid.ReadAsync<JobStamp>()];
            int? trainee = practising ? await grid.ReadSingleOrDefaultAsync<int?>() : null;
            return new Visit(row.ToPerson() with { Purpose = purpose }, jobs, about?.List is null ? [] : [.. (await grid.ReadAsync<(int Id, string Name)>()).Select(p => new PersonName(p.Id, p.Name))]) { SeenAt = seen, TraineeId = trainee };
        }, cancel);
    }

    /// <summary>The person with a sign-in name; absent when there is none who could sign in.</summary>
    public async Task<SignInAttempt?> ByLoginAsync(string login, CancellationToken cancel = default) =>
        await EnterAsync("select shop_id, person_id, true from person_of_login(@login)", new { login }, cancel) is { PasswordHash: { } hash } row
            ? new SignInAttempt { Who = row.ToPerson(), PasswordHash = hash, Stamp = row.Stamp }
            : null;

    /// <summary>The person a one-time link was made for; absent when it is unknown, used or too old.</summary>
    public async Task<ShopPerson?> ByLinkAsync(string link, DateTimeOffset now, CancellationToken cancel = default) =>
        (await EnterAsync("select shop_id, person_id, true from person_of_link(@hash, @now)", new { hash = Hash(link), now }, cancel))?.ToPerson();

    /// <summary>Counts a try to sign in before the password is looked at: however many come at once, no more than the free ones get to it.</summary>
    /// <param name="own">Who tries: a sign-in name from a device that is not known, or a device that is.</param>
    /// <param name="address">From where; absent where it does not count, as from a known device.</param>
    /// <param name="now">The time.</param>
    /// <param name="cancel">Cancels the work.</param>
    /// <returns>Until when there is no further try; absent when this one may go on.</returns>
    public Task<DateTimeOffset?> CountTryAsync(string own, string? address, DateTimeOffset now, CancellationToken cancel = default) =>
        database.AskAsync(c => c.ExecuteScalarAsync<DateTimeOffset?>(new CommandDefinition("select count_sign_in(@keys, @free, @now)", new
        {
            keys = address is null ? new[] { Hash(own) } : [Hash(own), Hash(address)],
            free = address is null ? new[] { FreeTries } : [FreeTries, FreeTriesOfAddress],
            now,
        }, cancellationToken: cancel)), cancel);

    /// <summary>Forgets the tries after a right password.</summary>
    public Task ForgetTriesAsync(string own, string? address, DateTimeOffset now, CancellationToken cancel = default) =>
        database.AskAsync(c => c.ExecuteAsync(new CommandDefinition("select forget_sign_in(@own, @address, @now)", new { own = Hash(own), address = Hash(address ?? ""), now }, cancellationToken: cancel)), cancel);

    /// <summary>Begins a sign-in on a device.</summary>
    /// <param name="who">The person.</param>
    /// <param name="device">What the device is, in a few words.</param>
    /// <param name="now">The time.</param>
    /// <param name="cancel">Cancels the work.</param>
    /// <returns>The session, for the cookie.</returns>
    public Task<Guid> BeginSessionAsync(ShopPerson who, string device, DateTimeOffset now, CancellationToken cancel = default) =>
        database.InShopAsync(who, async (c, t) =>
        {
            var id = Guid.NewGuid();
            await c.ExecuteAsync(new CommandDefinition("insert into session (id, shop_id, person_id, device, made_at, seen_at) values (@id, @ShopId, @PersonId, @device, @now, @now)",
                new { id, who.ShopId, who.PersonId, device, now }, t, cancellationToken: cancel));
            return id;
        }, cancel);

    /// <summary>Notes that a session is in use; its idle time begins anew.</summary>
    public Task TouchSessionAsync(ShopPerson who, Guid session, DateTimeOffset now, CancellationToken cancel = default) =>
        database.InShopAsync(who, (c, t) => c.ExecuteAsync(new CommandDefinition("update session set seen_at = @now where id = @session and seen_at < @now", new { session, now }, t, cancellationToken: cancel)), cancel);

    /// <summary>Ends a session of the person: whoever has its cookie is signed out.</summary>
    /// <returns>False when the person has no such session, or it had ended.</returns>
    public Task<bool> EndSessionAsync(ShopPerson who, Guid session, DateTimeOffset now, CancellationToken cancel = default) =>
        database.InShopAsync(who, async (c, t) => await c.ExecuteAsync(new CommandDefinition(
            "update session set ended_at = @now where id = @session and person_id = @PersonId and ended_at is null", new { session, who.PersonId, now }, t, cancellationToken: cancel)) > 0, cancel);

    /// <summary>The sessions of the person that are open, the latest used first.</summary>
    public Task<IReadOnlyList<SessionLine>> SessionsAsync(ShopPerson who, DateTimeOffset now, CancellationToken cancel = default) =>
        database.InShopAsync<IReadOnlyList<SessionLine>>(who, async (c, t) => (await c.QueryAsync<SessionLine>(new CommandDefinition($"""
            select x.id, x.device, x.made_at, x.seen_at from session x join person p on p.id = x.person_id where p.id = @PersonId and {Open} order by x.seen_at desc
            """, new { who.PersonId, now, idle = now - Idle, oldest = now - Longest }, t, cancellationToken: cancel))).AsList(), cancel);

    // A session that is neither ended, nor idle for too long, nor too old.
    private const string Open = "x.ended_at is null and x.seen_at > @idle and x.made_at > @oldest";

    /// <summary>The made-up accounts of a demo; empty where people really work.</summary>
    public Task<IReadOnlyList<DemoAccount>> DemoPeopleAsync(CancellationToken cancel = default) =>
        database.AskAsync<IReadOnlyList<DemoAccount>>(async c => (await c.QueryAsync<(string Name, string Login, string Role)>(new CommandDefinition(
            "select name, login, role from demo_people()", cancellationToken: cancel)))
            .Select(p => new DemoAccount(p.Name, p.Login, PersonRow.RoleOf(p.Role))).ToList(), cancel);

    /// <summary>False until the first person has set a password.</summary>
    public Task<bool> AnybodyCanSignInAsync(CancellationToken cancel = default) =>
        database.AskAsync(c => c.ExecuteScalarAsync<bool>(new CommandDefinition("select anybody_can_sign_in()", cancellationToken: cancel)), cancel);

    /// <summary>A random text for a token or link: 32 bytes, in letters that survive an address and a keyboard.</summary>
    public static string RandomWord() => Convert.ToHexStringLower(RandomNumberGenerator.GetBytes(32));

    internal static byte[] Hash(string token) => SHA256.HashData(Encoding.UTF8.GetBytes(token));

    private Task<PersonRow?> EnterAsync(string sql, object? parameters, CancellationToken cancel) => database.AskAsync(async connection =>
    {
        await using var transaction = await connection.BeginTransactionAsync(cancel);
        var found = await connection.QuerySingleOrDefaultAsync<(int Shop, int Person, bool Writes)?>(
            new CommandDefinition(sql, parameters, transaction, cancellationToken: cancel));
        if (found is not { } who)
        {
            return null;
        }
        await ShopDatabase.EnterShopAsync(connection, transaction, who.Shop, cancel);
        return (await connection.QuerySingleAsync<PersonRow>(new CommandDefinition(
            PersonRow.Select + " where p.id = @person", new { person = who.Person }, transaction, cancellationToken: cancel))) with
        { TokenWrites = who.Writes };
    }, cancel);
}

/// <summary>A made-up account of a demo.</summary>
/// <param name="Name">What the person is called.</param>
/// <param name="Login">The sign-in name.</param>
/// <param name="Role">What the person may do.</param>
public sealed record DemoAccount(string Name, string Login, ShopRole Role);

// A person as the database has it.
internal sealed record PersonRow
{
    internal const string Select = """
        select s.id as shop_id, p.id as person_id, s.name as shop, p.name as person, s.time_zone, s.unit,
               s.settings::text as settings, s.setup, s.foremen_need_code, p.role, p.password_hash, p.stamp,
               exists (select 1 from second_factor f where f.person_id = p.id) as has_code
        from shop s join person p on p.shop_id = s.id
        """;

    public int ShopId { get; init; }
    public int PersonId { get; init; }
    public string Shop { get; init; } = "";
    public string Person { get; init; } = "";
    public string TimeZone { get; init; } = "";
    public string Unit { get; init; } = "";
    public string Settings { get; init; } = "{}";
    public string[] Setup { get; init; } = [];
    public string Role { get; init; } = "";
    public string? PasswordHash { get; init; }
    public Guid Stamp { get; init; }
    public bool HasCode { get; init; }
    public bool ForemenNeedCode { get; init; }

    // Of the token it came by; true for any other way in.
    public bool TokenWrites { get; init; } = true;

    internal static ShopRole RoleOf(string word) => RecordWords.TryParse<ShopRole>(word, out var role) ? role : ShopRole.Viewer;

    internal ShopPerson ToPerson() => new()
    {
        ShopId = ShopId,
        PersonId = PersonId,
        Shop = Shop,
        Person = Person,
        TimeZone = TimeZone,
        Unit = Unit,
        Role = RoleOf(Role),
        Settings = SettingsOf(Settings),
        Setup = Setup,
        HasCode = HasCode,
        ForemenNeedCode = ForemenNeedCode,
    };

    internal static ShopSettings SettingsOf(string json) => StoredDocuments.Read<SettingsDocumentV1, ShopSettings>(json);
}
