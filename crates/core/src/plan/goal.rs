//! What every device of a room has to be for an activity, read from the wiring.

use crate::device::{Target, Timed, timed};
use crate::finding::Finding;
use crate::id::{DeviceId, InputId, RoomId};
use crate::model::{
    Activity, Device, FindingKind, MODES, Position, Power, Profile, Selection, Setting, Site, Situation,
};
use crate::plan::Start;
use crate::wiring::{Hop, PathSignal, path};
use serde::Serialize;
use std::collections::BTreeMap;
use utoipa::ToSchema;

/// What a device has to be.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct DeviceGoal {
    /// The device.
    pub device: DeviceId,
    /// On or off; none where it does not matter.
    pub on: Option<bool>,
    /// The input it has to show.
    pub input: Option<InputId>,
    /// Where it has to stand.
    pub position: Option<Position>,
    /// The goal in words, such as “on, input Disc”.
    pub wish: String,
    /// Why, in a sentence.
    pub why: String,
    /// Do picture or sound hang on it?
    pub needed: bool,
    /// Has it to sound, rather than be silenced?
    pub sounds: bool,
    /// What it has to run or receive, by its name in the profile.
    pub app: Option<String>,
    /// Its settings.
    pub settings: Vec<Setting>,
    /// How loud it has to be, on its scale.
    pub volume: Option<u32>,
}

impl DeviceGoal {
    /// Nothing is wanted of it.
    fn open(device: DeviceId) -> Self {
        Self {
            device,
            on: None,
            input: None,
            position: None,
            wish: String::new(),
            why: String::new(),
            needed: false,
            sounds: false,
            app: None,
            settings: vec![],
            volume: None,
        }
    }

    /// The goal in the terms of the device's machine.
    #[must_use]
    pub fn target(&self, profile: &Profile) -> Target {
        let small = |index: Option<usize>| index.and_then(|index| u8::try_from(index).ok());
        let index = self.input.and_then(|input| profile.input_index(input));
        let mutes = profile.volume.is_some_and(|volume| volume.mute.is_some());
        let mut modes = [None; MODES];
        for setting in &self.settings {
            let Some((at, mode)) = mode_of(profile, &setting.mode) else { continue };
            modes[at] = small(mode.values.iter().position(|value| value.name == setting.value));
        }
        let app = self.app.as_ref().and_then(|name| profile.apps.iter().position(|app| app.name == *name));
        Target {
            on: self.on,
            input: small(index),
            position: self.position,
            muted: (self.sounds && mutes).then_some(false),
            modes,
            app: small(app).map(|app| app + 1),
        }
    }
}

/// A setting that is followed, by its name.
fn mode_of<'a>(profile: &'a Profile, name: &str) -> Option<(usize, &'a crate::model::Mode)> {
    profile.modes.iter().enumerate().take(MODES).find(|(_, mode)| mode.name == name)
}

/// Goals, paths, and what was found on the way.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Goals {
    /// Device by device, in the order of the room.
    pub devices: Vec<DeviceGoal>,
    /// The cables of the picture.
    pub video: Vec<Hop>,
    /// The cables of the sound.
    pub audio: Vec<Hop>,
    /// What stands in the way.
    pub findings: Vec<Finding>,
}

/// What the devices of `room` have to be for `to`. Nothing is wanted of an unknown situation.
#[must_use]
pub fn goals(site: &Site, room: RoomId, to: Situation) -> Goals {
    let mut goals = Goals { devices: vec![], video: vec![], audio: vec![], findings: vec![] };
    let activity = match to {
        Situation::Unknown => return goals,
        Situation::Off => None,
        Situation::In { activity } => match site.activity(activity) {
            Some(found) if found.room == room => Some(found),
            _ => {
                goals.findings.push(Finding::of(site, FindingKind::NoActivity));
                return goals;
            }
        },
    };
    let mut wanted: BTreeMap<DeviceId, DeviceGoal> = BTreeMap::new();
    if let Some(activity) = activity {
        wire(site, activity, &mut goals, &mut wanted);
    }
    for device in site.devices_in(room) {
        let Some(profile) = site.profile_of(device.id) else { continue };
        let mut goal = wanted.remove(&device.id).unwrap_or_else(|| rest(site, device, &profile, activity));
        goal.wish = wish(site, &goal);
        goals.devices.push(goal);
    }
    goals
}

/// What every device of the house has to be for all rooms to be off but those excepted. A device that
/// serves a room that stays on is left as it is.
#[must_use]
pub fn house(site: &Site, except: &[RoomId]) -> Goals {
    let mut goals = Goals { devices: vec![], video: vec![], audio: vec![], findings: vec![] };
    for device in &site.devices {
        let Some(profile) = site.profile_of(device.id) else { continue };
        let stays: Vec<&str> = device
            .rooms()
            .iter()
            .filter(|room| except.contains(room))
            .filter_map(|&room| site.room(room))
            .map(|room| room.name.as_str())
            .collect();
        let mut goal = DeviceGoal {
            on: (switched(&profile) && stays.is_empty()).then_some(false),
            position: (profile.motion.is_some() && stays.is_empty()).then_some(Position::Up),
            why: if stays.is_empty() {
                "The house is off.".to_owned()
            } else {
                format!("{} stays as it is.", stays.join(" and "))
            },
            needed: stays.is_empty(),
            ..DeviceGoal::open(device.id)
        };
        goal.wish = wish(site, &goal);
        goals.devices.push(goal);
    }
    goals
}

/// What an activity wants of the devices on its paths and of what moves for it.
fn wire(site: &Site, activity: &Activity, goals: &mut Goals, wanted: &mut BTreeMap<DeviceId, DeviceGoal>) {
    let need =
        |device: DeviceId, why: String| DeviceGoal { on: Some(true), needed: true, why, ..DeviceGoal::open(device) };
    wanted.insert(activity.source, need(activity.source, format!("It plays {}.", activity.name)));
    let ends = [(PathSignal::Video, activity.seen_on, "picture"), (PathSignal::Audio, activity.heard_on, "sound")];
    for (signal, sink, what) in ends {
        let Some(sink) = sink else { continue };
        let Some(hops) = path(site, activity.source, sink, signal) else {
            let picture = signal == PathSignal::Video;
            let kind = FindingKind::NoPath { activity: activity.id, source: activity.source, sink, picture };
            goals.findings.push(Finding::of(site, kind));
            wanted.entry(sink).or_insert_with(|| need(sink, format!("{} is to be there.", activity.name)));
            continue;
        };
        for hop in &hops {
            let why = format!(
                "The {what} comes from {} into {}.",
                site.device_name(hop.from),
                site.input(hop.to, hop.input).map_or_else(String::new, |input| input.name.clone())
            );
            let goal = wanted.entry(hop.to).or_insert_with(|| need(hop.to, why));
            match goal.input {
                Some(input) if input != hop.input => {
                    let kind = FindingKind::TwoInputs { activity: activity.id, device: hop.to };
                    goals.findings.push(Finding::of(site, kind));
                }
                _ => goal.input = Some(hop.input),
            }
        }
        match signal {
            PathSignal::Video => goals.video = hops,
            PathSignal::Audio => goals.audio = hops,
        }
    }
    if let Some(goal) = activity.heard_on.and_then(|device| wanted.get_mut(&device)) {
        goal.sounds = true;
        goal.volume = activity.extras.volume;
    }
    if let Some(goal) = wanted.get_mut(&activity.source) {
        goal.app.clone_from(&activity.extras.app);
    }
    for movement in &activity.moves {
        let goal = wanted.entry(movement.device).or_insert_with(|| DeviceGoal {
            on: None,
            why: format!("{} wants it there.", activity.name),
            ..need(movement.device, String::new())
        });
        goal.position = Some(movement.to);
    }
    settings(site, activity, goals, wanted);
    unhide(site, activity, goals, wanted);
    as_they_can(site, activity, goals, wanted);
}

/// Nothing is asked of a device that it cannot do; one that does not serve the room is told.
fn as_they_can(site: &Site, activity: &Activity, goals: &mut Goals, wanted: &mut BTreeMap<DeviceId, DeviceGoal>) {
    for goal in wanted.values_mut() {
        let Some(profile) = site.profile_of(goal.device) else { continue };
        if !switched(&profile) {
            goal.on = None;
        }
        // Where there is nothing to choose, any input shows.
        if profile.selection == Selection::None {
            goal.input = None;
        }
        if site.device(goal.device).is_some_and(|d| !d.serves(activity.room)) {
            let kind = FindingKind::Elsewhere { activity: activity.id, device: goal.device };
            goals.findings.push(Finding::of(site, kind));
        }
    }
}

/// Settings that the activity names, and those that a kind of source wants of what shows and sounds.
fn settings(site: &Site, activity: &Activity, goals: &mut Goals, wanted: &mut BTreeMap<DeviceId, DeviceGoal>) {
    let kind = site.profile_of(activity.source).map(|profile| profile.kind);
    for goal in wanted.values_mut().filter(|goal| goal.on == Some(true)) {
        let Some(profile) = site.profile_of(goal.device) else { continue };
        for mode in profile.modes.iter().take(MODES) {
            let named = activity.extras.settings.iter().find(|s| s.device == goal.device && s.mode == mode.name);
            let by_kind = || mode.values.iter().find(|value| kind.is_some_and(|kind| value.for_kinds.contains(&kind)));
            let value =
                named.map(|setting| setting.value.clone()).or_else(|| by_kind().map(|value| value.name.clone()));
            if let Some(value) = value {
                goal.settings.push(Setting { device: goal.device, mode: mode.name.clone(), value });
            }
        }
    }
    for setting in &activity.extras.settings {
        let goal = wanted.get(&setting.device).filter(|goal| goal.on == Some(true));
        let profile = site.profile_of(setting.device);
        let known = profile.as_ref().and_then(|profile| mode_of(profile, &setting.mode));
        let known = known.is_some_and(|(_, mode)| mode.values.iter().any(|value| value.name == setting.value));
        if goal.is_none() || !known {
            let (mode, value) = (setting.mode.clone(), setting.value.clone());
            let kind =
                FindingKind::SettingLeftOut { activity: activity.id, device: setting.device, mode, value, known };
            goals.findings.push(Finding::of(site, kind));
        }
    }
    if let Some(app) = &activity.extras.app {
        let runs = site.profile_of(activity.source).is_some_and(|profile| profile.apps.iter().any(|a| a.name == *app));
        if !runs {
            let (source, app) = (activity.source, app.clone());
            goals.findings.push(Finding::of(site, FindingKind::NoSuchApp { activity: activity.id, source, app }));
        }
    }
}

/// What hides a display that is to be seen goes up.
fn unhide(site: &Site, activity: &Activity, goals: &mut Goals, wanted: &mut BTreeMap<DeviceId, DeviceGoal>) {
    let Some((seen, screen)) = activity.seen_on.and_then(|seen| Some((seen, site.device(seen)?.behind?))) else {
        return;
    };
    match wanted.get(&screen).and_then(|goal| goal.position) {
        // At a stop it may hide what stands behind it as well: nobody has measured that yet.
        Some(Position::Down | Position::Stop(_)) => {
            let kind = FindingKind::Hidden { activity: activity.id, display: seen, screen };
            goals.findings.push(Finding::of(site, kind));
        }
        Some(Position::Up) => {}
        None => {
            let goal = DeviceGoal {
                position: Some(Position::Up),
                needed: true,
                why: format!("{} stands behind it.", site.device_name(seen)),
                ..DeviceGoal::open(screen)
            };
            wanted.insert(screen, goal);
        }
    }
}

/// Is it switched by keys of its own?
fn switched(profile: &Profile) -> bool {
    !matches!(profile.power, Power::AlwaysOn | Power::Follows { .. })
}

/// What is wanted of a device that the activity does not use: off and up. A device that serves other
/// rooms too is left as it is: somebody may be using it there.
fn rest(site: &Site, device: &Device, profile: &Profile, activity: Option<&Activity>) -> DeviceGoal {
    let elsewhere: Vec<&str> = device
        .rooms()
        .iter()
        .filter(|&&room| activity.is_none_or(|activity| activity.room != room))
        .filter_map(|&room| site.room(room))
        .map(|room| room.name.as_str())
        .collect();
    let shared = device.rooms().len() > 1;
    let why = match activity {
        _ if shared => format!("It also serves {}, so it is left as it is.", elsewhere.join(" and ")),
        Some(activity) => format!("{} does not use it.", activity.name),
        None => "The room is off.".to_owned(),
    };
    DeviceGoal {
        on: (switched(profile) && !shared).then_some(false),
        position: (profile.motion.is_some() && !shared).then_some(Position::Up),
        why,
        needed: activity.is_none(),
        ..DeviceGoal::open(device.id)
    }
}

fn wish(site: &Site, goal: &DeviceGoal) -> String {
    let mut words = Vec::new();
    match goal.on {
        Some(true) => words.push("on".to_owned()),
        Some(false) => words.push("off".to_owned()),
        None if goal.position.is_none() => words.push(undemanding(site, goal.device).to_owned()),
        None => {}
    }
    if let Some(input) = goal.input.and_then(|input| site.input(goal.device, input)) {
        words.push(format!("input {}", input.name));
    }
    words.extend(goal.app.clone());
    words.extend(goal.settings.iter().map(|setting| format!("{} {}", setting.mode.to_lowercase(), setting.value)));
    words.extend(goal.volume.map(|volume| format!("volume {volume}")));
    let profile = site.profile_of(goal.device);
    words.extend(goal.position.zip(profile).map(|(position, profile)| profile.position_words(position)));
    words.join(", ")
}

/// How a device is called of which neither power nor position is wanted.
fn undemanding(site: &Site, device: DeviceId) -> &'static str {
    match site.profile_of(device).map(|profile| profile.power) {
        Some(Power::Follows { .. }) => "follows",
        Some(Power::AlwaysOn) => "always on",
        _ => "as it is",
    }
}

/// What any activity of the room cares about in each device: the components of its states that are
/// followed. Only whether a component is there counts, not its value.
#[must_use]
pub fn interests(site: &Site, room: RoomId) -> BTreeMap<DeviceId, Target> {
    let mut interests: BTreeMap<DeviceId, Target> = BTreeMap::new();
    for activity in site.activities.iter().filter(|activity| activity.room == room) {
        for goal in goals(site, room, Situation::In { activity: activity.id }).devices {
            let Some(profile) = site.profile_of(goal.device) else { continue };
            let own = goal.target(&profile);
            let all = interests.entry(goal.device).or_default();
            all.muted = all.muted.or(own.muted);
            all.app = all.app.or(own.app);
            for (known, own) in all.modes.iter_mut().zip(own.modes) {
                *known = known.or(own);
            }
        }
    }
    interests
}

/// What the devices of `room` may be in, in a named situation: every settled state that meets its goals; in
/// an unknown one everything, and anything under way.
#[must_use]
pub fn start(site: &Site, room: RoomId, from: Situation) -> Start {
    let interests = interests(site, room);
    let interest = |device: DeviceId| interests.get(&device).copied().unwrap_or_default();
    if from == Situation::Unknown {
        let machines = site.devices_in(room).filter_map(|device| Some((device.id, site.automaton(device.id)?)));
        return machines
            .map(|(device, machine)| (device, timed::anything(&machine, &interest(device)).into_iter().collect()))
            .collect();
    }
    goals(site, room, from)
        .devices
        .iter()
        .filter_map(|goal| {
            let automaton = site.automaton(goal.device)?;
            let target = goal.target(automaton.profile());
            let states = automaton.states_for(&interest(goal.device)).into_iter();
            Some((goal.device, states.filter(|&state| target.met_by(state)).map(Timed::from).collect()))
        })
        .collect()
}
