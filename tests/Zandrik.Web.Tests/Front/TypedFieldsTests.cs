using Zandrik.Core.Records;
using Zandrik.Core.Shops;
using Zandrik.Storage;
using Zandrik.Web.Front;
using Zandrik.Web.Pages.Shop;
using Zandrik.Web.Pages.Testers;

namespace Zandrik.Web.Tests.Front;

public sealed class TypedFieldsTests
{
    private static ShopPerson Who(DateStyle dates = DateStyle.YearFirst, NumberStyle numbers = NumberStyle.Point, string zone = "Atlantic/Faroe") =>
        new() { Shop = "S", TimeZone = zone, Unit = "psi", Settings = new ShopSettings { Dates = dates, Numbers = numbers } };

    [Theory]
    [InlineData("14.1", 14.1)]
    [InlineData("14,1", 14.1)]
    [InlineData(" 131 200 ", 131200)]
    [InlineData("131\u202F200", 131200)]
    [InlineData("-3", -3)]
    public void A_number_is_read_however_it_is_written(string typed, double value)
    {
        var fields = new TypedFields();
        fields.Number(typed, "f", -10, 1e6).ShouldBe(value);
        fields.Problems.ShouldBeEmpty();
    }

    [Theory]
    [InlineData("lots")]
    [InlineData("1e9")]
    [InlineData("11")]
    [InlineData("NaN")]
    public void What_is_none_or_out_of_range_says_what_to_write(string typed)
    {
        var fields = new TypedFields();
        fields.Number(typed, "f", 0, 10).ShouldBeNull();
        fields.Problem("f").ShouldBe("Write a number from 0 to 10, or leave it empty.");
        fields.Add("f", "later");
        fields.Problem("f").ShouldNotBe("later", "the first message of a field stays");
    }

    [Fact]
    public void Days_words_and_texts_have_their_messages()
    {
        var fields = new TypedFields();
        fields.Day("2026-02-30", "day").ShouldBeNull();
        fields.Day("2026-02-28", "ok").ShouldBe(new DateOnly(2026, 2, 28));
        fields.Word<Fuel>("coal", "fuel").ShouldBeNull();
        fields.Whole("1.5", "count", 0, 9).ShouldBeNull();
        fields.Text(new string('x', 11), "text", 10).ShouldBeNull();
        fields.Text("a\0b", "nul", 10).ShouldBeNull();
        fields.Text("  kept ", "text2", 10).ShouldBe("kept");
        fields.Problems.Keys.ShouldBe(["day", "fuel", "count", "text", "nul"]);
    }

    [Fact]
    public void Days_and_figures_are_written_as_the_shop_writes_them_in_its_own_time()
    {
        var at = new DateTimeOffset(2026, 7, 1, 23, 30, 0, TimeSpan.Zero);
        ShopText.Time(at, Who()).ShouldBe("2026-07-02 00:30", "summer time on the islands");
        ShopText.Day(at, Who(DateStyle.DayFirst)).ShouldBe("02.07.2026");
        ShopText.Day(at, Who(DateStyle.DayMonthName)).ShouldBe("2 Jul 2026");
        ShopText.Day(at, Who(DateStyle.MonthFirst)).ShouldBe("07/02/2026");
        ShopText.Midnight(new DateOnly(2026, 7, 2), Who()).ShouldBe(new DateTimeOffset(2026, 7, 1, 23, 0, 0, TimeSpan.Zero));
        14.1.ToString("0.0", ShopText.Culture(Who(numbers: NumberStyle.Comma))).ShouldBe("14,1");
        14.1.ToString("0.0", ShopText.Culture(Who())).ShouldBe("14.1");
    }

    [Fact]
    public void Settings_come_back_as_they_were_typed_and_nothing_set_is_nothing_kept()
    {
        var fields = new TypedFields();
        SettingsForm.Of(Who()).Read(fields).JudgeBy.ShouldBeNull();
        fields.Problems.ShouldBeEmpty();

        var form = SettingsForm.Of(Who());
        form.Deciding = "lowest-to-highest";
        form.Methods.Single(s => s.Method == "fixed-pressure").InUse = true;
        form.Methods.Single(s => s.Method == "lowest-to-highest").Good = "92";
        form.Methods.Single(s => s.Method == "lowest-to-highest").Marginal = "80";
        form.Altitude = "420";
        form.HouseRules = "Two-litre: no head-only repair\nTarn: crank seal too";
        var kept = form.Read(fields);
        fields.Problems.ShouldBeEmpty();
        kept.JudgeBy!.MethodsInUse!.Count.ShouldBe(5);
        kept.JudgeBy.Limits![SpreadMethod.LowestToHighest].ShouldBe([92, 80]);
        kept.HouseRules.Count.ShouldBe(2);
        var again = SettingsForm.Of(Who() with { Settings = kept });
        again.HouseRules.ShouldBe(form.HouseRules);
        again.Methods.Select(s => (s.InUse, s.Good)).ShouldBe(form.Methods.Select(s => (s.InUse, s.Good)));
    }

    [Theory]
    [InlineData("percent-of-highest", "20", "10", "Marginal goes on where good ends")]
    [InlineData("lowest-to-highest", "75", "90", "Good starts higher")]
    [InlineData("percent-of-highest", "10", "", "both limits, or none")]
    public void Limits_that_contradict_each_other_are_refused(string method, string good, string marginal, string says)
    {
        var fields = new TypedFields();
        var form = SettingsForm.Of(Who());
        var row = form.Methods.Single(s => s.Method == method);
        (row.Good, row.Marginal) = (good, marginal);
        form.HouseRules = "no colon here";
        form.Read(fields);
        fields.Problem($"limit-{method}")!.ShouldContain(says);
        fields.Problem("house-rules")!.ShouldContain("no colon between");
    }

    [Fact]
    public void A_tester_comes_back_as_it_was_typed_and_a_check_in_the_future_is_refused()
    {
        var today = new DateOnly(2026, 3, 2);
        var form = new TesterForm { Label = "Gauge 3", CheckedOn = "2026-03-01", CheckEveryMonths = "12", Reads = ["100", ""], Is = ["98,5", ""] };
        var fields = new TypedFields();
        var tester = form.Read(fields, today);
        fields.Problems.ShouldBeEmpty();
        (tester.Points.Single().Is, tester.DueOn(today), tester.IsOverdue(today)).ShouldBe((98.5, new DateOnly(2027, 3, 1), false));
        tester.IsOverdue(new DateOnly(2027, 3, 1)).ShouldBeTrue();
        TesterForm.Of(tester).Reads.ShouldBe(["100"]);
        form.CheckedOn = "2026-03-03";
        form.Is = ["98", "7"];
        fields = new TypedFields();
        form.Read(fields, today);
        fields.Problem("checked-on")!.ShouldContain("not come yet");
        fields.Problem("points")!.ShouldContain("needs both");
    }
}
