using System.Text.Json;
using Npgsql;
using Zandrik.Core.Records;
using Zandrik.Core.Units;
using Zandrik.Core.Verdicts;

namespace Zandrik.Storage.Tests;

public sealed class VerdictStoreTests(TestDatabase db) : IClassFixture<TestDatabase>
{
    private static readonly DateTimeOffset Now = new(2026, 3, 2, 9, 40, 0, TimeSpan.Zero);

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private readonly VerdictStore verdicts = new(db.Database);

    private Task<int> JobAsync(params FoundFault[] found) => db.Jobs.CreateAsync(db.Ostrel, new TestRecord
    {
        Engine = new EngineSheet { Cylinders = 4, Fuel = Fuel.Petrol, Spec = new EngineSpec { Unit = PressureUnit.Psi, Nominal = 190 } },
        Found = found.Length > 0 ? found : null,
        Tests = [new DryCompressionTest { Unit = PressureUnit.Psi, Readings = [.. new[] { 190.0, 188, 131, 191 }.Select((v, i) => new CompressionReading { Cylinder = i + 1, Value = v })] }],
    }, Now, cancel: Cancel);

    private async Task<string> SeenAsync(int job)
    {
        var found = (await db.Jobs.FindAsync(db.Ostrel, job, Cancel))!;
        return VerdictStore.Fingerprint(VerdictSnapshot.Of(new JobState(found, [], db.Ostrel.Settings).Assessment));
    }

    private async Task<StepAnswer> SignAsync(int job, Guid? key = null, string? seen = null, params VerdictAnswer[] answers) =>
        await verdicts.SignAsync(db.Ostrel, job, new SignOff(answers.Length == 0, answers.Length == 0 ? null : "Heard it", answers, seen ?? await SeenAsync(job)), key ?? Guid.NewGuid(), Now, Cancel);

    private static string Text(KeptVerdict kept) => JsonSerializer.Serialize(kept.Snapshot, TestRecordJson.Options);

    [Fact]
    public async Task What_is_signed_stays_whatever_the_job_and_its_sheet_become()
    {
        var job = await JobAsync();
        (await SignAsync(job)).Refused.ShouldBeNull();
        var signed = (await verdicts.FindAsync(db.Ostrel, job, 1, Cancel))!;
        (signed.SameAsNow, signed.Line.By, signed.Line.Stands).ShouldBe((true, "M. Ostrel", true));
        var record = (await db.Jobs.FindAsync(db.Ostrel, job, Cancel))!.Record;
        await db.Jobs.ChangeIntakeAsync(db.Ostrel, job, record with { Engine = record.Engine with { Spec = new EngineSpec { Unit = PressureUnit.Psi, Nominal = 120 } }, JudgeBy = new JudgeBy { DecidingMethod = SpreadMethod.AroundTheMean } }, cancel: Cancel);
        var after = (await verdicts.FindAsync(db.Ostrel, job, 1, Cancel))!;
        after.SameAsNow.ShouldBeFalse();
        Text(after).ShouldBe(Text(signed));
        after.Snapshot.Record.Engine.Spec!.Nominal.ShouldBe(190);
    }

    [Fact]
    public async Task Only_what_was_looked_at_is_signed_and_only_once()
    {
        var job = await JobAsync();
        var seen = await SeenAsync(job);
        await new StepStore(db.Database).AddTestAsync(db.Ostrel, job, new CombustionGasTest { Result = CombustionGasResult.Positive }, null, Guid.NewGuid(), Now, cancel: Cancel);
        (await SignAsync(job, seen: seen)).Refused!.ShouldContain("changed since you looked");
        var key = Guid.NewGuid();
        (await SignAsync(job, key)).Refused.ShouldBeNull();
        (await SignAsync(job, key)).Refused.ShouldBeNull("the same form sent again");
        (await SignAsync(job)).Refused!.ShouldContain("Version 1 was signed");
        (await verdicts.ListAsync(db.Ostrel, job, Cancel)).ShouldHaveSingleItem();
        (await SignAsync(await JobAsync(), null, null, new VerdictAnswer(3, Fault.CamTiming))).Refused!.ShouldContain("cylinder 3", Case.Insensitive, "the rules of signing hold where it is written");
        // Of many who sign at once one does.
        var other = await JobAsync();
        var answers = await Task.WhenAll(Enumerable.Range(0, 6).Select(_ => SignAsync(other)));
        answers.Count(a => a.Refused is null).ShouldBe(1);
    }

    [Fact]
    public async Task Reopened_it_stays_and_the_next_is_a_new_version()
    {
        var job = await JobAsync();
        (await verdicts.ReopenAsync(db.Ostrel, job, 1, "no", Now, Cancel)).Found.ShouldBeFalse();
        await SignAsync(job);
        var first = Text((await verdicts.FindAsync(db.Ostrel, job, 1, Cancel))!);
        (await verdicts.ReopenAsync(db.Ostrel, job, 1, "Leak-down done since", Now, Cancel)).Refused.ShouldBeNull();
        (await verdicts.ReopenAsync(db.Ostrel, job, 1, "again", Now, Cancel)).Refused!.ShouldContain("already");
        (await SignAsync(job, null, null, new VerdictAnswer(3, Fault.ExhaustValve))).Refused.ShouldBeNull();
        var lines = await verdicts.ListAsync(db.Ostrel, job, Cancel);
        lines.Select(l => (l.Version, l.Agrees, l.Stands, l.ReopenedWhy)).ShouldBe([(2, false, true, null), (1, true, false, "Leak-down done since")]);
        Text((await verdicts.FindAsync(db.Ostrel, job, 1, Cancel))!).ShouldBe(first);
        var second = (await verdicts.FindAsync(db.Ostrel, job, 2, Cancel))!;
        second.Said.First(s => s.Program.Cylinder == 3).People.Fault.ShouldBe(Fault.ExhaustValve);
        second.Said.First(s => s.Program.Cylinder == 1).People.ShouldBe(new VerdictAnswer(1, Fault.Sound));
        second.Snapshot.Owner.ShouldContain("technician's conclusion");
        (await new WorkspaceStore(db.Database).FindAsync(db.Ostrel, job, cancel: Cancel))!.Verdict!.Version.ShouldBe(2);
    }

    [Theory]
    [InlineData("update verdict set reason = 'x'")]
    [InlineData("delete from verdict")]
    [InlineData("update verdict_reopening set why = 'x'")]
    public async Task Nobody_changes_what_was_signed(string statement)
    {
        await SignAsync(await JobAsync());
        await Should.ThrowAsync<PostgresException>(() => db.AsOwnerAsync(statement));
    }

    [Fact]
    public async Task What_was_found_goes_out_with_the_record_and_is_taken_back_without_being_lost()
    {
        var job = await JobAsync(new FoundFault { Cylinder = 3, Fault = Fault.ExhaustValve, Says = "burnt at the edge", At = Now });
        var kept = (await db.Jobs.FindAsync(db.Ostrel, job, Cancel))!;
        kept.Record.Found!.ShouldHaveSingleItem().Says.ShouldBe("burnt at the edge");
        kept.ClosedAt.ShouldBe(Now, "what is found is of a job that is over");
        var key = Guid.NewGuid();
        await verdicts.AddFoundAsync(db.Ostrel, job, new FoundFault { Cylinder = 1, Fault = Fault.Sound }, key, Now, Cancel);
        await verdicts.AddFoundAsync(db.Ostrel, job, new FoundFault { Cylinder = 1, Fault = Fault.Sound }, key, Now, Cancel);
        kept = (await db.Jobs.FindAsync(db.Ostrel, job, Cancel))!;
        kept.Record.Found!.Select(f => (f.Cylinder, f.By)).ShouldBe([(3, null), (1, "M. Ostrel")]);
        // A change of the intake leaves it alone.
        await db.Jobs.ChangeIntakeAsync(db.Ostrel, job, kept.Record with { Complaint = "rough", Found = null }, cancel: Cancel);
        (await db.Jobs.FindAsync(db.Ostrel, job, Cancel))!.Record.Found!.Count.ShouldBe(2);
        (await verdicts.WithdrawFoundAsync(db.Ostrel, job, kept.FoundIds[0], Now, Cancel)).ShouldBeTrue();
        (await verdicts.WithdrawFoundAsync(db.Ostrel, job, kept.FoundIds[0], Now, Cancel)).ShouldBeFalse();
        (await db.Jobs.FindAsync(db.Ostrel, job, Cancel))!.Record.Found!.ShouldHaveSingleItem();
        (await db.AsOwnerAsync($"select count(*)::int from found_fault where id = {kept.FoundIds[0]}")).ShouldBe(1);
    }

    [Fact]
    public async Task It_counts_against_what_was_signed_before_and_against_nothing_else()
    {
        var (said, unsaid) = (await JobAsync(), await JobAsync());
        await SignAsync(said, null, null, new VerdictAnswer(3, Fault.IntakeValve));
        var before = (await verdicts.OutcomesAsync(db.Ostrel, Cancel)).Outcomes.Count;
        foreach (var job in new[] { said, unsaid })
        {
            await verdicts.AddFoundAsync(db.Ostrel, job, new FoundFault { Cylinder = 3, Fault = Fault.IntakeValve }, Guid.NewGuid(), Now.AddDays(1), Cancel);
        }
        await verdicts.AddFoundAsync(db.Ostrel, said, new FoundFault { Cylinder = 2, Fault = Fault.Sound }, Guid.NewGuid(), Now.AddDays(-1), Cancel);
        var outcomes = (await verdicts.OutcomesAsync(db.Ostrel, Cancel)).Outcomes.Skip(before).ToList();
        outcomes.Count.ShouldBe(3);
        outcomes[0].People!.Fault.ShouldBe(Fault.IntakeValve);
        outcomes[0].Given!.Value.ShouldBeInRange(0.01, 0.6);
        outcomes[1].Program.ShouldBeNull("nothing was signed on that job");
        outcomes[2].Program.ShouldBeNull("it was found before the signature");
        (await verdicts.OutcomesAsync(db.Stranger, Cancel)).Outcomes.ShouldBeEmpty();
    }

    [Fact]
    public async Task Another_shop_neither_sees_nor_signs_anything()
    {
        var job = await JobAsync();
        await SignAsync(job);
        (await verdicts.FindAsync(db.Stranger, job, 1, Cancel)).ShouldBeNull();
        (await verdicts.ListAsync(db.Stranger, job, Cancel)).ShouldBeEmpty();
        (await verdicts.ReopenAsync(db.Stranger, job, 1, "x", Now, Cancel)).Found.ShouldBeFalse();
        (await verdicts.AddFoundAsync(db.Stranger, job, new FoundFault { Fault = Fault.Rings, Cylinder = 1 }, Guid.NewGuid(), Now, Cancel)).Found.ShouldBeFalse();
    }
}
