//! Single presses of the family made into sends: a channel, a skip, some steps of volume.

use super::chain::{number_keys, sending};
use crate::device::Letter;
use crate::id::{DeviceId, FunctionId};
use crate::model::{Activity, Favourite, Reach, Shortcut, Site};
use crate::words::seconds;
use serde::Serialize;
use utoipa::ToSchema;

/// One press of a favourite.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct FavouriteStep {
    /// To which device.
    pub device: DeviceId,
    /// Which function.
    pub function: FunctionId,
    /// Its name.
    pub name: String,
    /// When it starts, in ms.
    pub start_ms: u32,
    /// When its last silence ends, in ms.
    pub end_ms: u32,
    /// It must start by then: the number would have been taken as it is, in ms.
    pub latest_ms: Option<u32>,
}

/// A favourite as the presses that it stands for, or why it cannot be.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct FavouritePlan {
    /// What it is called.
    pub name: String,
    /// The presses.
    pub steps: Vec<FavouriteStep>,
    /// How long they take, in ms.
    pub ends_ms: u32,
    /// How they come about, or what is missing.
    pub note: String,
    /// Can it be sent?
    pub works: bool,
}

/// The favourites of an activity.
#[must_use]
pub fn favourites(site: &Site, activity: &Activity) -> Vec<FavouritePlan> {
    activity.extras.favourites.iter().map(|favourite| of(site, activity, favourite)).collect()
}

/// One favourite, or something that is called like one.
#[must_use]
pub fn of(site: &Site, activity: &Activity, favourite: &Favourite) -> FavouritePlan {
    let source = activity.source;
    let broken =
        |note: String| FavouritePlan { name: favourite.name.clone(), steps: vec![], ends_ms: 0, note, works: false };
    let Some(profile) = site.profile_of(source) else { return broken("The source is gone.".to_owned()) };
    let number = |number: &str| {
        let keys = number_keys(&profile, number);
        let missing = number.chars().filter(char::is_ascii_digit).count() > keys.len();
        let digit_keys = keys.len() - usize::from(keys.len() > number.len());
        (keys, missing || digit_keys < number.len())
    };
    let (device, keys, digits, note) = match &favourite.does {
        Shortcut::Channel { number: wanted } => {
            let (keys, missing) = number(wanted);
            if missing {
                return broken(format!("{} has no keys for all digits of {wanted}.", site.device_name(source)));
            }
            (source, keys, true, format!("The digits of {wanted} with {} between them.", seconds(gap(&profile, true))))
        }
        Shortcut::App { name } => match profile.apps.iter().find(|app| app.name == *name).map(|app| &app.reach) {
            Some(Reach::Launch { function }) => (source, vec![*function], false, "A command of its own.".to_owned()),
            Some(Reach::Digits { number: wanted }) => (source, number(wanted).0, true, format!("Channel {wanted}.")),
            None => return broken(format!("{} does not know “{name}” any more.", site.device_name(source))),
        },
        Shortcut::Presses { function, times } => {
            (source, vec![*function; usize::from(*times)], false, format!("{times} presses."))
        }
        Shortcut::Volume { steps } => {
            let Some(sounds) = activity.heard_on else { return broken("Nothing sounds in this activity.".to_owned()) };
            let Some(volume) = site.profile_of(sounds).and_then(|profile| profile.volume) else {
                return broken(format!("{} has no volume keys in its profile.", site.device_name(sounds)));
            };
            let key = if *steps > 0 { volume.up } else { volume.down };
            let change = u32::from(steps.unsigned_abs()) * volume.step_tenths;
            let way = if *steps > 0 { "louder" } else { "softer" };
            let note = format!("{}.{} {way}, never above {}.", change / 10, change % 10, volume.ceiling);
            (sounds, vec![key; usize::from(steps.unsigned_abs())], false, note)
        }
    };
    let Some(own) = site.profile_of(device) else { return broken("The device is gone.".to_owned()) };
    let pause = gap(&own, digits);
    let longest = own.times.digits.hi_ms;
    let steps = steps_of(site, device, keys, pause, digits.then_some(longest));
    let coded = steps.iter().all(|step| site.code(device, step.function).is_some());
    let note = if coded { note } else { format!("{note} A code is missing: learn it in Codes.") };
    let ends_ms = steps.last().map_or(0, |step| step.end_ms);
    FavouritePlan { name: favourite.name.clone(), steps, ends_ms, note, works: coded }
}

/// Presses one after the other with `pause` between them; those of a number at most `longest` apart.
fn steps_of(
    site: &Site,
    device: DeviceId,
    keys: Vec<FunctionId>,
    pause: u32,
    longest: Option<u32>,
) -> Vec<FavouriteStep> {
    let (mut at, mut steps) = (0, Vec::new());
    for key in keys {
        let send = sending(site, device, Letter::Key(key)).ms;
        let latest_ms = longest.filter(|_| at > 0).map(|longest| at - pause + longest.saturating_sub(send).max(pause));
        steps.push(FavouriteStep {
            device,
            function: key,
            name: site.function_name(device, key),
            start_ms: at,
            end_ms: at + send,
            latest_ms,
        });
        at += send + pause;
    }
    steps
}

fn gap(profile: &crate::model::Profile, digits: bool) -> u32 {
    if digits { profile.times.digits.lo_ms.max(profile.times.gap_ms) } else { profile.times.gap_ms }
}
