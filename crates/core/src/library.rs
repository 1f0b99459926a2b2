//! The models that ship with the product: `demo/library.json`, a list of profiles as a site file has them. Every maker,
//! model, time and code is invented. Figures are *from the profile*: nobody measured anything of a model.
//!
//! A model has fixed ids of its own; whoever adds it to a house takes a copy with fresh ones
//! ([`crate::edit::copy::renumbered`]), so that a house can change what it has.

use crate::id::CodeSetId;
use crate::model::{CodeSet, Profile, SetKey};
use std::sync::LazyLock;
use uuid::Uuid;

const FILE: &str = include_str!("../../../demo/library.json");

static MODELS: LazyLock<Vec<Profile>> = LazyLock::new(|| {
    #[expect(clippy::expect_used, reason = "the file is part of the program, and read by its tests")]
    serde_json::from_str(FILE).expect("demo/library.json is a list of profiles")
});

/// Every model.
#[must_use]
pub fn all() -> &'static [Profile] {
    &MODELS
}

/// The code sets of the library: what each model's own remote sends.
#[must_use]
pub fn code_sets() -> Vec<CodeSet> {
    (1u128..)
        .zip(all())
        .filter_map(|(number, model)| {
            let keys: Vec<SetKey> = model
                .functions
                .iter()
                .filter_map(|function| {
                    let body = function.answers_to.clone()?;
                    Some(SetKey { name: function.name.clone(), press: function.press, body })
                })
                .collect();
            // Where every command goes over the network there is nothing to find out by trying.
            let tried = keys.iter().any(|key| key.body.medium().learnable());
            tried.then(|| CodeSet {
                id: CodeSetId(Uuid::from_u128(0x6b64_0000_0000_7000_8000_0200_0000_0000 | number)),
                name: format!("{} {}", model.maker, model.model),
                kind: Some(model.kind),
                source: "The library that ships with the product.".to_owned(),
                keys,
            })
        })
        .collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::edit::{Edit, apply};
    use crate::model::Entity;
    use std::collections::BTreeSet;

    #[test]
    fn every_model_is_accepted_by_a_house() {
        let mut site = crate::demo::marram_point();
        for model in all() {
            let mut next = 0u128;
            let mut fresh = || {
                next += 1;
                Uuid::from_u128(u128::from(model.id.0.as_u128() as u64) << 64 | next)
            };
            let name = model.model.clone();
            let (mut copy, _) = crate::edit::copy::renumbered(model, &mut fresh);
            copy.model = format!("{name} copy");
            let edit = Edit::Put { entity: Entity::Profile(copy), base: None };
            assert_eq!(apply(&mut site, &edit).map(|changes| changes.len()), Ok(1), "{name}");
        }
    }

    #[test]
    fn ids_of_the_library_are_all_different() {
        let models = all();
        let mut ids = BTreeSet::new();
        for model in models {
            assert!(ids.insert(model.id.0));
            assert!(model.functions.iter().all(|function| ids.insert(function.id.0)), "{}", model.model);
            assert!(model.inputs.iter().all(|input| ids.insert(input.id.0)), "{}", model.model);
            assert!(model.outputs.iter().all(|output| ids.insert(output.id.0)), "{}", model.model);
        }
    }

    #[test]
    fn no_figure_of_the_library_claims_to_be_measured() {
        let text = serde_json::to_string(all()).unwrap();
        assert!(text.contains(r#""from":"profile""#) && !text.contains(r#""from":"measured""#));
    }

    #[test]
    fn a_streamer_has_the_keys_that_a_streamer_has() {
        let streamers = || all().iter().filter(|model| model.kind == crate::model::DeviceKind::Streamer);
        assert_eq!(streamers().count(), 2);
        for model in streamers() {
            for name in ["Up", "Down", "Left", "Right", "OK", "Back", "Home", "Play", "Pause"] {
                let key = model.functions.iter().find(|function| function.name == name);
                assert!(key.is_some_and(|key| key.answers_to.is_some()), "{} lacks {name}", model.model);
            }
        }
    }

    #[test]
    fn no_two_keys_of_a_model_send_the_same() {
        for model in all() {
            let mut words = BTreeSet::new();
            for function in model.functions.iter().filter(|f| f.press.is_tap()) {
                if let Some(said) = function.answers_to.as_ref().and_then(crate::model::CodeBody::key_words) {
                    assert!(words.insert(said), "{} {}", model.model, function.name);
                }
            }
        }
    }
}
