//! The tables, as `migrations/` makes them.
#![allow(missing_docs, reason = "columns are described where the tables are made")]

diesel::table! {
    house (id) { id -> Uuid, name -> Text, revision -> BigInt, version -> BigInt, created_at -> Timestamptz, body -> Jsonb, removed_at -> Nullable<Timestamptz>, }
}

diesel::table! {
    room (house_id, id) {
        house_id -> Uuid,
        id -> Uuid,
        version -> BigInt,
        body -> Jsonb,
    }
}

diesel::table! {
    profile (house_id, id) {
        house_id -> Uuid,
        id -> Uuid,
        version -> BigInt,
        body -> Jsonb,
    }
}

diesel::table! {
    device (house_id, id) {
        house_id -> Uuid,
        id -> Uuid,
        version -> BigInt,
        body -> Jsonb,
        room_id -> Uuid,
        profile_id -> Uuid,
    }
}

diesel::table! {
    connection (house_id, id) {
        house_id -> Uuid,
        id -> Uuid,
        version -> BigInt,
        body -> Jsonb,
        from_device_id -> Uuid,
        to_device_id -> Uuid,
    }
}

diesel::table! {
    code (house_id, id) {
        house_id -> Uuid,
        id -> Uuid,
        version -> BigInt,
        body -> Jsonb,
        device_id -> Uuid,
    }
}

diesel::table! {
    activity (house_id, id) {
        house_id -> Uuid,
        id -> Uuid,
        version -> BigInt,
        body -> Jsonb,
        room_id -> Uuid,
        source_id -> Uuid,
        seen_on_id -> Nullable<Uuid>,
        heard_on_id -> Nullable<Uuid>,
    }
}

diesel::table! {
    code_set (house_id, id) {
        house_id -> Uuid,
        id -> Uuid,
        version -> BigInt,
        body -> Jsonb,
    }
}

diesel::table! {
    picture (house_id, id) {
        house_id -> Uuid,
        id -> Uuid,
        version -> BigInt,
        body -> Jsonb,
    }
}

diesel::table! {
    light (house_id, id) {
        house_id -> Uuid,
        id -> Uuid,
        version -> BigInt,
        body -> Jsonb,
    }
}

diesel::table! {
    voice (house_id, id) {
        house_id -> Uuid,
        id -> Uuid,
        version -> BigInt,
        body -> Jsonb,
    }
}

diesel::table! {
    plan_rules (house_id, id) {
        house_id -> Uuid,
        id -> Uuid,
        version -> BigInt,
        body -> Jsonb,
    }
}

diesel::table! {
    cue (house_id, id) {
        house_id -> Uuid,
        id -> Uuid,
        version -> BigInt,
        body -> Jsonb,
        room_id -> Uuid,
    }
}

diesel::table! {
    surface (house_id, id) {
        house_id -> Uuid,
        id -> Uuid,
        version -> BigInt,
        body -> Jsonb,
        room_id -> Uuid,
    }
}

diesel::table! {
    story (house_id, id) {
        house_id -> Uuid,
        id -> Uuid,
        version -> BigInt,
        body -> Jsonb,
        room_id -> Uuid,
    }
}

diesel::table! {
    accepted (house_id, id) {
        house_id -> Uuid,
        id -> Uuid,
        version -> BigInt,
        body -> Jsonb,
        room_id -> Uuid,
    }
}

diesel::table! {
    measurement (house_id, id) {
        house_id -> Uuid,
        id -> Uuid,
        version -> BigInt,
        body -> Jsonb,
        device_id -> Uuid,
    }
}

diesel::table! {
    test_result (house_id, id) {
        house_id -> Uuid,
        id -> Uuid,
        version -> BigInt,
        body -> Jsonb,
    }
}

diesel::table! {
    floor (house_id, id) {
        house_id -> Uuid,
        id -> Uuid,
        version -> BigInt,
        body -> Jsonb,
    }
}

diesel::table! {
    described (house_id, id) {
        house_id -> Uuid,
        id -> Uuid,
        version -> BigInt,
        body -> Jsonb,
    }
}

diesel::table! {
    placed (house_id, id) {
        house_id -> Uuid,
        id -> Uuid,
        version -> BigInt,
        body -> Jsonb,
        device_id -> Uuid,
    }
}

diesel::table! {
    wanted (house_id, id) {
        house_id -> Uuid,
        id -> Uuid,
        version -> BigInt,
        body -> Jsonb,
    }
}

diesel::table! {
    visit (house_id, id) {
        house_id -> Uuid,
        id -> Uuid,
        at -> Timestamptz,
        kind -> Text,
        who -> Text,
        room_id -> Nullable<Uuid>,
        device_id -> Nullable<Uuid>,
        text -> Text,
        photo_id -> Nullable<Uuid>,
        minutes -> Nullable<Integer>,
    }
}

diesel::table! {
    session (id) { id -> Uuid, digest -> Text, made_at -> Timestamptz, used_at -> Timestamptz, label -> Text, }
}

diesel::table! {
    handover (house_id, number) {
        house_id -> Uuid,
        number -> Integer,
        at -> Timestamptz,
        who -> Text,
        revision -> BigInt,
        note -> Text,
        rooms -> Jsonb,
        site -> Text,
        papers -> Jsonb,
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
    photo (house_id, id) { id -> Uuid, house_id -> Uuid, media_type -> Text, bytes -> Bytea, at -> Timestamptz, }
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
        format -> Integer,
        discarded -> Bool,
        by_client -> Bool,
        request -> Nullable<Uuid>,
    }
}

diesel::table! {
    house_before (house_id) { house_id -> Uuid, site -> Jsonb, versions -> Jsonb, }
}

diesel::table! {
    under_way (house_id, room_id) { house_id -> Uuid, room_id -> Uuid, leads_to -> Text, since -> Timestamptz, }
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

diesel::table! {
    service_call (house_id, id) {
        house_id -> Uuid,
        id -> Uuid,
        room_id -> Uuid,
        at -> Timestamptz,
        what -> Text,
        said_by -> Text,
        facts -> Jsonb,
        closed_at -> Nullable<Timestamptz>,
        outcome -> Text,
    }
}

diesel::table! {
    house_summary (house_id) { house_id -> Uuid, revision -> BigInt, body -> Jsonb, }
}

diesel::table! {
    setting (name) { name -> Text, value -> Jsonb, }
}
