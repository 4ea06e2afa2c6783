using Zandrik.Core.Records;

namespace Zandrik.Core.Safety;

/// <summary>Something on record that says liquid may stand in a cylinder.</summary>
/// <param name="Key">Names this sign and no other: the same sign found anew has another key.</param>
/// <param name="Says">What was noted and where, as part of a sentence.</param>
/// <param name="Cylinder">The cylinder; absent where nobody knows which.</param>
public sealed record LiquidSign(string Key, string Says, int? Cylinder = null);

/// <summary>One line of the way out of the lock.</summary>
/// <param name="Word">Its word, as it is stored.</param>
/// <param name="Says">What has to be done.</param>
public sealed record LiquidLine(string Word, string Says);

/// <summary>A line of the way that was ticked, or whose tick was taken away.</summary>
/// <param name="Item">The word of the line.</param>
/// <param name="Way">With <see cref="LiquidGuard.Dried"/>: the keys of the signs it answers, with blanks between.</param>
/// <param name="Done">False for a tick taken away.</param>
public sealed record LiquidEvent(string Item, string? Way, bool Done);

/// <summary>
/// Liquid does not compress. While any sign of it stands, nothing that cranks with plugs in or starts the engine is
/// allowed, until somebody says that the plugs were out, that it was cranked with every hole open, and that the bores
/// were dried. A sign that is found later locks again. Source: rule of the trade (hydraulic lock bends rods).
/// </summary>
public sealed class LiquidGuard
{
    /// <summary>The last line: it answers the signs that were known when it was ticked.</summary>
    public const string Dried = "dried";

    private readonly HashSet<string> ticked = [];
    private readonly HashSet<string> answered = [];

    private LiquidGuard(TestRecord record) => (Signs, Lines) = (SignsOf(record), LinesFor(record.Engine));

    /// <summary>Every sign on record, answered or not.</summary>
    public IReadOnlyList<LiquidSign> Signs { get; }

    /// <summary>The way out, in order.</summary>
    public IReadOnlyList<LiquidLine> Lines { get; }

    /// <summary>Signs that nobody has answered yet.</summary>
    public IReadOnlyList<LiquidSign> Open => [.. Signs.Where(s => !answered.Contains(s.Key))];

    /// <summary>The same as a tick of <see cref="Dried"/> has to name them.</summary>
    public string OpenKeys => string.Join(' ', Open.Select(s => s.Key).Order(StringComparer.Ordinal));

    /// <summary>True while liquid may stand in a cylinder.</summary>
    public bool IsLocked => Open.Count > 0;

    /// <summary>Whether a line is ticked for the signs that are open.</summary>
    /// <returns>False for a tick from before a new sign.</returns>
    public bool IsTicked(string word) => ticked.Contains(word);

    /// <summary>The next line to do; absent when nothing is locked.</summary>
    public LiquidLine? Next => IsLocked ? Lines.FirstOrDefault(l => !ticked.Contains(l.Word)) : null;

    /// <summary>Why nothing may be cranked with plugs in or started, with the way on; absent when it may.</summary>
    public string? Forbids => !IsLocked ? null
        : $"Liquid may stand in a cylinder ({string.Join("; ", Open.Select(s => s.Says))}). It does not compress and bends rods. Plugs out, everybody clear, crank with the holes open, dry it, then tick it off.";

    /// <summary>How a job stands, from what is on record and what was done about it.</summary>
    /// <param name="record">The job. Each plug counts as it was read last, each kind of check as it was done last.</param>
    /// <param name="events">What was done about it, oldest first.</param>
    /// <returns>The signs that are open, and what was done about them.</returns>
    public static LiquidGuard Of(TestRecord record, IEnumerable<LiquidEvent> events)
    {
        var guard = new LiquidGuard(record);
        foreach (var e in events)
        {
            if (e is { Item: Dried, Done: true })
            {
                guard.answered.UnionWith(Keys(e.Way));
                // Whatever is found after this has the whole way before it.
                guard.ticked.Clear();
            }
            else if (e is { Item: Dried })
            {
                guard.answered.ExceptWith(Keys(e.Way));
            }
            else if (e.Done)
            {
                guard.ticked.Add(e.Item);
            }
            else
            {
                guard.ticked.Remove(e.Item);
            }
        }
        return guard;
    }

    /// <summary>Why a tick is refused as things stand, with what to do; absent when it may be kept.</summary>
    /// <returns>One sentence with what to do first; null when it may be kept.</returns>
    public string? Refuses(LiquidEvent e)
    {
        var place = Lines.ToList().FindIndex(l => l.Word == e.Item);
        return place < 0 ? "There is no such line."
            : !e.Done ? null
            : !IsLocked ? "Nothing is locked: no sign of liquid is open."
            : Lines.Take(place).FirstOrDefault(l => !ticked.Contains(l.Word)) is { } before ? $"First: {char.ToLowerInvariant(before.Says[0])}{before.Says[1..]}"
            : e.Item == Dried && e.Way != OpenKeys ? "Something was noted after you opened this page. Look again before you tick it off."
            : null;
    }

    /// <summary>What is so, in the words of <see cref="Rule"/>.</summary>
    public IReadOnlyList<string> Facts => [.. IsLocked ? [Locked] : Array.Empty<string>(), .. Lines.Where(l => ticked.Contains(l.Word)).Select(l => Fact(l.Word))];

    /// <summary>The fact that liquid may stand in a cylinder.</summary>
    public const string Locked = "liquid";

    /// <summary>The fact that a line is ticked.</summary>
    /// <param name="word">The line's word.</param>
    /// <returns>One word.</returns>
    public static string Fact(string word) => "liquid." + word;

    /// <summary>The rule by which <see cref="Refuses"/> decides about a tick, for where nobody can be asked. It never unlocks: that is the server's to say.</summary>
    /// <param name="line">The line.</param>
    /// <param name="done">False for a tick taken away.</param>
    /// <returns>What it needs and what it makes so.</returns>
    public GuardRule Rule(LiquidLine line, bool done) => new(
        done ? [.. Lines.TakeWhile(l => l != line).Select(l => new GuardNeed(Fact(l.Word), $"First: {char.ToLowerInvariant(l.Says[0])}{l.Says[1..]}"))] : [],
        [done ? Fact(line.Word) : "-" + Fact(line.Word)]);

    private static string[] Keys(string? way) => (way ?? "").Split(' ', StringSplitOptions.RemoveEmptyEntries);

    private static LiquidLine[] LinesFor(EngineSheet engine)
    {
        var plugs = engine.Fuel == Fuel.Diesel ? "All glow plugs or injectors out, by the maker's procedure." : "All plugs out.";
        return
        [
            new("plugs-out", plugs),
            new("clear", "Fuel and ignition off, rags over the holes, everybody clear and no face over a hole."),
            new("spun", "Cranked with every hole open until nothing more comes out."),
            new(Dried, "Bores dried and looked into. Where the liquid came from is known, or stopped for now."),
        ];
    }

    private static List<LiquidSign> SignsOf(TestRecord record)
    {
        var signs = new List<LiquidSign>();
        foreach (var seen in record.Observations ?? [])
        {
            if (seen is Observation.CoolantInCylinder or Observation.IngestedLiquid)
            {
                signs.Add(new(RecordWords.Of(seen), seen == Observation.CoolantInCylinder ? "coolant in a cylinder, noted at intake" : "it swallowed liquid, noted at intake"));
            }
        }
        var tests = record.Tests ?? [];
        if (tests.OfType<FluidsCheck>().LastOrDefault(t => t is { Findings: not null, BlowBy: null }) is { Findings: { } found } fluids && found.Contains(FluidFinding.CoolantInCylinder))
        {
            signs.Add(new($"fluids@{Moment(fluids.At)}", "coolant in a cylinder, noted with the fluids"));
        }
        if (tests.OfType<FluidsCheck>().LastOrDefault(t => t.CoolantInIntake is not null || t.Findings?.Contains(FluidFinding.CoolantInIntake) == true) is { } intake
            && (intake.CoolantInIntake ?? true))
        {
            signs.Add(new($"intake@{Moment(intake.At)}", "coolant stands in the intake"));
        }
        foreach (var plug in tests.OfType<PlugInspection>().SelectMany(t => t.Readings ?? []).Where(r => r.SupersededBy is null).GroupBy(r => r.Cylinder).Select(g => g.Last()).OrderBy(p => p.Cylinder))
        {
            if (plug.Signs?.Contains(PlugSign.CoolantWet) == true)
            {
                signs.Add(new($"plug-{plug.Cylinder}@{Moment(plug.At)}", $"plug {plug.Cylinder} was wet with coolant", plug.Cylinder));
            }
            else if (plug.Signs?.Contains(PlugSign.WetUnknown) == true)
            {
                signs.Add(new($"plug-{plug.Cylinder}@{Moment(plug.At)}", $"plug {plug.Cylinder} was wet, liquid unknown", plug.Cylinder));
            }
        }
        return signs;
    }

    private static long Moment(DateTimeOffset? at) => at?.ToUnixTimeMilliseconds() ?? 0;
}
