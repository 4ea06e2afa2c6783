using Microsoft.AspNetCore.Http.HttpResults;
using Zandrik.Core.Records;
using Zandrik.Core.RelativeCompression;
using Zandrik.Storage;
using Zandrik.Web.Captures;

namespace Zandrik.Web.Api;

/// <summary>Judges one capture that came over the API, and keeps it where a job is named.</summary>
internal sealed class RelativeDesk(CaptureStore captures, StepStore steps, CaptureDesk desk, TimeProvider clock)
{
    /// <summary>The answer to a capture and its fields.</summary>
    /// <param name="who">The shop and its token.</param>
    /// <param name="capture">Its bytes; where it stands does not matter.</param>
    /// <param name="fields">The fields, and under "capture" the name of the file.</param>
    /// <param name="idempotencyKey">The sender's key; absent for none.</param>
    /// <param name="cancel">Cancels the work.</param>
    public async Task<IResult> AnswerAsync(ShopPerson who, Stream capture, IReadOnlyDictionary<string, string> fields, string? idempotencyKey, CancellationToken cancel)
    {
        var typed = new RelativeFields(fields);
        typed.Problems.AddRange(fields.Where(f => !JsonGate.IsText(f.Key) || !JsonGate.IsText(f.Value)).Select(f => new FieldProblem("/" + (JsonGate.IsText(f.Key) ? f.Key : "?"), "This has characters that are no text.")));
        if (capture.Length == 0)
        {
            typed.Problems.Add(new FieldProblem("/capture", "Send the file of the capture as the part capture."));
        }
        capture.Position = 0;
        var found = await CaptureFile.InspectAsync(capture, cancel: cancel);
        var (layout, question) = typed.Read(found);
        if (typed.Problems.Count == 0 && question!.Problem() is { } wrong)
        {
            typed.Problems.Add(wrong);
        }
        if (typed.Problems.Count > 0)
        {
            return TypedResults.Problem(
                detail: $"{typed.Problems.Count} {(typed.Problems.Count == 1 ? "field needs" : "fields need")} correcting; each is named in errors.", title: "The capture cannot be analysed.", statusCode: StatusCodes.Status400BadRequest,
                extensions: new Dictionary<string, object?> { ["errors"] = typed.Problems.Select(p => new { pointer = p.Pointer, detail = p.Says }).ToArray() });
        }
        if (found.Problem is { } unreadable)
        {
            return Refused(unreadable);
        }
        if (typed.Job is { } of && await steps.StateAsync(who, of, cancel) is { Safety.ForbidsWriting: { } closed })
        {
            return TypedResults.Problem(closed, title: "Not added.", statusCode: StatusCodes.Status409Conflict);
        }
        capture.Position = 0;
        var judged = await desk.JudgeAsync(capture, found.Shape, layout!, question!, cancel);
        if (judged.Answer.Refused is { } why)
        {
            return Refused(why);
        }
        var reply = RelativeReply.Of(judged.Answer, typed.Assumed(layout!, question!, judged.Answer));
        if (typed.Job is not { } job)
        {
            return TypedResults.Ok(reply);
        }
        capture.Position = 0;
        var (kept, another) = await captures.AddAsync(who, job, fields.GetValueOrDefault("capture", "capture"), judged, capture, idempotencyKey, clock.GetUtcNow(), cancel);
        return another ? TypedResults.Problem("This Idempotency-Key was used before with another capture. Use a new key.", statusCode: StatusCodes.Status422UnprocessableEntity)
            : kept is null ? TypedResults.Problem($"This shop has no job {job}.", statusCode: StatusCodes.Status404NotFound)
            : TypedResults.Ok(reply with { Stored = new RelativeStored(job, kept.Test, $"/api/v1/jobs/{job}/record", $"/api/v1/jobs/{job}/captures/{kept.Capture}") });
    }

    private static JsonHttpResult<RelativeRefusal> Refused(CaptureRemark why) =>
        TypedResults.Json(new RelativeRefusal(true, RecordWords.Of(why.Code), why.Says), statusCode: StatusCodes.Status422UnprocessableEntity);
}
