//! What a description may be at most, before anything is made of it.
//!
//! The reader of the notation trusts its text: it repeats as often as the text says, and a number that is too long ends it. So
//! length, nesting, numbers and repeats are looked at first, and each mistake is told with its place.

use super::NotDescribed;

/// A description is no longer than this, in bytes.
pub const MAX_BYTES: usize = 2_000;

/// Brackets are not nested deeper than this.
const MAX_DEPTH: usize = 12;

/// Numbers have no more digits than this.
const MAX_DIGITS: usize = 9;

/// A part is not repeated more often than this, and all repeats of a description are not more than this together.
const MAX_REPEATS: u32 = 64;

/// Looks at a description before it is read.
pub(super) fn check(irp: &str) -> Result<(), NotDescribed> {
    if irp.len() > MAX_BYTES {
        let why = format!("it is {} bytes long; at most {MAX_BYTES} are read", irp.len());
        return Err(NotDescribed { at: None, why });
    }
    let mut open: Vec<(char, usize)> = Vec::new();
    let mut repeats = 1_u32;
    let chars: Vec<char> = irp.chars().collect();
    let mut at = 0;
    while at < chars.len() {
        let fails = |at: usize, why: String| Err(NotDescribed { at: Some(at), why });
        match chars[at] {
            own @ ('(' | '{' | '[') => {
                open.push((own, at));
                if open.len() > MAX_DEPTH {
                    return fails(at, format!("brackets are nested deeper than {MAX_DEPTH}"));
                }
            }
            own @ (')' | '}' | ']') => {
                let wanted = match own {
                    ')' => '(',
                    '}' => '{',
                    _ => '[',
                };
                match open.pop() {
                    Some((known, _)) if known == wanted => {}
                    Some((known, from)) => {
                        return fails(at, format!("“{own}” closes the “{known}” at character {}", from + 1));
                    }
                    None => return fails(at, format!("“{own}” closes nothing")),
                }
                if own == ')' {
                    let next = at + 1 + chars[at + 1..].iter().take_while(|own| own.is_whitespace()).count();
                    let digits: String =
                        chars[next.min(chars.len())..].iter().take_while(|own| own.is_ascii_digit()).collect();
                    if let Ok(times) = digits.parse::<u32>() {
                        repeats = repeats.saturating_mul(times.max(1));
                        if repeats > MAX_REPEATS {
                            return fails(
                                next,
                                format!("it repeats its parts {repeats} times; at most {MAX_REPEATS} are sent"),
                            );
                        }
                    }
                }
            }
            own if own.is_ascii_digit() && (at == 0 || !is_of_name(chars[at - 1])) => {
                let digits = chars[at..].iter().take_while(|own| own.is_ascii_alphanumeric()).count();
                if digits > MAX_DIGITS + 2
                    || chars[at..at + digits].iter().filter(|own| own.is_ascii_digit()).count() > MAX_DIGITS + 1
                {
                    return fails(at, format!("a number has at most {MAX_DIGITS} digits"));
                }
                at += digits;
                continue;
            }
            '/' if matches!(chars.get(at + 1), Some('/' | '*')) => {
                return fails(at, "a comment is not kept here: put it into the note".to_owned());
            }
            own if !own.is_ascii() => return fails(at, format!("“{own}” is no part of the notation")),
            _ => {}
        }
        at += 1;
    }
    match open.pop() {
        Some((own, from)) => Err(NotDescribed { at: Some(from), why: format!("“{own}” is never closed") }),
        None => Ok(()),
    }
}

fn is_of_name(own: char) -> bool {
    own.is_ascii_alphanumeric() || own == '_'
}
