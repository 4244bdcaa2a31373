using Screeline.Core.Fastening;

namespace Screeline.Core.Jobs;

/// <summary>What the entries made at the vehicle may say.</summary>
internal static class WorkRules
{
    /// <summary>Tells every fault of a payload with its path.</summary>
    public static void Check(Job job, Payload payload, Action<string, string> fault)
    {
        void Text(string path, string? text, int longest, bool needed = false)
        {
            if (needed && string.IsNullOrWhiteSpace(text))
            {
                fault(path, "is empty");
            }
            else if (text is { } t && t.Length > longest)
            {
                fault(path, $"longer than {longest} characters");
            }
        }

        void Step(string? step, bool needed = true)
        {
            if (step is null ? needed : job.Map?.Operation(step) is null && job.Map?.Step(step) is null)
            {
                fault("step", $"no step “{step}”");
            }
        }

        switch (payload)
        {
            case ExtraFound p:
                if (job.Map?.Operation(p.Step) is null)
                {
                    fault("step", $"no step “{p.Step}”");
                }

                if (!Fastener.Kinds.Contains(p.Kind))
                {
                    fault("kind", $"one of: {string.Join(", ", Fastener.Kinds)}");
                }

                if (p.Count is < 1 or > 500)
                {
                    fault("count", "1 to 500");
                }

                if (p.LengthMillimetres is <= 0 or > 2000)
                {
                    fault("length_millimetres", "above 0 and at most 2000");
                }

                Text("fastener", p.Fastener, 60, needed: true);
                Text("holds", p.Holds, 200, needed: true);
                Text("drive", p.Drive, 40);
                Text("thread", p.Thread, 40);
                Text("place", p.Place, 500);
                break;
            case StepException p: Step(p.Step); Text("note", p.Note, 2000); break;
            case TemporaryConnection p: Text("what", p.What, 200, needed: true); Step(p.Step, needed: false); break;
            case FastenersCounted p:
                if (job.FastenersOf(p.Step).FirstOrDefault(f => f.Id == p.Fastener) is not { } fastener)
                {
                    fault("fastener", $"“{p.Fastener}” is not in step “{p.Step}”");
                }
                else if (p.Count < 0 || p.Count > fastener.Count)
                {
                    fault("count", $"0 to {fastener.Count}");
                }

                break;
            case TimerStarted p:
                Step(p.Step);
                Text("what", p.What, 200, needed: true);
                if (p.Minutes is <= 0 or > 10_080)
                {
                    fault("minutes", "above 0 and at most a week");
                }
                else if (p.Kind == TimerKind.Restraint && job.Map?.Operation(p.Step) is { } held && p.Minutes < held.WaitMinutes)
                {
                    fault("minutes", $"at least the {held.WaitMinutes:0.##} minutes that the maker asks for");
                }

                break;
            case NoteAdded p: Step(p.Step, needed: false); Text("text", p.Text, 2000, needed: true); break;
            case PictureTaken p:
                Step(p.Step, needed: false);
                Text("caption", p.Caption, 500);
                if (p.Sha256.Length != 64 || p.Sha256.Any(c => !char.IsAsciiHexDigitLower(c)))
                {
                    fault("sha256", "64 digits of lower-case hex");
                }

                if (p.Width is < 1 or > 20_000 || p.Height is < 1 or > 20_000)
                {
                    fault("width", "1 to 20000 pixels each way");
                }

                if (p.Over is { } over && job.Pictures.All(x => x.Entry.Id != over))
                {
                    fault("over", "no such picture");
                }

                break;
            case SettingKept p:
                Step(p.Step, needed: false);
                Text("words", p.Words, 300, needed: true);
                if (!Access.RefitStep.Settings.Contains(p.Setting))
                {
                    fault("setting", $"one of: {string.Join(", ", Access.RefitStep.Settings)}");
                }

                if (p.Asked.Count > 200 || p.Asked.Any(a => a.Key.Length > 40 || a.Value.Length > 2000))
                {
                    fault("asked", "at most 200 fields of at most 2000 characters");
                }

                break;
            case PinsSet p: CheckPins(job, p, fault); break;
            case PartCompared p: Text("point", p.Point, 100, needed: true); Text("found", p.Found, 500); break;
            case PartChosen p:
                Text("offer", p.Offer, 100, needed: true);
                Text("title", p.Title, 300, needed: true);
                if (p.Price is < 0 or > 1_000_000 || p.Deposit is < 0 or > 1_000_000)
                {
                    fault("price", "0 to 1000000");
                }

                break;
            case PartCarried p when job.Part?.Carried.Any(c => c.Id == p.Piece) != true: fault("piece", $"“{p.Piece}” is not carried over here"); break;
            case ToolLeft p: Text("tool", p.Tool, 100, needed: true); Text("where", p.Where, 300); Step(p.Step, needed: false); break;
            case LeftOverFound p:
                Text("what", p.What, 200, needed: true);
                if (p.Count is < 1 or > 500)
                {
                    fault("count", "1 to 500");
                }

                break;
            case LeftOverSettled p:
                Text("how", p.How, 500, needed: true);
                if (job.LeftOvers.All(l => l.Found.Entry.Id != p.LeftOver))
                {
                    fault("left_over", "nothing like it was found");
                }

                break;
            case DifferenceSigned p:
                Text("reason", p.Reason, 1000, needed: true);
                // Looked at when it is said and never again: a screw that is found later must not make the signature wrong.
                if (p.Covers.Count == 0 || p.Covers.Any(c => job.Differences.All(x => x.Key != c)))
                {
                    fault("covers", "the count has changed: look at it again before you sign");
                }

                break;
        }
    }

    private static void CheckPins(Job job, PinsSet p, Action<string, string> fault)
    {
        if (job.Pictures.All(x => x.Entry.Id != p.Picture))
        {
            fault("picture", "no such picture");
        }

        if (p.Pins.Count > 200)
        {
            fault("pins", "at most 200");
        }

        foreach (var (pin, i) in p.Pins.Select((pin, i) => (pin, i)))
        {
            if (pin.Points.Count < 1 || pin.Points.Count > (pin.Kind == PinKind.Wire ? 50 : 1))
            {
                fault($"pins[{i}].points", pin.Kind == PinKind.Wire ? "a wire has 1 to 50 points" : "one point");
            }

            if (pin.Points.Any(x => x.X is < 0 or > 100 || x.Y is < 0 or > 100))
            {
                fault($"pins[{i}].points", "each from 0 to 100");
            }

            if (pin.Label?.Length > 100)
            {
                fault($"pins[{i}].label", "longer than 100 characters");
            }
        }
    }
}
