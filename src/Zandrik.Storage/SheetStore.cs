using Dapper;
using Npgsql;
using Zandrik.Core.Engines;
using Zandrik.Core.Records;
using Zandrik.Storage.Documents;

namespace Zandrik.Storage;

/// <summary>An engine sheet as a list shows it.</summary>
public sealed record SheetLine
{
    /// <summary>The sheet.</summary>
    public int Id { get; init; }

    /// <summary>The engine's name.</summary>
    public string Name { get; init; } = "";

    /// <summary>Row of its current version.</summary>
    public int VersionId { get; init; }

    /// <summary>Number of its current version, from 1.</summary>
    public int Version { get; init; }

    /// <summary>The engine of the current version.</summary>
    public EngineSheet Engine { get; init; } = new();

    internal const string Current = """
        select s.id, s.name, v.id as version_id, v.version, v.body::text as body, v.made_at, p.name as made_by, s.retired_at
        from engine_sheet s
        join lateral (select * from engine_sheet_version i where i.sheet_id = s.id order by i.version desc limit 1) v on true
        join person p on p.id = v.made_by
        """;

    internal static async Task<IReadOnlyList<SheetLine>> LoadAsync(NpgsqlConnection connection, NpgsqlTransaction transaction, int[] ids, CancellationToken cancel) =>
        ids.Length == 0 ? [] : [.. (await connection.QueryAsync<SheetVersionRow>(new CommandDefinition(
            Current + " where s.id = any(@ids) order by s.name", new { ids }, transaction, cancellationToken: cancel))).Select(Of)];

    internal static SheetLine Of(SheetVersionRow row) => new()
    {
        Id = row.Id, Name = row.Name, VersionId = row.VersionId, Version = row.Version, Engine = row.ToVersion().Document.Engine,
    };
}

/// <summary>One version of an engine sheet.</summary>
/// <param name="SheetId">The sheet.</param>
/// <param name="VersionId">Row of the version.</param>
/// <param name="Version">Its number, from 1.</param>
/// <param name="Document">What it says.</param>
/// <param name="MadeAt">When it was written.</param>
/// <param name="MadeBy">By whom.</param>
/// <param name="RetiredAt">When the sheet was put away; absent while it is in use.</param>
public sealed record SheetVersion(int SheetId, int VersionId, int Version, EngineDocument Document, DateTimeOffset MadeAt, string MadeBy, DateTimeOffset? RetiredAt);

// A version as the database has it.
internal sealed record SheetVersionRow
{
    public int Id { get; init; }
    public string Name { get; init; } = "";
    public int VersionId { get; init; }
    public int Version { get; init; }
    public string Body { get; init; } = "";
    public DateTimeOffset MadeAt { get; init; }
    public string MadeBy { get; init; } = "";
    public DateTimeOffset? RetiredAt { get; init; }

    internal SheetVersion ToVersion() => new(Id, VersionId, Version, StoredDocuments.Read<SheetDocumentV1, EngineDocument>(Body), MadeAt, MadeBy, RetiredAt);
}

/// <summary>What an import would do, or did, with a row.</summary>
public enum SheetChange
{
    /// <summary>A sheet of that name is new.</summary>
    New,

    /// <summary>The sheet of that name gets a new version.</summary>
    Changed,

    /// <summary>The sheet of that name says the same already.</summary>
    Same,
}

/// <summary>Keeps engine sheets. Every change is a new version; the versions before stay for the jobs that use them.</summary>
public sealed class SheetStore(ShopDatabase database)
{
    /// <summary>Sheets in use by name, a page of them.</summary>
    /// <param name="who">The shop and person.</param>
    /// <param name="after">The name after which the page starts; absent for the first.</param>
    /// <param name="size">Most on a page.</param>
    /// <param name="cancel">Cancels the work.</param>
    public Task<(IReadOnlyList<SheetLine> Sheets, bool More)> ListAsync(ShopPerson who, string? after, int size, CancellationToken cancel = default) =>
        database.InShopAsync<(IReadOnlyList<SheetLine>, bool)>(who, async (c, t) =>
        {
            var rows = (await c.QueryAsync<SheetVersionRow>(new CommandDefinition(
                SheetLine.Current + $" where s.retired_at is null {(after is null ? "" : "and lower(s.name) > lower(@after)")} order by lower(s.name) limit @most",
                new { after, most = size + 1 }, t, cancellationToken: cancel))).AsList();
            return ([.. rows.Take(size).Select(SheetLine.Of)], rows.Count > size);
        }, cancel);

    /// <summary>Everything of every sheet in use, by name, for a file.</summary>
    public Task<IReadOnlyList<EngineDocument>> AllAsync(ShopPerson who, CancellationToken cancel = default) =>
        database.InShopAsync<IReadOnlyList<EngineDocument>>(who, async (c, t) =>
            [.. (await c.QueryAsync<SheetVersionRow>(new CommandDefinition(SheetLine.Current + " where s.retired_at is null order by lower(s.name)", null, t, cancellationToken: cancel)))
                .Select(r => r.ToVersion().Document)], cancel);

    /// <summary>The current version of a sheet; absent when the shop has no such sheet.</summary>
    public Task<SheetVersion?> FindAsync(ShopPerson who, int sheet, CancellationToken cancel = default) => OneAsync(who, SheetLine.Current + " where s.id = @sheet", new { sheet }, cancel);

    /// <summary>One version of a sheet, the current one or one before; absent when the shop has none of that row.</summary>
    public Task<SheetVersion?> VersionAsync(ShopPerson who, int version, CancellationToken cancel = default) =>
        database.InShopAsync(who, (c, t) => VersionAsync(c, t, version, cancel), cancel);

    internal static async Task<SheetVersion?> VersionAsync(NpgsqlConnection connection, NpgsqlTransaction transaction, int version, CancellationToken cancel) =>
        (await connection.QuerySingleOrDefaultAsync<SheetVersionRow>(new CommandDefinition(Versions("v.id = @version"), new { version }, transaction, cancellationToken: cancel)))?.ToVersion();

    // The versions of a condition on "v".
    internal static string Versions(string where) => $"""
        select s.id, s.name, v.id as version_id, v.version, v.body::text as body, v.made_at, p.name as made_by, s.retired_at
        from engine_sheet_version v join engine_sheet s on s.id = v.sheet_id join person p on p.id = v.made_by where {where};
        """;

    internal static async Task<IReadOnlyList<SheetVersion>> ReadAsync(SqlMapper.GridReader grid) => [.. (await grid.ReadAsync<SheetVersionRow>()).Select(r => r.ToVersion())];

    /// <summary>Keeps a sheet as a new version; a sheet that says the same already is left alone.</summary>
    /// <param name="who">The shop and person.</param>
    /// <param name="sheet">The sheet; absent for the one of that name, or a new one.</param>
    /// <param name="document">What it says; its engine has a name.</param>
    /// <param name="at">When it was written.</param>
    /// <param name="cancel">Cancels the work.</param>
    /// <returns>The version and what happened; absent when another sheet has the name, or the shop has no such sheet.</returns>
    public async Task<(int VersionId, SheetChange Change)?> SaveAsync(ShopPerson who, int? sheet, EngineDocument document, DateTimeOffset at, CancellationToken cancel = default)
    {
        try
        {
            return await database.InShopAsync(who, (c, t) => SaveAsync(c, t, who, sheet, document, at, cancel), cancel);
        }
        catch (PostgresException taken) when (taken.SqlState == PostgresErrorCodes.UniqueViolation)
        {
            return null;
        }
    }

    /// <summary>What an import would do with each sheet, by name; nothing is changed.</summary>
    public Task<IReadOnlyList<SheetChange>> PreviewAsync(ShopPerson who, IReadOnlyList<EngineDocument> documents, CancellationToken cancel = default) =>
        database.InShopAsync<IReadOnlyList<SheetChange>>(who, async (c, t) =>
        {
            var known = (await c.QueryAsync<SheetVersionRow>(new CommandDefinition(
                SheetLine.Current + " where lower(s.name) = any(@names)", new { names = documents.Select(d => d.Engine.Name!.ToLowerInvariant()).ToArray() }, t, cancellationToken: cancel)))
                .ToDictionary(r => r.Name.ToLowerInvariant());
            return [.. documents.Select(d => !known.TryGetValue(d.Engine.Name!.ToLowerInvariant(), out var row) ? SheetChange.New : Same(row, d) ? SheetChange.Same : SheetChange.Changed)];
        }, cancel);

    /// <summary>Keeps many sheets at once: all of them, or none.</summary>
    /// <returns>How many were new, changed and left as they were.</returns>
    public Task<(int New, int Changed, int Same)> ImportAsync(ShopPerson who, IReadOnlyList<EngineDocument> documents, DateTimeOffset at, CancellationToken cancel = default) =>
        database.InShopAsync(who, async (c, t) =>
        {
            var done = new int[3];
            foreach (var document in documents)
            {
                done[(int)(await SaveAsync(c, t, who, null, document, at, cancel))!.Value.Change]++;
            }
            return (done[0], done[1], done[2]);
        }, cancel);

    /// <summary>Puts a sheet away, or takes it out again. Jobs keep the version they use.</summary>
    public Task RetireAsync(ShopPerson who, int sheet, DateTimeOffset? at, CancellationToken cancel = default) =>
        database.InShopAsync(who, (c, t) => c.ExecuteAsync(new CommandDefinition(
            "update engine_sheet set retired_at = @at where id = @sheet", new { sheet, at }, t, cancellationToken: cancel)), cancel);

    private static bool Same(SheetVersionRow row, EngineDocument document) =>
        StoredDocuments.Write<SheetDocumentV1, EngineDocument>(row.ToVersion().Document) == StoredDocuments.Write<SheetDocumentV1, EngineDocument>(document);

    internal static async Task<(int VersionId, SheetChange Change)?> SaveAsync(
        NpgsqlConnection connection, NpgsqlTransaction transaction, ShopPerson who, int? sheet, EngineDocument document, DateTimeOffset at, CancellationToken cancel)
    {
        var name = document.Engine.Name!;
        var current = await connection.QuerySingleOrDefaultAsync<SheetVersionRow>(new CommandDefinition(
            SheetLine.Current + (sheet is null ? " where lower(s.name) = lower(@name)" : " where s.id = @sheet"), new { sheet, name }, transaction, cancellationToken: cancel));
        if (sheet is not null && current is null)
        {
            return null;
        }
        if (current is not null && Same(current, document) && current.RetiredAt is null)
        {
            return (current.VersionId, SheetChange.Same);
        }
        var id = current?.Id ?? await connection.ExecuteScalarAsync<int>(new CommandDefinition(
            "insert into engine_sheet (shop_id, name) values (@shop, @name) returning id", new { shop = who.ShopId, name }, transaction, cancellationToken: cancel));
        if (current is not null)
        {
            // The row is held here, so that two who save at once make two versions.
            await connection.ExecuteAsync(new CommandDefinition("update engine_sheet set name = @name, retired_at = null where id = @id", new { id, name }, transaction, cancellationToken: cancel));
        }
        var version = await connection.ExecuteScalarAsync<int>(new CommandDefinition("""
            insert into engine_sheet_version (shop_id, sheet_id, version, body, made_at, made_by)
            select @shop, @id, coalesce(max(version), 0) + 1, @body::jsonb, @at, @person from engine_sheet_version where sheet_id = @id returning id
            """, new { shop = who.ShopId, id, body = StoredDocuments.Write<SheetDocumentV1, EngineDocument>(document), at, person = who.PersonId }, transaction, cancellationToken: cancel));
        return (version, current is null ? SheetChange.New : SheetChange.Changed);
    }

    private Task<SheetVersion?> OneAsync(ShopPerson who, string sql, object parameters, CancellationToken cancel) =>
        database.InShopAsync(who, async (c, t) =>
            (await c.QuerySingleOrDefaultAsync<SheetVersionRow>(new CommandDefinition(sql, parameters, t, cancellationToken: cancel)))?.ToVersion(), cancel);
}
