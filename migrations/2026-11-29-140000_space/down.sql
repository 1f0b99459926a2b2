drop table placed;
drop table floor;
