//! A document on A4.

use super::Made;
use std::fmt::Write as _;

/// Text as it may stand in HTML, in an element or an attribute.
#[must_use]
pub fn escaped(text: &str) -> String {
    let mut out = String::with_capacity(text.len());
    for c in text.chars() {
        match c {
            '&' => out.push_str("&amp;"),
            '<' => out.push_str("&lt;"),
            '>' => out.push_str("&gt;"),
            '"' => out.push_str("&quot;"),
            '\'' => out.push_str("&#39;"),
            // Control characters are none of HTML's.
            c if c.is_control() && !matches!(c, '\n' | '\t') => {}
            c => out.push(c),
        }
    }
    out
}

const STYLE: &str = "
:root { color-scheme: light; }
* { box-sizing: border-box; }
body { font: 10.5pt/1.4 'Atkinson Hyperlegible Next Variable', system-ui, sans-serif; color: #000; background: #fff; margin: 0 auto; max-width: 190mm; padding: 8mm; }
h1 { font-size: 20pt; margin: 0 0 2mm; }
h2 { font-size: 14pt; margin: 8mm 0 2mm; border-bottom: 0.6pt solid #000; break-after: avoid; }
h3 { font-size: 11.5pt; margin: 5mm 0 1mm; break-after: avoid; }
p { margin: 0 0 2mm; }
table { border-collapse: collapse; width: 100%; margin: 1mm 0 3mm; }
th { text-align: left; font-weight: 600; border-bottom: 0.6pt solid #000; padding: 0.6mm 2mm 0.6mm 0; }
td { border-bottom: 0.3pt solid #999; padding: 0.6mm 2mm 0.6mm 0; vertical-align: top; }
tr { break-inside: avoid; }
thead { display: table-header-group; }
.muted { color: #444; }
.care { border-left: 1mm solid #000; padding-left: 2mm; }
.mono { font-family: 'Atkinson Hyperlegible Mono Variable', ui-monospace, monospace; font-size: 9pt; }
.large { font-size: 15pt; line-height: 1.45; }
.large h1 { font-size: 28pt; } .large h2 { font-size: 19pt; }
.large li { margin-bottom: 2mm; }
.sheet { break-after: page; } .sheet:last-child { break-after: auto; }
.codes { display: flex; flex-wrap: wrap; gap: 8mm; } .codes figure { margin: 0; text-align: center; break-inside: avoid; }
.codes svg { width: 34mm; height: 34mm; }
@media print { body { padding: 0; max-width: none; } }
";

/// A string as it may stand in a style sheet.
fn quoted(text: &str) -> String {
    let plain: String = text.chars().filter(|c| !c.is_control()).collect();
    format!("\"{}\"", plain.replace('\\', "\\\\").replace('"', "\\\"").replace('<', "\\3c "))
}

/// A whole document: its title, what stands at the foot of every page, and its body.
#[must_use]
pub fn page(title: &str, place: &str, made: &Made, body: &str) -> String {
    let mut foot = format!("{place} · {} · revision {}", made.date, made.revision);
    if let Some(number) = made.handover {
        let _ = write!(foot, " · handover {number}");
    }
    let foot_css = quoted(&foot);
    format!(
        "<!doctype html>\n<html lang=\"en\">\n<head>\n<meta charset=\"utf-8\">\n<title>{}</title>\n<style>{STYLE}\n@page {{ size: A4; margin: 16mm 14mm 18mm; @bottom-left {{ content: {foot_css}; font-size: 8pt; }} @bottom-right {{ content: \"page \" counter(page) \" of \" counter(pages); font-size: 8pt; }} }}</style>\n</head>\n<body>\n{body}\n<p class=\"muted\">{}</p>\n</body>\n</html>\n",
        escaped(title),
        escaped(&foot),
    )
}

/// Where something is, in a line: the house with its rooms, or with how many there are.
#[must_use]
pub fn place(house: &str, rooms: &[String]) -> String {
    match rooms.len() {
        0 => house.to_owned(),
        1..=3 => format!("{house} · {}", crate::words::and(rooms)),
        many => format!("{house} · {many} rooms"),
    }
}

/// A table; nothing where it has no row.
#[must_use]
pub fn table(head: &[&str], rows: &[Vec<String>]) -> String {
    if rows.is_empty() {
        return String::new();
    }
    let mut out = String::from("<table><thead><tr>");
    head.iter().for_each(|cell| {
        let _ = write!(out, "<th>{}</th>", escaped(cell));
    });
    out.push_str("</tr></thead><tbody>\n");
    for row in rows {
        out.push_str("<tr>");
        row.iter().for_each(|cell| {
            let _ = write!(out, "<td>{}</td>", escaped(cell));
        });
        out.push_str("</tr>\n");
    }
    out.push_str("</tbody></table>\n");
    out
}
