//! What a key does at this moment, whether it is lit, and why it would do nothing: the same for the runtime, the page
//! on a phone and the workbench.

use super::bar::Bar;
use crate::id::{ActivityId, DeviceId, FunctionId, InputId, KeyId, LookId, PageId, RoomId, SwitchId, ZoneId};
use crate::model::{
    Activity, Does, Favourite, Gesture, Held, Lit, LoudUnit, Shortcut, Site, Situation, Surface, SurfaceKey,
    SurfacePage,
};
use crate::plan::favourite::{self, FavouriteStep};
use serde::Serialize;
use std::collections::{BTreeMap, BTreeSet};
use utoipa::ToSchema;

/// What is known of a room at a moment.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Known {
    /// What it is in; none where it is off, or nobody knows.
    pub activity: Option<ActivityId>,
    /// Is it off?
    pub off: bool,
    /// What it was in before.
    pub before: Option<ActivityId>,
    /// Is a device on? Only where that is known.
    pub on: BTreeMap<DeviceId, bool>,
    /// The input that a device has chosen, where that is known.
    pub input: BTreeMap<DeviceId, InputId>,
    /// What a source runs or receives, where that is known.
    pub app: BTreeMap<DeviceId, String>,
    /// The settings of devices, where they are known: device, setting and value.
    pub modes: BTreeSet<(DeviceId, String, String)>,
    /// Devices whose sound is off.
    pub muted: BTreeSet<DeviceId>,
    /// Mode switches that are on.
    pub switches: BTreeSet<SwitchId>,
    /// The level of each zone, in %.
    pub levels: BTreeMap<ZoneId, f64>,
    /// How loud devices say that they are, in tenths of their scale.
    pub loudness: BTreeMap<DeviceId, u32>,
}

/// What has to be done for one press.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum PressDoes {
    /// A macro.
    Run {
        /// Where to.
        to: Situation,
    },
    /// Everything stops.
    Stop,
    /// Commands, one after the other.
    Send {
        /// To which device.
        device: DeviceId,
        /// Which.
        function: FunctionId,
        /// How often.
        times: u8,
    },
    /// Steps of volume.
    Nudge {
        /// Of which device.
        device: DeviceId,
        /// Steps.
        steps: i8,
    },
    /// Keys at their times.
    Steps {
        /// Which.
        steps: Vec<FavouriteStep>,
    },
    /// The whole house.
    Rest,
    /// A look.
    Look {
        /// Which.
        look: LookId,
    },
    /// A mode switch.
    Set {
        /// Which.
        switch: SwitchId,
        /// On?
        on: bool,
    },
    /// Another page is shown.
    Turn {
        /// Which.
        page: PageId,
    },
}

/// A gesture and what it does now.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct Meaning {
    /// The gesture.
    pub gesture: Gesture,
    /// What it does, in words.
    pub words: String,
    /// What happens while the key stays down.
    pub held: Held,
    /// The page that it turns to.
    pub page: Option<PageId>,
    /// Why nothing would happen, for whoever presses; none where something does.
    pub barred: Option<String>,
}

/// A key at this moment.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct KeyNow {
    /// Which.
    pub key: KeyId,
    /// What its gestures do.
    pub meanings: Vec<Meaning>,
    /// Is it lit?
    pub lit: bool,
    /// For a key that does one of two things: which one, in a word.
    pub way: Option<String>,
}

/// Every key of a page at this moment.
#[must_use]
pub fn page(site: &Site, room: RoomId, surface: &Surface, page: &SurfacePage, known: &Known) -> Vec<KeyNow> {
    page.keys.iter().map(|own| key(site, room, surface, own, known)).collect()
}

/// A key at this moment.
#[must_use]
pub fn key(site: &Site, room: RoomId, surface: &Surface, key: &SurfaceKey, known: &Known) -> KeyNow {
    let meanings = Gesture::ALL.into_iter().filter_map(|gesture| {
        let binding = key.binding(gesture, known.activity)?;
        let page = match binding.does {
            Does::Page { page } => Some(page),
            _ => None,
        };
        let barred = deed(site, room, &binding.does, known).err().map(|bar| bar.plainly(site));
        let words = words(site, room, Some(surface), &binding.does);
        Some(Meaning { gesture, words, held: binding.held, page, barred })
    });
    let way = key.binding(Gesture::Tap, known.activity).and_then(|binding| way(&binding.does, known));
    let lit = key.lit.as_ref().is_some_and(|lit| is_lit(site, room, lit, known));
    KeyNow { key: key.id, meanings: meanings.collect(), lit, way }
}

/// Which of two things it does now.
fn way(does: &Does, known: &Known) -> Option<String> {
    let (on, off) = match does {
        Does::Power { device } => {
            let on = known.on.get(device)?;
            return Some(if *on { "off" } else { "on" }.to_owned());
        }
        Does::Switch { switch, on: None } => (!known.switches.contains(switch), ("on", "off")),
        _ => return None,
    };
    Some(if on { off.0 } else { off.1 }.to_owned())
}

/// Is a key lit?
#[must_use]
pub fn is_lit(site: &Site, room: RoomId, lit: &Lit, known: &Known) -> bool {
    match lit {
        Lit::Activity { activity } => known.activity == Some(*activity),
        Lit::Off => known.off,
        Lit::On { device } => known.on.get(device) == Some(&true),
        Lit::Input { device, input } => known.input.get(device) == Some(input),
        Lit::App { device, name } => {
            known.on.get(device) != Some(&false) && known.app.get(device).is_some_and(|app| app == name)
        }
        Lit::Mode { device, mode, value } => known.modes.contains(&(*device, mode.clone(), value.clone())),
        Lit::Switch { switch } => known.switches.contains(switch),
        Lit::Look { look } => {
            let look = site.room(room).and_then(|room| room.lighting.look(*look));
            look.is_some_and(|look| {
                !look.levels.is_empty()
                    && look.levels.iter().all(|level| {
                        known.levels.get(&level.zone).is_some_and(|at| (at - f64::from(level.percent)).abs() < 1.0)
                    })
            })
        }
        Lit::Level { zone, above_percent } => known.levels.get(zone).is_some_and(|at| *at > f64::from(*above_percent)),
        Lit::Muted => sounds(site, known.activity).is_some_and(|device| known.muted.contains(&device)),
    }
}

/// The device that makes the sound of an activity.
#[must_use]
pub fn sounds(site: &Site, activity: Option<ActivityId>) -> Option<DeviceId> {
    site.activity(activity?)?.heard_on
}

/// What has to be done, or why nothing can be.
///
/// # Errors
/// Why.
pub fn deed(site: &Site, room: RoomId, does: &Does, known: &Known) -> Result<PressDoes, Bar> {
    let own = |id: &ActivityId| site.activity(*id).filter(|activity| activity.room == room);
    match does {
        Does::Activity { activity } => match own(activity) {
            Some(_) => Ok(PressDoes::Run { to: Situation::In { activity: *activity } }),
            None => Err(Bar::Gone { what: "activity" }),
        },
        Does::RoomOff => Ok(PressDoes::Run { to: Situation::Off }),
        Does::StopAll => Ok(PressDoes::Stop),
        Does::Before => match known.before.as_ref().and_then(own) {
            Some(activity) => Ok(PressDoes::Run { to: Situation::In { activity: activity.id } }),
            None => Err(Bar::NothingBefore),
        },
        Does::Command { device, function, times } => {
            sendable(site, *device, *function)?;
            awake(site, *device, *function, known)?;
            Ok(PressDoes::Send { device: *device, function: *function, times: *times })
        }
        Does::HouseRest => Ok(PressDoes::Rest),
        Does::Volume { .. } | Does::Mute | Does::Power { .. } | Does::Jump { .. } => on_device(site, does, known),
        Does::Look { look } => match site.room(room).and_then(|room| room.lighting.look(*look)) {
            Some(_) => Ok(PressDoes::Look { look: *look }),
            None => Err(Bar::Gone { what: "look" }),
        },
        Does::Switch { switch, on } => match site.room(room).and_then(|room| room.lighting.switch(*switch)) {
            Some(_) => Ok(PressDoes::Set { switch: *switch, on: on.unwrap_or(!known.switches.contains(switch)) }),
            None => Err(Bar::Gone { what: "mode switch" }),
        },
        Does::Page { page } => Ok(PressDoes::Turn { page: *page }),
        Does::App { device, name } => {
            let activity = site.activities.iter().find(|activity| activity.room == room && activity.source == *device);
            let activity = activity.ok_or(Bar::Unused { device: *device })?;
            let shortcut = Favourite { name: name.clone(), does: Shortcut::App { name: name.clone() } };
            steps(site, activity, &shortcut, known)
        }
        Does::Favourite { name } => {
            let activity = known.activity.as_ref().and_then(own).ok_or(Bar::NothingPlays)?;
            let found = activity.extras.favourites.iter().find(|favourite| favourite.name == *name);
            let found = found.ok_or_else(|| Bar::NotOf { favourite: name.clone(), activity: activity.id })?;
            if let Shortcut::Volume { steps } = &found.does {
                return deed(site, room, &Does::Volume { device: None, steps: *steps, unit: LoudUnit::Steps }, known);
            }
            steps(site, activity, found, known)
        }
    }
}

/// A key of one device that depends on what it is doing: louder, silent, on or off.
fn on_device(site: &Site, does: &Does, known: &Known) -> Result<PressDoes, Bar> {
    match does {
        Does::Volume { device, steps, unit } => {
            let device = device.or_else(|| sounds(site, known.activity)).ok_or(Bar::NothingPlays)?;
            let volume = site.profile_of(device).and_then(|profile| profile.volume);
            let volume = volume.ok_or(Bar::NoKeys { device, what: "volume keys" })?;
            let steps = volume.presses(*steps, *unit).ok_or(Bar::NoKeys { device, what: "scale in decibels" })?;
            let function = if steps > 0 { volume.up } else { volume.down };
            sendable(site, device, function)?;
            awake(site, device, function, known)?;
            Ok(PressDoes::Nudge { device, steps })
        }
        Does::Mute => {
            let device = sounds(site, known.activity).ok_or(Bar::NothingPlays)?;
            let mute = site.profile_of(device).and_then(|profile| profile.volume).and_then(|volume| volume.mute);
            let [silent, back] = mute.ok_or(Bar::NoKeys { device, what: "such key" })?.keys();
            let function = if known.muted.contains(&device) { back } else { silent };
            sendable(site, device, function)?;
            awake(site, device, function, known)?;
            Ok(PressDoes::Send { device, function, times: 1 })
        }
        Does::Jump { device, seconds } => {
            let source = known.activity.and_then(|id| site.activity(id)).map(|own| own.source);
            let device = device.or(source).ok_or(Bar::NothingPlays)?;
            let skips = site.profile_of(device).and_then(|profile| profile.skips);
            let skips = skips.ok_or(Bar::NoKeys { device, what: "keys of which it is known how far they jump" })?;
            let (function, times) = skips.presses(*seconds);
            sendable(site, device, function)?;
            awake(site, device, function, known)?;
            Ok(PressDoes::Send { device, function, times })
        }
        Does::Power { device } => {
            let keys = site.profile_of(*device).and_then(|profile| profile.power_keys());
            let (on, off) = keys.ok_or(Bar::NoKeys { device: *device, what: "power keys" })?;
            let is_on = known.on.get(device);
            let is_on = is_on.ok_or(Bar::Unsure { device: *device })?;
            let function = if *is_on { off } else { on };
            sendable(site, *device, function)?;
            Ok(PressDoes::Send { device: *device, function, times: 1 })
        }
        _ => Err(Bar::Gone { what: "key" }),
    }
}

fn steps(site: &Site, activity: &Activity, favourite: &Favourite, known: &Known) -> Result<PressDoes, Bar> {
    let plan = favourite::of(site, activity, favourite);
    if !plan.works {
        return Err(Bar::NoShortcut { device: activity.source, why: plan.note });
    }
    for step in &plan.steps {
        sendable(site, step.device, step.function)?;
        awake(site, step.device, step.function, known)?;
    }
    Ok(PressDoes::Steps { steps: plan.steps })
}

/// Is there a code, and a way for it?
///
/// # Errors
/// Why not.
pub fn sendable(site: &Site, device: DeviceId, function: FunctionId) -> Result<(), Bar> {
    let Some(code) = site.code(device, function) else { return Err(Bar::NoCode { device, function }) };
    let medium = code.body.medium();
    let reached = site.paths_of(device).iter().any(|path| path.medium == medium);
    if reached { Ok(()) } else { Err(Bar::NoWay { device, function }) }
}

/// A device that is known to be off hears nothing but what wakes it.
fn awake(site: &Site, device: DeviceId, function: FunctionId, known: &Known) -> Result<(), Bar> {
    if known.on.get(&device) != Some(&false) {
        return Ok(());
    }
    let Some(profile) = site.profile_of(device) else { return Ok(()) };
    let wakes = profile.power_keys().is_some_and(|(on, _)| on == function) || profile.wake_keys.contains(&function);
    if wakes || profile.motion.is_some() { Ok(()) } else { Err(Bar::Off { device }) }
}

/// Everything in the house that moves, by name.
#[must_use]
pub fn house_moves(site: &Site) -> Vec<String> {
    site.devices.iter().filter(|own| site.moves(own.id)).map(|own| own.name.clone()).collect()
}

/// What a key does, in words of whoever lives there.
#[must_use]
pub fn words(site: &Site, room: RoomId, surface: Option<&Surface>, does: &Does) -> String {
    let device = |id: DeviceId| site.device_name(id);
    let lighting = site.room(room).map(|room| &room.lighting);
    match does {
        Does::Activity { activity } => {
            site.activity(*activity).map_or_else(|| "nothing any more".to_owned(), |a| a.name.clone())
        }
        Does::RoomOff => "finish: everything goes off".to_owned(),
        Does::StopAll => "stops what is moving".to_owned(),
        Does::Before => "back to what was on before".to_owned(),
        Does::Command { device: id, function, times: 1 } => {
            format!("{} “{}”", device(*id), site.function_name(*id, *function))
        }
        Does::Command { device: id, function, times } => {
            format!("{} “{}” {times} times", device(*id), site.function_name(*id, *function))
        }
        Does::HouseRest => {
            let moving = house_moves(site);
            let keep =
                if moving.is_empty() { String::new() } else { format!(" {} may move: keep clear.", moving.join(", ")) };
            format!("everything in the house goes off, ways out stay lit.{keep}")
        }
        Does::Jump { seconds, .. } => {
            format!("{} s {}", seconds.unsigned_abs(), if *seconds < 0 { "back" } else { "on" })
        }
        Does::Volume { device: id, steps, unit } => {
            let way = if *steps > 0 { "louder" } else { "softer" };
            let who = id.map_or_else(|| "what sounds".to_owned(), device);
            format!("{who} {way} by {}", unit.amount(*steps))
        }
        Does::Mute => "silent, and back".to_owned(),
        Does::Look { look } => {
            let name =
                lighting.and_then(|light| light.look(*look)).map_or("one that is gone", |look| look.name.as_str());
            format!("light as in {name}")
        }
        Does::Switch { switch, on } => {
            let name =
                lighting.and_then(|light| light.switch(*switch)).map_or("a switch that is gone", |s| s.name.as_str());
            match on {
                Some(true) => format!("{name} on"),
                Some(false) => format!("{name} off"),
                None => format!("{name} on or off"),
            }
        }
        Does::Page { page } => {
            let name = surface.and_then(|surface| surface.pages.iter().find(|known| known.id == *page));
            format!("page {}", name.map_or("that is gone", |page| page.name.as_str()))
        }
        Does::App { device: id, name } => format!("{name} on {}", device(*id)),
        Does::Favourite { name } => name.clone(),
        Does::Power { device: id } => format!("{} on or off", device(*id)),
    }
}
