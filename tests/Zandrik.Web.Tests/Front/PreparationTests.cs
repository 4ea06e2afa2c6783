using Zandrik.Storage;
using Zandrik.Storage.Tests;
using Zandrik.Web.Front;

namespace Zandrik.Web.Tests.Front;

public sealed class PreparationTests
{
    [Fact]
    public async Task A_demo_load_that_was_cut_short_goes_on_and_a_finished_one_adds_nothing()
    {
        var name = $"prepared_{Guid.NewGuid():N}";
        var connection = await Site.MakeDatabaseAsync(name);
        var files = Directory.GetFiles(Path.Combine(Preparation.DemoFolder, "records")).Length
            + System.Text.Json.Nodes.JsonNode.Parse(await File.ReadAllTextAsync(Path.Combine(Preparation.DemoFolder, "lives.json"), TestContext.Current.CancellationToken))!.AsArray().Sum(l => l!["tests"]!.AsArray().Count)
            // The job read from the simulated instruments; exercises are no jobs of the list.
            + 1;
        async Task<int> JobsAfterAsync(bool demo)
        {
            await Preparation.PrepareAsync(TestDatabase.OwnerOf(name), connection, demo, TimeProvider.System);
            await using var database = new ShopDatabase(connection);
            return await new JobStore(database).CountAsync((await new SignInStore(database).FirstAsync(TestContext.Current.CancellationToken))!, TestContext.Current.CancellationToken);
        }
        (await JobsAfterAsync(demo: true)).ShouldBe(files, "a second start adds nothing");

        // As if the load had been killed before its last two records.
        await TestDatabase.ExecuteAsync(TestDatabase.OwnerOf(name), """
            delete from idempotency where key like 'demo 14%' or key like 'demo 15%';
            alter table reading disable trigger reading_is_append_only;
            delete from reading where test_id in (select t.id from test t join job j on j.id = t.job_id where j.number in (14, 15));
            alter table capture disable trigger capture_is_append_only;
            alter table capture_answer disable trigger capture_answer_is_append_only;
            alter table capture_piece disable trigger capture_piece_is_append_only;
            delete from capture_answer where capture_id in (select c.id from capture c join job j on j.id = c.job_id where j.number in (14, 15));
            delete from capture_piece where capture_id in (select c.id from capture c join job j on j.id = c.job_id where j.number in (14, 15));
            delete from capture where job_id in (select id from job where number in (14, 15));
            delete from test where job_id in (select id from job where number in (14, 15));
            delete from job where number in (14, 15);
            """);
        (await JobsAfterAsync(demo: false)).ShouldBe(files - 2, "without the demo nothing is loaded");
        (await JobsAfterAsync(demo: true)).ShouldBe(files);
        await TestDatabase.ExecuteAsync(TestDatabase.OwnerOf("postgres"), $"drop database {name} with (force)");
    }
}
