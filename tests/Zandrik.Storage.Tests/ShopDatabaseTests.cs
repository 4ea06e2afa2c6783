using Dapper;
using Npgsql;
using Zandrik.Core.Records;

namespace Zandrik.Storage.Tests;

/// <summary>What becomes of work whose connection is dead: the database was started again, or another took its place.</summary>
public sealed class ShopDatabaseTests(TestDatabase db) : IClassFixture<TestDatabase>
{
    private static readonly DateTimeOffset Now = new(2026, 11, 30, 9, 0, 0, TimeSpan.Zero);

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    // Ends every connection of the application, as a server does that goes down.
    private Task EndAllAsync() => db.AsOwnerAsync("select count(pg_terminate_backend(pid)) from pg_stat_activity where usename <> 'owner' and datname = current_database()");

    [Fact]
    public async Task A_pool_full_of_dead_connections_costs_nobody_anything()
    {
        var signIn = new SignInStore(db.Database);
        var record = new TestRecord { Engine = new EngineSheet { Cylinders = 4 } };
        await Task.WhenAll(Enumerable.Range(0, 8).Select(_ => db.Jobs.CreateAsync(db.Ostrel, record, Now, cancel: Cancel)));
        await EndAllAsync();
        var made = await Task.WhenAll(Enumerable.Range(0, 8).Select(_ => db.Jobs.CreateAsync(db.Ostrel, record, Now, cancel: Cancel)));
        made.Distinct().Count().ShouldBe(8);
        await EndAllAsync();
        (await signIn.CountTryAsync("name|somebody", null, Now, Cancel)).ShouldBeNull();
        await EndAllAsync();
        (await signIn.FirstAsync(Cancel))!.PersonId.ShouldBe(db.Ostrel.PersonId);
    }

    [Fact]
    public async Task Work_that_had_begun_to_write_is_not_done_again_by_itself()
    {
        var begun = 0;
        await Should.ThrowAsync<NpgsqlException>(db.Database.InShopAsync(db.Ostrel, async (c, t) =>
        {
            begun++;
            await c.ExecuteAsync(new CommandDefinition("select pg_sleep(0)", null, t, cancellationToken: Cancel));
            await EndAllAsync();
            return await c.ExecuteAsync(new CommandDefinition("select pg_sleep(0)", null, t, cancellationToken: Cancel));
        }, Cancel));
        begun.ShouldBe(1, "whoever sent it sends it again, with its key");
    }

    [Fact]
    public async Task A_statement_that_is_wrong_is_answered_at_once_and_once()
    {
        var asked = 0;
        (await Should.ThrowAsync<PostgresException>(db.Database.AskAsync(c =>
        {
            asked++;
            return c.ExecuteScalarAsync<int>("select 1 / 0", commandType: System.Data.CommandType.Text);
        }, Cancel))).SqlState.ShouldBe(PostgresErrorCodes.DivisionByZero);
        asked.ShouldBe(1);
    }
}
