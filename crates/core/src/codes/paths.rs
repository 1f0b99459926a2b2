//! Which way of controlling a device is the best, and why.
//!
//! The usual order is that of practitioners: IP with feedback; serial with replies; IP without
//! feedback; infrared with discrete codes; radio; one-way serial; infrared toggles (*common practice*; a
//! house can have its own order). A path that cannot work as things stand is ranked after those that
//! can, whatever its class.

use crate::id::{DeviceId, FunctionId};
use crate::model::{Code, ControlPath, Device, DeviceKind, Medium, Offer, PathClass, Power, Profile, Site};
use serde::Serialize;
use utoipa::ToSchema;

/// One way of controlling a device.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct Advice {
    /// The way.
    pub offer: Offer,
    /// Its class.
    pub class: PathClass,
    /// Its place in the house's order, counted from 1.
    pub rank: u32,
    /// Why it stands there, in a sentence.
    pub why: String,
    /// What it lacks before it can work, in a sentence; none where nothing is missing.
    pub missing: Option<String>,
    /// The gateway that sends it, where nobody has chosen one: whichever reaches it.
    pub gateway: Option<DeviceId>,
}

/// What a device offers, the best first.
#[must_use]
pub fn advise(site: &Site, device: &Device) -> Vec<Advice> {
    let Some(profile) =
        site.profile_of(device.id).or_else(|| site.profile(device.profile).map(std::borrow::Cow::Borrowed))
    else {
        return vec![];
    };
    let order = site.house.preferred_paths();
    let discrete = has_discrete_power(&profile);
    let mut advice: Vec<Advice> = profile
        .offers
        .iter()
        .map(|&offer| {
            let class = PathClass::of(offer, discrete);
            let place = order.iter().position(|&known| known == class).unwrap_or(order.len());
            Advice {
                offer,
                class,
                rank: u32::try_from(place + 1).unwrap_or(u32::MAX),
                why: why(class, &profile).to_owned(),
                missing: missing(site, device, offer),
                gateway: offer.medium.shared().then(|| a_gateway(site, device, offer.medium)).flatten(),
            }
        })
        .collect();
    advice.sort_by_key(|one| (one.missing.is_some(), one.rank, one.offer));
    advice
}

/// Is there a key for on that never switches off?
fn has_discrete_power(profile: &Profile) -> bool {
    !matches!(profile.power, Power::Toggle { .. })
}

fn why(class: PathClass, profile: &Profile) -> &'static str {
    match class {
        PathClass::IpFeedback => "It answers: a macro can wait for what it sees instead of guessing.",
        PathClass::SerialReplies => "It answers over a cable of its own, whatever the network does.",
        PathClass::Mesh => {
            "It reports what is done on the wall, through a bridge; batteries and pairing have to be kept."
        }
        PathClass::IpOneWay => "It needs no line of sight, but says nothing back.",
        PathClass::IrDiscrete if profile.motion.is_some() => "Its keys always mean the same; it needs a line of sight.",
        PathClass::IrDiscrete => {
            "On and off have keys of their own, so it can be brought to a known state; it needs a line of sight."
        }
        PathClass::Rf => "It passes walls and says nothing back.",
        PathClass::SerialOneWay => "It needs a cable and says nothing back.",
        PathClass::IrToggle => "One key for on and off: what it does depends on what the device was, and nobody tells.",
        PathClass::Trigger => "It follows another device's power, and cannot do more than that.",
        PathClass::UsbPower => "It follows the power of a socket, and cannot do more than that.",
        PathClass::Bluetooth => "It can be neither learned nor sent by a gateway: only its own remote reaches it.",
    }
}

/// What keeps this way from working.
fn missing(site: &Site, device: &Device, offer: Offer) -> Option<String> {
    let set_up = device.paths.iter().find(|path| path.medium == offer.medium);
    match offer.medium {
        Medium::Bluetooth => Some("No gateway can send it.".to_owned()),
        Medium::Ip if device.network.ip.trim().is_empty() => Some("Its address is not known yet.".to_owned()),
        Medium::Ir | Medium::Rf433 => {
            let named = set_up.and_then(|path| path.through);
            match named.or_else(|| a_gateway(site, device, offer.medium)) {
                Some(gateway) if !sends(site, gateway, offer.medium) => {
                    Some(format!("{} does not send {}.", site.device_name(gateway), offer.medium.name()))
                }
                None => Some(format!("No gateway in its room sends {}.", offer.medium.name())),
                _ => None,
            }
        }
        Medium::Serial | Medium::Mesh if set_up.is_none_or(|path| path.through.is_none()) => {
            Some("Nobody has said which gateway it hangs on.".to_owned())
        }
        Medium::Trigger | Medium::UsbPower => {
            let driven = site.connections.iter().any(|connection| {
                connection.to_device == device.id && site.cable(connection).is_some_and(|cable| cable.drives_power())
            });
            (!driven).then(|| "No cable drives it yet; wire it in Kit.".to_owned())
        }
        _ => None,
    }
}

pub(crate) fn is_gateway(site: &Site, device: &Device) -> bool {
    site.profile(device.profile).is_some_and(|profile| profile.kind == DeviceKind::Gateway)
}

/// Does this gateway send on this medium? What a gateway offers is what it sends.
pub(crate) fn sends(site: &Site, gateway: crate::id::DeviceId, medium: Medium) -> bool {
    site.model_of(gateway).is_some_and(|profile| profile.offers.iter().any(|offer| offer.medium == medium))
}

/// Gateways that send on this medium to where the device is: infrared needs one in a room where it stands or serves, radio
/// any.
pub(crate) fn gateways_near<'a>(
    site: &'a Site,
    device: &'a Device,
    medium: Medium,
) -> impl Iterator<Item = crate::id::DeviceId> + 'a {
    let near = move |gateway: &&Device| {
        medium == Medium::Rf433
            || gateway.room == device.room
            || device.rooms().iter().any(|&room| gateway.serves(room))
    };
    site.devices
        .iter()
        .filter(move |known| is_gateway(site, known) && sends(site, known.id, medium))
        .filter(near)
        .map(|known| known.id)
}

/// The first of them.
pub(crate) fn a_gateway(site: &Site, device: &Device, medium: Medium) -> Option<crate::id::DeviceId> {
    gateways_near(site, device, medium).next()
}

impl Site {
    /// The ways in which a command reaches a device, the preferred one first.
    #[must_use]
    pub fn paths_of(&self, device: DeviceId) -> Vec<ControlPath> {
        match (self.device(device), self.model_of(device)) {
            (Some(device), _) if !device.paths.is_empty() => device.paths.clone(),
            (Some(device), Some(_)) => advise(self, device).into_iter().map(|advice| advice.offer.into()).collect(),
            _ => vec![],
        }
    }

    /// The code of a function that is sent: that of the most preferred path which has one.
    #[must_use]
    pub fn code(&self, device: DeviceId, function: FunctionId) -> Option<&Code> {
        let mut codes = self.codes_of(device, function);
        let first = codes.next()?;
        let rest: Vec<&Code> = codes.collect();
        if rest.is_empty() {
            return Some(first);
        }
        let paths = self.paths_of(device);
        let rank = |code: &&Code| paths.iter().position(|path| path.medium == code.body.medium());
        std::iter::once(first).chain(rest).min_by_key(|code| (rank(code).unwrap_or(usize::MAX), code.id))
    }
}
