using Zandrik.Web.Front;

namespace Zandrik.Web.Tests.Front;

/// <summary>Figures as people read them.</summary>
public sealed class ShopTextTests
{
    [Theory]
    [InlineData(0.126, "13 %", "+13 %")]
    [InlineData(-0.126, "−13 %", "−13 %")]
    [InlineData(-0.003, "0 %", "0 %")]
    [InlineData(0.0, "0 %", "0 %")]
    [InlineData(null, "–", "–")]
    public void What_rounds_to_nothing_has_no_sign(double? share, string asShare, string asChange)
    {
        ShopText.Share(share).ShouldBe(asShare);
        ShopText.Change(share).ShouldBe(asChange);
    }

    [Theory]
    [InlineData(7.26, "+7.3")]
    [InlineData(-20.24, "−20.2")]
    [InlineData(-0.04, "0.0")]
    public void Nor_has_a_weight(double db, string says) => ShopText.Db(db).ShouldBe(says);
}
