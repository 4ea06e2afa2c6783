using Zandrik.Core.Engines;
using Zandrik.Core.Records;

namespace Zandrik.Core.Repairs;

/// <summary>
/// What everything costs on an engine: minutes of each level of access and each repair, parts, machining, days. By rule from layout, fuel and size, where the sheet or the shop has no figure of its
/// own. All money is turned into minutes of work, so that the same sum holds with a rate and without one: parts by rule are so many hours' worth. Rules of thumb; docs/deciding.md has the table.
/// </summary>
public sealed class RepairBook
{
    /// <summary>What a day without the vehicle counts for where nobody said, minutes of work.</summary>
    public const double UsualDayMinutes = 60;

    /// <summary>What a comeback costs beside the repair itself: received again, tested again from the start, minutes; and days of the owner's.</summary>
    public const double ComebackMinutes = 180, ComebackDays = 2;

    /// <summary>What it costs to find something else than was opened for: the owner asked again, minutes; and days until parts and the machine shop are there, with the engine open.</summary>
    public const double FoundOnTheWayMinutes = 45, FoundOnTheWayDays = 2;

    /// <summary>What it costs to have planned for work that turns out not to be needed: parts sent back, an hour at the machine shop called off; minutes, and a share of the parts.</summary>
    public const double PlannedForNothingMinutes = 15, SentBackShare = 0.2;

    private const int Small = 300, Large = 6000;

    private readonly Dictionary<string, RepairFigure> own = [];
    private readonly double ratePerMinute;
    private readonly double size;
    private readonly EngineSheet engine;
    private readonly bool vee;

    private RepairBook(EngineSheet engine, double plugAccess, IReadOnlyList<RepairFigure> figures, double? labourRate, double? dayRate)
    {
        this.engine = engine;
        Cylinders = engine.Cylinders;
        Banks = CylinderLayout.Of(engine).Banks.Select(b => b.Count).Take(RepairNeeds.MostBanks).ToList();
        vee = Banks.Count > 1 && engine.Layout != CylinderArrangement.Flat;
        size = engine.Cylinders == 1 || engine.DisplacementCc < Small ? 0.5 : engine.DisplacementCc > Large ? 1.3 : 1;
        PlugAccess = plugAccess;
        Rate = labourRate > 0 ? labourRate : null;
        ratePerMinute = (Rate ?? 0) / 60;
        foreach (var figure in figures)
        {
            // The sheet's figure comes after the shop's and says more.
            own[figure.What] = own.TryGetValue(figure.What, out var known)
                ? new(figure.What, figure.Minutes ?? known.Minutes, figure.Parts ?? known.Parts, figure.Machining ?? known.Machining, figure.Days ?? known.Days) : figure;
        }
        DayMinutes = dayRate is { } day && Rate is not null ? day / ratePerMinute : UsualDayMinutes;
    }

    /// <summary>The book of an engine.</summary>
    /// <param name="engine">The engine.</param>
    /// <param name="plugAccess">Minutes until the plugs can be reached, from the sheet; absent for the engine's own, or none.</param>
    /// <param name="figures">The shop's own figures, those of the sheet last; absent for none.</param>
    /// <param name="labourRate">The price of an hour; absent, or not above 0, for none.</param>
    /// <param name="dayRate">What a day without the vehicle costs its owner, in the same currency; absent where nobody said.</param>
    /// <returns>The book; the same for the same five.</returns>
    public static RepairBook For(EngineSheet engine, double? plugAccess = null, IReadOnlyList<RepairFigure>? figures = null, double? labourRate = null, double? dayRate = null) =>
        new(engine, engine.AccessMinutes ?? plugAccess ?? 0, figures ?? [], labourRate, dayRate);

    /// <summary>Cylinders of the engine.</summary>
    public int Cylinders { get; }

    /// <summary>Cylinders of each bank, front bank first.</summary>
    public IReadOnlyList<int> Banks { get; }

    /// <summary>Minutes until the plugs can be reached, there and back once.</summary>
    public double PlugAccess { get; }

    /// <summary>The shop's rate for an hour; absent where it has none: then everything is in minutes.</summary>
    public double? Rate { get; }

    /// <summary>What a day without the vehicle counts for, minutes of work.</summary>
    public double DayMinutes { get; }

    /// <summary>Minutes of work in money, in the shop's currency; absent without a rate.</summary>
    /// <returns>The money.</returns>
    public double? Money(double minutes) => Rate is null ? null : minutes * ratePerMinute;

    /// <summary>True where the shop or the sheet has a figure of its own for a repair or a level of access.</summary>
    /// <returns>True for any figure of it.</returns>
    public bool IsOwn(string what) => own.ContainsKey(what);

    /// <summary>Minutes for levels of access, there and back, gaskets and fluids that go with them counted.</summary>
    /// <returns>Minutes; none for no level.</returns>
    public Estimate Minutes(Access access)
    {
        var all = Estimate.None;
        if (access.HasFlag(Access.Plugs))
        {
            all += Own("access-plugs", PlugAccess + 2 * Cylinders);
        }
        if (access.HasFlag(Access.Intake))
        {
            all += Own("access-intake", size * Diesel(1.2) * (vee ? 90 : 60));
        }
        if (access.HasFlag(Access.FrontCover))
        {
            all += Own("access-front-cover", size * Diesel(1.2) * (vee ? 240 : 180));
        }
        if (access.HasFlag(Access.Sump))
        {
            all += Own("access-sump", size * (vee ? 120 : 90));
        }
        if (access.HasFlag(Access.EngineOut))
        {
            all += Own("access-engine-out", size * Diesel(1.3) * (vee ? 600 : 480));
        }
        for (var b = 0; b < Banks.Count; b++)
        {
            if (access.HasFlag(AccessLevels.Cover(b)))
            {
                all += Own("access-cover", size * Diesel(1.3) * (vee ? 45 : 30));
            }
            if (access.HasHead(b))
            {
                all += Own("access-head", size * Diesel(1.3) * (90 + 20 * Banks[b]));
            }
        }
        return all;
    }

    /// <summary>What a piece of work takes, its access not counted.</summary>
    /// <returns>Minutes, parts, machining and days.</returns>
    public RepairCost Cost(RepairWork work)
    {
        var n = Cylinders;
        var here = work.IsOfBank ? Banks[Math.Min(work.Bank, Banks.Count - 1)] : n;
        // Parts and machining by rule: hours of work that cost as much.
        var (minutes, parts, machining, days) = work.Repair switch
        {
            Repair.Leave => (0.0, 0.0, 0.0, 0.0),
            Repair.RunAndRetest => (45, 0.5, 0, 0),
            Repair.AdjustValves => (15 + 8 * n, 0.3, 0, 0),
            Repair.FreeRings => (70, 0.4, 0, 2),
            Repair.SealCooling => (90, 2, 0, 0),
            Repair.ClearExhaust => (90, 4, 0, 1),
            Repair.CleanDeposits => (30 + 15 * n, 0.5, 0, 1),
            Repair.SetTiming => (60, 3, 0, 1),
            Repair.Gasket => (70, 2, 1.2, 1),
            Repair.TopEnd => (60 + 25 * here, 2.5 + 0.4 * here, 3, 2),
            Repair.BottomEnd => (60 + 50 * here, 3 + here, 1.5, 3),
            Repair.Overhaul => (900 + 120 * n, 8 + 3 * n, 10, 10),
            _ => (240.0, 35 + 4 * n, 0.0, 5.0),
        };
        var scale = size * (engine.Fuel == Fuel.Diesel ? 1.3 : 1);
        var what = RecordWords.Of(work.Repair);
        var figure = own.GetValueOrDefault(what);
        return new(
            figure?.Minutes ?? Estimate.About(minutes * size), InMinutes(figure?.Parts) ?? Estimate.About(60 * parts * scale), InMinutes(figure?.Machining) ?? Estimate.About(60 * machining * scale), figure?.Days ?? Estimate.About(days));
    }

    /// <summary>What levels of access and works together take.</summary>
    /// <param name="works">The works.</param>
    /// <param name="open">What is off already and is not paid for again.</param>
    /// <returns>Minutes (access among them), parts, machining and days.</returns>
    public RepairCost Cost(IEnumerable<RepairWork> works, Access open = Access.None)
    {
        var cost = default(RepairCost);
        var access = Access.None;
        foreach (var work in works)
        {
            access |= AccessLevels.Of(work, Banks.Count);
            cost += Cost(work);
        }
        return cost with { Minutes = cost.Minutes + Minutes(access & ~open) };
    }

    /// <summary>A cost as one figure.</summary>
    /// <returns>Minutes of work that cost as much, days of the owner among them.</returns>
    public Estimate Whole(RepairCost cost) => cost.Minutes + cost.Parts + cost.Machining + cost.Days * DayMinutes;

    private double Diesel(double times) => engine.Fuel == Fuel.Diesel ? times : 1;

    private Estimate Own(string what, double minutes) => own.GetValueOrDefault(what)?.Minutes ?? Estimate.About(minutes);

    // Money without a rate says nothing in minutes: then the rule stands.
    private Estimate? InMinutes(Estimate? money) => money is { } m && Rate is not null ? m * (1 / ratePerMinute) : null;
}
