-- The ground everything stands on. Settled from the first migration because it is dear to change later: entries are
-- append-only, each has its place in its job, and every place is chained to the one before it.
--
-- Two roles: whoever runs this owns the tables; screeline_app is what the application works as. It may add entries and read
-- them, and nothing else can be done to them under its name.
do $$
begin
  if not exists (select from pg_roles where rolname = 'screeline_app') then
    create role screeline_app nologin;
  end if;
end $$;

-- One row: what this installation holds. The demo never mixes with a shop's own work.
create table installation (
  only_row boolean primary key default true check (only_row),
  kind text not null check (kind in ('demo', 'own')),
  created_at timestamptz not null default now()
);

create table people (
  id uuid primary key,
  name text not null check (length(name) between 1 and 200),
  role text not null check (role in ('technician', 'foreman', 'apprentice', 'viewer')),
  created_at timestamptz not null default now()
);

create table vehicles (
  id uuid primary key,
  name text not null check (length(name) between 1 and 200),
  model text not null check (length(model) between 1 and 200),
  version text not null default '' check (length(version) <= 200),
  year integer check (year between 1900 and 2200),
  nominal_volts numeric(5, 1) not null check (nominal_volts in (12, 24)),
  created_at timestamptz not null default now()
);
create unique index vehicles_by_name on vehicles (lower(name));

create table tools_owned (
  tool text primary key check (length(tool) between 1 and 100),
  since timestamptz not null default now()
);

-- Texts and pictures by the hash of their content: a job names the very version it was planned on.
create table documents (
  sha256 text primary key check (sha256 ~ '^[0-9a-f]{64}$'),
  media_type text not null,
  content bytea not null,
  stored_at timestamptz not null default now(),
  check (sha256 = encode(sha256(content), 'hex'))
);

create table jobs (
  id uuid primary key,
  number bigint generated always as identity unique,
  vehicle_id uuid not null references vehicles (id),
  head integer not null check (head >= 0),
  head_hash bytea not null check (octet_length(head_hash) = 32)
);
create index jobs_by_vehicle on jobs (vehicle_id);

create table entries (
  job_id uuid not null references jobs (id),
  position integer not null check (position > 0),
  id uuid not null unique,
  based_on integer not null check (based_on >= 0 and based_on < position),
  actor uuid not null references people (id),
  sent_by uuid not null references people (id),
  occurred_at timestamptz not null,
  occurred_offset_minutes smallint not null check (occurred_offset_minutes between -1080 and 1080),
  received_at timestamptz not null,
  kind text not null,
  version smallint not null,
  payload jsonb not null,
  body bytea not null,
  hash bytea not null check (octet_length(hash) = 32),
  primary key (job_id, position)
);

-- Same id, other bytes: the first stays in the stream, the other is kept here for somebody to look at.
create table entry_collisions (
  id uuid not null,
  body_sha256 bytea not null,
  job_id uuid not null,
  sent_by uuid not null references people (id),
  received_at timestamptz not null,
  body bytea not null,
  primary key (id, body_sha256)
);

-- One chain over the heads of all jobs, a link for each time a job grew. A cut tail or a job that is gone shows here.
create table chain (
  link bigint primary key check (link > 0),
  job_id uuid not null references jobs (id),
  position integer not null,
  head_hash bytea not null,
  hash bytea not null check (octet_length(hash) = 32)
);
-- The end of that chain; its row lock puts writers in line.
create table chain_tip (
  only_row boolean primary key default true check (only_row),
  link bigint not null,
  hash bytea not null
);
insert into chain_tip (link, hash) values (0, decode(repeat('00', 32), 'hex'));

-- What lists and searches read. Written in the transaction that grows the stream; it can be dropped and made again from it.
create table job_summaries (
  job_id uuid primary key references jobs (id),
  vehicle_id uuid not null references vehicles (id),
  vehicle_name text not null,
  model text not null,
  family text not null,
  words text not null,
  stage text not null,
  next text not null,
  waits_for text,
  waits_until timestamptz,
  promised_at timestamptz,
  opened_at timestamptz not null,
  closed_at timestamptz,
  disputes integer not null,
  line jsonb not null,
  position integer not null
);
create index job_summaries_open on job_summaries (promised_at) where closed_at is null;
create index job_summaries_closed on job_summaries (closed_at desc) where closed_at is not null;
create index job_summaries_vehicle on job_summaries (vehicle_id);

create table data_protection_keys (
  name text primary key,
  xml text not null,
  created_at timestamptz not null default now()
);

grant usage on schema public to screeline_app;
grant select, insert on entries, entry_collisions, chain, documents, data_protection_keys, installation to screeline_app;
grant select, insert, update on jobs, people, vehicles, chain_tip to screeline_app;
grant select, insert, update, delete on job_summaries, tools_owned to screeline_app;
grant select on schemaversions to screeline_app;
