using Screeline.Core.Access;
using Screeline.Core.Jobs;
using Screeline.Data;
using Screeline.Library;

namespace Screeline.Web.Infrastructure;

/// <summary>What the step runner needs besides the job: the library, the tools, the shop's choices, its maps and pictures.</summary>
public sealed class Workshop(ShippedLibrary library, ToolCrib crib, ShopChoiceStore choices, MapShelf shelf, MapStore maps, DocumentStore documents, VehicleRecordStore records)
{
    public ShippedLibrary Library => library;

    public ToolCrib Crib => crib;

    public ShopChoiceStore Choices => choices;

    public MapShelf Shelf => shelf;

    public DocumentStore Documents => documents;

    public VehicleRecordStore Records => records;

    /// <summary>What the latest closed jobs on a map say.</summary>
    public Task<MapExperience> ExperienceAsync(string mapId, CancellationToken cancel) => maps.ExperienceAsync(mapId, cancel);

    /// <summary>
    /// Adds a fastener that was found to the next version of the map, so that the next job expects it. Where the step is gone from the latest version, or a
    /// fastener of this id stands there already, nothing changes.
    /// </summary>
    /// <returns>The new version's number, or null when nothing changed.</returns>
    public async Task<int?> AddToMapAsync(string mapId, ExtraFound extra, Guid person, CancellationToken cancel)
    {
        // Somebody else may have written a version in between: then theirs is the one to add to.
        for (var attempt = 0; attempt < 5; attempt++)
        {
            if (await shelf.FindAsync(mapId, cancel) is not { } shelved || MapChanges.WithFastener(shelved.Plain, extra.Step, extra.ToFastener()) is var map && ReferenceEquals(map, shelved.Plain))
            {
                return null;
            }

            var hash = await documents.KeepAsync(AccessMapWriter.Write(map), "application/json", cancel);
            if (await maps.KeepAsync(mapId, hash, person, shelved.Version, cancel))
            {
                return shelved.Version + 1;
            }
        }

        return null;
    }
}
