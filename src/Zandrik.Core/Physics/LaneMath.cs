using System.Runtime.CompilerServices;
using System.Runtime.Intrinsics;

namespace Zandrik.Core.Physics;

/// <summary>
/// Exponentials, logarithms and angles of several engines at once. Made of sums, products, quotients and square roots
/// only, which every machine rounds alike: the library's own differ between processors in the last bits, and a simulated
/// engine has to give the same bytes everywhere. Errors are relative unless said.
/// </summary>
internal static class LaneMath
{
    // Adding and taking away 1.5 · 2^52 rounds to a whole number, which then stands in the low bits.
    private const double Rounder = 6755399441055744.0;

    /// <summary>A number in all lanes.</summary>
    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    public static Vector256<double> All(double x) => Vector256.Create(x);

    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    private static Vector256<double> Round(Vector256<double> x) => x + All(Rounder) - All(Rounder);

    /// <summary>e to the x, within 1e-11; x from −700 to 700, and held there beyond.</summary>
    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    public static Vector256<double> Exp(Vector256<double> x)
    {
        x = Vector256.Min(Vector256.Max(x, All(-700)), All(700));
        var shifted = x * All(1.4426950408889634) + All(Rounder);
        var n = shifted - All(Rounder);
        var r = x - n * All(0.693147180369123816490) - n * All(1.90821492927058770002e-10);
        var sum = All(1) + r * (All(1) + r * (All(1 / 2.0) + r * (All(1 / 6.0) + r * (All(1 / 24.0) + r * (All(1 / 120.0) + r * (All(1 / 720.0) + r * (All(1 / 5040.0) + r * (All(1 / 40320.0) + r * All(1 / 362880.0)))))))));
        return sum * (Vector256.ShiftLeft(shifted.AsInt64() + Vector256.Create(1023L), 52)).AsDouble();
    }

    /// <summary>The same of one number.</summary>
    public static double Exp(double x) => Exp(All(x))[0];

    /// <summary>Natural logarithm of one number.</summary>
    public static double Log(double x) => Log(All(x))[0];

    /// <summary>Natural logarithm, within 1e-11 absolute; x above 0 and no denormal number.</summary>
    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    public static Vector256<double> Log(Vector256<double> x)
    {
        // x = 2^n · m with m from √½ to √2.
        var n = Vector256.ShiftRightLogical(x.AsInt64() - Vector256.Create(0x3FE6A09E667F3BCDL - 0x4000000000000000L), 52) - Vector256.Create(1024L);
        var m = (x.AsInt64() - Vector256.ShiftLeft(n, 52)).AsDouble();
        var power = (n + Vector256.Create(0x4338000000000000L)).AsDouble() - All(Rounder);
        var z = (m - All(1)) / (m + All(1));
        var w = z * z;
        var series = All(2) + w * (All(2 / 3.0) + w * (All(2 / 5.0) + w * (All(2 / 7.0) + w * (All(2 / 9.0) + w * (All(2 / 11.0) + w * All(2 / 13.0))))));
        return power * All(0.693147180559945309417) + z * series;
    }

    /// <summary>x to the y for an x near 1, as a volume changes within a step: within 1e-12 for x from 0.9 to 1.1 and y to 0.45.</summary>
    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    public static Vector256<double> PowNearOne(Vector256<double> x, Vector256<double> y)
    {
        var z = (x - All(1)) / (x + All(1));
        var w = z * z;
        var e = y * z * (All(2) + w * (All(2 / 3.0) + w * (All(2 / 5.0) + w * All(2 / 7.0))));
        return All(1) + e * (All(1) + e * (All(1 / 2.0) + e * (All(1 / 6.0) + e * (All(1 / 24.0) + e * All(1 / 120.0)))));
    }

    /// <summary>Sine and cosine, within 1e-15 absolute for angles to some thousand turns, rad.</summary>
    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    public static (Vector256<double> Sin, Vector256<double> Cos) SinCos(Vector256<double> x)
    {
        var q = Round(x * All(0.63661977236758134308));
        var r = x - q * All(1.57079632673412561417) - q * All(6.07710050650619224932e-11);
        var z = r * r;
        var s = r + r * z * (All(-1.66666666666666324348e-01) + z * (All(8.33333333332248946124e-03) + z * (All(-1.98412698298579493134e-04)
            + z * (All(2.75573137070700676789e-06) + z * (All(-2.50507602534068634195e-08) + z * All(1.58969099521155010221e-10))))));
        var c = All(1) - z * All(0.5) + z * z * (All(4.16666666666666019037e-02) + z * (All(-1.38888888888741095749e-03) + z * (All(2.48015872894767294178e-05)
            + z * (All(-2.75573143513906633035e-07) + z * (All(2.08757232129817482790e-09) + z * All(-1.13596475577881948265e-11))))));
        // Which quarter, 0 to 3.
        var k = q - All(4) * Vector256.Floor(q * All(0.25));
        var odd = Vector256.Equals(k, All(1)) | Vector256.Equals(k, All(3));
        var sin = Vector256.ConditionalSelect(odd, c, s);
        var cos = Vector256.ConditionalSelect(odd, s, c);
        sin = Vector256.ConditionalSelect(Vector256.GreaterThanOrEqual(k, All(2)), -sin, sin);
        return (sin, Vector256.ConditionalSelect(Vector256.Equals(k, All(1)) | Vector256.Equals(k, All(2)), -cos, cos));
    }

    /// <summary>sin²(π·u) within 1e-12 absolute, for u from 0 to 1: how far a valve stands open; 0 outside.</summary>
    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    public static Vector256<double> SinSquaredOfHalfTurn(Vector256<double> u)
    {
        // The cosine about the middle.
        var x = (u - All(0.5)) * All(Math.PI);
        var z = x * x;
        var c = All(1) - z * (All(1 / 2.0) - z * (All(1 / 24.0) - z * (All(1 / 720.0) - z * (All(1 / 40320.0) - z * (All(1 / 3628800.0) - z * (All(1 / 479001600.0) - z * (All(1 / 87178291200.0) - z * All(1 / 20922789888000.0))))))));
        return Vector256.ConditionalSelect(Vector256.GreaterThan(u, All(0)) & Vector256.LessThan(u, All(1)), c * c, All(0));
    }

    /// <summary>Hyperbolic tangent, within 1e-11.</summary>
    public static Vector256<double> Tanh(Vector256<double> x)
    {
        var e = Exp(All(-2) * Vector256.Abs(x));
        var t = (All(1) - e) / (All(1) + e);
        return Vector256.ConditionalSelect(Vector256.LessThan(x, All(0)), -t, t);
    }
}
