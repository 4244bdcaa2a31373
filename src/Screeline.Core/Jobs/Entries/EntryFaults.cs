using Screeline.Core.Diagnosis;
using Screeline.Core.Formats;
using Screeline.Core.Quantities;

namespace Screeline.Core.Jobs;

/// <summary>Collects what is wrong with a payload, each fault with its path inside the payload; and the checks that many kinds share.</summary>
/// <param name="fromFile">Whether it was said before and is told by a file: what is asked for only at the moment it is said is not asked then.</param>
public sealed class EntryFaults(bool fromFile = false)
{
    private readonly List<FormatFault> _faults = [];

    /// <summary>What was found, with paths such as "$.payload.step".</summary>
    public IReadOnlyList<FormatFault> All => _faults;

    /// <summary>Adds a fault.</summary>
    /// <param name="path">Where in the payload, in the names of its JSON: "fasteners[2].back".</param>
    /// <param name="message">What is wrong, in words.</param>
    public void Add(string path, string message) => _faults.Add(new FormatFault("$.payload." + path, message));

    /// <summary>Adds a fault that hangs on what is known at the moment it is said.</summary>
    public void AddNow(string path, string message)
    {
        if (!fromFile)
        {
            Add(path, message);
        }
    }

    /// <summary>A moment that can be shown and reckoned with.</summary>
    public void Time(string path, DateTimeOffset? time)
    {
        if (time is { UtcDateTime.Year: < 2000 or > 2200 })
        {
            Add(path, "from the year 2000 to 2200");
        }
    }

    /// <summary>A text of limited length.</summary>
    public void Text(string path, string? text, int longest = 2000, bool needed = false)
    {
        if (needed && string.IsNullOrWhiteSpace(text))
        {
            Add(path, "is empty");
        }
        else if (text is { } t && t.Length > longest)
        {
            Add(path, $"longer than {longest} characters");
        }
    }

    /// <summary>A step that the job's map knows.</summary>
    public void Step(Job job, string? step, bool needed = true)
    {
        if (step is null ? needed : job.Map?.Operation(step) is null && job.Map?.Step(step) is null)
        {
            Add("step", $"no step “{step}”");
        }
    }

    /// <summary>An answer that a question can have.</summary>
    /// <param name="job">The job.</param>
    /// <param name="question">The question; null when there is none of that id.</param>
    /// <param name="path">Where the id stands.</param>
    /// <param name="id">The question's id.</param>
    /// <param name="value">A figure; null when none was given.</param>
    /// <param name="choice">A choice; null when none was given.</param>
    public void Answer(Job job, Question? question, string path, string id, Figure? value, string? choice)
    {
        if (question is null)
        {
            Add(path, $"“{id}” is not known in {job.System.Title}");
        }
        else if (question.Unit is null && (choice is null || value is not null || question.Choices.All(c => c.Id != choice)))
        {
            Add("choice", $"one of: {string.Join(", ", question.Choices.Select(c => c.Id))}");
        }
        else if (question.Unit is not null && (value is null || choice is not null))
        {
            Add("value", $"{QuantityParser.Word(question.Unit.Kind)} is wanted here");
        }
        else if (value is { } figure && question.Doubt(figure, job.Opened.Payload.NominalVolts) is { } doubt)
        {
            Add("value", doubt);
        }
    }

    /// <summary>Adds the fault of a temperature at the vehicle, °C; null is none.</summary>
    public void Temperature(double? celsius)
    {
        if (celsius is { } c && !(c is >= VehicleSetting.LeastCelsius and <= VehicleSetting.MostCelsius))
        {
            Add("celsius", $"{c:0.#} °C is outside {VehicleSetting.LeastCelsius} to {VehicleSetting.MostCelsius} °C");
        }
    }
}
