using Zandrik.Core.Compression;
using Zandrik.Core.LeakDown;
using Zandrik.Core.Records;
using Zandrik.Core.Shops;

namespace Zandrik.Core.Safety;

/// <summary>Something done at a job's steps, as the guards are asked about it.</summary>
/// <param name="List">Which list: one of the words of <see cref="JobSafety"/>.</param>
/// <param name="Item">What.</param>
/// <param name="Way">Which way, or which cylinder; absent where there is only one.</param>
/// <param name="Done">False for something taken back or switched off.</param>
/// <param name="At">When.</param>
/// <param name="Amount">How much: ml of oil; absent where nothing is measured.</param>
public sealed record SafetyEvent(string List, string Item, string? Way, bool Done, DateTimeOffset At, double? Amount = null);

/// <summary>
/// What can hurt somebody on this job as it stands, and so what is locked and what is not offered. It is asked in the
/// transaction that writes, by every page, by the plan and by whatever says what to do next: one answer for all.
/// </summary>
public sealed class JobSafety
{
    /// <summary>The list of the preparation.</summary>
    public const string PrepareList = "prepare";

    /// <summary>The list of the reassembly.</summary>
    public const string RefitList = "refit";

    /// <summary>The list of what is opened for a leak-down.</summary>
    public const string LeakList = "leak";

    /// <summary>The list of what is done at the crank.</summary>
    public const string CrankList = "crank";

    /// <summary>The list of what is done with oil.</summary>
    public const string OilList = "oil";

    /// <summary>The list of what is done about liquid in a cylinder.</summary>
    public const string LiquidList = "liquid";

    /// <summary>The list of what is made safe for running compression.</summary>
    public const string RunningList = "running";

    /// <summary>The list of what is done before a capture of starter current.</summary>
    public const string RelativeList = "relative";

    /// <summary>Why a job that is closed takes nothing.</summary>
    public const string Closed = "This job is closed: open it again before anything on it is changed.";

    private readonly string? wetForbidden;

    private JobSafety(TestRecord record, IReadOnlyList<SafetyEvent>? done, bool closed, ShopSettings shop)
    {
        var events = done ?? [];
        IsClosed = closed;
        IEnumerable<SafetyEvent> In(string list) => events.Where(e => e.List == list);
        Liquid = LiquidGuard.Of(record, In(LiquidList).Select(e => new LiquidEvent(e.Item, e.Way, e.Done)));
        Crank = CrankGuard.Of(record.Engine, In(CrankList).Select(e => new CrankEvent(e.Item, e.Way, e.Done)));
        Oil = WetGuard.Of(record, [.. In(OilList).Select(e => new OilEvent(e.Item, int.TryParse(e.Way, out var c) ? c : null, e.At, e.Amount))]);
        Facts = [.. Crank.Facts, .. Oil.Facts, .. Liquid.Facts, .. events.Where(e => e.List is PrepareList or RefitList or LeakList or RunningList or RelativeList)
            .GroupBy(e => (e.List, e.Item)).Where(g => g.Last().Done).Select(g => TickedFact(g.Key.List, g.Key.Item))];
        DoesNotStart = record.Observations?.Contains(Observation.NoStart) == true;
        // A record that comes alone says how it was tested, not how the engine stands now.
        PlugsAreOut = done is not null && AreOut(record, events);
        wetForbidden = WetRules.Forbids(record.Engine, shop);
        WetComesFirst = shop.Wet == WetMethod.WetFirst;
    }

    /// <summary>True in a shop that does the wet test before the leak-down; elsewhere oil waits until the leak-down was read.</summary>
    public bool WetComesFirst { get; }

    /// <summary>True once the job is closed: it takes no corrections.</summary>
    public bool IsClosed { get; }

    /// <summary>Whether liquid may stand in a cylinder.</summary>
    public LiquidGuard Liquid { get; }

    /// <summary>Where the crank stands, and the air.</summary>
    public CrankGuard Crank { get; }

    /// <summary>Which cylinders hold test oil.</summary>
    public WetGuard Oil { get; }

    /// <summary>What is so on this job, in the words of the guards' rules: what a tablet starts from while no server answers.</summary>
    public IReadOnlyList<string> Facts { get; }

    /// <summary>The fact that a line of a list is ticked.</summary>
    /// <param name="list">One of the lists of this class, without those of the crank, the oil and the liquid.</param>
    /// <param name="item">The line's word.</param>
    /// <returns>One word.</returns>
    public static string TickedFact(string list, string item) => $"{list}.{item}";

    /// <summary>The rule by which <see cref="ForbidsCranking"/> decides while the job is open, for where nobody can be asked.</summary>
    public static readonly GuardRule CrankingRule = new(
        [new("!" + CrankGuard.AirOn, "The air is on. Air off first."), new("!" + LiquidGuard.Locked, "Liquid may stand in a cylinder. It does not compress and bends rods: dry it first.")], []);

    /// <summary>True for an engine that was brought because it does not start.</summary>
    public bool DoesNotStart { get; }

    /// <summary>True while the plugs are known to be out: ticked so or read so, and not put back since.</summary>
    public bool PlugsAreOut { get; }

    /// <summary>The cylinder under air; absent while the air is off.</summary>
    public int? AirOnAt => Crank.AirIsOn ? Crank.Cylinder : null;

    /// <summary>How a job stands.</summary>
    /// <param name="record">Everything measured.</param>
    /// <param name="events">Everything done at its steps, oldest first; absent for a record that comes alone.</param>
    /// <param name="closed">True for a job that is closed.</param>
    /// <param name="shop">The shop's settings; absent for the defaults.</param>
    /// <returns>What is locked and what is not offered.</returns>
    public static JobSafety Of(TestRecord record, IReadOnlyList<SafetyEvent>? events = null, bool closed = false, ShopSettings? shop = null) =>
        new(record, events, closed, shop ?? new ShopSettings());

    /// <summary>Why nothing is written on this job; absent when it may be.</summary>
    public string? ForbidsWriting => IsClosed ? Closed : null;

    /// <summary>Why nothing but the air may be seen to; absent when the air is off.</summary>
    public string? ForbidsUnderAir => AirOnAt is { } at ? $"The air is on at cylinder {at}. Air off first." : null;

    /// <summary>Why it is not cranked with plugs in (crank sound, starter current); absent when it may be.</summary>
    public string? ForbidsCranking => ForbidsWriting ?? ForbidsUnderAir ?? Liquid.Forbids;

    /// <summary>Why it is not started (running, idling checks, the start after reassembly); absent when it may be.</summary>
    public string? ForbidsStart => ForbidsCranking;

    /// <summary>True where the coolant gas test is done without starting the engine.</summary>
    public bool GasWithoutStart => Liquid.IsLocked || DoesNotStart || PlugsAreOut;

    /// <summary>Whether a test or check may be offered: as a next step, in a plan, behind a button.</summary>
    /// <param name="kind">Which.</param>
    /// <remarks>What is only not offered (an engine that does not start) can still be opened by hand; what is locked cannot be entered.</remarks>
    /// <returns>False while air is on a cylinder, whatever it is.</returns>
    public bool Offers(StepKind kind) => AirOnAt is null && kind switch
    {
        StepKind.Running or StepKind.Vacuum or StepKind.BlowBy => !Liquid.IsLocked && !DoesNotStart && !PlugsAreOut,
        StepKind.Relative => !Liquid.IsLocked && !DoesNotStart && !PlugsAreOut,
        StepKind.CrankSound => !Liquid.IsLocked && !PlugsAreOut,
        StepKind.Wet => wetForbidden is null,
        _ => true,
    };

    /// <summary>True where only the plugs keep a test from being offered: put back in, it can be done.</summary>
    /// <returns>False where something else keeps it too.</returns>
    public bool WaitsForPlugs(StepKind kind) => kind is StepKind.Running && PlugsAreOut && AirOnAt is null && !Liquid.IsLocked && !DoesNotStart;

    // By what was ticked and read, whichever came last. A record that says nothing of its plugs is left alone.
    private static bool AreOut(TestRecord record, IReadOnlyList<SafetyEvent> events)
    {
        var (outAt, inAt) = ((At: (DateTimeOffset?)null, Place: -1), (At: (DateTimeOffset?)null, Place: -1));
        static bool IsLater((DateTimeOffset? At, int Place) a, (DateTimeOffset? At, int Place) b) =>
            a.Place >= 0 && (b.Place < 0 || (a.At is { } x && b.At is { } y ? x > y || (x == y && a.Place > b.Place) : a.Place > b.Place));
        void Out(DateTimeOffset? at, int place) => outAt = IsLater((at, place), outAt) ? (at, place) : outAt;
        void In(DateTimeOffset? at, int place) => inAt = IsLater((at, place), inAt) ? (at, place) : inAt;
        var place = 0;
        foreach (var test in record.Tests ?? [])
        {
            place++;
            switch (test)
            {
                case DryCompressionTest or WetCompressionTest when test.Conditions?.Plugs == PlugsRemoved.AllOut && Latest(test) is var (read, at) && read:
                    Out(at, place);
                    break;
                // The air went in through a plug hole.
                case LeakDownTest when Latest(test) is var (leaked, at) && leaked:
                    Out(at, place);
                    break;
                case RunningCompressionTest or RelativeCompressionTest when Latest(test) is var (ran, at) && ran:
                    In(at, place);
                    break;
            }
        }
        var plugs = RecordWords.Of(PreparationItem.Plugs);
        foreach (var e in events)
        {
            place++;
            if (e is { List: PrepareList or LeakList, Done: true } && e.Item == plugs && e.Way != "one-at-a-time")
            {
                Out(e.At, place);
            }
            else if (e is { List: LiquidList, Item: "plugs-out", Done: true })
            {
                Out(e.At, place);
            }
            else if ((e.List == RefitList && e.Item == plugs && e.Done) || (e is { List: PrepareList or LeakList, Done: false } && e.Item == plugs))
            {
                In(e.At, place);
            }
            else if (e is { List: OilList, Item: WetGuard.Cleared })
            {
                // It was run: the plugs were in.
                In(e.At, place);
            }
        }
        return IsLater(outAt, inAt);
    }

    private static (bool Read, DateTimeOffset? At) Latest(TestEntry test)
    {
        IEnumerable<CylinderReading> readings = test switch
        {
            DryCompressionTest t => t.Readings ?? [],
            WetCompressionTest t => t.Readings ?? [],
            LeakDownTest t => t.Readings ?? [],
            RunningCompressionTest t => t.Readings ?? [],
            RelativeCompressionTest t => t.Readings ?? [],
            _ => [],
        };
        var counting = readings.Where(r => r.SupersededBy is null).ToList();
        return (counting.Count > 0 || test is RelativeCompressionTest { Slots.Count: > 0 }, counting.Max(r => r.At) ?? test.At);
    }
}
