//! A class: who may do what on every route, a term from the code to the gradebook, and the wall by keys alone.

use anyhow::{Context, Result, ensure};
use interface_tests::http::{get, person, send};
use interface_tests::term::{newcomer, ok, picture, read_all, refused, text};
use interface_tests::{Browser, Server};
use reqwest::{Client, Method, StatusCode};
use serde_json::{Value, json};
use std::time::{Duration, Instant};
use thirtyfour::prelude::*;

/// One at a time: what is timed shares its two cores with nothing.
static ALONE: tokio::sync::Mutex<()> = tokio::sync::Mutex::const_new(());

fn rubric() -> Value {
    json!([{"id": "place", "name": "Place of the key", "points": 10.0, "by": "measured", "measure": "direction"},
           {"id": "idea", "name": "Idea", "points": 5.0, "by": "judged"}])
}

fn assignment(due: Option<&str>, late: &Value) -> Value {
    json!({"title": "Triangle", "brief": "everyday", "rubric": rubric(), "due": due, "zone": "Europe/Berlin", "late": late, "again": true})
}

#[tokio::test]
async fn a_term_goes_from_the_code_to_the_gradebook() -> Result<()> {
    let _alone = ALONE.lock().await;
    let s = Server::start("sc_term", true).await?;
    let ilse = person(&s, "ilse@puppets.example").await?;
    let desk = person(&s, "desk@puppets.example").await?;
    let [ana, bo, cy, dan, eve] = [
        newcomer(&s, "Ana").await?,
        newcomer(&s, "Bo").await?,
        newcomer(&s, "Cy").await?,
        newcomer(&s, "Dan").await?,
        newcomer(&s, "Eve").await?,
    ];

    // a student makes no class; an instructor does; a code is turned, closed, limited
    refused(&ana, &s, Method::POST, "/api/classes", &json!({"name": "Mine"}), 403).await?;
    let class = ok(&ilse, &s, Method::POST, "/api/classes", &json!({"name": "Term"})).await?;
    let (id, old) = (text(&class, "id"), text(&class, "code"));
    let path = format!("/api/classes/{id}");
    let turned = ok(&ilse, &s, Method::PATCH, &path, &json!({"version": 1, "turn_code": true, "most": 5})).await?;
    let code = text(&turned, "code");
    ensure!(code != old);
    ensure!(refused(&ana, &s, Method::POST, "/api/classes/join", &json!({"code": old}), 404).await?.contains("code"));
    for c in [&ana, &bo, &cy, &dan] {
        // as it is read aloud: with spaces, in small letters
        let spaced = format!("{} {}", code[..4].to_lowercase(), &code[4..]);
        ok(c, &s, Method::POST, "/api/classes/join", &json!({"code": spaced})).await?;
    }
    ensure!(refused(&eve, &s, Method::POST, "/api/classes/join", &json!({"code": code}), 409).await?.contains("full"));
    let view = ok(&ilse, &s, Method::PATCH, &path, &json!({"version": 2, "most": 20, "open": false})).await?;
    ensure!(
        refused(&eve, &s, Method::POST, "/api/classes/join", &json!({"code": code}), 409).await?.contains("closed")
    );
    refused(&ilse, &s, Method::PATCH, &path, &json!({"version": 2, "name": "Other"}), 409).await?;
    ensure!(view["members"].as_array().is_some_and(|m| m.len() == 5));
    // a student sees who teaches, and no code
    let seen = get(&ana, &s, &path).await?;
    ensure!(seen["code"].is_null() && seen["members"].as_array().is_some_and(|m| m.len() == 2), "{seen}");

    // two assignments: one whose date has passed and costs, one that is open
    let reference = picture(&ilse, &s, "reference").await?;
    let make = |a: Value, published: bool| json!({"version": 0, "assignment": a, "published": published, "reference": reference});
    let all = format!("{path}/assignments");
    ensure!(
        refused(
            &ilse,
            &s,
            Method::POST,
            &all,
            &make(json!({"title": "", "brief": "everyday", "rubric": rubric(), "late": {"kind": "told"}}), true),
            400
        )
        .await?
        .starts_with("title:")
    );
    let costs = json!({"kind": "costs", "percent_a_day": 10.0});
    let past = text(
        &ok(&ilse, &s, Method::POST, &all, &make(assignment(Some("2026-01-01T12:00:00Z"), &costs), true)).await?,
        "id",
    );
    let open = text(
        &ok(&ilse, &s, Method::POST, &all, &make(assignment(Some("2126-01-01T12:00:00Z"), &costs), false)).await?,
        "id",
    );
    refused(&ana, &s, Method::GET, &format!("/api/assignments/{open}"), &Value::Null, 404).await?;
    ok(
        &ilse,
        &s,
        Method::PUT,
        &format!("/api/assignments/{open}"),
        &json!({"version": 1, "assignment": assignment(Some("2126-01-01T12:00:00Z"), &costs), "published": true}),
    )
    .await?;
    let noticed = get(&ana, &s, "/api/notices").await?;
    ensure!(noticed["unread"].as_u64() == Some(2), "{noticed}");

    // handed in: good, late, again, a copy, somebody else's picture, nothing
    let hand = |id: &str| format!("/api/assignments/{id}/submissions");
    let (good, far) = (picture(&ana, &s, "cilka").await?, picture(&bo, &s, "faro").await?);
    let copy = picture(&cy, &s, "cilka").await?;
    let first = ok(&ana, &s, Method::POST, &hand(&open), &json!({"frame": picture(&ana, &s, "hugo").await?})).await?;
    let again =
        ok(&ana, &s, Method::POST, &hand(&open), &json!({"frame": good, "paragraph": "Second try", "may_show": true}))
            .await?;
    ensure!(again["attempt"] == 2 && first["attempt"] == 1);
    ok(&bo, &s, Method::POST, &hand(&open), &json!({"frame": far})).await?;
    ok(&cy, &s, Method::POST, &hand(&open), &json!({"frame": copy})).await?;
    refused(&dan, &s, Method::POST, &hand(&open), &json!({"frame": good}), 404).await?;
    refused(&dan, &s, Method::POST, &hand(&open), &json!({}), 400).await?;
    refused(&ilse, &s, Method::POST, &hand(&open), &json!({"frame": reference}), 403).await?;
    refused(&eve, &s, Method::POST, &hand(&open), &json!({"frame": good}), 404).await?;
    let late = ok(&bo, &s, Method::POST, &hand(&past), &json!({"frame": far})).await?;
    ensure!(late["late"]["late"] == true && late["late"]["keeps"] == 0.0, "{late}");

    // the wall: three pictures, what is near is near, the wrong side is far, a copy is told
    let wall = read_all(&ilse, &s, &open).await?;
    let of = |name: &str| {
        wall.as_array().and_then(|w| w.iter().find(|p| p["name"] == name)).cloned().context(name.to_owned())
    };
    let (a, b, c) = (of("Ana")?, of("Bo")?, of("Cy")?);
    ensure!(wall.as_array().is_some_and(|w| w.len() == 3));
    let steps = |p: &Value| p["distance"]["steps"].as_f64().unwrap_or(99.0);
    ensure!(steps(&a) < 1.0 && steps(&b) > 2.5, "{} {}", steps(&a), steps(&b));
    ensure!(a["copies"] == json!(["Cy"]) && c["copies"] == json!(["Ana"]) && b["copies"] == json!([]));
    ensure!(
        a["proposals"][0]["points"].as_f64().is_some_and(|p| p > 8.0) && b["proposals"][0]["points"] == 0.0,
        "{a} {b}"
    );

    // what was handed in is frozen: the case may go
    let case = get(&ana, &s, "/api/cases").await?;
    let mine = case
        .as_array()
        .context("cases")?
        .iter()
        .find(|x| x["frame_id"] == json!(good))
        .map(|x| text(x, "id"))
        .context("a case")?;
    ok(&ana, &s, Method::DELETE, &format!("/api/cases/{mine}"), &Value::Null).await?;
    let at = |p: &Value| format!("/api/submissions/{}", text(p, "id"));
    let r = ana.get(format!("{}{}/picture", s.base, at(&a))).send().await?;
    ensure!(r.status() == StatusCode::OK && r.bytes().await?.len() > 5000);

    // graded: a student sees nothing of it before it is given back; out of range and half graded are refused
    let grade = format!("{}/grade", at(&a));
    ensure!(refused(&ilse, &s, Method::PUT, &grade, &json!({"points": {"place": 11.0}}), 400).await?.contains("place"));
    ensure!(refused(&ilse, &s, Method::PUT, &grade, &json!({"points": {"none": 1.0}}), 400).await?.contains("none"));
    ok(&ilse, &s, Method::PUT, &grade, &json!({"points": {"place": 9.0}})).await?;
    ensure!(
        refused(&ilse, &s, Method::POST, &format!("{}/return", at(&a)), &Value::Null, 400)
            .await?
            .contains("Every criterion")
    );
    ok(&ilse, &s, Method::POST, &format!("{}/notes", at(&a)), &json!({"kind": "private", "text": "Between us"}))
        .await?;
    ok(&ilse, &s, Method::PUT, &grade, &json!({"points": {"place": 9.0, "idea": 3.0}, "note": "Well seen."})).await?;
    let before = get(&ana, &s, &at(&a)).await?;
    ensure!(
        before["share"].is_null()
            && before["grades"] == json!([])
            && before["notes"] == json!([])
            && before["proposals"] == json!([]),
        "{before}"
    );
    // a second grader who differs
    let members = get(&ilse, &s, &path).await?;
    let dan_id = members["members"]
        .as_array()
        .context("members")?
        .iter()
        .find(|m| m["name"] == "Dan")
        .map(|m| text(m, "id"))
        .context("Dan")?;
    ok(&ilse, &s, Method::PUT, &format!("{path}/members/{dan_id}"), &json!({"seat": "co_teacher"})).await?;
    let second = ok(&dan, &s, Method::PUT, &grade, &json!({"points": {"place": 3.0, "idea": 1.0}})).await?;
    ensure!(second["disputed"] == true && second["grades"].as_array().is_some_and(|g| g.len() == 3), "{second}");
    let moderated = ok(&dan, &s, Method::PUT, &grade, &json!({"points": {"place": 9.0, "idea": 3.0}})).await?;
    ensure!(moderated["disputed"] == false && moderated["share"] == 0.8, "{moderated}");
    ok(&ilse, &s, Method::POST, &format!("{}/return", at(&a)), &Value::Null).await?;
    let after = get(&ana, &s, &at(&a)).await?;
    ensure!(after["share"] == 0.8 && after["notes"] == json!([]), "{after}");
    ensure!(
        refused(&ana, &s, Method::POST, &hand(&open), &json!({"frame": picture(&ana, &s, "greta").await?}), 409)
            .await?
            .contains("returned")
    );

    // an appeal; the rubric is changed after marking: it asks, and old marks stay as they were given
    ok(
        &ana,
        &s,
        Method::POST,
        &format!("{}/notes", at(&a)),
        &json!({"kind": "appeal", "text": "Look at the height again."}),
    )
    .await?;
    ensure!(read_all(&ilse, &s, &open).await?[0]["appeal"] == true);
    let mut other = assignment(Some("2126-01-01T12:00:00Z"), &costs);
    other["rubric"][1]["points"] = json!(50.0);
    let put = format!("/api/assignments/{open}");
    let version = get(&ilse, &s, &put).await?["version"].clone();
    let edit = |anyway: bool| json!({"version": version, "assignment": other, "published": true, "anyway": anyway});
    ensure!(refused(&ilse, &s, Method::PUT, &put, &edit(false), 409).await?.contains("stay readable"));
    ok(&ilse, &s, Method::PUT, &put, &edit(true)).await?;
    ensure!(get(&ana, &s, &at(&a)).await?["share"] == 0.8);

    // the date moved after hand-in is to nobody's harm: Bo is in time now; moved back, Bo stays in time
    let put = format!("/api/assignments/{past}");
    for due in ["2126-01-01T12:00:00Z", "2026-01-01T12:00:00Z"] {
        let version = get(&ilse, &s, &put).await?["version"].clone();
        ok(
            &ilse,
            &s,
            Method::PUT,
            &put,
            &json!({"version": version, "assignment": assignment(Some(due), &costs), "published": true}),
        )
        .await?;
        let wall = read_all(&ilse, &s, &past).await?;
        ensure!(wall[0]["late"]["late"] == false, "{due}: {wall}");
    }

    // the gradebook: all for who teaches, one's own for a student; who is taken out stays in it with the work
    let book = get(&ilse, &s, &format!("{path}/gradebook")).await?;
    ensure!(book["rows"].as_array().is_some_and(|r| r.len() == 3) && book["rows"][0]["total"] == 0.8, "{book}");
    ensure!(get(&ana, &s, &format!("{path}/gradebook")).await?["rows"].as_array().is_some_and(|r| r.len() == 1));
    let cy_id = members["members"]
        .as_array()
        .context("members")?
        .iter()
        .find(|m| m["name"] == "Cy")
        .map(|m| text(m, "id"))
        .context("Cy")?;
    ok(&ilse, &s, Method::DELETE, &format!("{path}/members/{cy_id}"), &Value::Null).await?;
    ensure!(get(&ilse, &s, &format!("{path}/gradebook")).await?["rows"].as_array().is_some_and(|r| r.len() == 3));
    refused(&cy, &s, Method::GET, &path, &Value::Null, 404).await?;
    ok(&cy, &s, Method::GET, &at(&c), &Value::Null).await?;
    let csv = ilse.get(format!("{}{path}/gradebook.csv", s.base)).send().await?.text().await?;
    ensure!(csv.lines().count() == 4 && csv.contains("80.0"), "{csv}");
    let done = get(&ilse, &s, &format!("{path}/audit")).await?;
    ensure!(
        ["handed in", "graded", "gave back", "moved the date", "took somebody out"]
            .iter()
            .all(|w| done.as_array().is_some_and(|d| d.iter().any(|l| l["did"] == *w))),
        "{done}"
    );

    // the last instructor cannot leave; a code cannot be guessed at length
    let ilse_id = text(&get(&ilse, &s, "/api/session").await?, "id");
    refused(&ilse, &s, Method::DELETE, &format!("{path}/members/{ilse_id}"), &Value::Null, 409).await?;
    let mut last = StatusCode::OK;
    for i in 0..14 {
        last =
            send(&desk, &s, Method::POST, "/api/classes/join", &json!({"code": format!("AAAA{i:04}")})).await?.status();
    }
    ensure!(last == StatusCode::TOO_MANY_REQUESTS, "{last}");

    // every route by everyone: who may what
    let (sub, ass) = (at(&b), format!("/api/assignments/{open}"));
    let nobody = Client::new();
    let (fay, gus) = (newcomer(&s, "Fay").await?, newcomer(&s, "Gus").await?);
    let fay_id = text(&get(&fay, &s, "/api/session").await?, "id");
    let role = json!({"role": "instructor"});
    ok(&desk, &s, Method::PUT, &format!("/api/installation/accounts/{fay_id}"), &role).await?;
    let other_class = ok(&fay, &s, Method::POST, "/api/classes", &json!({"name": "Other"})).await?;
    ok(&gus, &s, Method::POST, "/api/classes/join", &json!({"code": other_class["code"]})).await?;
    let who = [
        ("nobody", &nobody),
        ("stranger", &eve),
        ("administrator", &desk),
        ("classmate", &ana),
        ("author", &bo),
        ("co-teacher", &dan),
        ("instructor", &ilse),
    ];
    let table: [(Method, String, Value, [u16; 7]); 20] = [
        (Method::GET, path.clone(), Value::Null, [401, 404, 404, 200, 200, 200, 200]),
        (Method::PATCH, path.clone(), json!({"version": 0}), [401, 404, 404, 403, 403, 403, 409]),
        (Method::GET, format!("{path}/audit"), Value::Null, [401, 404, 404, 403, 403, 200, 200]),
        (
            Method::PUT,
            format!("{path}/members/{ilse_id}"),
            json!({"seat": "student"}),
            [401, 404, 404, 403, 403, 403, 409],
        ),
        (Method::DELETE, format!("{path}/members/{ilse_id}"), Value::Null, [401, 404, 404, 403, 403, 403, 409]),
        (Method::GET, format!("{path}/assignments"), Value::Null, [401, 404, 404, 200, 200, 200, 200]),
        (
            Method::POST,
            format!("{path}/assignments"),
            json!({"version": 0, "assignment": assignment(None, &json!({"kind": "told"})), "published": false, "reference": text(&a, "id")}),
            [401, 404, 404, 403, 403, 404, 404],
        ),
        (Method::GET, format!("{path}/gradebook"), Value::Null, [401, 404, 404, 200, 200, 200, 200]),
        (Method::GET, format!("{path}/gradebook.csv"), Value::Null, [401, 404, 404, 403, 403, 200, 200]),
        (Method::GET, ass.clone(), Value::Null, [401, 404, 404, 200, 200, 200, 200]),
        (
            Method::PUT,
            ass.clone(),
            json!({"version": 0, "assignment": other, "published": true}),
            [401, 404, 404, 403, 403, 409, 409],
        ),
        (Method::DELETE, ass.clone(), Value::Null, [401, 404, 404, 403, 403, 409, 409]),
        (Method::GET, format!("{ass}/picture"), Value::Null, [401, 404, 404, 200, 200, 200, 200]),
        (Method::GET, format!("{ass}/wall"), Value::Null, [401, 404, 404, 403, 403, 200, 200]),
        (
            Method::POST,
            format!("{ass}/submissions"),
            json!({"frame": text(&a, "id")}),
            [401, 404, 404, 404, 404, 403, 403],
        ),
        (Method::GET, sub.clone(), Value::Null, [401, 404, 404, 404, 200, 200, 200]),
        (Method::GET, format!("{sub}/picture"), Value::Null, [401, 404, 404, 404, 200, 200, 200]),
        (Method::PUT, format!("{sub}/grade"), json!({"points": {}}), [401, 404, 404, 404, 403, 200, 200]),
        (Method::POST, format!("{sub}/return"), Value::Null, [401, 404, 404, 404, 403, 400, 400]),
        (
            Method::POST,
            format!("{sub}/notes"),
            json!({"kind": "private", "text": "x"}),
            [401, 404, 404, 404, 403, 201, 201],
        ),
    ];
    for (method, path, body, expect) in &table {
        for ((name, client), status) in who.iter().zip(expect) {
            let r = send(client, &s, method.clone(), path, body).await?;
            ensure!(r.status().as_u16() == *status, "{name} {method} {path}: {} instead of {status}", r.status());
        }
        // another class gives no right to this one: as strangers
        for (name, client) in [("instructor of another class", &fay), ("student of another class", &gus)] {
            let (r, status) = (send(client, &s, method.clone(), path, body).await?, expect[1]);
            ensure!(r.status().as_u16() == status, "{name} {method} {path}: {} instead of {status}", r.status());
        }
    }
    Ok(())
}

#[tokio::test]
async fn a_wall_is_sorted_and_marked_by_keys_alone() -> Result<()> {
    let _alone = ALONE.lock().await;
    let s = Server::start("sc_wall", true).await?;
    let b = Browser::open(1280, 800).await?;
    // who teaches lands on the wall that waits
    b.sign_in_to_the_wall(&s.base).await?;
    b.text_within("wall-count", 60, |t| t == "5 of 5").await?;
    b.accessible("wall").await?;
    b.choose("wall-order", "distance").await?;
    b.choose("wall-show", "copies").await?;
    b.text_within("wall-count", 20, |t| t == "2 of 5").await?;
    b.choose("wall-show", "all").await?;
    b.text_within("wall-count", 20, |t| t == "5 of 5").await?;

    // the first by key, its missing points by key, given back by key; then the next one is there
    let body = b.css("body").await?;
    b.page.execute("document.activeElement?.blur()", vec![]).await?;
    body.send_keys("n").await?;
    b.text_within("grade-total", 30, |t| t.contains("of 30 points")).await?;
    b.accessible("grading").await?;
    let name = b.css("[data-test=grade-panel] h2").await?.text().await?;
    body.send_keys("8").await?;
    body.send_keys(Key::Enter + "").await?;
    for _ in 0..100 {
        if b.css("[data-test=grade-panel] h2").await?.text().await? != name {
            break;
        }
        tokio::time::sleep(Duration::from_millis(100)).await;
    }
    ensure!(b.css("[data-test=grade-panel] h2").await?.text().await? != name, "the next one did not come");
    b.choose("wall-show", "open").await?;
    b.text_within("wall-count", 20, |t| t == "4 of 5").await?;

    // a phrase with the figures of this picture, as a note
    b.click_at(By::Css("[data-test=note-phrases] button")).await?;
    let says = b.css_within("[data-test=note-phrase]", 20).await?.text().await?;
    b.click("note-phrase").await?;
    b.click("note-add").await?;
    b.text_within("note", 20, |t| t.contains(&says)).await?;

    // what the student then sees
    b.page.set_window_rect(0, 0, 390, 844).await?;
    b.no_overflow("wall").await?;
    b.page.set_window_rect(0, 0, 1280, 800).await?;
    b.click("sign-out").await?;
    b.sign_in(&s.base, "ana@puppets.example", "strings and shadows").await?;
    b.open_class("assignments").await?;
    b.click_at(By::XPath("//li[@data-test='assignment-card']//a[contains(., 'by eye')]")).await?;
    b.text_within("my-submission", 30, |t| t.contains("given back") && t.contains("Look at the height")).await?;
    b.accessible("submission").await?;
    b.fill("appeal-text", "The height was meant.").await?;
    b.css("[data-test=appeal]").await?.send_keys(Key::Enter + "").await?;
    b.text_within("my-submission", 20, |t| t.contains("asks to look again")).await?;
    b.no_overflow("submission").await?;
    let errors = b.console_errors().await?;
    ensure!(errors.is_empty(), "{errors:?}");
    b.close().await
}

/// Puts a class of many into the database: accounts with Ana's password and cases with her picture, in the demo's class.
fn crowd(s: &Server, many: usize) -> Result<()> {
    let sql = format!(
        "with ana as (select * from accounts where email = 'ana@puppets.example'),
              room as (select id from classes limit 1),
              made as (insert into accounts (id, email, name, role, password_hash)
                       select gen_random_uuid(), 'many' || i || '@puppets.example', 'Many ' || i, 'student', ana.password_hash
                       from ana, generate_series(1, {many}) i returning id),
              seated as (insert into class_members (class_id, account_id, seat) select room.id, made.id, 'student' from made, room),
              own as (insert into cases (id, owner, title, brief) select gen_random_uuid(), id, 'Moon', 'everyday' from made returning id, owner),
              from_ana as (select f.*, m.body as marks from frames f
                           join cases c on c.id = f.case_id join ana on ana.id = c.owner
                           join lateral (select body from marks where frame_id = f.id order by version desc limit 1) m on true limit 1),
              shown as (insert into frames (id, case_id, file_name, file_hash, media_type, facts, role)
                         select gen_random_uuid(), own.id, x.file_name, x.file_hash, x.media_type, x.facts, 'reference' from own, from_ana x
                         returning id, case_id)
         insert into marks (frame_id, version, body, author)
         select shown.id, 1, x.marks, own.owner from shown join own on own.id = shown.case_id, from_ana x"
    );
    let done =
        std::process::Command::new("psql").args(["-v", "ON_ERROR_STOP=1", "-q", s.database(), "-c", &sql]).output()?;
    ensure!(done.status.success(), "{}", String::from_utf8_lossy(&done.stderr));
    Ok(())
}

/// Thirty hand in within the same minute and the server is killed meanwhile: nothing is lost, and all are read within three minutes.
/// A wall of three hundred opens within a second, the next one within a fifth.
#[tokio::test]
async fn a_crowd_is_read_and_its_wall_opens() -> Result<()> {
    let _alone = ALONE.lock().await;
    let mut s = Server::start("sc_crowd", true).await?;
    crowd(&s, 300)?;
    let ilse = person(&s, "ilse@puppets.example").await?;
    let class = text(&get(&ilse, &s, "/api/classes").await?[0], "id");
    let open = get(&ilse, &s, &format!("/api/classes/{class}/assignments")).await?;
    let id = open
        .as_array()
        .and_then(|a| a.iter().find(|a| a["handed_in"] != a["returned"]))
        .map(|a| text(a, "id"))
        .context("an assignment")?;
    let hand = format!("/api/assignments/{id}/submissions");
    let begin = Instant::now();
    for i in 1..=30 {
        let c = person(&s, &format!("many{i}@puppets.example")).await?;
        let frame = get(&c, &s, "/api/cases").await?[0]["frame_id"].clone();
        ok(&c, &s, Method::POST, &hand, &json!({"frame": frame})).await?;
        if i == 20 {
            s.again().await?;
        }
    }
    println!("30 handed in within {:.0} s", begin.elapsed().as_secs_f64());
    let wall = read_all(&ilse, &s, &id).await?;
    let took = begin.elapsed().as_secs_f64();
    println!("all read {took:.0} s after the first was handed in");
    ensure!(took < 180.0, "{took} s");
    let of_crowd = |w: &Value| {
        w.as_array()
            .map_or(0, |w| w.iter().filter(|p| p["name"].as_str().is_some_and(|n| n.starts_with("Many"))).count())
    };
    ensure!(of_crowd(&wall) == 30, "{} of 30 are there", of_crowd(&wall));
    ensure!(
        wall.as_array().is_some_and(|w| w.iter().all(|p| p["state"] != "failed" && p["distance"]["steps"].is_number()))
    );

    // the rest of the three hundred as copies of one of them
    let sql = format!(
        "insert into submissions (id, assignment_id, author, alias, state, file_hash, file_name, facts, marks, readings, core_version, late,
                                  distance, verdict, proposals, finger, rules)
         select gen_random_uuid(), s.assignment_id, a.id, 'Picture', 'handed_in', s.file_hash, s.file_name, s.facts, s.marks, s.readings,
                s.core_version, s.late, s.distance, s.verdict, s.proposals, s.finger, s.rules
         from accounts a, (select * from submissions where assignment_id = '{id}' and newest limit 1) s
         where a.email like 'many%' and not exists (select 1 from submissions t where t.author = a.id)"
    );
    let done =
        std::process::Command::new("psql").args(["-v", "ON_ERROR_STOP=1", "-q", s.database(), "-c", &sql]).output()?;
    ensure!(done.status.success(), "{}", String::from_utf8_lossy(&done.stderr));
    let mut opened: Vec<f64> = Vec::new();
    let mut wall = Value::Null;
    for _ in 0..5 {
        let start = Instant::now();
        wall = get(&ilse, &s, &format!("/api/assignments/{id}/wall")).await?;
        opened.push(start.elapsed().as_secs_f64());
    }
    ensure!(of_crowd(&wall) == 300, "{}", of_crowd(&wall));
    let mut next: Vec<f64> = Vec::new();
    for p in wall.as_array().context("a wall")?.iter().take(20) {
        let start = Instant::now();
        get(&ilse, &s, &format!("/api/submissions/{}", text(p, "id"))).await?;
        next.push(start.elapsed().as_secs_f64());
    }
    opened.sort_by(f64::total_cmp);
    next.sort_by(f64::total_cmp);
    println!(
        "wall of {}: {:.0} ms; next submission: {:.0} ms in the median, {:.0} ms at most",
        of_crowd(&wall),
        1e3 * opened[2],
        1e3 * next[10],
        1e3 * next[19]
    );
    ensure!(opened[2] < 1.0 && next[19] < 0.2, "{opened:?} {next:?}");
    Ok(())
}
