using Screeline.Core.Access;
using Screeline.Core.Jobs;

namespace Screeline.Library.Tests;

/// <summary>Every kind of job that ships, recorded from nothing: it comes apart, goes back, is proved; nothing safe is lost.</summary>
public sealed class RecordingTests(ITestOutputHelper output)
{
    private static readonly ShippedLibrary Library = ShippedLibrary.Load();

    public static TheoryData<string> Maps => [.. Library.Maps.Select(m => m.Map.Id)];

    [Theory]
    [MemberData(nameof(Maps))]
    public void A_job_recorded_from_nothing_goes_back_and_is_proved(string map)
    {
        for (var seed = 0; seed < 3; seed++)
        {
            var script = new RecordingScript(Library.Map(map).Map, new Random(seed));
            var apart = script.Job();
            Assert.Empty(apart.Disputes);
            Assert.True(apart.IsDone(Stage.TakeApart));
            Assert.Equal(script.Order.Where(id => script.Map[id].Kind == OperationKind.Open).Sum(id => script.Map[id].Fasteners.Sum(f => f.Count)), apart.Count.Out);
            var went = script.Back();
            var back = script.Job();
            Assert.Empty(back.Disputes);
            Assert.True(back.Count.Balances);
            Assert.True(back.IsDone(Stage.Refit));
            Assert.Equal(0, back.OpenOperations);
            script.HandBack();
            output.WriteLine($"{map} {seed}: {string.Join(", ", went.Select(id => Refit.Title(back.Map!, id)))}");
            output.WriteLine($"  asked besides: {string.Join("; ", script.AskedBesides)}");
            foreach (var (id, recorded) in script.RecordedAs)
            {
                var lost = script.Map[id].Cautions.Except(back.Map![recorded].Cautions).ToList();
                if (lost.Count > 0)
                {
                    output.WriteLine($"  LOST at {script.Map[id].Title}: {string.Join(", ", lost)}");
                }
            }
        }
    }
}
