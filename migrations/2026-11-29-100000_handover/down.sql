drop table handover, visit, wanted, test_result, measurement;
