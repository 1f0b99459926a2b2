-- Protocols that people have described, in IRP.

create table described (
    house_id uuid not null references house (id) on delete cascade,
    id uuid not null,
    version bigint not null,
    body jsonb not null,
    primary key (house_id, id)
);
