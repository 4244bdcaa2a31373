using System.Runtime.CompilerServices;
using System.Text;
using System.Text.Json;
using Screeline.Core.Jobs;
using Screeline.Library;

namespace Screeline.Core.Tests;

/// <summary>
/// What an earlier version wrote is read today and comes out byte for byte. The files in written-before were written by that version;
/// a kind or a version that comes later adds lines to them, and nobody changes one that is there.
/// </summary>
public sealed class WrittenBeforeTests
{
    private static string Read(string file, [CallerFilePath] string here = "") => File.ReadAllText(Path.Combine(Path.GetDirectoryName(here)!, "written-before", file));

    [Fact]
    public void Every_kind_of_entry_reads_and_is_written_the_same()
    {
        var lines = Read("entries.jsonl").Split('\n', StringSplitOptions.RemoveEmptyEntries);
        var seen = new HashSet<string>(StringComparer.Ordinal);
        foreach (var line in lines)
        {
            using var body = JsonDocument.Parse(line);
            var root = body.RootElement;
            var tag = root.GetProperty("kind").GetString()!;
            var read = EntryKinds.Read(tag, root.GetProperty("payload"));
            var draft = new EntryDraft(root.GetProperty("id").GetGuid(), root.GetProperty("job").GetGuid(), root.GetProperty("based_on").GetInt32(), root.GetProperty("actor").GetGuid(), root.GetProperty("occurred_at").GetDateTimeOffset(), read, root.TryGetProperty("waited_seconds", out var waited) ? waited.GetInt32() : null);
            seen.Add(tag);
            if (EntryKinds.ForPayload(read).Tag == tag)
            {
                Assert.Equal(line, Encoding.UTF8.GetString(draft.Body()));
            }
        }

        Assert.Empty(EntryKinds.All.Select(k => $"{k.Name}@1").Except(seen));
    }

    [Fact]
    public void A_job_as_a_file_reads_and_folds()
    {
        var text = Read("job.json");
        var families = new Families(JobStory.Library);
        var file = JobFile.Read(text, families);
        Assert.Equal(text, file.Write());
        var job = Job.Fold([.. file.Entries.Select(e => e.Entry)], new JobKnowledge(families, new Dictionary<string, Access.AccessMap>()));
        Assert.Equal((15, 0, "window", Stage.HandBack), (job.Head, job.Disputes.Count, job.Opened.Payload.Family, job.Current));
        Assert.NotNull(job.HandedBack);
        Assert.Single(job.Settings);
    }
}
