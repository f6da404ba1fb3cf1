-- Lighting sets as a person arranged them; every edit is a new version.
create table sets (
    case_id    uuid not null references cases (id) on delete cascade,
    version    bigint not null,
    body       jsonb not null,
    author     uuid not null references accounts (id) on delete cascade,
    created_at timestamptz not null default now(),
    primary key (case_id, version)
);
