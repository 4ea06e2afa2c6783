using System.Security.Cryptography;
using System.Text.Json.Nodes;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.AspNetCore.Mvc;
using Zandrik.Core.Records;
using Zandrik.Core.Testers;
using Zandrik.Storage;

namespace Zandrik.Web.Api;

/// <summary>Version 1 of the HTTP API: jobs as open test records, under a bearer token of the shop.</summary>
public static class JobApi
{
    /// <summary>Largest record taken, bytes.</summary>
    public const int LargestRecord = 1024 * 1024;

    private const int LongestKey = 200;

    /// <summary>Maps the addresses.</summary>
    public static void MapJobApi(this WebApplication app)
    {
        app.MapGet(TestRecordSchema.Path, () => Results.Text(Schema, "application/schema+json"))
            .WithSummary("The JSON Schema of the open test record, version 1.").WithTags("Schema");

        var api = app.MapGroup("/api/v1").AddEndpointFilter<BearerToken>().WithTags("Jobs");
        api.MapPost("/jobs", CreateAsync)
            .WithName("createJob")
            .WithSummary("Makes a job from a test record.")
            .WithDescription($"The body is a test record ({TestRecordSchema.Path}), up to 1 MiB. With an Idempotency-Key the same request sent again answers with the job it made the first time.")
            .Accepts<JsonObject>("application/json")
            .Produces<JobCreated>(StatusCodes.Status201Created)
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status401Unauthorized)
            .ProducesProblem(StatusCodes.Status413PayloadTooLarge)
            .ProducesProblem(StatusCodes.Status415UnsupportedMediaType)
            .ProducesProblem(StatusCodes.Status422UnprocessableEntity);
        api.MapPost("/jobs/{id:int}/tests", AddTestAsync)
            .WithName("addTest")
            .WithSummary("Adds a test to a job.")
            .WithDescription("The body is one test as it stands in a record's tests. A job that is closed takes none (409). With an Idempotency-Key the same request sent again answers with the test it added the first time.")
            .Accepts<JsonObject>("application/json")
            .Produces<TestAdded>(StatusCodes.Status201Created)
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status401Unauthorized)
            .ProducesProblem(StatusCodes.Status404NotFound)
            .ProducesProblem(StatusCodes.Status409Conflict)
            .ProducesProblem(StatusCodes.Status413PayloadTooLarge)
            .ProducesProblem(StatusCodes.Status415UnsupportedMediaType)
            .ProducesProblem(StatusCodes.Status422UnprocessableEntity);
        api.MapGet("/jobs", ListAsync)
            .WithName("listJobs")
            .WithSummary("A page of jobs, newest first.")
            .WithDescription("?state=open or closed, ?after=N for the page after job N, ?limit= up to 200 (50). next is absent on the last page.")
            .Produces<JobListing>()
            .ProducesProblem(StatusCodes.Status400BadRequest)
            .ProducesProblem(StatusCodes.Status401Unauthorized);
        api.MapGet("/jobs/{id:int}/record", RecordAsync)
            .WithName("jobRecord")
            .WithSummary("The open test record of a job.")
            .WithDescription("Readings that were corrected or taken back are added with ?all=true, each with the row that took its place.")
            .Produces<JsonObject>()
            .ProducesProblem(StatusCodes.Status401Unauthorized)
            .ProducesProblem(StatusCodes.Status404NotFound);
    }

    private static readonly string Schema = TestRecordSchema.Make().ToJsonString(TestRecordJson.Options);

    private static async Task<Results<Created<JobCreated>, ProblemHttpResult>> CreateAsync(
        HttpRequest request, JobStore jobs, TimeProvider clock, [FromHeader(Name = "Idempotency-Key")] string? idempotencyKey, CancellationToken cancel)
    {
        var (refused, body) = await SentAsync(request, idempotencyKey, cancel);
        if (body is null)
        {
            return refused!;
        }
        var reading = TestRecordJson.Read(body);
        if (reading.Record is not { } record)
        {
            return Refused(reading.Problems);
        }
        var who = BearerToken.Who(request.HttpContext);
        int number;
        if (idempotencyKey is null)
        {
            number = await jobs.CreateAsync(who, record, clock.GetUtcNow(), cancel: cancel);
        }
        else
        {
            (number, var another) = await jobs.CreateOnceAsync(who, idempotencyKey, SHA256.HashData(body), record, clock.GetUtcNow(), cancel: cancel);
            if (another)
            {
                return KeyUsed();
            }
        }
        return TypedResults.Created($"/api/v1/jobs/{number}/record", new JobCreated(number, $"/api/v1/jobs/{number}/record", $"/jobs/{number}/dry"));
    }

    private static async Task<Results<Created<TestAdded>, ProblemHttpResult>> AddTestAsync(
        int id, HttpRequest request, JobStore jobs, StepStore steps, TimeProvider clock, [FromHeader(Name = "Idempotency-Key")] string? idempotencyKey, CancellationToken cancel)
    {
        var (refused, body) = await SentAsync(request, idempotencyKey, cancel);
        if (body is null)
        {
            return refused!;
        }
        var who = BearerToken.Who(request.HttpContext);
        if (await jobs.FindAsync(who, id, cancel) is not { } job)
        {
            return NoJob(id);
        }
        var reading = TestRecordJson.ReadTest(body, job.Record.Engine);
        if (reading.Record?.Tests is not [var test])
        {
            return Refused(reading.Problems);
        }
        TestAnswer added;
        if (idempotencyKey is null)
        {
            added = await steps.AddTestAsync(who, id, test, null, Guid.NewGuid(), clock.GetUtcNow(), cancel: cancel);
        }
        else
        {
            (added, var another) = await steps.AddTestOnceAsync(who, id, test, idempotencyKey, SHA256.HashData(body), clock.GetUtcNow(), cancel);
            if (another)
            {
                return KeyUsed();
            }
        }
        return added.Refused is { } why ? TypedResults.Problem(why, title: "Not added.", statusCode: StatusCodes.Status409Conflict)
            : added.Test is { } row ? TypedResults.Created($"/api/v1/jobs/{id}/record", new TestAdded(id, row, $"/api/v1/jobs/{id}/record")) : NoJob(id);
    }

    // The body of a request that can be read at all, or why it cannot.
    internal static async Task<(ProblemHttpResult? Refused, byte[]? Body)> SentAsync(HttpRequest request, string? idempotencyKey, CancellationToken cancel)
    {
        if (request.ContentType is { } type && !type.Contains("json", StringComparison.OrdinalIgnoreCase))
        {
            return (TypedResults.Problem("Send the record as application/json.", statusCode: StatusCodes.Status415UnsupportedMediaType), null);
        }
        if (idempotencyKey is { Length: 0 or > LongestKey })
        {
            return (TypedResults.Problem($"An Idempotency-Key has 1 to {LongestKey} characters.", statusCode: StatusCodes.Status400BadRequest), null);
        }
        return await BodyAsync(request, cancel) is { } body ? (null, body)
            : (TypedResults.Problem("A record may have up to 1 MiB.", statusCode: StatusCodes.Status413PayloadTooLarge), null);
    }

    private static ProblemHttpResult KeyUsed() => TypedResults.Problem("This Idempotency-Key was used before with another body. Use a new key for a new record.",
        statusCode: StatusCodes.Status422UnprocessableEntity);

    private static ProblemHttpResult NoJob(int id) => TypedResults.Problem($"This shop has no job {id}.", statusCode: StatusCodes.Status404NotFound);

    private static async Task<Results<Ok<JobListing>, ProblemHttpResult>> ListAsync(
        HttpContext context, JobStore jobs, CancellationToken cancel, string? state = null, int? after = null, int limit = 50)
    {
        if (state is not (null or "open" or "closed") || limit is < 1 or > 200)
        {
            return TypedResults.Problem("state is open or closed, limit is 1 to 200.", statusCode: StatusCodes.Status400BadRequest);
        }
        var filter = new JobFilter { Open = state is null ? null : state == "open", After = after };
        var (lines, more) = await jobs.LinesAsync(BearerToken.Who(context), filter, limit, cancel);
        return TypedResults.Ok(new JobListing(
            [.. lines.Select(l => new JobListed(l.Number, l.Vehicle, l.Engine, l.Complaint, l.OpenedAt, l.OpenedBy, l.ClosedAt))],
            more ? $"/api/v1/jobs?{(state is null ? "" : $"state={state}&")}limit={limit}&after={lines[^1].Number}" : null));
    }

    private static async Task<Results<ContentHttpResult, ProblemHttpResult>> RecordAsync(
        int id, HttpContext context, JobStore jobs, CancellationToken cancel, bool all = false) =>
        await jobs.RecordAsync(BearerToken.Who(context), id, all, cancel) is { } record
            ? TypedResults.Text(TestRecordJson.Write(CorrectedRecord.Of(record)), "application/json")
            : NoJob(id);

    // The body, or null when it is larger than a record may be.
    private static async Task<byte[]?> BodyAsync(HttpRequest request, CancellationToken cancel)
    {
        if (request.ContentLength > LargestRecord)
        {
            return null;
        }
        using var memory = new MemoryStream();
        var buffer = new byte[16 * 1024];
        int read;
        while ((read = await request.Body.ReadAsync(buffer, cancel)) > 0)
        {
            if (memory.Length + read > LargestRecord)
            {
                return null;
            }
            memory.Write(buffer, 0, read);
        }
        return memory.ToArray();
    }

    internal static ProblemHttpResult Refused(IReadOnlyList<FieldProblem> problems) => TypedResults.Problem(
        detail: $"{problems.Count} {(problems.Count == 1 ? "field needs" : "fields need")} correcting; each is named in errors by its JSON pointer.",
        title: "The record cannot be read.",
        statusCode: StatusCodes.Status400BadRequest,
        extensions: new Dictionary<string, object?>
        {
            ["errors"] = problems.Select(p => new { pointer = p.Pointer, detail = p.Says }).ToArray(),
        });
}

/// <summary>A job that was made.</summary>
/// <param name="Id">Its number in the shop.</param>
/// <param name="Record">Address of its record.</param>
/// <param name="Page">Address of its page.</param>
public sealed record JobCreated(int Id, string Record, string Page);

/// <summary>A test that was added.</summary>
/// <param name="Id">The job's number.</param>
/// <param name="Test">The test's row.</param>
/// <param name="Record">Address of the job's record.</param>
public sealed record TestAdded(int Id, long Test, string Record);

/// <summary>A page of jobs.</summary>
/// <param name="Jobs">The jobs, newest first.</param>
/// <param name="Next">Address of the next page; absent on the last.</param>
public sealed record JobListing(IReadOnlyList<JobListed> Jobs, string? Next);

/// <summary>A job in a list.</summary>
/// <param name="Id">Its number.</param>
/// <param name="Vehicle">What the shop calls the vehicle.</param>
/// <param name="Engine">What the engine is called.</param>
/// <param name="Complaint">Why it was asked for.</param>
/// <param name="OpenedAt">When it was opened.</param>
/// <param name="OpenedBy">Who opened it.</param>
/// <param name="ClosedAt">When it was closed; absent while it is open.</param>
public sealed record JobListed(int Id, string? Vehicle, string? Engine, string? Complaint, DateTimeOffset OpenedAt, string OpenedBy, DateTimeOffset? ClosedAt);
