using System.Xml.Linq;
using Dapper;
using Microsoft.AspNetCore.DataProtection.Repositories;

namespace Zandrik.Storage;

/// <summary>
/// Keys of cookies and form tokens, kept in the database: a form that was open when the server died can
/// be sent to the next one, and every copy of the server knows the same keys.
/// </summary>
public sealed class KeyRing(ShopDatabase database) : IXmlRepository
{
    /// <inheritdoc/>
    public IReadOnlyCollection<XElement> GetAllElements()
    {
        using var connection = database.Source.OpenConnection();
        return [.. connection.Query<string>("select xml from data_protection_key order by id").Select(XElement.Parse)];
    }

    /// <inheritdoc/>
    public void StoreElement(XElement element, string friendlyName)
    {
        using var connection = database.Source.OpenConnection();
        connection.Execute(
            "insert into data_protection_key (friendly_name, xml) values (@friendlyName, @xml)",
            new { friendlyName, xml = element.ToString(SaveOptions.DisableFormatting) });
    }
}
