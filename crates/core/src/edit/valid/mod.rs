//! What an edit must satisfy.

mod evidence;
pub(crate) mod light;
mod once;
pub mod plans;
mod space;
pub(crate) mod surface;
mod voice;

use crate::id::DeviceId;
use crate::model::{
    Activity, AfterPowerOn, Cable, Code, CodeBody, CodeSet, Connection, DescribedProtocol, Device, Entity, EntityKey,
    EntityKind, Feedback, Means, NAME_MAX, NOTE_MAX, PHOTOS_MAX, PICTURE_MAX, Picture, Position, Power, Press, Profile,
    Reach, Room, SOUND_MAX, Selection, Site, Span, Surface, with_overrides,
};
use kestrel_signal::radio::{RadioCode, UNITS_US};
pub(crate) use once::{ACTIVITIES_MAX, ROOMS_MAX};
use std::collections::{BTreeSet, HashSet};
use thiserror::Error;
use uuid::Uuid;

/// The longest duration of anything a device does, in ms (10 minutes).
const SPAN_MAX_MS: u32 = 600_000;

/// The most inputs, outputs and functions of a profile.
const INPUTS_MAX: usize = 32;
const FUNCTIONS_MAX: usize = 400;

/// Why an edit is refused.
#[derive(Debug, Clone, PartialEq, Eq, Error)]
pub enum EditError {
    /// A field has no usable value.
    #[error("{field}: {problem}")]
    Field {
        /// Which field, as the screen calls it.
        field: String,
        /// What is wrong and what to do.
        problem: String,
    },
    /// What it refers to does not exist.
    #[error("The {0} that this refers to does not exist any more. Reload the page and choose another one.")]
    NoSuch(&'static str),
    /// The entity itself is gone.
    #[error("This was removed in the meantime. Undo the removal to get it back.")]
    Gone,
    /// Others still need it.
    #[error("{0}")]
    InUse(String),
}

pub(crate) fn field(field: &str, problem: impl Into<String>) -> EditError {
    EditError::Field { field: field.to_owned(), problem: problem.into() }
}

/// The entity with blanks at the ends of its names taken away.
pub(super) fn tidied(mut entity: Entity) -> Entity {
    let tidy = |name: &mut String| *name = name.trim().to_owned();
    match &mut entity {
        Entity::House(e) => {
            let programmer = &mut e.programmer;
            for line in [&mut e.name, &mut e.note, &mut e.client, &mut programmer.name, &mut programmer.phone] {
                tidy(line);
            }
        }
        Entity::Room(e) => tidy(&mut e.name),
        Entity::Device(e) => {
            tidy(&mut e.name);
            tidy(&mut e.network.ip);
            tidy(&mut e.network.mac);
            e.reported.retain(|_, name| !name.trim().is_empty());
            e.reported.values_mut().for_each(tidy);
        }
        Entity::Activity(e) => tidy(&mut e.name),
        Entity::Profile(e) => {
            tidy(&mut e.maker);
            tidy(&mut e.model);
            e.inputs.iter_mut().for_each(|input| tidy(&mut input.name));
            e.outputs.iter_mut().for_each(|output| tidy(&mut output.name));
            e.stops.iter_mut().for_each(|stop| tidy(&mut stop.name));
            for function in &mut e.functions {
                tidy(&mut function.name);
                // What a new key is for is told by its name, once; after that the name is the user's.
                function.means = function.means.or_else(|| Means::of_name(&function.name));
            }
        }
        Entity::CodeSet(e) => {
            tidy(&mut e.name);
            e.keys.iter_mut().for_each(|key| tidy(&mut key.name));
        }
        Entity::Cue(_)
        | Entity::Connection(_)
        | Entity::Code(_)
        | Entity::Plans(_)
        | Entity::Picture(_)
        | Entity::Placed(_) => {}
        Entity::Protocol(e) => {
            [&mut e.name, &mut e.note].into_iter().for_each(tidy);
            e.irp.retain(|own| !own.is_whitespace());
        }
        Entity::Measurement(e) => [&mut e.by_way, &mut e.who, &mut e.note].into_iter().for_each(tidy),
        Entity::Result(e) => [&mut e.note, &mut e.who].into_iter().for_each(tidy),
        Entity::Order(e) => [&mut e.what, &mut e.note].into_iter().for_each(tidy),
        Entity::Floor(e) => {
            e.own.seats.iter_mut().for_each(|own| tidy(&mut own.name));
            e.own.cupboards.iter_mut().for_each(|own| tidy(&mut own.name));
            e.own.spots.iter_mut().for_each(|own| tidy(&mut own.name));
        }
        Entity::Light(e) => {
            e.zones.iter_mut().for_each(|zone| tidy(&mut zone.name));
            e.looks.iter_mut().for_each(|look| tidy(&mut look.name));
            e.switches.iter_mut().for_each(|switch| tidy(&mut switch.name));
        }
        Entity::Surface(e) => tidy(&mut e.own.name),
        Entity::Story(e) => tidy(&mut e.own.name),
        Entity::Voice(e) => e.own.names.iter_mut().flat_map(|spoken| &mut spoken.names).for_each(tidy),
        Entity::Accepted(e) => tidy(&mut e.own.reason),
    }
    entity
}

pub(crate) fn name(what: &str, name: &str) -> Result<(), EditError> {
    let length = name.chars().count();
    if length == 0 {
        Err(field(what, "is empty. Give it a name."))
    } else if length > NAME_MAX {
        Err(field(what, format!("has {length} characters; at most {NAME_MAX} fit. Shorten it.")))
    } else if name.chars().any(char::is_control) {
        Err(field(what, "holds a control character. Type it again instead of pasting it."))
    } else {
        Ok(())
    }
}

fn unique<'a>(what: &str, own: &str, mut others: impl Iterator<Item = &'a str>) -> Result<(), EditError> {
    match others.find(|other| other.to_lowercase() == own.to_lowercase()) {
        Some(_) => Err(field(what, format!("“{own}” is taken. Choose another name."))),
        None => Ok(()),
    }
}

/// Checks an entity that is to be put in its place.
pub(super) fn put(site: &Site, entity: &Entity) -> Result<(), EditError> {
    position(entity)?;
    alone(site, entity)?;
    once::beside(site, entity)?;
    own_ids(site, entity)
}

/// The same without a look at the names and ids of the rest of the house.
fn alone(site: &Site, entity: &Entity) -> Result<(), EditError> {
    match entity {
        Entity::House(house) => {
            if house.id != site.house.id {
                return Err(EditError::NoSuch("house"));
            }
            plans::house(house)?;
            name("Name of the house", &house.name)
        }
        Entity::Room(room) => {
            name("Name of the room", &room.name)?;
            plans::adoption(&room.adoption)
        }
        Entity::Profile(profile) => {
            self::profile(profile)?;
            plans::stops_in_use(site, profile)
        }
        Entity::Device(device) => self::device(site, device),
        Entity::Connection(connection) => self::connection(site, connection),
        Entity::Code(code) => self::code(site, code),
        Entity::Activity(activity) => self::activity(site, activity),
        Entity::CodeSet(set) => code_set(set),
        Entity::Picture(picture) => self::picture(picture),
        Entity::Measurement(reading) => evidence::reading(site, reading),
        Entity::Result(result) => evidence::result(site, result),
        Entity::Order(order) => evidence::order(site, order),
        Entity::Protocol(own) => protocol(site, own),
        Entity::Placed(own) => space::placed(site, own),
        part => self::part(site, part),
    }
}

/// The greatest place in a list: lists are far shorter, and the next place still has to be a number.
const POSITION_MAX: u32 = 1_000_000;

fn position(entity: &Entity) -> Result<(), EditError> {
    let position = match entity {
        Entity::Room(own) => own.position,
        Entity::Device(own) => own.position,
        Entity::Activity(own) => own.position,
        Entity::Cue(own) => own.own.position,
        Entity::Surface(own) => own.own.position,
        Entity::Story(own) => own.own.position,
        _ => 0,
    };
    if position > POSITION_MAX {
        let problem =
            format!("{position} is too far back: places in a list go from 0 to {POSITION_MAX}. Number them anew.");
        return Err(field("Position", problem));
    }
    Ok(())
}

/// A description that can be read and sent. What codes are made of stays as it is: they would say something else.
fn protocol(site: &Site, own: &DescribedProtocol) -> Result<(), EditError> {
    own.protocol().map_err(|why| field("Description", why.to_string()))?;
    let others = site.protocols.iter().filter(|known| known.id != own.id);
    unique("Name", &own.name, others.map(|known| known.name.as_str()))?;
    if own.note.chars().count() > NOTE_MAX {
        return Err(field("Note", format!("is longer than {NOTE_MAX} characters. Shorten it.")));
    }
    let before = site.protocols.iter().find(|known| known.id == own.id);
    if let Some(before) = before.filter(|before| (&before.name, &before.irp) != (&own.name, &own.irp))
        && let Ok(known) = before.protocol()
    {
        let many = site.codes.iter().filter(|code| code.body.is_of(known.id)).count();
        if many > 0 {
            let codes = if many == 1 { "1 code is".to_owned() } else { format!("{many} codes are") };
            return Err(field(
                "Description",
                format!("{codes} made of “{}” as it is. Describe the other one under another name.", before.name),
            ));
        }
    }
    Ok(())
}

fn picture(picture: &Picture) -> Result<(), EditError> {
    let known = Picture::media_type_of(&picture.bytes).is_some_and(|known| known == picture.media_type);
    if known && picture.is_sound() && picture.bytes.len() > SOUND_MAX {
        return Err(field("Sound", "is a WAV file of up to 300 kB. Cut it."));
    }
    if !known || (!picture.is_sound() && picture.bytes.len() > PICTURE_MAX) {
        return Err(field("Picture", "is a PNG, JPEG or WebP file of up to 60 kB. Make it smaller."));
    }
    if picture.id != Picture::id_of(&picture.bytes) {
        return Err(field("Picture", "its id is not that of its bytes. Load the picture again."));
    }
    Ok(())
}

/// Something of a room: the room as it would be must be one that can be.
fn part(site: &Site, part: &Entity) -> Result<(), EditError> {
    let room = part.part_of().and_then(|id| site.room(id)).ok_or(EditError::NoSuch("room"))?;
    let mut alone = Site { rooms: [room.clone()].into_iter().collect(), ..site.clone() };
    alone.put(part.clone());
    let after = alone.room(room.id).ok_or(EditError::NoSuch("room"))?;
    match part {
        Entity::Cue(cue) => light::room(after).and_then(|()| light::sounds(site, &cue.own)),
        Entity::Light(_) | Entity::Accepted(_) => light::room(after),
        Entity::Surface(_) => surface::room(site, after),
        Entity::Voice(voice) => self::voice::valid(&voice.own),
        Entity::Floor(floor) => space::floor(site, floor.room, &floor.own),
        Entity::Plans(_) => plans::room(after),
        Entity::Story(_) => plans::stories(after),
        _ => Ok(()),
    }
}

/// Checks a whole house, as it comes from a file: every id once, and every entity one that an edit would accept.
pub(crate) fn whole(site: &Site) -> Result<(), (EntityKey, EditError)> {
    let mut ids = HashSet::new();
    let mut double = None;
    ids_in(site, &mut |key, id| {
        if !ids.insert(id) && double.is_none() {
            double = Some((key, id));
        }
    });
    if let Some((key, id)) = double {
        return Err((key, field("Id", format!("{id} stands for two things. Give one of them another id."))));
    }
    let entities = crate::model::entities(site);
    once::among(&entities)?;
    entities.iter().try_for_each(|entity| position(entity).map_err(|error| (entity.key(), error)))?;
    for entity in entities.iter().filter(|entity| entity.part_of().is_none()) {
        alone(site, entity).map_err(|error| (entity.key(), error))?;
    }
    for room in &site.rooms {
        let key = EntityKey { kind: EntityKind::Room, id: room.id.0 };
        whole_room(site, room).map_err(|error| (key, error))?;
    }
    Ok(())
}

fn whole_room(site: &Site, room: &Room) -> Result<(), EditError> {
    light::room(room)?;
    surface::room(site, room)?;
    self::voice::valid(&room.voice)?;
    plans::room(room)?;
    plans::stories(room)
}

/// No id of an entity, or of a part of it, may stand for anything else in the house.
fn own_ids(site: &Site, entity: &Entity) -> Result<(), EditError> {
    let key = entity.key();
    let mut own = BTreeSet::new();
    let mut twice = None;
    ids_of(entity, &mut |id| {
        if !own.insert(id) {
            twice = Some(id);
        }
    });
    if let Some(id) = twice {
        return Err(field("Id", format!("{id} stands for two things. Give one of them another id.")));
    }
    let mut taken = None;
    ids_in(site, &mut |other, id| {
        if other != key && own.contains(&id) {
            taken = Some(id);
        }
    });
    match taken {
        Some(id) => Err(field("Id", format!("{id} stands for something else in this house. Give it another id."))),
        None => Ok(()),
    }
}

/// The ids that an entity brings along: its own, where it has one, and those of its parts.
pub(crate) fn ids_of(entity: &Entity, see: &mut impl FnMut(Uuid)) {
    let key = entity.key();
    if !key.kind.one_a_room() && key.kind != EntityKind::Picture {
        see(key.id);
    }
    match entity {
        Entity::Profile(e) => ids_of_profile(e, see),
        Entity::Light(e) => {
            let zones = e.zones.iter().map(|zone| zone.id.0);
            let looks = e.looks.iter().map(|look| look.id.0);
            let switches = e.switches.iter().map(|switch| switch.id.0);
            zones.chain(looks).chain(switches).for_each(see);
        }
        Entity::Surface(e) => ids_of_surface(&e.own, see),
        _ => {}
    }
}

fn ids_of_profile(profile: &Profile, see: &mut impl FnMut(Uuid)) {
    profile.inputs.iter().for_each(|input| see(input.id.0));
    profile.outputs.iter().for_each(|output| see(output.id.0));
    profile.functions.iter().for_each(|function| see(function.id.0));
}

fn ids_of_surface(surface: &Surface, see: &mut impl FnMut(Uuid)) {
    surface.pages.iter().for_each(|page| see(page.id.0));
    surface.keys().for_each(|(_, key)| see(key.id.0));
}

/// Every id of a house with the entity that it belongs to.
pub(crate) fn ids_in(site: &Site, see: &mut impl FnMut(EntityKey, Uuid)) {
    use EntityKind as K;
    let of = |kind, id| EntityKey { kind, id };
    see(of(K::House, site.house.id.0), site.house.id.0);
    site.devices.iter().for_each(|e| see(of(K::Device, e.id.0), e.id.0));
    site.connections.iter().for_each(|e| see(of(K::Connection, e.id.0), e.id.0));
    site.codes.iter().for_each(|e| see(of(K::Code, e.id.0), e.id.0));
    site.activities.iter().for_each(|e| see(of(K::Activity, e.id.0), e.id.0));
    site.code_sets.iter().for_each(|e| see(of(K::CodeSet, e.id.0), e.id.0));
    site.measurements.iter().for_each(|e| see(of(K::Measurement, e.id.0), e.id.0));
    site.protocols.iter().for_each(|e| see(of(K::Protocol, e.id.0), e.id.0));
    site.placed.iter().for_each(|e| see(of(K::Placed, e.id.0), e.id.0));
    site.results.iter().for_each(|e| see(of(K::Result, e.id.0), e.id.0));
    site.orders.iter().for_each(|e| see(of(K::Order, e.id.0), e.id.0));
    for profile in &site.profiles {
        let key = of(K::Profile, profile.id.0);
        see(key, profile.id.0);
        ids_of_profile(profile, &mut |id| see(key, id));
    }
    for room in &site.rooms {
        let id = room.id.0;
        see(of(K::Room, id), id);
        let light = &room.lighting;
        light.zones.iter().for_each(|e| see(of(K::Light, id), e.id.0));
        light.looks.iter().for_each(|e| see(of(K::Light, id), e.id.0));
        light.switches.iter().for_each(|e| see(of(K::Light, id), e.id.0));
        light.cues.iter().for_each(|e| see(of(K::Cue, e.id.0), e.id.0));
        room.rehearsal.stories.iter().for_each(|e| see(of(K::Story, e.id.0), e.id.0));
        room.accepted.iter().for_each(|e| see(of(K::Accepted, e.id.0), e.id.0));
        for surface in &room.surfaces {
            let key = of(K::Surface, surface.id.0);
            see(key, surface.id.0);
            ids_of_surface(surface, &mut |id| see(key, id));
        }
    }
}

fn code_set(set: &CodeSet) -> Result<(), EditError> {
    name("Name of the code set", &set.name)?;
    text("Source of the code set", &set.source, NOTE_MAX)?;
    if set.keys.len() > FUNCTIONS_MAX {
        return Err(field("Keys", format!("there are more than {FUNCTIONS_MAX}. Split the set.")));
    }
    set.keys.iter().try_for_each(|key| {
        name("Key", &key.name)?;
        press(&key.press)?;
        body(&key.body)
    })
}

/// A text of several lines that may be empty.
fn text(what: &str, text: &str, most: usize) -> Result<(), EditError> {
    let length = text.chars().count();
    if length > most {
        return Err(field(what, format!("has {length} characters; at most {most} fit. Shorten it.")));
    }
    if text.chars().any(|c| c.is_control() && !matches!(c, '\n' | '\r' | '\t')) {
        return Err(field(what, "holds a control character. Type it again instead of pasting it."));
    }
    Ok(())
}

fn press(press: &Press) -> Result<(), EditError> {
    if !(1..=9).contains(&press.presses) {
        return Err(field("Presses", "is a number from 1 to 9."));
    }
    if press.hold_ms > 30_000 {
        return Err(field("Held for", "is longer than 30 s. A key is held for seconds, not minutes."));
    }
    if !(100..=5_000).contains(&press.gap_ms) {
        return Err(field("Longest pause between presses", "lies between 0.1 and 5 s."));
    }
    Ok(())
}

/// What is sent must be sendable.
fn body(body: &CodeBody) -> Result<(), EditError> {
    match body {
        CodeBody::Radio { code: radio, unit_us } => {
            if let RadioCode::Ook24 { identity, key } = *radio {
                RadioCode::ook24(identity, key).map_err(|error| field("Radio code", error.to_string()))?;
            }
            if !UNITS_US.contains(unit_us) {
                let problem = format!("the short unit is {unit_us} µs; it lies between 150 and 700 µs.");
                return Err(field("Radio code", problem));
            }
        }
        CodeBody::Raw { medium, .. } | CodeBody::Opaque { medium, .. } if !medium.shared() => {
            return Err(field("Code", "timing and opaque payloads are sent by infrared or radio. Choose one of them."));
        }
        CodeBody::Opaque { send_ms, presses, .. } => {
            if send_ms.is_some_and(|ms| !(1..=60_000).contains(&ms)) {
                return Err(field("Measured sending time", "lies between 1 ms and 60 s."));
            }
            if !(1..=9).contains(presses) {
                return Err(field("Presses per send", "is a number from 1 to 9."));
            }
        }
        CodeBody::Ip { command } => {
            command.bytes().map_err(|error| field("Command", error.to_string()))?;
        }
        CodeBody::Raw { .. } | CodeBody::Decoded { .. } => {}
    }
    Ok(())
}

fn device(site: &Site, device: &Device) -> Result<(), EditError> {
    name("Name of the device", &device.name)?;
    site.room(device.room).ok_or(EditError::NoSuch("room"))?;
    site.profile(device.profile).ok_or(EditError::NoSuch("profile"))?;
    if let Some(before) = site.device(device.id)
        && before.profile != device.profile
        && (site.codes.iter().any(|c| c.device == device.id)
            || site.connections.iter().any(|c| c.from_device == device.id || c.to_device == device.id))
    {
        return Err(EditError::InUse(format!(
            "{} has cables or codes of its present profile. Remove them first, or add a new device with the other profile.",
            before.name
        )));
    }
    details(site, device)
}

/// Paths, addresses, records and overrides of a device.
fn details(site: &Site, device: &Device) -> Result<(), EditError> {
    let mut rooms = BTreeSet::new();
    for room in &device.serves {
        site.room(*room).ok_or(EditError::NoSuch("room"))?;
        if !rooms.insert(*room) {
            return Err(field("Serves", "the same room is named twice."));
        }
    }
    let mut media = BTreeSet::new();
    for path in &device.paths {
        if !media.insert(path.medium) {
            return Err(field("Control paths", format!("{} is named twice.", path.medium.name())));
        }
        text("Note of the path", &path.note, NAME_MAX)?;
        if path.tries.lost > path.tries.of {
            let problem = format!("{} of {} presses cannot be lost.", path.tries.lost, path.tries.of);
            return Err(field("Lost presses", problem));
        }
        if let Some(gateway) = path.through {
            site.device(gateway).ok_or(EditError::NoSuch("gateway"))?;
            if gateway == device.id {
                return Err(field("Through", "a device cannot be its own gateway. Choose another one."));
            }
        }
    }
    for (what, value) in [("IP address", &device.network.ip), ("MAC address", &device.network.mac)] {
        text(what, value, NAME_MAX)?;
    }
    for (what, value) in device.records.texts() {
        text(what, value, NOTE_MAX)?;
    }
    if device.records.photos.len() > PHOTOS_MAX {
        return Err(field("Photos", format!("there are more than {PHOTOS_MAX}. Remove some.")));
    }
    for photo in &device.records.photos {
        text("Caption", &photo.caption, NAME_MAX)?;
    }
    plans::behind(site, device)?;
    let model = site.profile(device.profile).ok_or(EditError::NoSuch("profile"))?;
    for (input, reported) in &device.reported {
        if model.input_index(*input).is_none() {
            return Err(EditError::NoSuch("input"));
        }
        text("Reported name", reported, NAME_MAX)?;
    }
    let own = with_overrides(model, &device.overrides);
    if !device.overrides.is_empty() {
        profile(&own)?;
    }
    plans::own_stops_in_use(site, device, &own)?;
    Ok(())
}

fn connection(site: &Site, connection: &Connection) -> Result<(), EditError> {
    let output = site.output(connection.from_device, connection.from_output).ok_or(EditError::NoSuch("output"))?;
    let input = site.input(connection.to_device, connection.to_input).ok_or(EditError::NoSuch("input"))?;
    if connection.from_device == connection.to_device {
        return Err(field("Cable", "leads back into the same device. Choose another device at one end."));
    }
    if output.cable != input.cable {
        return Err(field(
            "Cable",
            format!(
                "{} is {} and {} is {}; the plug does not fit. Choose an input of the same kind.",
                output.name,
                output.cable.name(),
                input.name,
                input.cable.name()
            ),
        ));
    }
    if output.cable == Cable::ReturnAudio {
        return Err(field("Cable", "return audio has no plug of its own: it runs back through an HDMI cable."));
    }
    if connection.return_audio && output.returns.is_none() {
        let problem = format!("{} takes no sound back. Tick return audio only where the output can.", output.name);
        return Err(field("Return audio", problem));
    }
    Ok(())
}

fn code(site: &Site, code: &Code) -> Result<(), EditError> {
    let profile = site.model_of(code.device).ok_or(EditError::NoSuch("device"))?;
    profile.function(code.function).ok_or(EditError::NoSuch("function"))?;
    body(&code.body)?;
    if let Some(tested) = &code.tested {
        text("Note of the test", &tested.note, NOTE_MAX)?;
    }
    Ok(())
}

fn activity(site: &Site, activity: &Activity) -> Result<(), EditError> {
    name("Name of the activity", &activity.name)?;
    site.room(activity.room).ok_or(EditError::NoSuch("room"))?;
    let role = |device: DeviceId, what: &'static str| site.profile_of(device).ok_or(EditError::NoSuch(what));
    if !role(activity.source, "source")?.kind.plays() {
        return Err(field("Source", format!("{} plays nothing. Choose a source.", site.device_name(activity.source))));
    }
    if let Some(device) = activity.seen_on
        && !role(device, "display")?.kind.shows()
    {
        return Err(field("Seen on", format!("{} shows no picture. Choose a display.", site.device_name(device))));
    }
    if let Some(device) = activity.heard_on
        && !role(device, "sound device")?.kind.sounds()
    {
        return Err(field("Heard on", format!("{} makes no sound. Choose another device.", site.device_name(device))));
    }
    if activity.seen_on.is_none() && activity.heard_on.is_none() {
        return Err(field("Seen on", "nothing is seen or heard. Choose where, or both."));
    }
    let mut moved = BTreeSet::new();
    for movement in &activity.moves {
        let profile = role(movement.device, "moving device")?;
        if profile.motion.is_none() {
            return Err(field("Moves", format!("{} does not move.", site.device_name(movement.device))));
        }
        if matches!(movement.to, Position::Stop(at) if usize::from(at) >= profile.stops.len()) {
            let name = site.device_name(movement.device);
            return Err(field("Moves", format!("{name} has no such stop. Choose another position.")));
        }
        if !moved.insert(movement.device) {
            return Err(field("Moves", format!("{} is named twice.", site.device_name(movement.device))));
        }
    }
    plans::extras(site, activity)
}

fn profile(profile: &Profile) -> Result<(), EditError> {
    name("Maker", &profile.maker)?;
    name("Model", &profile.model)?;
    profile.optics.as_deref().map_or(Ok(()), space::optics)?;
    if profile.inputs.len() > INPUTS_MAX || profile.outputs.len() > INPUTS_MAX {
        return Err(field("Inputs", format!("there are more than {INPUTS_MAX}. Remove some.")));
    }
    if profile.functions.len() > FUNCTIONS_MAX {
        return Err(field("Functions", format!("there are more than {FUNCTIONS_MAX}. Remove some.")));
    }
    let names: [(&str, Vec<&str>); 3] = [
        ("Input", profile.inputs.iter().map(|i| i.name.as_str()).collect()),
        ("Output", profile.outputs.iter().map(|o| o.name.as_str()).collect()),
        ("Function", profile.functions.iter().map(|f| f.name.as_str()).collect()),
    ];
    for (what, names) in names {
        for (at, own) in names.iter().enumerate() {
            name(what, own)?;
            unique(what, own, names[..at].iter().copied())?;
        }
    }
    let ids: BTreeSet<_> = profile.functions.iter().map(|f| f.id).collect();
    if ids.len() != profile.functions.len() {
        return Err(field("Functions", "two of them have the same id."));
    }
    for function in &profile.functions {
        press(&function.press)?;
        if function.frames.is_some_and(|frames| !(1..=100).contains(&frames)) {
            return Err(field("Frames in a row", "is a number from 1 to 100."));
        }
        if let Some(sends) = &function.answers_to {
            body(sends)?;
        }
    }
    sockets(profile)?;
    comforts(profile)?;
    plans::contradictions(profile)?;
    for (key, part) in profile.keys().into_iter().chain(profile.comfort_keys()) {
        if !ids.contains(&key) {
            return Err(field(
                "Functions",
                format!("the key for “{part}” is missing. Add the function or choose another key."),
            ));
        }
    }
    spans(profile)
}

/// Inputs and outputs: sound that comes back, the input after power-on, and whether one can be chosen.
fn sockets(profile: &Profile) -> Result<(), EditError> {
    for output in &profile.outputs {
        if let Some(input) = output.returns
            && profile
                .inputs
                .iter()
                .find(|known| known.id == input)
                .is_none_or(|known| known.cable != Cable::ReturnAudio)
        {
            return Err(field(
                "Return audio",
                format!("{} returns to no input of the kind return audio.", output.name),
            ));
        }
    }
    if let AfterPowerOn::Fixed { id } = profile.after_power_on
        && profile.input_index(id).is_none()
    {
        return Err(field("Input after power-on", "is not one of the inputs. Choose another one."));
    }
    if profile.selection != Selection::None && profile.inputs.is_empty() {
        return Err(field(
            "Inputs",
            "there is a way to choose an input but no input. Add one, or set the selection to none.",
        ));
    }
    Ok(())
}

/// Volume, settings, apps and feedback.
fn comforts(profile: &Profile) -> Result<(), EditError> {
    if let Some(volume) = &profile.volume {
        if volume.ceiling > volume.range || volume.after_power_on.is_some_and(|value| value > volume.range) {
            return Err(field(
                "Volume",
                format!("the ceiling and the start value lie between 0 and {}.", volume.range),
            ));
        }
        if volume.step_tenths == 0 || volume.range == 0 {
            return Err(field("Volume", "the step and the range are more than 0."));
        }
    }
    if let Some(skips) = &profile.skips
        && ![skips.back_s, skips.forward_s].iter().all(|seconds| (1..=600).contains(seconds))
    {
        return Err(field("Jumps", "one press jumps 1 to 600 s."));
    }
    if profile.modes.len() > INPUTS_MAX || profile.apps.len() > FUNCTIONS_MAX || profile.offers.len() > 8 {
        return Err(field("Profile", "has too many settings, apps or control paths. Remove some."));
    }
    let media: BTreeSet<_> = profile.offers.iter().map(|offer| offer.medium).collect();
    if media.len() != profile.offers.len() {
        return Err(field("Control paths", "one of them is named twice."));
    }
    for mode in &profile.modes {
        name("Setting", &mode.name)?;
        mode.values.iter().try_for_each(|value| name("Value of a setting", &value.name))?;
    }
    for app in &profile.apps {
        name("App", &app.name)?;
        if let Reach::Digits { number } = &app.reach
            && (!(1..=6).contains(&number.len()) || !number.bytes().all(|b| b.is_ascii_digit()))
        {
            return Err(field("Channel", format!("“{}” is no channel number of 1 to 6 digits.", app.name)));
        }
    }
    if let Feedback::Poll { every_ms, time_out_ms, .. } = profile.feedback
        && (!(100..=600_000).contains(&every_ms) || time_out_ms > every_ms)
    {
        return Err(field(
            "Feedback",
            "is asked for every 0.1 s to 10 min, and an answer comes before the next question.",
        ));
    }
    Ok(())
}

fn spans(profile: &Profile) -> Result<(), EditError> {
    let times = &profile.times;
    let mut spans: Vec<(&str, Span)> = vec![
        ("Warm-up", times.warm_up),
        ("Picture", times.picture),
        ("Cool-down", times.cool_down),
        ("Input change", times.input),
        ("Digits", times.digits),
    ];
    if let Power::Follows { delay } = profile.power {
        spans.push(("Delay", delay));
    }
    if let Some(motion) = &profile.motion {
        spans.extend([("Travel up", motion.travel_up), ("Travel down", motion.travel_down)]);
        if motion.reversal_ms > 60_000 {
            return Err(field("Pause before reversal", "is longer than a minute."));
        }
    }
    if let Some(standby) = profile.auto_standby
        && (standby.lo_ms > standby.hi_ms || standby.hi_ms > 86_400_000)
    {
        return Err(field("Switches itself off", "the shortest time stands first, and it is at most a day."));
    }
    if let Selection::Menu { closes_after, .. } = profile.selection {
        spans.push(("List closes after", closes_after));
        if closes_after.lo_ms <= times.gap_ms {
            return Err(field(
                "List closes after",
                "must be longer than the pause between commands, or no entry can ever be chosen.",
            ));
        }
    }
    for (what, span) in spans {
        if span.lo_ms > span.hi_ms {
            return Err(field(
                what,
                format!("{} ms is more than {} ms; the shortest time stands first.", span.lo_ms, span.hi_ms),
            ));
        }
        if span.hi_ms > SPAN_MAX_MS {
            return Err(field(
                what,
                "is longer than 10 minutes. Times are in seconds on the screen and in ms in the API.",
            ));
        }
    }
    if times.gap_ms > 60_000 {
        return Err(field("Pause after a command", "is longer than a minute."));
    }
    Ok(())
}

/// Checks that an entity may be removed.
pub(super) fn remove(site: &Site, entity: &Entity) -> Result<(), EditError> {
    let users = |names: Vec<&str>| names.join(", ");
    match entity {
        Entity::House(_) => Err(EditError::InUse("A house cannot be removed from inside.".to_owned())),
        Entity::Room(room) => {
            let inside = |device: &&Device| device.room == room.id || device.serves(room.id);
            let devices: Vec<&str> = site.devices.iter().filter(inside).map(|d| d.name.as_str()).collect();
            let activities: Vec<&str> =
                site.activities.iter().filter(|a| a.room == room.id).map(|a| a.name.as_str()).collect();
            if devices.is_empty() && activities.is_empty() {
                return Ok(());
            }
            let what = users(devices.into_iter().chain(activities).collect());
            Err(EditError::InUse(format!("{} still holds {what}. Remove or move them first.", room.name)))
        }
        Entity::Profile(profile) => {
            let devices: Vec<&str> =
                site.devices.iter().filter(|d| d.profile == profile.id).map(|d| d.name.as_str()).collect();
            if devices.is_empty() {
                return Ok(());
            }
            let what = users(devices);
            Err(EditError::InUse(format!(
                "{} {} is the profile of {what}. Remove them first.",
                profile.maker, profile.model
            )))
        }
        Entity::Device(device) => remove_device(site, device),
        Entity::Picture(picture) => {
            let shows = |surface: &&Surface| surface.keys().any(|(_, key)| key.picture == Some(picture.id));
            let on: Vec<&str> = site
                .rooms
                .iter()
                .flat_map(|room| &room.surfaces)
                .filter(shows)
                .map(|surface| surface.name.as_str())
                .collect();
            if on.is_empty() {
                return Ok(());
            }
            Err(EditError::InUse(format!("{} shows this picture. Choose another one there first.", users(on))))
        }
        _ => Ok(()),
    }
}

fn remove_device(site: &Site, device: &Device) -> Result<(), EditError> {
    let users = |names: Vec<&str>| names.join(", ");
    let uses = |a: &&Activity| {
        a.source == device.id
            || a.seen_on == Some(device.id)
            || a.heard_on == Some(device.id)
            || a.moves.iter().any(|m| m.device == device.id)
            || plans::lights(a, device.id)
    };
    let activities: Vec<&str> = site.activities.iter().filter(uses).map(|a| a.name.as_str()).collect();
    let through = |known: &&Device| known.paths.iter().any(|path| path.through == Some(device.id));
    let reached: Vec<&str> = site.devices.iter().filter(through).map(|d| d.name.as_str()).collect();
    if !activities.is_empty() {
        let what = users(activities);
        return Err(EditError::InUse(format!("{} is part of {what}. Choose another device there first.", device.name)));
    }
    if !reached.is_empty() {
        let what = users(reached);
        return Err(EditError::InUse(format!(
            "{} is the gateway of {what}. Choose another one there first.",
            device.name
        )));
    }
    Ok(())
}
