using System.Text.Json.Nodes;
using System.Text.Json.Serialization;
using Zandrik.Core.Assessment;
using Zandrik.Core.Compression;
using Zandrik.Core.Diagnosis;
using Zandrik.Core.Records;
using Zandrik.Core.Units;

namespace Zandrik.Web.Api;

/// <summary>From readings to suspects: a test record in, the diagnosis out; nothing is kept.</summary>
public static class DiagnosisApi
{
    /// <summary>Maps the address.</summary>
    public static void MapDiagnosisApi(this WebApplication app) => app.MapPost("/api/v1/diagnosis", AnswerAsync)
        .AddEndpointFilter<BearerToken>()
        .WithTags("Diagnosis")
        .WithName("diagnosis")
        .WithSummary("Says from a test record what is wrong with an engine, how surely, and what to measure next.")
        .WithDescription($"The body is a test record ({TestRecordSchema.Path}), up to 1 MiB. The answer is worked out from it alone; nothing is kept. Weights are decibans and sum, line by line, from the base rate to the log-odds of the probability.")
        .Accepts<JsonObject>("application/json")
        .Produces<DiagnosisReply>()
        .ProducesProblem(StatusCodes.Status400BadRequest)
        .ProducesProblem(StatusCodes.Status401Unauthorized)
        .ProducesProblem(StatusCodes.Status413PayloadTooLarge)
        .ProducesProblem(StatusCodes.Status415UnsupportedMediaType);

    private static async Task<IResult> AnswerAsync(HttpRequest request, CancellationToken cancel)
    {
        var (refused, body) = await JobApi.SentAsync(request, null, cancel);
        if (body is null)
        {
            return refused!;
        }
        var reading = TestRecordJson.Read(body);
        return reading.Record is { } record ? TypedResults.Ok(DiagnosisReply.Of(JobAssessment.Of(record))) : JobApi.Refused(reading.Problems);
    }
}

/// <summary>A diagnosis as it is answered.</summary>
/// <param name="Engine">The engine as a whole.</param>
/// <param name="Spread">Methods of spread on the dry test.</param>
/// <param name="Cylinders">Each cylinder.</param>
/// <param name="Validity">What the way of testing did to the numbers.</param>
/// <param name="NextTests">What is worth measuring next, best first.</param>
/// <param name="Actions">What to do, least invasive first.</param>
public sealed record DiagnosisReply(
    DiagnosisReplyEngine Engine, IReadOnlyList<DiagnosisReplySpread> Spread, IReadOnlyList<DiagnosisReplyCylinder> Cylinders, IReadOnlyList<DiagnosisReplyValidity> Validity, IReadOnlyList<DiagnosisReplyNext> NextTests, IReadOnlyList<DiagnosisReplyAction> Actions)
{
    internal static DiagnosisReply Of(JobAssessment job) => Of(job.Diagnosis, job.Next, job.Policy.Shop.Currency ?? job.Record.JudgeBy?.Currency);

    private static DiagnosisReply Of(EngineDiagnosis said, IReadOnlyList<NextStep> next, string? currency) => new(
        new(RecordWords.Of(said.State), said.Headline, [.. said.Suspects.Select(s => new DiagnosisReplySuspect(RecordWords.Of(s.Fault), Math.Round(s.Probability, 4)) { Bank = s.Bank })]) { Repair = DiagnosisReplyRepair.Of(said) },
        [.. said.Spread.Select(s => SpreadOf(s, said.SpreadUnit))],
        [.. said.Cylinders.Select(c => new DiagnosisReplyCylinder(c.Cylinder, RecordWords.Of(c.State), c.Says,
            [.. c.Suspects.Select(s => new DiagnosisReplySuspect(RecordWords.Of(s.Fault), Math.Round(s.Probability, 4))
            {
                With = s.With, Evidence = [.. s.Evidence.Select(e => new DiagnosisReplyEvidence(e.Finding, e.Says, e.WeightDb) { Test = e.Test })],
            })],
            [.. c.AlsoLikely.Select(RecordWords.Of)]))],
        [.. said.Validity.Select(v => new DiagnosisReplyValidity(RecordWords.Of(v.Code), RecordWords.Of(v.Severity), v.Says, v.Cylinders))],
        [.. next.Select(t => new DiagnosisReplyNext(RecordWords.Of(t.Kind), t.Cylinders, t.Minutes, t.GainBits, t.Why)
        {
            SavesMinutes = t.SavesMinutes, Saves = t.SavesMinutes is { } saved && said.Decision.Book.Money(saved) is { } money ? new(Math.Round(money, 2), currency) : null,
        })],
        [.. said.Actions.Select(a => new DiagnosisReplyAction(RecordWords.Of(a.Action), a.Says, a.Checks))]);

    private static DiagnosisReplySpread SpreadOf(SpreadFinding s, PressureUnit unit)
    {
        double In(double measure) => Math.Round(s.IsPressure ? measure / unit.Pascals() : 100 * measure, 2);
        return new(RecordWords.Of(s.Method), In(s.Value), s.IsPressure ? unit.Symbol() : "%", [In(s.Limits.Good), In(s.Limits.Marginal)], RecordWords.Of(s.Verdict), s.Deciding);
    }
}

/// <summary>The engine as a whole.</summary>
/// <param name="State">sound, watch, faulty or inconclusive.</param>
/// <param name="Headline">One plain sentence.</param>
/// <param name="Suspects">Causes, most likely first.</param>
public sealed record DiagnosisReplyEngine(string State, string Headline, IReadOnlyList<DiagnosisReplySuspect> Suspects)
{
    /// <summary>The repair that is likeliest needed; absent where most likely none is.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public DiagnosisReplyRepair? Repair { get; init; }
}

/// <summary>The repair that is likeliest needed.</summary>
/// <param name="Action">Its word: several works are joined by a plus sign.</param>
/// <param name="Cylinders">The cylinders that most likely ask for it; empty for the engine.</param>
/// <param name="Probability">How likely exactly this is needed, 0 to 1.</param>
public sealed record DiagnosisReplyRepair(string Action, IReadOnlyList<int> Cylinders, double Probability)
{
    internal static DiagnosisReplyRepair? Of(EngineDiagnosis said)
    {
        var (needs, probability) = said.Decision.Leading;
        return needs.IsNone ? null : new(Core.Repairs.RepairWords.Word(Core.Repairs.RepairOption.Meeting(needs)), [.. said.Cylinders.Where(c => RepairKinds.Of(c.Leading.Fault) != RepairKind.Nothing).Select(c => c.Cylinder)], Math.Round(probability, 4));
    }
}

/// <summary>A suspect.</summary>
/// <param name="Fault">The fault.</param>
/// <param name="Probability">0 to 1; one list sums to 1.</param>
public sealed record DiagnosisReplySuspect(string Fault, double Probability)
{
    /// <summary>The neighbour, for a gasket between two cylinders.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public int? With { get; init; }

    /// <summary>The bank, for the timing of one bank.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public int? Bank { get; init; }

    /// <summary>The ledger of a cylinder's suspect.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public IReadOnlyList<DiagnosisReplyEvidence>? Evidence { get; init; }
}

/// <summary>A line of the ledger.</summary>
/// <param name="Finding">Its word.</param>
/// <param name="Says">In plain words.</param>
/// <param name="WeightDb">Its weight, decibans.</param>
public sealed record DiagnosisReplyEvidence(string Finding, string Says, double WeightDb)
{
    /// <summary>Place of the test in the record, from 0.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public int? Test { get; init; }
}

/// <summary>A method of spread.</summary>
/// <param name="School">The method.</param>
/// <param name="Value">Its figure.</param>
/// <param name="Unit">Its unit.</param>
/// <param name="Limits">Good up to, marginal up to.</param>
/// <param name="Verdict">good, marginal or fail.</param>
/// <param name="Deciding">True for the one that decides.</param>
public sealed record DiagnosisReplySpread(string School, double Value, string Unit, IReadOnlyList<double> Limits, string Verdict, bool Deciding);

/// <summary>One cylinder.</summary>
/// <param name="Cylinder">Its number.</param>
/// <param name="State">sound, watch, low, dead, high or untested.</param>
/// <param name="Says">One plain sentence.</param>
/// <param name="Suspects">Most likely first.</param>
/// <param name="AlsoLikely">A second fault, where air was heard in two places.</param>
public sealed record DiagnosisReplyCylinder(int Cylinder, string State, string Says, IReadOnlyList<DiagnosisReplySuspect> Suspects, IReadOnlyList<string> AlsoLikely);

/// <summary>What the way of testing did to the numbers.</summary>
/// <param name="Code">Its code.</param>
/// <param name="Severity">note, caution or invalid.</param>
/// <param name="Says">In plain words, with what to do.</param>
/// <param name="Cylinders">Which cylinders; empty for all.</param>
public sealed record DiagnosisReplyValidity(string Code, string Severity, string Says, IReadOnlyList<int> Cylinders);

/// <summary>A test worth doing next.</summary>
/// <param name="Kind">Its kind in the open record.</param>
/// <param name="Cylinders">The cylinders; empty for the engine.</param>
/// <param name="Minutes">About how long.</param>
/// <param name="GainBits">Expected information, bits.</param>
/// <param name="Why">Why.</param>
public sealed record DiagnosisReplyNext(string Kind, IReadOnlyList<int> Cylinders, double Minutes, double GainBits, string Why)
{
    /// <summary>What it saves on average, minutes of work, its own minutes taken off; absent for what comes first by a rule of order.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public double? SavesMinutes { get; init; }

    /// <summary>The same in money; absent without a rate in judgeBy.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public DiagnosisReplyMoney? Saves { get; init; }
}

/// <summary>A sum of money.</summary>
/// <param name="Amount">How much.</param>
/// <param name="Currency">In which currency; absent where nobody said.</param>
public sealed record DiagnosisReplyMoney(double Amount, [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)] string? Currency);

/// <summary>Something to do.</summary>
/// <param name="Action">The action.</param>
/// <param name="Says">Why.</param>
/// <param name="Checks">What confirms or overturns it.</param>
public sealed record DiagnosisReplyAction(string Action, string Says, IReadOnlyList<string> Checks);
