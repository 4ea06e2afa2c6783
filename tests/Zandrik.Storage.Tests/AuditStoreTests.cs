using Npgsql;
using Zandrik.Core.Records;
using Zandrik.Core.Shops;

namespace Zandrik.Storage.Tests;

public sealed class AuditStoreTests(TestDatabase db) : IClassFixture<TestDatabase>
{
    private static readonly DateTimeOffset Now = new(2026, 11, 30, 9, 0, 0, TimeSpan.Zero);

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private AuditStore Audit => new(db.Database);

    private async Task<IReadOnlyList<string>> LinesAsync(ShopPerson who) =>
        [.. (await Audit.ListAsync(who, null, null, null, 200, Cancel)).Lines.Reverse().Select(l => $"{l.By}: {l.What} {l.About}")];

    [Fact]
    public async Task What_is_done_to_people_tokens_sessions_and_jobs_is_noted_by_the_database_itself()
    {
        var people = new PeopleStore(db.Database);
        var signIn = new SignInStore(db.Database);
        // Somebody who can sign in has to stay a foreman.
        await db.AsOwnerAsync("update person set login = 'ostrel', password_hash = 'x' where name = 'M. Ostrel'");
        var before = (await LinesAsync(db.Ostrel)).Count;
        var berrin = (await people.AddAsync(db.Ostrel, "N. Berrin", ShopRole.Technician, Cancel))!.Value;
        await people.ChangeAsync(db.Ostrel, berrin, ShopRole.Viewer, null, Cancel);
        await people.ChangeAsync(db.Ostrel, berrin, ShopRole.Viewer, Now, Cancel);
        await people.MakeTokenAsync(db.Ostrel, "The yard", cancel: Cancel);
        var token = (await people.TokensAsync(db.Ostrel, Cancel)).Single(t => t.Label == "The yard");
        await people.RevokeTokenAsync(db.Ostrel, token.Id, Now, Cancel);
        var session = await signIn.BeginSessionAsync(db.Ostrel, "tablet", Now, Cancel);
        await signIn.TouchSessionAsync(db.Ostrel, session, Now.AddMinutes(6), Cancel);
        await signIn.EndSessionAsync(db.Ostrel, session, Now.AddMinutes(7), Cancel);
        var job = await db.Jobs.CreateAsync(db.Ostrel, new TestRecord { Engine = new EngineSheet { Cylinders = 4 } }, Now, cancel: Cancel);
        await db.Jobs.CloseAsync(db.Ostrel, job, Now, cancel: Cancel);
        await db.Jobs.CloseAsync(db.Ostrel, job, null, "looked again", Cancel);
        await Audit.NoteAsync(db.Ostrel, AuditStore.Exported, $"zandrik-job-{job:0000}.json", cancel: Cancel);
        await Audit.NoteAsync(db.Ostrel, AuditStore.SignInFailed, "as M. Ostrel", known: false, Cancel);

        (await LinesAsync(db.Ostrel)).Skip(before).ShouldBe([
            "M. Ostrel: person-added N. Berrin, technician",
            "M. Ostrel: role-changed N. Berrin, technician to viewer",
            "M. Ostrel: person-left N. Berrin",
            "M. Ostrel: token-made The yard",
            "M. Ostrel: token-ended The yard",
            "M. Ostrel: signed-in tablet",
            "M. Ostrel: signed-out tablet",
            $"M. Ostrel: job-closed job {job}",
            $"M. Ostrel: job-opened-again job {job}",
            $"M. Ostrel: exported zandrik-job-{job:0000}.json",
            ": sign-in-failed as M. Ostrel",
        ]);
        // A shop sees its own, page after page, by kind and person.
        (await LinesAsync(db.Stranger)).ShouldNotContain(l => l.Contains("Berrin", StringComparison.Ordinal));
        var (first, more) = await Audit.ListAsync(db.Ostrel, null, null, null, 3, Cancel);
        more.ShouldBeTrue();
        (await Audit.ListAsync(db.Ostrel, null, null, first[^1].Id, 3, Cancel)).Lines[0].Id.ShouldBeLessThan(first[^1].Id);
        (await Audit.ListAsync(db.Ostrel, "token-made", db.Ostrel.PersonId, null, 50, Cancel)).Lines.ShouldHaveSingleItem().About.ShouldBe("The yard");
    }

    [Fact]
    public async Task Nobody_changes_or_removes_a_line()
    {
        await Audit.NoteAsync(db.Ostrel, AuditStore.Exported, "jobs.csv", cancel: Cancel);
        foreach (var change in new[] { "update audit_event set about = 'nothing'", "delete from audit_event", "truncate audit_event" })
        {
            (await Should.ThrowAsync<PostgresException>(TestDatabase.ExecuteAsync(db.Connection, $"set zandrik.shop = '1'; {change}"))).SqlState.ShouldBe("42501");
            (await Should.ThrowAsync<PostgresException>(db.AsOwnerAsync(change))).MessageText.ShouldContain("never changed or removed");
        }
        (await LinesAsync(db.Ostrel)).ShouldContain("M. Ostrel: exported jobs.csv");
    }
}
