-- A number that grows with every change of what the shop knows besides its open jobs: who may come in, vehicles, tools, figures, choices, maps, what
-- closed jobs taught. Whoever keeps such things in memory asks for it first, so that processes side by side never differ.
create table shop_revision (
  only_row boolean primary key default true check (only_row),
  revision bigint not null
);
insert into shop_revision (revision) values (1);
grant select, update on shop_revision to screeline_app;

create function shop_changed() returns trigger language plpgsql as $$
begin
  update shop_revision set revision = revision + 1;
  return null;
end $$;

do $$
declare one text;
begin
  foreach one in array array['people', 'accounts', 'vehicles', 'vehicle_parameters', 'tools_owned', 'shop_figures', 'shop_choices', 'map_versions', 'not_needed', 'work_times', 'job_facts', 'job_findings', 'jobs_left_out'] loop
    execute format('create trigger shop_changed after insert or update or delete or truncate on %I for each statement execute function shop_changed()', one);
  end loop;
end $$;
