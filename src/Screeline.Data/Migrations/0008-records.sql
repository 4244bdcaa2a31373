-- What must not be driven after a job: told on the vehicle's page.
alter table job_summaries add column not_driven text;

-- The last picture at a step of a model, and what was seen beside jobs: few entries of many.
create index entries_pictures on entries ((payload ->> 'step')) where kind = 'picture-taken';
create index entries_seen on entries (job_id) where kind in ('seen-beside', 'seen-settled', 'intake-noted');
