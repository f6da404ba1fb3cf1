-- Classes: made by instructors, joined by a code that can be turned, closed and limited.
create table classes (
    id          uuid primary key,
    name        text not null,
    code        text not null unique,
    code_open   boolean not null default true,
    most        integer not null default 60,
    consent     text not null default '',
    drop_lowest integer not null default 0,
    archived_at timestamptz,
    version     bigint not null default 1,
    created_at  timestamptz not null default now()
);

create table class_members (
    class_id   uuid not null references classes (id) on delete cascade,
    account_id uuid not null references accounts (id) on delete cascade,
    seat       text not null check (seat in ('instructor', 'co_teacher', 'student', 'guest')),
    joined_at  timestamptz not null default now(),
    primary key (class_id, account_id)
);
create index class_members_account on class_members (account_id);

-- Assignments; the reference is a frozen copy: its owner may go on with the case.
create table assignments (
    id               uuid primary key,
    class_id         uuid not null references classes (id) on delete cascade,
    version          bigint not null default 1,
    body             jsonb not null,
    brief            jsonb not null,
    published        boolean not null default false,
    reference_hash   text,
    reference_facts  jsonb,
    reference_marks  jsonb,
    reference_read   jsonb,
    created_at       timestamptz not null default now()
);
create index assignments_class on assignments (class_id, created_at);

-- What was handed in, frozen; a later one of the same student takes its place and it stays readable.
create table submissions (
    id            uuid primary key,
    assignment_id uuid not null references assignments (id) on delete cascade,
    author        uuid not null references accounts (id) on delete cascade,
    attempt       integer not null default 1,
    alias         text not null,
    state         text not null check (state in ('reading', 'handed_in', 'returned', 'failed')),
    problem       text,
    file_hash     text not null,
    file_name     text not null,
    facts         jsonb not null,
    marks         jsonb not null,
    readings      jsonb,
    core_version  text,
    lighting_set  jsonb,
    takes         integer not null default 0,
    paragraph     text not null default '',
    may_show      boolean not null default false,
    who           text not null default '',
    distance      jsonb,
    verdict       jsonb,
    proposals     jsonb,
    finger        text,
    late          jsonb not null,
    newest        boolean not null default true,
    handed_in_at  timestamptz not null default now(),
    returned_at   timestamptz,
    unique (assignment_id, author, attempt)
);
create index submissions_assignment on submissions (assignment_id) where newest;
create index submissions_hash on submissions (file_hash);

-- Marks that were given: every change is a new row, the newest of a grader counts; the rubric is kept as it was then.
create table grades (
    id            uuid primary key,
    submission_id uuid not null references submissions (id) on delete cascade,
    grader        uuid not null references accounts (id) on delete cascade,
    points        jsonb not null,
    rubric        jsonb not null,
    note          text not null default '',
    created_at    timestamptz not null default now()
);
create index grades_submission on grades (submission_id, created_at);

-- Words about a submission: notes, appeals; private ones are for teachers.
create table submission_notes (
    id            uuid primary key,
    submission_id uuid not null references submissions (id) on delete cascade,
    author        uuid not null references accounts (id) on delete cascade,
    kind          text not null check (kind in ('note', 'private', 'appeal')),
    body          text not null,
    pin_x         double precision,
    pin_y         double precision,
    created_at    timestamptz not null default now()
);
create index submission_notes_submission on submission_notes (submission_id, created_at);

-- Notices inside the application.
create table notices (
    id         uuid primary key,
    account_id uuid not null references accounts (id) on delete cascade,
    says       text not null,
    link       text not null default '',
    seen_at    timestamptz,
    created_at timestamptz not null default now()
);
create index notices_account on notices (account_id, created_at desc);

-- Who changed what in a class.
create table audit (
    id         uuid primary key,
    class_id   uuid references classes (id) on delete cascade,
    actor      uuid references accounts (id) on delete set null,
    did        text not null,
    body       jsonb not null default '{}',
    created_at timestamptz not null default now()
);
create index audit_class on audit (class_id, created_at desc);

-- What the whole installation is set to.
create table settings (
    name text primary key,
    body jsonb not null
);
