//! Backups: everything that the installation holds of its houses in one file, and the way back.
//!
//! A backup is a tar of open formats: `manifest.json`, a table a file (`tables/*.jsonl`, one row a line), and every house
//! as a site file (`houses/*.kdune.json`) for whoever has no Kestrel Dune. docs/FORMATS.md describes it. Every file is
//! checked against its sum before anything is touched.

use chrono::{DateTime, Utc};
use kestrel_core::file;
use kestrel_core::id::HouseId;
use kestrel_core::model::{Secrets, leaving};
use kestrel_store::{RestoreError, Store, StoreError, Tables};
use serde::{Deserialize, Serialize};
use sha2::{Digest, Sha256};
use std::collections::BTreeMap;
use std::fs::{self, OpenOptions};
use std::io::{self, Read as _, Write as _};
use std::os::unix::fs::OpenOptionsExt;
use std::path::{Path, PathBuf};
use utoipa::ToSchema;

/// The word by which a backup is known.
const FORMAT: &str = "kestrel-dune-backup";

/// The version that is written, and the newest that is read.
const VERSION: u32 = 1;

/// The ending of a backup's name.
pub const ENDING: &str = "kdune-backup.tar";

/// The largest file in a backup, in bytes.
const FILE_MAX: u64 = 2_000_000_000;

/// What a backup holds.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Manifest {
    /// Always `kestrel-dune-backup`.
    pub format: String,
    /// The version of the format; this is 1.
    pub version: u32,
    /// When it was made, in UTC.
    pub made_at: DateTime<Utc>,
    /// Are keys, passwords, accounts and links in it?
    pub secrets: bool,
    /// Its houses.
    pub houses: Vec<HouseIn>,
    /// Every other file of it with its SHA-256 sum in hexadecimal digits.
    pub sums: BTreeMap<String, String>,
}

/// A house in a backup.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct HouseIn {
    /// Its id.
    pub id: HouseId,
    /// Its name.
    pub name: String,
    /// How many changes there had been.
    pub revision: i64,
    /// Was it removed, and only kept for a while?
    #[serde(default)]
    pub removed: bool,
}

/// A backup that was read and is whole.
#[derive(Debug)]
pub struct Backup {
    /// What it holds.
    pub manifest: Manifest,
    tables: Tables,
}

/// What is wrong with a backup, or with making one.
#[derive(Debug, thiserror::Error)]
pub enum BackupError {
    /// It is something else.
    #[error("this is no backup: {0}. A backup is made with ./kestrel backup, or on the shelf")]
    NotOurs(String),
    /// It is of a later version.
    #[error("this backup has version {0}; this program reads up to version {VERSION}. Take a newer one")]
    Newer(u32),
    /// It is not what it was when it was made.
    #[error("{0}: {1}. The backup is damaged, and nothing was touched: take another one")]
    Damaged(String, String),
    /// Its rows cannot be put back.
    #[error("{0}. Nothing was touched")]
    Rows(RestoreError),
    /// The database failed.
    #[error(transparent)]
    Store(#[from] StoreError),
    /// It cannot be written.
    #[error("{}: {error}. There is no new backup; {hint}", path.display())]
    Disk {
        /// Where.
        path: PathBuf,
        /// What the system says.
        error: io::Error,
        /// What to do.
        hint: &'static str,
    },
}

fn sum(bytes: &[u8]) -> String {
    Sha256::digest(bytes).iter().map(|byte| format!("{byte:02x}")).collect()
}

/// A name as a part of a file's name.
pub fn slug(name: &str) -> String {
    let letters: String =
        name.chars().map(|c| if c.is_ascii_alphanumeric() { c.to_ascii_lowercase() } else { '-' }).collect();
    let parts: Vec<&str> = letters.split('-').filter(|part| !part.is_empty()).collect();
    if parts.is_empty() { "house".to_owned() } else { parts.join("-").chars().take(60).collect() }
}

/// Everything that the store holds of its houses.
///
/// # Errors
/// Where the database fails.
pub async fn make(store: &Store, secrets: Secrets, now: DateTime<Utc>) -> Result<Vec<u8>, BackupError> {
    let shelf = store.shelf().await?;
    let ids: Vec<HouseId> = shelf.iter().map(|house| house.id).collect();
    let tables = store.rows_of(&ids, secrets).await?;
    let mut files: BTreeMap<String, Vec<u8>> =
        tables.into_iter().map(|(name, text)| (format!("tables/{name}.jsonl"), text.into_bytes())).collect();
    for house in shelf.iter().filter(|house| house.removed_at.is_none()) {
        let snapshot = store.load(house.id).await?;
        let text = file::write(&leaving(&snapshot.site, secrets));
        let short: String = house.id.to_string().chars().take(8).collect();
        files.insert(format!("houses/{}-{short}.kdune.json", slug(&house.name)), text.into_bytes());
    }
    let houses = shelf.into_iter().map(|house| HouseIn {
        id: house.id,
        name: house.name,
        revision: house.revision,
        removed: house.removed_at.is_some(),
    });
    let manifest = Manifest {
        format: FORMAT.to_owned(),
        version: VERSION,
        made_at: now,
        secrets: secrets == Secrets::Kept,
        houses: houses.collect(),
        sums: files.iter().map(|(name, bytes)| (name.clone(), sum(bytes))).collect(),
    };
    pack(&manifest, &files, now).map_err(|error| BackupError::Damaged("the archive".to_owned(), error.to_string()))
}

fn pack(manifest: &Manifest, files: &BTreeMap<String, Vec<u8>>, now: DateTime<Utc>) -> io::Result<Vec<u8>> {
    let mut tar = tar::Builder::new(Vec::new());
    let mut put = |name: &str, bytes: &[u8]| {
        let mut header = tar::Header::new_gnu();
        header.set_size(bytes.len() as u64);
        header.set_mode(0o600);
        header.set_mtime(u64::try_from(now.timestamp()).unwrap_or(0));
        tar.append_data(&mut header, name, bytes)
    };
    put("manifest.json", &serde_json::to_vec_pretty(manifest)?)?;
    for (name, bytes) in files {
        put(name, bytes)?;
    }
    tar.into_inner()
}

/// Reads a backup and checks that it is whole.
///
/// # Errors
/// A [`BackupError`] that says what is wrong; nothing is touched by reading.
pub fn read(bytes: &[u8]) -> Result<Backup, BackupError> {
    let mut files = unpack(bytes)?;
    let no_manifest = || BackupError::NotOurs("there is no manifest.json in it".to_owned());
    let manifest = files.remove("manifest.json").ok_or_else(no_manifest)?;
    let told: serde_json::Value = serde_json::from_slice(&manifest)
        .map_err(|error| BackupError::Damaged("manifest.json".to_owned(), error.to_string()))?;
    if told.get("format").and_then(serde_json::Value::as_str) != Some(FORMAT) {
        return Err(BackupError::NotOurs(format!("“format” in its manifest.json is not “{FORMAT}”")));
    }
    match told.get("version").and_then(serde_json::Value::as_u64) {
        Some(version) if version > u64::from(VERSION) => {
            return Err(BackupError::Newer(u32::try_from(version).unwrap_or(u32::MAX)));
        }
        Some(1..) => {}
        _ => return Err(BackupError::Damaged("manifest.json".to_owned(), "it has no version".to_owned())),
    }
    let manifest: Manifest = serde_json::from_value(told)
        .map_err(|error| BackupError::Damaged("manifest.json".to_owned(), error.to_string()))?;
    for (name, expected) in &manifest.sums {
        let bytes = files.get(name).ok_or_else(|| BackupError::Damaged(name.clone(), "it is missing".to_owned()))?;
        if sum(bytes) != *expected {
            return Err(BackupError::Damaged(name.clone(), "it is not as it was when the backup was made".to_owned()));
        }
    }
    let mut tables = Tables::new();
    for (name, bytes) in files {
        if !manifest.sums.contains_key(&name) {
            return Err(BackupError::Damaged(name, "it is not in the manifest".to_owned()));
        }
        let Some(table) = name.strip_prefix("tables/").and_then(|name| name.strip_suffix(".jsonl")) else { continue };
        let text =
            String::from_utf8(bytes).map_err(|_| BackupError::Damaged(name.clone(), "it is no text".to_owned()))?;
        tables.insert(table.to_owned(), text);
    }
    Ok(Backup { manifest, tables })
}

fn unpack(bytes: &[u8]) -> Result<BTreeMap<String, Vec<u8>>, BackupError> {
    let cut = |error: io::Error| match bytes.get(..2) {
        Some(b"PK") => BackupError::NotOurs("it is a ZIP".to_owned()),
        _ if bytes.get(257..262) == Some(b"ustar") => {
            BackupError::Damaged("the archive".to_owned(), format!("it ends too soon ({error})"))
        }
        _ => BackupError::NotOurs("it is no tar archive".to_owned()),
    };
    let mut files = BTreeMap::new();
    for entry in tar::Archive::new(bytes).entries().map_err(cut)? {
        let entry = entry.map_err(cut)?;
        let name = entry.path().map_err(cut)?.to_string_lossy().into_owned();
        let size = entry.size();
        let mut content = Vec::new();
        entry.take(FILE_MAX).read_to_end(&mut content).map_err(cut)?;
        if content.len() as u64 != size {
            return Err(cut(io::Error::new(io::ErrorKind::UnexpectedEof, "a file is cut off")));
        }
        files.insert(name, content);
    }
    if files.is_empty() {
        return Err(cut(io::Error::new(io::ErrorKind::UnexpectedEof, "it is empty")));
    }
    Ok(files)
}

/// Puts every house of a backup in the place of the one with its id. Other houses stay.
///
/// # Errors
/// A [`BackupError`]; nothing was touched then.
pub async fn restore(store: &Store, backup: &Backup) -> Result<(), BackupError> {
    let ids: Vec<HouseId> = backup.manifest.houses.iter().map(|house| house.id).collect();
    store.put_rows(&ids, &backup.tables).await.map_err(|error| match error {
        RestoreError::Store(error) => BackupError::Store(error),
        other => BackupError::Rows(other),
    })
}

/// Writes a backup beside its place first and moves it there whole, for its owner's eyes only.
///
/// # Errors
/// [`BackupError::Disk`]; what was there before is there still.
pub fn save(path: &Path, bytes: &[u8]) -> Result<(), BackupError> {
    let name = path.file_name().map(|name| name.to_string_lossy().into_owned()).unwrap_or_default();
    let part = path.with_file_name(format!(".{name}.part"));
    let written = (|| {
        let _ = fs::remove_file(&part);
        let mut file = OpenOptions::new().write(true).create_new(true).mode(0o600).open(&part)?;
        file.write_all(bytes)?;
        file.sync_all()?;
        fs::rename(&part, path)
    })();
    written.map_err(|error| {
        let _ = fs::remove_file(&part);
        let hint = match error.kind() {
            io::ErrorKind::StorageFull | io::ErrorKind::QuotaExceeded => {
                "make room on the disk, or name another folder"
            }
            io::ErrorKind::PermissionDenied => "name a folder that this program may write to",
            _ => "name a folder that is there",
        };
        BackupError::Disk { path: path.to_owned(), error, hint }
    })
}

/// How backups are made by themselves.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Daily {
    /// The folder that they go to; none are made where it is empty.
    pub folder: String,
    /// So many are kept (1–365).
    pub keep: u16,
    /// Are keys, passwords, accounts and links in them?
    pub secrets: bool,
}

impl Default for Daily {
    fn default() -> Self {
        Self { folder: String::new(), keep: 14, secrets: true }
    }
}

/// What became of the last backup that was made by itself.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
pub struct LastDaily {
    /// When one was made last, in UTC.
    pub made_at: Option<DateTime<Utc>>,
    /// What went wrong since then.
    pub trouble: Option<String>,
}

/// Names of the settings in the store.
pub const DAILY: &str = "daily-backup";
const LAST: &str = "last-daily-backup";

/// What became of the last one.
///
/// # Errors
/// Where the database fails.
pub async fn last(store: &Store) -> Result<LastDaily, StoreError> {
    Ok(store.setting(LAST).await?.unwrap_or_default())
}

/// Makes the backup of the day where one is due, and lets go of old ones. Gives whether it made one.
///
/// # Errors
/// Where it could not be made; that is noted for the shelf, too.
pub async fn daily(store: &Store, now: DateTime<Utc>) -> Result<bool, BackupError> {
    let asked: Daily = store.setting(DAILY).await?.unwrap_or_default();
    let before = last(store).await?;
    let due = before.made_at.is_none_or(|at| now - at >= chrono::TimeDelta::hours(24));
    if asked.folder.is_empty() || !due {
        return Ok(false);
    }
    let made = in_folder(store, &asked, now).await;
    let note = match &made {
        Ok(()) => LastDaily { made_at: Some(now), trouble: None },
        Err(error) => LastDaily { trouble: Some(error.to_string()), ..before },
    };
    store.set(LAST, &note).await?;
    made.map(|()| true)
}

async fn in_folder(store: &Store, asked: &Daily, now: DateTime<Utc>) -> Result<(), BackupError> {
    let secrets = if asked.secrets { Secrets::Kept } else { Secrets::LeftOut };
    let bytes = make(store, secrets, now).await?;
    let folder = PathBuf::from(&asked.folder);
    save(&folder.join(format!("daily-{}.{ENDING}", now.format("%Y%m%dT%H%M%SZ"))), &bytes)?;
    let mut known: Vec<PathBuf> =
        fs::read_dir(&folder).map(|entries| entries.flatten().map(|entry| entry.path()).collect()).unwrap_or_default();
    known.retain(|path| {
        let name = path.file_name().map(|name| name.to_string_lossy().into_owned()).unwrap_or_default();
        name.starts_with("daily-") && name.ends_with(ENDING)
    });
    known.sort();
    for old in known.iter().rev().skip(usize::from(asked.keep.max(1))) {
        let _ = fs::remove_file(old);
    }
    Ok(())
}

/// Can a backup be written to the folder?
///
/// # Errors
/// [`BackupError::Disk`] where it cannot.
pub fn try_folder(asked: &Daily) -> Result<(), BackupError> {
    let path = PathBuf::from(&asked.folder).join(format!(".try.{ENDING}"));
    save(&path, b"")?;
    let _ = fs::remove_file(path);
    Ok(())
}

/// The next one is due at once.
///
/// # Errors
/// Where the database fails.
pub async fn forget_last(store: &Store) -> Result<(), StoreError> {
    store.set(LAST, &LastDaily::default()).await
}
