using System.Xml.Linq;
using Dapper;
using Microsoft.AspNetCore.DataProtection.Repositories;

namespace Zandrik.Storage;

/// <summary>
/// Keys of cookies, form tokens and second factors, kept in the database: a form that was open when the server died can
/// be sent to the next one, and every copy of the server knows the same keys. With a seal they are worth nothing to
/// whoever has the database alone.
/// </summary>
public sealed class KeyRing(ShopDatabase database, KeySeal? seal = null) : IXmlRepository
{
    /// <inheritdoc/>
    /// <exception cref="KeySealException">They are sealed, and not with this seal.</exception>
    public IReadOnlyCollection<XElement> GetAllElements()
    {
        using var connection = database.Source.OpenConnection();
        return [.. connection.Query<string>("select xml from data_protection_key order by id").Select(x => XElement.Parse(Clear(x)))];
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
