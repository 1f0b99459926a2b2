//! The open file formats that hold several codes.
//!
//! | format | holds | module |
//! | --- | --- | --- |
//! | signed text, each with its `# name` | captures | [`named`] |
//! | Linux remote keymap (TOML) | decoded infrared codes and raw timing | [`keymap`] |
//! | code set CSV | every code, field by field | [`table`] |
//!
//! What holds a single capture is read by [`crate::signal::exchange`].

pub mod keymap;
pub mod named;
pub mod table;

/// A code as an import finds it: a name and what is sent.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Found {
    /// The name of the function.
    pub name: String,
    /// The device that the file names, if it does.
    pub device: Option<String>,
    /// How its key is pressed.
    pub press: crate::model::Press,
    /// What is sent.
    pub body: crate::model::CodeBody,
    /// The line of the file where it stands, counted from 1.
    pub line: usize,
}

/// A line of a file that could not be read.
#[derive(Debug, Clone, PartialEq, Eq, serde::Serialize, utoipa::ToSchema)]
pub struct Unread {
    /// Counted from 1.
    pub line: usize,
    /// What is wrong with it.
    pub why: String,
}

/// What was found in a file that holds several codes.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Import {
    /// The codes.
    pub found: Vec<Found>,
    /// The lines that could not be read.
    pub unread: Vec<Unread>,
}
