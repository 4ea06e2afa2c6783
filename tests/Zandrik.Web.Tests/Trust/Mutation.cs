using System.Text;
using System.Text.Json.Nodes;

namespace Zandrik.Web.Tests.Trust;

/// <summary>Makes things that nobody should send from things that somebody does: the same seed makes the same ones.</summary>
internal sealed class Mutation(int seed)
{
    private readonly Random random = new(seed);

    private static readonly string[] Texts =
    [
        "", " ", "\0", "a\0b", "\u0007", "\uD800", "\uDFFFx", "NaN", "Infinity", "-1", "0", "1e308", "1e999", "99999999999999999999", "-0", "0x10", "1,5", "1.5.5", "٣", "null", "true", "[]", "{}",
        "<script>alert(1)</script>", "'; drop table job; --", "../../etc", "%00", "{0}", "\r\n", "\u202E", "𝟙𝟚", "psi", "bar", "2026-13-45T99:00:00Z", "9999-12-31T23:59:59Z", "0001-01-01T00:00:00Z",
    ];

    private static readonly double[] Numbers = [0, -0.0, -1, 1, 0.5, 16, 17, 1e-300, -1e-300, 1e300, -1e300, double.MaxValue, double.Epsilon, 2147483648, -2147483649, 1e19];

    public int Next(int below) => random.Next(below);

    public T Of<T>(IReadOnlyList<T> list) => list[random.Next(list.Count)];

    public string Text() => random.Next(12) == 0 ? new string((char)random.Next(1, 0xD7FF), random.Next(1, 9000)) : Of(Texts);

    /// <summary>A document with a few of its values, names or places changed; now and then broken in its bytes.</summary>
    public byte[] Document(JsonNode original)
    {
        var node = original.DeepClone();
        for (var i = random.Next(1, 5); i > 0; i--)
        {
            Change(node);
        }
        var text = node.ToJsonString();
        // What a serializer would not write: escapes that are no letters, numbers beyond any, a name twice.
        text = random.Next(8) switch
        {
            0 => Swap(text, "\"", "\"\\ud800"),
            1 => Swap(text, ":1", ":1e999"),
            2 => Swap(text, "{", "{\"x\":1,\"x\":2,"),
            3 => Swap(text, "[", new string('[', random.Next(1, 200))),
            _ => text,
        };
        var bytes = Encoding.UTF8.GetBytes(text);
        return random.Next(6) == 0 ? Bytes(bytes) : bytes;
    }

    /// <summary>Bytes with some changed, cut out, doubled or cut off.</summary>
    public byte[] Bytes(byte[] original)
    {
        var bytes = original.ToList();
        for (var i = random.Next(1, 6); i > 0 && bytes.Count > 4; i--)
        {
            var at = random.Next(bytes.Count);
            switch (random.Next(6))
            {
                case 0:
                    bytes[at] = (byte)random.Next(256);
                    break;
                case 1:
                    bytes.RemoveRange(at, Math.Min(random.Next(1, 200), bytes.Count - at));
                    break;
                case 2:
                    bytes.InsertRange(at, bytes.GetRange(at, Math.Min(random.Next(1, 500), bytes.Count - at)));
                    break;
                case 3:
                    bytes.RemoveRange(at, bytes.Count - at);
                    break;
                case 4:
                    bytes.InsertRange(at, Encoding.UTF8.GetBytes(Of(Texts.Where(t => !t.Any(char.IsSurrogate)).ToList())));
                    break;
                default:
                    bytes[at] ^= (byte)(1 << random.Next(8));
                    break;
            }
        }
        return [.. bytes];
    }

    private string Swap(string text, string old, string anew)
    {
        var places = new List<int>();
        for (var at = text.IndexOf(old, StringComparison.Ordinal); at >= 0; at = text.IndexOf(old, at + 1, StringComparison.Ordinal))
        {
            places.Add(at);
        }
        return places.Count == 0 ? text : Of(places) is var p ? text[..p] + anew + text[(p + old.Length)..] : text;
    }

    private void Change(JsonNode root)
    {
        var at = root;
        while (true)
        {
            JsonNode? below = null;
            switch (at)
            {
                case JsonObject o when o.Count > 0:
                    var name = Of(o.Select(p => p.Key).ToList());
                    if (o[name] is JsonObject or JsonArray && random.Next(6) != 0)
                    {
                        below = o[name];
                        break;
                    }
                    switch (random.Next(6))
                    {
                        case 0:
                            o.Remove(name);
                            break;
                        case 1:
                            o[Text()] = Value();
                            break;
                        default:
                            o[name] = Value();
                            break;
                    }
                    return;
                case JsonArray a when a.Count > 0:
                    var place = random.Next(a.Count);
                    if (a[place] is JsonObject or JsonArray && random.Next(6) != 0)
                    {
                        below = a[place];
                        break;
                    }
                    switch (random.Next(4))
                    {
                        case 0:
                            a.RemoveAt(place);
                            break;
                        case 1:
                            a.Insert(place, a[place]?.DeepClone());
                            break;
                        default:
                            a[place] = Value();
                            break;
                    }
                    return;
                default:
                    return;
            }
            at = below!;
        }
    }

    private JsonNode? Value() => random.Next(8) switch
    {
        0 => null,
        1 => JsonValue.Create(random.Next(2) == 0),
        2 => new JsonArray(JsonValue.Create(Of(Numbers))),
        3 => new JsonObject { [Of(["value", "cylinder", "unit", "kind"])] = JsonValue.Create(Of(Numbers)) },
        4 or 5 => JsonValue.Create(new string([.. Text().Where(c => !char.IsSurrogate(c))])),
        _ => JsonValue.Create(Of(Numbers)),
    };
}
