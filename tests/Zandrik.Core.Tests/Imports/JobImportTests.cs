using CsCheck;
using Zandrik.Core.Imports;
using Zandrik.Core.Records;
using Zandrik.Core.Shops;
using Zandrik.Core.Units;

namespace Zandrik.Core.Tests.Imports;

public sealed class JobImportTests
{
    private static JobImportRules Rules(DateStyle dates = DateStyle.YearFirst, PressureUnit unit = PressureUnit.Psi) => new(dates, unit,
        new Dictionary<string, EngineSheet>(StringComparer.OrdinalIgnoreCase) { ["Marrow 2.0"] = new() { Name = "Marrow 2.0", Cylinders = 4, Spec = new EngineSpec { Unit = PressureUnit.Psi, Minimum = 150 } } },
        day => new DateTimeOffset(day.ToDateTime(new TimeOnly(12, 0)), TimeSpan.Zero), new DateOnly(2026, 11, 30));

    private static IReadOnlyList<JobRow> Read(string text, JobImportRules? rules = null)
    {
        var table = ImportTable.Read(text).Table!;
        return JobImport.Read(table, ColumnMatch.Guess(JobImport.Columns, table.Headers), rules ?? Rules());
    }

    private static TestRecord One(string text, JobImportRules? rules = null)
    {
        var row = Read(text, rules).Single();
        row.Problems.ShouldBeEmpty();
        return row.Record!;
    }

    private static IEnumerable<(int, double?)> Dry(TestRecord record) => record.Tests!.OfType<DryCompressionTest>().Single().Readings!.Select(r => (r.Cylinder, r.Value));

    [Theory]
    [InlineData("Date\tVehicle\tDry\n2024-05-13\tVan\t182/179/121/184")]
    [InlineData("Date\tVehicle\tDry\n2024-05-13\tVan\t182 179 121 184")]
    [InlineData("Date\tVehicle\tDry\n2024-05-13\tVan\t182,179,121,184")]
    [InlineData("Date\tVehicle\tCyl 1\tCyl 2\tCyl 3\tCyl 4\n2024-05-13\tVan\t182\t179\t121\t184")]
    [InlineData("1\t2\t3\t4\tVehicle\tDate\n182\t179\t121\t184\tVan\t13.5.2024")]
    public void Readings_come_in_one_cell_or_in_columns_side_by_side(string text)
    {
        var record = One(text);
        Dry(record).ShouldBe([(1, 182d), (2, 179d), (3, 121d), (4, 184d)]);
        record.Engine.Cylinders.ShouldBe(4);
        record.Tests!.Single().At.ShouldBe(new DateTimeOffset(2024, 5, 13, 12, 0, 0, TimeSpan.Zero));
    }

    [Fact]
    public void A_gap_is_a_cylinder_that_was_not_measured_and_other_columns_are_not_readings()
    {
        var record = One("Date\tVehicle\tDry 1\tDry 2\tDry 3\tDry 4\tWet 1\tWet 2\tNotes\n2024-05-13\tVan\t182\t-\t\t184\t190\t\trough");
        Dry(record).ShouldBe([(1, 182d), (4, 184d)]);
        record.Tests!.OfType<WetCompressionTest>().Single().Readings!.Single().Value.ShouldBe(190);
        record.Complaint.ShouldBe("rough");
    }

    [Fact]
    public void An_engine_sheet_of_that_name_is_the_engine_and_a_fault_is_named_as_the_trade_says_it()
    {
        var row = Read("Date\tVehicle\tEngine\tOdometer\tDry\tLeak-down\tFound\tFound in cylinder\tBy\n2024-05-13\tVan\tmarrow 2.0\t84.200 mi\t182/179/121/184\t8/9/62%/7\tExhaust valve\t3\tR. Tarn").Single();
        row.Problems.ShouldBeEmpty();
        row.Sheet.ShouldBe("Marrow 2.0");
        row.Record!.Engine.Spec!.Minimum.ShouldBe(150);
        row.Record.Vehicle!.Odometer.ShouldBe(new Odometer { Value = 84200, Unit = DistanceUnit.Mi });
        row.Record.Tests!.OfType<LeakDownTest>().Single().Readings![2].LeakPercent.ShouldBe(62);
        row.Record.Found!.Single().ShouldBe(new FoundFault { Fault = Fault.ExhaustValve, Cylinder = 3, At = row.Record.Tests![0].At, By = "R. Tarn" });
    }

    [Theory]
    [InlineData(DateStyle.DayFirst, 3, 2)]
    [InlineData(DateStyle.MonthFirst, 2, 3)]
    public void A_day_is_read_as_the_shop_writes_its_days(DateStyle style, int month, int day) =>
        Read("Date\tVehicle\tDry\n02/03/2024\tVan\t180/180", Rules(style)).Single().Day.ShouldBe(new DateOnly(2024, month, day));

    [Theory]
    [InlineData("30.2.2024\tVan\t180/180", "“30.2.2024” is not a day")]
    [InlineData("2027-01-01\tVan\t180/180", "has not come yet")]
    [InlineData("\tVan\t180/180", "does not say when")]
    [InlineData("2024-05-13\t\t180/180", "does not say which vehicle")]
    [InlineData("2024-05-13\tVan\tgood/180", "“good” is not a reading")]
    [InlineData("2024-05-13\tVan\t180/99999", "is the unit right?")]
    [InlineData("2024-05-13\tVan\t", "say how many")]
    [InlineData("2024-05-13\tVan\t12,1/12,0/11,8/12,2", "would be usual in bar, not in psi")]
    public void A_row_that_cannot_be_imported_says_why(string row, string says)
    {
        var read = Read($"Date\tVehicle\tDry\n{row}").Single();
        read.Record.ShouldBeNull();
        string.Join(" ", read.Problems).ShouldContain(says);
    }

    [Fact]
    public void More_readings_than_cylinders_and_an_unknown_fault_are_said()
    {
        string.Join(" ", Read("Date\tVehicle\tEngine\tDry\n2024-05-13\tVan\tMarrow 2.0\t1/2/3/4/5").Single().Problems).ShouldContain("more readings than the 4 cylinders");
        string.Join(" ", Read("Date\tVehicle\tDry\tFound\n2024-05-13\tVan\t180/180\trust").Single().Problems).ShouldContain("Use one of: sound, rings or bore");
    }

    [Fact]
    public void Every_list_of_readings_comes_in_as_it_was_written() =>
        Gen.Double[60, 250].Select(x => Math.Round(x, 1)).Array[1, 12].Sample(values =>
        {
            var cells = values.Select(v => v.ToString(System.Globalization.CultureInfo.InvariantCulture)).ToList();
            var inOne = Read($"Date\tVehicle\tDry\tCylinders\n2024-05-13\tVan\t{string.Join(" / ", cells)}\t{values.Length}").Single().Record;
            var beside = Read($"Date\tVehicle\tCylinders\t{string.Join('\t', cells.Select((_, i) => $"Cyl {i + 1}"))}\n2024-05-13\tVan\t{values.Length}\t{string.Join('\t', cells)}").Single().Record;
            return inOne is not null && beside is not null && Dry(inOne).Select(r => r.Item2!.Value).SequenceEqual(values) && Dry(beside).SequenceEqual(Dry(inOne));
        });
}
