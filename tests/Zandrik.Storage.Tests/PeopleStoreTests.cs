using Npgsql;
using Zandrik.Core.Records;
using Zandrik.Core.Shops;
using Zandrik.Core.Units;

namespace Zandrik.Storage.Tests;

public sealed class PeopleStoreTests(TestDatabase db) : IClassFixture<TestDatabase>
{
    private static readonly DateTimeOffset Now = new(2026, 3, 2, 9, 40, 0, TimeSpan.Zero);

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private readonly PeopleStore people = new(db.Database);
    private readonly SignInStore signIn = new(db.Database);

    // A person who can sign in.
    private async Task<SignInAttempt> NewAsync(string name, ShopRole role = ShopRole.Technician)
    {
        var person = (await people.AddAsync(db.Ostrel, name, role, Cancel))!.Value;
        var link = (await people.MakeLinkAsync(db.Ostrel, person, Now, Cancel))!;
        var who = (await signIn.ByLinkAsync(link, Now, Cancel))!;
        (await people.UseLinkAsync(who, link, name, name, "hash", Now, Cancel)).ShouldNotBeNull();
        return (await signIn.ByLoginAsync(name, Cancel))!;
    }

    [Fact]
    public async Task A_link_works_once_in_its_time_and_a_newer_one_ends_it()
    {
        var person = (await people.AddAsync(db.Ostrel, "link", ShopRole.Viewer, Cancel))!.Value;
        (await people.AddAsync(db.Ostrel, "link", ShopRole.Viewer, Cancel)).ShouldBeNull("a name stands for one person");
        var old = (await people.MakeLinkAsync(db.Ostrel, person, Now, Cancel))!;
        var link = (await people.MakeLinkAsync(db.Ostrel, person, Now.AddMinutes(1), Cancel))!;
        (await signIn.ByLinkAsync(old, Now.AddMinutes(1), Cancel)).ShouldBeNull();
        (await signIn.ByLinkAsync(link, Now + PeopleStore.LinkGoodFor + TimeSpan.FromMinutes(2), Cancel)).ShouldBeNull();
        var who = (await signIn.ByLinkAsync(link, Now.AddMinutes(2), Cancel))!;
        (await people.UseLinkAsync(who, link, "link", "link", "h", Now.AddMinutes(2), Cancel)).ShouldNotBeNull();
        (await people.UseLinkAsync(who, link, "link", "link", "h", Now.AddMinutes(2), Cancel)).ShouldBeNull();
        (await signIn.ByLinkAsync(link, Now.AddMinutes(3), Cancel)).ShouldBeNull();
        (await people.MakeLinkAsync(db.Stranger, person, Now, Cancel)).ShouldBeNull("not a person of that shop");
    }

    [Fact]
    public async Task However_many_try_at_once_only_the_free_ones_get_to_a_password()
    {
        var answers = await Task.WhenAll(Enumerable.Range(0, 40).Select(_ => signIn.CountTryAsync("name|hasty", "address|192.0.2.7", Now, Cancel)));
        answers.Count(a => a is null).ShouldBe(SignInStore.FreeTries);
        answers.Where(a => a is not null).ShouldAllBe(a => a == Now.AddSeconds(30));
        // A known device of the same person is counted by itself.
        (await signIn.CountTryAsync("device|7|hasty", null, Now, Cancel)).ShouldBeNull();
        // Each further try waits twice as long, to a quarter of an hour; a wait that is sat out lets one try through.
        var at = Now.AddSeconds(31);
        foreach (var minutes in (double[])[1, 2, 4, 8, 15, 15])
        {
            (await signIn.CountTryAsync("name|hasty", null, at, Cancel)).ShouldBeNull();
            (await signIn.CountTryAsync("name|hasty", null, at, Cancel)).ShouldBe(at.AddMinutes(minutes));
            at = at.AddMinutes(minutes).AddSeconds(1);
        }
        await signIn.ForgetTriesAsync("name|hasty", "address|192.0.2.7", at, Cancel);
        (await Task.WhenAll(Enumerable.Range(0, SignInStore.FreeTries).Select(_ => signIn.CountTryAsync("name|hasty", null, at, Cancel)))).ShouldAllBe(a => a == null);
        (await signIn.CountTryAsync("name|hasty", null, at.AddHours(2), Cancel)).ShouldBeNull("after an hour without a wait it is forgotten");
    }

    [Fact]
    public async Task An_address_that_tries_many_names_waits_too()
    {
        for (var i = 0; i < SignInStore.FreeTriesOfAddress; i++)
        {
            (await signIn.CountTryAsync($"name|guess-{i}", "address|198.51.100.9", Now, Cancel)).ShouldBeNull();
        }
        (await signIn.CountTryAsync("name|guess-more", "address|198.51.100.9", Now, Cancel)).ShouldBe(Now.AddSeconds(30));
        (await signIn.CountTryAsync("name|guess-more", "address|198.51.100.10", Now, Cancel)).ShouldBeNull("somebody else at another address");
    }

    [Fact]
    public async Task A_session_ends_by_itself_by_hand_and_with_the_stamp()
    {
        var someone = await NewAsync("tablets");
        Task<Guid> BeginAsync() => signIn.BeginSessionAsync(someone.Who, "tablet", Now, Cancel);
        Task<ShopPerson?> SessionAsync(Guid session, DateTimeOffset at) => signIn.BySessionAsync(new SessionKey(someone.Who.ShopId, someone.Who.PersonId, someone.Stamp, session), at, Cancel);
        var (bay, office) = (await BeginAsync(), await BeginAsync());
        (await signIn.SessionsAsync(someone.Who, Now, Cancel)).Select(s => s.Id).ShouldBe([bay, office], ignoreOrder: true);
        (await SessionAsync(bay, Now + SignInStore.Idle - TimeSpan.FromMinutes(1))).ShouldNotBeNull();
        (await SessionAsync(bay, Now + SignInStore.Idle)).ShouldBeNull("nobody used it");
        await signIn.TouchSessionAsync(someone.Who, bay, Now.AddDays(6), Cancel);
        (await SessionAsync(bay, Now.AddDays(12))).ShouldNotBeNull();
        for (var day = 12; day < 33; day += 6)
        {
            await signIn.TouchSessionAsync(someone.Who, bay, Now.AddDays(day), Cancel);
        }
        (await SessionAsync(bay, Now + SignInStore.Longest)).ShouldBeNull("used or not, the password is asked for again");
        (await signIn.EndSessionAsync(db.Ostrel, office, Now, Cancel)).ShouldBeFalse("another person's");
        (await signIn.EndSessionAsync(someone.Who, office, Now, Cancel)).ShouldBeTrue();
        (await SessionAsync(office, Now)).ShouldBeNull();
        (await signIn.EndSessionAsync(someone.Who, office, Now, Cancel)).ShouldBeFalse();
    }

    [Fact]
    public async Task A_new_stamp_ends_every_sign_in_and_so_does_leaving()
    {
        var someone = await NewAsync("leaver");
        var session = await signIn.BeginSessionAsync(someone.Who, "tablet", Now, Cancel);
        Task<ShopPerson?> SessionAsync(Guid stamp, int? shop = null) => signIn.BySessionAsync(new SessionKey(shop ?? someone.Who.ShopId, someone.Who.PersonId, stamp, session), Now, Cancel);
        (await SessionAsync(someone.Stamp))!.Person.ShouldBe("leaver");
        var fresh = await people.SignOutEverywhereAsync(someone.Who, Cancel);
        (await SessionAsync(someone.Stamp)).ShouldBeNull();
        (await SessionAsync(fresh)).ShouldNotBeNull();
        (await SessionAsync(fresh, db.Stranger.ShopId)).ShouldBeNull("the shop is part of it");

        await NewAsync("stays", ShopRole.Foreman);
        (await people.ChangeAsync(db.Ostrel, someone.Who.PersonId, ShopRole.Technician, Now, Cancel)).ShouldBeTrue();
        (await SessionAsync(fresh)).ShouldBeNull();
        (await signIn.ByLoginAsync("leaver", Cancel)).ShouldBeNull();
    }

    [Fact]
    public async Task A_shop_keeps_a_foreman_who_can_sign_in_even_when_two_step_back_at_once()
    {
        await using var own = new OwnDatabase();
        await own.Db.InitializeAsync();
        var store = new PeopleStore(own.Db.Database);
        await own.Db.AsOwnerAsync("update person set password_hash = 'x', login = 'l' || id; insert into person (shop_id, name, role, login, password_hash) select shop_id, 'second', 'foreman', 'second', 'x' from person where name = 'M. Ostrel'");
        var second = (await store.ListAsync(own.Db.Ostrel, Now, Cancel)).Single(p => p.Name == "second").Id;
        var changed = await Task.WhenAll(
            store.ChangeAsync(own.Db.Ostrel, own.Db.Ostrel.PersonId, ShopRole.Viewer, null, Cancel),
            store.ChangeAsync(own.Db.Ostrel, second, ShopRole.Viewer, null, Cancel));
        changed.Count(c => c).ShouldBe(1);
        (await store.ListAsync(own.Db.Ostrel, Now, Cancel)).Count(p => p.Role == ShopRole.Foreman).ShouldBe(1);
    }

    [Fact]
    public async Task One_shop_sees_and_changes_nothing_of_another()
    {
        var someone = await NewAsync("ours");
        (await people.ListAsync(db.Stranger, Now, Cancel)).ShouldAllBe(p => p.Name == "A. Stranger");
        (await people.TokensAsync(db.Stranger, Cancel)).ShouldAllBe(t => t.Person == "A. Stranger");
        (await people.ChangeAsync(db.Stranger, someone.Who.PersonId, ShopRole.Viewer, Now, Cancel)).ShouldBeFalse();
        var token = (await people.TokensAsync(db.Ostrel, Cancel))[0];
        await people.RevokeTokenAsync(db.Stranger, token.Id, Now, Cancel);
        (await people.TokensAsync(db.Ostrel, Cancel)).Single(t => t.Id == token.Id).RevokedAt.ShouldBeNull();
        await people.SetSettingsAsync(db.Stranger with { ShopId = db.Stranger.ShopId }, "Over the sound", "Etc/UTC", PressureUnit.Bar, new ShopSettings(), Cancel);
        (await signIn.ByTokenAsync(TestDatabase.Token, DateTimeOffset.UtcNow, Cancel))!.Shop.ShouldBe("Quillmoor Ferry Workshop");
    }

    [Fact]
    public async Task A_token_speaks_until_it_is_revoked_and_settings_come_back_whole()
    {
        var word = await people.MakeTokenAsync(db.Ostrel, "the sheet", cancel: Cancel);
        (await signIn.ByTokenAsync(word, DateTimeOffset.UtcNow, Cancel))!.Person.ShouldBe("M. Ostrel");
        ((long)(await db.AsOwnerAsync($"select count(*) from api_token where position(convert_to('{word}', 'UTF8') in hash) > 0"))!).ShouldBe(0);
        var settings = new ShopSettings
        {
            Numbers = NumberStyle.Comma,
            Dates = DateStyle.DayFirst,
            JudgeBy = new JudgeBy { AltitudeM = 420, Limits = new Dictionary<SpreadMethod, IReadOnlyList<double>> { [SpreadMethod.PercentOfHighest] = [8, 16] } },
            HouseRules = [new HouseRule("Two-litre", "No head-only repair.")],
        };
        await people.SetSettingsAsync(db.Ostrel, "Quillmoor Ferry Workshop", "Atlantic/Faroe", PressureUnit.Bar, settings, Cancel);
        var who = (await signIn.ByTokenAsync(word, DateTimeOffset.UtcNow, Cancel))!;
        who.Unit.ShouldBe("bar");
        who.Settings.JudgeBy!.Limits![SpreadMethod.PercentOfHighest].ShouldBe([8, 16]);
        who.Settings.RulesFor(new EngineSheet { Name = "old two-litre four" }).ShouldHaveSingleItem();
        who.Settings.RulesFor(new EngineSheet { Name = "Diesel" }).ShouldBeEmpty();
        await people.RevokeTokenAsync(db.Ostrel, (await people.TokensAsync(db.Ostrel, Cancel)).First(t => t.Label == "the sheet").Id, Now, Cancel);
        (await signIn.ByTokenAsync(word, DateTimeOffset.UtcNow, Cancel)).ShouldBeNull();
    }

    private sealed class OwnDatabase : IAsyncDisposable
    {
        public TestDatabase Db { get; } = new();

        public async ValueTask DisposeAsync()
        {
            await Db.DisposeAsync();
            NpgsqlConnection.ClearAllPools();
        }
    }
}
