using Zandrik.Core.Engines;
using Zandrik.Core.Imports;

namespace Zandrik.Core.Tests.Imports;

public sealed class SheetImportTests
{
    /// <summary>A file of sheets of either kind, its columns found by their names.</summary>
    internal static (IReadOnlyList<SheetRow>? Rows, string? Problem) Read(string file)
    {
        if (file.StartsWith('{'))
        {
            return SheetFile.Read(file);
        }
        var (table, problem) = ImportTable.Read(file);
        return (table is null ? null : SheetImport.Read(table, ColumnMatch.Guess(SheetImport.Columns, table.Headers)), problem);
    }

    [Fact]
    public void Every_field_of_a_sheet_has_a_column_and_goes_by_its_own_name() =>
        ColumnMatch.Guess(SheetImport.Columns, SheetFile.ColumnNames).OrderBy(c => c.Value).Select(c => c.Key).ShouldBe(SheetFile.ColumnNames);

    [Fact]
    public void A_list_of_somebody_else_is_read_by_what_its_columns_are_called()
    {
        var (rows, _) = Read("Model\tCyls\tOrder\tService limit\tUnits\nTarn 1.4\t4\t1-3-4-2\t10,5\tbar\n");
        var engine = rows!.Single().Sheet!.Engine;
        (engine.Name, engine.Cylinders, engine.Spec!.Minimum, engine.Spec.Unit).ShouldBe(("Tarn 1.4", 4, 10.5, Core.Units.PressureUnit.Bar));
    }

    [Fact]
    public void A_name_that_comes_twice_is_taken_once()
    {
        var (rows, _) = Read("name,cylinders\nTarn,4\ntarn,6\n");
        rows![0].Sheet.ShouldNotBeNull();
        rows[1].Sheet.ShouldBeNull();
        rows[1].Problems.Single().ShouldContain("stands in the file before");
    }
}
