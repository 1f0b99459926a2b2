-- Kit and Codes: control paths, addresses, records, overrides; several codes a function; tests; code sets;
-- the log of attempts; photos.

-- The order of control paths; empty is the usual one.
alter table house add column path_order jsonb not null default '[]';
alter table house alter column path_order drop default;

alter table room add column rack boolean not null default false;
alter table room alter column rack drop default;

-- A model can be told things in several ways; until now it had one.
alter table profile add column offers jsonb;
update profile set offers = jsonb_build_array(jsonb_build_object('medium', medium, 'replies', false));
alter table profile alter column offers set not null;
alter table profile drop column medium;

alter table function add column press jsonb not null default '{"presses": 1, "hold_ms": 0, "gap_ms": 400}';
alter table function alter column press drop default;
alter table function add column frames integer check (frames between 1 and 100);

alter table input add column reports text check (char_length(reports) <= 80);
alter table output add column returns_input_id uuid references input (id) deferrable initially deferred;

-- Rooms served, paths, address, records, reported names, overrides: values of the core.
alter table device add column details jsonb not null default '{}';
alter table device alter column details drop default;

alter table connection add column return_audio boolean not null default false;
alter table connection alter column return_audio drop default;

-- One code for each medium.
alter table code add column medium text;
update code set medium = case when body ->> 'as' = 'radio' then 'rf433' else 'ir' end;
alter table code alter column medium set not null;
alter table code drop constraint code_function;
alter table code add constraint code_function unique (device_id, function_id, medium) deferrable initially deferred;
alter table code add column since timestamptz;
alter table code add column tested jsonb;

create table code_set (
    id uuid primary key,
    house_id uuid not null references house (id) on delete cascade,
    name text not null check (char_length(name) between 1 and 80),
    kind text,
    source text not null,
    keys jsonb not null,
    version bigint not null
);
create index code_set_house on code_set (house_id);

-- What was tried to learn, test or find a code. Facts: never changed, and they stay when the device or the
-- function that they were about is removed, so they refer to them by id alone.
create table attempt (
    id uuid primary key,
    house_id uuid not null references house (id) on delete cascade,
    device_id uuid not null,
    function_id uuid,
    at timestamptz not null default now(),
    who text not null,
    what text not null check (what in ('learn', 'test', 'preset', 'search')),
    outcome text not null,
    -- What was sent or heard, in words.
    sent text,
    note text not null
);
create index attempt_device on attempt (house_id, device_id, at);

-- Photos never change; a device names the ones that it has, so that removing one can be undone.
create table photo (
    id uuid primary key,
    house_id uuid not null references house (id) on delete cascade,
    media_type text not null check (media_type in ('image/png', 'image/jpeg', 'image/webp')),
    bytes bytea not null check (octet_length(bytes) between 1 and 8000000),
    at timestamptz not null default now()
);
