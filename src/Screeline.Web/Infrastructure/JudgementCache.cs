using Microsoft.Extensions.Caching.Memory;

namespace Screeline.Web.Infrastructure;

/// <summary>
/// What was worked out lately, by all that it follows from: a page that is looked at again, by whomever, need not judge or plan again. Nothing here is
/// state, since the same question always has the same answer; the bound keeps it small.
/// </summary>
public sealed class JudgementCache : IDisposable
{
    private const int Most = 300;
    private readonly MemoryCache _answers = new(new MemoryCacheOptions { SizeLimit = Most, CompactionPercentage = 0.2 });

    /// <summary>The answer to a question: the one worked out before, else the one worked out now.</summary>
    /// <param name="question">Names all that the answer follows from.</param>
    /// <param name="work">Works it out; what it gives must not be changed afterwards.</param>
    public T Get<T>(string question, Func<T> work) => _answers.GetOrCreate(question, entry =>
    {
        entry.Size = 1;
        return work();
    })!;

    /// <inheritdoc/>
    public void Dispose() => _answers.Dispose();
}
