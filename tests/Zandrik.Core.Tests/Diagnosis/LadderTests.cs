using System.Globalization;
using Zandrik.Core.Diagnosis;
using Zandrik.Core.Records;

namespace Zandrik.Core.Tests.Diagnosis;

/// <summary>
/// One fault getting worse, step by step, as a technician reads it: dry pressure, loss, and one loud place with all others silent. What is loud names the fault from the first step on and
/// never less surely for being worse.
/// </summary>
public sealed class LadderTests
{
    private const double MostFall = 0.05, Named = 0.8, NamedAtSmallLoss = 0.65, SmallLoss = 50;

    private static readonly (int Dry, int Loss)[] Steps = [(118, 42), (96, 55), (78, 68), (58, 81), (44, 90), (31, 96)];

    [Theory]
    [InlineData("intake", "petrol 4; nominal 165; dry 165 163 {0} 166")]
    [InlineData("exhaust", "petrol 4; nominal 165; dry 165 163 {0} 166")]
    [InlineData("crankcase", "petrol 4; nominal 165; dry 165 163 {0} 166")]
    [InlineData("coolant", "petrol 4; nominal 165; dry 165 163 {0} 166")]
    [InlineData("intake", "petrol 4; nofigures; dry 165 163 {0} 166")]
    [InlineData("exhaust", "petrol 6 v 1-3-5/2-4-6; nominal 165; dry 165 163 {0} 166 164 165")]
    [InlineData("crankcase", "petrol 8 v 1-3-5-7/2-4-6-8; nominal 165; dry 165 163 {0} 166 164 165 166 163")]
    [InlineData("intake", "petrol 4 flat 1-3/2-4; nominal 165; dry 165 163 {0} 166")]
    [InlineData("exhaust", "diesel 4; nominal 420; dry 420 415 {1} 422")]
    [InlineData("intake", "diesel 6; nominal 420; dry 420 415 {1} 422 418 421")]
    [InlineData("crankcase", "diesel 4; nominal 420; dry 420 415 {1} 422")]
    public void A_loud_place_names_the_fault_and_never_less_surely_for_being_worse(string place, string dry)
    {
        var before = 0.0;
        var said = new List<string>();
        foreach (var (psi, loss) in Steps)
        {
            var text = string.Format(CultureInfo.InvariantCulture, dry, psi, (int)(psi / 165.0 * 420)) + $"; leak 3 {loss} {place} 3";
            var cylinder = EngineDiagnosis.Of(Whiteboard.Job(text)).Cylinders[2];
            var p = place switch
            {
                "intake" => cylinder.Of(Fault.IntakeValve),
                "exhaust" => cylinder.Of(Fault.ExhaustValve),
                "coolant" => cylinder.Of(Fault.GasketCoolant),
                // At the oil filler rings, a piston and washed walls sound alike.
                _ => cylinder.Of(Fault.Rings) + cylinder.Of(Fault.Piston) + cylinder.Of(Fault.FuelWashed),
            };
            said.Add(string.Create(CultureInfo.InvariantCulture, $"{psi} psi {loss} %: {p:0.00}   {string.Join(" ", cylinder.Suspects.Take(4).Select(s => $"{RecordWords.Of(s.Fault)} {s.Probability:0.00}"))}"));
            var all = string.Join("\n", said);
            p.ShouldBeGreaterThanOrEqualTo(loss < SmallLoss ? NamedAtSmallLoss : Named, all);
            p.ShouldBeGreaterThanOrEqualTo(before - MostFall, all);
            before = p;
        }
    }
}
