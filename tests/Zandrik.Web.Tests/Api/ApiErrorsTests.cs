using System.Net;
using Npgsql;
using Zandrik.Web.Api;

namespace Zandrik.Web.Tests.Api;

public sealed class ApiErrorsTests(Site site) : IClassFixture<Site>
{
    private static PostgresException Said(string state) => new("", "FATAL", "FATAL", state);

    [Theory]
    [InlineData("57P01")]
    [InlineData("57P03")]
    [InlineData("53300")]
    [InlineData("55000")]
    [InlineData("08006")]
    public void A_database_that_serves_nobody_is_away(string state)
    {
        ApiErrors.StatusOf(Said(state)).ShouldBe(503);
        ApiErrors.StatusOf(new InvalidOperationException("while reading", Said(state))).ShouldBe(503);
    }

    [Fact]
    public void A_broken_connection_is_away_and_a_fault_of_the_program_is_not()
    {
        ApiErrors.StatusOf(new NpgsqlException("Failed to connect")).ShouldBe(503);
        ApiErrors.StatusOf(Said("23505")).ShouldBe(500, "a rule of the data was broken");
        ApiErrors.StatusOf(Said("42P01")).ShouldBe(500);
        ApiErrors.StatusOf(new InvalidOperationException()).ShouldBe(500);
    }

    [Fact]
    public async Task A_script_is_told_to_send_it_again()
    {
        var record = new Uri("/api/v1/jobs/1/record", UriKind.Relative);
        (await site.Api.GetAsync(record, TestContext.Current.CancellationToken)).StatusCode.ShouldBe(HttpStatusCode.OK);
        await site.DatabaseAsync(answers: false);
        // The first meets a connection that was cut, the second finds none.
        foreach (var _ in Enumerable.Range(0, 2))
        {
            var answer = await site.Api.GetAsync(record, TestContext.Current.CancellationToken);
            answer.StatusCode.ShouldBe(HttpStatusCode.ServiceUnavailable);
            answer.Headers.RetryAfter!.Delta.ShouldBe(TimeSpan.FromSeconds(5));
            (await answer.Content.ReadAsStringAsync(TestContext.Current.CancellationToken)).ShouldContain("Send the same request again in a moment");
        }
    }
}
