-- Sequences: how well a wait must be known, how a room's plans are made, what comes with an activity.

alter table house add column coverage_percent smallint not null default 90
    check (coverage_percent between 50 and 99);
alter table house alter column coverage_percent drop default;

-- Policy, rules of the order, changes by hand: values of the core.
alter table room add column plans jsonb not null default '{}';
alter table room alter column plans drop default;

-- Volume, settings, app, arrival look, favourites: values of the core.
alter table activity add column extras jsonb not null default '{}';
alter table activity alter column extras drop default;
