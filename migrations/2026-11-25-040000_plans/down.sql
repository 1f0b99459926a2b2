alter table activity drop column extras;
alter table room drop column plans;
alter table house drop column coverage_percent;
