using Zandrik.Web.Front;

namespace Zandrik.Web.Tests.Front;

/// <summary>What may be a password, and what those who guess try first.</summary>
public sealed class PasswordRulesTests
{
    private static string? Objection(string? password) => PasswordRules.Objection(password, "ostrel", "Mara Ostrel", "Quillmoor Ferry Workshop");

    [Theory]
    [InlineData("cold-plugs-4")]
    [InlineData("marrow quill tarn")]
    [InlineData("grün im Hafen 7")]
    [InlineData("vier-nasse-Kerzen")]
    [InlineData("8g2Kd9xPq0vT")]
    [InlineData("ferry tides run low")]
    public void Words_that_do_not_belong_together_are_taken(string password) => Objection(password).ShouldBeNull();

    [Theory]
    [InlineData(null, "at least 12")]
    [InlineData("short-one-4", "at least 12")]
    [InlineData("aaaaaaaaaaaa", "too even")]
    [InlineData("abcabcabcabc", "too even")]
    [InlineData("xy7xy7xy7xy7x", "too even")]
    [InlineData("password1234", "tried first")]
    [InlineData("P@55w0rd!2026", "tried first")]
    [InlineData("123456789012", "tried first")]
    [InlineData("qwertyuiop12", "tried first")]
    [InlineData("1qaz2wsx3edc", "tried first")]
    [InlineData("Summer2026!!!", "tried first")]
    [InlineData("iloveyou12345", "tried first")]
    [InlineData("ostrel-ostrel-1", "a name others know")]
    [InlineData("Quillmoor2026", "a name others know")]
    [InlineData("M4ra.0strel.99", "a name others know")]
    public void What_is_guessed_first_is_refused_with_what_to_take(string? password, string says) => Objection(password)!.ShouldContain(says);

    [Fact]
    public void No_length_is_worked_on_for_long()
    {
        Objection(new string('x', 129))!.ShouldContain("at most 128");
        Objection(string.Concat(Enumerable.Range(0, 42).Select(i => (char)('a' + (i * 7 % 26)) + "q9"))).ShouldBeNull();
    }
}
