//! What can be wrong in a room, and what would be seen of it.

use super::{Before, ClientSays, Question};
use crate::commission::Run;
use crate::id::{DeviceId, RoomId};
use crate::model::{AfterMains, Basis, DeviceKind, Medium, Power, Site, Situation, Tell};
use crate::prove::{Guarantee, Matrix};
use std::collections::{BTreeMap, BTreeSet};

/// A cause with its weight, and what would be answered if it were the one.
pub(super) struct Known {
    pub(super) id: String,
    pub(super) device: Option<DeviceId>,
    pub(super) text: String,
    pub(super) remedy: String,
    pub(super) order: Option<String>,
    pub(super) weight: f64,
    /// How likely each question is answered with *yes*.
    yes: BTreeMap<String, f64>,
}

impl Known {
    pub(super) fn answers(&self, question: &str) -> f64 {
        self.yes.get(question).copied().unwrap_or(0.5)
    }
}

/// What one cause does to what is seen: how likely each is missing or wrong.
#[derive(Clone, Copy)]
struct Shows {
    picture: f64,
    sound: f64,
    light: f64,
    screen: f64,
    remote: f64,
}

/// The word of a cause, and its device, from the id by which it is counted.
pub(super) fn split(cause: &str) -> (&str, Option<DeviceId>) {
    let (word, device) = cause.split_once(' ').unwrap_or((cause, ""));
    (word, device.parse::<uuid::Uuid>().ok().map(DeviceId))
}

/// Something goes wrong by itself now and then.
const NOISE: f64 = 0.03;

const NOTHING: Shows = Shows { picture: NOISE, sound: NOISE, light: NOISE, screen: NOISE, remote: NOISE };

/// What is at hand while causes are made up.
struct Making<'a> {
    site: &'a Site,
    says: &'a ClientSays,
    log: &'a BTreeMap<String, u32>,
    closed: u32,
    all: Vec<Known>,
    /// Devices on the way of the picture, and of the sound, of what may have been asked for.
    video: BTreeSet<DeviceId>,
    audio: BTreeSet<DeviceId>,
}

impl Making<'_> {
    /// (k + 10p)/(N + 10).
    fn prior(&self, id: &str, p: f64) -> f64 {
        let k = f64::from(self.log.get(id).copied().unwrap_or(0));
        (k + 10.0 * p) / (f64::from(self.closed) + 10.0)
    }

    #[expect(clippy::too_many_arguments, reason = "one row of a table")]
    fn cause(
        &mut self,
        word: &str,
        device: Option<DeviceId>,
        p: f64,
        shows: Shows,
        before: &[(Before, f64)],
        text: String,
        remedy: String,
        order: Option<String>,
        yes: &[(&str, f64)],
    ) {
        let id = device.map_or_else(|| word.to_owned(), |device| format!("{word} {device}"));
        let mut weight = self.prior(&id, p);
        let seen = |fine: Option<bool>, wrong: f64| match fine {
            None => 1.0,
            Some(false) => wrong,
            Some(true) => 1.0 - wrong,
        };
        let says = self.says;
        weight *= seen(says.picture, shows.picture)
            * seen(says.sound, shows.sound)
            * seen(says.light, shows.light)
            * seen(says.screen, shows.screen)
            * seen(says.remote, shows.remote);
        if let Some(after) = says.before {
            weight *= before.iter().find(|(known, _)| *known == after).map_or(0.1, |(_, likely)| *likely);
        }
        let yes: BTreeMap<String, f64> = yes.iter().map(|(id, yes)| ((*id).to_owned(), *yes)).collect();
        for (question, answer) in &says.answers {
            let likely = yes.get(question).copied().unwrap_or(0.5);
            weight *= if *answer { likely } else { 1.0 - likely };
        }
        self.all.push(Known { id, device, text, remedy, order, weight, yes });
    }

    /// What is missing where a device is not what it should be.
    fn without(&self, device: DeviceId) -> Shows {
        Shows {
            picture: if self.video.contains(&device) { 0.95 } else { NOISE },
            sound: if self.audio.contains(&device) { 0.95 } else { NOISE },
            screen: if self.site.moves(device) { 0.9 } else { NOISE },
            light: if self.site.model_of(device).is_some_and(|own| own.kind == DeviceKind::Light) {
                0.9
            } else {
                NOISE
            },
            ..NOTHING
        }
    }
}

/// Everything that can be wrong, each with its weight after what was said.
pub(super) fn causes(
    site: &Site,
    room: RoomId,
    matrix: &Matrix,
    runs: &[Run],
    says: &ClientSays,
    log: &BTreeMap<String, u32>,
) -> Vec<Known> {
    // All last actions that fit what was asked for.
    let last: Vec<&Run> =
        runs.iter().filter(|run| says.to.map_or(run.to != Situation::Off, |to| run.to == to)).collect();
    let on_way = |video: bool| -> BTreeSet<DeviceId> {
        let hops = last.iter().flat_map(|run| if video { &run.plan.video } else { &run.plan.audio });
        hops.flat_map(|hop| [hop.from, hop.to]).collect()
    };
    let (video, audio) = (on_way(true), on_way(false));
    let mut making = Making { site, says, log, closed: log.values().sum(), all: vec![], video, audio };
    for device in site.devices_in(room) {
        of_device(&mut making, device.id);
    }
    of_engine(&mut making, matrix, &last);
    of_room(&mut making, room);
    making.all
}

fn lamp(device: DeviceId) -> String {
    format!("lamp {device}")
}

/// What the engine cannot know of one device.
fn of_device(making: &mut Making<'_>, id: DeviceId) {
    let site = making.site;
    let (Some(device), Some(profile)) = (site.device(id), site.profile_of(id)) else { return };
    let name = device.name.clone();
    let without = making.without(id);
    let lamp = lamp(id);
    let matters = making.video.contains(&id) || making.audio.contains(&id) || site.moves(id);
    if profile.kind == DeviceKind::Gateway {
        let dead = Shows { picture: 0.6, sound: 0.6, screen: 0.5, remote: 0.8, ..NOTHING };
        making.cause(
            "gateway",
            Some(id),
            0.05,
            dead,
            &[(Before::PowerCut, 0.5), (Before::Update, 0.3)],
            format!("{name} does not answer: it hangs, or has another address."),
            format!("Ask to pull the plug of {name} for ten seconds, then wait two minutes."),
            None,
            &[(&lamp, 0.7), ("other-rooms", 0.4), ("phone-opens", 0.8)],
        );
    } else if matters {
        making.cause(
            "unplugged",
            Some(id),
            0.04,
            without,
            &[(Before::Hands, 0.5), (Before::NewDevice, 0.4), (Before::PowerCut, 0.15)],
            format!("{name} has no power: its plug or its switch."),
            format!(
                "Ask whether the small lamp on {name} is lit; have its plug and the switch of its socket looked at."
            ),
            None,
            &[(&lamp, 0.03), ("other-rooms", 0.9), ("phone-opens", 0.9)],
        );
        if matches!(profile.after_mains, AfterMains::Off | AfterMains::Last) && profile.power_keys().is_some() {
            making.cause(
                "mains-left-off",
                Some(id),
                0.03,
                without,
                &[(Before::PowerCut, 0.9)],
                format!("{name} stayed off, or in standby, when mains came back."),
                format!(
                    "Start from off once: press Finish, wait a minute, and start again; {name} is switched on then."
                ),
                None,
                &[(&lamp, 0.4), ("other-rooms", 0.6), ("since-cut", 0.95)],
            );
        }
    }
    let ip = site.paths_of(id).first().is_some_and(|path| path.medium == Medium::Ip);
    if ip && !device.network.ip.is_empty() && !device.network.reserved {
        making.cause(
            "address",
            Some(id),
            0.05,
            without,
            &[(Before::PowerCut, 0.7), (Before::NewDevice, 0.3)],
            format!("{name} has another address: nobody has reserved it."),
            format!("Look up the address of {name} in the router, reserve it there, and write it down in Kit."),
            None,
            &[(&lamp, 0.9), ("since-cut", 0.7), ("other-rooms", 0.8)],
        );
    }
    if ip {
        making.cause(
            "update",
            Some(id),
            0.02,
            without,
            &[(Before::Update, 0.9)],
            format!("The maker has changed {name} by an update."),
            format!("Ask what {name} says of its version; try its own button, and test its codes again."),
            None,
            &[(&lamp, 0.95), ("since-cut", 0.1)],
        );
    }
    if !device.records.battery.is_empty() {
        let dead = Shows { remote: 0.95, ..NOTHING };
        making.cause(
            "battery",
            Some(id),
            0.08,
            dead,
            &[],
            format!("The battery of {name} is empty."),
            format!(
                "Have the battery of {name} changed: {}. Small round ones away from children.",
                device.records.battery
            ),
            Some(format!("{} for {name}", device.records.battery)),
            &[("phone-opens", 0.9), ("remote-lamp", 0.05)],
        );
    }
    if profile.volume.is_some() && making.audio.contains(&id) {
        let quiet = Shows { sound: 0.97, ..NOTHING };
        making.cause(
            "mute",
            Some(id),
            0.12,
            quiet,
            &[(Before::Hands, 0.4), (Before::PowerCut, 0.15)],
            format!("{name} is muted or turned down."),
            "Ask to press louder five times, then the key for silence once.".to_owned(),
            None,
            &[(&lamp, 0.95), ("louder-shows", 0.9), ("since-cut", 0.2)],
        );
    }
    if profile.inputs.len() > 1 && matters {
        making.cause(
            "wrong-input",
            Some(id),
            0.06,
            without,
            &[(Before::Hands, 0.5), (Before::PowerCut, 0.25)],
            format!("{name} shows another input: somebody chose it, or it came up with another one."),
            "Press the key for what should be seen once more.".to_owned(),
            None,
            &[(&lamp, 0.95), ("own-words", 0.7), ("since-cut", 0.3)],
        );
    }
    let plays =
        matches!(profile.kind, DeviceKind::DiscPlayer | DeviceKind::Streamer | DeviceKind::Console | DeviceKind::Tuner);
    if plays && (making.video.contains(&id) || making.audio.contains(&id)) {
        let still = Shows { picture: 0.35, sound: 0.8, ..NOTHING };
        making.cause(
            "paused",
            Some(id),
            0.06,
            still,
            &[(Before::Hands, 0.3)],
            format!("{name} is paused, asleep, or asks something on the screen."),
            format!("Ask to press play on {name}'s own remote, and what stands on the screen."),
            None,
            &[(&lamp, 0.9), ("own-words", 0.5)],
        );
    }
}

/// What the proofs know: presses that are lost, starts from which plans end wrong, waits that are only assumed.
fn of_engine(making: &mut Making<'_>, matrix: &Matrix, last: &[&Run]) {
    let site = making.site;
    let fits = |from: Situation, to: Situation| last.iter().any(|run| (run.from, run.to) == (from, to));
    let mut risks: BTreeMap<DeviceId, (u32, String)> = BTreeMap::new();
    let mut waits: BTreeMap<DeviceId, u32> = BTreeMap::new();
    let mut cells = 0_u32;
    for cell in matrix.cells.iter().filter(|cell| fits(cell.from, cell.to)) {
        cells += 1;
        if let Some(story) = cell.story.as_ref().filter(|_| cell.guarantee == Guarantee::AtRisk) {
            risks.entry(story.device).or_insert((0, story.headline.clone())).0 += 1;
        }
        if let Some(rest) = cell.weakest.as_ref().filter(|rest| rest.span.basis == Basis::Assumed) {
            *waits.entry(rest.device).or_default() += 1;
        }
    }
    let share = |n: u32| f64::from(n) / f64::from(cells.max(1));
    let silent = |device: DeviceId| {
        site.profile_of(device).is_some_and(|own| {
            own.power_keys().is_some()
                && !own.feedback.tells(Tell::Power)
                && !matches!(own.power, Power::Follows { .. })
        })
    };
    for (device, (n, headline)) in risks {
        let shows = making.without(device);
        let name = site.device_name(device);
        making.cause(
            "wrong-start",
            Some(device),
            0.1 * share(n),
            shows,
            &[(Before::Hands, 0.6), (Before::PowerCut, 0.5)],
            format!("{name} was not as the plan took it to be: {headline}"),
            "Press Not right? on the phone, or Finish and start again.".to_owned(),
            silent(device).then(|| format!("Power sensor for {name}")),
            &[(&lamp(device), 0.5), ("since-cut", 0.4)],
        );
    }
    for (device, n) in waits {
        let shows = making.without(device);
        let name = site.device_name(device);
        making.cause(
            "wait",
            Some(device),
            0.06 * share(n),
            shows,
            &[],
            format!("{name} took longer than the plan waits: that time is only assumed."),
            format!("Time {name} with the stopwatch; press the same key once more meanwhile."),
            None,
            &[(&lamp(device), 0.9), ("again-helps", 0.85)],
        );
    }
    let sent: BTreeSet<DeviceId> = last.iter().flat_map(|run| run.plan.steps.iter().map(|step| step.device)).collect();
    for device in sent {
        let Some(path) = site.paths_of(device).into_iter().next().filter(|path| !path.replies) else { continue };
        let lost = crate::prove::loss::wilson(path.tries).map_or(0.05, |range| range.hi);
        let shows = making.without(device);
        let name = site.device_name(device);
        making.cause(
            "lost",
            Some(device),
            lost.min(0.3),
            shows,
            &[(Before::Hands, 0.3)],
            format!("A press did not reach {name}."),
            format!("Press the same key once more; nothing may stand in front of {name}."),
            None,
            &[(&lamp(device), 0.5), ("again-helps", 0.8)],
        );
    }
}

/// What concerns the room as a whole.
fn of_room(making: &mut Making<'_>, room: RoomId) {
    let site = making.site;
    let all = Shows { picture: 0.9, sound: 0.9, light: 0.3, screen: 0.7, remote: 0.8 };
    making.cause(
        "network",
        None,
        0.04,
        all,
        &[(Before::PowerCut, 0.4), (Before::Update, 0.2), (Before::NewDevice, 0.3)],
        "The network of the house is down, or the machine that serves the surfaces is.".to_owned(),
        "Ask whether anything else works on the wireless network; have the router started anew.".to_owned(),
        None,
        &[("other-rooms", 0.05), ("phone-opens", 0.1), ("since-cut", 0.5)],
    );
    let cables = Shows { picture: 0.6, sound: 0.4, ..NOTHING };
    making.cause(
        "cable",
        None,
        0.04,
        cables,
        &[(Before::Hands, 0.5), (Before::NewDevice, 0.7)],
        "A cable has come loose.".to_owned(),
        "Ask who was behind the rack; have the cables between the last two devices pushed in.".to_owned(),
        None,
        &[("other-rooms", 0.9), ("own-words", 0.6), ("again-helps", 0.05)],
    );
    if site.room(room).is_some_and(|own| !own.lighting.cues.is_empty()) {
        let dark = Shows { light: 0.9, ..NOTHING };
        making.cause(
            "wall-switch",
            None,
            0.06,
            dark,
            &[(Before::Hands, 0.5)],
            "The light was set by hand at the wall, or a mood switch is on.".to_owned(),
            "Ask to press the key of the look once more, and whether a mood such as “guests” is on.".to_owned(),
            None,
            &[("other-rooms", 0.9)],
        );
    }
    // There is always an answer: what nobody has thought of, by Laplace's rule.
    let n = making.all.len() + 1;
    let p = 1.0 / (f64::from(making.closed) + f64::from(u32::try_from(n).unwrap_or(u32::MAX)));
    let any = Shows { picture: 0.4, sound: 0.4, light: 0.3, screen: 0.3, remote: 0.3 };
    making.cause(
        "else",
        None,
        p / 4.0,
        any,
        &[],
        "Something that nobody has thought of.".to_owned(),
        "Ask for a photo of the room and of the rack, and look at the log.".to_owned(),
        None,
        &[],
    );
}

/// Questions that a client can answer, about what is still likely.
pub(super) fn questions(site: &Site, room: RoomId, all: &[Known]) -> Vec<Question> {
    let ask = |id: &str, text: String| Question { id: id.to_owned(), text };
    let likely: BTreeSet<DeviceId> = all.iter().filter_map(|known| known.device).collect();
    let mut questions: Vec<Question> = site
        .devices_in(room)
        .filter(|device| likely.contains(&device.id))
        .map(|device| {
            let place = device.records.stands.trim();
            let where_it_is = if place.is_empty() { String::new() } else { format!(" ({place})") };
            ask(&lamp(device.id), format!("Is the small lamp on {}{where_it_is} lit?", device.name))
        })
        .collect();
    questions.extend([
        ask("again-helps", "Press the same key once more and wait half a minute: is it right now?".to_owned()),
        ask("louder-shows", "Press louder: does a figure or a bar appear, and does it rise?".to_owned()),
        ask("own-words", "Does the picture show a menu, a logo or the words “no signal”?".to_owned()),
        ask("other-rooms", "Do the other rooms work as they should?".to_owned()),
        ask("phone-opens", "Does the page on the phone open, and say something?".to_owned()),
        ask("remote-lamp", "Does a small light on the hand remote flash when a key is pressed?".to_owned()),
        ask("since-cut", "Was there a power cut, or were clocks blinking, just before?".to_owned()),
    ]);
    questions
}
