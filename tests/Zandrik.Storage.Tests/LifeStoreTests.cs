using Zandrik.Core.Life;
using Zandrik.Core.Records;
using Zandrik.Core.Units;

namespace Zandrik.Storage.Tests;

/// <summary>The lives of engines, the list of all of them, and what was done on them.</summary>
public sealed class LifeStoreTests(TestDatabase db) : IClassFixture<TestDatabase>, IDisposable
{
    private static readonly DateTimeOffset Start = new(2022, 3, 1, 9, 0, 0, TimeSpan.Zero);

    private readonly LifeStore lives = new(db.Database);
    private readonly FleetStore fleet = new(db.Database);
    private readonly RepairStore repairs = new(db.Database);

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    public void Dispose() => lives.Dispose();

    private Task<int> TestedAsync(string vehicle, int year, double? km, params double[] psi) => db.Jobs.CreateAsync(db.Ostrel, new TestRecord
    {
        Vehicle = new() { Label = vehicle, Odometer = km is { } k ? new Odometer { Value = k, Unit = DistanceUnit.Km } : null },
        Engine = new EngineSheet { Name = "Kelpie 4", Cylinders = 4, Fuel = Fuel.Petrol, Spec = new EngineSpec { Unit = PressureUnit.Psi, Minimum = 120 } },
        Tests = [new DryCompressionTest { At = Start.AddYears(year), Unit = PressureUnit.Psi, Tester = new Tester { Label = "Yard gauge" }, Readings = [.. psi.Select((v, i) => new CompressionReading { Cylinder = i + 1, Value = v })] }],
    }, Start.AddYears(year), cancel: Cancel);

    private async Task<int> EngineOf(int job) => (await db.Jobs.FindAsync(db.Ostrel, job, Cancel))!.EngineId;

    private async Task<FleetLine> LineAsync(int engine)
    {
        (await fleet.RefreshAsync(db.Ostrel, 10_000, Cancel)).ShouldBe(0);
        return (await fleet.ListAsync(db.Ostrel, FleetShow.All, FleetOrder.Due, null, Start, 0, 1000, Cancel)).Lines.Single(l => l.Engine == engine);
    }

    private static RepairDone Done(string option, params int[] cylinders) => new() { Option = option, Cylinders = cylinders, Minutes = 300, WasRight = true };

    [Fact]
    public async Task An_engines_tests_in_all_its_jobs_make_its_life()
    {
        var first = await TestedAsync("Kelp cart 1", 0, 80_000, 160, 161, 159, 160);
        await TestedAsync("Kelp cart 1", 1, 100_000, 157, 158, 150, 158);
        var last = await TestedAsync("Kelp cart 1", 2, 120_000, 155, 156, 141, 156);
        var engine = await EngineOf(first);
        var kept = (await lives.FindAsync(db.Ostrel, engine, Cancel))!;
        kept.Life.Tests.Count.ShouldBe(3);
        kept.Life.Run.AYear.ShouldBe(20_000, 100);
        kept.Life.Fastest!.Cylinder.ShouldBe(3);
        kept.Life.LatestDry!.Job.ShouldBe(last);
        kept.Life.Margin!.Value.ShouldBe(141.0 / 120 - 1, 1e-6);
        (await lives.FindAsync(db.Stranger, engine, Cancel)).ShouldBeNull();
        (await lives.FindAsync(db.Ostrel, engine + 10_000, Cancel)).ShouldBeNull();
    }

    [Fact]
    public async Task An_odometer_that_goes_back_is_asked_about_and_a_changed_one_goes_on()
    {
        await TestedAsync("Kelp cart 2", 0, 80_000, 160, 160, 160, 160);
        await TestedAsync("Kelp cart 2", 1, 100_000, 160, 160, 160, 160);
        var back = await TestedAsync("Kelp cart 2", 2, 4_000, 160, 160, 160, 160);
        var engine = await EngineOf(back);
        (await lives.FindAsync(db.Ostrel, engine, Cancel))!.Life.DoubtOf(back).ShouldBe(RunDoubt.Backwards);
        (await LineAsync(engine)).Doubts.ShouldBe(1);
        (await lives.SayOdometerAsync(db.Ostrel, back, true, Start, Cancel)).ShouldBeTrue();
        (await lives.SayOdometerAsync(db.Stranger, back, true, Start, Cancel)).ShouldBeFalse();
        (await lives.FindAsync(db.Ostrel, engine, Cancel))!.Life.DoubtOf(back).ShouldBe(RunDoubt.None);
        (await LineAsync(engine)).Doubts.ShouldBe(0, "what was said makes the line stale");
        var said = await lives.OdometersAsync(db.Ostrel, "KELP cart 2", Cancel);
        said.Select(v => (v.Odometer!.Value, v.IsReplaced)).ShouldBe([(80_000, false), (100_000, false), (4_000, true)]);
        (await lives.OdometersAsync(db.Stranger, "Kelp cart 2", Cancel)).ShouldBeEmpty();
        (await new VehicleStore(db.Database).ByLabelAsync(db.Ostrel, "KELP cart 2", Cancel))!.Label.ShouldBe("Kelp cart 2");
    }

    [Fact]
    public async Task What_was_done_is_kept_once_put_right_by_another_row_and_taken_back()
    {
        var job = await TestedAsync("Kelp cart 3", 0, 80_000, 160, 160, 100, 160);
        var key = Guid.NewGuid();
        (await repairs.NoteAsync(db.Ostrel, job, Done("top-end-1", 3), Start.AddDays(3), null, key, Start.AddDays(4), Cancel)).ShouldBe(StepAnswer.Kept);
        (await repairs.NoteAsync(db.Ostrel, job, Done("top-end-1", 3), Start.AddDays(3), null, key, Start.AddDays(4), Cancel)).ShouldBe(StepAnswer.Kept, "sent twice, kept once");
        var kept = (await repairs.ListAsync(db.Ostrel, job, Cancel)).ShouldHaveSingleItem();
        (kept.Done.Title(1), kept.Planned).ShouldBe(("Top end", null));
        (await repairs.NoteAsync(db.Ostrel, job, Done("top-end-1", 3) with { Minutes = 420, WasRight = false }, Start.AddDays(3), kept.Id, Guid.NewGuid(), Start.AddDays(5), Cancel)).ShouldBe(StepAnswer.Kept);
        (await repairs.NoteAsync(db.Ostrel, job, Done("gasket-1"), Start.AddDays(3), kept.Id, Guid.NewGuid(), Start.AddDays(5), Cancel)).Refused!.ShouldStartWith("Somebody changed or removed that entry");
        var right = (await repairs.ListAsync(db.Ostrel, job, Cancel)).ShouldHaveSingleItem();
        right.Done.Minutes.ShouldBe(420);
        (await repairs.OutcomesAsync(db.Ostrel, Cancel)).Count(o => o.Done.Minutes == 420).ShouldBe(1);
        (await repairs.OutcomesAsync(db.Stranger, Cancel)).ShouldBeEmpty();

        var engine = await EngineOf(job);
        (await LineAsync(engine)).ShouldSatisfyAllConditions(l => l.Why.ShouldBe("repaired"), l => l.Due.ShouldBe(Start.AddDays(3)));
        (await repairs.WithdrawAsync(db.Ostrel, job, kept.Id, Start, Cancel)).ShouldBeFalse("another row took its place");
        (await repairs.WithdrawAsync(db.Stranger, job, right.Id, Start, Cancel)).ShouldBeFalse();
        (await repairs.WithdrawAsync(db.Ostrel, job, right.Id, Start, Cancel)).ShouldBeTrue();
        (await repairs.ListAsync(db.Ostrel, job, Cancel)).ShouldBeEmpty("what was put right before does not come back");
        (await LineAsync(engine)).Why.ShouldBe("is-under");
        (await repairs.NoteAsync(db.Stranger, job + 5000, Done("leave"), Start, null, Guid.NewGuid(), Start, Cancel)).Found.ShouldBeFalse();
    }

    [Fact]
    public async Task The_list_is_worked_out_once_for_each_state_and_ordered()
    {
        var (worn, good) = (await TestedAsync("Kelp cart 4", 0, 80_000, 130, 131, 129, 130), await TestedAsync("Kelp cart 5", 0, 30_000, 165, 166, 164, 165));
        (await fleet.RefreshAsync(db.Ostrel, 10_000, Cancel)).ShouldBe(0);
        var byMargin = (await fleet.ListAsync(db.Ostrel, FleetShow.All, FleetOrder.Margin, "kelp cart", Start, 0, 100, Cancel)).Lines.Select(l => l.Job).ToList();
        byMargin.IndexOf(worn).ShouldBeLessThan(byMargin.IndexOf(good));
        var page = await fleet.ListAsync(db.Ostrel, FleetShow.All, FleetOrder.Name, "KELP CART 5", Start, 0, 100, Cancel);
        page.Lines.ShouldHaveSingleItem().Vehicle.ShouldBe("Kelp cart 5");
        (page.All, page.Stale).ShouldBe((1, 0));
        await TestedAsync("Kelp cart 5", 1, 50_000, 163, 163, 163, 163);
        (await fleet.ListAsync(db.Ostrel, FleetShow.All, FleetOrder.Name, "kelp cart 5", Start, 0, 100, Cancel)).Stale.ShouldBe(1);
        await fleet.RefreshAsync(db.Ostrel, 10_000, Cancel);
        (await fleet.ListAsync(db.Ostrel, FleetShow.All, FleetOrder.Name, "kelp cart 5", Start, 0, 100, Cancel)).Lines[0].Tests.ShouldBe(2);
        (await fleet.ListAsync(db.Stranger, FleetShow.All, FleetOrder.Due, null, Start, 0, 100, Cancel)).Lines.ShouldBeEmpty();
        foreach (var show in Enum.GetValues<FleetShow>())
        {
            foreach (var order in Enum.GetValues<FleetOrder>())
            {
                await fleet.ListAsync(db.Ostrel, show, order, null, Start, 0, 5, Cancel);
            }
        }
    }

    [Fact]
    public async Task One_that_was_sold_is_due_no_more_and_may_come_back()
    {
        var engine = await EngineOf(await TestedAsync("Kelp cart 6", 0, 80_000, 160, 160, 160, 160));
        (await fleet.RefreshAsync(db.Ostrel, 10_000, Cancel)).ShouldBe(0);
        (await fleet.DueAsync(db.Ostrel, Start.AddYears(3), 1000, Cancel)).ShouldContain(l => l.Engine == engine);
        (await lives.SayGoneAsync(db.Ostrel, engine, EngineGone.Sold, Start.AddMonths(2), Cancel)).ShouldBeTrue();
        (await fleet.RefreshAsync(db.Ostrel, 10_000, Cancel)).ShouldBe(0);
        (await fleet.DueAsync(db.Ostrel, Start.AddYears(3), 1000, Cancel)).ShouldNotContain(l => l.Engine == engine);
        (await fleet.ListAsync(db.Ostrel, FleetShow.Gone, FleetOrder.Name, null, Start, 0, 100, Cancel)).Lines.ShouldContain(l => l.Engine == engine && l.GoneAt != null);
        (await lives.FindAsync(db.Ostrel, engine, Cancel))!.Gone.ShouldBe(EngineGone.Sold);
        (await lives.SayGoneAsync(db.Stranger, engine, null, Start, Cancel)).ShouldBeFalse();
        (await lives.SayGoneAsync(db.Ostrel, engine, null, Start, Cancel)).ShouldBeTrue();
        (await LineAsync(engine)).Due.ShouldNotBeNull();
    }

    [Fact]
    public async Task The_rule_of_the_shop_moves_what_is_due()
    {
        var engine = await EngineOf(await TestedAsync("Kelp cart 7", 0, 80_000, 170, 170, 170, 170));
        var usual = (await LineAsync(engine)).Due;
        (await lives.RuleAsync(db.Ostrel, Cancel)).ShouldBe(RetestRule.Usual);
        await lives.ChangeRuleAsync(db.Ostrel, new RetestRule(3, 20_000, 800), Cancel);
        (await LineAsync(engine)).Due!.Value.ShouldBeLessThan(usual!.Value);
        (await lives.RuleAsync(db.Stranger, Cancel)).ShouldBe(RetestRule.Usual);
        await lives.ChangeRuleAsync(db.Ostrel, RetestRule.Usual, Cancel);
    }

    [Fact]
    public async Task Every_kind_of_test_stands_in_the_history_and_dry_ones_alone_in_the_trend()
    {
        var job = await db.Jobs.CreateAsync(db.Ostrel, new TestRecord
        {
            Vehicle = new() { Label = "Kelp cart 10" },
            Engine = new EngineSheet { Name = "Kelpie 4", Cylinders = 4, Fuel = Fuel.Petrol, Spec = new EngineSpec { Unit = PressureUnit.Psi, Minimum = 120 } },
            Tests =
            [
                new DryCompressionTest { At = Start, Unit = PressureUnit.Psi, Readings = [.. Enumerable.Range(1, 4).Select(c => new CompressionReading { Cylinder = c, Value = 160 + c })] },
                new RunningCompressionTest { At = Start.AddHours(1), Unit = PressureUnit.Bar, Readings = [new RunningReading { Cylinder = 2, Idle = 4.5 }, new RunningReading { Cylinder = 3, Snap = 9 }] },
                new RelativeCompressionTest { At = Start.AddHours(2), Readings = [new RelativeReading { Cylinder = 1, RelativePercent = 100 }, new RelativeReading { Cylinder = 4, RelativePercent = 71 }] },
                new CombustionGasTest { At = Start.AddHours(3), Result = CombustionGasResult.Positive },
                new PlugInspection { At = Start.AddHours(4), Readings = [new PlugReading { Cylinder = 1 }] },
            ],
        }, Start, cancel: Cancel);
        var life = (await lives.FindAsync(db.Ostrel, await EngineOf(job), Cancel))!.Life;
        life.Tests.Select(t => t.Kind).ShouldBe([TestKind.Dry, TestKind.Running, TestKind.Relative, TestKind.CombustionGas]);
        life.Tests[1].Values.ShouldBe(new Dictionary<int, double> { [2] = 450_000 });
        life.Tests[2].Worst.ShouldBe((4, 71.0));
        life.Tests[3].Says.ShouldNotBeNull().ShouldStartWith("Combustion gas in the coolant");
        life.Tests.Where(t => t.IsCompared).ShouldHaveSingleItem().Kind.ShouldBe(TestKind.Dry);
        (life.LatestDry!.Values.Count, life.LatestDry.LeftOut).ShouldBe((4, null));
    }

    [Fact]
    public async Task A_life_in_memory_is_as_new_as_the_database()
    {
        var job = await TestedAsync("Kelp cart 9", 0, 80_000, 170, 170, 170, 170);
        var engine = await EngineOf(job);
        async Task<KeptLife> FindAsync() => (await lives.FindAsync(db.Ostrel, engine, Cancel))!;
        var before = await FindAsync();
        (await FindAsync()).ShouldBeSameAs(before, "nothing changed");
        (await lives.FindAsync(db.Stranger, engine, Cancel)).ShouldBeNull("what one shop has in memory is no other's");
        // Whatever is written of it, by another copy of the program too, is there at the next look.
        using var other = new LifeStore(db.Database);
        (string What, Func<Task> Act, Func<KeptLife, bool> Shows)[] changes =
        [
            ("a test more", () => TestedAsync("Kelp cart 9", 1, 95_000, 168, 168, 160, 168), k => k.Life.Tests.Count == 2),
            ("an odometer", () => other.SayOdometerAsync(db.Ostrel, job, false, Start, Cancel), k => k.Jobs[0].IsConfirmed),
            ("a repair", () => repairs.NoteAsync(db.Ostrel, job, Done("top-end-1", 3), Start.AddDays(3), null, Guid.NewGuid(), Start.AddDays(4), Cancel), k => k.Life.Repairs.Count == 1),
            ("sold", () => other.SayGoneAsync(db.Ostrel, engine, EngineGone.Sold, Start, Cancel), k => k.Gone == EngineGone.Sold),
            ("back", () => other.SayGoneAsync(db.Ostrel, engine, null, Start, Cancel), k => k.Gone is null),
        ];
        foreach (var (what, act, shows) in changes)
        {
            shows(await FindAsync()).ShouldBeFalse(what);
            await act();
            shows(await FindAsync()).ShouldBeTrue(what);
        }
        var usual = (await FindAsync()).Life.Retest.Due;
        await other.ChangeRuleAsync(db.Ostrel, new RetestRule(2, 20_000, 800), Cancel);
        (await FindAsync()).Life.Retest.Due.ShouldNotBe(usual);
        await other.ChangeRuleAsync(db.Ostrel, RetestRule.Usual, Cancel);
    }

    [Fact]
    public async Task A_calendars_address_opens_one_shop_until_it_is_revoked()
    {
        var signIn = new SignInStore(db.Database);
        var secret = await fleet.MakeFeedAsync(db.Ostrel, Start, Cancel);
        var who = (await signIn.ByFeedAsync(secret, Cancel))!;
        (who.ShopId, who.MayMeasure).ShouldBe((db.Ostrel.ShopId, false));
        (await signIn.ByFeedAsync(secret + "0", Cancel)).ShouldBeNull();
        var feed = (await fleet.FeedsAsync(db.Ostrel, Cancel)).ShouldHaveSingleItem();
        (await fleet.RevokeFeedAsync(db.Stranger, feed.Id, Start, Cancel)).ShouldBeFalse();
        (await fleet.RevokeFeedAsync(db.Ostrel, feed.Id, Start, Cancel)).ShouldBeTrue();
        (await signIn.ByFeedAsync(secret, Cancel)).ShouldBeNull();
    }

    [Fact]
    public async Task Hours_planned_stand_beside_hours_taken()
    {
        var job = await TestedAsync("Kelp cart 8", 0, 80_000, 160, 160, 90, 160);
        var decisions = new DecisionStore(db.Database);
        var best = Core.Deciding.DecisionSheet.Of((await new WorkspaceStore(db.Database).FindAsync(db.Ostrel, job, null, Cancel))!.Assessment).Options.First(o => o.Struck is null && !o.Option.IsLeave);
        (await decisions.ChooseAsync(db.Ostrel, job, best.Word, "Because it is wanted.", 0, Guid.NewGuid(), Start, Cancel)).Refused.ShouldBeNull();
        await repairs.NoteAsync(db.Ostrel, job, Done(best.Word), Start.AddDays(1), null, Guid.NewGuid(), Start.AddDays(1), Cancel);
        (await repairs.ListAsync(db.Ostrel, job, Cancel)).ShouldHaveSingleItem().Planned.ShouldBe(best.Minutes);
        var line = RepairLine.Of(await repairs.OutcomesAsync(db.Ostrel, Cancel)).Single(l => l.Counted == 1);
        (line.PlannedMinutes, line.TakenMinutes).ShouldBe((best.Minutes.Mean, 300));
    }
}
