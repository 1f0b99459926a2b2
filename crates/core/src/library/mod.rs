//! The models that ship with the product. Every maker, model, time and code is invented.
//!
//! A model has fixed ids of its own; whoever adds it to a house takes a copy with fresh ones
//! ([`super::copy::renumbered`]), so that a house can change what it has.

mod build;
mod models;

pub use build::{function_id, input_id, output_id, profile_id};
pub(crate) use models::NET_DISPLAY_MAC;
pub use models::{Model, all, model};

use crate::id::CodeSetId;
use crate::model::{CodeSet, SetKey};
use uuid::Uuid;

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
            let (mut copy, _) = crate::edit::copy::renumbered(&model, &mut fresh);
            copy.model = format!("{name} copy");
            let edit = Edit::Put { entity: Entity::Profile(copy), base: None };
            assert_eq!(apply(&mut site, &edit).map(|changes| changes.len()), Ok(1), "{name}");
        }
    }

    #[test]
    fn ids_of_the_library_are_all_different() {
        let models = all();
        let mut ids = BTreeSet::new();
        for model in &models {
            assert!(ids.insert(model.id.0));
            assert!(model.functions.iter().all(|function| ids.insert(function.id.0)), "{}", model.model);
            assert!(model.inputs.iter().all(|input| ids.insert(input.id.0)), "{}", model.model);
            assert!(model.outputs.iter().all(|output| ids.insert(output.id.0)), "{}", model.model);
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
