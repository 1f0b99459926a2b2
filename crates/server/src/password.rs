//! The password of the workbench, for whoever reaches it over the network of the house.
//!
//! It is kept as Argon2id with 19 MiB of memory, two passes and one lane, as OWASP advises for storing passwords. Wrong
//! ones wait in one line, so that thousands of tries take days.

use crate::problem::Problem;
use argon2::password_hash::{PasswordHasher, PasswordVerifier, phc::PasswordHash};
use argon2::{Algorithm, Argon2, Params, Version};
use axum::http::StatusCode;
use kestrel_store::{Store, StoreError};
use sha2::{Digest, Sha256};
use std::time::Duration;
use tokio::sync::Semaphore;

/// The name of the setting that holds the hash.
const SETTING: &str = "password";

/// The fewest characters of a password.
pub const LEAST: usize = 10;

/// The most: more would only take time.
pub const MOST: usize = 200;

/// How long a wrong password waits for its answer; all tries wait in one line.
const WRONG: Duration = Duration::from_millis(800);

/// So many tries wait; more are told to stay away.
const WAITING: usize = 10;

/// The line in which tries wait, and the room that there is to wait.
pub struct Line {
    turn: Semaphore,
    room: Semaphore,
}

impl Default for Line {
    fn default() -> Self {
        Self { turn: Semaphore::new(1), room: Semaphore::new(WAITING) }
    }
}

/// Argon2id, m = 19 MiB, t = 2, p = 1 (OWASP, Password Storage Cheat Sheet).
fn argon() -> Argon2<'static> {
    let params = Params::new(19 * 1024, 2, 1, None).unwrap_or_default();
    Argon2::new(Algorithm::Argon2id, Version::V0x13, params)
}

/// Is it a password that may be set?
pub fn usable(password: &str) -> Result<(), String> {
    let length = password.chars().count();
    if (LEAST..=MOST).contains(&length) {
        return Ok(());
    }
    Err(format!("a password has {LEAST} to {MOST} characters, and this one has {length}; take a sentence"))
}

/// The hash of a password.
pub fn hashed(password: &str) -> Result<String, String> {
    argon().hash_password(password.as_bytes()).map(|hash| hash.to_string()).map_err(|error| error.to_string())
}

/// Does a password fit a hash?
pub fn fits(password: &str, hash: &str) -> bool {
    PasswordHash::new(hash).is_ok_and(|hash| argon().verify_password(password.as_bytes(), &hash).is_ok())
}

/// The hash that is kept; none where no password was set.
pub async fn kept(store: &Store) -> Result<Option<String>, StoreError> {
    store.setting::<String>(SETTING).await
}

/// Sets a password; everybody who had signed in is signed out.
pub async fn set(store: &Store, hash: &str) -> Result<(), StoreError> {
    store.set(SETTING, &hash).await?;
    store.sign_out(None).await?;
    Ok(())
}

/// A secret for a cookie, and its digest for the database.
pub fn fresh() -> (String, String) {
    let secret = format!("{}{}", uuid::Uuid::new_v4().simple(), uuid::Uuid::new_v4().simple());
    let digest = digest(&secret);
    (secret, digest)
}

/// What is kept of a cookie.
pub fn digest(secret: &str) -> String {
    Sha256::digest(secret.as_bytes()).iter().map(|byte| format!("{byte:02x}")).collect()
}

/// Tries a password: one after another, and slowly where it is wrong.
pub async fn tried(line: &Line, store: &Store, password: String) -> Result<bool, Problem> {
    let Ok(_room) = line.room.try_acquire() else {
        let detail = "Too many passwords are being tried. Wait a minute, then try again.";
        return Err(Problem::new(StatusCode::TOO_MANY_REQUESTS, "too-many", detail));
    };
    let _turn = line.turn.acquire().await;
    let Some(hash) = kept(store).await? else { return Ok(false) };
    if password.chars().count() > MOST {
        tokio::time::sleep(WRONG).await;
        return Ok(false);
    }
    let right = tokio::task::spawn_blocking(move || fits(&password, &hash)).await.unwrap_or(false);
    if !right {
        tokio::time::sleep(WRONG).await;
    }
    Ok(right)
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    /// OWASP's advice for Argon2id: at least 19 MiB, two passes, one lane (Password Storage Cheat Sheet, *from memory*).
    #[test]
    fn a_password_is_kept_as_owasp_advises() {
        let hash = hashed("a sentence of the tide").unwrap();
        assert!(hash.starts_with("$argon2id$v=19$m=19456,t=2,p=1$"), "{hash}");
        assert!(fits("a sentence of the tide", &hash));
        assert!(!fits("a sentence of the tidf", &hash));
        assert!(!fits("anything", "no hash"));
        assert_ne!(hashed("a sentence of the tide").unwrap(), hash, "each with a salt of its own");
    }

    #[rstest]
    #[case("short", false)]
    #[case("long enough so", true)]
    #[case(&"x".repeat(201), false)]
    fn a_password_is_no_word(#[case] password: &str, #[case] fits: bool) {
        assert_eq!(usable(password).is_ok(), fits);
    }

    #[test]
    fn a_cookie_is_not_in_the_database() {
        let (secret, kept) = fresh();
        assert_eq!(secret.len(), 64);
        assert_eq!(digest(&secret), kept);
        assert_ne!(secret, kept);
    }
}
