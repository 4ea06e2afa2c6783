using Zandrik.Core.Records;

namespace Zandrik.Core.LeakDown;

/// <summary>
/// How much loss is too much, percent at about 100 psi: good up to, watch up to, else bad; both inclusive. The
/// maker's figure comes first: good up to it, watch up to twice it. Without one a method decides: strict 10 and
/// 20, workshop 20 and 40 (a used sound engine can show 25), the tester's own zones 40 and 70. Rules of the trade.
/// </summary>
/// <param name="Good">Good up to, percent.</param>
/// <param name="Watch">Watch up to, percent.</param>
/// <param name="IsMakers">True where it is the maker's figure.</param>
/// <param name="Method">The method that is in use; it decides where there is no maker's figure.</param>
public sealed record LeakDownLimits(double Good, double Watch, bool IsMakers, LeakDownMethod Method)
{
    /// <summary>Points above the median of the engine that are a finding whatever the zone.</summary>
    public const double PointsAboveMedian = 15;

    /// <summary>The limits of a method.</summary>
    /// <returns>Percent of the supply: good up to, watched up to.</returns>
    public static (double Good, double Watch) Of(LeakDownMethod method) => method switch
    {
        LeakDownMethod.Strict => (10, 20),
        LeakDownMethod.Zone => (40, 70),
        _ => (20, 40),
    };

    /// <summary>The limits for an engine, by the maker's figure or the method a shop uses; the workshop method unless said.</summary>
    /// <returns>The limits, percent of the supply.</returns>
    public static LeakDownLimits For(EngineSheet engine, JudgeBy? judgeBy)
    {
        var method = judgeBy?.LeakDownMethod ?? LeakDownMethod.Workshop;
        var (good, watch) = Of(method);
        return engine.Spec?.MaxLeakPercent is { } maker and > 0
            ? new LeakDownLimits(maker, Math.Min(2 * maker, 100), IsMakers: true, method)
            : new LeakDownLimits(good, watch, IsMakers: false, method);
    }

    /// <summary>What a loss is by these limits.</summary>
    /// <returns>Good up to the first limit and on it, watched up to the second and on it, else leaking.</returns>
    public LeakState Of(double percent) => LossIs(percent, Good, Watch);

    /// <summary>What a loss is by a method's limits.</summary>
    /// <returns>As by the limits of that method.</returns>
    public static LeakState By(LeakDownMethod method, double percent) => LossIs(percent, Of(method).Good, Of(method).Watch);

    private static LeakState LossIs(double percent, double good, double watch) =>
        percent <= good + 1e-9 ? LeakState.Good : percent <= watch + 1e-9 ? LeakState.Watch : LeakState.Bad;
}

/// <summary>What a leak-down reading says of a cylinder; worst last but for untested and not used.</summary>
public enum LeakState
{
    /// <summary>No reading.</summary>
    Untested,

    /// <summary>A reading that is kept out of the judgement: false, or in question.</summary>
    NotUsed,

    /// <summary>Within the good limit, and not apart from the others.</summary>
    Good,

    /// <summary>Beyond the good limit, or well above the others, or air in the coolant.</summary>
    Watch,

    /// <summary>Beyond the watch limit.</summary>
    Bad,
}
