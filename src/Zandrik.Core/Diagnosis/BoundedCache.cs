using System.Collections.Concurrent;

namespace Zandrik.Core.Diagnosis;

/// <summary>What was worked out once and may be asked again, up to a number of answers; then it starts anew.</summary>
internal sealed class BoundedCache<TKey, TValue>(int most, Func<TKey, TValue> make)
    where TKey : notnull
{
    private readonly ConcurrentDictionary<TKey, TValue> known = new();

    public TValue Of(TKey key)
    {
        if (known.TryGetValue(key, out var found))
        {
            return found;
        }
        if (known.Count >= most)
        {
            known.Clear();
        }
        return known.GetOrAdd(key, make);
    }

    /// <summary>The same, made from more than its key.</summary>
    public TValue Of(TKey key, Func<TValue> from)
    {
        if (known.TryGetValue(key, out var found))
        {
            return found;
        }
        if (known.Count >= most)
        {
            known.Clear();
        }
        return known.GetOrAdd(key, from());
    }
}
