//! Tables of the inventory as CSV: addresses, and what a service call needs.

use crate::id::RoomId;
use crate::model::{Device, Link, Site, Wifi};
use crate::sheet::written;

fn devices(site: &Site, room: Option<RoomId>) -> impl Iterator<Item = &Device> {
    site.devices.iter().filter(move |device| room.is_none_or(|room| device.serves(room) || device.room == room))
}

fn place(site: &Site, device: &Device) -> String {
    site.room(device.room).map_or_else(String::new, |room| room.name.clone())
}

/// The table of addresses of a room or the house: every device that is on the network. `as_of` is the day that stands on it.
///
/// # Errors
/// Where a row cannot be written (never in practice: it is made in memory).
pub fn addresses(site: &Site, room: Option<RoomId>, as_of: &str) -> Result<String, csv::Error> {
    let heading = ["device", "room", "link", "bands", "ip", "mac", "reserved", "port", "house", "as_of"];
    let mut rows = vec![heading.map(str::to_owned).to_vec()];
    for device in devices(site, room).filter(|device| !device.network.is_empty()) {
        let network = &device.network;
        let link = match network.link {
            Link::None => "",
            Link::Wired => "wired",
            Link::Wifi24 => "2.4 GHz",
            Link::Wifi5 => "5 GHz",
        };
        let bands = match site.profile_of(device.id).and_then(|profile| profile.wifi) {
            None => "",
            Some(Wifi::Only24) => "2.4 GHz only",
            Some(Wifi::Both) => "2.4 and 5 GHz",
        };
        rows.push(vec![
            device.name.clone(),
            place(site, device),
            link.to_owned(),
            bands.to_owned(),
            network.ip.clone(),
            network.mac.clone(),
            if network.reserved { "yes" } else { "no" }.to_owned(),
            network.port.map_or_else(String::new, |port| port.to_string()),
            site.house.name.clone(),
            as_of.to_owned(),
        ]);
    }
    written(rows)
}

/// What a service call needs of a room or the house. Keys and accounts are left out unless `secrets`. `as_of` is
/// the day that stands on it.
///
/// # Errors
/// Where a row cannot be written (never in practice: it is made in memory).
pub fn records(site: &Site, room: Option<RoomId>, secrets: bool, as_of: &str) -> Result<String, csv::Error> {
    let shown = if secrets { 10 } else { 8 };
    let heading = crate::model::Records::default().texts().map(|(name, _)| name.to_lowercase().replace(' ', "_"));
    let mut rows = vec![
        ["device", "room", "maker", "model", "needs_cloud"]
            .map(str::to_owned)
            .into_iter()
            .chain(heading.into_iter().take(shown))
            .chain(["house", "as_of"].map(str::to_owned))
            .collect::<Vec<_>>(),
    ];
    for device in devices(site, room) {
        let model = site.model_of(device.id);
        let cloud = match device.records.needs_cloud {
            None => "unknown",
            Some(true) => "yes",
            Some(false) => "no",
        };
        let mut row = vec![
            device.name.clone(),
            place(site, device),
            model.map_or_else(String::new, |model| model.maker.clone()),
            model.map_or_else(String::new, |model| model.model.clone()),
            cloud.to_owned(),
        ];
        row.extend(device.records.texts().into_iter().take(shown).map(|(_, text)| text.to_owned()));
        row.extend([site.house.name.clone(), as_of.to_owned()]);
        rows.push(row);
    }
    written(rows)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::demo::{self, ids};

    #[test]
    fn the_table_of_addresses_holds_what_is_on_the_network() {
        let site = demo::marram_point();
        let text = addresses(&site, Some(ids::boat_hall()), "2026-11-28").unwrap();
        let lines: Vec<&str> = text.lines().collect();
        assert_eq!(lines.len(), 4, "{text}");
        assert_eq!(lines[0], "device,room,link,bands,ip,mac,reserved,port,house,as_of");
        assert!(
            lines.contains(&"Receiver,Boat Hall,wired,,10.0.4.13,02:4d:50:00:00:03,yes,6001,Marram Point,2026-11-28")
        );
    }

    #[test]
    fn keys_and_accounts_stay_at_home_unless_asked_for() {
        let site = demo::marram_point();
        assert!(!records(&site, None, false, "2026-11-28").unwrap().contains("invented-local-key-9"));
        assert!(records(&site, None, true, "2026-11-28").unwrap().contains("invented-local-key-9"));
    }
}
