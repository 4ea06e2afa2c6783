using System.Runtime.Intrinsics;
using CsCheck;
using Zandrik.Core.Physics;

namespace Zandrik.Core.Tests.Physics;

public sealed class LaneMathTests
{
    private static Vector256<double> Lanes(double[] x) => Vector256.Create(x[0], x[1], x[2], x[3]);

    private static void Holds(Gen<double> of, Func<Vector256<double>, Vector256<double>> lanes, Func<double, double> exact, double relative, double absolute) =>
        of.Array[4].Sample(x =>
        {
            var found = lanes(Lanes(x));
            for (var k = 0; k < 4; k++)
            {
                found[k].ShouldBe(exact(x[k]), relative * Math.Abs(exact(x[k])) + absolute);
            }
        }, iter: 20_000);

    [Fact]
    public void Exponentials_are_within_what_they_say() => Holds(Gen.Double[-600, 600], LaneMath.Exp, Math.Exp, 1e-11, 0);

    [Fact]
    public void Logarithms_are_within_what_they_say()
    {
        Holds(Gen.Double[1e-9, 1e9], LaneMath.Log, Math.Log, 0, 1e-11);
        Holds(Gen.Double[-200, 200].Select(x => Math.Exp(x)), LaneMath.Log, Math.Log, 1e-15, 1e-11);
    }

    [Fact]
    public void Angles_are_within_what_they_say()
    {
        Holds(Gen.Double[-2000, 2000], x => LaneMath.SinCos(x).Sin, Math.Sin, 0, 1e-12);
        Holds(Gen.Double[-2000, 2000], x => LaneMath.SinCos(x).Cos, Math.Cos, 0, 1e-12);
        Holds(Gen.Double[0, 1], LaneMath.SinSquaredOfHalfTurn, u => Math.Pow(Math.Sin(Math.PI * u), 2), 0, 1e-11);
        Holds(Gen.Double[1.001, 5], LaneMath.SinSquaredOfHalfTurn, _ => 0, 0, 0);
    }

    [Fact]
    public void Powers_near_one_and_the_hyperbolic_tangent_are_within_what_they_say()
    {
        Holds(Gen.Double[0.9, 1.1], x => LaneMath.PowNearOne(x, LaneMath.All(0.4)), x => Math.Pow(x, 0.4), 1e-11, 0);
        Holds(Gen.Double[-40, 40], LaneMath.Tanh, Math.Tanh, 0, 1e-11);
    }

    // Made of operations that are rounded alike everywhere: these are the bits, whatever the machine.
    [Fact]
    public void The_bits_are_the_same_on_every_machine()
    {
        var x = Vector256.Create(0.1, 1.7, 12.3, -5.9);
        ulong hash = 14695981039346656037;
        foreach (var v in new[] { LaneMath.Exp(x), LaneMath.Log(Vector256.Abs(x)), LaneMath.SinCos(x).Sin, LaneMath.SinCos(x).Cos, LaneMath.Tanh(x), LaneMath.SinSquaredOfHalfTurn(x) })
        {
            for (var k = 0; k < 4; k++)
            {
                hash = unchecked((hash ^ (ulong)BitConverter.DoubleToInt64Bits(v[k])) * 1099511628211);
            }
        }
        hash.ShouldBe(11751604872969653424UL);
    }
}
