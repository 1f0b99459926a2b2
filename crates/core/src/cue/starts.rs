//! The ways in which playback starts, pauses and stops, against the cues that catch them.
//!
//! A cue on a key catches that key alone. A source that says what it does catches every way (*common practice*).

use crate::id::{CueId, DeviceId, FunctionId, RoomId};
use crate::model::{DeviceKind, Light, Means, Moment, Playback, Profile, Site, Talk, Tell};
use serde::Serialize;
use std::collections::BTreeSet;
use utoipa::ToSchema;

/// How somebody, or something, changes what a source plays.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, serde::Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Way {
    /// The key of our surfaces.
    OurKey,
    /// OK in a list.
    Ok,
    /// The maker's own remote.
    OwnRemote,
    /// By voice.
    Voice,
    /// From a phone.
    Cast,
    /// The film is over.
    End,
}

impl Way {
    /// In words.
    #[must_use]
    pub fn words(self) -> &'static str {
        match self {
            Self::OurKey => "our key",
            Self::Ok => "OK in a list",
            Self::OwnRemote => "the maker's own remote",
            Self::Voice => "by voice",
            Self::Cast => "cast from a phone",
            Self::End => "the end of the film",
        }
    }
}

/// One way of starting, pausing or stopping, and what catches it.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct ActivityStart {
    /// The source.
    pub device: DeviceId,
    /// What it does then.
    pub transport: Playback,
    /// How that is brought about.
    pub way: Way,
    /// The cues that catch it.
    pub caught_by: Vec<CueId>,
    /// What would help, where none does.
    pub remedy: Option<String>,
}

/// Does a device say what it plays?
#[must_use]
pub fn tells_transport(profile: &Profile) -> bool {
    profile.feedback.tells(Tell::Transport)
}

/// The key of a source that does this.
#[must_use]
pub fn key_for(profile: &Profile, transport: Playback) -> Option<FunctionId> {
    let means = match transport {
        Playback::Playing => Means::Play,
        Playback::Paused => Means::Pause,
        Playback::Stopped => Means::Stop,
    };
    profile.function_for(means).map(|function| function.id)
}

/// The ways in which a source does this.
fn ways(site: &Site, device: DeviceId, profile: &Profile, transport: Playback) -> Vec<Way> {
    let mut ways = Vec::new();
    if key_for(profile, transport).is_some() {
        ways.push(Way::OurKey);
    }
    let lists = profile.function_for(Means::Ok).is_some();
    if transport == Playback::Playing && lists && profile.kind != DeviceKind::Tuner {
        ways.push(Way::Ok);
    }
    ways.push(Way::OwnRemote);
    if profile.kind == DeviceKind::Streamer {
        ways.push(Way::Voice);
        if site.talk_of(device) == Talk::Player {
            ways.push(Way::Cast);
        }
    }
    if transport == Playback::Stopped && profile.kind != DeviceKind::Console {
        ways.push(Way::End);
    }
    ways
}

/// Every way for every source of a room.
#[must_use]
pub fn starts(site: &Site, room: RoomId) -> Vec<ActivityStart> {
    let Some(own) = site.room(room) else { return vec![] };
    let activities = site.activities.iter().filter(|activity| activity.room == room && activity.seen_on.is_some());
    let mut sources: Vec<DeviceId> = Vec::new();
    let mut seen = BTreeSet::new();
    for activity in activities {
        if seen.insert(activity.source) {
            sources.push(activity.source);
        }
    }
    let mut starts = Vec::new();
    for device in sources {
        let Some(profile) = site.profile_of(device).filter(|profile| profile.kind.plays()) else { continue };
        let tells = tells_transport(&profile);
        for transport in [Playback::Playing, Playback::Paused, Playback::Stopped] {
            for way in ways(site, device, &profile, transport) {
                let key = key_for(&profile, transport);
                let catches = |moment: &Moment| match moment {
                    Moment::Says { device: of, transport: to } => tells && *of == device && *to == transport,
                    Moment::Sent { device: of, function } => {
                        *of == device && way == Way::OurKey && Some(*function) == key
                    }
                    _ => false,
                };
                let caught_by: Vec<CueId> = own
                    .lighting
                    .cues
                    .iter()
                    .filter(|cue| !cue.off && cue.light != Light::Stays && catches(&cue.moment))
                    .map(|cue| cue.id)
                    .collect();
                let name = site.device_name(device);
                let remedy = caught_by.is_empty().then(|| match (tells, way) {
                    (true, _) => format!("Add a cue on what {name} says: it {}.", crate::model::cue_words::transport(transport)),
                    (false, Way::OurKey) => format!("{name} says nothing of what it plays: add a cue on the key that we send."),
                    (false, _) => format!(
                        "{name} says nothing of what it plays, and no key of ours is pressed. Take a source that reports its \
                         transport, or drive it over the network."
                    ),
                });
                starts.push(ActivityStart { device, transport, way, caught_by, remedy });
            }
        }
    }
    starts
}
