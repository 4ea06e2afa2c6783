using System.Numerics.Tensors;

namespace Zandrik.Core.Diagnosis;

/// <summary>One finding of the table over all nodes: what each predicts, and how far a reading may be from it. (1 − f)·N(reading − prediction; s) + f/range.</summary>
internal sealed class FindingCurve
{
    private static readonly double RootTwoPi = Math.Sqrt(2 * Math.PI);

    private const double FarOff = -200;

    private readonly double[] predicted;
    private readonly double[] sharpness;
    private readonly double[] height;
    private readonly double[] floor;

    /// <summary>A curve.</summary>
    /// <param name="predicted">What each node predicts.</param>
    /// <param name="spread">Standard deviation about it, by node; becomes the curve's own.</param>
    /// <param name="lowest">The floor f, by node; becomes the curve's own.</param>
    /// <param name="range">What the floor is spread over.</param>
    public FindingCurve(double[] predicted, double[] spread, double[] lowest, double range)
    {
        (this.predicted, height, floor) = (predicted, new double[predicted.Length], lowest);
        // (1 − f)/(s·√2π), f/range, −1/(2s²).
        TensorPrimitives.Subtract(1, lowest, height);
        TensorPrimitives.Divide(height, spread, height);
        TensorPrimitives.Multiply(height, 1 / RootTwoPi, height);
        TensorPrimitives.Multiply(lowest, 1 / range, floor);
        TensorPrimitives.Multiply(spread, spread, spread);
        TensorPrimitives.Divide(-0.5, spread, spread);
        sharpness = spread;
    }

    /// <summary>The likelihood at each node of just the reading it predicts: the most it can give.</summary>
    public double[] Most => field ??= [.. height.Zip(floor, (h, f) => h + f)];

    /// <summary>What a node predicts.</summary>
    public double Predicted(int node) => predicted[node];

    /// <summary>The spread at a node.</summary>
    public double Spread(int node) => Math.Sqrt(-1 / (2 * sharpness[node]));

    /// <summary>Likelihood of a reading at one node.</summary>
    public double At(int node, double reading)
    {
        var off = reading - predicted[node];
        return height[node] * Math.Exp(sharpness[node] * off * off) + floor[node];
    }

    /// <summary>Multiplies the likelihood of a reading at each node into what is there.</summary>
    public void Multiply(double reading, Span<double> into)
    {
        Span<double> like = stackalloc double[predicted.Length];
        TensorPrimitives.Subtract(predicted, reading, like);
        TensorPrimitives.Multiply(like, like, like);
        TensorPrimitives.Multiply(like, sharpness, like);
        ExpOfFar(like);
        TensorPrimitives.MultiplyAdd(like, height, floor, like);
        TensorPrimitives.Multiply(into, like, into);
    }

    /// <summary>The exponential of each. So far off only the floor is left, and beyond what a number holds it would be slow.</summary>
    public static void ExpOfFar(Span<double> values)
    {
        TensorPrimitives.Max(values, FarOff, values);
        TensorPrimitives.Exp<double>(values, values);
    }
}
