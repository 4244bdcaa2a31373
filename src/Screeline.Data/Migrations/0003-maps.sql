-- Access maps of the shop's own, what its jobs took, and what turned out not to be needed.

-- Each change of a map is a version; the text itself lies in documents under its hash. The latest counts, shipped maps with the
-- same id stand behind it. A job keeps the text it was planned on.
create table map_versions (
  map_id text not null check (length(map_id) between 1 and 200),
  version integer not null check (version > 0),
  sha256 text not null references documents (sha256),
  person uuid not null references people (id),
  at timestamptz not null default now(),
  primary key (map_id, version)
);

-- Minutes of a closed job's steps, from its entries like its summary.
create table work_times (
  job_id uuid not null references jobs (id),
  map_id text not null,
  action text not null,
  on_the_way_back boolean not null,
  minutes numeric not null,
  primary key (job_id, action, on_the_way_back)
);
create index work_times_map on work_times (map_id);

-- An operation that somebody found not to be needed; plans leave it out from then on. Taken back: it stays visible with both names.
create table not_needed (
  map_id text not null,
  operation text not null check (length(operation) between 1 and 200),
  person uuid not null references people (id),
  at timestamptz not null default now(),
  job_id uuid references jobs (id),
  taken_back_by uuid references people (id),
  taken_back_at timestamptz,
  id bigint generated always as identity primary key
);
create unique index not_needed_once on not_needed (map_id, operation) where taken_back_at is null;

grant select, insert on map_versions to screeline_app;
grant select, insert, update on not_needed to screeline_app;
grant select, insert, delete on work_times to screeline_app;
