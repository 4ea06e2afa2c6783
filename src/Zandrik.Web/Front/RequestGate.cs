using System.Collections;
using System.Collections.Concurrent;
using System.Reflection;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.Filters;
using Zandrik.Core.Records;

namespace Zandrik.Web.Front;

/// <summary>
/// The one gate in front of every page. What comes in an address, a query, a form or the name of a file is text: a null
/// byte or another control character is nothing anybody typed, and the database would refuse it with an error. And the
/// models a page is given are whole: a list that came broken is an empty one, never nothing.
/// </summary>
public sealed class RequestGate : IAsyncResourceFilter, IAsyncPageFilter
{
    // The models of each kind of page.
    private static readonly ConcurrentDictionary<Type, PropertyInfo[]> Bound = new();

    /// <summary>What is said of text that is none.</summary>
    public const string NoText = "Something in what was sent has characters that are no text. Go back, type it again and send it again.";

    /// <inheritdoc/>
    public async Task OnResourceExecutionAsync(ResourceExecutingContext context, ResourceExecutionDelegate next)
    {
        var request = context.HttpContext.Request;
        var refused = !JsonGate.IsText(request.Path.Value ?? "") || request.Query.Any(q => !IsText(q.Key, q.Value));
        if (!refused && request.HasFormContentType)
        {
            try
            {
                var form = await request.ReadFormAsync(context.HttpContext.RequestAborted);
                refused = form.Any(f => !IsText(f.Key, f.Value)) || form.Files.Any(f => !JsonGate.IsText(f.FileName));
            }
            catch (InvalidDataException)
            {
                refused = true;
            }
        }
        if (refused)
        {
            context.Result = new ContentResult { StatusCode = StatusCodes.Status400BadRequest, Content = NoText, ContentType = "text/plain; charset=utf-8" };
            return;
        }
        await next();
    }

    /// <inheritdoc/>
    public Task OnPageHandlerSelectionAsync(PageHandlerSelectedContext context) => Task.CompletedTask;

    /// <inheritdoc/>
    public Task OnPageHandlerExecutionAsync(PageHandlerExecutingContext context, PageHandlerExecutionDelegate next)
    {
        foreach (var model in context.HandlerArguments.Values)
        {
            MakeWhole(model);
        }
        var page = context.HandlerInstance;
        foreach (var property in Bound.GetOrAdd(page.GetType(), t => [.. t.GetProperties().Where(p => p is { CanRead: true, CanWrite: true } && p.IsDefined(typeof(BindPropertyAttribute)) && IsModel(p.PropertyType))]))
        {
            if (property.GetValue(page) is not { } model)
            {
                property.SetValue(page, model = Activator.CreateInstance(property.PropertyType)!);
            }
            MakeWhole(model);
        }
        return next();
    }

    private static bool IsText(string name, IReadOnlyList<string?> values) => JsonGate.IsText(name) && values.All(v => v is null || JsonGate.IsText(v));

    private static bool IsList(Type type) => type.IsGenericType && type.GetGenericTypeDefinition() == typeof(List<>);

    private static bool IsModel(Type type) => IsList(type) || (type.IsClass && type != typeof(string) && type.Assembly == typeof(RequestGate).Assembly && type.GetConstructor(Type.EmptyTypes) is not null);

    // Lists that came broken become empty ones, and what is missing in the middle of one is left out.
    private static void MakeWhole(object? model)
    {
        if (model is IList { IsReadOnly: false, IsFixedSize: false } list)
        {
            for (var i = list.Count - 1; i >= 0; i--)
            {
                if (list[i] is null)
                {
                    list.RemoveAt(i);
                }
                else
                {
                    MakeWhole(list[i]);
                }
            }
        }
        else if (model is not null && IsModel(model.GetType()))
        {
            foreach (var property in model.GetType().GetProperties().Where(p => p is { CanRead: true, CanWrite: true } && p.GetIndexParameters().Length == 0))
            {
                if (IsList(property.PropertyType))
                {
                    if (property.GetValue(model) is not { } inner)
                    {
                        property.SetValue(model, inner = Activator.CreateInstance(property.PropertyType)!);
                    }
                    MakeWhole(inner);
                }
            }
        }
    }
}
