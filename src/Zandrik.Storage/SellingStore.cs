using System.Security.Cryptography;
using System.Text;
using Dapper;
using Zandrik.Core.Reports;
using Zandrik.Storage.Documents;

namespace Zandrik.Storage;

/// <summary>A sheet for buying or selling in a list of versions.</summary>
/// <param name="Version">Its version on its job, from 1.</param>
/// <param name="Code">Its check code, as it is printed.</param>
/// <param name="At">When it was made.</param>
/// <param name="By">Who made it.</param>
public sealed record SellingLine(int Version, string Code, DateTimeOffset At, string By);

/// <summary>What a check code tells.</summary>
/// <param name="Shop">The shop that made the sheet.</param>
/// <param name="Sheet">The sheet, as it was handed out.</param>
/// <param name="Version">Its version.</param>
/// <param name="Latest">The latest version of that job: a larger one was made later.</param>
/// <param name="IsUnchanged">True where what is stored is what the code was made of.</param>
public sealed record CheckedSheet(ShopPerson Shop, SellingSheet Sheet, int Version, int Latest, bool IsUnchanged);

/// <summary>Keeps sheets for buying and selling as they were handed out. Half of a check code is drawn by lot, half is the print of the sheet: a sheet that was changed where it is stored no longer fits its code.</summary>
public sealed class SellingStore(ShopDatabase database)
{
    // Without letters that are taken for figures; read aloud and typed from paper.
    private const string Letters = "0123456789ABCDEFGHJKMNPQRSTVWXYZ";
    private const int Drawn = 8, Printed = 8;

    /// <summary>Makes a sheet.</summary>
    /// <param name="who">The shop and person.</param>
    /// <param name="job">The job.</param>
    /// <param name="sheet">The sheet.</param>
    /// <param name="key">Made once: sent twice, it is kept once.</param>
    /// <param name="at">The time.</param>
    /// <param name="cancel">Cancels the work; nothing is kept then.</param>
    /// <returns>Its version; absent when the shop has no such job.</returns>
    public Task<int?> MakeAsync(ShopPerson who, int job, SellingSheet sheet, Guid key, DateTimeOffset at, CancellationToken cancel = default) =>
        database.InShopAsync<int?>(who, async (c, t) =>
        {
            if (await HeldJob.OfAsync(c, t, who, job, cancel) is not { } held)
            {
                return null;
            }
            if (await c.ExecuteScalarAsync<int?>(new CommandDefinition("select version from selling_sheet where entry = @key", new { key }, t, cancellationToken: cancel)) is { } known)
            {
                return known;
            }
            var body = StoredDocuments.Write<SellingDocumentV1, SellingSheet>(sheet);
            var drawn = Write(RandomNumberGenerator.GetBytes(Drawn), Drawn);
            return await c.ExecuteScalarAsync<int>(new CommandDefinition("""
                insert into selling_sheet (shop_id, job_id, version, code, body, entry, at, by_person)
                values (@shop, @Id, coalesce((select max(s.version) from selling_sheet s where s.job_id = @Id), 0) + 1, @code, @body::json, @key, @at, @person) returning version
                """, new { shop = who.ShopId, held.Id, code = drawn + Print(drawn, body), body, key, at, person = who.PersonId }, t, cancellationToken: cancel));
        }, cancel);

    /// <summary>The sheets of a job, the latest first.</summary>
    public Task<IReadOnlyList<SellingLine>> ListAsync(ShopPerson who, int job, CancellationToken cancel = default) =>
        database.InShopAsync<IReadOnlyList<SellingLine>>(who, async (c, t) => [.. (await c.QueryAsync<(int Version, string Code, DateTimeOffset At, string By)>(new CommandDefinition("""
            select s.version, s.code, s.at, p.name from selling_sheet s join job j on j.id = s.job_id join person p on p.id = s.by_person where j.number = @job order by s.version desc
            """, new { job }, t, cancellationToken: cancel))).Select(s => new SellingLine(s.Version, Shown(s.Code), s.At, s.By))], cancel);

    /// <summary>A sheet of a job; absent when there is none of that version.</summary>
    public Task<(SellingLine Line, SellingSheet Sheet)?> FindAsync(ShopPerson who, int job, int version, CancellationToken cancel = default) =>
        database.InShopAsync<(SellingLine, SellingSheet)?>(who, async (c, t) => await c.QuerySingleOrDefaultAsync<(int Version, string Code, DateTimeOffset At, string By, string Body)?>(new CommandDefinition("""
            select s.version, s.code, s.at, p.name, s.body::text from selling_sheet s join job j on j.id = s.job_id join person p on p.id = s.by_person where j.number = @job and s.version = @version
            """, new { job, version }, t, cancellationToken: cancel)) is { } s ? (new SellingLine(s.Version, Shown(s.Code), s.At, s.By), StoredDocuments.Read<SellingDocumentV1, SellingSheet>(s.Body)) : null, cancel);

    /// <summary>What a check code tells; absent where no sheet has it.</summary>
    /// <param name="code">As it was typed: blanks and dashes are nothing, small letters are capitals, O is 0, I and L are 1.</param>
    /// <param name="cancel">Cancels the work.</param>
    public Task<CheckedSheet?> CheckAsync(string? code, CancellationToken cancel = default)
    {
        if (Read(code) is not { } wanted)
        {
            return Task.FromResult<CheckedSheet?>(null);
        }
        return database.AskAsync(async c => await c.QuerySingleOrDefaultAsync<SheetRow?>(new CommandDefinition("select * from sheet_of_code(@wanted)", new { wanted }, cancellationToken: cancel)) is not { } row ? null
            : new CheckedSheet(new ShopPerson { Shop = row.Shop, TimeZone = row.TimeZone, Settings = PersonRow.SettingsOf(row.Settings ?? "{}") }, StoredDocuments.Read<SellingDocumentV1, SellingSheet>(row.Body), row.Version, row.Latest,
                wanted[Drawn..] == Print(wanted[..Drawn], row.Body)), cancel);
    }

    /// <summary>A code as it is printed: in fours.</summary>
    public static string Shown(string code) => string.Join('-', code.Chunk(4).Select(four => new string(four)));

    /// <summary>A code as it is stored, of what was typed; absent where it is none.</summary>
    public static string? Read(string? typed)
    {
        var code = new StringBuilder(Drawn + Printed);
        foreach (var letter in (typed ?? "").ToUpperInvariant())
        {
            if (letter is ' ' or '-' or '–' or '\u00A0' or '\u202F')
            {
                continue;
            }
            var read = letter switch { 'O' => '0', 'I' or 'L' => '1', _ => letter };
            if (!Letters.Contains(read, StringComparison.Ordinal) || code.Length == Drawn + Printed)
            {
                return null;
            }
            code.Append(read);
        }
        return code.Length == Drawn + Printed ? code.ToString() : null;
    }

    // The document as PostgreSQL gives it back, letter by letter: the column is json, not jsonb.
    private static string Print(string drawn, string body) => Write(SHA256.HashData(Encoding.UTF8.GetBytes(drawn + "\n" + body)), Printed);

    private static string Write(byte[] bytes, int letters) => string.Concat(bytes.Take(letters).Select(b => Letters[b & 31]));

    private sealed record SheetRow
    {
        public string Shop { get; init; } = "";
        public string? Settings { get; init; }
        public string TimeZone { get; init; } = "";
        public int Version { get; init; }
        public int Latest { get; init; }
        public string Body { get; init; } = "";
    }
}
