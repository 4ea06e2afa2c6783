using System.Text;
using Zandrik.Core.Records;

namespace Zandrik.Core.Tests.Records;

public sealed class JsonGateTests
{
    [Theory]
    [InlineData("""{ "a": [1, 2, { "b/c": "x\u0000y" }] }""", "/a/2/b~1c")]
    [InlineData("""{ "a": ["fine", "\ud83d"] }""", "/a/1")]
    [InlineData("""{ "a": { "b": 1e999 } }""", "/a/b")]
    [InlineData("""{ "a": 1, "\ud800": 2 }""", "")]
    public void What_is_no_text_and_no_number_is_named_by_its_pointer(string json, string pointer) =>
        JsonGate.Problem(Encoding.UTF8.GetBytes(json))!.Pointer.ShouldBe(pointer);

    [Fact]
    public void Whole_letters_of_any_script_pass_and_bytes_that_are_none_do_not()
    {
        JsonGate.Problem("""{ "a": "Öl, ẞ 漢 😀 \ud83d\ude00 line\nend\t", "b": [-1.5e3, null, true, {}] }"""u8).ShouldBeNull();
        JsonGate.Problem([(byte)'"', 0xC3, 0x28, (byte)'"'])!.Says.ShouldContain("UTF-8");
        // Whether it is JSON at all is the reader's to say.
        JsonGate.Problem("{ \"a\": "u8).ShouldBeNull();
        JsonGate.Problem(Encoding.UTF8.GetBytes(new string('[', 5000))).ShouldBeNull();
    }

    [Fact]
    public void Text_has_no_control_characters_and_no_halves()
    {
        JsonGate.IsText("plug 3\tgrey\r\n").ShouldBeTrue();
        JsonGate.IsText("a\u0007b").ShouldBeFalse();
        JsonGate.IsText("\ude00").ShouldBeFalse();
        JsonGate.IsText("\ud83dx").ShouldBeFalse();
    }
}
