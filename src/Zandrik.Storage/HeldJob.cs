using System.Text.Json;
using Dapper;
using Npgsql;
using Zandrik.Core.Records;
using Zandrik.Core.Safety;

namespace Zandrik.Storage;

/// <summary>
/// A job whose row is held by the transaction, so that whoever writes on it sees what the one before wrote. The one
/// place that knows how an entry is kept once, which test of a kind goes on, and where the next test stands.
/// </summary>
internal sealed class HeldJob
{
    /// <summary>Holds a job, as the first statement of those that follow in the same trip.</summary>
    internal const string Holding = "select id, closed_at is not null as closed, (record -> 'engine')::text as engine from job where number = @job for update";

    /// <summary>The test that an entry was kept in already; nothing for one that is new.</summary>
    internal const string KnownEntry = "select test_id from reading where entry = @key";

    private readonly NpgsqlConnection connection;
    private readonly NpgsqlTransaction transaction;
    private readonly ShopPerson who;
    private readonly string engine;

    internal HeldJob(NpgsqlConnection connection, NpgsqlTransaction transaction, ShopPerson who, Row row)
    {
        (this.connection, this.transaction, this.who, engine) = (connection, transaction, who, row.Engine);
        (Id, Closed) = (row.Id, row.Closed ? JobSafety.Closed : null);
    }

    /// <summary>The job's row.</summary>
    internal long Id { get; }

    /// <summary>Why nothing may be written on it; absent while it is open.</summary>
    internal string? Closed { get; }

    /// <summary>The engine, as the job knows it.</summary>
    internal EngineSheet Engine => field ??= JsonSerializer.Deserialize<EngineSheet>(engine, TestRecordJson.Options)!;

    /// <summary>Holds a job; absent when the shop has none of that number.</summary>
    internal static async Task<HeldJob?> OfAsync(NpgsqlConnection connection, NpgsqlTransaction transaction, ShopPerson who, int job, CancellationToken cancel) =>
        await connection.QuerySingleOrDefaultAsync<Row>(new CommandDefinition(Holding, new { job }, transaction, cancellationToken: cancel)) is { } row ? new HeldJob(connection, transaction, who, row) : null;

    /// <summary>Row of the test of a kind that goes on: the latest that judges the engine, else the latest. One that was taken back is none.</summary>
    /// <param name="ofJob">The job's row, in SQL; the kind is <c>@kind</c>.</param>
    internal static string GoesOn(string ofJob) =>
        $"select g.id from test g where g.job_id = {ofJob} and g.kind = @kind and g.withdrawn_at is null order by (g.body ->> 'role') is null desc, g.position desc limit 1";

    /// <summary>True when a row with that key was kept in a table already: sent twice, it is kept once.</summary>
    internal Task<bool> IsKnownAsync(string table, Guid key, CancellationToken cancel) => ScalarAsync<bool>($"select exists (select 1 from {table} where entry = @key)", new { key }, cancel);

    /// <summary>The test of a kind that goes on, and what it says but its readings; absent where there is none.</summary>
    internal Task<(long Id, string Body)?> LatestAsync(TestKind kind, CancellationToken cancel) =>
        connection.QuerySingleOrDefaultAsync<(long Id, string Body)?>(new CommandDefinition(
            $"select id, body::text from test where id = ({GoesOn("@Id")})", new { Id, kind = RecordWords.Of(kind) }, transaction, cancellationToken: cancel));

    /// <summary>Adds a test after those of the job; where it says no time and no name, it is of now and of this person.</summary>
    internal async Task<long> AddTestAsync(TestEntry test, Guid? key, DateTimeOffset at, CancellationToken cancel)
    {
        var position = await ScalarAsync<int>("select coalesce(max(position), 0) + 1 from test where job_id = @Id", new { Id }, cancel);
        return (await JobStore.InsertTestsAsync(connection, transaction, who, Id, Engine, position, [test with { At = test.At ?? at, By = test.By ?? who.Person }], at, cancel, key))[0];
    }

    private Task<T?> ScalarAsync<T>(string sql, object parameters, CancellationToken cancel) => connection.ExecuteScalarAsync<T>(new CommandDefinition(sql, parameters, transaction, cancellationToken: cancel));

    /// <summary>A job's row as <see cref="Holding"/> reads it.</summary>
    internal sealed record Row
    {
        public long Id { get; init; }
        public bool Closed { get; init; }
        public string Engine { get; init; } = "";
    }
}
