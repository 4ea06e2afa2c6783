using System.Runtime.InteropServices;
using System.Runtime.Intrinsics;
using Complex = System.Numerics.Complex;

namespace Zandrik.Core.RelativeCompression;

/// <summary>
/// Heights of the slots by least squares, none below zero, with those of sound cylinders held to be about alike where that is asked for. Solved a few hundred thousand times a capture, so the
/// arithmetic stands here: the library's matrices cost ten times as much.
/// </summary>
internal sealed class HeightLeastSquares
{
    // Of the mean diagonal: keeps what no harmonic tells from growing.
    private const double Ridge = 1e-6;

    private readonly int slots, orders, stride;
    private readonly double[] normal, held, lower, right, unit;
    private readonly bool[] free;
    private int taken, solved;

    /// <summary>Makes room.</summary>
    /// <param name="slots">Slots.</param>
    /// <param name="orders">Highest harmonic.</param>
    /// <param name="most">Most columns there may be behind the slots.</param>
    public HeightLeastSquares(int slots, int orders, int most = 0)
    {
        (this.slots, this.orders, stride) = (slots, orders, slots + most);
        (normal, held, lower) = (new double[stride * stride], new double[stride * stride], new double[stride * stride]);
        (right, unit, free) = (new double[stride], new double[stride], new bool[stride]);
        taken = solved = slots;
    }

    /// <summary>Takes harmonics.</summary>
    /// <param name="columns">What each slot adds for a height of one, weighted: slot by slot its harmonics from 0 on, and behind the slots what else may be added.</param>
    /// <param name="data">What is to be explained, harmonics from 0 on, weighted.</param>
    /// <param name="more">How many columns there are behind the slots: their amounts may be negative.</param>
    public void Take(ReadOnlySpan<Complex> columns, ReadOnlySpan<Complex> data, int more = 0)
    {
        taken = slots + more;
        var explained = MemoryMarshal.Cast<Complex, double>(data[1..]);
        for (var i = 0; i < taken; i++)
        {
            var column = Column(columns, i);
            for (var j = 0; j <= i; j++)
            {
                normal[i * stride + j] = normal[j * stride + i] = Dot(column, Column(columns, j));
            }
            right[i] = Dot(column, explained);
        }
    }

    // Without harmonic 0, which is friction.
    private ReadOnlySpan<double> Column(ReadOnlySpan<Complex> columns, int i) => MemoryMarshal.Cast<Complex, double>(columns.Slice(i * (orders + 1) + 1, orders));

    // Always four at a time and never fused, so that the sum is the same on every machine.
    private static double Dot(ReadOnlySpan<double> a, ReadOnlySpan<double> b)
    {
        var fourA = MemoryMarshal.Cast<double, Vector256<double>>(a);
        var fourB = MemoryMarshal.Cast<double, Vector256<double>>(b);
        var sums = Vector256<double>.Zero;
        for (var k = 0; k < fourA.Length; k++)
        {
            sums += fourA[k] * fourB[k];
        }
        var sum = Vector256.Sum(sums);
        for (var k = 4 * fourA.Length; k < a.Length; k++)
        {
            sum += a[k] * b[k];
        }
        return sum;
    }

    /// <summary>Solves as far as the harmonics tell.</summary>
    /// <param name="heights">Where to.</param>
    public void Solve(double[] heights)
    {
        solved = slots;
        Solve(normal, heights);
    }

    /// <summary>Solves with some slots held about alike.</summary>
    /// <param name="alike">Those slots.</param>
    /// <param name="pull">How strongly each is held to their mean.</param>
    /// <param name="pulls">How strongly each of what is added behind the slots is held to nothing.</param>
    /// <param name="heights">Where to: the slots, then what is added.</param>
    public void Solve(IReadOnlyList<int> alike, double pull, ReadOnlySpan<double> pulls, double[] heights)
    {
        solved = slots + pulls.Length;
        normal.CopyTo(held, 0);
        for (var j = 0; j < pulls.Length; j++)
        {
            held[(slots + j) * stride + slots + j] += pulls[j];
        }
        foreach (var i in alike)
        {
            foreach (var j in alike)
            {
                held[i * stride + j] += pull * ((i == j ? 1 : 0) - 1.0 / alike.Count);
            }
        }
        Solve(held, heights);
    }

    /// <summary>The power that heights leave unexplained.</summary>
    /// <param name="heights">The heights.</param>
    /// <param name="power">The power of all that was to be explained.</param>
    public double Left(double[] heights, double power)
    {
        for (var i = 0; i < solved; i++)
        {
            power -= 2 * heights[i] * right[i];
            for (var j = 0; j < solved; j++)
            {
                power += heights[i] * normal[i * stride + j] * heights[j];
            }
        }
        return Math.Max(0, power);
    }

    /// <summary>How loosely the last solution holds a slot: its variance for an error of one in every figure.</summary>
    /// <param name="slot">The slot, from 0.</param>
    /// <returns>The inverse's diagonal; 0 for a slot that was set to nothing.</returns>
    public double Looseness(int slot)
    {
        if (!free[slot])
        {
            return 0;
        }
        Array.Clear(unit);
        unit[slot] = 1;
        Substitute(unit, unit);
        return unit[slot];
    }

    // Slots that come out negative are set to nothing and the rest solved again.
    private void Solve(double[] matrix, double[] heights)
    {
        double ridge = 0;
        for (var i = 0; i < solved; i++)
        {
            ridge += i < slots ? Ridge * normal[i * stride + i] / slots : 0;
            free[i] = true;
        }
        var negative = true;
        while (negative)
        {
            Cholesky(matrix, ridge);
            Substitute(right, heights);
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

    private void Cholesky(double[] matrix, double ridge)
    {
        for (var i = 0; i < solved; i++)
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
                var sum = matrix[i * stride + j] + (i == j ? ridge : 0);
                for (var m = 0; m < j; m++)
                {
                    sum -= free[m] ? lower[i * stride + m] * lower[j * stride + m] : 0;
                }
                lower[i * stride + j] = i == j ? Math.Sqrt(Math.Max(sum, 1e-300)) : sum / lower[j * stride + j];
            }
        }
    }

    private void Substitute(double[] of, double[] into)
    {
        for (var i = 0; i < solved; i++)
        {
            if (!free[i])
            {
                into[i] = 0;
                continue;
            }
            var forward = of[i];
            for (var m = 0; m < i; m++)
            {
                forward -= free[m] ? lower[i * stride + m] * into[m] : 0;
            }
            into[i] = forward / lower[i * stride + i];
        }
        for (var i = solved - 1; i >= 0; i--)
        {
            if (!free[i])
            {
                continue;
            }
            var back = into[i];
            for (var m = i + 1; m < solved; m++)
            {
                back -= free[m] ? lower[m * stride + i] * into[m] : 0;
            }
            into[i] = back / lower[i * stride + i];
        }
    }
}
