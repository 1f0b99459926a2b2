alter table room drop column accepted;
alter table room drop column lighting;
alter table house drop column place;
