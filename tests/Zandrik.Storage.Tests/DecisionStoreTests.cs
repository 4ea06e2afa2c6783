using Npgsql;
using Zandrik.Core.Records;
using Zandrik.Core.Repairs;
using Zandrik.Core.Units;

namespace Zandrik.Storage.Tests;

public sealed class DecisionStoreTests(TestDatabase db) : IClassFixture<TestDatabase>
{
    private static readonly DateTimeOffset Now = new(2026, 5, 4, 8, 0, 0, TimeSpan.Zero);

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private readonly DecisionStore decisions = new(db.Database);

    // A loud exhaust valve with hydraulic lifters: the head comes off, and nothing cheaper is tried first.
    private Task<int> JobAsync() => db.Jobs.CreateAsync(db.Ostrel, new TestRecord
    {
        Vehicle = new() { Label = "Kelp cart" },
        Engine = new EngineSheet { Cylinders = 4, Fuel = Fuel.Petrol, Lifters = Lifters.Hydraulic, Layout = CylinderArrangement.Inline, DisplacementCc = 2000, Spec = new EngineSpec { Unit = PressureUnit.Psi, Nominal = 190 } },
        Tests =
        [
            new DryCompressionTest { Unit = PressureUnit.Psi, Readings = [.. new[] { 190.0, 188, 131, 191 }.Select((v, i) => new CompressionReading { Cylinder = i + 1, Value = v })] },
            new LeakDownTest { Unit = PressureUnit.Psi, Supply = 100, Readings = [new LeakDownReading { Cylinder = 3, LeakPercent = 85, Heard = [new HeardAir { At = ListeningPlace.Exhaust, Strength = HeardStrength.Strong }] }] },
        ],
    }, Now, cancel: Cancel);

    private Task<StepAnswer> ChooseAsync(int job, string option, string? reason, int seen, Guid? key = null, ShopPerson? who = null) => decisions.ChooseAsync(who ?? db.Ostrel, job, option, reason, seen, key ?? Guid.NewGuid(), Now, Cancel);

    [Fact]
    public async Task What_was_chosen_stands_as_versions_with_what_it_was_chosen_from()
    {
        var job = await JobAsync();
        var key = Guid.NewGuid();
        (await ChooseAsync(job, "top-end-1", null, 0, key)).ShouldBe(new StepAnswer(true, null));
        (await ChooseAsync(job, "top-end-1", null, 0, key)).ShouldBe(new StepAnswer(true, null), "sent twice, chosen once");
        (await ChooseAsync(job, "exchange", "  ", 1)).Refused!.ShouldStartWith("Say why it is not the cheapest");
        (await ChooseAsync(job, "magic", "Because.", 1)).Refused!.ShouldStartWith("This option is not among them");
        (await ChooseAsync(job, "exchange", " They have one. ", 0)).Refused!.ShouldContain("chose meanwhile: look at version 1 first");
        (await ChooseAsync(job, "exchange", " They have one. ", 1)).Refused.ShouldBeNull();
        (await ChooseAsync(job + 1000, "leave", null, 0)).Found.ShouldBeFalse();
        (await decisions.ListAsync(db.Ostrel, job, Cancel)).Select(v => (v.Version, v.Chosen, v.Best, v.Reason)).ShouldBe([(2, "exchange", "top-end-1", "They have one."), (1, "top-end-1", "top-end-1", null)]);
        var first = (await decisions.FindAsync(db.Ostrel, job, 1, Cancel))!.Decided;
        (first.Choice.Title, first.Choice.IsBest, first.Finding).ShouldBe(("Top end", true, "Cylinder 3: almost certainly the exhaust valve."));
        first.ForOwner.Count.ShouldBeInRange(2, 3);
        (await decisions.ListAsync(db.Stranger, job, Cancel)).ShouldBeEmpty();
        (await decisions.FindAsync(db.Stranger, job, 1, Cancel)).ShouldBeNull();
    }

    [Fact]
    public async Task Two_who_choose_at_once_make_one_version_and_the_other_is_told()
    {
        var job = await JobAsync();
        var answers = await Task.WhenAll(Enumerable.Range(0, 6).Select(i => ChooseAsync(job, i % 2 == 0 ? "top-end-1" : "exchange", "At once.", 0)));
        answers.Count(a => a.Refused is null).ShouldBe(1);
        answers.Where(a => a.Refused is not null).ShouldAllBe(a => a.Refused!.Contains("chose meanwhile", StringComparison.Ordinal));
        (await decisions.ListAsync(db.Ostrel, job, Cancel)).Count.ShouldBe(1);
    }

    [Fact]
    public async Task What_is_known_of_the_owner_and_of_repairs_is_weighed_and_what_was_decided_before_stays_as_it_was()
    {
        var job = await JobAsync();
        (await ChooseAsync(job, "top-end-1", null, 0)).Refused.ShouldBeNull();
        var workspaces = new WorkspaceStore(db.Database);
        async Task<double> TopEndAsync() => (await workspaces.FindAsync(db.Ostrel, job, null, Cancel))!.Assessment.Diagnosis.Decision.Options.Single(o => o.Option == RepairOption.Of(Repair.TopEnd)).Expected;
        var before = await TopEndAsync();
        await decisions.LearnAsync(db.Ostrel, p => p.With(new KeptFigure(null, new RepairFigure("top-end", new Estimate(900, 1000, 1200)))), Now, Cancel);
        (await TopEndAsync()).ShouldBeGreaterThan(before + 500);
        (await decisions.FindAsync(db.Ostrel, job, 1, Cancel))!.Decided.Choice.Expected.ShouldBe(before, 1e-6);
        await decisions.LearnAsync(db.Ostrel, p => p.With(new RepairStrike("anything", Repair.TopEnd, "No.")), Now, Cancel);
        await decisions.LearnAsync(db.Ostrel, p => p.With(new KeptFigure(null, new RepairFigure("top-end"))), Now, Cancel);
        (await TopEndAsync()).ShouldBe(before, 1e-6, "an engine without a name is of no family, and the figure went back to the rule");
        (await workspaces.FindAsync(db.Ostrel, job, null, Cancel))!.Knowledge.Repairs.Strikes.ShouldBe([new RepairStrike("anything", Repair.TopEnd, "No.")]);

        var inputs = new DecisionInputs { Worth = 900, KmAYear = 12_000, Wishes = "Before the regatta." };
        (await decisions.KnowAsync(db.Ostrel, job, inputs, Guid.NewGuid(), Now, Cancel)).Found.ShouldBeTrue();
        (await workspaces.FindAsync(db.Ostrel, job, null, Cancel))!.Knowledge.Inputs.ShouldBe(inputs);
        (await workspaces.FindAsync(db.Ostrel, await JobAsync(), null, Cancel))!.Knowledge.Inputs.ShouldBe(DecisionInputs.None, "of this job only");
        (await decisions.KnowAsync(db.Stranger, job + 1000, inputs, Guid.NewGuid(), Now, Cancel)).Found.ShouldBeFalse();
    }

    [Fact]
    public async Task Figures_that_two_put_right_at_once_are_both_kept()
    {
        await Task.WhenAll(Enumerable.Range(0, 8).Select(i => decisions.LearnAsync(db.Ostrel, p => p.With(new KeptFigure(null, new RepairFigure($"access-{i}", new Estimate(1, 2, 3)))), Now, Cancel)));
        var kept = (await new WorkspaceStore(db.Database).FindAsync(db.Ostrel, await JobAsync(), null, Cancel))!.Knowledge.Repairs.Figures.Select(f => f.Figure.What);
        Enumerable.Range(0, 8).ShouldAllBe(i => kept.Contains($"access-{i}"));
    }

    [Fact]
    public async Task An_owners_link_opens_one_decision_for_thirty_days_and_a_guessed_a_revoked_and_an_old_one_are_nothing()
    {
        var job = await JobAsync();
        (await decisions.MakeLinkAsync(db.Ostrel, job, 1, Now, Cancel)).ShouldBeNull("nothing is decided yet");
        await ChooseAsync(job, "top-end-1", null, 0);
        var secret = (await decisions.MakeLinkAsync(db.Ostrel, job, 1, Now, Cancel))!;
        var other = (await decisions.MakeLinkAsync(db.Ostrel, job, 1, Now, Cancel))!;
        secret.Length.ShouldBe(40);
        var opened = (await decisions.OpenAsync(secret, Now.AddDays(29), Cancel))!;
        (opened.Job, opened.Vehicle, opened.Decided.Chosen).ShouldBe((job, "Kelp cart", "top-end-1"));
        (await decisions.OpenAsync(secret, Now + DecisionStore.LinkLasts, Cancel)).ShouldBeNull("over");
        (await decisions.OpenAsync(secret[..39] + (secret[39] == '0' ? '1' : '0'), Now, Cancel)).ShouldBeNull("guessed");
        var link = (await decisions.LinksAsync(db.Ostrel, job, Cancel))[1];
        (await decisions.RevokeAsync(db.Stranger, job, link.Id, Now, Cancel)).ShouldBeFalse();
        (await decisions.RevokeAsync(db.Ostrel, job, link.Id, Now, Cancel)).ShouldBeTrue();
        (await decisions.RevokeAsync(db.Ostrel, job, link.Id, Now, Cancel)).ShouldBeFalse();
        (await decisions.OpenAsync(secret, Now, Cancel)).ShouldBeNull("revoked");
        (await decisions.OpenAsync(other, Now, Cancel)).ShouldNotBeNull();
        ((string)(await db.AsOwnerAsync("select string_agg(what, ',' order by id) from audit_event where what like 'owner-link%'"))!).ShouldBe("owner-link-made,owner-link-made,owner-link-revoked");
        ((long)(await db.AsOwnerAsync($"select count(*) from owner_link where encode(hash, 'escape') like '%{other}%'"))!).ShouldBe(0, "the address itself is kept nowhere");
    }

    [Theory]
    [InlineData("update decision set chosen = 'leave'")]
    [InlineData("delete from decision_input")]
    [InlineData("truncate repair_policy")]
    public async Task What_was_decided_is_never_changed(string sql)
    {
        await ChooseAsync(await JobAsync(), "top-end-1", null, 0);
        await Should.ThrowAsync<PostgresException>(() => db.AsOwnerAsync(sql));
    }
}
