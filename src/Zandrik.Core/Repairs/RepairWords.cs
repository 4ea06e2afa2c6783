using System.Globalization;
using Zandrik.Core.Records;

namespace Zandrik.Core.Repairs;

/// <summary>Repairs as the trade says them.</summary>
public static class RepairWords
{
    /// <summary>What it is called, as a heading begins with it.</summary>
    /// <param name="option">What is done.</param>
    /// <param name="banks">Banks of the engine: of one, nobody says which.</param>
    /// <returns>The words, upper case first.</returns>
    public static string Title(RepairOption option, int banks)
    {
        var text = option.IsLeave ? "run on and watch" : string.Join(" and ", option.Works.Select(w => Name(w.Repair) + Bank(w, banks)));
        return char.ToUpperInvariant(text[0]) + text[1..];
    }

    /// <summary>What somebody is doing then, as it goes on in a sentence: "setting the valves".</summary>
    /// <param name="option">What is done.</param>
    /// <param name="banks">Banks of the engine.</param>
    /// <returns>The words, lower case.</returns>
    public static string Doing(RepairOption option, int banks) => option.IsLeave ? "running on" : string.Join(" and ", option.Works.Select(w => Doing(w.Repair) + Bank(w, banks)));

    /// <summary>What it is, for somebody who never opened an engine.</summary>
    /// <param name="option">What is done.</param>
    /// <returns>The words, upper case first.</returns>
    public static string Plain(RepairOption option)
    {
        var text = option.IsLeave ? "leave it as it is for now" : string.Join(", and ", option.Works.Select(w => Plain(w.Repair)).Distinct());
        return char.ToUpperInvariant(text[0]) + text[1..];
    }

    /// <summary>The word an option has in addresses and documents.</summary>
    /// <returns>Lower case, hyphenated: <c>leave</c>, <c>top-end-1</c>, <c>seal-cooling+gasket-2</c>.</returns>
    public static string Word(RepairOption option) => option.IsLeave ? RecordWords.Of(Repair.Leave)
        : string.Join('+', option.Works.Select(w => w.IsOfBank ? string.Create(CultureInfo.InvariantCulture, $"{RecordWords.Of(w.Repair)}-{w.Bank + 1}") : RecordWords.Of(w.Repair)));

    /// <summary>The option of a word; absent where it is none.</summary>
    /// <param name="word">As <see cref="Word"/> writes it.</param>
    /// <returns>The option.</returns>
    public static RepairOption? Parse(string word)
    {
        var works = new List<RepairWork>();
        foreach (var part in word.Split('+'))
        {
            var bank = part.Length > 2 && part[^2] == '-' && char.IsAsciiDigit(part[^1]) ? part[^1] - '1' : -1;
            if (!RecordWords.TryParse<Repair>(bank < 0 ? part : part[..^2], out var repair))
            {
                return null;
            }
            works.Add(new(repair, Math.Max(bank, 0)));
        }
        return works is [{ Repair: Repair.Leave }] ? RepairOption.Leave : new(works);
    }

    /// <summary>Minutes as people say them.</summary>
    /// <param name="minutes">Minutes, 0 or more.</param>
    /// <returns>"38 min", "1 h 50 min" to the next five, "14 h" from ten hours on.</returns>
    public static string Time(double minutes)
    {
        if (minutes < 60)
        {
            return string.Create(CultureInfo.InvariantCulture, $"{minutes:0} min");
        }
        var five = 5 * (int)Math.Round(minutes / 5);
        return five >= 600 ? string.Create(CultureInfo.InvariantCulture, $"{minutes / 60:0} h") : five % 60 == 0 ? $"{five / 60} h" : $"{five / 60} h {five % 60} min";
    }

    /// <summary>A repair by itself.</summary>
    /// <returns>The words, lower case.</returns>
    public static string Name(Repair repair) => repair switch
    {
        Repair.Leave => "run on and watch",
        Repair.RunAndRetest => "run, clear, test again",
        Repair.AdjustValves => "valve clearances, test again",
        Repair.FreeRings => "free the rings",
        Repair.SealCooling => "cooling system",
        Repair.ClearExhaust => "exhaust",
        Repair.CleanDeposits => "deposits off",
        Repair.SetTiming => "cam timing",
        Repair.Gasket => "head gasket",
        Repair.TopEnd => "top end",
        Repair.BottomEnd => "rings, pistons, bores",
        Repair.Overhaul => "overhaul",
        _ => "another engine",
    };

    private static string Doing(Repair repair) => repair switch
    {
        Repair.RunAndRetest => "running it clear",
        Repair.AdjustValves => "setting the valves",
        Repair.FreeRings => "freeing the rings",
        Repair.SealCooling => "mending the cooling system",
        Repair.ClearExhaust => "freeing the exhaust",
        Repair.CleanDeposits => "taking off deposits",
        Repair.SetTiming => "setting the cam timing",
        Repair.Gasket => "renewing the head gasket",
        Repair.TopEnd => "doing the valves with the head off",
        Repair.BottomEnd => "opening the bottom end",
        Repair.Overhaul => "overhauling it",
        _ => "fitting another engine",
    };

    private static string Plain(Repair repair) => repair switch
    {
        Repair.RunAndRetest => "run it clear and test it again",
        Repair.AdjustValves => "set the valves and test it again",
        Repair.FreeRings => "try to free the piston rings",
        Repair.SealCooling => "mend the cooling system",
        Repair.ClearExhaust => "free the exhaust",
        Repair.CleanDeposits => "clean out deposits",
        Repair.SetTiming => "put the engine's timing right",
        Repair.Gasket => "a new cylinder head gasket",
        Repair.TopEnd => "repair the valves, with the cylinder head off",
        Repair.BottomEnd => "new piston rings, with the engine opened",
        Repair.Overhaul => "overhaul the whole engine",
        _ => "fit another engine",
    };

    private static string Bank(RepairWork work, int banks) => work.IsOfBank && banks > 1 ? string.Create(CultureInfo.InvariantCulture, $" of bank {work.Bank + 1}") : "";
}
