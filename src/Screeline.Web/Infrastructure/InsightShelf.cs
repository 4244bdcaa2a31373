using System.Collections.Concurrent;
using Screeline.Web.Pages;

namespace Screeline.Web.Infrastructure;

/// <summary>
/// Pictures of Insight as they were last drawn. Each is used only while the database says that nothing it is made of has changed, so
/// that processes side by side never show different ones; the bound keeps odd requests from filling memory.
/// </summary>
public sealed class InsightShelf
{
    private const int Most = 64;
    private readonly ConcurrentDictionary<(int Months, string Family), (string Revision, DateTime Day, int Jobs, IReadOnlyList<Insight> Pictures)> _kept = new();

    /// <summary>The pictures for a time and a family: those kept, when they still hold, else drawn anew.</summary>
    public async Task<(int Jobs, IReadOnlyList<Insight> Pictures)> GetAsync(int months, string family, string revision, Func<Task<(int Jobs, IReadOnlyList<Insight> Pictures)>> draw)
    {
        if (_kept.TryGetValue((months, family), out var kept) && kept.Revision == revision && kept.Day == DateTime.Today)
        {
            return (kept.Jobs, kept.Pictures);
        }

        var (jobs, pictures) = await draw();
        if (_kept.Count >= Most)
        {
            _kept.Clear();
        }

        _kept[(months, family)] = (revision, DateTime.Today, jobs, pictures);
        return (jobs, pictures);
    }
}
