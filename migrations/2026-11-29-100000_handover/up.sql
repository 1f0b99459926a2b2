-- Evidence: readings of the stopwatch, results of tests and what is missing are entities of the house; lines of the
-- logbook and handovers stand beside it, and no undo takes them back.

create table measurement (
    house_id uuid not null references house (id) on delete cascade,
    id uuid not null,
    version bigint not null,
    body jsonb not null,
    device_id uuid not null,
    primary key (house_id, id),
    foreign key (house_id, device_id) references device (house_id, id) deferrable initially deferred
);
create index measurement_device on measurement (house_id, device_id);

create table test_result (
    house_id uuid not null references house (id) on delete cascade,
    id uuid not null,
    version bigint not null,
    body jsonb not null,
    primary key (house_id, id)
);

create table wanted (
    house_id uuid not null references house (id) on delete cascade,
    id uuid not null,
    version bigint not null,
    body jsonb not null,
    primary key (house_id, id)
);

-- Lines of the logbook that no edit makes: visits, notes, service calls from the telephone.
create table visit (
    house_id uuid not null references house (id) on delete cascade,
    id uuid not null,
    at timestamptz not null default now(),
    kind text not null check (kind in ('visit', 'note', 'call', 'tests', 'handover')),
    who text not null check (length(who) between 1 and 80),
    room_id uuid,
    device_id uuid,
    text text not null check (length(text) between 1 and 4000),
    photo_id uuid,
    minutes integer check (minutes between 0 and 6000),
    primary key (house_id, id)
);
create index visit_at on visit (house_id, at desc);

-- Whoever has signed in from the network of the house. Only a digest of what the cookie holds is kept.
create table session (
    id uuid primary key,
    digest text not null unique,
    made_at timestamptz not null default now(),
    used_at timestamptz not null default now(),
    label text not null check (length(label) <= 200)
);

-- A handover is a snapshot: numbered, dated, never changed.
create table handover (
    house_id uuid not null references house (id) on delete cascade,
    number integer not null check (number >= 1),
    at timestamptz not null default now(),
    who text not null check (length(who) between 1 and 80),
    revision bigint not null,
    note text not null default '' check (length(note) <= 2000),
    -- Ids of the rooms that were handed over; all of them, if none.
    rooms jsonb not null default '[]',
    -- The site file as it was, and the papers as they were, by name.
    site text not null,
    papers jsonb not null,
    primary key (house_id, number)
);
