-- House rules of a class: rules switched off, ranges, how ratios are stated, words.
alter table classes add column house jsonb not null default '{}';

-- What a student has begun to hand in: kept until it is handed in.
create table drafts (
    assignment_id uuid not null references assignments (id) on delete cascade,
    account_id    uuid not null references accounts (id) on delete cascade,
    frame_id      uuid references frames (id) on delete set null,
    paragraph     text not null default '',
    may_show      boolean not null default false,
    who           text not null default '',
    updated_at    timestamptz not null default now(),
    primary key (assignment_id, account_id)
);
