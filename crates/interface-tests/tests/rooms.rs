//! A picture of a matte and a mirror ball in a room: its light as a whole on the halo, in words and in files.

use anyhow::{Context, Result, ensure};
use interface_tests::http::{get, person, send, upload};
use interface_tests::{Browser, Server, root};
use reqwest::{Method, StatusCode};
use serde_json::{Value, json};
use thirtyfour::prelude::*;

#[tokio::test]
async fn a_room_is_read_drawn_and_saved() -> Result<()> {
    let server = Server::start("sc_rooms", true).await?;
    let me = person(&server, "tomek@puppets.example").await?;

    // A picture of a traced room (tests/fixtures/make_rooms.py) with its marks.
    let made = send(&me, &server, Method::POST, "/api/cases", &json!({"title": "A room", "brief": "everyday"})).await?;
    let case = made.json::<Value>().await?["id"].as_str().context("a case")?.to_owned();
    let picture = std::fs::read(root().join("tests/fixtures/rooms/room-05.png"))?;
    let sent: Value = upload(&me, &server, &case, "room-05.png", picture).await?.error_for_status()?.json().await?;
    let frame = sent["id"].as_str().context("a frame")?.to_owned();
    let map = |format: &str| format!("{}/api/frames/{frame}/light-map?format={format}", server.base);

    // Nothing is marked: there is no map, and it is said why.
    let none = me.get(map("exr")).send().await?;
    ensure!(none.status() == StatusCode::NOT_FOUND, "{}", none.status());
    let why = none.json::<Value>().await?;
    ensure!(why["detail"].as_str().is_some_and(|d| d.contains("mirror ball")), "{why}");

    let known: Value = serde_json::from_slice(&std::fs::read(root().join("tests/fixtures/rooms/room-05.json"))?)?;
    let path = format!("/api/frames/{frame}/marks");
    let version = get(&me, &server, &path).await?["version"].clone();
    let body = json!({"version": version, "marks": known["marks"]});
    let read: Value = send(&me, &server, Method::PUT, &path, &body).await?.error_for_status()?.json().await?;
    let room = &read["readings"]["room"];
    ensure!(room["directional"].as_f64().is_some_and(|d| (0.0..=1.0).contains(&d)), "{read}");

    // What is saved is a picture of the whole sphere that any reader opens: twice as wide as high, brighter than white.
    for (format, kind) in [("exr", image::ImageFormat::OpenExr), ("hdr", image::ImageFormat::Hdr)] {
        let file = me.get(map(format)).send().await?.error_for_status()?.bytes().await?;
        let opened = image::load_from_memory_with_format(&file, kind)?.into_rgb32f();
        ensure!(opened.width() == 2 * opened.height(), "{} x {}", opened.width(), opened.height());
        let most = opened.pixels().map(|p| p.0[1]).fold(0.0, f32::max);
        let least = opened.pixels().map(|p| p.0[1]).fold(f32::MAX, f32::min);
        ensure!(most > 1.0 && least >= 0.0, "{format}: {least} to {most}");
    }
    ensure!(me.get(map("bmp")).send().await?.status().is_client_error(), "a format nobody writes");

    // In the browser: the same figures in words, the glow on the halo, the files as links.
    let b = Browser::open(1280, 800).await?;
    b.sign_in(&server.base, "tomek@puppets.example", "strings and shadows").await?;
    b.page.goto(format!("{}/cases/{case}/read", server.base)).await?;
    let said = b.text_within("room", 30, |t| t.contains("directional")).await?;
    let shown = format!("{:.2}", room["directional"].as_f64().unwrap_or_default());
    ensure!(said.contains(&shown), "{said} does not say {shown}");
    let leads = room["leads"].as_bool().context("whether one leads")?;
    ensure!(leads != said.contains("No single light leads"), "{said} though a light leads: {leads}");
    b.wait("room-glow").await?;
    ensure!(b.page.find_all(By::Css("[data-test=room-glow] > *")).await?.len() > 20, "the halo glows all around");
    ensure!(b.wait("map-exr").await?.attr("href").await?.is_some_and(|h| h.contains(&frame)), "a link to the map");
    b.accessible("read, a room").await?;
    b.no_overflow("read, a room").await?;

    // In the set: the room as the ball shows it lights the subject, and the lamps of the set, which it holds, go off.
    b.page.goto(format!("{}/cases/{case}/rebuild", server.base)).await?;
    b.text_within("room-kind", 30, |t| t.contains("Even")).await?;
    b.click("room-of-ball").await?;
    b.text_within("room-kind", 30, |t| t.contains("As a room gives it")).await?;
    b.text_within("set-saved", 30, |t| t.contains("Saved")).await?;
    let kept = get(&me, &server, &format!("/api/cases/{case}/set")).await?;
    ensure!(kept["set"]["ambient"]["map"]["rows"].as_u64().is_some_and(|r| (30..=64).contains(&r)), "the map is kept");
    ensure!(kept["set"]["lights"].as_array().is_some_and(|l| l.iter().all(|l| l["off"] == true)), "lamps are off");
    b.text_within("studio-status", 60, |t| t.contains("Drawn in")).await?;
    b.fill("room-turn", "90").await?;
    b.accessible("rebuild, a room").await?;
    b.no_overflow("rebuild, a room").await?;
    b.click("room-even").await?;
    b.text_within("room-kind", 10, |t| t.contains("Even")).await?;

    // With its lamps on again there is a key: a board is put where it gives a ratio, the person's own boards among the ways.
    let mut lit = get(&me, &server, &format!("/api/cases/{case}/set/from-reading")).await?["set"].clone();
    lit["boards"] = json!([{"position_m": [0.8, 0.0, 0.3], "aim_m": [0, 0, 0], "width_m": 1.0, "height_m": 1.5, "finish": "white"}]);
    let ask = json!({"set": lit, "board": 0, "key_to_fill": 1.5});
    let ways: Value = send(&me, &server, Method::POST, &format!("/api/cases/{case}/set/board"), &ask)
        .await?
        .error_for_status()?
        .json()
        .await?;
    let ways = ways.as_array().context("ways")?;
    ensure!(ways.len() > 2 && ways.iter().any(|w| w["mine"] == true), "{ways:?}");
    ensure!(ways.iter().any(|w| w["name"] == "the same in silver"), "{ways:?}");

    // A panorama that was saved comes back as the same room; a picture that shows none is refused with a sentence.
    let file = me.get(map("hdr")).send().await?.bytes().await?.to_vec();
    let wanted = json!({"title": "Panoramas", "brief": "everyday"});
    let made = send(&me, &server, Method::POST, "/api/cases", &wanted).await?;
    let other = made.json::<Value>().await?["id"].as_str().context("a case")?.to_owned();
    let sent: Value = upload(&me, &server, &other, "map.hdr", file).await?.error_for_status()?.json().await?;
    let again = get(&me, &server, &format!("/api/frames/{}/room", sent["id"].as_str().context("a frame")?)).await?;
    let first = get(&me, &server, &format!("/api/frames/{frame}/room")).await?;
    let stops = |v: &Value| v["level"]["stops"].as_f64().unwrap_or(f64::NAN);
    ensure!((stops(&again) - stops(&first)).abs() < 0.05, "{} and {}", stops(&again), stops(&first));
    let plain = std::fs::read(root().join("tests/fixtures/people/P000-triangle-2.png"))?;
    let sent: Value = upload(&me, &server, &other, "plain.png", plain).await?.error_for_status()?.json().await?;
    let none =
        me.get(format!("{}/api/frames/{}/room", server.base, sent["id"].as_str().unwrap_or_default())).send().await?;
    ensure!(none.status() == StatusCode::NOT_FOUND, "{}", none.status());
    ensure!(
        none.json::<Value>().await?["detail"].as_str().is_some_and(|d| d.contains("panorama")),
        "it says what to do"
    );
    b.page.goto(format!("{}/cases/{case}/read", server.base)).await?;

    // Without the mirror ball there is no room left, and nothing of it on the picture.
    b.click("use-mirror-1").await?;
    for _ in 0..60 {
        if b.page.find_all(By::Css("[data-test=room]")).await?.is_empty() {
            break;
        }
        tokio::time::sleep(std::time::Duration::from_millis(250)).await;
    }
    ensure!(b.page.find_all(By::Css("[data-test=room], [data-test=room-glow]")).await?.is_empty(), "the room is gone");

    // A person in a captured room where no light leads (tests/fixtures/make_people.py): no key is named, the mean light is.
    let wanted = json!({"title": "A person in a room", "brief": "everyday"});
    let made = send(&me, &server, Method::POST, "/api/cases", &wanted).await?;
    let case = made.json::<Value>().await?["id"].as_str().context("a case")?.to_owned();
    let name = "P403-warehouse-3";
    let folder = root().join("tests/fixtures/people-in-rooms");
    let picture = std::fs::read(folder.join(format!("{name}.png")))?;
    let sent: Value = upload(&me, &server, &case, "person.png", picture).await?.error_for_status()?.json().await?;
    let path = format!("/api/frames/{}/marks", sent["id"].as_str().context("a frame")?);
    let marks: Value = serde_json::from_slice(&std::fs::read(folder.join(format!("{name}.found.json")))?)?;
    let body = json!({"version": get(&me, &server, &path).await?["version"], "marks": marks});
    let read: Value = send(&me, &server, Method::PUT, &path, &body).await?.error_for_status()?.json().await?;
    let readings = &read["readings"];
    ensure!(readings["lights"].as_array().is_some_and(Vec::is_empty), "{}", readings["lights"]);
    ensure!(readings["room"]["shown_by"] == "face" && readings["room"]["leads"] == false, "{}", readings["room"]);
    b.page.goto(format!("{}/cases/{case}/read", server.base)).await?;
    let said = b.text_within("room", 30, |t| t.contains("Told by a face")).await?;
    ensure!(said.contains("No single light leads"), "{said}");
    ensure!(b.page.find_all(By::Css("[data-test=map-exr]")).await?.is_empty(), "a face shows no map worth a file");
    b.wait("room-glow").await?;
    b.accessible("read, a person in a room").await?;

    // In the set stands that person, turned as they are; the chin can be moved, and somebody else put there.
    b.page.goto(format!("{}/cases/{case}/rebuild", server.base)).await?;
    b.text_within("studio-status", 60, |t| t.contains("Drawn in")).await?;
    let subject = |v: &Value| v["set"]["subjects"][0].clone();
    let path = format!("/api/cases/{case}/set");
    let was = subject(&get(&me, &server, &path).await?);
    ensure!(was["kind"] == "person" && was["person"]["shape"].as_array().is_some_and(|s| s.len() > 20), "{was}");
    b.fill("nod", "12").await?;
    b.click("another").await?;
    b.text_within("set-saved", 30, |t| t.contains("Saved")).await?;
    let is = subject(&get(&me, &server, &path).await?);
    ensure!(is["pitch_deg"] == -12.0 && is["yaw_deg"] == was["yaw_deg"], "{is}");
    ensure!(is["person"]["number"] == 1 && is["person"].get("shape").is_none(), "{is}");
    // A board is metered with everything else: what it lifts is said, and where it must stand for a ratio is solved.
    b.click("add-board").await?;
    b.text_within("lift-1", 30, |t| t.contains("cheek")).await?;
    b.css("[data-test=meter-table] summary").await?.send_keys(Key::Enter + "").await?;
    b.text_within("meter-table", 10, |t| t.contains("forehead") && t.contains("background")).await?;
    let errors = b.console_errors().await?;
    ensure!(errors.is_empty(), "{errors:?}");
    b.fill("wanted-1", "4").await?;
    b.click("solve-1").await?;
    // no lamp leads in this room, so there is no key that a ratio could be of
    b.text_within("unsolved-1", 30, |t| t.contains("no key")).await?;
    b.accessible("rebuild, a person and a board").await?;
    b.no_overflow("rebuild, a person and a board").await?;
    // A lamp that is added is the key, as there is none; then the board can be solved for, and the lamp be called otherwise.
    b.click("add-light").await?;
    b.text_within("set-saved", 30, |t| t.contains("Saved")).await?;
    let light = |v: &Value| v["set"]["lights"][0]["name"].as_str().unwrap_or_default().to_owned();
    ensure!(light(&get(&me, &server, &path).await?) == "key", "the first lamp is the key");
    b.click("solve-1").await?;
    b.text_within("ways-1", 30, |t| t.contains("as it is")).await?;
    b.fill("name", "key desk lamp\u{e007}").await?;
    b.text_within("set-saved", 30, |t| t.contains("Saved")).await?;
    for _ in 0..40 {
        if light(&get(&me, &server, &path).await?) == "key desk lamp" {
            break;
        }
        tokio::time::sleep(std::time::Duration::from_millis(200)).await;
    }
    ensure!(light(&get(&me, &server, &path).await?) == "key desk lamp", "its name is kept");
    b.accessible("rebuild, a lamp with a name").await?;
    // the refusal was answered with 400, which the browser writes down; nothing else
    let errors = b.console_errors().await?;
    ensure!(errors.iter().all(|e| e.contains("400")), "{errors:?}");
    b.close().await
}
