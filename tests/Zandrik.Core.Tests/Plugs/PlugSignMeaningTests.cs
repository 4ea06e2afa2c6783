using Zandrik.Core.Plugs;
using Zandrik.Core.Records;

namespace Zandrik.Core.Tests.Plugs;

public sealed class PlugSignMeaningTests
{
    [Fact]
    public void Every_sign_has_a_name_of_its_own_and_points_somewhere()
    {
        var meanings = Enum.GetValues<PlugSign>().Select(PlugSignMeaning.Of).ToList();
        meanings.Select(m => m.Name).Distinct().Count().ShouldBe(meanings.Count);
        meanings.ShouldAllBe(m => m.PointsTo.Length > 0);
        PlugSignMeaning.Of(PlugSign.CoolantWet).PointsTo.ShouldContain("no running test");
    }

    [Fact]
    public void Normal_stands_alone()
    {
        PlugSignMeaning.Contradiction([PlugSign.Normal]).ShouldBeNull();
        PlugSignMeaning.Contradiction([PlugSign.OilWet, PlugSign.Broken]).ShouldBeNull();
        PlugSignMeaning.Contradiction([PlugSign.Normal, PlugSign.OilWet])!.ShouldContain("no other sign");
    }
}
