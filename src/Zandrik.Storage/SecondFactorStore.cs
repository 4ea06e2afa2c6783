using System.Security.Cryptography;
using Dapper;

namespace Zandrik.Storage;

/// <summary>The second half of people's sign-in: the secret their phone has too, and the recovery codes they keep on paper.</summary>
public sealed class SecondFactorStore(ShopDatabase database)
{
    /// <summary>How many recovery codes somebody gets.</summary>
    public const int RecoveryCodes = 8;

    // Ten characters are guessed sooner than a token: PBKDF2 with SHA-512 (RFC 8018), as often as a password's hash.
    private const int Rounds = 100_000;

    private static byte[] Hash(string code, byte[] salt) => Rfc2898DeriveBytes.Pbkdf2(code, salt, Rounds, HashAlgorithmName.SHA512, 32);

    // Nothing that looks like something else on paper.
    private const string Letters = "abcdefghjkmnpqrstuvwxyz23456789";

    /// <summary>Turns it on, with a new set of recovery codes; what was there before is over.</summary>
    /// <param name="who">The person, for themselves.</param>
    /// <param name="secret">The secret, sealed.</param>
    /// <param name="step">The half minute of the code that proved it; that code is used up.</param>
    /// <param name="now">The time.</param>
    /// <param name="cancel">Cancels the work.</param>
    /// <returns>The recovery codes, to be shown once.</returns>
    public Task<IReadOnlyList<string>> TurnOnAsync(ShopPerson who, string secret, long step, DateTimeOffset now, CancellationToken cancel = default) =>
        database.InShopAsync<IReadOnlyList<string>>(who, async (c, t) =>
        {
            var salt = RandomNumberGenerator.GetBytes(16);
            await c.ExecuteAsync(new CommandDefinition("""
                insert into second_factor (person_id, shop_id, secret, salt, made_at, last_step) values (@PersonId, @ShopId, @secret, @salt, @now, @step)
                on conflict (person_id) do update set secret = excluded.secret, salt = excluded.salt, made_at = excluded.made_at, last_step = excluded.last_step
                """, new { who.PersonId, who.ShopId, secret, salt, now, step }, t, cancellationToken: cancel));
            await c.ExecuteAsync(new CommandDefinition("delete from recovery_code where person_id = @PersonId", new { who.PersonId }, t, cancellationToken: cancel));
            string[] codes = [.. Enumerable.Range(0, RecoveryCodes).Select(_ => $"{RandomNumberGenerator.GetString(Letters, 5)}-{RandomNumberGenerator.GetString(Letters, 5)}")];
            await c.ExecuteAsync(new CommandDefinition("insert into recovery_code (person_id, shop_id, hash) select @PersonId, @ShopId, h from unnest(@hashes) h",
                new { who.PersonId, who.ShopId, hashes = codes.Select(x => Hash(x, salt)).ToArray() }, t, cancellationToken: cancel));
            return codes;
        }, cancel);

    /// <summary>The person's secret, sealed; absent when it is off.</summary>
    public Task<string?> SecretAsync(ShopPerson who, CancellationToken cancel = default) =>
        database.InShopAsync(who, (c, t) => c.ExecuteScalarAsync<string?>(new CommandDefinition("select secret from second_factor where person_id = @PersonId", new { who.PersonId }, t, cancellationToken: cancel)), cancel);

    /// <summary>How many recovery codes the person has left.</summary>
    public Task<int> RecoveryLeftAsync(ShopPerson who, CancellationToken cancel = default) =>
        database.InShopAsync(who, (c, t) => c.ExecuteScalarAsync<int>(new CommandDefinition("select count(*) from recovery_code where person_id = @PersonId and used_at is null", new { who.PersonId }, t, cancellationToken: cancel)), cancel);

    /// <summary>Takes the code of a half minute.</summary>
    /// <param name="who">The person.</param>
    /// <param name="step">Which half minute, counted from 1970.</param>
    /// <param name="cancel">Cancels the work.</param>
    /// <returns>False when that one, or a later one, was taken before: somebody looked over a shoulder.</returns>
    public Task<bool> TakeStepAsync(ShopPerson who, long step, CancellationToken cancel = default) =>
        database.InShopAsync(who, async (c, t) => await c.ExecuteAsync(new CommandDefinition(
            "update second_factor set last_step = @step where person_id = @PersonId and last_step < @step", new { who.PersonId, step }, t, cancellationToken: cancel)) > 0, cancel);

    /// <summary>Takes a recovery code, which is good once.</summary>
    /// <returns>False when the person has no such code, or it was used.</returns>
    public Task<bool> TakeRecoveryAsync(ShopPerson who, string code, DateTimeOffset now, CancellationToken cancel = default) =>
        database.InShopAsync(who, async (c, t) =>
        {
            var salt = await c.ExecuteScalarAsync<byte[]?>(new CommandDefinition("select salt from second_factor where person_id = @PersonId", new { who.PersonId }, t, cancellationToken: cancel));
            return salt is not null && await c.ExecuteAsync(new CommandDefinition(
                "update recovery_code set used_at = @now where person_id = @PersonId and hash = @hash and used_at is null", new { who.PersonId, now, hash = Hash(code, salt) }, t, cancellationToken: cancel)) > 0;
        }, cancel);

    /// <summary>Turns it off for a person of the shop, with all that goes with it.</summary>
    /// <returns>False when it was off, or the shop has no such person.</returns>
    public Task<bool> TurnOffAsync(ShopPerson who, int person, CancellationToken cancel = default) =>
        database.InShopAsync(who, async (c, t) => await c.ExecuteAsync(new CommandDefinition("delete from second_factor where person_id = @person", new { person }, t, cancellationToken: cancel)) > 0, cancel);

    /// <summary>Says whether every foreman of the shop has to have one.</summary>
    public Task SetRuleAsync(ShopPerson who, bool foremenNeedCode, CancellationToken cancel = default) =>
        database.InShopAsync(who, (c, t) => c.ExecuteAsync(new CommandDefinition("update shop set foremen_need_code = @foremenNeedCode where id = @ShopId", new { who.ShopId, foremenNeedCode }, t, cancellationToken: cancel)), cancel);
}
