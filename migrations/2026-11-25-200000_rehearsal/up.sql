-- Rehearse: how a room stays in step, and the evenings that are its tests: values of the core.

alter table room add column rehearsal jsonb not null default '{}';
alter table room alter column rehearsal drop default;

-- A macro that is under way: what is still here after a start of the server was cut off in the middle.
create table run_under_way (
    room_id uuid primary key references room (id) on delete cascade,
    leads_to text not null,
    since timestamptz not null default now()
);
