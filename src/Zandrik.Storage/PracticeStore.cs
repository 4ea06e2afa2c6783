using Dapper;
using Zandrik.Core.Practice;
using Zandrik.Core.Records;
using Zandrik.Storage.Documents;

namespace Zandrik.Storage;

/// <summary>A run of an exercise by somebody.</summary>
/// <param name="Number">The job it is done on.</param>
/// <param name="Case">The exercise.</param>
/// <param name="PersonId">Who does it.</param>
/// <param name="Person">The same by name.</param>
/// <param name="At">When it was begun.</param>
/// <param name="Result">What was called and what it was worth; absent while it is open.</param>
/// <param name="CalledAt">When it was called.</param>
public sealed record PracticeRun(int Number, int Case, int PersonId, string Person, DateTimeOffset At, PracticeResult? Result, DateTimeOffset? CalledAt)
{
    /// <summary>Its place among the runs of the shop, from 1.</summary>
    public int Place => Number - PracticeNumbers.Before;
}

/// <summary>An exercise that was set.</summary>
/// <param name="Id">The row.</param>
/// <param name="Case">The exercise.</param>
/// <param name="PersonId">Who is to do it; absent for everyone.</param>
/// <param name="Person">The same by name.</param>
/// <param name="Due">By when; absent for no date.</param>
/// <param name="Says">What the foreman says of it.</param>
/// <param name="By">Who set it.</param>
/// <param name="At">When.</param>
/// <param name="DoneBy">Who called it since.</param>
public sealed record PracticeExercise(long Id, int Case, int? PersonId, string? Person, DateOnly? Due, string? Says, string By, DateTimeOffset At, IReadOnlyList<int> DoneBy);

/// <summary>Job numbers of practice are apart from those of work: an address says which it is.</summary>
public static class PracticeNumbers
{
    /// <summary>Every number of practice is above this, and none of work.</summary>
    public const int Before = 900_000_000;

    /// <summary>What a job of a number is for.</summary>
    /// <param name="number">The number.</param>
    public static JobPurpose PurposeOf(int number) => number > Before ? JobPurpose.Practice : JobPurpose.Work;
}

/// <summary>Keeps the practice bench: runs of exercises, what was done in them, and what the foreman set. All of it under the purpose of practice.</summary>
public sealed class PracticeStore(ShopDatabase database)
{
    /// <summary>Longest text that is kept with an exercise, letters.</summary>
    public const int LongestSays = 300;

    /// <summary>Begins a run: a job with the intake of the exercise, and nothing on it.</summary>
    /// <param name="who">Whoever does it.</param>
    /// <param name="exercise">The exercise.</param>
    /// <param name="set">The exercise that was set, where it was; absent for one that was picked.</param>
    /// <param name="now">The time.</param>
    /// <param name="cancel">Cancels the work; nothing is kept then.</param>
    /// <returns>The number of the job.</returns>
    public async Task<int> BeginAsync(ShopPerson who, PracticeCase exercise, long? set, DateTimeOffset now, CancellationToken cancel = default)
    {
        var trainee = Practising(who);
        var number = await JobStore.NumbersAsync(database, trainee, 1, cancel);
        // A vehicle of its own for each run: nobody finds the readings of whoever did it before.
        var intake = exercise.Intake with { Vehicle = exercise.Intake.Vehicle! with { Label = FormattableString.Invariant($"{exercise.Intake.Vehicle.Label}, run {number - PracticeNumbers.Before}") } };
        await database.InShopAsync(trainee, async (c, t) =>
        {
            var job = await JobStore.InsertAsync(c, t, trainee, number, intake, now, null, null, cancel);
            return await c.ExecuteAsync(new CommandDefinition("""
                insert into practice_run (shop_id, job_id, person_id, case_number, exercise_id, at)
                values (@shop, @job, @person, @number, (select e.id from practice_exercise e where e.id = @set and e.case_number = @number and e.withdrawn_at is null), @now)
                """, new { shop = who.ShopId, job, person = who.PersonId, number = exercise.Number, set, now }, t, cancellationToken: cancel));
        }, cancel);
        return number;
    }

    /// <summary>A run by the number of its job; absent where there is none.</summary>
    public async Task<PracticeRun?> FindAsync(ShopPerson who, int number, CancellationToken cancel = default) => (await RunsAsync(who, "j.number = @number", new { number }, cancel)).SingleOrDefault();

    /// <summary>The latest runs, latest first.</summary>
    /// <param name="who">The shop and person.</param>
    /// <param name="person">Of whom; absent for everyone.</param>
    /// <param name="most">The most.</param>
    /// <param name="cancel">Cancels the work.</param>
    public Task<IReadOnlyList<PracticeRun>> ListAsync(ShopPerson who, int? person, int most, CancellationToken cancel = default) =>
        RunsAsync(who, "(@person::int is null or r.person_id = @person) order by r.at desc, j.number desc limit @most", new { person, most }, cancel);

    /// <summary>Everything that was done in a run, oldest first.</summary>
    public Task<IReadOnlyList<PracticeDone>> ActsAsync(ShopPerson who, int number, CancellationToken cancel = default) =>
        database.InShopAsync<IReadOnlyList<PracticeDone>>(Practising(who), async (c, t) => [.. (await c.QueryAsync<ActRow>(new CommandDefinition(
            "select a.act, a.cylinder, a.says, a.check_word from practice_act a join job j on j.id = a.job_id where j.number = @number order by a.id", new { number }, t, cancellationToken: cancel))).Select(a => a.Done)], cancel);

    /// <summary>Notes something that was done.</summary>
    /// <param name="who">Whoever did it.</param>
    /// <param name="number">The job of the run.</param>
    /// <param name="done">What.</param>
    /// <param name="key">Made once for each act: sent twice, it is kept once.</param>
    /// <param name="at">When.</param>
    /// <param name="cancel">Cancels the work; nothing is kept then.</param>
    /// <returns>Refused where the run was called already.</returns>
    public Task<StepAnswer> NoteAsync(ShopPerson who, int number, PracticeDone done, Guid key, DateTimeOffset at, CancellationToken cancel = default) =>
        database.InShopAsync(Practising(who), async (c, t) =>
        {
            var held = await HeldJob.OfAsync(c, t, who, number, cancel);
            if (held is not { Closed: null })
            {
                return StepAnswer.NotOpen(held);
            }
            await c.ExecuteAsync(new CommandDefinition("""
                insert into practice_act (shop_id, job_id, act, cylinder, says, check_word, entry, at, by_person) values (@shop, @Id, @act, @Cylinder, @Says, @Check, @key, @at, @person)
                on conflict (shop_id, entry) do nothing
                """, new { shop = who.ShopId, held.Id, act = RecordWords.Of(done.Act), done.Cylinder, done.Says, done.Check, key, at, person = who.PersonId }, t, cancellationToken: cancel));
            return StepAnswer.Kept;
        }, cancel);

    /// <summary>Keeps a call, and closes the run: what is hidden is shown from then on, so nothing more is measured.</summary>
    /// <param name="who">Whoever calls.</param>
    /// <param name="number">The job of the run.</param>
    /// <param name="judge">Works out what a call is worth from what was done; asked with the run held, so that nothing is done beside it.</param>
    /// <param name="at">When.</param>
    /// <param name="cancel">Cancels the work; nothing is kept then.</param>
    /// <returns>Refused where it was called already.</returns>
    public Task<StepAnswer> CallAsync(ShopPerson who, int number, Func<IReadOnlyList<PracticeDone>, PracticeResult> judge, DateTimeOffset at, CancellationToken cancel = default) =>
        database.InShopAsync(Practising(who), async (c, t) =>
        {
            var held = await HeldJob.OfAsync(c, t, who, number, cancel);
            if (held is not { Closed: null })
            {
                return held is null ? StepAnswer.Missing : new StepAnswer(true, "This exercise was called already.");
            }
            var done = (await c.QueryAsync<ActRow>(new CommandDefinition("select act, cylinder, says, check_word from practice_act where job_id = @Id order by id", new { held.Id }, t, cancellationToken: cancel))).Select(a => a.Done).ToList();
            var result = judge(done);
            await c.ExecuteAsync(new CommandDefinition("""
                insert into practice_call (shop_id, job_id, body, total, at, by_person) values (@shop, @Id, @body::jsonb, @total, @at, @person);
                update job set closed_at = @at where id = @Id
                """, new { shop = who.ShopId, held.Id, body = StoredDocuments.Write<PracticeDocumentV1, PracticeResult>(result), total = result.Score.Total, at, person = who.PersonId }, t, cancellationToken: cancel));
            return StepAnswer.Kept;
        }, cancel);

    /// <summary>Number and points of everything called, oldest first.</summary>
    /// <param name="who">The shop and person.</param>
    /// <param name="cancel">Cancels the work.</param>
    /// <returns>By person.</returns>
    public Task<ILookup<(int Id, string Name), (int Case, int Points)>> CalledAsync(ShopPerson who, CancellationToken cancel = default) =>
        database.InShopAsync(Practising(who), async (c, t) => (await c.QueryAsync<(int Id, string Name, int Case, int Points)>(new CommandDefinition(
            "select p.id, p.name, r.case_number, k.total from practice_call k join practice_run r on r.job_id = k.job_id join person p on p.id = r.person_id order by k.at, k.job_id", null, t, cancellationToken: cancel)))
            .ToLookup(r => (r.Id, r.Name), r => (r.Case, r.Points)), cancel);

    /// <summary>Sets an exercise.</summary>
    /// <param name="who">The foreman.</param>
    /// <param name="exercise">The exercise.</param>
    /// <param name="person">Who is to do it; absent for everyone.</param>
    /// <param name="due">By when.</param>
    /// <param name="says">What is said of it.</param>
    /// <param name="at">When.</param>
    /// <param name="cancel">Cancels the work; nothing is kept then.</param>
    /// <returns>False where the shop has no such person.</returns>
    public Task<bool> SetAsync(ShopPerson who, int exercise, int? person, DateOnly? due, string? says, DateTimeOffset at, CancellationToken cancel = default) =>
        database.InShopAsync(Practising(who), async (c, t) => await c.ExecuteAsync(new CommandDefinition("""
            insert into practice_exercise (shop_id, case_number, person_id, due, says, at, by_person)
            select @shop, @exercise, @person, @due, @says, @at, @by where @person::int is null or exists (select 1 from person where id = @person and left_at is null)
            """, new { shop = who.ShopId, exercise, person, due, says, at, by = who.PersonId }, t, cancellationToken: cancel)) > 0, cancel);

    /// <summary>Takes an exercise back that was set; runs of it stay.</summary>
    public Task<bool> WithdrawAsync(ShopPerson who, long exercise, DateTimeOffset at, CancellationToken cancel = default) =>
        database.InShopAsync(Practising(who), async (c, t) => await c.ExecuteAsync(new CommandDefinition(
            "update practice_exercise set withdrawn_at = @at where id = @exercise and withdrawn_at is null", new { exercise, at }, t, cancellationToken: cancel)) > 0, cancel);

    /// <summary>Exercises that are set, the one due first before the others.</summary>
    /// <param name="who">The shop and person.</param>
    /// <param name="person">For whom, with those for everyone; absent for all.</param>
    /// <param name="cancel">Cancels the work.</param>
    public Task<IReadOnlyList<PracticeExercise>> SetAsync(ShopPerson who, int? person, CancellationToken cancel = default) =>
        database.InShopAsync<IReadOnlyList<PracticeExercise>>(Practising(who), async (c, t) => [.. (await c.QueryAsync<ExerciseRow>(new CommandDefinition("""
            select e.id, e.case_number, e.person_id, p.name as person, e.due, e.says, b.name as by, e.at,
                   array(select distinct r.person_id from practice_run r join practice_call k on k.job_id = r.job_id where r.exercise_id = e.id) as done_by
            from practice_exercise e left join person p on p.id = e.person_id join person b on b.id = e.by_person
            where e.withdrawn_at is null and (@person::int is null or e.person_id is null or e.person_id = @person) order by e.due nulls last, e.id
            """, new { person }, t, cancellationToken: cancel))).Select(e => new PracticeExercise(e.Id, e.CaseNumber, e.PersonId, e.Person, e.Due, e.Says, e.By, e.At, e.DoneBy))], cancel);

    private static ShopPerson Practising(ShopPerson who) => who with { Purpose = JobPurpose.Practice };

    private Task<IReadOnlyList<PracticeRun>> RunsAsync(ShopPerson who, string where, object parameters, CancellationToken cancel) =>
        database.InShopAsync<IReadOnlyList<PracticeRun>>(Practising(who), async (c, t) => [.. (await c.QueryAsync<RunRow>(new CommandDefinition($"""
            select j.number, r.case_number, r.person_id, p.name as person, r.at, k.body::text as body, k.at as called_at
            from practice_run r join job j on j.id = r.job_id join person p on p.id = r.person_id left join practice_call k on k.job_id = r.job_id where {where}
            """, parameters, t, cancellationToken: cancel))).Select(r => new PracticeRun(r.Number, r.CaseNumber, r.PersonId, r.Person, r.At, r.Body is null ? null : StoredDocuments.Read<PracticeDocumentV1, PracticeResult>(r.Body), r.CalledAt))], cancel);

    private sealed record RunRow
    {
        public int Number { get; init; }
        public int CaseNumber { get; init; }
        public int PersonId { get; init; }
        public string Person { get; init; } = "";
        public DateTimeOffset At { get; init; }
        public string? Body { get; init; }
        public DateTimeOffset? CalledAt { get; init; }
    }

    private sealed record ActRow
    {
        public string Act { get; init; } = "";
        public int? Cylinder { get; init; }
        public string? Says { get; init; }
        public string? CheckWord { get; init; }

        public PracticeDone Done => new(RecordWords.Parse(Act, PracticeAct.Hazard), Cylinder, Says, CheckWord);
    }

    private sealed record ExerciseRow
    {
        public long Id { get; init; }
        public int CaseNumber { get; init; }
        public int? PersonId { get; init; }
        public string? Person { get; init; }
        public DateOnly? Due { get; init; }
        public string? Says { get; init; }
        public string By { get; init; } = "";
        public DateTimeOffset At { get; init; }
        public int[] DoneBy { get; init; } = [];
    }
}
