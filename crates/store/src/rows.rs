//! Rows and core types.

use crate::StoreError;
use crate::schema;
use diesel::prelude::*;
use kestrel_core::device::{AfterPowerOn, Function, Input, Motion, Output, Power, Profile, Selection, Times};
use kestrel_core::site::{Activity, Code, Connection, Device, House, Room};
use serde::de::DeserializeOwned;
use serde::{Deserialize, Serialize};
use serde_json::Value;
use uuid::Uuid;

/// Power, inputs and motion of a profile, as stored in one column.
#[derive(Serialize, Deserialize)]
struct Behaviour {
    power: Power,
    after_power_on: AfterPowerOn,
    selection: Selection,
    motion: Option<Motion>,
    times: Times,
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

macro_rules! row {
    ($(#[$attribute:meta])* $name:ident in $table:ident { $($field:ident: $type:ty,)+ }) => {
        $(#[$attribute])*
        #[derive(Queryable, Selectable, Insertable, AsChangeset, Identifiable)]
        #[diesel(table_name = schema::$table, check_for_backend(diesel::pg::Pg), treat_none_as_null = true)]
        pub(crate) struct $name { $(pub(crate) $field: $type,)+ }
    };
}

row! { HouseRow in house { id: Uuid, name: String, revision: i64, version: i64, } }
row! { RoomRow in room { id: Uuid, house_id: Uuid, name: String, position: i32, version: i64, } }
row! { ProfileRow in profile {
    id: Uuid, house_id: Uuid, maker: String, model: String, kind: String, medium: String, behaviour: Value,
    version: i64,
} }
row! { FunctionRow in function {
    id: Uuid, profile_id: Uuid, position: i32, name: String, answers_to: Option<Value>,
} }
row! { InputRow in input {
    id: Uuid, profile_id: Uuid, position: i32, name: String, cable: String, select_function_id: Option<Uuid>,
} }
row! { OutputRow in output { id: Uuid, profile_id: Uuid, position: i32, name: String, cable: String, } }
row! { DeviceRow in device {
    id: Uuid, house_id: Uuid, room_id: Uuid, profile_id: Uuid, name: String, position: i32, version: i64,
} }
row! { ConnectionRow in connection {
    id: Uuid, house_id: Uuid, from_device_id: Uuid, from_output_id: Uuid, to_device_id: Uuid, to_input_id: Uuid,
    version: i64,
} }
row! { CodeRow in code {
    id: Uuid, house_id: Uuid, device_id: Uuid, function_id: Uuid, body: Value, captured: Option<Value>, version: i64,
} }
row! { ActivityRow in activity {
    id: Uuid, house_id: Uuid, room_id: Uuid, name: String, position: i32, source_device_id: Uuid,
    seen_on_device_id: Option<Uuid>, heard_on_device_id: Option<Uuid>, moves: Value, version: i64,
} }

impl HouseRow {
    pub(crate) fn into_core(self) -> House {
        House { id: self.id.into(), name: self.name }
    }
}

impl RoomRow {
    pub(crate) fn new(house_id: Uuid, room: &Room, version: i64) -> Self {
        Self { id: room.id.0, house_id, name: room.name.clone(), position: to_db(room.position), version }
    }

    pub(crate) fn into_core(self) -> Room {
        Room { id: self.id.into(), name: self.name, position: from_db(self.position) }
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
            after_power_on: profile.after_power_on,
            selection: profile.selection,
            motion: profile.motion,
            times: profile.times,
        };
        let profile_id = profile.id.0;
        let functions = (0..).zip(&profile.functions).map(|(position, function)| {
            let answers_to = function.answers_to.as_ref().map(serde_json::to_value).transpose()?;
            Ok(FunctionRow { id: function.id.0, profile_id, position, name: function.name.clone(), answers_to })
        });
        let inputs = (0..).zip(&profile.inputs).map(|(position, input)| {
            Ok(InputRow {
                id: input.id.0,
                profile_id,
                position,
                name: input.name.clone(),
                cable: word(input.cable)?,
                select_function_id: input.select.map(|id| id.0),
            })
        });
        let outputs = (0..).zip(&profile.outputs).map(|(position, output)| {
            let cable = word(output.cable)?;
            Ok(OutputRow { id: output.id.0, profile_id, position, name: output.name.clone(), cable })
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
                medium: word(profile.medium)?,
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
            Ok(Function { id: row.id.into(), name: row.name, answers_to })
        });
        let inputs = self.inputs.into_iter().map(|row| {
            let select = row.select_function_id.map(Into::into);
            Ok(Input { id: row.id.into(), name: row.name, cable: from_word(&row.cable)?, select })
        });
        let outputs = self
            .outputs
            .into_iter()
            .map(|row| Ok(Output { id: row.id.into(), name: row.name, cable: from_word(&row.cable)? }));
        Ok(Profile {
            id: self.profile.id.into(),
            maker: self.profile.maker,
            model: self.profile.model,
            kind: from_word(&self.profile.kind)?,
            medium: from_word(&self.profile.medium)?,
            power: behaviour.power,
            after_power_on: behaviour.after_power_on,
            selection: behaviour.selection,
            motion: behaviour.motion,
            times: behaviour.times,
            functions: functions.collect::<Result<_, StoreError>>()?,
            inputs: inputs.collect::<Result<_, StoreError>>()?,
            outputs: outputs.collect::<Result<_, StoreError>>()?,
        })
    }
}

impl DeviceRow {
    pub(crate) fn new(house_id: Uuid, device: &Device, version: i64) -> Self {
        Self {
            id: device.id.0,
            house_id,
            room_id: device.room.0,
            profile_id: device.profile.0,
            name: device.name.clone(),
            position: to_db(device.position),
            version,
        }
    }

    pub(crate) fn into_core(self) -> Device {
        Device {
            id: self.id.into(),
            room: self.room_id.into(),
            profile: self.profile_id.into(),
            name: self.name,
            position: from_db(self.position),
        }
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
            body: serde_json::to_value(&code.body)?,
            captured: code.captured.as_ref().map(serde_json::to_value).transpose()?,
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
        })
    }
}
