//! The table of addresses, and what is wrong with it.
//!
//! Reserve an address (a DHCP reservation) for every device that is addressed by IP, and record its MAC
//! address; gateways are often for 2.4 GHz only (*common practice*). What is typed is kept as it is, and
//! what is malformed is a finding: nothing that somebody copied from a label is lost.

use crate::finding::{Finding, Place, Stage, Weight};
use crate::id::DeviceId;
use crate::model::{Device, Link, Medium, Site, Wifi};
use crate::signal::ip::parse_mac;
use std::collections::BTreeMap;
use std::net::IpAddr;

/// What is wrong with the addresses of a house, each at the device where it is to be mended.
#[must_use]
pub fn addresses(site: &Site) -> Vec<Finding> {
    let mut findings = Vec::new();
    let mut by_ip: BTreeMap<IpAddr, DeviceId> = BTreeMap::new();
    let mut by_mac: BTreeMap<[u8; 6], DeviceId> = BTreeMap::new();
    for device in &site.devices {
        let place = Place::on(Stage::Kit).device(device.id);
        let mut say = |weight, title: &str, text: String| findings.push(Finding::new(weight, title, text, place));
        let (name, network) = (&device.name, &device.network);
        let (ip, mac) = (network.ip.trim(), network.mac.trim());
        if !ip.is_empty() {
            match ip.parse::<IpAddr>() {
                Err(_) => say(
                    Weight::Stops,
                    "Malformed address",
                    format!("“{ip}” of {name} is no IP address. It has four numbers of 0–255, such as 10.0.4.12."),
                ),
                Ok(parsed) if !usable(parsed) => say(
                    Weight::Stops,
                    "Malformed address",
                    format!(
                        "{parsed} of {name} cannot be the address of a device: it stands for all, none or this machine."
                    ),
                ),
                Ok(parsed) => {
                    if let Some(other) = by_ip.insert(parsed, device.id) {
                        let other = site.device_name(other);
                        let text =
                            format!("{name} and {other} both have the address {parsed}. Give one of them another.");
                        say(Weight::Stops, "Same address", text);
                    }
                }
            }
        }
        if !mac.is_empty() {
            match parse_mac(mac) {
                Err(error) => say(Weight::Caution, "Malformed address", format!("{name}: {error}")),
                Ok(parsed) => {
                    if let Some(other) = by_mac.insert(parsed, device.id) {
                        let other = site.device_name(other);
                        let text = format!(
                            "{name} and {other} have the same MAC address {mac}. Two devices never do: one was copied from the wrong label."
                        );
                        say(Weight::Caution, "Same MAC address", text);
                    }
                }
            }
        }
        if by_ip_controlled(site, device) {
            let wakes =
                site.profile_of(device.id).is_some_and(|p| matches!(p.power, crate::model::Power::NetworkWake { .. }));
            if ip.is_empty() {
                let text =
                    format!("{name} is controlled over the network, but it has no address. Enter it in Addresses.");
                say(Weight::Caution, "No address", text);
            } else if !network.reserved {
                let text = format!(
                    "The address of {name} is not reserved. After a power cut it can get another one, and nothing reaches it any more. Reserve {ip} in the router, and tick it here."
                );
                say(Weight::Caution, "Not reserved", text);
            }
            if wakes && mac.is_empty() {
                let text =
                    format!("{name} is woken over the network; that needs its MAC address. Enter it in Addresses.");
                say(Weight::Stops, "No MAC address", text);
            }
        }
        let bands = site.profile_of(device.id).and_then(|profile| profile.wifi);
        if bands == Some(Wifi::Only24) && network.link == Link::Wifi5 {
            let text = format!(
                "{name} has a radio for 2.4 GHz alone and cannot join a 5 GHz network. Join it to the 2.4 GHz one."
            );
            say(Weight::Stops, "Wrong band", text);
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
