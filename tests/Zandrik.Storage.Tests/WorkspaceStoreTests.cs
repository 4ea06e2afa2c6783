using Zandrik.Core.Compression;
using Zandrik.Core.Records;
using Zandrik.Core.Testers;
using Zandrik.Core.Units;

namespace Zandrik.Storage.Tests;

/// <summary>A workspace is kept for as long as its stamp, and its stamp changes with everything it shows.</summary>
public sealed class WorkspaceStoreTests(TestDatabase db) : IClassFixture<TestDatabase>, IDisposable
{
    private static readonly DateTimeOffset Now = new(2026, 11, 5, 10, 0, 0, TimeSpan.Zero);

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private readonly WorkspaceStore workspaces = new(db.Database);

    public void Dispose() => workspaces.Dispose();

    private Task<int> JobAsync(string vehicle, params double[] dry) => db.Jobs.CreateAsync(db.Ostrel, new TestRecord
    {
        Vehicle = new Vehicle { Label = vehicle },
        Engine = new EngineSheet { Cylinders = 4, Fuel = Fuel.Petrol, Spec = new EngineSpec { Unit = PressureUnit.Psi, Nominal = 190 } },
        Tests = dry.Length == 0 ? null : [new DryCompressionTest { Unit = PressureUnit.Psi, Readings = [.. dry.Select((v, i) => new CompressionReading { Cylinder = i + 1, Value = v })] }],
    }, Now, cancel: Cancel);

    // As a page asks: with who is looking.
    private async Task<JobStamp> StampAsync(int job)
    {
        await using var owner = Npgsql.NpgsqlDataSource.Create(db.Owner);
        await using var command = owner.CreateCommand($"select stamp from person where id = {db.Ostrel.PersonId}");
        var stamp = (Guid)(await command.ExecuteScalarAsync(Cancel))!;
        var signIn = new SignInStore(db.Database);
        var session = await signIn.BeginSessionAsync(db.Ostrel, "tablet", Now, Cancel);
        return (await signIn.VisitAsync(new SessionKey(db.Ostrel.ShopId, db.Ostrel.PersonId, stamp, session), Now, new VisitAbout(job), Cancel))!.Jobs.Single();
    }

    [Fact]
    public async Task What_is_kept_is_handed_out_until_something_changes()
    {
        var job = await JobAsync("Kept van", 190, 188, 131, 191);
        var stamp = await StampAsync(job);
        var first = (await workspaces.FindAsync(db.Ostrel, job, stamp, Cancel))!;
        (await workspaces.FindAsync(db.Ostrel, job, await StampAsync(job), Cancel)).ShouldBeSameAs(first);
        (await workspaces.FindAsync(db.Ostrel, [stamp], Cancel)).ShouldHaveSingleItem().ShouldBeSameAs(first);
        (await workspaces.FindAsync(db.Ostrel, job, null, Cancel)).ShouldNotBeSameAs(first, "asked without a stamp it is loaded");
        await db.DryTests.EnterAsync(db.Ostrel, job, null, new PadEntry(3, PadEntryKind.Repeat, new GaugePressure(133, PressureUnit.Psi)), Guid.NewGuid(), Now, cancel: Cancel);
        var after = await StampAsync(job);
        after.ShouldNotBe(stamp);
        var second = (await workspaces.FindAsync(db.Ostrel, job, after, Cancel))!;
        second.ShouldNotBeSameAs(first);
        second.Job.LatestRow.ShouldBeGreaterThan(first.Job.LatestRow);
    }

    // Entries, corrections, notes, strikes and undos of two people in any order: what is followed in memory is what the database holds.
    [Theory]
    [InlineData(11)]
    [InlineData(12)]
    [InlineData(13)]
    public async Task A_reading_followed_in_memory_is_what_loading_gives(int seed)
    {
        var dice = new Random(seed);
        var job = await JobAsync($"Followed {seed}");
        var second = db.Ostrel with { PersonId = (int)(await db.AsOwnerAsync($"insert into person (shop_id, name, role) values ({db.Ostrel.ShopId}, 'L. Follower {seed}', 'technician') returning id"))!, Person = $"L. Follower {seed}" };
        // Oil in a cylinder marks what is read after it.
        await new StepStore(db.Database).AddTestAsync(db.Ostrel, job, new WetCompressionTest { Unit = PressureUnit.Psi, At = Now, Readings = [new CompressionReading { Cylinder = 2, Value = 150, At = Now }] }, null, Guid.NewGuid(), Now, cancel: Cancel);
        var followed = 0;
        for (var i = 0; i < 40; i++)
        {
            var (who, cylinder, at) = (dice.Next(2) == 0 ? db.Ostrel : second, dice.Next(1, 5), Now.AddSeconds(7 * (i + 1)).AddTicks(dice.Next(10_000_000)));
            var before = await StampAsync(job);
            var kept = await workspaces.FindAsync(who, job, before, Cancel);
            var test = kept!.Job.LatestDry.Id;
            var said = new GaugePressure(dice.Next(90, 200), dice.Next(9) == 0 ? PressureUnit.Bar : PressureUnit.Psi);
            said = said.Unit == PressureUnit.Bar ? new GaugePressure(Math.Round(said.Value / 14.5, 1), said.Unit) : said;
            var known = kept.Job.LatestDry.Test?.Readings?.FirstOrDefault(r => r.Cylinder == cylinder)?.Value;
            TestAnswer answer;
            switch (dice.Next(8))
            {
                case 0 when test > 0:
                    await db.DryTests.UndoAsync(who, job, test, Guid.NewGuid(), at, Cancel);
                    continue;
                case 1:
                    answer = await db.DryTests.DescribeAsync(who, job, null, cylinder, new ReadingDetails { Seconds = dice.Next(2, 9) }, Guid.NewGuid(), at, PressureUnit.Psi, Cancel);
                    break;
                case 2 when known is { } value:
                    answer = await db.DryTests.EnterAsync(who, job, null, new PadEntry(cylinder, PadEntryKind.Strike, new GaugePressure(value, PressureUnit.Psi)) { Struck = new StruckOut { Reason = StruckReason.HoseLeaked } }, Guid.NewGuid(), at, cancel: Cancel);
                    break;
                default:
                    answer = await db.DryTests.EnterAsync(who, job, null, new PadEntry(cylinder, dice.Next(3) switch { 0 => PadEntryKind.FirstPulse, 1 => PadEntryKind.Repeat, _ => PadEntryKind.Reading }, said),
                        Guid.NewGuid(), at, seen: dice.Next(3) == 0 ? 0 : null, cancel: Cancel);
                    break;
            }
            if (workspaces.Follow(who, answer.Added) is not { } after)
            {
                continue;
            }
            followed++;
            after.ShouldBe(await StampAsync(job));
            var inMemory = (await workspaces.FindAsync(who, job, after, Cancel))!;
            using var fresh = new WorkspaceStore(db.Database);
            var loaded = (await fresh.FindAsync(who, job, null, Cancel))!;
            TestRecordJson.Write(inMemory.Job.Record).ShouldBe(TestRecordJson.Write(loaded.Job.Record));
            inMemory.Job.Rows.SelectMany(t => t.Value.Select(r => (t.Key, r.Key, r.Value))).Order().ShouldBe(loaded.Job.Rows.SelectMany(t => t.Value.Select(r => (t.Key, r.Key, r.Value))).Order());
            inMemory.Assessment.Headline.ShouldBe(loaded.Assessment.Headline);
        }
        followed.ShouldBeGreaterThan(15, "most entries need no loading");
    }

    [Fact]
    public async Task A_reading_is_not_followed_past_somebody_elses_change()
    {
        var job = await JobAsync("Overtaken", 190, 188, 131, 191);
        await workspaces.FindAsync(db.Ostrel, job, await StampAsync(job), Cancel);
        await db.Jobs.ShowInAsync(db.Ostrel, job, PressureUnit.Bar, Cancel);
        var answer = await db.DryTests.EnterAsync(db.Ostrel, job, null, new PadEntry(3, PadEntryKind.Repeat, new GaugePressure(133, PressureUnit.Psi)), Guid.NewGuid(), Now, cancel: Cancel);
        workspaces.Follow(db.Ostrel, answer.Added).ShouldBeNull("what is in memory is of before the unit changed");
        var added = answer.Added!;
        workspaces.Follow(db.Ostrel, added with { After = added.After with { Stamp = added.After.Stamp + "x" } }).ShouldBeNull("something else changed with it");
        workspaces.Follow(db.Ostrel, null).ShouldBeNull();
    }

    [Fact]
    public async Task Another_copy_of_the_program_is_never_behind()
    {
        var job = await JobAsync("Two copies", 190, 188, 131, 191);
        using var other = new WorkspaceStore(db.Database);
        (await other.FindAsync(db.Ostrel, job, await StampAsync(job), Cancel))!.Job.Unit.ShouldBe(PressureUnit.Psi);
        await db.Jobs.ShowInAsync(db.Ostrel, job, PressureUnit.Bar, Cancel);
        (await other.FindAsync(db.Ostrel, job, await StampAsync(job), Cancel))!.Job.Unit.ShouldBe(PressureUnit.Bar);
    }

    [Fact]
    public async Task Everything_a_page_shows_changes_the_stamp_and_nothing_else_does()
    {
        var before = await JobAsync("Stamped van", 190, 189, 190, 191);
        var job = await JobAsync("Stamped van");
        var elsewhere = await JobAsync("Other van", 190, 189, 190, 191);
        var steps = new StepStore(db.Database);
        var stamps = new HashSet<string> { (await StampAsync(job)).Stamp };
        async Task ChangesAsync(string what, Func<Task> change)
        {
            await change();
            stamps.Add((await StampAsync(job)).Stamp).ShouldBeTrue(what);
        }
        await ChangesAsync("a reading", () => db.DryTests.EnterAsync(db.Ostrel, job, null, new PadEntry(1, PadEntryKind.Reading, new GaugePressure(190, PressureUnit.Psi)), Guid.NewGuid(), Now, cancel: Cancel));
        await ChangesAsync("conditions", () => db.DryTests.SetConditionsAsync(db.Ostrel, job, null, new TestConditions { Fuel = Supply.Off }, PressureUnit.Psi, Now, Cancel));
        await ChangesAsync("a tick", () => steps.DoAsync(db.Ostrel, job, "prepare", "throttle", null, true, Guid.NewGuid(), Now, _ => null, Cancel));
        await ChangesAsync("a check", () => steps.AddTestAsync(db.Ostrel, job, new CombustionGasTest { Result = CombustionGasResult.Negative }, null, Guid.NewGuid(), Now, cancel: Cancel));
        await ChangesAsync("the unit", () => db.Jobs.ShowInAsync(db.Ostrel, job, PressureUnit.Bar, Cancel));
        await ChangesAsync("the job before it", () => db.DryTests.EnterAsync(db.Ostrel, before, null, new PadEntry(1, PadEntryKind.Repeat, new GaugePressure(150, PressureUnit.Psi)), Guid.NewGuid(), Now, cancel: Cancel));
        await ChangesAsync("a gauge", () => new TesterStore(db.Database).SaveAsync(db.Ostrel, null, new ShopTester { Label = "Gauge 9", Kind = TesterKind.Gauge }, Cancel));
        await ChangesAsync("what was found", () => new VerdictStore(db.Database).AddFoundAsync(db.Ostrel, job, new FoundFault { Fault = Fault.None }, Guid.NewGuid(), Now, Cancel));
        await ChangesAsync("closing", () => db.Jobs.CloseAsync(db.Ostrel, job, Now, cancel: Cancel));
        await ChangesAsync("the vehicle's name", async () => await new VehicleStore(db.Database).ChangeAsync(db.Ostrel, (await db.Jobs.FindAsync(db.Ostrel, job, Cancel))!.VehicleId!.Value, "Stamped van II", null, null, Cancel));

        await db.DryTests.EnterAsync(db.Ostrel, elsewhere, null, new PadEntry(1, PadEntryKind.Repeat, new GaugePressure(150, PressureUnit.Psi)), Guid.NewGuid(), Now, cancel: Cancel);
        stamps.Add((await StampAsync(job)).Stamp).ShouldBeFalse("another vehicle's job");
        await JobAsync("Other van");
        stamps.Add((await StampAsync(job)).Stamp).ShouldBeFalse("a job of a vehicle that is there already");
    }

    [Fact]
    public async Task Another_shop_gets_neither_stamp_nor_workspace()
    {
        var job = await JobAsync("Not yours", 190, 188, 131, 191);
        var stamp = await StampAsync(job);
        await workspaces.FindAsync(db.Ostrel, job, stamp, Cancel);
        (await workspaces.FindAsync(db.Stranger, job, stamp, Cancel)).ShouldBeNull();
        (await workspaces.FindAsync(db.Stranger, [stamp], Cancel)).ShouldBeEmpty();
    }

    [Fact]
    public async Task The_ghost_is_the_latest_job_before_with_a_dry_reading_also_in_a_list()
    {
        var (first, second, third) = (await JobAsync("Ghost bus", 190, 189, 190, 191), await JobAsync("Ghost bus"), await JobAsync("Ghost bus"));
        (await workspaces.FindAsync(db.Ostrel, third, null, Cancel))!.Earlier!.Number.ShouldBe(first);
        JobStamp[] unknown = [new(second, "?"), new(third, "?"), new(first, "?")];
        var list = await workspaces.FindAsync(db.Ostrel, unknown, Cancel);
        list.Select(w => (w.Job.Number, w.Earlier?.Number)).ShouldBe([(second, (int?)first), (third, first), (first, null)]);
        list[0].EarlierTests!.Dry!.Measured.ShouldBe(4);
    }
}
