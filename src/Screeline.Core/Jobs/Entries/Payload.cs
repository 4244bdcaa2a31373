
namespace Screeline.Core.Jobs;

/// <summary>
/// What an entry says, and all that follows from it: each kind of entry is one file here, which holds what it says, what it may say, how
/// it is told, and what a job remembers of it. A kind declares itself with a static property <c>EntryKind</c>, which <see cref="EntryKinds"/> looks for.
/// </summary>
public abstract record Payload
{
    /// <summary>
    /// What in the job it speaks of (a step, a test, a fastener): two entries about different things seldom conflict. Empty when it speaks
    /// of the job as a whole.
    /// </summary>
    public abstract string Subject();

    /// <summary>The content in a few words, for histories, undo buttons and what others did meanwhile.</summary>
    /// <param name="job">The job it belongs to.</param>
    public abstract string Describe(Job job);

    /// <summary>What stands when this is taken: itself; of a correction, what it puts in the place of what it corrects. Rights and second persons look at it.</summary>
    /// <param name="job">The job before the entry.</param>
    public virtual Payload Content(Job job) => this;

    /// <summary>Whether it is also said when the vehicle has gone: what is learned later, and that it came back.</summary>
    public virtual bool SaidWhenGone() => false;

    /// <summary>SHA-256 of the map it names, or null.</summary>
    public virtual string? NamesMap() => null;

    /// <summary>SHA-256 of the picture it names, or null.</summary>
    public virtual string? NamesPicture() => null;

    /// <summary>Why an apprentice's entry waits for a second person, in words; null when it need not.</summary>
    /// <param name="job">The job before the entry.</param>
    public virtual string? NeedsSecondPerson(Job job) => null;

    /// <summary>
    /// Tells what is wrong with it whatever stands before it: names that do not exist, figures that cannot be. Such an entry is refused.
    /// </summary>
    /// <param name="job">The job before the entry.</param>
    /// <param name="faults">Takes the faults, each with its path inside the payload.</param>
    protected internal abstract void Validate(Job job, EntryFaults faults);

    /// <summary>Why it does not fit the job as it stands; null when it does. That the job is open is looked at before.</summary>
    /// <param name="job">The job before the entry.</param>
    /// <param name="at">When it happened.</param>
    protected internal abstract string? OutOfOrder(Job job, DateTimeOffset at);

    /// <summary>Changes the job. Called also for what is out of order: it was done, and stands as disputed.</summary>
    /// <param name="job">The job before the entry.</param>
    /// <param name="entry">The entry that says it.</param>
    protected internal abstract void Apply(Job job, Entry entry);
}
