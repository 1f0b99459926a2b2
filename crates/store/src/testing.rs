//! A fresh database for a test, from a template that is migrated once.
//!
//! The cluster is the one that `KESTREL_TEST_DATABASE` names (`./kestrel test` sets it); without it
//! `./kestrel database` is asked, which starts a private one if needed. This is test code: it panics
//! where a test cannot go on.
#![allow(clippy::unwrap_used, clippy::expect_used, clippy::panic, reason = "test code")]

use crate::Store;
use diesel_async::{AsyncConnection, AsyncPgConnection, SimpleAsyncConnection};
use std::path::Path;
use std::process::Command;
use std::sync::atomic::{AtomicU32, Ordering};
use tokio::sync::OnceCell;

static TEMPLATE: OnceCell<(String, String)> = OnceCell::const_new();
static COUNT: AtomicU32 = AtomicU32::new(0);

/// A database of its own, with the schema and nothing in it; gives the store and its address.
///
/// # Panics
/// Where no database can be had.
pub async fn fresh() -> (Store, String) {
    let (cluster, template) = TEMPLATE.get_or_init(make_template).await;
    let name = format!("kestrel_test_{}_{}", std::process::id(), COUNT.fetch_add(1, Ordering::Relaxed));
    run(cluster, &format!("create database {name} template {template}")).await;
    let url = format!("{cluster}/{name}");
    (Store::new(&url).unwrap(), url)
}

/// The same with nothing in it at all, not even the schema.
///
/// # Panics
/// Where no database can be had.
pub async fn empty() -> (Store, String) {
    let (cluster, _) = TEMPLATE.get_or_init(make_template).await;
    let name = format!("kestrel_test_{}_{}", std::process::id(), COUNT.fetch_add(1, Ordering::Relaxed));
    run(cluster, &format!("create database {name}")).await;
    let url = format!("{cluster}/{name}");
    (Store::new(&url).unwrap(), url)
}

async fn run(cluster: &str, sql: &str) {
    // Another test may be copying the template at this moment: try again for a while.
    for attempt in 0.. {
        let mut conn = AsyncPgConnection::establish(&format!("{cluster}/postgres")).await.unwrap();
        match conn.batch_execute(sql).await {
            Ok(()) => return,
            Err(error) if attempt > 100 => panic!("{sql}: {error}"),
            Err(_) => tokio::time::sleep(std::time::Duration::from_millis(50)).await,
        }
    }
}

async fn make_template() -> (String, String) {
    let cluster = std::env::var("KESTREL_TEST_DATABASE").unwrap_or_else(|_| start_cluster());
    let template = format!("kestrel_template_{}", std::process::id());
    drop_leftovers(&cluster).await;
    run(&cluster, &format!("create database {template}")).await;
    Store::new(&format!("{cluster}/{template}")).unwrap().migrate().await.unwrap();
    (cluster, template)
}

/// Databases of test processes that have ended.
async fn drop_leftovers(cluster: &str) {
    use diesel::prelude::*;
    use diesel_async::RunQueryDsl;
    diesel::table! { pg_database (datname) { datname -> Text, } }
    let mut conn = AsyncPgConnection::establish(&format!("{cluster}/postgres")).await.unwrap();
    let names: Vec<String> = pg_database::table.select(pg_database::datname).load(&mut conn).await.unwrap();
    let process = |name: &str| name.split('_').nth(2).and_then(|pid| pid.parse::<u32>().ok());
    for name in names.iter().filter(|n| n.starts_with("kestrel_test_") || n.starts_with("kestrel_template_")) {
        if process(name).is_some_and(|pid| !Path::new(&format!("/proc/{pid}")).exists()) {
            let _ = conn.batch_execute(&format!("drop database if exists {name} with (force)")).await;
        }
    }
}

fn start_cluster() -> String {
    let script = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../kestrel");
    let output = Command::new(script).arg("database").output().expect("./kestrel runs");
    assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
    String::from_utf8(output.stdout).unwrap().trim().to_owned()
}
