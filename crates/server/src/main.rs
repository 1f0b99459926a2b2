//! `kestrel-dune`: the server and the command line of Kestrel Dune.

mod access;
mod backup;
mod chime;
mod cli;
mod console;
mod guard;
mod houses;
mod listen;
mod page;
mod password;
mod problem;
mod routes;
mod serve;
mod spatial;
mod summary;
#[cfg(test)]
mod tests;
mod upgrade;
mod verbs;
mod views;
mod visit;
mod work;

use clap::Parser;
use std::process::ExitCode;

fn main() -> ExitCode {
    cli::run(cli::Cli::parse())
}
