using Dapper;
using Npgsql;

namespace Zandrik.Storage;

/// <summary>The key that a script sends with a request, so that the same request sent again makes nothing new. The one place where it is claimed and kept.</summary>
internal static class SenderKey
{
    /// <summary>
    /// Claims a key until the transaction ends: two requests with one key wait for each other here, not at the end of
    /// their work.
    /// </summary>
    /// <returns>What the key made before; absent for a new one.</returns>
    internal static async Task<Made?> ClaimAsync(NpgsqlConnection connection, NpgsqlTransaction transaction, ShopPerson who, string key, CancellationToken cancel)
    {
        await connection.ExecuteAsync(new CommandDefinition("select pg_advisory_xact_lock(@shop, hashtext(@key))", new { shop = who.ShopId, key }, transaction, cancellationToken: cancel));
        return await MadeAsync(connection, transaction, key, cancel);
    }

    /// <summary>What a key made before; absent for a new one.</summary>
    internal static Task<Made?> MadeAsync(NpgsqlConnection connection, NpgsqlTransaction transaction, string key, CancellationToken cancel) =>
        connection.QuerySingleOrDefaultAsync<Made>(new CommandDefinition(
            "select request_hash as hash, job_number as job, test_id as test from idempotency where key = @key", new { key }, transaction, cancellationToken: cancel));

    /// <summary>Writes down what a key made.</summary>
    internal static Task KeepAsync(NpgsqlConnection connection, NpgsqlTransaction transaction, ShopPerson who, string key, byte[] hash, int job, long? test, CancellationToken cancel) =>
        connection.ExecuteAsync(new CommandDefinition(
            "insert into idempotency (shop_id, key, request_hash, job_number, test_id) values (@shop, @key, @hash, @job, @test)",
            new { shop = who.ShopId, key, hash, job, test }, transaction, cancellationToken: cancel));

    /// <summary>What a request made.</summary>
    internal sealed record Made
    {
        public byte[] Hash { get; init; } = [];

        public int Job { get; init; }

        /// <summary>Row of the test; absent where the request opened a job.</summary>
        public long? Test { get; init; }

        /// <summary>True when it was this very request.</summary>
        public bool Is(byte[] hash) => Hash.AsSpan().SequenceEqual(hash);
    }
}
