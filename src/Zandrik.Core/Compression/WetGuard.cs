using System.Globalization;
using Zandrik.Core.Records;

namespace Zandrik.Core.Compression;

/// <summary>What was done with the oil of a wet test, in order.</summary>
/// <param name="Item"><see cref="WetGuard.Oiled"/>, <see cref="WetGuard.Spun"/>, <see cref="WetGuard.Wiped"/> or <see cref="WetGuard.Cleared"/>.</param>
/// <param name="Cylinder">The cylinder; absent for what is done to all at once.</param>
/// <param name="At">When.</param>
/// <param name="Ml">With <see cref="WetGuard.Oiled"/>: how much went in, ml; absent for the usual amount.</param>
public sealed record OilEvent(string Item, int? Cylinder, DateTimeOffset At, double? Ml = null);

/// <summary>
/// Liquid does not compress: a cylinder with more oil in it than room bends its rod. So on every engine the crank is
/// spun with the plug hole open before the gauge goes on, and a wet figure is refused until somebody says that it was.
/// What was poured in is always recorded; where all of it together is more than fits, the gauge stays off until the
/// cylinder was spun open and wiped out as well.
/// </summary>
public sealed class WetGuard
{
    /// <summary>Oil was put into a cylinder.</summary>
    public const string Oiled = "oiled";

    /// <summary>The engine was spun with the oiled holes open.</summary>
    public const string Spun = "spun";

    /// <summary>A cylinder with too much in it was spun with its hole open and wiped out.</summary>
    public const string Wiped = "wiped";

    /// <summary>The engine was run until the oil was burnt off.</summary>
    public const string Cleared = "cleared";

    private readonly Dictionary<int, DateTimeOffset> oiled = [];
    private readonly Dictionary<int, double> ml = [];
    private readonly HashSet<int> spun = [];
    private readonly OilAmount amount;

    private WetGuard(EngineSheet engine) => amount = OilAmount.For(engine);

    /// <summary>The most that may be in a cylinder under the gauge, ml.</summary>
    public double LimitMl => amount.LimitMl;

    /// <summary>Cylinders that hold test oil: oiled, and not run and cleared since.</summary>
    public IReadOnlyList<int> HoldOil => [.. oiled.Keys.Order()];

    /// <summary>Cylinders that were oiled and not spun with the hole open since.</summary>
    public IReadOnlyList<int> NotSpun => [.. oiled.Keys.Where(c => !spun.Contains(c)).Order()];

    /// <summary>Cylinders with more oil in them than fits safely, not wiped out since.</summary>
    public IReadOnlyList<int> OverLimit => [.. ml.Where(m => m.Value > LimitMl + 1e-9).Select(m => m.Key).Order()];

    /// <summary>True where oil was ever poured on this job.</summary>
    public bool EverOiled { get; private set; }

    /// <summary>When a cylinder was oiled last; absent for one that holds no oil.</summary>
    /// <returns>The time; null for a cylinder without oil, and for one the engine does not have.</returns>
    public DateTimeOffset? OiledAt(int cylinder) => oiled.TryGetValue(cylinder, out var at) ? at : null;

    /// <summary>All the oil in a cylinder, ml: what was poured since it was last run and cleared; 0 for none.</summary>
    /// <returns>ml, 0 or more.</returns>
    public double Ml(int cylinder) => ml.GetValueOrDefault(cylinder);

    /// <summary>True when the hole was spun open after the oil went in.</summary>
    /// <returns>False for a cylinder without oil.</returns>
    public bool WasSpun(int cylinder) => spun.Contains(cylinder);

    /// <summary>How the cylinders of a job stand, from what was done and from wet readings that came from elsewhere.</summary>
    /// <param name="record">The job: wet readings of an imported record mean that oil went in.</param>
    /// <param name="events">What was done, oldest first.</param>
    /// <returns>How much oil is where, and what may be done.</returns>
    public static WetGuard Of(TestRecord record, IReadOnlyList<OilEvent> events)
    {
        var guard = new WetGuard(record.Engine);
        // Readings that came with a record: nobody said here that oil went in, so the reading itself says it.
        var first = events.Count > 0 ? events[0].At : (DateTimeOffset?)null;
        foreach (var test in (record.Tests ?? []).OfType<WetCompressionTest>())
        {
            foreach (var reading in (test.Readings ?? []).Where(r => r.Value is not null && r.SupersededBy is null))
            {
                var at = reading.At ?? test.At ?? DateTimeOffset.UnixEpoch;
                if (first is null || at < first)
                {
                    // An own amount is all there is in it; the test's is what each was given.
                    guard.Pour(reading.Cylinder, at, reading.OilMl ?? test.OilMl, all: reading.OilMl is not null);
                    guard.spun.Add(reading.Cylinder);
                }
            }
        }
        foreach (var e in events)
        {
            switch (e)
            {
                case { Item: Oiled, Cylinder: { } c }:
                    guard.Pour(c, e.At, e.Ml, all: false);
                    guard.spun.Remove(c);
                    break;
                case { Item: Spun }:
                    guard.spun.UnionWith(guard.oiled.Keys);
                    break;
                case { Item: Wiped, Cylinder: { } c }:
                    guard.spun.Add(c);
                    // What is left in it fits; how much that is nobody knows, so it counts as full.
                    guard.ml[c] = Math.Min(guard.Ml(c), guard.LimitMl);
                    break;
                case { Item: Cleared }:
                    guard.oiled.Clear();
                    guard.ml.Clear();
                    guard.spun.Clear();
                    break;
            }
        }
        return guard;
    }

    private void Pour(int cylinder, DateTimeOffset at, double? poured, bool all)
    {
        EverOiled = true;
        oiled[cylinder] = at;
        ml[cylinder] = (all ? 0 : Ml(cylinder)) + (poured ?? amount.Ml);
    }

    /// <summary>Why a wet figure of a cylinder is refused as things stand; absent when it may be kept.</summary>
    /// <returns>One sentence with what to do first; null when it may be kept.</returns>
    public string? RefusesReading(int cylinder) =>
        OiledAt(cylinder) is null ? $"No oil is noted in cylinder {cylinder}: put it in and say so first."
        : OverLimit.Contains(cylinder) ? $"{Figure(Ml(cylinder))} ml in cylinder {cylinder} is more than the {OilAmount.Shown(LimitMl)} ml that fits safely. Spin it with the hole open, wipe it out, then tick that."
        : !WasSpun(cylinder) ? "Spin it with the hole open first, rag over it, face away: liquid does not compress and bends rods."
        : null;

    /// <summary>Why so much is not poured into a cylinder, beside what is in it; absent where it fits.</summary>
    /// <param name="cylinder">The cylinder.</param>
    /// <param name="poured">What is to be poured, ml, above 0.</param>
    /// <returns>One sentence with what fits; null where it fits.</returns>
    public string? TooMuch(int cylinder, double poured) => Ml(cylinder) + poured <= LimitMl + 1e-9 ? null
        : $"{Figure(Ml(cylinder) + poured)} ml in cylinder {cylinder} is more than the {OilAmount.Shown(LimitMl)} ml that fits safely. Do not pour it in.";

    /// <summary>Why something done with oil is refused as things stand; absent when it may be kept. What was poured is never refused.</summary>
    /// <returns>One sentence with what to do first; null when it may be done.</returns>
    public string? Refuses(OilEvent e, int cylinders) => e switch
    {
        { Item: Oiled or Wiped } when e.Cylinder is not { } c || c < 1 || c > cylinders => $"This engine has cylinders 1 to {cylinders}.",
        { Item: Oiled, Ml: not (> 0 and <= 1000) } => "Say how much oil went in: up to 1000 ml.",
        { Item: Spun } when HoldOil.Count == 0 => "No oil is noted in any cylinder yet.",
        { Item: Wiped } when OiledAt(e.Cylinder!.Value) is null => $"No oil is noted in cylinder {e.Cylinder}.",
        { Item: not (Oiled or Spun or Wiped or Cleared) } => "There is no such line.",
        _ => null,
    };

    /// <summary>What is so with the oil, in the words of <see cref="Rule"/>.</summary>
    public IReadOnlyList<string> Facts =>
    [
        .. HoldOil.Select(c => Fact("oil", c)), .. HoldOil.Where(WasSpun).Select(c => Fact("spun", c)), .. OverLimit.Select(c => Fact("over", c)),
    ];

    /// <summary>A fact about the oil of a cylinder.</summary>
    /// <param name="what">oil: some is in. spun: spun open since. over: more than fits.</param>
    /// <param name="cylinder">The cylinder.</param>
    /// <returns>One word.</returns>
    public static string Fact(string what, int cylinder) => FormattableString.Invariant($"{what}-{cylinder}");

    /// <summary>The rule by which <see cref="Refuses"/> decides, for where nobody can be asked. Whether it is more than fits is asked for by its amount.</summary>
    /// <param name="item">What is done.</param>
    /// <param name="cylinder">The cylinder, for what is done to one.</param>
    /// <param name="cylinders">Cylinders of the engine.</param>
    /// <returns>What it needs and what it makes so.</returns>
    public static GuardRule Rule(string item, int cylinder, int cylinders)
    {
        var all = Enumerable.Range(1, cylinders);
        return item switch
        {
            Oiled => new([], [Fact("oil", cylinder), "-" + Fact("spun", cylinder)]),
            Spun => new([new(string.Join('|', all.Select(c => Fact("oil", c))), "No oil is noted in any cylinder yet.")], [.. all.Select(c => Fact("spun", c))]),
            Wiped => new([new(Fact("oil", cylinder), $"No oil is noted in cylinder {cylinder}.")], [Fact("spun", cylinder), "-" + Fact("over", cylinder)]),
            _ => new([], [.. all.SelectMany(c => new[] { "-" + Fact("oil", c), "-" + Fact("spun", c), "-" + Fact("over", c) })]),
        };
    }

    /// <summary>The rule by which <see cref="RefusesReading"/> decides about a cylinder's wet figure.</summary>
    /// <param name="cylinder">The cylinder.</param>
    /// <returns>What it needs; it makes nothing so.</returns>
    public static GuardRule ReadingRule(int cylinder) => new(
    [
        new(Fact("oil", cylinder), $"No oil is noted in cylinder {cylinder}: put it in and say so first."),
        new("!" + Fact("over", cylinder), $"There is more oil in cylinder {cylinder} than fits safely. Spin it with the hole open, wipe it out, then tick that."),
        new(Fact("spun", cylinder), "Spin it with the hole open first, rag over it, face away: liquid does not compress and bends rods."),
    ], []);

    private static string Figure(double ml) => ml.ToString("0.#", CultureInfo.CurrentCulture);
}
