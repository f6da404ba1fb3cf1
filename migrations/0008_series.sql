-- Series of pictures that must agree: pictures of a case that stand for views of a shot list.
alter table frames drop constraint frames_role_check;
alter table frames add constraint frames_role_check check (role in ('reference', 'take', 'plate', 'probe', 'calibration', 'view'));

-- The series of a case: its list, which picture is which view, what was ticked; every edit is a new version.
create table series (
    owner      uuid not null references cases (id) on delete cascade,
    version    bigint not null,
    body       jsonb not null,
    author     uuid not null references accounts (id) on delete cascade,
    created_at timestamptz not null default now(),
    primary key (owner, version)
);
