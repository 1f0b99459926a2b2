drop table session, handover, visit, wanted, test_result, measurement;
