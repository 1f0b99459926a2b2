-- A house and everything in it. `version` is the revision of the house in which a row was last
-- written; an edit names the version it was made from, and a stale one is refused.
-- Names are unique without regard to case; the checks are deferred so that two rows can trade names.

create table house (
    id uuid primary key,
    name text not null check (char_length(name) between 1 and 80),
    revision bigint not null default 0 check (revision >= 0),
    version bigint not null default 0,
    created_at timestamptz not null default now()
);

create table room (
    id uuid primary key,
    house_id uuid not null references house (id) on delete cascade,
    name text not null check (char_length(name) between 1 and 80),
    position integer not null check (position >= 0),
    version bigint not null
);
create index room_house on room (house_id);

create table profile (
    id uuid primary key,
    house_id uuid not null references house (id) on delete cascade,
    maker text not null check (char_length(maker) between 1 and 80),
    model text not null check (char_length(model) between 1 and 80),
    kind text not null,
    medium text not null,
    -- Power, selection, motion and times: values of the core without a life of their own.
    behaviour jsonb not null,
    version bigint not null
);
create index profile_house on profile (house_id);

create table function (
    id uuid primary key,
    profile_id uuid not null references profile (id) on delete cascade,
    position integer not null check (position >= 0),
    name text not null check (char_length(name) between 1 and 80),
    answers_to jsonb,
    constraint function_name unique (profile_id, name) deferrable initially deferred
);

create table input (
    id uuid primary key,
    profile_id uuid not null references profile (id) on delete cascade,
    position integer not null check (position >= 0),
    name text not null check (char_length(name) between 1 and 80),
    cable text not null,
    select_function_id uuid references function (id) deferrable initially deferred,
    constraint input_name unique (profile_id, name) deferrable initially deferred
);

create table output (
    id uuid primary key,
    profile_id uuid not null references profile (id) on delete cascade,
    position integer not null check (position >= 0),
    name text not null check (char_length(name) between 1 and 80),
    cable text not null,
    constraint output_name unique (profile_id, name) deferrable initially deferred
);

create table device (
    id uuid primary key,
    house_id uuid not null references house (id) on delete cascade,
    room_id uuid not null references room (id),
    profile_id uuid not null references profile (id),
    name text not null check (char_length(name) between 1 and 80),
    position integer not null check (position >= 0),
    version bigint not null,
    constraint device_name unique (room_id, name) deferrable initially deferred
);
create index device_house on device (house_id);
create index device_profile on device (profile_id);

-- Two cables into one input can be drawn: the wiring check finds them.
create table connection (
    id uuid primary key,
    house_id uuid not null references house (id) on delete cascade,
    from_device_id uuid not null references device (id),
    from_output_id uuid not null references output (id) deferrable initially deferred,
    to_device_id uuid not null references device (id),
    to_input_id uuid not null references input (id) deferrable initially deferred,
    version bigint not null,
    check (from_device_id <> to_device_id)
);
create index connection_house on connection (house_id);

create table code (
    id uuid primary key,
    house_id uuid not null references house (id) on delete cascade,
    device_id uuid not null references device (id),
    function_id uuid not null references function (id) deferrable initially deferred,
    body jsonb not null,
    captured jsonb,
    version bigint not null,
    constraint code_function unique (device_id, function_id) deferrable initially deferred
);
create index code_house on code (house_id);

create table activity (
    id uuid primary key,
    house_id uuid not null references house (id) on delete cascade,
    room_id uuid not null references room (id),
    name text not null check (char_length(name) between 1 and 80),
    position integer not null check (position >= 0),
    source_device_id uuid not null references device (id),
    seen_on_device_id uuid references device (id),
    heard_on_device_id uuid references device (id),
    moves jsonb not null,
    version bigint not null,
    constraint activity_name unique (room_id, name) deferrable initially deferred,
    check (seen_on_device_id is not null or heard_on_device_id is not null)
);
create index activity_house on activity (house_id);

-- The log: every edit, undo and redo, with each entity before and after. Rows are never changed but
-- for `undone`, and never removed while their house exists.
create table change (
    house_id uuid not null references house (id) on delete cascade,
    revision bigint not null check (revision > 0),
    at timestamptz not null default now(),
    who text not null,
    kind text not null check (kind in ('edit', 'undo', 'redo')),
    title text not null,
    changes jsonb not null,
    -- Only an edit can be undone; an undo or redo names the edit that it is about.
    undone boolean not null default false,
    about bigint,
    primary key (house_id, revision),
    check ((kind = 'edit') = (about is null))
);
create index change_undo on change (house_id, kind, undone, revision);
