using System.Globalization;
using System.Text;
using System.Text.RegularExpressions;

namespace Zandrik.Web.Front;

/// <summary>
/// What keeps a text from being a password, after NIST SP 800-63B, 5.1.1.2: long enough; not one of the commonest; not made
/// of the person's or the shop's name, of runs on the keyboard or of repeats. No mix of kinds of characters is asked for,
/// and nobody has to change it by the calendar.
/// </summary>
public static partial class PasswordRules
{
    /// <summary>Shortest password taken, characters.</summary>
    public const int Shortest = 12;

    /// <summary>Longest password taken, characters.</summary>
    public const int Longest = 128;

    // What must be left of it when all that is guessed first is taken out.
    private const int LeastOfItsOwn = 6;

    // What the commonest passwords are made of, whatever digits and signs stand around it.
    private static readonly string[] Commonest =
    [
        "password", "passwort", "passw", "welcome", "letmein", "login", "admin", "administrator", "master", "secret", "changeme", "default", "guest", "user",
        "iloveyou", "loveyou", "love", "princess", "sunshine", "monkey", "dragon", "football", "baseball", "soccer", "hockey", "superman", "batman", "shadow", "michael", "jennifer",
        "jordan", "ashley", "daniel", "thomas", "charlie", "andrew", "robert", "jessica", "michelle", "george", "maggie", "hunter", "killer", "freedom", "whatever", "trustno", "starwars",
        "computer", "internet", "service", "workshop", "garage", "engine", "compression", "zandrik", "mechanic", "technician", "foreman", "summer", "winter", "spring", "autumn", "monday",
        "friday", "january", "december", "flower", "cookie", "chocolate", "pepper", "ginger", "orange", "purple", "silver", "golden", "hello", "test", "qwerty", "qwertz", "azerty", "asdf", "abc", "access",
    ];

    private static readonly string[] Rows = ["qwertyuiop", "qwertzuiop", "azertyuiop", "asdfghjkl", "zxcvbnm", "1234567890", "abcdefghijklmnopqrstuvwxyz", "1qaz2wsx3edc4rfv5tgb6yhn7ujm"];

    /// <summary>What keeps a text from being a password; absent when nothing does.</summary>
    /// <param name="password">The text.</param>
    /// <param name="own">What others know of the person: sign-in name, name, shop.</param>
    /// <returns>One sentence with what to do; null where it may be one.</returns>
    public static string? Objection(string? password, params string?[] own)
    {
        if (password is null || password.Length < Shortest)
        {
            return $"Take at least {Shortest} characters: three or four words are easy to keep.";
        }
        if (password.Length > Longest)
        {
            return $"Take at most {Longest} characters.";
        }
        var text = Plain(password);
        if (text.Distinct().Count() < 4 || Repeats().IsMatch(text))
        {
            return "That is too even to be a password: mix more characters.";
        }
        var without = Without(text, own.SelectMany(o => Words().Matches(Plain(o ?? "")).Select(m => m.Value)).Where(w => w.Length > 2));
        if (without.Length < LeastOfItsOwn && without.Length < text.Length)
        {
            return "That is made of a name others know. Take three or four words that have nothing to do with you or the shop.";
        }
        var left = Year().Replace(Runs(Without(without, Commonest)), "");
        return left.Length < LeastOfItsOwn ? "That is one of the passwords that are tried first. Take three or four words that do not belong together." : null;
    }

    // Letters and digits alone, and what is written for letters as letters.
    private static string Plain(string text)
    {
        var plain = new StringBuilder();
        foreach (var c in text.ToLowerInvariant().Normalize(NormalizationForm.FormD).Where(c => CharUnicodeInfo.GetUnicodeCategory(c) != UnicodeCategory.NonSpacingMark))
        {
            plain.Append(c switch { '@' => 'a', '$' => 's', '!' => 'i', '€' => 'e', _ => c });
        }
        return plain.ToString();
    }

    private static string Without(string text, IEnumerable<string> words)
    {
        // "pa55w0rd" is read as it is meant; what is left keeps its own characters.
        foreach (var word in words.OrderByDescending(w => w.Length))
        {
            for (var read = Read(text); read.IndexOf(word, StringComparison.Ordinal) is var at and >= 0; read = Read(text))
            {
                text = text.Remove(at, word.Length);
            }
        }
        return Separators().Replace(text, "");
    }

    private static string Read(string text) => string.Concat(text.Select(c => c switch { '0' => 'o', '1' => 'i', '3' => 'e', '4' => 'a', '5' => 's', '7' => 't', _ => c }));

    // Four keys in a row, either way, are no more than one.
    private static string Runs(string text)
    {
        foreach (var row in Rows.Concat(Rows.Select(r => new string([.. r.Reverse()]))))
        {
            for (var length = row.Length; length >= 4; length--)
            {
                for (var at = 0; at + length <= row.Length; at++)
                {
                    text = text.Replace(row.Substring(at, length), "", StringComparison.Ordinal);
                }
            }
        }
        return text;
    }

    [GeneratedRegex(@"^(.{1,6}?)\1+.{0,2}$", RegexOptions.None, 1000)]
    private static partial Regex Repeats();

    [GeneratedRegex(@"(19|20)\d\d")]
    private static partial Regex Year();

    [GeneratedRegex(@"[^\p{L}\p{N}]+")]
    private static partial Regex Separators();

    [GeneratedRegex(@"[\p{L}\p{N}]+")]
    private static partial Regex Words();
}
