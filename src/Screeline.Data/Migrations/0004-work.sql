-- What the step runner keeps beside entries: when a torque wrench was calibrated, and how the shop lays its tray.

alter table tools_owned add column calibrated_on date;

-- Choices of the shop in words, by name.
create table shop_choices (
  name text primary key check (length(name) between 1 and 200),
  value text not null check (length(value) <= 200)
);

-- Pictures lie in documents under the hash of their bytes, like maps.
grant select, insert, update, delete on shop_choices to screeline_app;
