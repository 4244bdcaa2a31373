-- What must not be driven after a job: told on the vehicle's page.
alter table job_summaries add column not_driven text;
