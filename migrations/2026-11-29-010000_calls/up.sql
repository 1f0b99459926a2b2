-- Calls of the household: something is not right, said on a surface, with what was believed, sent and seen then.

create table service_call (
    house_id uuid not null references house (id) on delete cascade,
    id uuid not null,
    room_id uuid not null,
    at timestamptz not null default now(),
    -- What is wrong, and whose surface said so.
    what text not null check (what in ('no-picture', 'no-sound', 'light', 'else')),
    said_by text not null check (length(said_by) between 1 and 80),
    -- What the room was taken for, what was believed, sent and seen: as it was shown on the workbench.
    facts jsonb not null,
    closed_at timestamptz,
    outcome text not null default '' check (length(outcome) <= 2000),
    primary key (house_id, id)
);
create index service_call_open on service_call (house_id, at desc) where closed_at is null;
