using Zandrik.Core.Imports;

namespace Zandrik.Core.Tests.Imports;

public sealed class VehicleImportTests
{
    private static IReadOnlyList<VehicleRow> Read(string text)
    {
        var table = ImportTable.Read(text).Table!;
        return VehicleImport.Read(table, ColumnMatch.Guess(VehicleImport.Columns, table.Headers), ["Marrow 2.0"]);
    }

    [Fact]
    public void A_vehicle_brings_its_registration_engine_and_notes()
    {
        var row = Read("Vehicle,Reg,Engine,Serial,Notes\nVan 9,QF 1,marrow 2.0,M-77,spare key\n").Single();
        row.ShouldBe(new VehicleRow(1, "Van 9", "QF 1", "spare key", "Marrow 2.0", "M-77", row.Problems));
        row.Problems.ShouldBeEmpty();
    }

    [Theory]
    [InlineData("Vehicle,Reg\n,QF 1\n", "does not say which vehicle")]
    [InlineData("Vehicle,Reg\nVan,1\nvan,2\n", "stands in the table before")]
    [InlineData("Vehicle,Engine\nVan,Nowhere 3.0\n", "no engine sheet is called “Nowhere 3.0”")]
    [InlineData("Vehicle,Serial\nVan,7\nBus,7\n", "another row has this number")]
    public void A_row_that_cannot_be_imported_says_why(string text, string says) => Read(text)[^1].Problems.Single().ShouldContain(says);
}
