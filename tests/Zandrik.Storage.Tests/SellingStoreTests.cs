using Zandrik.Core.Records;
using Zandrik.Core.Reports;

namespace Zandrik.Storage.Tests;

public sealed class SellingStoreTests(TestDatabase db) : IClassFixture<TestDatabase>
{
    private static readonly DateTimeOffset Now = new(2026, 6, 1, 9, 0, 0, TimeSpan.Zero);

    private readonly SellingStore selling = new(db.Database);

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private static SellingSheet Sheet(string finding = "Nothing found.") => new("Quillmoor Ferry Workshop", "0001", "Kelp cart", "Kelpie 4", "K-1", [new("Odometer", "80 000 km")], finding, "Nothing.",
        [new("Dry", "Even.", "warm", ["Cylinder", "psi"], [["1", "160"], ["2", "161"]], ["One note."])], ["leak-down"], "2026-06-01", "M. Ostrel");

    private Task<int> JobAsync() => db.Jobs.CreateAsync(db.Ostrel, new TestRecord { Vehicle = new() { Label = "Kelp cart" }, Engine = new() { Cylinders = 4 } }, Now, cancel: Cancel);

    [Fact]
    public async Task A_code_tells_a_genuine_sheet_as_it_was_handed_out()
    {
        var job = await JobAsync();
        var key = Guid.NewGuid();
        (await selling.MakeAsync(db.Ostrel, job, Sheet(), key, Now, Cancel)).ShouldBe(1);
        (await selling.MakeAsync(db.Ostrel, job, Sheet(), key, Now, Cancel)).ShouldBe(1, "sent twice, made once");
        (await selling.MakeAsync(db.Ostrel, job, Sheet("Other."), Guid.NewGuid(), Now, Cancel)).ShouldBe(2);
        (await selling.MakeAsync(db.Stranger, job + 1000, Sheet(), Guid.NewGuid(), Now, Cancel)).ShouldBeNull();
        var code = (await selling.ListAsync(db.Ostrel, job, Cancel))[^1].Code;
        code.ShouldMatch("^([0-9A-Z]{4}-){3}[0-9A-Z]{4}$");
        foreach (var typed in new[] { code, code.ToLowerInvariant(), code.Replace("-", " ", StringComparison.Ordinal), $" {code.Replace("0", "O", StringComparison.Ordinal).Replace("1", "l", StringComparison.Ordinal)} " })
        {
            var found = (await selling.CheckAsync(typed, Cancel))!;
            (found.IsUnchanged, found.Version, found.Latest, found.Shop.Shop).ShouldBe((true, 1, 2, "Quillmoor Ferry Workshop"));
            found.Sheet.Parts[0].Rows.ShouldBe([["1", "160"], ["2", "161"]]);
        }
        var kept = (await selling.FindAsync(db.Ostrel, job, 1, Cancel))!.Value;
        (kept.Line.Code, kept.Sheet.Finding).ShouldBe((code, "Nothing found."));
        (await selling.FindAsync(db.Stranger, job, 1, Cancel)).ShouldBeNull();
        (await selling.ListAsync(db.Stranger, job, Cancel)).ShouldBeEmpty();
    }

    [Theory]
    [InlineData("")]
    [InlineData(null)]
    [InlineData("1234")]
    [InlineData("0000-0000-0000-0000-0")]
    [InlineData("0000-0000-0000-0000")]
    [InlineData("ÄÖÜ0-0000-0000-0000")]
    public async Task What_no_sheet_has_is_nothing(string? typed) => (await selling.CheckAsync(typed, Cancel)).ShouldBeNull();

    [Fact]
    public async Task One_that_was_changed_where_it_is_stored_no_longer_fits_its_code()
    {
        var job = await JobAsync();
        await selling.MakeAsync(db.Ostrel, job, Sheet(), Guid.NewGuid(), Now, Cancel);
        var code = (await selling.ListAsync(db.Ostrel, job, Cancel))[0].Code;
        await db.AsOwnerAsync($"alter table selling_sheet disable trigger all; update selling_sheet set body = replace(body::text, '161', '169')::json where code = '{SellingStore.Read(code)}'; alter table selling_sheet enable trigger all");
        (await selling.CheckAsync(code, Cancel))!.IsUnchanged.ShouldBeFalse();
        await Should.ThrowAsync<Npgsql.PostgresException>(() => TestDatabase.ExecuteAsync(db.Owner, $"delete from selling_sheet"));
    }
}
