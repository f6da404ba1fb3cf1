-- What a person owns to light with; every edit is a new version.
create table kits (
    owner      uuid not null references accounts (id) on delete cascade,
    version    bigint not null,
    body       jsonb not null,
    author     uuid not null references accounts (id) on delete cascade,
    created_at timestamptz not null default now(),
    primary key (owner, version)
);

-- Outcomes of the tests that tell candidate sets apart.
create table outcomes (
    owner      uuid not null references cases (id) on delete cascade,
    version    bigint not null,
    body       jsonb not null,
    author     uuid not null references accounts (id) on delete cascade,
    created_at timestamptz not null default now(),
    primary key (owner, version)
);

-- What was done and measured while a set was built.
create table builds (
    owner      uuid not null references cases (id) on delete cascade,
    version    bigint not null,
    body       jsonb not null,
    author     uuid not null references accounts (id) on delete cascade,
    created_at timestamptz not null default now(),
    primary key (owner, version)
);
