-- What jobs without a map add to the shop's experience: minutes nobody had estimated, and what came off in the words of the trade.
alter table job_facts add column unplanned_minutes numeric not null default 0;
alter table job_facts add column came_off text[] not null default '{}';
alter table job_places add column unplanned_minutes numeric not null default 0;

-- What closed jobs add is worked out again from their entries by the next preparation.
delete from job_facts;
