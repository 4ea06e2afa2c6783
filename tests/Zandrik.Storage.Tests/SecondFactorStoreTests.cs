using Zandrik.Core.Shops;

namespace Zandrik.Storage.Tests;

public sealed class SecondFactorStoreTests(TestDatabase db) : IClassFixture<TestDatabase>
{
    private static readonly DateTimeOffset Now = new(2026, 11, 30, 9, 0, 0, TimeSpan.Zero);

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private SecondFactorStore Codes => new(db.Database);

    [Fact]
    public async Task A_code_and_a_recovery_code_are_good_once_and_only_for_whom_they_are()
    {
        var paper = await Codes.TurnOnAsync(db.Ostrel, "sealed", 100, Now, Cancel);
        paper.Distinct().Count().ShouldBe(SecondFactorStore.RecoveryCodes);
        (await Codes.SecretAsync(db.Ostrel, Cancel)).ShouldBe("sealed");
        (await Codes.SecretAsync(db.Stranger, Cancel)).ShouldBeNull();

        (await Codes.TakeStepAsync(db.Ostrel, 100, Cancel)).ShouldBeFalse("it proved the phone: it is used up");
        (await Codes.TakeStepAsync(db.Ostrel, 102, Cancel)).ShouldBeTrue();
        (await Codes.TakeStepAsync(db.Ostrel, 102, Cancel)).ShouldBeFalse();
        (await Codes.TakeStepAsync(db.Ostrel, 101, Cancel)).ShouldBeFalse("an older one, seen over a shoulder");

        (await Codes.TakeRecoveryAsync(db.Stranger, paper[0], Now, Cancel)).ShouldBeFalse();
        (await Codes.TakeRecoveryAsync(db.Ostrel, paper[0], Now, Cancel)).ShouldBeTrue();
        (await Codes.TakeRecoveryAsync(db.Ostrel, paper[0], Now, Cancel)).ShouldBeFalse();
        (await Codes.RecoveryLeftAsync(db.Ostrel, Cancel)).ShouldBe(SecondFactorStore.RecoveryCodes - 1);

        (await Codes.TurnOffAsync(db.Stranger, db.Ostrel.PersonId, Cancel)).ShouldBeFalse("another shop's");
        (await Codes.TurnOffAsync(db.Ostrel, db.Ostrel.PersonId, Cancel)).ShouldBeTrue();
        (await Codes.RecoveryLeftAsync(db.Ostrel, Cancel)).ShouldBe(0);
        var noted = (await new AuditStore(db.Database).ListAsync(db.Ostrel, null, null, null, 3, Cancel)).Lines.Select(l => l.What);
        noted.ShouldBe(["second-factor-off", "recovery-code-used", "second-factor-on"]);
    }

    [Fact]
    public async Task Of_two_that_bring_the_same_code_at_once_one_gets_in()
    {
        var paper = await Codes.TurnOnAsync(db.Ostrel, "sealed", 100, Now, Cancel);
        (await Task.WhenAll(Enumerable.Range(0, 8).Select(_ => Codes.TakeStepAsync(db.Ostrel, 200, Cancel)))).Count(t => t).ShouldBe(1);
        (await Task.WhenAll(Enumerable.Range(0, 8).Select(_ => Codes.TakeRecoveryAsync(db.Ostrel, paper[3], Now, Cancel)))).Count(t => t).ShouldBe(1);
    }

    [Fact]
    public async Task The_shops_rule_binds_its_foremen_only_until_they_have_a_code()
    {
        var signIn = new SignInStore(db.Database);
        await db.AsOwnerAsync("update person set login = 'rule-' || id, password_hash = 'x' where shop_id = 1");
        async Task<ShopPerson> LookAsync() => (await signIn.ByLoginAsync($"rule-{db.Ostrel.PersonId}", Cancel))!.Who;
        await Codes.SetRuleAsync(db.Ostrel, true, Cancel);
        (await LookAsync()).LacksCode.ShouldBe((await LookAsync()).Role == ShopRole.Foreman);
        await db.AsOwnerAsync($"update person set role = 'foreman' where id = {db.Ostrel.PersonId}");
        (await LookAsync()).LacksCode.ShouldBeTrue();
        await Codes.TurnOnAsync(db.Ostrel, "sealed", 1, Now, Cancel);
        (await LookAsync()).LacksCode.ShouldBeFalse();
        await Codes.SetRuleAsync(db.Ostrel, false, Cancel);
        (await LookAsync()).ForemenNeedCode.ShouldBeFalse();
    }
}
