#![no_main]

#[path = "../readers.rs"]
#[allow(dead_code)]
mod readers;

libfuzzer_sys::fuzz_target!(|bytes: &[u8]| readers::site_file(bytes));
