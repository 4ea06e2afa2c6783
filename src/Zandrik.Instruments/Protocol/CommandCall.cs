using System.Globalization;
using System.Text;

namespace Zandrik.Instruments.Protocol;

/// <summary>A command that is carried out: its parameters, and where its answer goes.</summary>
/// <param name="session">The client.</param>
/// <param name="parameters">What stood behind the header.</param>
public sealed class CommandCall(ClientSession session, IReadOnlyList<string> parameters)
{
    /// <summary>The client.</summary>
    public ClientSession Session => session;

    /// <summary>How many parameters there are.</summary>
    public int Count => parameters.Count;

    /// <summary>What is answered; empty for nothing.</summary>
    public byte[] Answer { get; private set; } = [];

    /// <summary>True once something was wrong with it.</summary>
    public bool HasFailed { get; private set; }

    /// <summary>Answers in letters.</summary>
    /// <param name="text">The answer.</param>
    public void Reply(string text) => Answer = Encoding.ASCII.GetBytes(text);

    /// <summary>Answers with a figure.</summary>
    /// <param name="figure">The figure; one that is none is the standard's 9.91E37.</param>
    public void Reply(double figure) => Reply(double.IsFinite(figure) ? figure.ToString("0.0####", CultureInfo.InvariantCulture) : "9.91E37");

    /// <summary>Answers with a block.</summary>
    /// <param name="block">The block.</param>
    public void Reply(byte[] block) => Answer = block;

    /// <summary>Says what is wrong; nothing is answered then.</summary>
    /// <param name="error">What.</param>
    public void Fail(ScpiError error)
    {
        if (!HasFailed)
        {
            HasFailed = true;
            Answer = [];
            session.Add(error);
        }
    }

    /// <summary>Checks how many parameters there are.</summary>
    /// <param name="least">The fewest.</param>
    /// <param name="most">The most.</param>
    /// <returns>False where it fails.</returns>
    public bool Takes(int least, int most)
    {
        if (Count < least || Count > most)
        {
            Fail(Count < least ? ScpiError.MissingParameter : ScpiError.ParameterNotAllowed);
        }
        return !HasFailed;
    }

    /// <summary>A parameter in letters.</summary>
    /// <param name="at">Which, from 0.</param>
    /// <returns>The parameter; empty where there is none.</returns>
    public string Text(int at) => at < Count ? parameters[at] : "";

    /// <summary>A parameter that is one of some words.</summary>
    /// <param name="at">Which, from 0.</param>
    /// <param name="words">The words, their short forms in capitals.</param>
    /// <returns>Its place among them; fails and gives −1 for none of them.</returns>
    public int Choice(int at, params string[] words)
    {
        var found = Array.FindIndex(words, w => CommandPattern.IsWord(Text(at), w));
        if (found < 0)
        {
            Fail(double.TryParse(Text(at), CultureInfo.InvariantCulture, out _) ? ScpiError.DataType : ScpiError.IllegalValue);
        }
        return found;
    }

    /// <summary>A parameter that is a number, with a unit behind it if it likes.</summary>
    /// <param name="at">Which, from 0.</param>
    /// <param name="least">The least it may be, in the first unit.</param>
    /// <param name="most">The most it may be.</param>
    /// <param name="units">Units, each with how many of the first it is.</param>
    /// <returns>The number in the first unit; fails and gives 0 where it is none.</returns>
    public double Number(int at, double least, double most, params (string Unit, double Factor)[] units)
    {
        var text = Text(at);
        var digits = text.Length;
        // A unit begins with a letter; an exponent is followed by a sign or a digit.
        for (var i = 0; i < text.Length; i++)
        {
            if (char.IsAsciiLetter(text[i]) && !(text[i] is 'e' or 'E' && i > 0 && i + 1 < text.Length && (char.IsAsciiDigit(text[i + 1]) || text[i + 1] is '-' or '+')))
            {
                digits = i;
                break;
            }
        }
        if (!double.TryParse(text[..digits].Trim(), NumberStyles.Float, CultureInfo.InvariantCulture, out var number))
        {
            Fail(ScpiError.DataType);
            return 0;
        }
        var suffix = text[digits..].Trim();
        var factor = suffix.Length == 0 ? 1 : units.FirstOrDefault(u => u.Unit.Equals(suffix, StringComparison.OrdinalIgnoreCase)).Factor;
        if (factor == 0)
        {
            Fail(ScpiError.InvalidSuffix);
            return 0;
        }
        if (number * factor < least || number * factor > most)
        {
            Fail(ScpiError.OutOfRange);
            return 0;
        }
        return number * factor;
    }
}
