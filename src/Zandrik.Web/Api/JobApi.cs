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
        if (request.ContentType is { } type && !type.Contains("json", StringComparison.OrdinalIgnoreCase))
        {
            return TypedResults.Problem("Send the record as application/json.", statusCode: StatusCodes.Status415UnsupportedMediaType);
        }
        if (idempotencyKey is { Length: 0 or > LongestKey })
        {
            return TypedResults.Problem($"An Idempotency-Key has 1 to {LongestKey} characters.", statusCode: StatusCodes.Status400BadRequest);
        }
        if (await BodyAsync(request, cancel) is not { } body)
        {
            return TypedResults.Problem("A record may have up to 1 MiB.", statusCode: StatusCodes.Status413PayloadTooLarge);
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
                return TypedResults.Problem("This Idempotency-Key was used before with another body. Use a new key for a new record.",
                    statusCode: StatusCodes.Status422UnprocessableEntity);
            }
        }
        return TypedResults.Created($"/api/v1/jobs/{number}/record", new JobCreated(number, $"/api/v1/jobs/{number}/record", $"/jobs/{number}/dry"));
    }

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
            : TypedResults.Problem($"This shop has no job {id}.", statusCode: StatusCodes.Status404NotFound);

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

    private static ProblemHttpResult Refused(IReadOnlyList<FieldProblem> problems) => TypedResults.Problem(
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
