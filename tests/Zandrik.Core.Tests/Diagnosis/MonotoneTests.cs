using System.Collections.Concurrent;
using System.Globalization;
using Zandrik.Core.Diagnosis;
using Zandrik.Core.Records;

namespace Zandrik.Core.Tests.Diagnosis;

/// <summary>Where the trade is monotone the judgement is: more of what points to a fault never makes that fault less likely by more than a twentieth.</summary>
public sealed class MonotoneTests
{
    private const double Slack = 0.05;

    private static readonly (string Place, Fault[] Faults)[] Places =
    [
        ("exhaust", [Fault.ExhaustValve]), ("intake", [Fault.IntakeValve]), ("crankcase", [Fault.Rings, Fault.Piston, Fault.FuelWashed]), ("coolant", [Fault.GasketCoolant]), ("plughole2", [Fault.GasketAdjacent]),
    ];

    // What each test begins with is the same: judged once.
    private static readonly ConcurrentDictionary<string, CylinderDiagnosis> Judged = new();

    private static double Of(string job, Fault[] faults) => faults.Sum(Judged.GetOrAdd(job, j => EngineDiagnosis.Of(Whiteboard.Job(j), ledger: false).Cylinders[2]).Of);

    private static string Job(bool diesel, double share, double loss, string place, int loud, string more = "")
    {
        var level = diesel ? 420 : 190;
        return string.Create(CultureInfo.InvariantCulture, $"{(diesel ? "diesel; wetallowed" : "petrol")} 4; dry {level} {(place == "plughole2" ? level * (share + 0.01) : level - 3):0} {level * share:0} {level + 2:0}; leak 1 10 nowhere; leak 3 {loss:0} {place} {loud}{more}").Replace("diesel; wetallowed 4", "diesel 4; wetallowed", StringComparison.Ordinal);
    }

    private sealed record Case(bool Diesel, double Share, double Loss, string Place, Fault[] Faults, int Loud)
    {
        public string Text => Job(Diesel, Share, Loss, Place, Loud);
    }

    // A cylinder that pumps little loses much, and one that pumps nearly as well as the others does not lose nearly all: where it is not so, the two contradict each other.
    private static IEnumerable<Case> Cases()
    {
        foreach (var diesel in new[] { false, true })
        {
            foreach (var share in new[] { 0.35, 0.45, 0.55, 0.65, 0.75, 0.82, 0.88 })
            {
                var (least, most) = (30 + 65 * (0.90 - share), share < 0.6 ? 88 : 88 - 60 * (share - 0.6));
                foreach (var of in new[] { 0.25, 0.5, 0.75, 1 })
                {
                    foreach (var (place, faults) in Places)
                    {
                        foreach (var loud in new[] { 2, 3 })
                        {
                            yield return new Case(diesel, share, least + of * (most - least), place, faults, loud);
                        }
                    }
                }
            }
        }
    }

    private static void NeverLess(Func<Case, (string Less, string More)?> make)
    {
        var wrong = new List<string>();
        foreach (var c in Cases())
        {
            if (make(c) is var (less, more) && (Of(less, c.Faults), Of(more, c.Faults)) is var (before, after) && after < before - Slack)
            {
                wrong.Add(string.Create(CultureInfo.InvariantCulture, $"{c.Faults[0]}: {before:0.000} for {less}, {after:0.000} for {more}"));
            }
        }
        wrong.ShouldBeEmpty();
    }

    [Fact]
    public void More_is_lost() => NeverLess(c => (c.Text, Job(c.Diesel, c.Share, c.Loss + 5, c.Place, c.Loud)));

    // A third that is lost is not heard strong.
    [Fact]
    public void It_is_louder() => NeverLess(c => c.Loud == 2 && c.Loss > 40 ? (c.Text, Job(c.Diesel, c.Share, c.Loss, c.Place, 3)) : null);

    // A leak to the coolant is small as a rule: a cylinder that has no compression is likelier to have something else.
    [Fact]
    public void It_reads_lower() => NeverLess(c => c.Place == "coolant" ? null : (c.Text, Job(c.Diesel, c.Share - 0.03, c.Loss, c.Place, c.Loud)));

    [Fact]
    public void Another_dry_reading_agrees() => NeverLess(c => (c.Text, c.Text + string.Create(CultureInfo.InvariantCulture, $"; repeat 3 {(c.Diesel ? 420 : 190) * c.Share:0}")));

    [Fact]
    public void Another_leak_down_agrees() => NeverLess(c => (c.Text, c.Text + string.Create(CultureInfo.InvariantCulture, $"; leak 3 {c.Loss:0} {c.Place} {c.Loud}")));

    // Near to what the sound ones give a slip that is gone explains it as well.
    [Fact]
    public void Oil_brings_back_more()
    {
        foreach (var share in new[] { 0.4, 0.5, 0.6, 0.7, 0.8, 0.88 })
        {
            var last = 0.0;
            for (var gain = 0.02; share * (1 + gain) < 0.75; gain += 0.03)
            {
                var job = string.Create(CultureInfo.InvariantCulture, $"petrol 4; dry 190 188 {190 * share:0} 191; wet 3 {190 * share * (1 + gain):0}");
                var rings = Of(job, [Fault.Rings, Fault.FuelWashed, Fault.Piston]);
                rings.ShouldBeGreaterThan(last - Slack, job);
                last = rings;
            }
        }
    }

    [Fact]
    public void It_is_heard_from_the_other_side_too()
    {
        foreach (var share in new[] { 0.5, 0.65, 0.8, 0.9, 0.97 })
        {
            foreach (var (loss, loud) in new[] { (17, 1), (25, 2), (40, 2), (60, 3), (75, 3) })
            {
                var job = string.Create(CultureInfo.InvariantCulture, $"petrol 4; dry 190 {190 * share:0} {190 * share:0} 191; leak 3 {loss} plughole2 {loud}");
                Of(job + $"; leak 2 {loss} plughole3 {loud}", [Fault.GasketAdjacent]).ShouldBeGreaterThan(Of(job, [Fault.GasketAdjacent]) - Slack, job);
            }
        }
    }

    // Each point that was looked at and found right takes a doubt away, and never brings one.
    [Theory]
    [InlineData("petrol 4; dry 190 188 189 191")]
    [InlineData("petrol 4; dry 190 188 131 191")]
    [InlineData("petrol 4; dry 150 148 149 151")]
    [InlineData("petrol 4; dry 190 188 150 191; leak 3 62 exhaust 3")]
    [InlineData("diesel 6; dry 420 418 419 330 421 417")]
    public void One_more_point_was_prepared(string readings)
    {
        string[] points = ["warm", "throttle", "plugs", "fuel", "ignition", "battery", "needle"];
        EngineDiagnosis Ticked(int some) => EngineDiagnosis.Of(Whiteboard.Job($"{readings}; only {string.Join(' ', points.Where((_, i) => (some >> i & 1) == 1))}"), ledger: false);
        static double Doubt(EngineDiagnosis d) => d.Suspects.Where(s => s.Fault == Fault.TestError).Sum(s => s.Probability) + d.Cylinders.Max(c => c.Of(Fault.TestError));
        var all = Enumerable.Range(0, 1 << points.Length).Select(Ticked).ToList();
        for (var some = 0; some < all.Count; some++)
        {
            foreach (var more in Enumerable.Range(0, points.Length).Select(i => some | 1 << i).Where(m => m != some))
            {
                Doubt(all[more]).ShouldBeLessThan(Doubt(all[some]) + Slack, $"{readings}, {some:b} to {more:b}");
            }
            all[some].Cylinders.Select(c => c.State).ShouldBe(all[^1].Cylinders.Select(c => c.State), $"{readings}, {some:b}");
        }
    }
}
