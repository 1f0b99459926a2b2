//! The verbs of the visit: tests and papers of a site file, two of them compared, and the password of the workbench.

use crate::console::{Failure, print};
use crate::password as own_password;
use crate::verbs::{Database, json, room, site, with_store};
use clap::Args;
use kestrel_core::check;
use kestrel_core::commission::list::is_left;
use kestrel_core::commission::{TestLine, TestState, list, runs};
use kestrel_core::compare::compare as differences;
use kestrel_core::id::RoomId;
use kestrel_core::model::Site;
use kestrel_core::papers::{self, Chapter, Made, RoomPart};
use kestrel_core::prove::Analysis;
use serde::Serialize;
use std::fmt::Write as _;

/// `tests`
#[derive(Args)]
pub struct TestsArgs {
    /// The site file (- reads standard input).
    site: String,
    /// Only this room, by name or id.
    #[arg(long)]
    room: Option<String>,
    /// Print one JSON document.
    #[arg(long)]
    json: bool,
}

/// `record`
#[derive(Args)]
pub struct RecordArgs {
    /// The site file (- reads standard input).
    site: String,
    /// Only this room, by name or id.
    #[arg(long)]
    room: Option<String>,
    /// As an HTML document (the only form there is; a browser prints it as PDF).
    #[arg(long)]
    html: bool,
    /// Keys, passwords and accounts are in it, too.
    #[arg(long)]
    with_secrets: bool,
}

fn rooms(site: &Site, wanted: Option<&String>) -> Result<Vec<RoomId>, Failure> {
    match wanted {
        Some(wanted) => Ok(vec![room(site, wanted)?]),
        None => Ok(site.rooms.iter().map(|room| room.id).collect()),
    }
}

/// What `tests --json` prints of a room.
#[derive(Serialize)]
struct RoomTests {
    name: String,
    done: usize,
    total: usize,
    tests: Vec<TestLine>,
}

pub fn tests(args: &TestsArgs) -> Result<(), Failure> {
    let site = site(&args.site)?;
    let all: Vec<RoomTests> = rooms(&site, args.room.as_ref())?
        .into_iter()
        .map(|room| {
            let tests = list(&site, room, &runs(&site, room));
            let done = tests.iter().filter(|line| !is_left(line)).count();
            let name = site.room(room).map_or_else(String::new, |room| room.name.clone());
            RoomTests { name, done, total: tests.len(), tests }
        })
        .collect();
    let troubled = |line: &TestLine| matches!(line.state, TestState::Failed | TestState::Stale);
    let wrong: usize = all.iter().map(|room| room.tests.iter().filter(|line| troubled(line)).count()).sum();
    if args.json {
        json(&all)?;
    } else {
        let mut out = String::new();
        for room in &all {
            let _ = writeln!(out, "{}: {} of {} tests done", room.name, room.done, room.total);
            for line in &room.tests {
                let state = match line.state {
                    TestState::Failed => "failed",
                    TestState::Stale => "stale",
                    TestState::Open => "open",
                    TestState::Rehearsed => "rehearsed",
                    TestState::NotPossible => "not possible here",
                    TestState::Passed => "passed",
                };
                let why =
                    if line.because.is_empty() { String::new() } else { format!(" ({})", line.because.join("; ")) };
                let _ = writeln!(out, "  {state:<18}{:<14}{}{why}", line.kind, line.title);
            }
        }
        print(out.trim_end());
    }
    match wrong {
        0 => Ok(()),
        1 => Err(Failure::Other("1 test failed or is stale".to_owned())),
        many => Err(Failure::Other(format!("{many} tests failed or are stale"))),
    }
}

pub fn record(args: &RecordArgs) -> Result<(), Failure> {
    if !args.html {
        return Err(Failure::Input(
            "say --html: that is the form of the record; a browser prints it as PDF".to_owned(),
        ));
    }
    let site = site(&args.site)?;
    let worked: Vec<_> = rooms(&site, args.room.as_ref())?
        .into_iter()
        .map(|room| {
            let runs = runs(&site, room);
            let tests = list(&site, room, &runs);
            (room, Analysis::of(&site, room).matrix(), runs, tests, check::room(&site, room).findings)
        })
        .collect();
    let parts: Vec<RoomPart<'_>> = worked
        .iter()
        .map(|(room, matrix, runs, tests, findings)| RoomPart { room: *room, matrix, runs, tests, findings })
        .collect();
    let date = jiff::Zoned::now().strftime("%-d %B %Y").to_string();
    let made = Made { date, revision: 0, handover: None };
    print(papers::record(&site, &parts, &Chapter::ALL, args.with_secrets, &made).trim_end());
    Ok(())
}

pub fn compare(before: &str, after: &str, as_json: bool) -> Result<(), Failure> {
    if before == "-" && after == "-" {
        return Err(Failure::Input("only one of the two can be read from standard input".to_owned()));
    }
    let found = differences(&site(before)?, &site(after)?);
    if as_json {
        json(&found)?;
    } else if found.is_empty() {
        print("Nothing differs.");
    } else {
        print(found.iter().map(|own| own.text.clone()).collect::<Vec<_>>().join("\n"));
    }
    if found.is_empty() { Ok(()) } else { Err(Failure::Other(format!("{} differences", found.len()))) }
}

/// One line of standard input, so that a password stands in no list of processes.
pub fn password(database: &Database) -> Result<(), Failure> {
    eprintln!(
        "The password for the workbench over the network ({} characters or more), then Enter:",
        own_password::LEAST
    );
    let mut line = String::new();
    std::io::stdin().read_line(&mut line).map_err(|error| Failure::Input(format!("nothing was read: {error}")))?;
    let line = line.trim_end_matches(['\n', '\r']);
    own_password::usable(line).map_err(Failure::Input)?;
    let hash = own_password::hashed(line).map_err(Failure::Other)?;
    with_store(database, async |store| {
        own_password::set(&store, &hash).await.map_err(|error| Failure::Other(error.to_string()))
    })?;
    print("The password is set; whoever was signed in has to sign in again.");
    Ok(())
}
