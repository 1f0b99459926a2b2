//! Tables as CSV, harmless in a spreadsheet program: a cell that such a program would take for a formula is written with an
//! apostrophe before it, as OWASP advises against CSV injection, and read back without it.

use std::borrow::Cow;

/// What begins a formula, or what a program may take for its beginning.
const BEGINS: [char; 6] = ['=', '+', '-', '@', '\t', '\r'];

/// Would the mark be taken away when it is read? Then a cell of its own that looks so needs another one.
fn marked(cell: &str) -> bool {
    cell.strip_prefix('\'').is_some_and(|rest| rest.starts_with(BEGINS) || marked(rest))
}

/// A cell that no program takes for a formula. A plain number stays one.
#[must_use]
pub fn harmless(cell: &str) -> Cow<'_, str> {
    let number = || cell.starts_with(['+', '-']) && cell.parse::<f64>().is_ok();
    if marked(cell) || (cell.starts_with(BEGINS) && !number()) {
        Cow::Owned(format!("'{cell}"))
    } else {
        Cow::Borrowed(cell)
    }
}

/// The cell as it was before it was made harmless.
#[must_use]
pub fn plain(cell: &str) -> &str {
    if marked(cell) { &cell[1..] } else { cell }
}

/// Rows as CSV.
///
/// # Errors
/// Where a row cannot be written (never in practice: it is made in memory).
pub fn written<S: AsRef<str>>(rows: impl IntoIterator<Item = Vec<S>>) -> Result<String, csv::Error> {
    let mut writer = csv::Writer::from_writer(Vec::new());
    for row in rows {
        writer.write_record(row.iter().map(|cell| harmless(cell.as_ref()).into_owned()))?;
    }
    let bytes = writer.into_inner().map_err(|error| csv::Error::from(std::io::Error::other(error.to_string())))?;
    Ok(String::from_utf8_lossy(&bytes).into_owned())
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;
    use rstest::rstest;

    #[rstest]
    #[case("=1+1", "'=1+1")]
    #[case("@SUM(A1)", "'@SUM(A1)")]
    #[case("\tcmd", "'\tcmd")]
    #[case("\rcmd", "'\rcmd")]
    #[case("+9024 -4512", "'+9024 -4512")]
    #[case("-2+3", "'-2+3")]
    #[case("-5", "-5")]
    #[case("+0.5", "+0.5")]
    #[case("'=1", "''=1")]
    #[case("'Film", "'Film")]
    #[case("Film", "Film")]
    #[case("", "")]
    fn what_begins_a_formula_is_made_harmless(#[case] cell: &str, #[case] written: &str) {
        assert_eq!(harmless(cell), written);
        assert_eq!(plain(written), cell);
    }

    #[test]
    fn a_table_has_no_cell_that_a_program_would_run() {
        let text = written([vec!["device", "note"], vec!["=HYPERLINK(\"http://x\")", "-1"]]).unwrap();
        assert_eq!(text, "device,note\n\"'=HYPERLINK(\"\"http://x\"\")\",-1\n");
    }

    proptest! {
        #[test]
        fn every_cell_is_read_back_the_same(cell in "[=+@'\\-\t\ra-c1]{0,6}") {
            let written = harmless(&cell);
            prop_assert_eq!(plain(&written), cell.as_str());
            let number = written.parse::<f64>().is_ok();
            prop_assert!(number || !written.starts_with(BEGINS), "{written:?}");
        }
    }
}
