drop table change, activity, code, connection, device, output, input, function, profile, room, house;
