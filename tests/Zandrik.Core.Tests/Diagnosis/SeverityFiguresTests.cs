using Zandrik.Core.Diagnosis;
using Zandrik.Core.Records;

namespace Zandrik.Core.Tests.Diagnosis;

public sealed class SeverityFiguresTests
{
    [Fact]
    public void At_a_severity_stands_its_figure_and_between_two_what_lies_between()
    {
        foreach (var fault in SeverityFigures.All)
        {
            var of = SeverityFigures.Of(fault);
            for (var i = 0; i < of.Count; i++)
            {
                SeverityFigures.At(fault, i).ShouldBe(of[i], 1e-9 + 1e-9 * of[i], $"{fault}");
            }
            for (var i = 1; i < of.Count; i++)
            {
                SeverityFigures.At(fault, i - 0.5).ShouldBeInRange(Math.Min(of[i - 1], of[i]), Math.Max(of[i - 1], of[i]), $"{fault}");
            }
        }
        SeverityFigures.At(Fault.Rings, 0.5).ShouldBe(Math.Sqrt(SeverityFigures.Of(Fault.Rings)[0] * SeverityFigures.Of(Fault.Rings)[1]), 1e-9, "leaks go in ratios");
        SeverityFigures.At(Fault.Sound, -0.5).ShouldBe(0);
    }

    [Fact]
    public void They_are_as_many_as_the_severities_of_the_table()
    {
        foreach (var group in SeverityNodes.ByHand(new NodeSetting(false, 0.04, 0.5)).Where(k => !k.Paired && k.Fault != Fault.TestError).GroupBy(k => k.Fault))
        {
            SeverityFigures.Of(group.Key).Count.ShouldBe(group.Count(), $"{group.Key}");
        }
    }
}
