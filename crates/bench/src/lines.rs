//! Lines of a peer, at most 1 MB each.

use tokio::io::{AsyncBufReadExt, AsyncReadExt};

/// The longest line, in bytes.
pub const MAX_LINE: usize = 1_000_000;

/// One line of a peer.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum TextLine {
    /// What it says, without what ends it; bytes that are no UTF-8 are replaced.
    Text(String),
    /// Longer than [`MAX_LINE`]; what belonged to it was skipped.
    TooLong,
    /// There is no more.
    End,
}

/// Reads a line of at most [`MAX_LINE`] bytes that ends in `end`.
pub async fn next_line(reader: &mut (impl AsyncBufReadExt + Unpin), end: u8) -> TextLine {
    let mut line = Vec::new();
    let limit = MAX_LINE as u64 + 1;
    match (&mut *reader).take(limit).read_until(end, &mut line).await {
        Err(_) | Ok(0) => TextLine::End,
        Ok(read) if line.last() == Some(&end) || (read as u64) < limit => {
            if line.last() == Some(&end) {
                line.pop();
            }
            TextLine::Text(String::from_utf8_lossy(&line).into_owned())
        }
        Ok(_) => {
            loop {
                line.clear();
                match (&mut *reader).take(limit).read_until(end, &mut line).await {
                    Ok(read) if read > 0 && line.last() != Some(&end) => {}
                    _ => break,
                }
            }
            TextLine::TooLong
        }
    }
}

/// Bytes as a person reads them.
#[must_use]
pub fn printable(bytes: &[u8]) -> String {
    String::from_utf8_lossy(bytes).escape_debug().to_string()
}

#[cfg(test)]
mod tests {
    use super::*;
    use tokio::io::BufReader;

    #[tokio::test]
    async fn half_lines_long_lines_and_garbage_are_told_apart() {
        let long = "x".repeat(MAX_LINE + 5);
        let text = format!("one\r{long}\rtwo\r\u{fffd}half");
        let mut reader = BufReader::new(text.as_bytes());
        let mut heard = Vec::new();
        loop {
            match next_line(&mut reader, b'\r').await {
                TextLine::End => break,
                line => heard.push(line),
            }
        }
        let text = |text: &str| TextLine::Text(text.to_owned());
        assert_eq!(heard, [text("one"), TextLine::TooLong, text("two"), text("\u{fffd}half")]);
    }
}
