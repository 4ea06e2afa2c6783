using CsCheck;
using Zandrik.Core.Imports;
using Zandrik.Core.Records;

namespace Zandrik.Core.Tests.Imports;

public sealed class ImportTableTests
{
    private static ImportTable Table(string text)
    {
        var (table, problem) = ImportTable.Read(text);
        problem.ShouldBeNull();
        return table!;
    }

    [Theory]
    [InlineData("Vehicle,Notes\nVan 9,\"short, and \"\"quoted\"\"\"\n")]
    [InlineData("Vehicle;Notes\r\nVan 9;\"short, and \"\"quoted\"\"\"\r\n")]
    [InlineData("\uFEFFVehicle\tNotes\nVan 9\t\"short, and \"\"quoted\"\"\"\n\n")]
    public void Commas_semicolons_and_tabs_part_the_same_table(string text)
    {
        var table = Table(text);
        table.Headers.ShouldBe(["Vehicle", "Notes"]);
        table.Rows.Single().ShouldBe(["Van 9", "short, and \"quoted\""]);
    }

    [Fact]
    public void Columns_without_a_name_or_with_one_that_comes_twice_can_be_told_apart_and_short_rows_are_filled_up()
    {
        var table = Table("\tDry\tDry\nVan 9\t170\n");
        table.Headers.ShouldBe(["Column 1", "Dry", "Dry (2)"]);
        table.Rows.Single().ShouldBe(["Van 9", "170", ""]);
    }

    [Theory]
    [InlineData(" \n ", "nothing in it")]
    [InlineData("Vehicle,Notes\n", "one row only")]
    [InlineData("Vehicle,Notes\n,\n", "one row only")]
    public void A_table_with_nothing_in_it_says_what_to_do(string text, string says) => ImportTable.Read(text).Problem!.ShouldContain(says);

    [Fact]
    public void What_is_too_much_is_refused_with_the_row()
    {
        ImportTable.Read("A\n" + string.Concat(Enumerable.Repeat("x\n", ImportTable.MostRows + 1))).Problem!.ShouldContain($"more than {ImportTable.MostRows} rows");
        ImportTable.Read("A,B\nok,1\n\"never closed,2\n" + new string('y', ImportTable.LongestCell) + "\n").Problem!.ShouldContain("Row 2 has a cell of more than");
        ImportTable.Read(string.Join(',', Enumerable.Repeat("h", ImportTable.MostColumns + 1)) + "\nx\n").Problem!.ShouldContain("columns");
    }

    [Fact]
    public void Whatever_is_written_as_csv_is_read_again() =>
        Gen.String[Gen.Char[" abÆ,;\t\"'=-+@\n|1"], 1, 12].Where(t => t.Trim() == t && t.Length > 0 && t[0] != '\'').Array[1, 4].Sample(cells =>
            Table(CsvText.Write(["first", .. cells.Select((_, i) => $"c{i}")], [["x", .. cells]])).Rows.Single().Skip(1).SequenceEqual(cells));

    [Fact]
    public void Columns_are_found_by_their_names_in_any_writing_and_each_holds_one_thing()
    {
        var match = ColumnMatch.Guess(VehicleImport.Columns, ["ENGINE_NO", "Plate #", "Name", "engine", "Colour"]);
        match["serial"].ShouldBe(0);
        match["identity"].ShouldBe(1);
        match["vehicle"].ShouldBe(2);
        match["engine"].ShouldBe(3);
        match.ContainsKey("notes").ShouldBeFalse();
        match.Values.Distinct().Count().ShouldBe(match.Count);
    }
}
