using Complex = System.Numerics.Complex;

namespace Zandrik.Core.RelativeCompression;

/// <summary>
/// What each slot's pressure would have to be at a point of the search: the load torque T = I + tau·dI/dt is the sum of all cylinders' templates, each at its own angle and of its own height, and the
/// heights are solved for by least squares. Sections 4.5 and 4.6 of docs/relative-compression.md.
/// </summary>
internal sealed class SlotHeights
{
    // Electrical lag L/R of the starter's circuit, s.
    private const double LagS = 0.0038;

    // Share of the ripple's power that the model may miss without saying anything against it.
    private const double ModelMisses = 0.001;

    // How far sound cylinders of one engine differ, as a share: worn alike, and looking it for the torque of valves and pumps.
    private const double SoundSpread = 0.08;

    // How far what a weak cylinder loses on its way down may be off its template, as a share of what it lost; and even where next to nothing was lost.
    private static double DownSpread(PressureLoss loss) => loss switch { PressureLoss.Short => 0.3, PressureLoss.Leak => 0.15, _ => 0.05 };
    private const double LeastShape = 0.01;

    // Weak slots whose shape is left open; more of them overlap so far that no trace tells.
    private const int MostShaped = 3;

    private readonly Lazy<CompressionTemplate>[] templates;
    private readonly double[] at;
    private readonly double hz;
    private readonly int n;
    private readonly int orders;
    private readonly HeightLeastSquares squares;
    private readonly Complex[] shape;
    private readonly Complex[] columns;
    private readonly double[] weights;
    private readonly Complex[] data;
    private readonly Complex[] turns;
    private readonly List<int> sound;
    private readonly double[] pulls;
    private readonly double[] solved;
    private int more;
    private bool shapes;
    private readonly double[] looseness;

    // What a sound cylinder adds, for each state of wear: most slots of most points are sound.
    private readonly Complex[]?[] soundColumns;

    /// <summary>Prepares.</summary>
    /// <param name="templates">Templates of this engine, for each state of wear; made when they are wanted.</param>
    /// <param name="orders">Their highest harmonic.</param>
    /// <param name="at">Where the slots stand, cycles from the first.</param>
    /// <param name="hz">Cycles a second.</param>
    /// <param name="noise">Share of the mean cycle's power that is chance.</param>
    public SlotHeights(Lazy<CompressionTemplate>[] templates, int orders, double[] at, double hz, double noise)
    {
        (this.templates, this.at, this.hz) = (templates, at, hz);
        (n, this.orders) = (at.Length, orders);
        // Chance is spread over real and imaginary parts of all orders.
        Tolerance = ModelMisses + noise / (2 * orders);
        squares = new HeightLeastSquares(n, orders, MostShaped);
        (pulls, solved) = (new double[MostShaped], new double[n + MostShaped]);
        shape = new Complex[orders + 1];
        columns = new Complex[(orders + 1) * (n + MostShaped)];
        weights = new double[orders + 1];
        data = new Complex[orders + 1];
        sound = new List<int>(n);
        looseness = new double[n];
        soundColumns = new Complex[]?[templates.Length];
        turns = new Complex[(orders + 1) * n];
        for (var k = 0; k <= orders; k++)
        {
            for (var i = 0; i < n; i++)
            {
                turns[i * (orders + 1) + k] = Complex.FromPolarCoordinates(1, -2 * Math.PI * k * at[i]);
            }
        }
    }

    /// <summary>Number of slots.</summary>
    public int Slots => n;

    /// <summary>Number of states of wear there are templates for.</summary>
    public int Wears => templates.Length;

    /// <summary>How far each weak slot's height may be off for what the shape of its loss leaves open, at the point solved last, shares of a sound one; 0 for sound slots.</summary>
    public ReadOnlySpan<double> Looseness => looseness;

    /// <summary>Share of the power that may stay unexplained at a cost of one.</summary>
    public double Tolerance { get; }

    /// <summary>
    /// Slots' heights at a point, the share of the weighted power that is not explained, and the strain: how far heights are from what is believed of them before, as a square of so many standard
    /// deviations. Sound cylinders are about alike; the template of a weak slot depends on its height, so both are brought together round by round, from a high and from a low start, as they may settle in two places.
    /// </summary>
    /// <param name="current">Harmonics of the current and its derivatives, and of how they change with unevenness.</param>
    /// <param name="point">The point.</param>
    /// <param name="rounds">How often templates and heights are brought together.</param>
    /// <param name="near">Heights to start from.</param>
    public (double[] Heights, double Residual, double Strain) Solve(Complex[][] current, FitPoint point, int rounds = 5, double[]? near = null)
    {
        // A rough look does without.
        shapes = rounds > 2 || near is not null;
        var power = Load(current, point);
        if (near is not null || Array.TrueForAll(point.Losses, l => l == PressureLoss.None))
        {
            return Settle(point, power, near ?? Enumerable.Repeat(1.0, n).ToArray(), near is null ? 1 : rounds);
        }
        var high = Settle(point, power, Start(point, 0.75), rounds);
        var low = Settle(point, power, Start(point, 0.3), rounds);
        double Cost((double[], double Residual, double Strain) of) => of.Residual / Tolerance + of.Strain;
        return double.IsNaN(Cost(low)) || Cost(high) < Cost(low) ? high : low;
    }

    private static double[] Start(FitPoint point, double weak) => [.. point.Losses.Select(l => l == PressureLoss.None ? 1 : weak)];

    private (double[] Heights, double Residual, double Strain) Settle(FitPoint point, double power, double[] start, int rounds)
    {
        var heights = (double[])start.Clone();
        var (residual, strain) = (1.0, 0.0);
        for (var round = 0; round < rounds; round++)
        {
            var before = (double[])heights.Clone();
            var reference = Reference(before);
            Columns(before, point);
            (residual, strain) = Least(power, heights, point);
            if (point.Gasket is { } leak)
            {
                // The column stands for two sound cylinders with a hole between them: as high as the others.
                var (_, first, second) = templates[point.Wear].Value.Gasket(at[leak.Second] - at[leak.First], leak.Size);
                var height = heights[leak.First];
                (heights[leak.First], heights[leak.Second]) = (height * first, height * second);
                var off = Math.Log(Math.Clamp(height / Reference(heights), 0.1, 10));
                strain += 16 * off * off;
            }
            for (var i = 0; i < n; i++)
            {
                if (point.Losses[i] != PressureLoss.None)
                {
                    var (was, now) = (Math.Clamp(before[i] / reference, 0.02, 1), Math.Clamp(heights[i] / Reference(heights), 0.02, 1));
                    var off = Math.Log(now / was);
                    strain += 4 * off * off;
                }
            }
        }
        return (heights, residual, strain);
    }

    // The load torque's harmonics at a point, weighted; answers their power.
    private double Load(Complex[][] current, FitPoint point)
    {
        double power = 0;
        var u = point.Uneven;
        for (var k = 1; k <= orders; k++)
        {
            var w = 2 * Math.PI * k * hz;
            var lag = new Complex(1 - w * w * point.TauS * LagS, w * point.TauS);
            var roll = 1 / (1 + Math.Pow(k / (1.7 * n + 2), 4));
            weights[k] = Math.Sqrt(roll) / lag.Magnitude;
            var (amps, first, second) = (current[0][k] + u * current[3][k], current[1][k] + u * current[4][k], current[2][k] + u * current[5][k]);
            if (point.Series > 0)
            {
                amps += point.Series * current[6][k];
                first += point.Series * current[7][k];
                second += point.Series * current[8][k];
            }
            data[k] = weights[k] * (amps + point.TauS * (first + LagS * second)) * Complex.FromPolarCoordinates(1, 2 * Math.PI * k * point.Phase);
            power += data[k].Real * data[k].Real + data[k].Imaginary * data[k].Imaginary;
        }
        return power;
    }

    private void Columns(double[] heights, FitPoint point)
    {
        more = 0;
        var (losses, highest) = (point.Losses, Reference(heights));
        var template = templates[point.Wear].Value;
        var alike = soundColumns[point.Wear] ??= SoundColumns(template);
        for (var i = 0; i < n; i++)
        {
            var column = columns.AsSpan(i * (orders + 1), orders + 1);
            if (point.IsSound(i))
            {
                for (var k = 1; k <= orders; k++)
                {
                    column[k] = weights[k] * alike[i * (orders + 1) + k];
                }
                continue;
            }
            if (point.Gasket is { } leak && leak.Has(i))
            {
                // Both are one column, at the place of the first.
                if (i == leak.First)
                {
                    template.Gasket(at[leak.Second] - at[leak.First], leak.Size).Harmonics.CopyTo(shape, 0);
                }
                else
                {
                    Array.Clear(shape);
                }
            }
            else
            {
                template.Of(losses[i], highest > 0 ? Math.Clamp(heights[i] / highest, 0.02, 1) : 1, shape);
            }
            for (var k = 1; k <= orders; k++)
            {
                column[k] = weights[k] * (shape[k] * turns[i * (orders + 1) + k]);
            }
            if (losses[i] != PressureLoss.None && shapes && more < pulls.Length)
            {
                var lost = 1 - (highest > 0 ? Math.Clamp(heights[i] / highest, 0.02, 1) : 1);
                var off = template.LostOnTheWayDown;
                var behind = columns.AsSpan((n + more) * (orders + 1), orders + 1);
                for (var k = 1; k <= orders; k++)
                {
                    behind[k] = weights[k] * (off[k] * turns[i * (orders + 1) + k]);
                }
                // The spread; how strongly that holds is known with the height of the sound ones.
                pulls[more++] = DownSpread(losses[i]) * lost + LeastShape;
            }
        }
    }

    private Complex[] SoundColumns(CompressionTemplate template)
    {
        template.Of(PressureLoss.None, 1, shape);
        return [.. turns.Select((turn, j) => shape[j % (orders + 1)] * turn)];
    }

    private (double Residual, double Strain) Least(double power, double[] heights, FitPoint point)
    {
        Array.Clear(looseness);
        squares.Take(columns, data, more);
        squares.Solve(solved);
        solved.AsSpan(0, n).CopyTo(heights);
        double strain = 0;
        if (!point.Free && Mean(point, heights) is var mean && (sound.Count > 1 || more > 0) && mean > 0)
        {
            var unit = SoundSpread * mean;
            for (var j = 0; j < more; j++)
            {
                pulls[j] = Tolerance * power / (pulls[j] * pulls[j] * mean * mean);
            }
            squares.Solve(sound, Tolerance * power / (unit * unit), pulls.AsSpan(0, more), solved);
            solved.AsSpan(0, n).CopyTo(heights);
            mean = Mean(point, heights);
            foreach (var i in sound)
            {
                var off = (heights[i] - mean) / unit;
                strain += off * off;
            }
            for (var j = 0; j < more; j++)
            {
                strain += solved[n + j] * solved[n + j] * pulls[j] / (Tolerance * power);
            }
            for (var i = 0; i < n; i++)
            {
                looseness[i] = point.IsSound(i) ? 0 : Math.Sqrt(squares.Looseness(i) * Tolerance * power) / mean;
            }
        }
        return (power > 0 ? squares.Left(solved, power) / power : 1, strain);
    }

    // Of the slots taken for sound, which are noted.
    private double Mean(FitPoint point, double[] heights)
    {
        sound.Clear();
        double sum = 0;
        for (var i = 0; i < n; i++)
        {
            if (point.IsSound(i))
            {
                sound.Add(i);
                sum += heights[i];
            }
        }
        return sum / Math.Max(1, sound.Count);
    }

    /// <summary>The mean of the better half: one height that is too high does not make all others weak.</summary>
    public static double Reference(double[] heights)
    {
        Span<double> sorted = stackalloc double[heights.Length];
        heights.CopyTo(sorted);
        sorted.Sort();
        double sum = 0;
        var half = (sorted.Length + 1) / 2;
        for (var i = 0; i < half; i++)
        {
            sum += sorted[^(i + 1)] / half;
        }
        return sum;
    }
}
