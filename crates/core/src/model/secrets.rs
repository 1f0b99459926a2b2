//! What of a house may leave the installation.

use super::Site;

/// What is left out of a file, a copy or a backup.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Secrets {
    /// Local keys, passwords and accounts are in it.
    Kept,
    /// They are left out.
    LeftOut,
}

/// The house as it may leave this installation: without the leave to drive real devices, which belongs to the installation
/// alone, and without keys, passwords and accounts where nobody asked for them.
#[must_use]
pub fn leaving(site: &Site, secrets: Secrets) -> Site {
    let mut site = site.clone();
    for device in site.devices.iter_mut() {
        device.network.allowed.clear();
        if secrets == Secrets::LeftOut {
            device.network.password.clear();
            device.records.local_key.clear();
            device.records.account.clear();
        }
    }
    site
}

/// The keys, passwords and accounts that a file does not hold, taken over from the house that it is put in place of.
pub fn keep_secrets(known: &Site, wanted: &mut Site) {
    let keep = |own: &mut String, known: &String| {
        if own.is_empty() {
            own.clone_from(known);
        }
    };
    for device in wanted.devices.iter_mut() {
        let Some(before) = known.device(device.id) else { continue };
        keep(&mut device.network.password, &before.network.password);
        keep(&mut device.records.local_key, &before.records.local_key);
        keep(&mut device.records.account, &before.records.account);
    }
}
