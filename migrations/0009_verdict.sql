-- Briefs of one's own: a copy of one of the table with other ranges, words and rules. A case names one as 'house:' and its id.
create table house_briefs (
    id         uuid primary key,
    owner      uuid not null references accounts (id) on delete cascade,
    version    bigint not null default 1,
    body       jsonb not null,
    created_at timestamptz not null default now(),
    updated_at timestamptz not null default now()
);
create index house_briefs_owner on house_briefs (owner);

-- What people say of a picture: notes of their own, and whether a finding is right.
create table remarks (
    id         uuid primary key,
    frame_id   uuid not null references frames (id) on delete cascade,
    author     uuid not null references accounts (id) on delete cascade,
    stance     text not null check (stance in ('note', 'agrees', 'disagrees')),
    rule       text,
    body       text not null,
    pin_x      double precision,
    pin_y      double precision,
    created_at timestamptz not null default now(),
    updated_at timestamptz not null default now(),
    check (stance = 'note' or rule is not null)
);
create index remarks_frame on remarks (frame_id, created_at);
-- one stance of one person on one finding
create unique index remarks_stance on remarks (frame_id, author, rule) where stance <> 'note';

-- The paragraph of a verdict where a person wrote it themselves; every edit is a new version.
create table paragraphs (
    owner      uuid not null references frames (id) on delete cascade,
    version    bigint not null,
    body       jsonb not null,
    author     uuid not null references accounts (id) on delete cascade,
    created_at timestamptz not null default now(),
    primary key (owner, version)
);

-- The phrase book of an account; every edit is a new version.
create table phrases (
    owner      uuid not null references accounts (id) on delete cascade,
    version    bigint not null,
    body       jsonb not null,
    author     uuid not null references accounts (id) on delete cascade,
    created_at timestamptz not null default now(),
    primary key (owner, version)
);
