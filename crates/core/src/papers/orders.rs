//! What is still missing in a house: what somebody wrote down, and what the house itself asks for.

use super::Made;
use super::html::{escaped, page, table};
use crate::id::{OrderId, RoomId};
use crate::model::{DeviceKind, OrderState, Power, Site, Tell};
use serde::Serialize;
use utoipa::ToSchema;

/// Something that is missing.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
#[schema(as = OrderListLine)]
pub struct OrderLine {
    /// The line that was written down; none where the house asks for it.
    pub order: Option<OrderId>,
    /// For which room; none for the house.
    pub room: Option<RoomId>,
    /// What.
    pub what: String,
    /// How many.
    pub quantity: u32,
    /// How far it is.
    pub state: OrderState,
    /// What for.
    pub why: String,
}

/// What is missing, in one room or in all: wanted things first.
#[must_use]
pub fn orders(site: &Site, room: Option<RoomId>) -> Vec<OrderLine> {
    let of_room = |own: Option<RoomId>| room.is_none() || own == room;
    let mut all: Vec<OrderLine> = site
        .orders
        .iter()
        .filter(|order| of_room(order.room))
        .map(|order| OrderLine {
            order: Some(order.id),
            room: order.room,
            what: order.what.clone(),
            quantity: order.quantity,
            state: order.state,
            why: order.note.clone(),
        })
        .collect();
    let written =
        |all: &[OrderLine], what: &str| all.iter().any(|line| line.what.to_lowercase() == what.to_lowercase());
    for device in site.devices.iter().filter(|device| of_room(Some(device.room))) {
        let Some(profile) = site.profile_of(device.id) else { continue };
        let mut want = |what: String, why: String| {
            if !written(&all, &what) {
                let room = Some(device.room);
                all.push(OrderLine { order: None, room, what, quantity: 1, state: OrderState::Wanted, why });
            }
        };
        if matches!(profile.power, Power::Toggle { .. }) && !profile.feedback.tells(Tell::Power) {
            let why = "its power can only be toggled, and nothing tells whether it is on".to_owned();
            want(format!("Power sensor for {}", device.name), why);
        }
        let sends = matches!(profile.kind, DeviceKind::Gateway | DeviceKind::Keypad | DeviceKind::Sensor);
        let used = |key: crate::id::FunctionId| site.code(device.id, key).is_none();
        let missing: Vec<&str> = profile
            .keys()
            .iter()
            .filter(|(key, _)| used(*key))
            .filter_map(|(key, _)| profile.function(*key))
            .map(|own| own.name.as_str())
            .collect();
        if !sends && !missing.is_empty() && profile.kind != DeviceKind::Light {
            want(format!("Code of {} for {}", missing.join(", "), device.name), "a plan sends it".to_owned());
        }
        if !sends && site.paths_of(device.id).is_empty() && profile.power_keys().is_some() {
            want(format!("Gateway that reaches {}", device.name), "nothing reaches it".to_owned());
        }
    }
    all.sort_by_key(|line| (line.state, line.room.map(|room| room.0), line.order.is_none(), line.what.clone()));
    all
}

/// The order list as a document.
#[must_use]
pub fn orders_html(site: &Site, made: &Made) -> String {
    let rows: Vec<Vec<String>> = orders(site, None)
        .into_iter()
        .map(|line| {
            let state = match line.state {
                OrderState::Wanted => "wanted",
                OrderState::Ordered => "ordered",
                OrderState::Fitted => "fitted",
            };
            let room = line.room.and_then(|id| site.room(id)).map(|room| room.name.clone()).unwrap_or_default();
            vec![line.quantity.to_string(), line.what, room, state.to_owned(), line.why]
        })
        .collect();
    let name = escaped(&site.house.name);
    let list = table(&["Quantity", "What", "Room", "State", "What for"], &rows);
    let body = if rows.is_empty() {
        format!("<h1>{name}: order list</h1>\n<p>Nothing is missing.</p>")
    } else {
        format!("<h1>{name}: order list</h1>\n{list}")
    };
    page(&format!("{}: order list", site.house.name), &site.house.name, made, &body)
}
