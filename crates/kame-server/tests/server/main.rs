//! The server as it is reached and started. One program, so that it is built once.

mod account;
mod api;
mod binary;
mod command;
mod described;
mod firm;
mod hammer;
mod keeping;
mod limits;
mod onsite;
mod parts;
mod people;
mod practice;
mod repairs;
mod rooms;
mod watch;

/// Files packed into one.
pub fn packed(files: &[(&str, &str)]) -> Vec<u8> {
    use std::io::Write;
    let mut zip = zip::ZipWriter::new(std::io::Cursor::new(Vec::new()));
    for (name, text) in files {
        zip.start_file(*name, zip::write::SimpleFileOptions::default()).expect("an entry");
        zip.write_all(text.as_bytes()).expect("written");
    }
    zip.finish().expect("packed").into_inner()
}

/// So many jobs are in the demo.
const DEMO_JOBS: usize = 6;
