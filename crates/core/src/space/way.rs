//! How a key gets to its device: over which medium, and through which gateway.

use super::hears::{heard, in_sight};
use crate::codes::paths::{gateways_near, sends};
use crate::id::{DeviceId, FunctionId};
use crate::model::{Device, Medium, Site};
use serde::Serialize;
use utoipa::ToSchema;

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
    /// Nothing of what the gateway sends gets to where it stands: its light is too weak there even with doors open.
    OutOfReach,
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
            Self::OutOfReach => format!("what its gateway sends does not get to {name}"),
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
    Ok(Way { medium, gateway: Some(gateway_for(site, own, medium)?) })
}

/// The gateway through which a device is told something by infrared or radio: the one that was chosen for it, else of those
/// that send to where it is the one that it hears best, and of equals the first.
///
/// # Errors
/// Why there is none.
pub fn gateway_for(site: &Site, own: &Device, medium: Medium) -> Result<DeviceId, Hitch> {
    let device = own.id;
    let hears = |gateway: DeviceId| heard(site, Some(gateway), device, device, medium);
    let path = site.paths_of(device).into_iter().find(|path| path.medium == medium);
    let gateway = match path.and_then(|path| path.through) {
        Some(gateway) if !sends(site, gateway, medium) => return Err(Hitch::WrongGateway),
        Some(gateway) if medium == Medium::Ir && !in_sight(site, own, gateway) => return Err(Hitch::OutOfSight),
        Some(gateway) => gateway,
        None => {
            let near = gateways_near(site, own, medium);
            near.min_by_key(|&gateway| hears(gateway).rank()).ok_or(Hitch::NoGateway)?
        }
    };
    if hears(gateway).may_be() { Ok(gateway) } else { Err(Hitch::OutOfReach) }
}
