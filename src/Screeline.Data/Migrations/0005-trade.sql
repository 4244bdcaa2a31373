-- What closed jobs add to the shop's experience, and which of them are left out of it.

-- One row for each closed job, from its entries like its summary: it can be dropped and made again.
create table job_facts (
  job_id uuid primary key references jobs (id),
  vehicle_id uuid not null references vehicles (id),
  family text not null,
  model text not null,
  map_id text,
  repair text,
  act text,
  part_condemned boolean not null,
  cause text,
  comeback_of uuid,
  expected_minutes numeric not null,
  planned_minutes numeric not null,
  spent_minutes numeric not null,
  waited_minutes numeric not null,
  opened_at timestamptz not null,
  closed_at timestamptz not null,
  -- Grows with every row that is written: what is worked out from all of them knows by it whether it still holds.
  revision bigint generated always as identity unique
);
create index job_facts_closed on job_facts (closed_at);
create index job_facts_vehicle on job_facts (vehicle_id, closed_at desc);
create index job_facts_map on job_facts (map_id, closed_at desc);
create index job_facts_comeback on job_facts (comeback_of) where comeback_of is not null;

-- Minutes of a closed job by kind of place.
create table job_places (
  job_id uuid not null references job_facts (job_id) on delete cascade,
  closed_at timestamptz not null,
  place text not null,
  planned_minutes numeric not null,
  spent_minutes numeric not null,
  primary key (job_id, place)
);
create index job_places_closed on job_places (closed_at);

-- Fasteners that were not as the map says, for whoever does this job next.
create table job_findings (
  job_id uuid not null references job_facts (job_id) on delete cascade,
  map_id text not null,
  step text not null,
  fastener text not null,
  found text not null,
  how_many integer not null,
  size text
);
create index job_findings_map on job_findings (map_id);
create index job_findings_job on job_findings (job_id);

-- Closed jobs that do not count for priors, times and findings: an odd one, told by somebody, taken back by somebody.
create table jobs_left_out (
  id bigint generated always as identity primary key,
  job_id uuid not null references jobs (id),
  person uuid not null references people (id),
  why text not null check (length(why) between 1 and 500),
  at timestamptz not null default now(),
  taken_back_by uuid references people (id),
  taken_back_at timestamptz
);
create unique index jobs_left_out_once on jobs_left_out (job_id) where taken_back_at is null;

-- Times of the latest jobs on a map are read by job.
create index work_times_job on work_times (map_id, job_id);

drop index job_summaries_confirmed;
create index job_summaries_confirmed on job_summaries (family, model, confirmed) include (job_id) where closed_at is not null and confirmed is not null;
create index job_summaries_vehicle_closed on job_summaries (vehicle_id, opened_at desc);

grant select, insert, update, delete on job_facts, job_places to screeline_app;
grant select, insert, delete on job_findings to screeline_app;
grant select, insert, update on jobs_left_out to screeline_app;
