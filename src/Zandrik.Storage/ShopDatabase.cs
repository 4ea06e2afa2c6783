using System.Data;
using Dapper;
using Npgsql;
using Zandrik.Core.Records;

namespace Zandrik.Storage;

/// <summary>
/// The database as one shop sees it. Every piece of work runs in a transaction that names its shop, and
/// row-level security hides all other rows.
/// </summary>
public sealed class ShopDatabase : IAsyncDisposable
{
    static ShopDatabase()
    {
        DefaultTypeMap.MatchNamesWithUnderscores = true;
        SqlMapper.RemoveTypeMap(typeof(DateTimeOffset));
        SqlMapper.RemoveTypeMap(typeof(DateTimeOffset?));
        SqlMapper.AddTypeHandler(new InstantHandler());
    }

    /// <summary>Opens a pool on a connection string of the application's plain role.</summary>
    public ShopDatabase(string connection)
    {
        var builder = new NpgsqlConnectionStringBuilder(connection);
        // Few connections keep the slowest requests fast on few cores (measured; docs/performance.md).
        if (!connection.Contains("Maximum Pool Size", StringComparison.OrdinalIgnoreCase))
        {
            builder.MaxPoolSize = 8;
        }
        builder.MaxAutoPrepare = 200;
        // Whatever a piece of work sets, it sets for its own transaction: a connection goes back as it was.
        builder.NoResetOnClose = true;
        // Planned once: planning for every value took longer than running most statements does (measured; docs/performance.md).
        builder.Options = "-c plan_cache_mode=force_generic_plan";
        Source = NpgsqlDataSource.Create(builder.ConnectionString);
        // For a connection that waits for news: outside the pool, and asking now and then whether the other end still lives.
        AloneConnectionString = new NpgsqlConnectionStringBuilder(connection) { Pooling = false, KeepAlive = 15 }.ConnectionString;
    }

    internal string AloneConnectionString { get; }

    internal NpgsqlDataSource Source { get; }

    /// <summary>True when the database takes a write and the schema is there: one that only answers serves nobody at an engine.</summary>
    public async Task<bool> IsReadyAsync(CancellationToken cancel = default)
    {
        try
        {
            await using var command = Source.CreateCommand("update heartbeat set at = now() where id = 1");
            return await command.ExecuteNonQueryAsync(cancel) == 1;
        }
        catch (NpgsqlException)
        {
            return false;
        }
    }

    internal async Task<T> InShopAsync<T>(
        ShopPerson who, Func<NpgsqlConnection, NpgsqlTransaction, Task<T>> work, CancellationToken cancel)
    {
        var (connection, transaction, _) = await BeginAsync(async (c, t) =>
        {
            await EnterShopAsync(c, t, who.ShopId, cancel, who.PersonId, who.Purpose);
            return true;
        }, cancel);
        await using (connection)
        await using (transaction)
        {
            var result = await work(connection, transaction);
            await transaction.CommitAsync(cancel);
            return result;
        }
    }

    /// <summary>
    /// The same for work that begins with reading: naming the shop and those first statements are one round trip. Each
    /// sees what was written before it ran, so a row that the first of them locks is read by the next as it is then.
    /// </summary>
    internal async Task<T> InShopAsync<TFirst, T>(
        ShopPerson who, string statements, object parameters, Func<SqlMapper.GridReader, Task<TFirst>> read, Func<NpgsqlConnection, NpgsqlTransaction, TFirst, Task<T>> work, CancellationToken cancel)
    {
        var (connection, transaction, first) = await BeginAsync((c, t) => EnterAsync(c, t, who.ShopId, who.PersonId, who.Purpose, statements, new DynamicParameters(parameters), read, cancel), cancel);
        await using (connection)
        await using (transaction)
        {
            var result = await work(connection, transaction, first);
            await transaction.CommitAsync(cancel);
            return result;
        }
    }

    // Begins a piece of work on a connection that is alive: the first round trip finds out.
    private Task<(NpgsqlConnection Connection, NpgsqlTransaction Transaction, TFirst First)> BeginAsync<TFirst>(Func<NpgsqlConnection, NpgsqlTransaction, Task<TFirst>> enter, CancellationToken cancel) =>
        AgainAsync(async () =>
        {
            var connection = await Source.OpenConnectionAsync(cancel);
            NpgsqlTransaction? transaction = null;
            try
            {
                transaction = await connection.BeginTransactionAsync(cancel);
                return (connection, transaction, await enter(connection, transaction));
            }
            catch
            {
                await using (connection)
                await using (transaction)
                {
                    throw;
                }
            }
        }, cancel);

    /// <summary>Work that only reads, or that may be done twice when its answer is lost; it needs no shop yet, or names it itself.</summary>
    internal Task<T> AskAsync<T>(Func<NpgsqlConnection, Task<T>> work, CancellationToken cancel) =>
        AgainAsync(async () =>
        {
            await using var connection = await Source.OpenConnectionAsync(cancel);
            return await work(connection);
        }, cancel);

    /// <summary>
    /// Tries again what broke because its connection was dead: the database was started again, or another took its place,
    /// and the pool does not know yet. Only for what has written nothing, or may write it twice; what breaks later is
    /// told, and whoever sent it sends it again with its key.
    /// </summary>
    private async Task<T> AgainAsync<T>(Func<Task<T>> work, CancellationToken cancel)
    {
        for (var attempt = 0; ; attempt++)
        {
            try
            {
                return await work();
            }
            catch (NpgsqlException broken) when (attempt < Pauses.Length && IsDead(broken))
            {
                // The others in the pool went with it.
                Source.Clear();
                await Task.Delay(Pauses[attempt], cancel);
            }
        }
    }

    private static readonly TimeSpan[] Pauses = [TimeSpan.Zero, TimeSpan.FromMilliseconds(200)];

    // The line broke, or the server is going down or coming up; not what a statement was answered.
    private static bool IsDead(NpgsqlException broken) => broken is not PostgresException said
        ? broken.InnerException is IOException or System.Net.Sockets.SocketException
        : said.SqlState is PostgresErrorCodes.AdminShutdown or PostgresErrorCodes.CrashShutdown or PostgresErrorCodes.CannotConnectNow or PostgresErrorCodes.ReadOnlySqlTransaction;

    private const string EnterShop = "select set_config('zandrik.shop', @shop::text, true), set_config('zandrik.person', @who, true), set_config('zandrik.purpose', @purpose, true)";

    /// <summary>
    /// Reads as one shop, in one round trip: the statements run as one transaction of the server's own, the shop named
    /// in its first. What the first of them answers is the oldest; the others see at least as much.
    /// </summary>
    internal Task<T> ReadAsync<T>(int shop, int person, JobPurpose purpose, string statements, DynamicParameters parameters, Func<SqlMapper.GridReader, Task<T>> read, CancellationToken cancel) =>
        AskAsync(c => EnterAsync(c, null, shop, person, purpose, statements, parameters, read, cancel), cancel);

    private static async Task<T> EnterAsync<T>(
        NpgsqlConnection connection, NpgsqlTransaction? transaction, int shop, int person, JobPurpose purpose, string statements, DynamicParameters parameters, Func<SqlMapper.GridReader, Task<T>> read, CancellationToken cancel)
    {
        parameters.AddDynamicParams(new { shop, who = Written(person), purpose = RecordWords.Of(purpose) });
        await using var grid = await connection.QueryMultipleAsync(new CommandDefinition(EnterShop + ";\n" + statements, parameters, transaction, cancellationToken: cancel));
        await grid.ReadFirstAsync<string>();
        return await read(grid);
    }

    private static string Written(int person) => person > 0 ? person.ToString(System.Globalization.CultureInfo.InvariantCulture) : "";

    internal static Task EnterShopAsync(NpgsqlConnection connection, NpgsqlTransaction transaction, int shop, CancellationToken cancel, int person = 0, JobPurpose purpose = JobPurpose.Work) =>
        connection.ExecuteAsync(new CommandDefinition(
            EnterShop, new { shop, who = Written(person), purpose = RecordWords.Of(purpose) }, transaction, cancellationToken: cancel));

    /// <summary>Closes the pool.</summary>
    public ValueTask DisposeAsync() => Source.DisposeAsync();

    // Npgsql refuses an instant whose offset is not zero, and Dapper cannot read one: both go through UTC.
    private sealed class InstantHandler : SqlMapper.TypeHandler<DateTimeOffset>
    {
        public override DateTimeOffset Parse(object value) =>
            new(DateTime.SpecifyKind((DateTime)value, DateTimeKind.Utc));

        public override void SetValue(IDbDataParameter parameter, DateTimeOffset value) =>
            parameter.Value = value.ToUniversalTime();
    }
}
