using System.Globalization;
using Zandrik.Core.Records;

namespace Zandrik.Core.LeakDown;

/// <summary>One line that has to be ticked before air goes on, or before the crank is turned on.</summary>
/// <param name="Word">Its word, as it is stored.</param>
/// <param name="Says">What has to be so.</param>
/// <param name="Ways">The ways it can be so on this engine; empty where there is only one.</param>
/// <param name="EachTime">True for a line that is ticked anew at every cylinder, false for one that stays.</param>
public sealed record GuardLine(string Word, string Says, IReadOnlyList<GuardWay> Ways, bool EachTime);

/// <summary>One way of doing a line.</summary>
/// <param name="Word">Its word.</param>
/// <param name="Says">What is done.</param>
public sealed record GuardWay(string Word, string Says);

/// <summary>What somebody did at the crank, or said of it. The events of a job are kept in order and never changed.</summary>
/// <param name="Item">What: <see cref="CrankGuard.Turned"/>, <see cref="CrankGuard.Air"/>, or the word of a line.</param>
/// <param name="Way">The cylinder it was turned to, or the way a line was done; absent where there is only one.</param>
/// <param name="Done">False for air off, or for a tick taken away.</param>
public sealed record CrankEvent(string Item, string? Way, bool Done);

/// <summary>
/// Who may open the air, and who may turn the crank. At 100 psi a piston off centre turns the crank with more
/// force than anybody can hold, and a bar left on it is thrown: air on is refused until this gearbox is held and
/// the bar is off, turning on is refused until the air is off and vented, and a figure is refused without air. With the
/// air off, what held this cylinder counts no more: it is seen to anew before the air goes on again.
/// </summary>
public sealed class CrankGuard
{
    /// <summary>The event of the crank having been turned to a cylinder's firing top dead centre.</summary>
    public const string Turned = "turned";

    /// <summary>The event of the air going on or off.</summary>
    public const string Air = "air";

    private const string Held = "held", Free = "free";

    private readonly Dictionary<string, string?> ticked = [];

    private CrankGuard(EngineSheet engine)
    {
        Engine = engine;
        BeforeAir = LinesBeforeAir(engine);
        BeforeTurning = LinesBeforeTurning(engine);
    }

    private EngineSheet Engine { get; }

    /// <summary>The cylinder the crank was turned to; absent before the first.</summary>
    public int? Cylinder { get; private set; }

    /// <summary>True while the air is on.</summary>
    public bool AirIsOn { get; private set; }

    /// <summary>True once air was on at this cylinder: the hose may hold pressure until it is vented.</summary>
    public bool AirWasOn { get; private set; }

    /// <summary>What has to be so before air goes on, in order.</summary>
    public IReadOnlyList<GuardLine> BeforeAir { get; }

    /// <summary>What has to be so before the crank is turned on, in order.</summary>
    public IReadOnlyList<GuardLine> BeforeTurning { get; }

    /// <summary>Where the crank of a job stands, from everything that was done at it.</summary>
    /// <param name="engine">The engine; its gearbox decides how the crank is held.</param>
    /// <param name="events">What was done, oldest first.</param>
    /// <returns>Where it stands and what may be done; nowhere known where nothing was done yet.</returns>
    public static CrankGuard Of(EngineSheet engine, IEnumerable<CrankEvent> events)
    {
        var guard = new CrankGuard(engine);
        foreach (var e in events)
        {
            guard.Take(e);
        }
        return guard;
    }

    /// <summary>Whether a line is ticked.</summary>
    /// <returns>False for a line that was ticked and taken back.</returns>
    public bool IsTicked(string word) => ticked.ContainsKey(word);

    /// <summary>The way a ticked line was done; absent where there is only one, or it is not ticked.</summary>
    /// <returns>The word; null where there is only one way, or the line is not ticked.</returns>
    public string? WayOf(string word) => ticked.GetValueOrDefault(word);

    /// <summary>Lines that still keep the air off.</summary>
    public IReadOnlyList<GuardLine> MissingBeforeAir => [.. BeforeAir.Where(l => !IsTicked(l.Word))];

    /// <summary>Lines that still keep the crank where it is; none while no air was on here.</summary>
    public IReadOnlyList<GuardLine> MissingBeforeTurning => AirWasOn ? [.. BeforeTurning.Where(l => !IsTicked(l.Word))] : [];

    /// <summary>True when air may go on.</summary>
    public bool MayOpenAir => Cylinder is not null && !AirIsOn && MissingBeforeAir.Count == 0;

    /// <summary>True when the crank may be turned.</summary>
    public bool MayTurn => !AirIsOn && MissingBeforeTurning.Count == 0;

    /// <summary>Why an event is refused as things stand, with what to do; absent when it may happen.</summary>
    /// <returns>One sentence with what to do first; null when it may happen.</returns>
    public string? Refuses(CrankEvent e) => e switch
    {
        { Item: Turned } when !int.TryParse(e.Way, out var c) || c < 1 || c > Engine.Cylinders => "Say which cylinder the crank was turned to.",
        { Item: Turned } when AirIsOn => "The air is on: shut it off and vent it before anything turns.",
        { Item: Turned } when !MayTurn => $"Not yet to be turned: {Join(MissingBeforeTurning)}.",
        { Item: Air, Done: true } when Cylinder is null => "Set which cylinder is at TDC on compression.",
        { Item: Air, Done: true } when !MayOpenAir && !AirIsOn => $"No air yet: {Join(MissingBeforeAir)}.",
        { Item: not Turned and not Air } when Line(e.Item) is null => "There is no such line for this engine.",
        { Item: not Turned and not Air, Done: true } when Line(e.Item)!.Ways.Count > 0 && Line(e.Item)!.Ways.All(w => w.Word != e.Way) => "Say which way it was done.",
        { Item: not Turned and not Air, Done: true } when AirIsOn && BeforeTurning.Any(l => l.Word == e.Item) => "The air is still on: shut it off first.",
        { Item: not Turned and not Air, Done: false } when AirIsOn && BeforeAir.Any(l => l.Word == e.Item) => "The air is on: shut it off and vent it first.",
        _ => null,
    };

    /// <summary>Why a figure of a cylinder is refused as things stand; absent when it may be kept.</summary>
    /// <returns>One sentence with what to do first; null when it may be kept.</returns>
    public string? RefusesReading(int cylinder) => (Cylinder, AirIsOn) switch
    {
        (null, _) => "Set which cylinder is at TDC on compression.",
        ({ } at, _) when at != cylinder => $"The crank is at cylinder {at}: turn it to {cylinder} first, or read {at}.",
        (_, false) => MissingBeforeAir.Count > 0 ? $"No air yet: {Join(MissingBeforeAir)}." : "The air is off: open it, then read both gauges.",
        _ => null,
    };

    /// <summary>What is so at the crank, in the words of <see cref="Rule"/>.</summary>
    public IReadOnlyList<string> Facts =>
    [
        .. Cylinder is { } c ? new[] { AtSome, AtCylinder(c) } : [],
        .. AirIsOn ? [AirOn] : Array.Empty<string>(),
        .. AirWasOn ? [WasAir] : Array.Empty<string>(),
        .. ticked.Keys.Select(Fact),
    ];

    /// <summary>The rule by which <see cref="Refuses"/> decides about an event, for where nobody can be asked.</summary>
    /// <param name="e">An event of this engine, with one of its lines, cylinders and ways.</param>
    /// <returns>What it needs and what it makes so.</returns>
    public GuardRule Rule(CrankEvent e) => e switch
    {
        { Item: Turned } => new(
            [new($"!{AirOn}", "The air is on: shut it off and vent it before anything turns."), .. BeforeTurning.Select(l => new GuardNeed($"{Fact(l.Word)}|!{WasAir}", $"Not yet to be turned: {Join([l])}."))],
            [.. Enumerable.Range(1, Engine.Cylinders).Select(c => "-" + AtCylinder(c)), AtSome, AtCylinder(int.Parse(e.Way!, CultureInfo.InvariantCulture)), "-" + AirOn, "-" + WasAir,
                .. BeforeAir.Concat(BeforeTurning).Where(l => l.EachTime).Select(l => "-" + Fact(l.Word))]),
        { Item: Air, Done: true } => new(
            [new(AtSome, "Set which cylinder is at TDC on compression."), .. BeforeAir.Select(l => new GuardNeed($"{Fact(l.Word)}|{AirOn}", $"No air yet: {Join([l])}."))],
            [AirOn, WasAir, .. BeforeTurning.Select(l => "-" + Fact(l.Word))]),
        { Item: Air } => new([], ["-" + AirOn, .. BeforeAir.Where(l => l.EachTime).Select(l => "-" + Fact(l.Word))]),
        { Done: true } => new(
            BeforeTurning.Any(l => l.Word == e.Item) ? [new($"!{AirOn}", "The air is still on: shut it off first.")] : [],
            [Fact(e.Item), .. e.Item == Free ? ["-" + Fact(Held)] : e.Item == Held ? ["-" + Fact(Free)] : Array.Empty<string>()]),
        _ => new(BeforeAir.Any(l => l.Word == e.Item) ? [new($"!{AirOn}", "The air is on: shut it off and vent it first.")] : [], ["-" + Fact(e.Item)]),
    };

    /// <summary>The rule by which <see cref="RefusesReading"/> decides about a cylinder's figure.</summary>
    /// <param name="cylinder">The cylinder.</param>
    /// <returns>What it needs; it makes nothing so.</returns>
    public static GuardRule ReadingRule(int cylinder) => new(
        [new(AtCylinder(cylinder), $"The crank is not at cylinder {cylinder}: turn it there first."), new(AirOn, "The air is off: open it, then read both gauges.")], []);

    /// <summary>The fact that a line is ticked.</summary>
    /// <param name="word">The line's word.</param>
    /// <returns>One word.</returns>
    public static string Fact(string word) => "crank." + word;

    /// <summary>The fact that the air is on.</summary>
    public const string AirOn = "air";

    /// <summary>The fact that air was on at the cylinder the crank is at.</summary>
    public const string WasAir = "was-air";

    /// <summary>The fact that it is known where the crank is.</summary>
    public const string AtSome = "crank-at";

    /// <summary>The fact that a cylinder was read: a figure of it is kept.</summary>
    /// <param name="cylinder">The cylinder.</param>
    /// <returns>One word.</returns>
    public static string ReadFact(int cylinder) => FormattableString.Invariant($"leak-read-{cylinder}");

    /// <summary>The fact that the crank is at a cylinder.</summary>
    /// <param name="cylinder">The cylinder.</param>
    /// <returns>One word.</returns>
    public static string AtCylinder(int cylinder) => FormattableString.Invariant($"crank-at-{cylinder}");

    private GuardLine? Line(string word) => BeforeAir.FirstOrDefault(l => l.Word == word) ?? BeforeTurning.FirstOrDefault(l => l.Word == word);

    private void Take(CrankEvent e)
    {
        switch (e.Item)
        {
            case Turned when int.TryParse(e.Way, out var c) && c >= 1 && c <= Engine.Cylinders:
                Cylinder = c;
                AirIsOn = AirWasOn = false;
                foreach (var line in BeforeAir.Concat(BeforeTurning).Where(l => l.EachTime))
                {
                    ticked.Remove(line.Word);
                }
                break;
            case Air:
                AirIsOn = e.Done;
                AirWasOn |= e.Done;
                // On: whatever was vented before is under pressure again. Off: what held this cylinder may be let go.
                foreach (var line in e.Done ? BeforeTurning : BeforeAir.Where(l => l.EachTime))
                {
                    ticked.Remove(line.Word);
                }
                break;
            default:
                if (e.Done)
                {
                    ticked[e.Item] = e.Way;
                    // Held and free exclude each other.
                    if (e.Item is Free or Held)
                    {
                        ticked.Remove(e.Item == Free ? Held : Free);
                    }
                }
                else
                {
                    ticked.Remove(e.Item);
                }
                break;
        }
    }

    private static string Join(IReadOnlyList<GuardLine> lines) => string.Join("; ", lines.Select(l => char.ToLowerInvariant(l.Says[0]) + l.Says[1..]));

    private static readonly GuardWay InGear = new("gear", "highest gear, brake on"), Lock = new("lock", "the maker's flywheel or crank lock"),
        SecondPerson = new("second-person", "bar on the crank bolt, held by a second person: braced, clear of its swing, low supply only");

    private static List<GuardLine> LinesBeforeAir(EngineSheet engine)
    {
        var lines = new List<GuardLine>
        {
            new("key", "Key out, starter disabled", [], EachTime: false),
            new("stroke", "Compression stroke found, exactly at top dead centre", [], EachTime: true),
        };
        switch (engine.Gearbox)
        {
            case Gearbox.Manual:
                lines.Add(new("chocks", "Wheels chocked", [], EachTime: false));
                lines.Add(new(Held, "Crank held: highest gear, brake on", [], EachTime: true));
                break;
            case Gearbox.Automatic or Gearbox.None:
                lines.Add(new(Held, "Crank held", [Lock, SecondPerson], EachTime: true));
                lines.Add(new("low", "Regulator at zero: low supply first", [], EachTime: true));
                break;
            default:
                lines.Add(new("chocks", "Wheels chocked", [], EachTime: false));
                lines.Add(new(Held, "Crank held", [InGear, Lock, SecondPerson], EachTime: true));
                break;
        }
        lines.Add(new("bar", engine.Gearbox == Gearbox.Manual ? "Bar off the crank, nobody holding it, hands clear" : "No loose bar on the crank, hands clear", [], EachTime: true));
        return lines;
    }

    private static List<GuardLine> LinesBeforeTurning(EngineSheet engine) =>
    [
        new("vented", "Air vented: both gauges at zero", [], EachTime: true),
        engine.Gearbox switch
        {
            Gearbox.Manual => new(Free, "Out of gear", [], EachTime: true),
            Gearbox.Automatic or Gearbox.None => new(Free, "Crank lock or bar off", [], EachTime: true),
            _ => new(Free, "Out of gear, or the lock out", [], EachTime: true),
        },
    ];
}
