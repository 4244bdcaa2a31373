-- Who may come in, and as whom. A person without an account is a name on records, for example from a job file.
create table accounts (
  person_id uuid primary key references people (id),
  login text not null check (length(login) between 1 and 100),
  -- PBKDF2 with a salt of its own, as the framework writes it; null while nobody has chosen one.
  password_hash text,
  pin_hash text,
  -- Every sign-in carries this; a new one ends them all.
  stamp uuid not null default gen_random_uuid(),
  disabled_at timestamptz,
  created_at timestamptz not null default now()
);
create unique index accounts_by_login on accounts (lower(login));

-- Failed tries by what was tried ("account …", "address …"). In the database, so that several processes count together.
create table sign_in_tries (
  what text primary key check (length(what) between 1 and 200),
  failures integer not null check (failures >= 0),
  last_at timestamptz not null,
  locked_until timestamptz
);

-- A code printed where the server is started; whoever has it enters the first foreman.
create table setup_code (
  only_row boolean primary key default true check (only_row),
  sha256 bytea not null check (octet_length(sha256) = 32),
  made_at timestamptz not null default now()
);

-- Tokens for programs: only their hash is kept.
create table api_tokens (
  id uuid primary key,
  name text not null check (length(name) between 1 and 200),
  person_id uuid not null references people (id),
  scope text not null check (scope in ('read', 'work')),
  sha256 bytea not null unique check (octet_length(sha256) = 32),
  created_by uuid not null references people (id),
  created_at timestamptz not null default now(),
  expires_at timestamptz not null,
  revoked_at timestamptz
);

-- Heads of jobs that left the house, on paper or in a file: no change before them can be hidden from whoever holds the copy.
create table heads_told (
  job_id uuid not null references jobs (id),
  position integer not null,
  head_hash bytea not null check (octet_length(head_hash) = 32),
  link bigint not null,
  how text not null check (how in ('printed', 'exported')),
  by uuid references people (id),
  at timestamptz not null default now(),
  primary key (job_id, position, how)
);

grant select, insert, update on accounts, api_tokens to screeline_app;
grant select, insert, update, delete on sign_in_tries to screeline_app;
grant select, insert, delete, update on setup_code to screeline_app;
grant select, insert on heads_told to screeline_app;
-- A person's name and role can change.
grant update on people to screeline_app;
