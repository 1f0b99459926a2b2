//! A database that holds houses is dumped before a new version changes it; without a dump nothing is changed.
#![allow(clippy::unwrap_used, clippy::expect_used, clippy::panic, reason = "a test")]

use kestrel_core::file;
use kestrel_store::{Store, testing};
use std::os::unix::fs::PermissionsExt;
use std::path::{Path, PathBuf};
use std::process::{Command, Output, Stdio};

/// A database of version 1 with one house, as that version left it.
async fn of_version_1() -> (Store, String) {
    let (store, url) = testing::empty().await;
    let data = Path::new(env!("CARGO_MANIFEST_DIR")).join("../store/src/tests/data/version-1.sql.gz");
    let mut text = Command::new("gzip").arg("-dc").arg(data).stdout(Stdio::piped()).spawn().unwrap();
    let psql = Command::new(postgres("psql"))
        .args(["--quiet", "--no-psqlrc", "--set=ON_ERROR_STOP=1", &url])
        .stdin(text.stdout.take().unwrap())
        .stdout(Stdio::null())
        .status()
        .unwrap();
    assert!(psql.success() && text.wait().unwrap().success());
    (store, url)
}

/// A program of the newest PostgreSQL that is installed, as the start command finds it.
fn postgres(program: &str) -> PathBuf {
    let mut found: Vec<PathBuf> = std::fs::read_dir("/usr/lib/postgresql")
        .unwrap()
        .map(|version| version.unwrap().path().join("bin").join(program))
        .filter(|path| path.exists())
        .collect();
    found.sort();
    found.pop().unwrap()
}

/// An empty folder of this test's own.
fn folder(name: &str) -> PathBuf {
    let folder = std::env::temp_dir().join(format!("kestrel-{name}-{}", std::process::id()));
    std::fs::create_dir_all(&folder).unwrap();
    folder
}

fn export(url: &str, dumps: &Path, pg_dump: &Path) -> Output {
    Command::new(env!("CARGO_BIN_EXE_kestrel-dune"))
        .args(["export", "Marram Point", "--database-url", url])
        .arg("--dumps")
        .arg(dumps)
        .arg("--pg-dump")
        .arg(pg_dump)
        .output()
        .unwrap()
}

fn files(folder: &Path) -> Vec<PathBuf> {
    std::fs::read_dir(folder).unwrap().map(|file| file.unwrap().path()).collect()
}

#[tokio::test]
async fn a_database_of_the_version_before_is_dumped_once_for_its_owner_alone_and_the_dump_holds_the_houses() {
    let (store, url) = of_version_1().await;
    let dumps = folder("dumped");
    let output = export(&url, &dumps, &postgres("pg_dump"));
    let said = String::from_utf8_lossy(&output.stderr).into_owned();
    assert!(output.status.success(), "{said}");
    // What is exported stands alone: where the dump went is said elsewhere.
    let site = file::read(&String::from_utf8(output.stdout).unwrap()).unwrap();
    assert_eq!(site.house.name, "Marram Point");
    let [dump] = &files(&dumps)[..] else { panic!("one dump") };
    assert!(said.contains(dump.to_str().unwrap()), "{said}");
    assert_eq!(dump.metadata().unwrap().permissions().mode() & 0o777, 0o600);
    let listed = Command::new(postgres("pg_restore")).arg("--list").arg(dump).output().unwrap();
    let listed = String::from_utf8(listed.stdout).unwrap();
    for table in ["house", "device", "code", "change"] {
        assert!(listed.lines().any(|line| line.contains(&format!("TABLE DATA public {table} "))), "{table}: {listed}");
    }
    // It is up to date now: there is nothing to dump a second time.
    assert!(!store.wants_a_dump().await.unwrap());
    assert!(export(&url, &dumps, &postgres("pg_dump")).status.success());
    assert_eq!(files(&dumps).len(), 1);
    std::fs::remove_dir_all(dumps).unwrap();
}

#[tokio::test]
async fn without_a_dump_nothing_is_changed_and_half_a_dump_is_none() {
    let (store, url) = of_version_1().await;
    let dumps = folder("undumped");
    for (pg_dump, folder) in
        [("/nowhere/pg_dump", dumps.clone()), ("false", dumps.clone()), ("true", dumps.join("none"))]
    {
        let output = export(&url, &folder, Path::new(pg_dump));
        assert!(!output.status.success(), "{pg_dump}");
        let said = String::from_utf8(output.stderr).unwrap();
        assert!(said.contains("nothing was changed. Name pg_dump with --pg-dump"), "{said}");
        assert!(output.stdout.is_empty());
        assert!(store.wants_a_dump().await.unwrap(), "it is as it was");
        assert!(files(&dumps).is_empty());
    }
    std::fs::remove_dir_all(dumps).unwrap();
}
