-- Live rounds: a class places the light of a picture from their phones, by a code.
create table rounds (
    id         uuid primary key,
    class_id   uuid not null references classes (id) on delete cascade,
    code       text not null unique,
    title      text not null,
    version    bigint not null default 1,
    at         integer not null default 0,
    stage      text not null default 'waiting' check (stage in ('waiting', 'placing', 'told', 'ended')),
    cloud      boolean not null default true,
    names      boolean not null default false,
    created_at timestamptz not null default now()
);
create index rounds_class on rounds (class_id, created_at desc);

create table round_pictures (
    round_id  uuid not null references rounds (id) on delete cascade,
    place     integer not null,
    title     text not null,
    file_hash text not null,
    facts     jsonb not null,
    lights    jsonb not null,
    summary   jsonb not null,
    primary key (round_id, place)
);
create index round_pictures_hash on round_pictures (file_hash);

create table round_players (
    id         uuid primary key,
    round_id   uuid not null references rounds (id) on delete cascade,
    account_id uuid references accounts (id) on delete set null,
    name       text not null,
    created_at timestamptz not null default now()
);
create index round_players_round on round_players (round_id);

create table round_guesses (
    player        uuid not null references round_players (id) on delete cascade,
    place         integer not null,
    azimuth_deg   double precision not null,
    elevation_deg double precision not null,
    primary key (player, place)
);

-- Groups of a class that hand in together.
create table class_groups (
    class_id   uuid not null references classes (id) on delete cascade,
    account_id uuid not null references accounts (id) on delete cascade,
    name       text not null,
    primary key (class_id, account_id)
);
create index class_groups_name on class_groups (class_id, name);
alter table submissions add column group_name text;

-- Pictures that students look at for each other.
create table peer_reviews (
    submission_id uuid not null references submissions (id) on delete cascade,
    reviewer      uuid not null references accounts (id) on delete cascade,
    points        jsonb,
    body          text not null default '',
    dealt_at      timestamptz not null default now(),
    done_at       timestamptz,
    primary key (submission_id, reviewer)
);
create index peer_reviews_reviewer on peer_reviews (reviewer);

-- Pictures that all graders mark first, each without the others' points.
alter table submissions add column sample boolean not null default false;

-- Shares that were entered by hand or came with a table; the newest counts.
create table entered_shares (
    id            uuid primary key,
    assignment_id uuid not null references assignments (id) on delete cascade,
    student       uuid not null references accounts (id) on delete cascade,
    share         double precision,
    entered_by    uuid references accounts (id) on delete set null,
    created_at    timestamptz not null default now()
);
create index entered_shares_assignment on entered_shares (assignment_id, student, created_at desc);

-- What was handed in can be taken away again; the grade stays where the class keeps grades.
alter table submissions drop constraint submissions_state_check;
alter table submissions add constraint submissions_state_check check (state in ('reading', 'handed_in', 'returned', 'failed', 'removed'));
alter table submissions add column removed_at timestamptz;
alter table classes add column keep_days integer;
alter table classes add column keep_grades boolean not null default true;

-- Accounts by invitation.
create table invitations (
    code       text primary key,
    role       text not null check (role in ('student', 'instructor')),
    left_over  integer not null,
    made_by    uuid references accounts (id) on delete set null,
    created_at timestamptz not null default now()
);

-- Whose a submission is: its author's, and of those who are in the author's group.
create function belongs(s submissions, who uuid) returns boolean language sql stable as $$
    select s.author = who or (s.group_name is not null and exists (
        select 1 from class_groups g join assignments a on a.class_id = g.class_id
        where a.id = s.assignment_id and g.name = s.group_name and g.account_id = who))
$$;
alter table accounts add column removed_at timestamptz;

-- What each grader gave last.
create view newest_grades as
    select distinct on (submission_id, grader) submission_id, grader, jsonb_build_object('points', points, 'rubric', rubric) as given
    from grades order by submission_id, grader, created_at desc;

-- Students were told that the date is near.
alter table assignments add column reminded boolean not null default false;
