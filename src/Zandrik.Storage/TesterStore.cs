using Dapper;
using Npgsql;
using Zandrik.Core.Testers;
using Zandrik.Storage.Documents;

namespace Zandrik.Storage;

/// <summary>A tester with its row.</summary>
/// <param name="Id">The row.</param>
/// <param name="Tester">The tester.</param>
/// <param name="RetiredAt">When it was put away for good; absent while it is in use.</param>
public sealed record KeptTester(int Id, ShopTester Tester, DateTimeOffset? RetiredAt);

/// <summary>Keeps a shop's testers.</summary>
public sealed class TesterStore(ShopDatabase database)
{
    /// <summary>The shop's testers by label, those in use first.</summary>
    public Task<IReadOnlyList<KeptTester>> ListAsync(ShopPerson who, CancellationToken cancel = default) =>
        database.InShopAsync(who, (c, t) => ListAsync(c, t, cancel), cancel);

    internal static async Task<IReadOnlyList<KeptTester>> ListAsync(NpgsqlConnection connection, NpgsqlTransaction transaction, CancellationToken cancel) =>
        Read(await connection.QueryAsync<Row>(new CommandDefinition(Listing, null, transaction, cancellationToken: cancel)));

    internal const string Listing = "select id, body::text as body, retired_at from tester order by retired_at is not null, label;\n";

    internal static async Task<IReadOnlyList<KeptTester>> ReadAsync(SqlMapper.GridReader grid) => Read(await grid.ReadAsync<Row>());

    private static IReadOnlyList<KeptTester> Read(IEnumerable<Row> rows) =>
        [.. rows.Select(r => new KeptTester(r.Id, StoredDocuments.Read<TesterDocumentV1, ShopTester>(r.Body), r.RetiredAt))];

    /// <summary>Keeps a tester.</summary>
    /// <param name="who">The shop and person.</param>
    /// <param name="id">The row; absent for a new one.</param>
    /// <param name="tester">The tester.</param>
    /// <param name="cancel">Cancels the work.</param>
    /// <returns>The row; absent when another tester has the label, or the shop has no such row.</returns>
    public async Task<int?> SaveAsync(ShopPerson who, int? id, ShopTester tester, CancellationToken cancel = default)
    {
        var body = StoredDocuments.Write<TesterDocumentV1, ShopTester>(tester);
        try
        {
            return await database.InShopAsync(who, (c, t) => c.ExecuteScalarAsync<int?>(new CommandDefinition(id is null
                ? "insert into tester (shop_id, body) values (@shop, @body::jsonb) returning id"
                : "update tester set body = @body::jsonb where id = @id returning id",
                new { shop = who.ShopId, id, body }, t, cancellationToken: cancel)), cancel);
        }
        catch (PostgresException taken) when (taken.SqlState == PostgresErrorCodes.UniqueViolation)
        {
            return null;
        }
    }

    /// <summary>Puts a tester away, or takes it out again. Its readings keep it.</summary>
    public Task RetireAsync(ShopPerson who, int id, DateTimeOffset? at, CancellationToken cancel = default) =>
        database.InShopAsync(who, (c, t) => c.ExecuteAsync(new CommandDefinition(
            "update tester set retired_at = @at where id = @id", new { id, at }, t, cancellationToken: cancel)), cancel);

    private sealed record Row
    {
        public int Id { get; init; }
        public string Body { get; init; } = "";
        public DateTimeOffset? RetiredAt { get; init; }
    }
}
