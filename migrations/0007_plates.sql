-- The mixing desk of a case: its plates, their names and levels; every edit is a new version.
create table desks (
    owner      uuid not null references cases (id) on delete cascade,
    version    bigint not null,
    body       jsonb not null,
    author     uuid not null references accounts (id) on delete cascade,
    created_at timestamptz not null default now(),
    primary key (owner, version)
);
