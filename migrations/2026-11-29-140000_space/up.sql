-- The room in space: a floor plan a room, and where each device stands.

create table floor (
    house_id uuid not null references house (id) on delete cascade,
    id uuid not null,
    version bigint not null,
    body jsonb not null,
    primary key (house_id, id),
    foreign key (house_id, id) references room (house_id, id) deferrable initially deferred
);

create table placed (
    house_id uuid not null references house (id) on delete cascade,
    id uuid not null,
    version bigint not null,
    body jsonb not null,
    device_id uuid not null,
    primary key (house_id, id),
    unique (house_id, device_id) deferrable initially deferred,
    foreign key (house_id, device_id) references device (house_id, id) deferrable initially deferred
);
