using CsCheck;
using Zandrik.Core.Engines;
using Zandrik.Core.Records;
using Zandrik.Core.Tests.Imports;
using Zandrik.Core.Units;

namespace Zandrik.Core.Tests.Engines;

public sealed class SheetFileTests
{
    private static readonly EngineDocument Marrow = new(
        new EngineSheet
        {
            Name = "Marrow \"2.0\", inline; four", Fuel = Fuel.Petrol, Cylinders = 4, Layout = CylinderArrangement.Inline, Banks = [[1, 2, 3, 4]],
            FiringOrder = [1, 3, 4, 2], IntakeBranches = [[1, 2], [3, 4]], CompressionRatio = 10.2, Features = [EngineFeature.OilCooler, EngineFeature.Turbo],
            Spec = new EngineSpec { Unit = PressureUnit.Bar, Nominal = 14.1, Minimum = 10.3, WetAllowed = false },
        },
        new WorkshopSheet
        {
            PlugThread = "M14", PlugReachMm = 26.5, Access = [new AccessStep("Cover off", 2), new AccessStep("Coils = pulled", 7.5)], HeldBy = "=lock",
            Sources = [new FigureSource("nominal", "book, page 12", "M. Ostrel", new DateOnly(2026, 1, 20)), new FigureSource("minimum", "plate")],
        });

    private static string Json(EngineDocument sheet) => SheetFile.WriteJson([sheet]);

    private static EngineDocument Again(string file)
    {
        var (rows, problem) = SheetImportTests.Read(file);
        problem.ShouldBeNull();
        rows!.Single().Problems.ShouldBeEmpty();
        return rows!.Single().Sheet!;
    }

    [Fact]
    public void A_sheet_comes_back_whole_from_either_kind_of_file()
    {
        Json(Again(SheetFile.WriteJson([Marrow]))).ShouldBe(Json(Marrow));
        var csv = SheetFile.WriteCsv([Marrow]);
        Json(Again(csv)).ShouldBe(Json(Marrow));
        csv.ShouldNotContain(",=lock", customMessage: "a spreadsheet must not take a note for a formula");
        // As a spreadsheet with a decimal comma writes it.
        Again("name;cylinders;compressionRatio\nTarn;6;17,5\n").Engine.CompressionRatio.ShouldBe(17.5);
    }

    [Fact]
    public void Whatever_stands_in_the_texts_comes_back() =>
        Gen.String[Gen.Char[" abcÆø,;\"'=-+@\n|"], 1, 12].Where(t => t.Trim() == t && t.Length > 0 && t[0] != '\'').Sample(text =>
        {
            var sheet = Marrow with { Workshop = new WorkshopSheet { Weaknesses = text, CrankAccess = text } };
            return Json(Again(SheetFile.WriteJson([sheet]))) == Json(sheet) && Json(Again(SheetFile.WriteCsv([sheet]))) == Json(sheet);
        });

    [Fact]
    public void One_bad_row_names_its_fields_and_spoils_no_other()
    {
        var (rows, _) = SheetImportTests.Read("""
            name,cylinders,firingOrder,fuel,minimum,nominal
            Good,4,1-3-4-2,petrol,150,205
            Bad,4,1-3-4-4,gas,210,205
            ,x,,,,
            """);
        rows!.Count.ShouldBe(3);
        rows[0].Sheet!.Engine.FiringOrder.ShouldBe([1, 3, 4, 2]);
        rows[1].Sheet.ShouldBeNull();
        rows[1].Problems.ShouldContain(p => p.StartsWith("fuel:", StringComparison.Ordinal));
        rows[2].Problems.ShouldContain(p => p.StartsWith("name:", StringComparison.Ordinal));
        rows[2].Problems.ShouldContain(p => p.StartsWith("cylinders:", StringComparison.Ordinal));
    }

    [Theory]
    [InlineData("", "not a whole JSON document")]
    [InlineData("[3]", "no file of engine sheets")]
    [InlineData("{ \"format\": 3 }", "no file of engine sheets")]
    [InlineData("{ \"format\": ", "not a whole JSON document")]
    [InlineData("{ \"format\": \"zandrik-engine-sheets\", \"sheets\": [] }", "no sheets in it")]
    public void A_file_that_is_none_says_what_to_do(string file, string says) => SheetFile.Read(file).Problem!.ShouldContain(says);
}
