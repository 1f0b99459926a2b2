-- The shelf: a house that is removed is kept for a while, and what is said of a house is worked out in the background
-- and kept as of a revision.

alter table house add column removed_at timestamptz;
create index house_removed on house (removed_at) where removed_at is not null;

create table house_summary (
    house_id uuid primary key references house (id) on delete cascade,
    revision bigint not null,
    body jsonb not null
);

-- What belongs to this installation and to no house: where backups go, whether the demo house was loaded.
create table setting (
    name text primary key,
    value jsonb not null
);

-- A copy of a house shows the same photos.
alter table photo drop constraint photo_pkey;
alter table photo add primary key (house_id, id);

create index change_at on change (house_id, at desc);
