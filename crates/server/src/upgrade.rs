//! Bringing the database up to date when the program starts: houses that are in it are dumped first.

use kestrel_store::{Store, StoreError};
use std::fs::OpenOptions;
use std::io;
use std::os::unix::fs::OpenOptionsExt;
use std::path::{Path, PathBuf};
use std::process::{Command, Stdio};
use url::Url;

/// Where dumps go, and what makes them.
#[derive(Debug, Clone, clap::Args)]
pub struct Dumps {
    /// The folder for dumps of the database, which are made before a new version changes it.
    #[arg(long, env = "KESTREL_DUMPS", default_value = ".")]
    dumps: PathBuf,
    /// PostgreSQL's own pg_dump, of the server's version or newer.
    #[arg(long, env = "KESTREL_PG_DUMP", default_value = "pg_dump")]
    pg_dump: PathBuf,
}

/// Brings the database up to date. Where houses are in it and a new version is about to change it, it is dumped first;
/// without a dump nothing is changed.
pub async fn bring_up(store: &Store, address: &str, dumps: &Dumps) -> Result<(), Failed> {
    if store.wants_a_dump().await? {
        let file =
            dumps.dumps.join(format!("before-upgrade-{}.dump", jiff::Timestamp::now().strftime("%Y%m%dT%H%M%SZ")));
        let (program, address, target) = (dumps.pg_dump.clone(), address.to_owned(), file.clone());
        let dumped = tokio::task::spawn_blocking(move || dump(&program, &address, &target)).await;
        dumped.map_err(|error| Failed::Dump(error.to_string()))?.map_err(|error| Failed::Dump(error.to_string()))?;
        eprintln!("The database was dumped to {} before it is brought up to date.", file.display());
    }
    Ok(store.migrate().await?)
}

/// Why the database was not brought up to date.
#[derive(Debug, thiserror::Error)]
pub enum Failed {
    /// It cannot be reached, or a migration failed.
    #[error(transparent)]
    Store(#[from] StoreError),
    /// It could not be dumped; nothing was changed.
    #[error(
        "the database holds houses and could not be dumped before the upgrade ({0}); nothing was changed. Name pg_dump with --pg-dump and a folder with --dumps"
    )]
    Dump(String),
}

/// Writes a dump that pg_restore reads. The password travels in the environment, and the file is for its owner alone.
fn dump(program: &Path, address: &str, file: &Path) -> io::Result<()> {
    let url = Url::parse(address).map_err(io::Error::other)?;
    let target = OpenOptions::new().write(true).create_new(true).mode(0o600).open(file)?;
    let done = Command::new(program)
        .args(["--format=custom", "--no-owner"])
        .env("PGHOST", url.host_str().unwrap_or("127.0.0.1"))
        .env("PGPORT", url.port().unwrap_or(5432).to_string())
        .env("PGUSER", url.username())
        .env("PGPASSWORD", url.password().unwrap_or_default())
        .env("PGDATABASE", url.path().trim_start_matches('/'))
        .stdin(Stdio::null())
        .stdout(target)
        .stderr(Stdio::piped())
        .output();
    let why = match done {
        Ok(output) if output.status.success() => return Ok(()),
        Ok(output) => io::Error::other(String::from_utf8_lossy(&output.stderr).trim().to_owned()),
        Err(error) => error,
    };
    // Half a dump is none.
    std::fs::remove_file(file)?;
    Err(why)
}
