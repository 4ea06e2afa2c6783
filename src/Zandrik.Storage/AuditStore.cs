using Dapper;

namespace Zandrik.Storage;

/// <summary>A line of what was done.</summary>
public sealed record AuditLine
{
    /// <summary>The row; later ones are larger.</summary>
    public long Id { get; init; }

    /// <summary>When.</summary>
    public DateTimeOffset At { get; init; }

    /// <summary>Who; absent where nobody was signed in.</summary>
    public string? By { get; init; }

    /// <summary>What, as a word: signed-in, role-changed, verdict-signed, exported, restored and so on.</summary>
    public string What { get; init; } = "";

    /// <summary>About what: a person, a job, a device.</summary>
    public string About { get; init; } = "";
}

/// <summary>Who did what that matters beyond a job. Most of it is written by the database itself; nothing of it is ever changed.</summary>
public sealed class AuditStore(ShopDatabase database)
{
    /// <summary>A record, a sheet or a list left Zandrik.</summary>
    public const string Exported = "exported";

    /// <summary>Somebody tried to sign in under a name of the shop, and could not.</summary>
    public const string SignInFailed = "sign-in-failed";

    /// <summary>The database came from a backup.</summary>
    public const string Restored = "restored";

    /// <summary>Notes what no row of the database tells: something that was only read, or did not happen.</summary>
    /// <param name="who">Who did it.</param>
    /// <param name="what">One of the words of this class.</param>
    /// <param name="about">About what; cut after 300 characters.</param>
    /// <param name="known">False where it is not known that it was this person.</param>
    /// <param name="cancel">Cancels the work.</param>
    public Task NoteAsync(ShopPerson who, string what, string about, bool known = true, CancellationToken cancel = default) =>
        database.InShopAsync(who, (c, t) => c.ExecuteAsync(new CommandDefinition(
            "insert into audit_event (shop_id, by_person, what, about) values (@ShopId, case when @known then @PersonId end, @what, left(@about, 300))", new { who.ShopId, who.PersonId, known, what, about }, t, cancellationToken: cancel)), cancel);

    /// <summary>What was done, the latest first.</summary>
    /// <param name="who">Who asks; one shop sees its own only.</param>
    /// <param name="what">Only this; absent for all.</param>
    /// <param name="person">Only by this person; absent for all.</param>
    /// <param name="before">Only rows below this one, for the next page; absent to begin.</param>
    /// <param name="most">Most lines; one more is looked for.</param>
    /// <param name="cancel">Cancels the work.</param>
    /// <returns>The lines, and whether there are more.</returns>
    public Task<(IReadOnlyList<AuditLine> Lines, bool More)> ListAsync(ShopPerson who, string? what, int? person, long? before, int most, CancellationToken cancel = default) =>
        database.InShopAsync<(IReadOnlyList<AuditLine>, bool)>(who, async (c, t) =>
        {
            var lines = (await c.QueryAsync<AuditLine>(new CommandDefinition("""
                select e.id, e.at, p.name as by, e.what, e.about from audit_event e left join person p on p.id = e.by_person
                where (cast(@what as text) is null or e.what = @what) and (cast(@person as int) is null or e.by_person = @person) and (cast(@before as bigint) is null or e.id < @before)
                order by e.id desc limit @limit
                """, new { what, person, before, limit = most + 1 }, t, cancellationToken: cancel))).AsList();
            return (lines.Take(most).ToList(), lines.Count > most);
        }, cancel);
}
