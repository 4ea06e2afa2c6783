namespace Zandrik.Storage.Tests;

/// <summary>Which databases this program works on.</summary>
public sealed class MigratorTests(TestDatabase db) : IClassFixture<TestDatabase>
{
    [Fact]
    public async Task A_database_of_a_newer_program_is_refused_and_stays_as_it_is()
    {
        Migrator.Migrate(db.Owner, "zandrik").ShouldBeEmpty("it is current");
        await TestDatabase.ExecuteAsync(db.Owner, "insert into schemaversions (scriptname, applied) values ('Zandrik.Storage.Migrations.9999-of-tomorrow.sql', now())");
        var refused = Should.Throw<InvalidOperationException>(() => Migrator.Migrate(db.Owner, "zandrik"));
        refused.Message.ShouldContain("newer Zandrik: it has 9999-of-tomorrow.sql");
        await TestDatabase.ExecuteAsync(db.Owner, "delete from schemaversions where scriptname like '%9999%'");
        Migrator.Migrate(db.Owner, "zandrik").ShouldBeEmpty();
    }

    [Fact]
    public async Task An_application_that_would_see_every_shops_jobs_is_refused()
    {
        await Migrator.CheckRoleAsync(db.Connection, TestContext.Current.CancellationToken);
        (await Should.ThrowAsync<InvalidOperationException>(Migrator.CheckRoleAsync(db.Owner, TestContext.Current.CancellationToken))).Message.ShouldContain("as owner, a role that sees the jobs of every shop");
    }
}
