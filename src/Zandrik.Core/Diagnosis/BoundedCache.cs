using System.Collections.Concurrent;

namespace Zandrik.Core.Diagnosis;

/// <summary>What was worked out once and may be asked again, up to a number of answers; then it starts anew.</summary>
/// <param name="most">How many answers are kept.</param>
/// <param name="make">Makes an answer of its key; absent where each asker brings what to make it from.</param>
internal sealed class BoundedCache<TKey, TValue>(int most, Func<TKey, TValue>? make = null)
    where TKey : notnull
{
    private readonly ConcurrentDictionary<TKey, TValue> known = new();

    public TValue Of(TKey key) => known.TryGetValue(key, out var found) ? found : Keep(key, make!(key));

    public TValue Of(TKey key, Func<TValue> from) => known.TryGetValue(key, out var found) ? found : Keep(key, from());

    private TValue Keep(TKey key, TValue made)
    {
        if (known.Count >= most)
        {
            known.Clear();
        }
        return known.GetOrAdd(key, made);
    }
}
