using System.Security.Cryptography;
using System.Text;

namespace Zandrik.Web.Front;

/// <summary>The key by which an entry is known again: the same words give the same key, however often they are sent.</summary>
public static class EntryKey
{
    /// <summary>The key of some words: what made the form, what was entered, and where.</summary>
    public static Guid Of(string words) => new(SHA256.HashData(Encoding.UTF8.GetBytes(words))[..16]);
}
