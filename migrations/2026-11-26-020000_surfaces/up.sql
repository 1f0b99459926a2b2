-- Surfaces: what people press and say in a room, and the links by which a surface opens on a phone.

alter table room add column surfaces jsonb not null default '[]';
alter table room alter column surfaces drop default;
alter table room add column voice jsonb not null default '{}';
alter table room alter column voice drop default;

create table surface_link (
    token text primary key check (length(token) >= 32),
    house_id uuid not null references house (id) on delete cascade,
    room_id uuid not null,
    surface_id uuid not null,
    label text not null check (length(label) between 1 and 80),
    made_at timestamptz not null default now(),
    used_at timestamptz
);
create index surface_link_of_surface on surface_link (house_id, surface_id);
