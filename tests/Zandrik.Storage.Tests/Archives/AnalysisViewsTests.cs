using Zandrik.Core.Records;

namespace Zandrik.Storage.Tests.Archives;

public sealed class AnalysisViewsTests(TestDatabase db) : IClassFixture<TestDatabase>
{
    private static readonly DateTimeOffset Now = new(2026, 6, 1, 9, 0, 0, TimeSpan.Zero);

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    [Fact]
    public async Task Views_for_analysis_show_the_work_of_the_shop_that_is_named()
    {
        await db.Jobs.CreateAsync(db.Ostrel with { Purpose = JobPurpose.Practice }, ArchiveTests.Record(50), Now, cancel: Cancel);
        async Task<long> CountAsync(string view, int? shop) => (long)(await TestDatabase.ExecuteAsync(new Npgsql.NpgsqlConnectionStringBuilder(db.Connection) { Options = shop is null ? "" : $"-c zandrik.shop={shop}" }.ConnectionString, $"select count(*) from analysis.{view}"))!;
        await db.Jobs.CreateAsync(db.Ostrel, ArchiveTests.Record(51), Now, cancel: Cancel);
        foreach (var view in new[] { "job", "test", "reading", "found", "repair", "decision" })
        {
            (await CountAsync(view, null)).ShouldBe(0, view);
            (await CountAsync(view, db.Ostrel.ShopId)).ShouldBe((long)(await db.AsOwnerAsync(view switch
            {
                "job" => $"select count(*) from job where shop_id = {db.Ostrel.ShopId} and purpose = 'work'",
                "test" => $"select count(*) from test t join job j on j.id = t.job_id where j.shop_id = {db.Ostrel.ShopId} and j.purpose = 'work'",
                "reading" => $"select count(*) from reading r join test t on t.id = r.test_id join job j on j.id = t.job_id where j.shop_id = {db.Ostrel.ShopId} and j.purpose = 'work'",
                "found" => $"select count(*) from found_fault f join job j on j.id = f.job_id where j.shop_id = {db.Ostrel.ShopId} and j.purpose = 'work'",
                _ => "select 0::bigint",
            }))!, view);
        }
        (await CountAsync("reading", db.Ostrel.ShopId)).ShouldBeGreaterThan(0);
    }
}
