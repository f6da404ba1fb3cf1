-- What is told of a take: which one it follows, the set, what was changed and foretold, what became of it.
-- Every edit is a new version.
create table links (
    owner      uuid not null references frames (id) on delete cascade,
    version    bigint not null,
    body       jsonb not null,
    author     uuid not null references accounts (id) on delete cascade,
    created_at timestamptz not null default now(),
    primary key (owner, version)
);

-- The take that the next one follows.
alter table cases add column tip uuid references frames (id) on delete set null;

-- Derived: takes against references, always recomputable from marks and core.
create table comparisons (
    frame_id          uuid not null references frames (id) on delete cascade,
    marks_version     bigint not null,
    reference_id      uuid not null references frames (id) on delete cascade,
    reference_version bigint not null,
    core_version      text not null,
    body              jsonb not null,
    created_at        timestamptz not null default now(),
    primary key (frame_id, marks_version, reference_id, reference_version, core_version)
);

-- Accepted sets, to be found again by their light.
create table recipes (
    id         uuid primary key,
    owner      uuid not null references accounts (id) on delete cascade,
    case_id    uuid references cases (id) on delete set null,
    frame_id   uuid references frames (id) on delete set null,
    body       jsonb not null,
    created_at timestamptz not null default now()
);
create index recipes_owner on recipes (owner, created_at desc);
