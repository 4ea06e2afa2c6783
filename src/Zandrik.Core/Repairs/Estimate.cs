namespace Zandrik.Core.Repairs;

/// <summary>A figure that nobody knows exactly before the work is done: low, likely and high. What it is of says the unit.</summary>
/// <param name="Low">Hardly ever less; 0 or more; no unit of its own.</param>
/// <param name="Likely">Most often; no unit of its own.</param>
/// <param name="High">Hardly ever more; no unit of its own.</param>
public readonly record struct Estimate(double Low, double Likely, double High)
{
    /// <summary>Nothing.</summary>
    public static Estimate None { get; }

    // Where only the likely figure is known: a good day, and a day on which bolts break.
    private const double Good = 0.75, Bad = 1.6;

    /// <summary>What it comes to on average: (low + 4 × likely + high) / 6, in its own unit (PERT, the usual three-point estimate of planning).</summary>
    public double Mean => (Low + 4 * Likely + High) / 6;

    /// <summary>A figure of which only the likely value is known.</summary>
    /// <returns>It, with three quarters of it as low and eight fifths of it as high: a rule of thumb.</returns>
    public static Estimate About(double likely) => new(Good * likely, likely, Bad * likely);

    /// <summary>Both together; lows meet lows, so the ends are cautious.</summary>
    public static Estimate operator +(Estimate a, Estimate b) => new(a.Low + b.Low, a.Likely + b.Likely, a.High + b.High);

    /// <summary>So many times it.</summary>
    public static Estimate operator *(Estimate a, double times) => new(a.Low * times, a.Likely * times, a.High * times);
}
