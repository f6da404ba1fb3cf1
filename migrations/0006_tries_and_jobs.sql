-- Tries to sign in, counted by all servers together; `key` is a digest of the address.
create table tries (
    key bytea not null,
    at  timestamptz not null default now()
);
create index tries_key on tries (key, at);

-- Work that is done in its own time, by this server or by a worker beside it. Taken with `for update skip locked`.
create table jobs (
    id          uuid primary key,
    kind        text not null,
    arguments   jsonb not null,
    owner       uuid references accounts (id) on delete cascade,
    state       text not null default 'waiting' check (state in ('waiting', 'running', 'done', 'failed', 'cancelled')),
    progress    double precision not null default 0,
    attempts    int not null default 0,
    result      jsonb,
    problem     text,
    worker      text,
    created_at  timestamptz not null default now(),
    run_after   timestamptz not null default now(),
    seen_at     timestamptz,
    finished_at timestamptz
);
create index jobs_waiting on jobs (run_after) where state in ('waiting', 'running');
create index jobs_owner on jobs (owner, created_at desc);
