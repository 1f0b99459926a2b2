-- Entities of their own: what people edit as one thing has a row, a version and a history line. Every row belongs to a
-- house, and its key says so: no edit and no import can reach a row of another house.
--
-- The parts of an entity stand in one column, `body`, as the program writes them in a site file; columns beside it carry
-- what refers to other rows. Houses of before are kept in `house_before` as a site of version 1; the program brings them
-- up to date when it starts, and takes them out of there.

create table house_before (
    house_id uuid primary key references house (id) on delete cascade,
    site jsonb not null,
    -- For every entity of then, the revision in which it was last written.
    versions jsonb not null
);

insert into house_before (house_id, site, versions)
select
    h.id,
    jsonb_build_object(
        'house', jsonb_build_object(
            'id', h.id, 'name', h.name, 'path_order', h.path_order, 'coverage_percent', h.coverage_percent,
            'place', h.place
        ),
        'rooms', coalesce((
            select jsonb_agg(jsonb_build_object(
                'id', r.id, 'name', r.name, 'position', r.position, 'rack', r.rack, 'plans', r.plans,
                'rehearsal', r.rehearsal, 'lighting', r.lighting, 'surfaces', r.surfaces, 'voice', r.voice,
                'accepted', r.accepted
            )) from room r where r.house_id = h.id
        ), '[]'),
        'profiles', coalesce((
            select jsonb_agg(p.behaviour || jsonb_build_object(
                'id', p.id, 'maker', p.maker, 'model', p.model, 'kind', p.kind, 'offers', p.offers,
                'functions', coalesce((
                    select jsonb_agg(jsonb_build_object(
                        'id', f.id, 'name', f.name, 'press', f.press, 'frames', f.frames, 'answers_to', f.answers_to
                    ) order by f.position) from function f where f.profile_id = p.id
                ), '[]'),
                'inputs', coalesce((
                    select jsonb_agg(jsonb_build_object(
                        'id', i.id, 'name', i.name, 'cable', i.cable, 'select', i.select_function_id,
                        'reports', i.reports
                    ) order by i.position) from input i where i.profile_id = p.id
                ), '[]'),
                'outputs', coalesce((
                    select jsonb_agg(jsonb_build_object(
                        'id', o.id, 'name', o.name, 'cable', o.cable, 'returns', o.returns_input_id
                    ) order by o.position) from output o where o.profile_id = p.id
                ), '[]')
            )) from profile p where p.house_id = h.id
        ), '[]'),
        'devices', coalesce((
            select jsonb_agg(d.details || jsonb_build_object(
                'id', d.id, 'room', d.room_id, 'profile', d.profile_id, 'name', d.name, 'position', d.position
            )) from device d where d.house_id = h.id
        ), '[]'),
        'connections', coalesce((
            select jsonb_agg(jsonb_build_object(
                'id', c.id, 'from_device', c.from_device_id, 'from_output', c.from_output_id,
                'to_device', c.to_device_id, 'to_input', c.to_input_id, 'return_audio', c.return_audio
            )) from connection c where c.house_id = h.id
        ), '[]'),
        'codes', coalesce((
            select jsonb_agg(jsonb_build_object(
                'id', c.id, 'device', c.device_id, 'function', c.function_id, 'body', c.body, 'captured', c.captured,
                'since', to_char(c.since at time zone 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.MS"Z"'), 'tested', c.tested
            )) from code c where c.house_id = h.id
        ), '[]'),
        'code_sets', coalesce((
            select jsonb_agg(jsonb_build_object(
                'id', s.id, 'name', s.name, 'kind', s.kind, 'source', s.source, 'keys', s.keys
            )) from code_set s where s.house_id = h.id
        ), '[]'),
        'activities', coalesce((
            select jsonb_agg(jsonb_build_object(
                'id', a.id, 'room', a.room_id, 'name', a.name, 'position', a.position, 'source', a.source_device_id,
                'seen_on', a.seen_on_device_id, 'heard_on', a.heard_on_device_id, 'moves', a.moves,
                'extras', a.extras
            )) from activity a where a.house_id = h.id
        ), '[]')
    ),
    jsonb_build_object(h.id, h.version)
        || coalesce((select jsonb_object_agg(id, version) from room where house_id = h.id), '{}')
        || coalesce((select jsonb_object_agg(id, version) from profile where house_id = h.id), '{}')
        || coalesce((select jsonb_object_agg(id, version) from device where house_id = h.id), '{}')
        || coalesce((select jsonb_object_agg(id, version) from connection where house_id = h.id), '{}')
        || coalesce((select jsonb_object_agg(id, version) from code where house_id = h.id), '{}')
        || coalesce((select jsonb_object_agg(id, version) from code_set where house_id = h.id), '{}')
        || coalesce((select jsonb_object_agg(id, version) from activity where house_id = h.id), '{}')
from house h;

-- A macro that is under way belongs to a room of a house.
create table under_way (
    house_id uuid not null references house (id) on delete cascade,
    room_id uuid not null,
    leads_to text not null,
    since timestamptz not null default now(),
    primary key (house_id, room_id)
);
insert into under_way (house_id, room_id, leads_to, since)
select r.house_id, r.id, u.leads_to, u.since from run_under_way u join room r on r.id = u.room_id;
drop table run_under_way;

drop table activity, code, connection, device, output, input, function, profile, code_set, room;
alter table house drop column path_order, drop column coverage_percent, drop column place;
alter table house add column body jsonb not null default '{}';

create table room (
    house_id uuid not null references house (id) on delete cascade,
    id uuid not null,
    version bigint not null,
    body jsonb not null,
    primary key (house_id, id)
);

create table profile (
    house_id uuid not null references house (id) on delete cascade,
    id uuid not null,
    version bigint not null,
    body jsonb not null,
    primary key (house_id, id)
);

create table device (
    house_id uuid not null references house (id) on delete cascade,
    id uuid not null,
    version bigint not null,
    body jsonb not null,
    room_id uuid not null,
    profile_id uuid not null,
    primary key (house_id, id),
    foreign key (house_id, room_id) references room (house_id, id) deferrable initially deferred,
    foreign key (house_id, profile_id) references profile (house_id, id) deferrable initially deferred
);
create index device_room on device (house_id, room_id);
create index device_profile on device (house_id, profile_id);

create table connection (
    house_id uuid not null references house (id) on delete cascade,
    id uuid not null,
    version bigint not null,
    body jsonb not null,
    from_device_id uuid not null,
    to_device_id uuid not null,
    primary key (house_id, id),
    foreign key (house_id, from_device_id) references device (house_id, id) deferrable initially deferred,
    foreign key (house_id, to_device_id) references device (house_id, id) deferrable initially deferred
);
create index connection_from on connection (house_id, from_device_id);
create index connection_to on connection (house_id, to_device_id);

create table code (
    house_id uuid not null references house (id) on delete cascade,
    id uuid not null,
    version bigint not null,
    body jsonb not null,
    device_id uuid not null,
    primary key (house_id, id),
    foreign key (house_id, device_id) references device (house_id, id) deferrable initially deferred
);
create index code_device on code (house_id, device_id);

create table activity (
    house_id uuid not null references house (id) on delete cascade,
    id uuid not null,
    version bigint not null,
    body jsonb not null,
    room_id uuid not null,
    source_id uuid not null,
    seen_on_id uuid,
    heard_on_id uuid,
    primary key (house_id, id),
    foreign key (house_id, room_id) references room (house_id, id) deferrable initially deferred,
    foreign key (house_id, source_id) references device (house_id, id) deferrable initially deferred,
    foreign key (house_id, seen_on_id) references device (house_id, id) deferrable initially deferred,
    foreign key (house_id, heard_on_id) references device (house_id, id) deferrable initially deferred
);
create index activity_room on activity (house_id, room_id);
create index activity_source on activity (house_id, source_id);

create table code_set (
    house_id uuid not null references house (id) on delete cascade,
    id uuid not null,
    version bigint not null,
    body jsonb not null,
    primary key (house_id, id)
);

-- Kept once by what is in them; keys of surfaces name them.
create table picture (
    house_id uuid not null references house (id) on delete cascade,
    id uuid not null,
    version bigint not null,
    body jsonb not null,
    primary key (house_id, id)
);

-- One a room, and its id is that of the room.
create table light (
    house_id uuid not null references house (id) on delete cascade,
    id uuid not null,
    version bigint not null,
    body jsonb not null,
    primary key (house_id, id),
    foreign key (house_id, id) references room (house_id, id) deferrable initially deferred
);

create table voice (
    house_id uuid not null references house (id) on delete cascade,
    id uuid not null,
    version bigint not null,
    body jsonb not null,
    primary key (house_id, id),
    foreign key (house_id, id) references room (house_id, id) deferrable initially deferred
);

create table plan_rules (
    house_id uuid not null references house (id) on delete cascade,
    id uuid not null,
    version bigint not null,
    body jsonb not null,
    primary key (house_id, id),
    foreign key (house_id, id) references room (house_id, id) deferrable initially deferred
);

-- Several a room.
create table cue (
    house_id uuid not null references house (id) on delete cascade,
    id uuid not null,
    version bigint not null,
    body jsonb not null,
    room_id uuid not null,
    primary key (house_id, id),
    foreign key (house_id, room_id) references room (house_id, id) deferrable initially deferred
);
create index cue_room on cue (house_id, room_id);

create table surface (
    house_id uuid not null references house (id) on delete cascade,
    id uuid not null,
    version bigint not null,
    body jsonb not null,
    room_id uuid not null,
    primary key (house_id, id),
    foreign key (house_id, room_id) references room (house_id, id) deferrable initially deferred
);
create index surface_room on surface (house_id, room_id);

create table story (
    house_id uuid not null references house (id) on delete cascade,
    id uuid not null,
    version bigint not null,
    body jsonb not null,
    room_id uuid not null,
    primary key (house_id, id),
    foreign key (house_id, room_id) references room (house_id, id) deferrable initially deferred
);
create index story_room on story (house_id, room_id);

create table accepted (
    house_id uuid not null references house (id) on delete cascade,
    id uuid not null,
    version bigint not null,
    body jsonb not null,
    room_id uuid not null,
    primary key (house_id, id),
    foreign key (house_id, room_id) references room (house_id, id) deferrable initially deferred
);
create index accepted_room on accepted (house_id, room_id);

-- The log: the form in which a line was written; whether it was undone and then overtaken by another edit (it is not
-- made again then, and stays in the log); whether a client of a surface made it (nobody's undo takes it back); and the
-- request that it answers, so that a request that is sent twice is carried out once.
alter table change add column format integer not null default 1;
alter table change alter column format drop default;
alter table change add column discarded boolean not null default false;
alter table change add column by_client boolean not null default false;
alter table change add column request uuid;
create unique index change_request on change (house_id, request) where request is not null;
-- What had been undone before an edit that still stands can never be made again.
update change c set discarded = true
where c.kind = 'edit' and c.undone and exists (
    select 1 from change later
    where later.house_id = c.house_id and later.kind = 'edit' and not later.undone and later.revision > c.revision
);
