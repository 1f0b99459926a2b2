//! Nothing that was acknowledged is lost: the server and its database are killed under a stream of edits, and the edits
//! that were told as saved are counted afterwards, each once and in order.
#![allow(clippy::unwrap_used, clippy::expect_used, clippy::panic, reason = "a test")]

use kestrel_core::demo::{self, ids};
use kestrel_core::edit::{Edit, Entity};
use kestrel_core::model::House;
use serde_json::{Value, json};
use std::io::{BufRead, BufReader, Read, Write};
use std::net::TcpStream;
use std::path::{Path, PathBuf};
use std::process::{Child, Command, Stdio};
use std::time::Duration;

/// How many edits are sent, and at which of them something is killed.
const EDITS: usize = 60;
const KILL_SERVER: [usize; 2] = [12, 40];
const KILL_DATABASE: usize = 25;

/// A cluster of one's own, which may be killed.
struct Cluster {
    state: PathBuf,
}

impl Cluster {
    fn script(&self, command: &str) -> String {
        let script = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../kestrel");
        let output = Command::new(script).arg(command).env("KESTREL_STATE", &self.state).output().unwrap();
        assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
        String::from_utf8(output.stdout).unwrap().trim().to_owned()
    }

    fn kill(&self) {
        let home = std::fs::read_to_string(self.state.join("pg.home")).unwrap();
        let pid = std::fs::read_to_string(Path::new(home.trim()).join("data/postmaster.pid")).unwrap();
        let pid = pid.lines().next().unwrap();
        assert!(Command::new("kill").args(["-9", pid]).status().unwrap().success());
        // Its children see that it is gone and end; a new one starts once they have.
        while Path::new(&format!("/proc/{pid}")).exists() {
            std::thread::yield_now();
        }
    }
}

impl Drop for Cluster {
    fn drop(&mut self) {
        let script = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../kestrel");
        let _ = Command::new(script).args(["reset", "--yes"]).env("KESTREL_STATE", &self.state).output();
    }
}

struct Server {
    child: Child,
    port: u16,
}

impl Server {
    fn start(database: &str, port: u16) -> Self {
        let mut child = Command::new(env!("CARGO_BIN_EXE_kestrel-dune"))
            .args(["demo", "--port", &port.to_string()])
            .env("KESTREL_DATABASE_URL", database)
            .stdout(Stdio::piped())
            .stderr(Stdio::null())
            .spawn()
            .unwrap();
        let line = BufReader::new(child.stdout.take().unwrap())
            .lines()
            .map_while(Result::ok)
            .find(|line| line.contains("http://"));
        let line = line.expect("the server says where it is");
        let port = line.split("127.0.0.1:").nth(1).unwrap().split_whitespace().next().unwrap().parse().unwrap();
        Self { child, port }
    }

    fn kill(&mut self) {
        self.child.kill().unwrap();
        self.child.wait().unwrap();
    }
}

/// One request over a connection of its own: its status and body; nothing where there was no answer.
fn ask(port: u16, method: &str, path: &str, request: Option<&str>, body: &str) -> Option<(u16, Value)> {
    let mut stream = TcpStream::connect(("127.0.0.1", port)).ok()?;
    stream.set_read_timeout(Some(Duration::from_secs(30))).ok()?;
    let id = request.map(|id| format!("kestrel-request: {id}\r\n")).unwrap_or_default();
    write!(
        stream,
        "{method} {path} HTTP/1.1\r\nhost: 127.0.0.1:{port}\r\ncontent-type: application/json\r\n{id}content-length: {}\r\nconnection: close\r\n\r\n{body}",
        body.len()
    )
    .ok()?;
    let mut answer = String::new();
    stream.read_to_string(&mut answer).ok()?;
    let (head, text) = answer.split_once("\r\n\r\n")?;
    let status = head.split_whitespace().nth(1)?.parse().ok()?;
    let text =
        if head.to_lowercase().contains("transfer-encoding: chunked") { unchunked(text) } else { text.to_owned() };
    Some((status, serde_json::from_str(&text).ok()?))
}

fn unchunked(mut text: &str) -> String {
    let mut whole = String::new();
    while let Some((size, rest)) = text.split_once("\r\n") {
        let size = usize::from_str_radix(size.trim(), 16).unwrap_or(0);
        if size == 0 {
            break;
        }
        whole.push_str(&rest[..size]);
        text = rest[size..].trim_start_matches("\r\n");
    }
    whole
}

#[test]
fn what_was_told_as_saved_survives_kills_of_the_server_and_of_the_database() {
    let state = std::env::temp_dir().join(format!("kestrel-durability-{}", std::process::id()));
    std::fs::create_dir_all(&state).unwrap();
    let cluster = Cluster { state };
    let address = cluster.script("database");
    let database = format!("{address}/postgres");
    let mut server = Server::start(&database, 0);
    let port = server.port;
    let house = demo::marram_point().house;
    let path = format!("/api/houses/{}/edits", ids::house());
    let mut acknowledged = Vec::new();
    for at in 0..EDITS {
        let own = House { name: format!("House {at}"), ..house.clone() };
        let request = uuid::Uuid::from_u128(0x1000 + at as u128).to_string();
        let mut tries = 0;
        loop {
            let (_, view) = match ask(port, "GET", &format!("/api/houses/{}", ids::house()), None, "") {
                Some(known) if known.0 == 200 => known,
                _ => {
                    tries += 1;
                    assert!(tries < 200, "the server does not come back");
                    std::thread::park_timeout(Duration::from_millis(100));
                    continue;
                }
            };
            let base = view["versions"][ids::house().to_string()].as_i64();
            let edit = Edit::Put { entity: Entity::House(own.clone()), base };
            let body = json!({ "edits": [edit] }).to_string();
            if tries == 0 && KILL_SERVER.contains(&at) {
                // While the edit is on its way.
                let sender = std::thread::spawn({
                    let (path, request, body) = (path.clone(), request.clone(), body.clone());
                    move || ask(port, "POST", &path, Some(&request), &body)
                });
                server.kill();
                let _ = sender.join();
                server = Server::start(&database, port);
            }
            if tries == 0 && at == KILL_DATABASE {
                let sender = std::thread::spawn({
                    let (path, request, body) = (path.clone(), request.clone(), body.clone());
                    move || ask(port, "POST", &path, Some(&request), &body)
                });
                cluster.kill();
                cluster.script("database");
                let _ = sender.join();
            }
            // The same request again, whatever became of the one before.
            match ask(port, "POST", &path, Some(&request), &body) {
                Some((200, saved)) => {
                    acknowledged.push((own.name, saved["changed"]["revision"].as_i64().unwrap()));
                    break;
                }
                Some((503, _)) | None => tries += 1,
                Some((409, problem)) if problem["kind"] == "stale" => tries += 1,
                Some((status, problem)) => panic!("{status}: {problem}"),
            }
            assert!(tries < 200, "edit {at} is never saved");
        }
    }
    assert_eq!(acknowledged.len(), EDITS);
    let (_, log) = ask(port, "GET", &format!("/api/houses/{}/log?limit=500", ids::house()), None, "").unwrap();
    let titles: Vec<&str> = log.as_array().unwrap().iter().rev().filter_map(|line| line["title"].as_str()).collect();
    assert_eq!(titles.len(), EDITS, "each edit once: {titles:?}");
    for (at, title) in titles.iter().enumerate() {
        assert!(title.ends_with(&format!("“House {at}”")), "{at}: {title}");
    }
    server.kill();
}
