//! The table of addresses, and what is wrong with it.
//!
//! Reserve an address (a DHCP reservation) for every device that is addressed by IP, and record its MAC
//! address; gateways are often for 2.4 GHz only (*common practice*). What is typed is kept as it is, and
//! what is malformed is a finding: nothing that somebody copied from a label is lost.

use crate::finding::Finding;
use crate::id::DeviceId;
use crate::model::{Device, FindingKind, Link, Medium, Site, Wifi};
use kestrel_signal::ip::parse_mac;
use std::collections::BTreeMap;
use std::net::IpAddr;

/// What is wrong with the addresses of a house, each at the device where it is to be mended.
#[must_use]
pub fn addresses(site: &Site) -> Vec<Finding> {
    let mut findings = Vec::new();
    let mut by_ip: BTreeMap<IpAddr, DeviceId> = BTreeMap::new();
    let mut by_mac: BTreeMap<[u8; 6], DeviceId> = BTreeMap::new();
    for device in &site.devices {
        let mut say = |kind| findings.push(Finding::of(site, kind));
        let (id, network) = (device.id, &device.network);
        let (ip, mac) = (network.ip.trim(), network.mac.trim());
        if !ip.is_empty() {
            match ip.parse::<IpAddr>() {
                Err(_) => say(FindingKind::MalformedAddress { device: id, ip: ip.to_owned() }),
                Ok(parsed) if !usable(parsed) => {
                    say(FindingKind::UnusableAddress { device: id, ip: parsed.to_string() });
                }
                Ok(parsed) => {
                    if let Some(other) = by_ip.insert(parsed, id) {
                        say(FindingKind::SameAddress { device: id, other, ip: parsed.to_string() });
                    }
                }
            }
        }
        if !mac.is_empty() {
            match parse_mac(mac) {
                Err(error) => say(FindingKind::MalformedMac { device: id, problem: error.to_string() }),
                Ok(parsed) => {
                    if let Some(other) = by_mac.insert(parsed, id) {
                        say(FindingKind::SameMac { device: id, other, mac: mac.to_owned() });
                    }
                }
            }
        }
        if by_ip_controlled(site, device) {
            let wakes = site.profile_of(id).is_some_and(|p| matches!(p.power, crate::model::Power::NetworkWake { .. }));
            if ip.is_empty() {
                say(FindingKind::NoAddress { device: id });
            } else if !network.reserved {
                say(FindingKind::NotReserved { device: id, ip: ip.to_owned() });
            }
            if wakes && mac.is_empty() {
                say(FindingKind::NoMac { device: id });
            }
        }
        let bands = site.profile_of(id).and_then(|profile| profile.wifi);
        if bands == Some(Wifi::Only24) && network.link == Link::Wifi5 {
            say(FindingKind::WrongBand { device: id });
        }
    }
    findings
}

/// Can a device have this address?
fn usable(ip: IpAddr) -> bool {
    let broadcast = matches!(ip, IpAddr::V4(v4) if v4.is_broadcast());
    !ip.is_unspecified() && !ip.is_loopback() && !ip.is_multicast() && !broadcast
}

/// Is the network among the paths that were set up for it?
fn by_ip_controlled(site: &Site, device: &Device) -> bool {
    site.paths_of(device.id).first().is_some_and(|path| path.medium == Medium::Ip)
        || device.paths.iter().any(|path| path.medium == Medium::Ip)
}
