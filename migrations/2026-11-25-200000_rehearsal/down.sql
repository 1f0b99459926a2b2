drop table run_under_way;
alter table room drop column rehearsal;
