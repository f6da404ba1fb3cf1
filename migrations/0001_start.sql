-- Accounts, sessions, cases, frames, marks, readings, plans.

create table accounts (
    id            uuid primary key,
    email         text not null,
    name          text not null,
    role          text not null check (role in ('administrator', 'instructor', 'student')),
    password_hash text not null,
    created_at    timestamptz not null default now()
);
create unique index accounts_email on accounts (lower(email));

create table sessions (
    id      text primary key,
    data    jsonb not null,
    expires timestamptz not null
);
create index sessions_expires on sessions (expires);

create table cases (
    id         uuid primary key,
    owner      uuid not null references accounts (id) on delete cascade,
    title      text not null,
    brief      text not null,
    note       text not null default '',
    version    bigint not null default 1,
    created_at timestamptz not null default now(),
    updated_at timestamptz not null default now()
);
create index cases_owner on cases (owner, updated_at desc);

create table frames (
    id         uuid primary key,
    case_id    uuid not null references cases (id) on delete cascade,
    role       text not null check (role in ('reference', 'take', 'plate', 'probe', 'calibration')),
    file_name  text not null,
    file_hash  text not null,
    media_type text not null,
    facts      jsonb not null,
    created_at timestamptz not null default now()
);
create index frames_case on frames (case_id, created_at);
create index frames_hash on frames (file_hash);

-- Every edit of the marks is a new version; undo is one too.
create table marks (
    frame_id   uuid not null references frames (id) on delete cascade,
    version    bigint not null,
    body       jsonb not null,
    author     uuid not null references accounts (id) on delete cascade,
    created_at timestamptz not null default now(),
    primary key (frame_id, version)
);

-- Derived: always recomputable from picture, marks and core.
create table readings (
    frame_id      uuid not null,
    marks_version bigint not null,
    core_version  text not null,
    body          jsonb not null,
    created_at    timestamptz not null default now(),
    primary key (frame_id, marks_version, core_version),
    foreign key (frame_id, marks_version) references marks (frame_id, version) on delete cascade
);

-- What a person chose for the set; the set itself is computed.
create table plans (
    case_id    uuid not null references cases (id) on delete cascade,
    version    bigint not null,
    choices    jsonb not null,
    author     uuid not null references accounts (id) on delete cascade,
    created_at timestamptz not null default now(),
    primary key (case_id, version)
);
