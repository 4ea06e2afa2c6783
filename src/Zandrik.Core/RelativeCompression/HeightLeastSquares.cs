using Complex = System.Numerics.Complex;

namespace Zandrik.Core.RelativeCompression;

/// <summary>
/// Heights of the slots by least squares, none below zero, with those of sound cylinders held to be about alike where that is asked for. Solved a few hundred thousand times a capture, so the
/// arithmetic stands here: the library's matrices cost ten times as much.
/// </summary>
internal sealed class HeightLeastSquares(int slots, int orders)
{
    // Of the mean diagonal: keeps what no harmonic tells from growing.
    private const double Ridge = 1e-6;

    private readonly double[] normal = new double[slots * slots];
    private readonly double[] held = new double[slots * slots];
    private readonly double[] lower = new double[slots * slots];
    private readonly double[] right = new double[slots];
    private readonly bool[] free = new bool[slots];

    /// <summary>Takes harmonics.</summary>
    /// <param name="columns">What each slot adds for a height of one, order by order, slot by slot, weighted.</param>
    /// <param name="data">What is to be explained, weighted.</param>
    public void Take(ReadOnlySpan<Complex> columns, ReadOnlySpan<Complex> data)
    {
        for (var i = 0; i < slots; i++)
        {
            for (var j = 0; j <= i; j++)
            {
                double sum = 0;
                for (var k = 1; k <= orders; k++)
                {
                    var (a, b) = (columns[k * slots + i], columns[k * slots + j]);
                    sum += a.Real * b.Real + a.Imaginary * b.Imaginary;
                }
                normal[i * slots + j] = normal[j * slots + i] = sum;
            }
            double dot = 0;
            for (var k = 1; k <= orders; k++)
            {
                var a = columns[k * slots + i];
                dot += a.Real * data[k].Real + a.Imaginary * data[k].Imaginary;
            }
            right[i] = dot;
        }
    }

    /// <summary>Solves as far as the harmonics tell.</summary>
    /// <param name="heights">Where to.</param>
    public void Solve(double[] heights) => Solve(normal, heights);

    /// <summary>Solves with some slots held about alike.</summary>
    /// <param name="alike">Those slots.</param>
    /// <param name="pull">How strongly each is held to their mean.</param>
    /// <param name="heights">Where to.</param>
    public void Solve(IReadOnlyList<int> alike, double pull, double[] heights)
    {
        normal.CopyTo(held, 0);
        foreach (var i in alike)
        {
            foreach (var j in alike)
            {
                held[i * slots + j] += pull * ((i == j ? 1 : 0) - 1.0 / alike.Count);
            }
        }
        Solve(held, heights);
    }

    /// <summary>The power that heights leave unexplained.</summary>
    /// <param name="heights">The heights.</param>
    /// <param name="power">The power of all that was to be explained.</param>
    public double Left(double[] heights, double power)
    {
        for (var i = 0; i < slots; i++)
        {
            power -= 2 * heights[i] * right[i];
            for (var j = 0; j < slots; j++)
            {
                power += heights[i] * normal[i * slots + j] * heights[j];
            }
        }
        return Math.Max(0, power);
    }

    // Slots that come out negative are set to nothing and the rest solved again.
    private void Solve(double[] matrix, double[] heights)
    {
        double ridge = 0;
        for (var i = 0; i < slots; i++)
        {
            ridge += Ridge * normal[i * slots + i] / slots;
            free[i] = true;
        }
        var negative = true;
        while (negative)
        {
            Cholesky(matrix, ridge, heights);
            negative = false;
            for (var i = 0; i < slots; i++)
            {
                if (free[i] && !(heights[i] >= 0))
                {
                    negative = true;
                    free[i] = false;
                }
            }
        }
    }

    private void Cholesky(double[] matrix, double ridge, double[] heights)
    {
        Array.Clear(heights);
        for (var i = 0; i < slots; i++)
        {
            if (!free[i])
            {
                continue;
            }
            for (var j = 0; j <= i; j++)
            {
                if (!free[j])
                {
                    continue;
                }
                var sum = matrix[i * slots + j] + (i == j ? ridge : 0);
                for (var m = 0; m < j; m++)
                {
                    sum -= free[m] ? lower[i * slots + m] * lower[j * slots + m] : 0;
                }
                lower[i * slots + j] = i == j ? Math.Sqrt(Math.Max(sum, 1e-300)) : sum / lower[j * slots + j];
            }
            var forward = right[i];
            for (var m = 0; m < i; m++)
            {
                forward -= free[m] ? lower[i * slots + m] * heights[m] : 0;
            }
            heights[i] = forward / lower[i * slots + i];
        }
        for (var i = slots - 1; i >= 0; i--)
        {
            if (!free[i])
            {
                continue;
            }
            var back = heights[i];
            for (var m = i + 1; m < slots; m++)
            {
                back -= free[m] ? lower[m * slots + i] * heights[m] : 0;
            }
            heights[i] = back / lower[i * slots + i];
        }
    }
}
