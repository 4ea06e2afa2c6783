using System.Xml.Linq;
using Dapper;
using Microsoft.AspNetCore.DataProtection.Repositories;
using Npgsql;

namespace Zandrik.Storage;

/// <summary>
/// Keys of cookies, form tokens and second factors, kept in the database: a form that was open when the server died can
/// be sent to the next one, and every copy of the server knows the same keys. With a seal they are worth nothing to
/// whoever has the database alone.
/// </summary>
public sealed class KeyRing(ShopDatabase database, KeySeal? seal = null) : IXmlRepository
{
    // Copies that start at once agree by this lock who makes the first key.
    private const long FirstKeyLock = 0x5a4b4559;
    private IReadOnlyCollection<XElement>? lastRead;

    /// <summary>False until the keys were read once: until then no cookie can be told from a wrong one.</summary>
    public bool IsKnown => lastRead is not null;

    /// <inheritdoc/>
    /// <remarks>While the database is away these are the keys as they were read last: keys are added, never changed.</remarks>
    /// <exception cref="KeySealException">They are sealed, and not with this seal.</exception>
    /// <exception cref="NpgsqlException">The database is away, and they were never read.</exception>
    public IReadOnlyCollection<XElement> GetAllElements()
    {
        try
        {
            using var connection = database.Source.OpenConnection();
            return lastRead = [.. connection.Query<string>("select xml from data_protection_key order by id").Select(x => XElement.Parse(Clear(x)))];
        }
        catch (NpgsqlException) when (lastRead is not null)
        {
            return lastRead;
        }
    }

    /// <summary>
    /// Makes the first key of a database that has none. Copies that start at once have it made by one of them: with a key
    /// of each, none would know whom another let in.
    /// </summary>
    /// <param name="make">Makes a key and stores it here.</param>
    /// <param name="cancel">Cancels the work.</param>
    /// <returns>True when it was made now.</returns>
    public async Task<bool> MakeFirstAsync(Action make, CancellationToken cancel = default)
    {
        await using var connection = await database.Source.OpenConnectionAsync(cancel);
        await using var transaction = await connection.BeginTransactionAsync(cancel);
        await connection.ExecuteAsync(new CommandDefinition("select pg_advisory_xact_lock(@FirstKeyLock)", new { FirstKeyLock }, transaction, cancellationToken: cancel));
        // What is made goes over a connection of its own, and stands before the lock is let go.
        if (await connection.ExecuteScalarAsync<bool>(new CommandDefinition("select exists (select from data_protection_key)", transaction: transaction, cancellationToken: cancel)))
        {
            return false;
        }
        make();
        return true;
    }

    /// <inheritdoc/>
    public void StoreElement(XElement element, string friendlyName)
    {
        var xml = element.ToString(SaveOptions.DisableFormatting);
        using var connection = database.Source.OpenConnection();
        connection.Execute(
            "insert into data_protection_key (friendly_name, xml) values (@friendlyName, @xml)",
            new { friendlyName, xml = seal?.Seal(xml) ?? xml });
    }

    /// <summary>Seals what still lies in the clear, as a version before left it, and makes sure that the rest opens.</summary>
    /// <returns>How many were sealed now.</returns>
    /// <exception cref="KeySealException">Something is sealed, and not with this seal.</exception>
    public async Task<int> SealAsync(CancellationToken cancel = default)
    {
        await using var connection = await database.Source.OpenConnectionAsync(cancel);
        var sealedNow = 0;
        foreach (var (id, xml) in await connection.QueryAsync<(int Id, string Xml)>(new CommandDefinition("select id, xml from data_protection_key order by id", cancellationToken: cancel)))
        {
            _ = Clear(xml);
            if (seal is not null && !KeySeal.IsSealed(xml))
            {
                sealedNow += await connection.ExecuteAsync(new CommandDefinition("update data_protection_key set xml = @now where id = @id and xml = @xml", new { id, xml, now = seal.Seal(xml) }, cancellationToken: cancel));
            }
        }
        return sealedNow;
    }

    private string Clear(string xml) => !KeySeal.IsSealed(xml) ? xml
        : seal?.Open(xml) ?? throw new KeySealException("The keys in the database are sealed, and no key file is named. Set ZANDRIK_KEY_FILE to the one that belongs to this database (ring.key, in every backup), then start again.");
}
