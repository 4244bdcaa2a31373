using System.Collections.Concurrent;
using System.Threading.Channels;
using Screeline.Data;

namespace Screeline.Web.Infrastructure;

/// <summary>
/// Hears from the database which job grew, whichever process let it grow, and tells those who look at it. Holds one connection of its own;
/// when that breaks it makes another, and everybody looks again, since what was told meanwhile was not heard.
/// </summary>
public sealed class JobFeed(Database database, ILogger<JobFeed> log) : BackgroundService
{
    private static readonly TimeSpan Again = TimeSpan.FromSeconds(1);
    private readonly ConcurrentDictionary<Channel<int>, Guid> _listeners = new();

    /// <summary>How many look at a job now.</summary>
    public int Listeners => _listeners.Count;

    /// <summary>Begins to tell the heads of a job; 0 means: look again. Ends when disposed.</summary>
    public Listening Listen(Guid job)
    {
        // Only the latest head matters to one who is slow.
        var channel = Channel.CreateBounded<int>(new BoundedChannelOptions(4) { FullMode = BoundedChannelFullMode.DropOldest });
        _listeners[channel] = job;
        return new Listening(channel.Reader, () => _listeners.TryRemove(channel, out _));
    }

    /// <inheritdoc/>
    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        while (!stoppingToken.IsCancellationRequested)
        {
            try
            {
                await database.ListenAsync(Tell, TellAll, stoppingToken);
            }
            catch (Exception e) when (Database.IsAway(e) || e is InvalidOperationException)
            {
                database.ForgetConnections();
                log.LogWarning("Not listening to the database: {Reason}", e.Message);
                await Task.Delay(Again, stoppingToken).ContinueWith(_ => { }, CancellationToken.None);
            }
            catch (OperationCanceledException) when (stoppingToken.IsCancellationRequested)
            {
                return;
            }
        }
    }

    private void Tell(Guid job, int head)
    {
        foreach (var (channel, _) in _listeners.Where(l => l.Value == job))
        {
            channel.Writer.TryWrite(head);
        }
    }

    private void TellAll()
    {
        foreach (var channel in _listeners.Keys)
        {
            channel.Writer.TryWrite(0);
        }
    }
}

/// <summary>Somebody listens to a job.</summary>
public sealed class Listening(ChannelReader<int> heads, Action end) : IDisposable
{
    /// <summary>Heads as they come.</summary>
    public ChannelReader<int> Heads => heads;

    /// <inheritdoc/>
    public void Dispose() => end();
}
