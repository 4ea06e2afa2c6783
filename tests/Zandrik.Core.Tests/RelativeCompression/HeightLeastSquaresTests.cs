using System.Numerics;
using CsCheck;
using Zandrik.Core.RelativeCompression;

namespace Zandrik.Core.Tests.RelativeCompression;

public sealed class HeightLeastSquaresTests
{
    private const int Slots = 5, Orders = 12;

    private static readonly Gen<Complex[]> Columns = Gen.Select(Gen.Double[-1, 1], Gen.Double[-1, 1], (re, im) => new Complex(re, im)).Array[(Orders + 1) * Slots];

    private static readonly Gen<double[]> Heights = Gen.Double[0, 2].Array[Slots];

    // What slots of these heights add up to.
    private static Complex[] Sum(Complex[] columns, double[] heights) => [.. Enumerable.Range(0, Orders + 1).Select(k => Enumerable.Range(0, Slots).Aggregate(Complex.Zero, (sum, i) => sum + heights[i] * columns[i * (Orders + 1) + k]))];

    private static double Power(Complex[] data) => data.Skip(1).Sum(d => d.Real * d.Real + d.Imaginary * d.Imaginary);

    private static HeightLeastSquares Taken(Complex[] columns, Complex[] data)
    {
        var squares = new HeightLeastSquares(Slots, Orders);
        squares.Take(columns, data);
        return squares;
    }

    [Fact]
    public void Heights_that_made_the_trace_are_found_and_leave_nothing() =>
        Gen.Select(Columns, Heights).Sample((columns, heights) =>
        {
            var data = Sum(columns, heights);
            var squares = Taken(columns, data);
            var found = new double[Slots];
            squares.Solve(found);
            for (var i = 0; i < Slots; i++)
            {
                found[i].ShouldBe(heights[i], 1e-3);
            }
            squares.Left(found, Power(data)).ShouldBe(0, 1e-4 * (1 + Power(data)));
        }, iter: 200);

    [Fact]
    public void None_is_below_zero_and_what_is_left_is_what_the_sum_misses() =>
        Gen.Select(Columns, Gen.Double[-2, 2].Array[Slots]).Sample((columns, heights) =>
        {
            var data = Sum(columns, heights);
            var squares = Taken(columns, data);
            var found = new double[Slots];
            squares.Solve(found);
            found.ShouldAllBe(h => h >= 0);
            var missed = Power([.. data.Zip(Sum(columns, found), (d, s) => d - s)]);
            squares.Left(found, Power(data)).ShouldBe(missed, 1e-6 * (1 + missed));
            // With the same slots at nothing, no other heights do better.
            squares.Left(found, Power(data)).ShouldBeLessThanOrEqualTo(squares.Left([.. heights.Select((h, i) => found[i] > 0 ? h : 0)], Power(data)) + 1e-4 * (1 + Power(data)));
        }, iter: 200);

    [Fact]
    public void The_stronger_they_are_held_the_more_alike_they_are_and_the_more_is_left() =>
        Gen.Select(Columns, Heights).Sample((columns, heights) =>
        {
            int[] alike = [0, 2, 3];
            var data = Sum(columns, heights);
            var squares = Taken(columns, data);
            double Spread(double[] of) => alike.Max(i => of[i]) - alike.Min(i => of[i]);
            var (spread, left) = (double.PositiveInfinity, -1e-4);
            foreach (var pull in new[] { 0, 0.1, 10, 1e5 })
            {
                var found = new double[Slots];
                squares.Solve(alike, pull, [], found);
                Spread(found).ShouldBeLessThanOrEqualTo(spread + 1e-3);
                squares.Left(found, Power(data)).ShouldBeGreaterThanOrEqualTo(left - 1e-4);
                (spread, left) = (Spread(found), squares.Left(found, Power(data)));
            }
            spread.ShouldBe(0, 1e-2, "held as one");
        }, iter: 200);

    // Behind the slots a column whose amount may be negative: held loosely it is found, held firmly it is nothing.
    [Fact]
    public void What_stands_behind_the_slots_is_found_as_far_as_it_is_let_and_loosens_what_is_like_it() =>
        Gen.Select(Columns, Heights, Gen.Double[-1, 1]).Sample((columns, heights, amount) =>
        {
            Complex More(int k) => columns[k] * new Complex(0.6, 0.8);
            Complex[] wide = [.. columns, .. Enumerable.Range(0, Orders + 1).Select(More)];
            var data = Sum(columns, heights).Select((d, k) => d + amount * More(k)).ToArray();
            var squares = new HeightLeastSquares(Slots, Orders, 1);
            squares.Take(wide, data, 1);
            var found = new double[Slots + 1];
            squares.Solve([], 0, [1e-9], found);
            found[Slots].ShouldBe(amount, 1e-2);
            found[1].ShouldBe(heights[1], 1e-2);
            squares.Left(found, Power(data)).ShouldBe(0, 1e-3 * (1 + Power(data)));
            var loose = squares.Looseness(1);
            // Only one that is set to nothing is not loose at all; a free one may come out as nothing by itself.
            found[1].ShouldBe(loose > 0 ? found[1] : 0);
            bool[] Pinned() => [.. Enumerable.Range(0, Slots).Select(i => squares.Looseness(i) == 0)];
            var pinned = Pinned();
            squares.Solve([], 0, [1e12], found);
            found[Slots].ShouldBe(0, 1e-6);
            if (pinned.SequenceEqual(Pinned()))
            {
                squares.Looseness(1).ShouldBeLessThanOrEqualTo(loose * (1 + 1e-9));
            }
        }, iter: 200);
}
