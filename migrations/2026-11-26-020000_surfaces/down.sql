drop table surface_link;
alter table room drop column voice;
alter table room drop column surfaces;
