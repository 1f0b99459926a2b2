//! Rules, defaults and figures of the trade that the page needs: said once, in the core, and told from here. They change
//! with the program only; the page ships with them (`kestrel-dune rules`, kept in web/src/api/rules.json).

use axum::Json;
use kestrel_core::kit::usual::{self, UsualSpans};
use kestrel_core::model::{DOUBLE_MS, DeviceKind, GAP_MM, HOLD_MS, Override, Profile, SurfaceKind};
use kestrel_core::words::capital;
use serde::Serialize;
use utoipa::ToSchema;
use uuid::Uuid;

/// What the page has to know of the trade.
#[derive(Debug, Serialize, ToSchema)]
pub struct Rules {
    /// Every kind of surface with what it starts with (*your own measure*: measure the thing).
    surfaces: Vec<SurfaceRule>,
    /// What stays free between two keys, in mm.
    key_gap_mm: f64,
    /// How long a key is down before that is a hold, in ms.
    hold_ms: u64,
    /// How long after a tap a second one may start, in ms.
    double_tap_ms: u64,
    /// A model of every kind as one begins it; whoever takes one gives it ids of its own.
    models: Vec<Profile>,
    /// Spans that a form begins with where a model has none.
    spans: UsualSpans,
    /// Where each field that a device may have of its own stands in a profile.
    own_fields: Vec<OwnField>,
}

/// A kind of surface.
#[derive(Debug, Serialize, ToSchema)]
pub struct SurfaceRule {
    /// Which.
    kind: SurfaceKind,
    /// What it is called.
    name: String,
    /// In mm.
    width_mm: u16,
    /// In mm.
    height_mm: u16,
    /// Keys side by side, on one sheet.
    columns: u8,
    /// Keys one above the other.
    rows: u8,
    /// Is it glass, whose pages can be longer than it is?
    glass: bool,
    /// Pages that are seen side by side.
    sheets: u8,
    /// The height of letters, in tenths of a mm.
    letter_tenths_mm: u16,
    /// The most keys that it can have; none where only its size limits it.
    most_keys: Option<usize>,
}

/// A field of a profile that a device may have of its own.
#[derive(Debug, Serialize, ToSchema)]
pub struct OwnField {
    /// Its name in a device's list.
    field: String,
    /// Where it stands in a profile.
    path: Vec<&'static str>,
}

/// All of it.
pub fn all() -> Rules {
    let surface = |kind: SurfaceKind| {
        let size = kind.usual();
        SurfaceRule {
            kind,
            name: capital(kind.words()),
            width_mm: size.width_mm,
            height_mm: size.height_mm,
            columns: size.columns,
            rows: size.rows,
            glass: kind.is_glass(),
            sheets: kind.sheets(),
            letter_tenths_mm: kind.usual_letters(),
            most_keys: kind.most_keys(),
        }
    };
    let mut number = 0;
    let mut fresh = || {
        number += 1;
        Uuid::from_u128(number)
    };
    Rules {
        surfaces: SurfaceKind::ALL.into_iter().map(surface).collect(),
        key_gap_mm: GAP_MM,
        hold_ms: HOLD_MS,
        double_tap_ms: DOUBLE_MS,
        models: DeviceKind::ALL.into_iter().map(|kind| usual::profile(kind, &mut fresh)).collect(),
        spans: usual::spans(),
        own_fields: Override::places().into_iter().map(|(field, path)| OwnField { field, path }).collect(),
    }
}

/// Rules, defaults and figures of the trade. They change with the program only.
#[utoipa::path(get, path = "/api/rules", tag = "kit", responses((status = 200, body = Rules)))]
pub async fn rules() -> Json<Rules> {
    Json(all())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_rules_that_the_page_ships_with_are_these() {
        let kept = include_str!("../../../../web/src/api/rules.json");
        let now = serde_json::to_string_pretty(&all()).unwrap();
        assert!(kept.trim() == now, "kestrel-dune rules > web/src/api/rules.json");
    }

    #[test]
    fn every_field_of_its_own_is_where_the_rules_say() {
        let all = serde_json::to_value(all()).unwrap();
        let model = &all["models"][0];
        for own in all["own_fields"].as_array().unwrap() {
            let path: Vec<&str> = own["path"].as_array().unwrap().iter().map(|part| part.as_str().unwrap()).collect();
            assert!(model.pointer(&format!("/{}", path.join("/"))).is_some() || path.len() == 1, "{own}");
        }
        assert_eq!(all["own_fields"][1], serde_json::json!({"field": "wake-keys", "path": ["wake_keys"]}));
    }
}
