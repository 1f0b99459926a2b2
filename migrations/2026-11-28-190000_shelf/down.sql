drop index change_at;
alter table photo drop constraint photo_pkey;
alter table photo add primary key (id);
drop table setting;
drop table house_summary;
drop index house_removed;
delete from house where removed_at is not null;
alter table house drop column removed_at;
