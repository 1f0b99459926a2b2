//! Text for people that several modules need: durations and times of the clock.

/// 29400 → “29.4 s”, 6000 → “6 s”.
#[must_use]
pub fn seconds(ms: u32) -> String {
    let (whole, tenths) = ((ms + 50) / 1000, (ms + 50) % 1000 / 100);
    if tenths == 0 { format!("{whole} s") } else { format!("{whole}.{tenths} s") }
}

/// 1230 → “20:30”.
#[must_use]
pub fn clock(minute: u16) -> String {
    format!("{}:{:02}", minute / 60, minute % 60)
}

/// 45 → “45 s”, 90 → “1 min 30 s”; hours and minutes from an hour on.
#[must_use]
pub fn minutes(s: u32) -> String {
    match (s / 3_600, s / 60 % 60, s % 60) {
        (0, 0, s) => format!("{s} s"),
        (0, min, 0) => format!("{min} min"),
        (0, min, s) => format!("{min} min {s} s"),
        (h, min, _) => format!("{h} h {min} min"),
    }
}

/// a; a and b; a, b and c.
#[must_use]
pub fn and<S: AsRef<str>>(words: &[S]) -> String {
    let plain: Vec<&str> = words.iter().map(AsRef::as_ref).collect();
    match plain.as_slice() {
        [] => String::new(),
        [one] => (*one).to_owned(),
        [rest @ .., last] => format!("{} and {last}", rest.join(", ")),
    }
}
/// The same with its first letter as a sentence begins.
#[must_use]
pub fn capital(words: &str) -> String {
    let mut letters = words.chars();
    letters.next().map_or_else(String::new, |first| first.to_uppercase().chain(letters).collect())
}

/// A length in metres, from mm.
#[must_use]
pub fn metres(mm: u32) -> String {
    format!("{:.2} m", f64::from(mm) / 1_000.0)
}
