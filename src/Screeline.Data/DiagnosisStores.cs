using Npgsql;
using Screeline.Core.Diagnosis;

namespace Screeline.Data;

/// <summary>What vehicles' files state about a family's circuit.</summary>
public sealed class VehicleParameterStore(Database database)
{
    /// <summary>All stated values of a vehicle for a family.</summary>
    public Task<IReadOnlyDictionary<string, double>> OfAsync(Guid vehicle, string family, CancellationToken cancel = default) => database.Memory.GetAsync<IReadOnlyDictionary<string, double>>($"parameters {vehicle} {family}", async () =>
    {
        await using var command = database.Command("select parameter, value from vehicle_parameters where vehicle_id = $1 and family = $2").With(vehicle, family);
        return (await command.ListAsync(r => (Parameter: r.GetString(0), Value: r.GetDouble(1)), cancel)).ToDictionary(x => x.Parameter, x => x.Value, StringComparer.Ordinal);
    }, cancel);

    /// <summary>Replaces what is stated of a vehicle for a family.</summary>
    public async Task SetAsync(Guid vehicle, string family, IReadOnlyDictionary<string, double> stated, CancellationToken cancel = default)
    {
        await using var connection = await database.OpenAsync(cancel);
        await using var transaction = await connection.BeginTransactionAsync(cancel);
        await using (var gone = new NpgsqlCommand("delete from vehicle_parameters where vehicle_id = $1 and family = $2", connection, transaction).With(vehicle, family))
        {
            await gone.ExecuteNonQueryAsync(cancel);
        }

        await using (var added = new NpgsqlCommand("insert into vehicle_parameters (vehicle_id, family, parameter, value) select $1, $2, * from unnest($3, $4)", connection, transaction).With(vehicle, family, stated.Keys.ToArray(), stated.Values.ToArray()))
        {
            await added.ExecuteNonQueryAsync(cancel);
        }

        await transaction.CommitAsync(cancel);
    }
}

/// <summary>The shop's own figures by name.</summary>
public sealed class ShopFigureStore(Database database)
{
    /// <summary>All.</summary>
    public Task<IReadOnlyDictionary<string, double>> AllAsync(CancellationToken cancel = default) => database.Memory.GetAsync<IReadOnlyDictionary<string, double>>("figures", async () =>
    {
        await using var command = database.Command("select name, value from shop_figures");
        return (await command.ListAsync(r => (Name: r.GetString(0), Value: r.GetDouble(1)), cancel)).ToDictionary(x => x.Name, x => x.Value, StringComparer.Ordinal);
    }, cancel);

    /// <summary>Sets some; the others stay.</summary>
    public async Task SetAsync(IReadOnlyDictionary<string, double> figures, CancellationToken cancel = default)
    {
        await using var command = database.Command("insert into shop_figures (name, value) select * from unnest($1, $2) on conflict (name) do update set value = excluded.value").With(figures.Keys.ToArray(), figures.Values.ToArray());
        await command.ExecuteNonQueryAsync(cancel);
    }
}

/// <summary>What closed jobs confirmed.</summary>
public sealed class HistoryStore(Database database)
{
    /// <summary>Closed jobs of a family by confirmed repair, apart for one model and all others.</summary>
    public Task<ShopHistory> OfAsync(string family, string model, CancellationToken cancel = default) => database.Memory.GetAsync<ShopHistory>($"history {family} {model}", async () =>
    {
        await using var command = database.Command("select confirmed, model = $2, count(*) from job_summaries where family = $1 and closed_at is not null and confirmed is not null and job_id not in (select job_id from jobs_left_out where taken_back_at is null) group by 1, 2").With(family, model);
        var rows = await command.ListAsync(r => (Repair: r.GetString(0), Same: r.GetBoolean(1), Count: (int)r.GetInt64(2)), cancel);
        IReadOnlyDictionary<string, int> Of(bool same) => rows.Where(r => r.Same == same).ToDictionary(r => r.Repair, r => r.Count, StringComparer.Ordinal);
        return new ShopHistory(model, Of(true), Of(false));
    }, cancel);
}
