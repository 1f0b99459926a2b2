//! Rows and core types.

use crate::{StoreError, schema};
use chrono::{DateTime, Utc};
use diesel::prelude::*;
use kestrel_core::id::{DeviceId, FunctionId, InputId, RoomId};
use kestrel_core::model::{
    Activity, AfterMains, AfterPowerOn, App, Code, CodeSet, Connection, ControlPath, Couples, Device, Feedback,
    Function, House, Input, Mode, Motion, Network, Offer, Output, Override, Power, Press, Profile, Records, Room,
    Selection, SetKey, Span, Talk, Times, Volume, Wifi,
};
use serde::de::DeserializeOwned;
use serde::{Deserialize, Serialize};
use serde_json::Value;
use std::collections::BTreeMap;
use uuid::Uuid;

/// How a profile behaves, as stored in one column. What was added later may be missing in older rows.
#[derive(Serialize, Deserialize)]
struct Behaviour {
    power: Power,
    #[serde(default)]
    wake_keys: Vec<FunctionId>,
    #[serde(default)]
    auto_standby: Option<Span>,
    #[serde(default)]
    after_mains: AfterMains,
    after_power_on: AfterPowerOn,
    selection: Selection,
    motion: Option<Motion>,
    #[serde(default)]
    volume: Option<Volume>,
    #[serde(default)]
    modes: Vec<Mode>,
    #[serde(default)]
    apps: Vec<App>,
    times: Times,
    #[serde(default)]
    feedback: Feedback,
    #[serde(default)]
    wifi: Option<Wifi>,
    #[serde(default)]
    couples: Option<Couples>,
    #[serde(default)]
    talks: Option<Talk>,
}

/// What a device has of its own, as stored in one column.
#[derive(Serialize, Deserialize, Default)]
#[serde(default)]
struct Details {
    serves: Vec<RoomId>,
    paths: Vec<ControlPath>,
    network: Network,
    records: Records,
    reported: BTreeMap<InputId, String>,
    overrides: Vec<Override>,
    behind: Option<DeviceId>,
}

/// A unit value of the core (an enum written as one word) as text and back.
fn word(value: impl Serialize) -> Result<String, StoreError> {
    match serde_json::to_value(value)? {
        Value::String(word) => Ok(word),
        other => Err(StoreError::Unreadable(other.to_string())),
    }
}

fn from_word<T: DeserializeOwned>(word: &str) -> Result<T, StoreError> {
    Ok(serde_json::from_value(Value::String(word.to_owned()))?)
}

/// Positions are small and not negative; the database checks that too.
fn to_db(position: u32) -> i32 {
    i32::try_from(position).unwrap_or(i32::MAX)
}

fn from_db(position: i32) -> u32 {
    u32::try_from(position).unwrap_or(0)
}

/// The core's times and the database's, both in UTC and to the millisecond.
fn to_chrono(at: jiff::Timestamp) -> DateTime<Utc> {
    DateTime::from_timestamp_millis(at.as_millisecond()).unwrap_or_default()
}

fn from_chrono(at: DateTime<Utc>) -> jiff::Timestamp {
    jiff::Timestamp::from_millisecond(at.timestamp_millis()).unwrap_or_default()
}

macro_rules! row {
    ($(#[$attribute:meta])* $name:ident in $table:ident { $($field:ident: $type:ty,)+ }) => {
        $(#[$attribute])*
        #[derive(Queryable, Selectable, Insertable, AsChangeset, Identifiable)]
        #[diesel(table_name = schema::$table, check_for_backend(diesel::pg::Pg), treat_none_as_null = true)]
        pub(crate) struct $name { $(pub(crate) $field: $type,)+ }
    };
}

row! { HouseRow in house {
    id: Uuid, name: String, path_order: Value, coverage_percent: i16, place: Option<Value>, revision: i64,
    version: i64,
} }
row! { RoomRow in room {
    id: Uuid, house_id: Uuid, name: String, position: i32, rack: bool, plans: Value, rehearsal: Value,
    lighting: Value, accepted: Value, surfaces: Value, voice: Value, version: i64,
} }
row! { ProfileRow in profile {
    id: Uuid, house_id: Uuid, maker: String, model: String, kind: String, offers: Value, behaviour: Value,
    version: i64,
} }
row! { FunctionRow in function {
    id: Uuid, profile_id: Uuid, position: i32, name: String, press: Value, frames: Option<i32>,
    answers_to: Option<Value>,
} }
row! { InputRow in input {
    id: Uuid, profile_id: Uuid, position: i32, name: String, cable: String, select_function_id: Option<Uuid>,
    reports: Option<String>,
} }
row! { OutputRow in output {
    id: Uuid, profile_id: Uuid, position: i32, name: String, cable: String, returns_input_id: Option<Uuid>,
} }
row! { DeviceRow in device {
    id: Uuid, house_id: Uuid, room_id: Uuid, profile_id: Uuid, name: String, position: i32, details: Value,
    version: i64,
} }
row! { ConnectionRow in connection {
    id: Uuid, house_id: Uuid, from_device_id: Uuid, from_output_id: Uuid, to_device_id: Uuid, to_input_id: Uuid,
    return_audio: bool, version: i64,
} }
row! { CodeRow in code {
    id: Uuid, house_id: Uuid, device_id: Uuid, function_id: Uuid, medium: String, body: Value,
    captured: Option<Value>, since: Option<DateTime<Utc>>, tested: Option<Value>, version: i64,
} }
row! { CodeSetRow in code_set {
    id: Uuid, house_id: Uuid, name: String, kind: Option<String>, source: String, keys: Value, version: i64,
} }
row! { ActivityRow in activity {
    id: Uuid, house_id: Uuid, room_id: Uuid, name: String, position: i32, source_device_id: Uuid,
    seen_on_device_id: Option<Uuid>, heard_on_device_id: Option<Uuid>, moves: Value, extras: Value,
    version: i64,
} }

impl HouseRow {
    pub(crate) fn new(house: &House, revision: i64, version: i64) -> Result<Self, StoreError> {
        let path_order = serde_json::to_value(&house.path_order)?;
        let coverage_percent = i16::from(house.coverage_percent);
        let place = house.place.as_ref().map(serde_json::to_value).transpose()?;
        Ok(Self { id: house.id.0, name: house.name.clone(), path_order, coverage_percent, place, revision, version })
    }

    pub(crate) fn into_core(self) -> Result<House, StoreError> {
        Ok(House {
            id: self.id.into(),
            name: self.name,
            path_order: serde_json::from_value(self.path_order)?,
            coverage_percent: u8::try_from(self.coverage_percent).unwrap_or(House::usual_coverage()),
            place: self.place.map(serde_json::from_value).transpose()?,
        })
    }
}

impl RoomRow {
    pub(crate) fn new(house_id: Uuid, room: &Room, version: i64) -> Result<Self, StoreError> {
        let (name, position) = (room.name.clone(), to_db(room.position));
        Ok(Self {
            id: room.id.0,
            house_id,
            name,
            position,
            rack: room.rack,
            plans: serde_json::to_value(&room.plans)?,
            rehearsal: serde_json::to_value(&room.rehearsal)?,
            lighting: serde_json::to_value(&room.lighting)?,
            accepted: serde_json::to_value(&room.accepted)?,
            surfaces: serde_json::to_value(&room.surfaces)?,
            voice: serde_json::to_value(&room.voice)?,
            version,
        })
    }

    pub(crate) fn into_core(self) -> Result<Room, StoreError> {
        Ok(Room {
            id: self.id.into(),
            name: self.name,
            position: from_db(self.position),
            rack: self.rack,
            plans: serde_json::from_value(self.plans)?,
            rehearsal: serde_json::from_value(self.rehearsal)?,
            lighting: serde_json::from_value(self.lighting)?,
            accepted: serde_json::from_value(self.accepted)?,
            surfaces: serde_json::from_value(self.surfaces)?,
            voice: serde_json::from_value(self.voice)?,
        })
    }
}

/// The rows of one profile.
pub(crate) struct ProfileRows {
    pub(crate) profile: ProfileRow,
    pub(crate) functions: Vec<FunctionRow>,
    pub(crate) inputs: Vec<InputRow>,
    pub(crate) outputs: Vec<OutputRow>,
}

impl ProfileRows {
    pub(crate) fn new(house_id: Uuid, profile: &Profile, version: i64) -> Result<Self, StoreError> {
        let behaviour = Behaviour {
            power: profile.power,
            wake_keys: profile.wake_keys.clone(),
            auto_standby: profile.auto_standby,
            after_mains: profile.after_mains,
            after_power_on: profile.after_power_on,
            selection: profile.selection,
            motion: profile.motion,
            volume: profile.volume,
            modes: profile.modes.clone(),
            apps: profile.apps.clone(),
            times: profile.times,
            feedback: profile.feedback.clone(),
            wifi: profile.wifi,
            couples: profile.couples,
            talks: profile.talks,
        };
        let profile_id = profile.id.0;
        let functions = (0..).zip(&profile.functions).map(|(position, function)| {
            let answers_to = function.answers_to.as_ref().map(serde_json::to_value).transpose()?;
            Ok(FunctionRow {
                id: function.id.0,
                profile_id,
                position,
                name: function.name.clone(),
                press: serde_json::to_value(function.press)?,
                frames: function.frames.map(to_db),
                answers_to,
            })
        });
        let inputs = (0..).zip(&profile.inputs).map(|(position, input)| {
            Ok(InputRow {
                id: input.id.0,
                profile_id,
                position,
                name: input.name.clone(),
                cable: word(input.cable)?,
                select_function_id: input.select.map(|id| id.0),
                reports: input.reports.clone(),
            })
        });
        let outputs = (0..).zip(&profile.outputs).map(|(position, output)| {
            let cable = word(output.cable)?;
            let returns_input_id = output.returns.map(|id| id.0);
            Ok(OutputRow { id: output.id.0, profile_id, position, name: output.name.clone(), cable, returns_input_id })
        });
        Ok(Self {
            functions: functions.collect::<Result<_, StoreError>>()?,
            inputs: inputs.collect::<Result<_, StoreError>>()?,
            outputs: outputs.collect::<Result<_, StoreError>>()?,
            profile: ProfileRow {
                id: profile_id,
                house_id,
                maker: profile.maker.clone(),
                model: profile.model.clone(),
                kind: word(profile.kind)?,
                offers: serde_json::to_value(&profile.offers)?,
                behaviour: serde_json::to_value(behaviour)?,
                version,
            },
        })
    }

    /// `functions`, `inputs` and `outputs` in the order of their positions.
    pub(crate) fn into_core(self) -> Result<Profile, StoreError> {
        let behaviour: Behaviour = serde_json::from_value(self.profile.behaviour)?;
        let functions = self.functions.into_iter().map(|row| {
            let answers_to = row.answers_to.map(serde_json::from_value).transpose()?;
            let press: Press = serde_json::from_value(row.press)?;
            Ok(Function {
                id: row.id.into(),
                name: row.name,
                press,
                frames: row.frames.map(from_db),
                answers_to,
                bounces: false,
            })
        });
        let inputs = self.inputs.into_iter().map(|row| {
            let select = row.select_function_id.map(Into::into);
            let cable = from_word(&row.cable)?;
            Ok(Input { id: row.id.into(), name: row.name, cable, select, reports: row.reports })
        });
        let outputs = self.outputs.into_iter().map(|row| {
            let returns = row.returns_input_id.map(Into::into);
            Ok(Output { id: row.id.into(), name: row.name, cable: from_word(&row.cable)?, returns })
        });
        let offers: Vec<Offer> = serde_json::from_value(self.profile.offers)?;
        Ok(Profile {
            id: self.profile.id.into(),
            maker: self.profile.maker,
            model: self.profile.model,
            kind: from_word(&self.profile.kind)?,
            offers,
            wifi: behaviour.wifi,
            power: behaviour.power,
            wake_keys: behaviour.wake_keys,
            auto_standby: behaviour.auto_standby,
            after_mains: behaviour.after_mains,
            after_power_on: behaviour.after_power_on,
            selection: behaviour.selection,
            motion: behaviour.motion,
            volume: behaviour.volume,
            modes: behaviour.modes,
            apps: behaviour.apps,
            times: behaviour.times,
            feedback: behaviour.feedback,
            couples: behaviour.couples,
            talks: behaviour.talks,
            unlisted: vec![],
            functions: functions.collect::<Result<_, StoreError>>()?,
            inputs: inputs.collect::<Result<_, StoreError>>()?,
            outputs: outputs.collect::<Result<_, StoreError>>()?,
        })
    }
}

impl DeviceRow {
    pub(crate) fn new(house_id: Uuid, device: &Device, version: i64) -> Result<Self, StoreError> {
        let details = Details {
            serves: device.serves.clone(),
            paths: device.paths.clone(),
            network: device.network.clone(),
            records: device.records.clone(),
            reported: device.reported.clone(),
            overrides: device.overrides.clone(),
            behind: device.behind,
        };
        Ok(Self {
            id: device.id.0,
            house_id,
            room_id: device.room.0,
            profile_id: device.profile.0,
            name: device.name.clone(),
            position: to_db(device.position),
            details: serde_json::to_value(details)?,
            version,
        })
    }

    pub(crate) fn into_core(self) -> Result<Device, StoreError> {
        let details: Details = serde_json::from_value(self.details)?;
        Ok(Device {
            id: self.id.into(),
            room: self.room_id.into(),
            serves: details.serves,
            profile: self.profile_id.into(),
            name: self.name,
            position: from_db(self.position),
            paths: details.paths,
            network: details.network,
            records: details.records,
            reported: details.reported,
            overrides: details.overrides,
            behind: details.behind,
        })
    }
}

impl CodeSetRow {
    pub(crate) fn new(house_id: Uuid, set: &CodeSet, version: i64) -> Result<Self, StoreError> {
        Ok(Self {
            id: set.id.0,
            house_id,
            name: set.name.clone(),
            kind: set.kind.map(word).transpose()?,
            source: set.source.clone(),
            keys: serde_json::to_value(&set.keys)?,
            version,
        })
    }

    pub(crate) fn into_core(self) -> Result<CodeSet, StoreError> {
        let keys: Vec<SetKey> = serde_json::from_value(self.keys)?;
        let kind = self.kind.as_deref().map(from_word).transpose()?;
        Ok(CodeSet { id: self.id.into(), name: self.name, kind, source: self.source, keys })
    }
}

impl ConnectionRow {
    pub(crate) fn new(house_id: Uuid, connection: &Connection, version: i64) -> Self {
        Self {
            id: connection.id.0,
            house_id,
            from_device_id: connection.from_device.0,
            from_output_id: connection.from_output.0,
            to_device_id: connection.to_device.0,
            to_input_id: connection.to_input.0,
            return_audio: connection.return_audio,
            version,
        }
    }

    pub(crate) fn into_core(self) -> Connection {
        Connection {
            id: self.id.into(),
            from_device: self.from_device_id.into(),
            from_output: self.from_output_id.into(),
            to_device: self.to_device_id.into(),
            to_input: self.to_input_id.into(),
            return_audio: self.return_audio,
        }
    }
}

impl CodeRow {
    pub(crate) fn new(house_id: Uuid, code: &Code, version: i64) -> Result<Self, StoreError> {
        Ok(Self {
            id: code.id.0,
            house_id,
            device_id: code.device.0,
            function_id: code.function.0,
            medium: word(code.body.medium())?,
            body: serde_json::to_value(&code.body)?,
            captured: code.captured.as_ref().map(serde_json::to_value).transpose()?,
            since: code.since.map(to_chrono),
            tested: code.tested.as_ref().map(serde_json::to_value).transpose()?,
            version,
        })
    }

    pub(crate) fn into_core(self) -> Result<Code, StoreError> {
        Ok(Code {
            id: self.id.into(),
            device: self.device_id.into(),
            function: self.function_id.into(),
            body: serde_json::from_value(self.body)?,
            captured: self.captured.map(serde_json::from_value).transpose()?,
            since: self.since.map(from_chrono),
            tested: self.tested.map(serde_json::from_value).transpose()?,
        })
    }
}

impl ActivityRow {
    pub(crate) fn new(house_id: Uuid, activity: &Activity, version: i64) -> Result<Self, StoreError> {
        Ok(Self {
            id: activity.id.0,
            house_id,
            room_id: activity.room.0,
            name: activity.name.clone(),
            position: to_db(activity.position),
            source_device_id: activity.source.0,
            seen_on_device_id: activity.seen_on.map(|id| id.0),
            heard_on_device_id: activity.heard_on.map(|id| id.0),
            moves: serde_json::to_value(&activity.moves)?,
            extras: serde_json::to_value(&activity.extras)?,
            version,
        })
    }

    pub(crate) fn into_core(self) -> Result<Activity, StoreError> {
        Ok(Activity {
            id: self.id.into(),
            room: self.room_id.into(),
            name: self.name,
            position: from_db(self.position),
            source: self.source_device_id.into(),
            seen_on: self.seen_on_device_id.map(Into::into),
            heard_on: self.heard_on_device_id.map(Into::into),
            moves: serde_json::from_value(self.moves)?,
            extras: serde_json::from_value(self.extras)?,
        })
    }
}
