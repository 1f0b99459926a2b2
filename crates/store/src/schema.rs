//! The tables, as `migrations/` makes them.
#![allow(missing_docs, reason = "columns are described where the tables are made")]

diesel::table! {
    house (id) { id -> Uuid, name -> Text, path_order -> Jsonb, coverage_percent -> SmallInt, place -> Nullable<Jsonb>, revision -> BigInt, version -> BigInt, created_at -> Timestamptz, }
}

diesel::table! {
    room (id) { id -> Uuid, house_id -> Uuid, name -> Text, position -> Integer, rack -> Bool, plans -> Jsonb, rehearsal -> Jsonb, lighting -> Jsonb, accepted -> Jsonb, surfaces -> Jsonb, voice -> Jsonb, version -> BigInt, }
}

diesel::table! {
    profile (id) {
        id -> Uuid,
        house_id -> Uuid,
        maker -> Text,
        model -> Text,
        kind -> Text,
        offers -> Jsonb,
        behaviour -> Jsonb,
        version -> BigInt,
    }
}

diesel::table! {
    function (id) {
        id -> Uuid,
        profile_id -> Uuid,
        position -> Integer,
        name -> Text,
        press -> Jsonb,
        frames -> Nullable<Integer>,
        answers_to -> Nullable<Jsonb>,
    }
}

diesel::table! {
    input (id) {
        id -> Uuid,
        profile_id -> Uuid,
        position -> Integer,
        name -> Text,
        cable -> Text,
        select_function_id -> Nullable<Uuid>,
        reports -> Nullable<Text>,
    }
}

diesel::table! {
    output (id) {
        id -> Uuid,
        profile_id -> Uuid,
        position -> Integer,
        name -> Text,
        cable -> Text,
        returns_input_id -> Nullable<Uuid>,
    }
}

diesel::table! {
    device (id) {
        id -> Uuid,
        house_id -> Uuid,
        room_id -> Uuid,
        profile_id -> Uuid,
        name -> Text,
        position -> Integer,
        details -> Jsonb,
        version -> BigInt,
    }
}

diesel::table! {
    connection (id) {
        id -> Uuid,
        house_id -> Uuid,
        from_device_id -> Uuid,
        from_output_id -> Uuid,
        to_device_id -> Uuid,
        to_input_id -> Uuid,
        return_audio -> Bool,
        version -> BigInt,
    }
}

diesel::table! {
    code (id) {
        id -> Uuid,
        house_id -> Uuid,
        device_id -> Uuid,
        function_id -> Uuid,
        medium -> Text,
        body -> Jsonb,
        captured -> Nullable<Jsonb>,
        since -> Nullable<Timestamptz>,
        tested -> Nullable<Jsonb>,
        version -> BigInt,
    }
}

diesel::table! {
    code_set (id) {
        id -> Uuid,
        house_id -> Uuid,
        name -> Text,
        kind -> Nullable<Text>,
        source -> Text,
        keys -> Jsonb,
        version -> BigInt,
    }
}

diesel::table! {
    attempt (id) {
        id -> Uuid,
        house_id -> Uuid,
        device_id -> Uuid,
        function_id -> Nullable<Uuid>,
        at -> Timestamptz,
        who -> Text,
        what -> Text,
        outcome -> Text,
        sent -> Nullable<Text>,
        note -> Text,
    }
}

diesel::table! {
    photo (id) { id -> Uuid, house_id -> Uuid, media_type -> Text, bytes -> Bytea, at -> Timestamptz, }
}

diesel::table! {
    activity (id) {
        id -> Uuid,
        house_id -> Uuid,
        room_id -> Uuid,
        name -> Text,
        position -> Integer,
        source_device_id -> Uuid,
        seen_on_device_id -> Nullable<Uuid>,
        heard_on_device_id -> Nullable<Uuid>,
        moves -> Jsonb,
        extras -> Jsonb,
        version -> BigInt,
    }
}

diesel::table! {
    change (house_id, revision) {
        house_id -> Uuid,
        revision -> BigInt,
        at -> Timestamptz,
        who -> Text,
        kind -> Text,
        title -> Text,
        changes -> Jsonb,
        undone -> Bool,
        about -> Nullable<BigInt>,
    }
}

diesel::table! {
    run_under_way (room_id) { room_id -> Uuid, leads_to -> Text, since -> Timestamptz, }
}

diesel::table! {
    surface_link (token) {
        token -> Text,
        house_id -> Uuid,
        room_id -> Uuid,
        surface_id -> Uuid,
        label -> Text,
        made_at -> Timestamptz,
        used_at -> Nullable<Timestamptz>,
    }
}

diesel::allow_tables_to_appear_in_same_query!(
    house,
    room,
    profile,
    function,
    input,
    output,
    device,
    connection,
    code,
    code_set,
    activity,
    attempt,
    photo,
    change,
    run_under_way,
    surface_link
);
