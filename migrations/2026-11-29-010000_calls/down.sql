drop table service_call;
