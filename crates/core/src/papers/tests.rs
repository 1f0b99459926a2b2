//! Papers of the demo house: complete, harmless, and in the words of the family.

use super::*;
use crate::check;
use crate::commission::{list, runs};
use crate::demo::{self, ids};
use crate::model::{OrderState, Site};
use crate::prove::Analysis;
use crate::surface::plainly::trade_word;

fn made() -> Made {
    Made { date: "3 May 2027".to_owned(), revision: 12, handover: Some(1) }
}

/// The text of a document without its markup and style.
fn text(html: &str) -> String {
    let body = html.split_once("<body>").map_or(html, |(_, body)| body);
    let mut out = String::new();
    let mut inside = false;
    for c in body.chars() {
        match c {
            '<' => inside = true,
            '>' => {
                inside = false;
                out.push(' ');
            }
            c if !inside => out.push(c),
            _ => {}
        }
    }
    out.replace("&amp;", "&").replace("&quot;", "\"").replace("&#39;", "'").replace("&lt;", "<").replace("&gt;", ">")
}

fn record_of(site: &Site, chapters: &[Chapter], secrets: bool) -> String {
    let room = ids::boat_hall();
    let matrix = Analysis::of(site, room).matrix();
    let runs = runs(site, room);
    let tests = list(site, room, &runs);
    let findings = check::room(site, room).findings;
    let part = RoomPart { room, matrix: &matrix, runs: &runs, tests: &tests, findings: &findings };
    record(site, &[part], chapters, secrets, &made())
}

#[test]
fn the_record_has_its_chapters_and_says_on_every_page_what_it_is() {
    let site = demo::with_disc();
    let html = record_of(&site, &Chapter::ALL, false);
    for chapter in Chapter::ALL.into_iter().filter(|own| *own != Chapter::Measurements) {
        assert!(html.contains(&format!("<h3>{}</h3>", chapter.title())), "{}", chapter.title());
    }
    assert!(html.contains("counter(page)") && html.contains("Boat Hall · 3 May 2027 · revision 12 · handover 1"));
    assert!(text(&html).contains("Projector") && text(&html).contains("Off → Feature film"));
    let drawn = html.split("<svg").nth(1).and_then(|rest| rest.split("</svg>").next()).unwrap();
    assert!(drawn.contains(">Receiver</text>") && drawn.matches("<path").count() >= 4, "{drawn}");
    let short = record_of(&site, &[Chapter::Devices], false);
    assert!(!short.contains("<h3>Cues</h3>"));
}

#[test]
fn the_foot_of_a_page_stays_one_line_however_many_rooms_there_are() {
    let names = |many: usize| (0..many).map(|at| format!("Room {at}")).collect::<Vec<_>>();
    assert_eq!(place("House", &names(2)), "House · Room 0 and Room 1");
    assert_eq!(place("House", &names(12)), "House · 12 rooms");
    assert_eq!(place("House", &[]), "House");
}

#[test]
fn keys_and_passwords_are_in_it_only_where_they_are_asked_for() {
    let mut site = demo::with_disc();
    site.devices.find_mut(|own| own.id == ids::receiver()).unwrap().records.local_key = "k3y-of-old".to_owned();
    assert!(!record_of(&site, &Chapter::ALL, false).contains("k3y-of-old"));
    assert!(record_of(&site, &Chapter::ALL, true).contains("k3y-of-old"));
}

#[test]
fn a_name_that_is_markup_stays_text() {
    let mut site = demo::with_disc();
    site.devices.find_mut(|own| own.id == ids::receiver()).unwrap().name = "<script>alert(1)</script>".to_owned();
    site.house.name = "\"</style><b>".to_owned();
    let html = record_of(&site, &Chapter::ALL, false);
    assert!(!html.contains("<script>") && !html.contains("</style><b>"));
}

#[test]
fn no_word_of_the_trade_stands_on_the_page_of_the_client() {
    let site = demo::with_disc();
    for room in [ids::boat_hall(), ids::watch_room(), ids::chart_loft(), ids::slip_deck(), ids::tidy_cabin()] {
        let matrix = Analysis::of(&site, room).matrix();
        let mut words = text(&client(&site, &[(room, &matrix, [0; 3])], &Links::new(), &made()));
        // Names that a hand has given are the house's own; the foot is for whoever files it.
        let names = site.rooms.iter().map(|own| own.name.clone());
        let names = names.chain(site.devices.iter().map(|own| own.name.clone()));
        let mut names: Vec<String> = names.chain(site.activities.iter().map(|own| own.name.clone())).collect();
        let labels = site
            .rooms
            .iter()
            .flat_map(|own| &own.surfaces)
            .flat_map(|own| own.keys().map(|(_, key)| key.label.clone()).collect::<Vec<_>>());
        names.extend(labels);
        names.sort_by_key(|name| std::cmp::Reverse(name.len()));
        for name in names.iter().filter(|name| !name.is_empty()) {
            words = words.replace(name.as_str(), " ");
        }
        assert_eq!(trade_word(&words), None, "{words}");
        assert!(words.contains("To start") && words.contains("Whom to call"), "{words}");
    }
}

#[test]
fn three_troubles_at_most_and_what_was_called_for_comes_first() {
    let site = demo::with_disc();
    let matrix = Analysis::of(&site, ids::boat_hall()).matrix();
    let usual = troubles(&site, ids::boat_hall(), &matrix, [0; 3]);
    assert_eq!(usual.len(), 3);
    let dark = troubles(&site, ids::boat_hall(), &matrix, [0, 0, 9]);
    assert!(dark[0].seen.contains("dark"), "{dark:?}");
}

#[test]
fn a_coin_cell_is_warned_of() {
    let mut site = demo::with_disc();
    let matrix = Analysis::of(&site, ids::boat_hall()).matrix();
    site.devices.iter_mut().for_each(|own| own.records.battery.clear());
    let page = |site: &Site| client(site, &[(ids::boat_hall(), &matrix, [0; 3])], &Links::new(), &made());
    assert!(!page(&site).contains("swallowed"));
    site.devices.find_mut(|own| own.id == ids::receiver()).unwrap().records.battery = "CR2032".to_owned();
    assert!(page(&site).contains("swallowed"));
}

#[test]
fn a_code_is_drawn_only_where_something_stays_to_serve_it() {
    let site = demo::with_disc();
    let matrix = Analysis::of(&site, ids::boat_hall()).matrix();
    let surface = site.room(ids::boat_hall()).unwrap().surfaces[0].id;
    let rooms = [(ids::boat_hall(), &matrix, [0; 3])];
    assert!(!client(&site, &rooms, &Links::new(), &made()).contains("<svg"));
    let links = Links::from([(surface, "http://192.0.2.40:7311/live/abc".to_owned())]);
    assert!(client(&site, &rooms, &links, &made()).contains("<svg"));
}

/// Draws the squares of a code as it stands on the page: paths of `M x y h w v h`, scaled by nothing.
fn dots(html: &str) -> (usize, Vec<Vec<bool>>) {
    let svg = html.split("<svg").nth(1).unwrap();
    let number = |text: &str| text.trim().parse::<f64>().map(|own| own as usize).unwrap_or(0);
    let wide = number(svg.split("width=\"").nth(1).unwrap().split('"').next().unwrap());
    let mut black = vec![vec![false; wide]; wide];
    let path = svg.split(" d=\"").nth(1).unwrap().split('"').next().unwrap();
    for square in path.split('M').skip(1) {
        let (at, rest) = square.split_once('h').unwrap();
        let (across, rest) = rest.split_once('v').unwrap();
        let down = rest.split(['H', 'h', 'z', 'V']).next().unwrap();
        let mut at = at.trim().split([' ', ',']).map(number);
        let (x, y) = (at.next().unwrap(), at.next().unwrap());
        for row in black.iter_mut().skip(y).take(number(down)) {
            row.iter_mut().skip(x).take(number(across)).for_each(|dot| *dot = true);
        }
    }
    (wide, black)
}

/// Read back by an independent reader (crate `rqrr`).
#[test]
fn a_code_on_the_page_opens_the_surface() {
    let site = demo::with_disc();
    let matrix = Analysis::of(&site, ids::boat_hall()).matrix();
    let surface = site.room(ids::boat_hall()).unwrap().surfaces[0].id;
    let link = format!("http://192.0.2.40:7311/s/{}", "0123456789abcdef".repeat(4));
    let html = client(&site, &[(ids::boat_hall(), &matrix, [0; 3])], &Links::from([(surface, link.clone())]), &made());
    let (wide, black) = dots(&html);
    let mut image = rqrr::PreparedImage::prepare_from_greyscale(wide, wide, |x, y| if black[y][x] { 0 } else { 255 });
    let grids = image.detect_grids();
    let (_, read) = grids.first().unwrap().decode().unwrap();
    assert_eq!(read, link);
}

#[test]
fn the_order_list_holds_what_was_written_down_and_what_the_house_asks_for() {
    let site = demo::marram_point();
    let all = orders(&site, None);
    assert!(all.iter().any(|line| line.order.is_some() && line.state == OrderState::Ordered));
    assert!(all.iter().any(|line| line.order.is_none() && line.what.starts_with("Code of")), "{all:?}");
    assert!(all.iter().any(|line| line.order.is_none() && line.what.starts_with("Power sensor")), "{all:?}");
    assert!(orders_html(&site, &made()).contains("order list"));
}
