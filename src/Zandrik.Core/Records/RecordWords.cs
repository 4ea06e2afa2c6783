using System.Reflection;
using System.Text.Json;
using System.Text.Json.Serialization;

namespace Zandrik.Core.Records;

/// <summary>The words of the closed lists as they stand in a record: lower case with hyphens, unless a member says otherwise.</summary>
public static class RecordWords
{
    /// <summary>The word for a member, e.g. <c>"by-wire"</c> for <see cref="ThrottleControl.ByWire"/>.</summary>
    /// <returns>The word; every member has one.</returns>
    public static string Of<T>(T member)
        where T : struct, Enum => Table<T>.Words[member];

    /// <summary>The member for a word; false when the list has no such word. Case matters, as in JSON.</summary>
    /// <returns>False when the list has no such word.</returns>
    public static bool TryParse<T>(string? word, out T member)
        where T : struct, Enum
    {
        member = default;
        return word is not null && Table<T>.Members.TryGetValue(word, out member);
    }

    /// <summary>The member for a word; <paramref name="otherwise"/> when the list has no such word.</summary>
    /// <returns>The member of the word, else the one given.</returns>
    public static T Parse<T>(string? word, T otherwise)
        where T : struct, Enum => TryParse<T>(word, out var member) ? member : otherwise;

    internal static IReadOnlyList<string> All(Type list) =>
        [.. list.GetFields(BindingFlags.Public | BindingFlags.Static).Select(WordOf)];

    private static string WordOf(FieldInfo member) =>
        member.GetCustomAttribute<JsonStringEnumMemberNameAttribute>()?.Name
        ?? JsonNamingPolicy.KebabCaseLower.ConvertName(member.Name);

    private static class Table<T>
        where T : struct, Enum
    {
        internal static readonly IReadOnlyDictionary<T, string> Words = typeof(T)
            .GetFields(BindingFlags.Public | BindingFlags.Static)
            .ToDictionary(f => (T)f.GetValue(null)!, WordOf);

        internal static readonly IReadOnlyDictionary<string, T> Members =
            Words.ToDictionary(w => w.Value, w => w.Key, StringComparer.Ordinal);
    }
}
