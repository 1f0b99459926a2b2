-- Cues: where a house stands, the light of a room, and findings that were accepted: values of the core.

alter table house add column place jsonb;
alter table room add column lighting jsonb not null default '{}';
alter table room alter column lighting drop default;
alter table room add column accepted jsonb not null default '[]';
alter table room alter column accepted drop default;
