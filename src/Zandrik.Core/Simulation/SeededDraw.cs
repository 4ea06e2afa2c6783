using Zandrik.Core.Physics;

namespace Zandrik.Core.Simulation;

/// <summary>Draws by lot that are the same for the same seed on every machine: only operations whose result no library decides.</summary>
/// <param name="seed">The seed.</param>
public sealed class SeededDraw(int seed)
{
    private readonly Random random = new(seed);

    /// <summary>Evenly between 0 and 1.</summary>
    /// <returns>0 or more, under 1.</returns>
    public double Even() => random.NextDouble();

    /// <summary>Evenly between two figures.</summary>
    /// <param name="from">The lower.</param>
    /// <param name="to">The upper.</param>
    /// <returns>A figure between them.</returns>
    public double Even(double from, double to) => from + (to - from) * random.NextDouble();

    /// <summary>Normally distributed about 0 with a spread of 1.</summary>
    /// <returns>A figure of any sign.</returns>
    public double Normal()
    {
        while (true)
        {
            var (x, y) = (Even(-1, 1), Even(-1, 1));
            var square = x * x + y * y;
            if (square is > 0 and < 1)
            {
                return x * Math.Sqrt(-2 * LaneMath.Log(square) / square);
            }
        }
    }

    /// <summary>A factor about 1, as likely so many times larger as smaller.</summary>
    /// <param name="spread">Standard deviation of its logarithm.</param>
    /// <returns>A factor above 0.</returns>
    public double Factor(double spread) => LaneMath.Exp(spread * Normal());

    /// <summary>One of some, each as likely.</summary>
    /// <typeparam name="T">What they are.</typeparam>
    /// <param name="of">The some; at least one.</param>
    /// <returns>One of them.</returns>
    public T Pick<T>(IReadOnlyList<T> of) => of[random.Next(of.Count)];
}
