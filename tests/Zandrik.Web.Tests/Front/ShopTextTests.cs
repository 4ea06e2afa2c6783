using Zandrik.Core.Records;
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

    [Theory]
    [InlineData(4, CylinderArrangement.Inline, "Inline four, petrol")]
    [InlineData(8, CylinderArrangement.V, "V8, petrol")]
    [InlineData(6, CylinderArrangement.Flat, "Flat six, petrol")]
    [InlineData(8, CylinderArrangement.Inline, "Inline 8, petrol")]
    [InlineData(1, CylinderArrangement.Inline, "1-cylinder engine, petrol")]
    [InlineData(5, null, "5-cylinder engine, petrol")]
    public void An_engine_without_a_name_is_called_by_its_shape(int cylinders, CylinderArrangement? layout, string says) =>
        ShopText.Engine(new EngineSheet { Cylinders = cylinders, Layout = layout, Fuel = Fuel.Petrol }).ShouldBe(says);
}
