//! What reaches what: how a key gets to its device, and who else hears it on the way.
//!
//! [`hears`] is the one place that says so; a lowered screen, which changes with time, is a matter of
//! [`crate::device::Group`].

use super::paths::{a_gateway, is_gateway, sends};
use crate::id::{DeviceId, FunctionId};
use crate::model::{Device, Medium, Site};
use serde::Serialize;
use utoipa::ToSchema;

/// Does a device hear what is sent to another? Infrared stays in its room; radio passes walls; on a line or the network
/// a command has one address.
#[must_use]
pub fn hears(site: &Site, meant: DeviceId, device: DeviceId, medium: Medium) -> bool {
    if meant == device {
        return true;
    }
    match medium {
        Medium::Rf433 => true,
        Medium::Ir => {
            let (Some(a), Some(b)) = (site.device(meant), site.device(device)) else { return false };
            a.room == b.room || a.rooms().iter().any(|room| b.rooms().contains(room))
        }
        _ => false,
    }
}

/// How a key gets to its device.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
pub struct Way {
    /// On what.
    pub medium: Medium,
    /// Which gateway sends it; none where the device is spoken to over a line or the network.
    pub gateway: Option<DeviceId>,
}

/// Why a key cannot be sent.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Hitch {
    /// It has no code.
    NoCode,
    /// No gateway sends on its medium to where it stands.
    NoGateway,
    /// The gateway that was chosen does not send on its medium.
    WrongGateway,
    /// The gateway that was chosen is not in sight of it.
    OutOfSight,
    /// It is reached by Bluetooth alone, which no gateway sends.
    Bluetooth,
    /// Nobody knows its address on the network.
    NoAddress,
}

impl Hitch {
    /// Why nothing gets to `name`.
    #[must_use]
    pub fn sentence(self, name: &str) -> String {
        match self {
            Self::NoCode => format!("a key of {name} has no code"),
            Self::NoGateway => format!("no gateway reaches {name}"),
            Self::WrongGateway => format!("the gateway of {name} does not send what it hears"),
            Self::OutOfSight => format!("the gateway of {name} is out of its sight"),
            Self::Bluetooth => format!("{name} is reached by Bluetooth alone"),
            Self::NoAddress => format!("{name} has no address on the network"),
        }
    }
}

/// How a key gets to its device. *Whichever reaches it* names the gateway here.
///
/// # Errors
/// Why it cannot be sent.
pub fn way(site: &Site, device: DeviceId, function: FunctionId) -> Result<Way, Hitch> {
    let own = site.device(device).ok_or(Hitch::NoCode)?;
    let code = site.code(device, function).ok_or(Hitch::NoCode)?;
    let medium = code.body.medium();
    if medium == Medium::Bluetooth {
        return Err(Hitch::Bluetooth);
    }
    if medium == Medium::Ip {
        let addressed = !own.network.ip.trim().is_empty() || !own.network.drive_at.trim().is_empty();
        return if addressed { Ok(Way { medium, gateway: None }) } else { Err(Hitch::NoAddress) };
    }
    if !medium.shared() {
        return Ok(Way { medium, gateway: None });
    }
    let path = site.paths_of(device).into_iter().find(|path| path.medium == medium);
    match path.and_then(|path| path.through) {
        Some(gateway) if !sends(site, gateway, medium) => Err(Hitch::WrongGateway),
        Some(gateway) if medium == Medium::Ir && !in_sight(site, own, gateway) => Err(Hitch::OutOfSight),
        Some(gateway) => Ok(Way { medium, gateway: Some(gateway) }),
        None => match a_gateway(site, own, medium) {
            Some(gateway) => Ok(Way { medium, gateway: Some(gateway) }),
            None => Err(Hitch::NoGateway),
        },
    }
}

/// Does infrared of this gateway get to the device?
#[must_use]
pub fn in_sight(site: &Site, device: &Device, gateway: DeviceId) -> bool {
    site.device(gateway).is_some_and(|known| {
        is_gateway(site, known) && (known.room == device.room || device.rooms().iter().any(|&room| known.serves(room)))
    })
}
