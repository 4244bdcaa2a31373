-- What vehicles are said to have, what was confirmed in closed jobs, and the shop's own figures for money decisions.

-- A value that a vehicle's file states for a parameter of a family's circuit; what is not here is only guessed at.
create table vehicle_parameters (
  vehicle_id uuid not null references vehicles (id),
  family text not null check (length(family) between 1 and 100),
  parameter text not null check (length(parameter) between 1 and 100),
  value double precision not null,
  primary key (vehicle_id, family, parameter)
);

-- Hourly rate, cost of a comeback, prices: by name, so that new ones need no new column.
create table shop_figures (
  name text primary key check (length(name) between 1 and 200),
  value double precision not null
);

-- The repair that a closed job confirmed, from its entries like all of a summary; null where none was named.
alter table job_summaries add column confirmed text;
create index job_summaries_confirmed on job_summaries (family, model, confirmed) where closed_at is not null and confirmed is not null;

grant select, insert, update, delete on vehicle_parameters, shop_figures to screeline_app;
