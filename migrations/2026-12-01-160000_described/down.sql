drop table described;
