using System.Globalization;
using Microsoft.AspNetCore.Mvc;
using Screeline.Core.Access;
using Screeline.Core.Access.Recording;
using Screeline.Core.Fastening;
using Screeline.Core.Jobs;
using Screeline.Core.Quantities;

namespace Screeline.Web.Pages;

// Recording what no map knows: the whole way in where there is none, and what a map did not know.
public abstract partial class StepPage
{
    /// <summary>Where somebody works now, where they say so; null for where they last said.</summary>
    [BindProperty(SupportsGet = true, Name = "place")]
    public string? PlaceAsked { get; set; }

    /// <summary>The step before which what is recorded next was done; null for now.</summary>
    [BindProperty(SupportsGet = true, Name = "before")]
    public string? InsertBefore { get; set; }

    /// <summary>The expected step in whose place something else was; null for none.</summary>
    [BindProperty(SupportsGet = true, Name = "instead")]
    public string? InsteadOf { get; set; }

    /// <summary>Whether the way in is recorded as it goes.</summary>
    public bool Records => Job.Recording is not null && Phase == WorkPhase.Apart;

    /// <summary>Where somebody works: a kind of place.</summary>
    public string PlaceNow => PlaceAsked is { } asked && Core.Access.Position.Kinds.Contains(asked) ? asked
        : Job.Things.Any(t => t.Press is not null) ? Job.PlaceOf(Person.Id)
        : Job.IsRecorded || Shown is null ? Places[0]
        : Map.Positions.FirstOrDefault(p => p.Id == Position(Shown))?.Kind ?? Places[0];

    /// <summary>Kinds of places, those first at which most comes off in jobs of this family.</summary>
    public IReadOnlyList<string> Places { get; private set; } = Core.Access.Position.Kinds;

    /// <summary>Fasteners that this person has out and of which nothing was said yet what they held, or null.</summary>
    public RecordedEntries? Pending => Job.Pending(Person.Id);

    /// <summary>The tray cell the next fasteners go into.</summary>
    public int NextCell => Pending?.Cell ?? Job.Count.FreeCell;

    /// <summary>What is likely to come off next, the likeliest first.</summary>
    public IReadOnlyList<LikelyThing> Likely { get; private set; } = [];

    /// <summary>Steps that are expected and can be done now, the frame's first, then in the order they are expected.</summary>
    public IReadOnlyList<Operation> ExpectedNow { get; private set; } = [];

    /// <summary>What should be said before what was asked to be kept: in words, and the step that says it; null when nothing was.</summary>
    public (string Reason, Operation? First)? NotYet { get; private set; }

    /// <summary>The thing recorded last by whoever works here whose word is unknown and of which no dangers were told, or null.</summary>
    public RecordedEntries? UnknownWord => Job.Things.LastOrDefault(t => t.Actor == Person.Id && t.Press is { Payload: { Act: not (TakenAct.Looked or TakenAct.Loosened) } press } && !Job.Dangers.ContainsKey(press.What) && Job.Words.In(press.What, Job.System.Id).Count == 0);

    /// <summary>What the person can take back: the last that was told on the way in by anybody.</summary>
    public Entry? LastTold => Job.Things.SelectMany(t => t.Entries).Concat(Job.Struck.Values.Select(s => s.Entry)).Concat(Job.Removed.Values.Select(r => r.Entry).Where(e => e.Payload is StepDone))
        .Where(e => e.Payload is not ArrivalNoted).MaxBy(e => e.Position);

    /// <summary>Kinds and sizes of fasteners to choose from: those out last on this job, then the commonest of the family's maps.</summary>
    public IReadOnlyList<(string Kind, string? Drive)> Sizes { get; private set; } = [];

    private async Task PrepareRecorderAsync()
    {
        var words = Library.PartWords;
        // Loose is not off: the part itself comes next.
        var loose = Job.Things.Where(t => t.Press is null or { Payload.Act: TakenAct.Loosened }).Select(t => t.Id).ToHashSet(StringComparer.Ordinal);
        var off = Job.Removed.Keys.Where(id => !loose.Contains(id)).Select(id => Map.Operation(id)).OfType<Operation>().SelectMany(o => words.In(o.Title, Job.System.Id)).Select(w => w.Id).ToHashSet(StringComparer.Ordinal);
        off.UnionWith(loose.Select(Job.TitleOf).SelectMany(title => words.In(title, Job.System.Id)).Where(w => w.UsualAct == TakenAct.Loosened).Select(w => w.Id));
        // What the frame offers on a button of its own is not offered twice.
        off.UnionWith(["negative-lead", .. Job.Struck.Keys.SelectMany(id => words.In(Job.TitleOf(id), Job.System.Id)).Select(w => w.Id)]);
        var sequences = await shop.Shelf.SequencesAsync(HttpContext.RequestAborted);
        var usually = sequences.Where(s => s.Family == Job.System.Id).SelectMany(s => s.Steps).CountBy(s => s.Place).ToDictionary(StringComparer.Ordinal);
        Places = [.. Core.Access.Position.Kinds.OrderByDescending(k => usually.GetValueOrDefault(k))];
        Likely = LikelyNext.Rank(sequences, words, Job.System.Id, PlaceNow, off);
        ExpectedNow = [.. Job.Expected.Where(IsDue)];
        var lately = Job.Things.SelectMany(t => t.Groups).Reverse().Select(g => (g.Payload.Kind, g.Payload.Drive));
        var usual = (await shop.Shelf.AllAsync(HttpContext.RequestAborted)).SelectMany(m => m.Map.Operations.SelectMany(o => o.Fasteners).Select(f => (m.Map.Family, Fastener: f))).Where(x => x.Fastener.Kind is not ("pin" or "ball-joint"))
            .GroupBy(x => (x.Fastener.Kind, x.Fastener.Drive)).OrderByDescending(g => g.Count(x => x.Family == Job.System.Id)).ThenByDescending(g => g.Count()).ThenBy(g => g.Key.Kind, StringComparer.Ordinal).Select(g => g.Key);
        Sizes = [.. lately.Concat(usual).Distinct().Take(8)];
    }

    // The frame's own steps come when they are due; what is only there to make something safe, when something wants it.
    private bool IsDue(Operation o) => Job.System.Frame.Find(o.Id) is not { } frame || frame.Moment switch
    {
        FrameMoment.First => true,
        FrameMoment.Out => Job.Reached is not null,
        _ => o.Provides.Contains("vehicle-supported") ? Core.Access.Position.UnderneathKinds.Contains(PlaceNow) || Likely.Take(3).Any(l => Core.Access.Position.UnderneathKinds.Contains(l.Place) && l.In * 2 > l.Of) : o.Provides.Any(Wanted) || (o.Id == "chocked" && Core.Access.Position.UnderneathKinds.Contains(PlaceNow)),
    };

    private bool Wanted(string state) => Likely.Take(3).Where(l => l.In > 0).SelectMany(l => l.Word.Cautions).Concat(Job.Expected.Where(o => Job.System.Frame.Find(o.Id) is null).Take(3).SelectMany(o => o.Cautions)).Any(c => Library.Cautions.GetValueOrDefault(c)?.Contains(state) == true);

    /// <summary>Cautions in words that a thing brings when it comes off.</summary>
    public IEnumerable<string> CautionsOf(PartWord word) => word.Cautions.Select(Library.CautionWords);

    /// <summary>A group of fasteners is out.</summary>
    public async Task<IActionResult> OnPostGroupAsync()
    {
        Asked = Given("step");
        // A row of its own for what was used lately; else kind and size by themselves.
        var (kind, drive) = Given("kind") is null && Given("pick") is { } pick && pick.Split('|') is [var k, var d] ? (k, d.Length == 0 ? null : d) : (Given("kind") ?? "", Given("size") is { } size ? $"{Given("drive") ?? ""}{size}" : Given("drive") is "slot" ? "slot" : null);
        if (kind.Length == 0)
        {
            return RefuseField("group", "Which kind and size? Choose one above, or kind and size below.");
        }

        if (!int.TryParse(Given("many") ?? Given("count"), NumberStyles.None, CultureInfo.InvariantCulture, out var count))
        {
            return RefuseField("group", "How many? A whole number.");
        }

        decimal? length = null;
        if (Given("length") is { } typed)
        {
            if (!decimal.TryParse(typed.Replace(',', '.'), NumberStyles.AllowDecimalPoint, CultureInfo.InvariantCulture, out var mm))
            {
                return RefuseField("group", $"“{typed}” is no length in millimetres.");
            }

            length = mm;
        }

        int? cell = Given("stays") == "yes" ? null : int.TryParse(Given("cell"), NumberStyles.None, CultureInfo.InvariantCulture, out var asked) ? asked : NextCell;
        // The cell on the button may have been taken by another tablet meanwhile.
        if (cell is not null && Job.Count.InTray.Any(a => a.Cell == cell && a.Step != Pending?.Id))
        {
            cell = NextCell;
        }

        return await KeepHereAsync([new GroupOut(kind, drive, count, cell, length, Given("thread"), null, Given("where"), Given("hidden") == "yes", Given("note"), Given("tool"))], "group");
    }

    /// <summary>Something came off, was moved aside, loosened or looked at.</summary>
    public async Task<IActionResult> OnPostTakenAsync()
    {
        Asked = Given("step");
        if (!Enum.TryParse<TakenAct>(Field("act"), ignoreCase: true, out var act) || !Enum.IsDefined(act))
        {
            return Refuse("What was done: plug, hose, lead, part, moved aside, looked?", StatusCodes.Status422UnprocessableEntity);
        }

        var field = $"what-{Field("key")}";
        if (Given("what") is not { } what)
        {
            return RefuseField(field, "Which one? A word: undertray, loom bracket.");
        }

        var place = Given("place") ?? PlaceNow;
        var off = new TakenOff(act, Capital(what), place, Given("target") == "yes", Given("before"), Given("instead"), Given("where"), Given("tool") is { } tool ? [tool] : null);
        if (Given("anyway") != "yes" && JobRules.Malformed(Job, off).Count == 0 && Job.CannotRecord is null && JobRules.OutOfOrder(Job, off, Now) is { } reason)
        {
            NotYet = (reason, Job.SafeFirst(Job.AsOperation(off)));
        }

        return Given("anyway") == "yes" ? await KeepAsync([off], Stage, _ => field, outOfTurn: Data.OutOfTurn.Keep) : await KeepHereAsync([off], field);
    }

    private static string Capital(string words) => char.ToUpperInvariant(words[0]) + words[1..];

    /// <summary>Something that was expected is not there.</summary>
    public async Task<IActionResult> OnPostStrikeAsync()
    {
        var step = Field("step");
        return await KeepAsync([new ExpectationStruck(step, Given("why"))], Stage);
    }

    /// <summary>Something was done on the way back that nobody told of.</summary>
    public async Task<IActionResult> OnPostBesidesAsync()
    {
        Asked = Given("step");
        return Given("what") is { } what ? await KeepHereAsync([new StepBesides(what, Kind(Asked))], "besides") : RefuseField("besides", "What was done? A few words.");
    }

    private string Kind(string? step) =>
        Job.Map is { } map && (map.Step(step ?? "")?.Position ?? map.Operation(step ?? "")?.Position) is { } position && map.Positions.FirstOrDefault(p => p.Id == position)?.Kind is { } kind ? kind : "bay";

    /// <summary>What is dangerous about an unknown word.</summary>
    public async Task<IActionResult> OnPostDangersAsync()
    {
        Asked = Given("step");
        return await KeepHereAsync([new DangersTold(Field("what"), [.. Request.Form["danger"].OfType<string>().Where(d => d.Length > 0 && d != "none")])], "");
    }

    /// <summary>A way was tried and leads nowhere.</summary>
    public async Task<IActionResult> OnPostTriedAsync()
    {
        Asked = Given("step");
        if (Given("what") is not { } what)
        {
            return RefuseField("tried", "Which way? A few words: from above, past the intake.");
        }

        if (Given("minutes") is { } typed && (!decimal.TryParse(typed.Replace(',', '.'), NumberStyles.AllowDecimalPoint, CultureInfo.InvariantCulture, out var read) || read > 1440))
        {
            return RefuseField("tried", $"“{typed}” is no number of minutes, up to 1440.");
        }

        return await KeepHereAsync([new WayTried(what, Given("minutes") is { } m ? decimal.Parse(m.Replace(',', '.'), CultureInfo.InvariantCulture) : null, PlaceNow)], "tried");
    }

    /// <summary>Of what was off, only this was in the way.</summary>
    public async Task<IActionResult> OnPostOnlyAsync()
    {
        Asked = Field("step");
        return await KeepHereAsync([new OnlyThis(Asked, [.. Request.Form["kept"].OfType<string>().Where(k => k.Length > 0)])], "only");
    }

    /// <summary>A step is moved in the order, on the way in or back.</summary>
    public async Task<IActionResult> OnPostMoveAsync()
    {
        var (step, before) = (Field("step"), Given("before"));
        if (Phase == WorkPhase.Apart)
        {
            Asked = step;
        }

        return await KeepHereAsync([new OrderMoved(Phase, step, before == "end" ? null : before)], "move");
    }

    /// <summary>What was recorded is put right: what it was, or how many of what.</summary>
    public async Task<IActionResult> OnPostCorrectAsync(Guid target)
    {
        Asked = Given("step");
        Payload? corrected = null;
        if (Job.Things.Select(t => t.Press).OfType<Recorded<TakenOff>>().FirstOrDefault(p => p.Entry.Id == target) is { } press)
        {
            var act = Enum.TryParse<TakenAct>(Given("act"), ignoreCase: true, out var a) && Enum.IsDefined(a) ? a : press.Payload.Act;
            corrected = press.Payload with { Act = act, What = Given("what") ?? press.Payload.What, Place = Given("place") ?? press.Payload.Place, IsTarget = Request.Form.ContainsKey("target") ? Field("target") == "yes" : press.Payload.IsTarget, Where = Request.Form.ContainsKey("where") ? Given("where") : press.Payload.Where };
        }
        else if (Job.Things.SelectMany(t => t.Groups).FirstOrDefault(g => g.Entry.Id == target) is { } group)
        {
            if (!int.TryParse(Given("count"), NumberStyles.None, CultureInfo.InvariantCulture, out var count))
            {
                return RefuseField("correct", "How many? A whole number.");
            }

            corrected = group.Payload with { Kind = Given("kind") ?? group.Payload.Kind, Drive = Given("drive"), Count = count, Thread = Given("thread"), Note = Given("note") };
        }

        return corrected is null ? Refuse("That is no longer there.", StatusCodes.Status409Conflict) : await KeepHereAsync([new EntryCorrected(target, EntryKinds.Write(corrected))], "correct");
    }

    /// <summary>Takes back the last thing that was told on the way in.</summary>
    public async Task<IActionResult> OnPostTakeLastAsync(Guid target)
    {
        if (LastTold?.Id != target && Job.Things.SelectMany(t => t.Entries).All(e => e.Id != target) && Job.Struck.Values.All(s => s.Entry.Id != target))
        {
            return Refuse("That is no longer there.", StatusCodes.Status409Conflict);
        }

        return await KeepAsync([new EntryWithdrawn(target)], Stage);
    }

    /// <summary>Whoever works here pauses.</summary>
    public Task<IActionResult> OnPostPauseAsync() => KeepAsync([new WorkClocked(ClockedMoment.Pause)], Stage);

    /// <summary>What a group is tightened to, where no map tells it: the maker's figure, worked out, or by hand.</summary>
    public async Task<IActionResult> OnPostFigureAsync()
    {
        var (step, fastener) = (Field("step"), Field("fastener"));
        Asked = step;
        var field = $"figure-{fastener}";
        if (!Enum.TryParse<FigureFrom>(Field("from"), ignoreCase: true, out var from) || !Enum.IsDefined(from))
        {
            return RefuseField(field, "The maker's figure, worked out, or by hand?");
        }

        if (Job.FastenersOf(step).FirstOrDefault(f => f.Id == fastener) is { Structural: false } asked && Jobs.RefitModel.MayBeStructural(asked) && Given("structural") is null && Job.FigureOf(step, fastener)?.Payload.Structural is null)
        {
            return RefuseField(field, "Does it hold the vehicle together, or a person safe? Yes or no.");
        }

        Figure? value = null;
        if (from == FigureFrom.Maker)
        {
            var read = QuantityParser.Read(QuantityKind.Torque, Field("value"), Unit);
            if (read.Figure is not { } figure)
            {
                return RefuseField(field, read.Reason!);
            }

            value = figure;
        }

        Joint? joint = AccessMapReader.Joints.TryGetValue(Field("joint"), out var j) ? j : null;
        if (from == FigureFrom.Worked && joint is null)
        {
            return RefuseField(field, "What is it screwed into? Steel and light alloy differ by half.");
        }

        return await KeepHereAsync([new FigureTold(step, fastener, from, value, from == FigureFrom.Maker ? Given("source") : null, Given("thread"), Given("strength"), joint, Field("structural") switch { "yes" => true, "no" => false, _ => Job.FigureOf(step, fastener)?.Payload.Structural })], field);
    }

    /// <summary>The unit in which torques are typed here.</summary>
    protected virtual Unit Unit => Units.NewtonMetre;
}
