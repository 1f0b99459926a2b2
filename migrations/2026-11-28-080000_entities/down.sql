-- There is no way back: take the dump that was written before this migration.
select 1 / 0;
