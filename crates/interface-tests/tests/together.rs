//! What a class does together: a live round from phones, groups, pictures looked at for each other, graders held together, the
//! book as a table, how one comes on, and what people have a right to: pictures taken away, a file of all that is kept, removal.

use anyhow::{Context, Result, ensure};
use interface_tests::http::{get, person, send};
use interface_tests::term::{newcomer, ok, picture, read_all, refused, text};
use interface_tests::{Browser, Server};
use reqwest::{Client, Method, Response, StatusCode};
use serde_json::{Value, json};
use std::time::{Duration, Instant};

/// The next event of a stream of server-sent events; comments are passed over.
async fn event(r: &mut Response, rest: &mut String) -> Result<Value> {
    let begin = Instant::now();
    loop {
        ensure!(begin.elapsed() < Duration::from_secs(10), "nothing was told for ten seconds");
        if let Some((one, after)) = rest.split_once("\n\n") {
            let data: String = one.lines().filter_map(|l| l.strip_prefix("data:")).map(str::trim_start).collect();
            let after = after.to_owned();
            *rest = after;
            if !data.is_empty() {
                return Ok(serde_json::from_str(&data)?);
            }
            continue;
        }
        let chunk = tokio::time::timeout(Duration::from_secs(20), r.chunk()).await??.context("the stream ended")?;
        rest.push_str(std::str::from_utf8(&chunk)?);
    }
}

async fn class_of(c: &Client, s: &Server) -> Result<String> {
    Ok(text(&get(c, s, "/api/classes").await?[0], "id"))
}

fn holds(v: &Value, azimuth: f64) -> bool {
    v["places"].as_array().is_some_and(|p| p.iter().any(|p| p["azimuth_deg"].as_f64() == Some(azimuth)))
}

/// Sixty phones without accounts: every place is in the cloud within 300 ms; nothing of the light is told before it is shown.
#[tokio::test]
async fn a_round_is_played_by_sixty_phones() -> Result<()> {
    let s = Server::start("sc_round", true).await?;
    let ilse = person(&s, "ilse@puppets.example").await?;
    let ana = person(&s, "ana@puppets.example").await?;
    let class = class_of(&ilse, &s).await?;
    let frame = picture(&ilse, &s, "reference").await?;
    let rounds = format!("/api/classes/{class}/rounds");
    // what is no round is told
    refused(&ilse, &s, Method::POST, &rounds, &json!({"title": "", "frames": [frame]}), 400).await?;
    refused(&ilse, &s, Method::POST, &rounds, &json!({"title": "Moon", "frames": []}), 400).await?;
    refused(&ana, &s, Method::POST, &rounds, &json!({"title": "Moon", "frames": [frame]}), 403).await?;
    let round = ok(&ilse, &s, Method::POST, &rounds, &json!({"title": "Moon", "frames": [frame, frame]})).await?;
    let (id, code) = (text(&round, "id"), text(&round, "code"));
    let lead = format!("/api/rounds/{id}");
    let live = format!("/api/live/{code}");
    refused(&ana, &s, Method::GET, &lead, &Value::Null, 403).await?;

    // phones join without an account; a wrong code, an empty name, a stranger's sign are told
    let phone = Client::new();
    refused(&phone, &s, Method::POST, "/api/live/AAAAAA/players", &json!({"name": "x"}), 404).await?;
    refused(&phone, &s, Method::POST, &format!("{live}/players"), &json!({"name": "  "}), 400).await?;
    refused(&phone, &s, Method::GET, &format!("{live}?player={id}"), &Value::Null, 404).await?;
    let mut players = Vec::new();
    for i in 0..60 {
        let p =
            ok(&phone, &s, Method::POST, &format!("{live}/players"), &json!({"name": format!("Phone {i}")})).await?;
        players.push(text(&p, "player"));
    }
    // a phone that waits sees no picture
    let waiting = get(&phone, &s, &format!("{live}?player={}", players[0])).await?;
    ensure!(waiting["stage"] == "waiting" && waiting["told"].is_null(), "{waiting}");
    refused(&phone, &s, Method::GET, &format!("{live}/picture"), &Value::Null, 404).await?;
    let place = |player: &str, at: u32, az: f64, el: f64| json!({"player": player, "at": at, "place": {"azimuth_deg": az, "elevation_deg": el}});
    refused(&phone, &s, Method::PUT, &live, &place(&players[0], 0, 1.0, 1.0), 409).await?;

    // all phones and the wall watch
    let mut wall = ilse.get(format!("{}{lead}/events", s.base)).send().await?;
    ensure!(wall.headers()["content-type"].to_str()?.starts_with("text/event-stream"));
    let mut rest = String::new();
    ensure!(event(&mut wall, &mut rest).await?["players"] == 60);
    let mut watching = Vec::new();
    for p in &players {
        let mut r = phone.get(format!("{}{live}/events?player={p}", s.base)).send().await?;
        let mut rest = String::new();
        event(&mut r, &mut rest).await?;
        watching.push((r, rest));
    }
    let now = ok(&ilse, &s, Method::PATCH, &lead, &json!({"version": 1, "stage": "placing"})).await?;
    ensure!(now["told"].is_null() && now["version"] == 2);
    refused(&ilse, &s, Method::PATCH, &lead, &json!({"version": 1, "stage": "told"}), 409).await?;
    let start = Instant::now();
    for (r, rest) in &mut watching {
        let v = event(r, rest).await?;
        ensure!(v["stage"] == "placing" && v["told"].is_null(), "{v}");
    }
    println!("60 phones heard that the picture is shown within {:.0} ms", 1e3 * start.elapsed().as_secs_f64());
    ensure!(phone.get(format!("{}{live}/picture", s.base)).send().await?.status() == StatusCode::OK);

    // one after the other: from the finger to the wall
    let mut took = Vec::new();
    for (i, p) in players.iter().enumerate() {
        let az = f64::from(i as u32) - 30.0;
        let start = Instant::now();
        ok(&phone, &s, Method::PUT, &live, &place(p, 0, az, 20.0)).await?;
        while !holds(&event(&mut wall, &mut rest).await?, az) {}
        took.push(1e3 * start.elapsed().as_secs_f64());
    }
    took.sort_by(f64::total_cmp);
    println!("a place is in the cloud after {:.0} ms in the median, {:.0} ms at most, of 60", took[30], took[59]);
    ensure!(took[59] < 300.0, "{took:?}");
    // all at once: the last of sixty
    let start = Instant::now();
    let all: Vec<_> = players
        .iter()
        .enumerate()
        .map(|(i, p)| {
            let (c, url) = (phone.clone(), format!("{}{live}", s.base));
            let body = place(p, 0, f64::from(i as u32) + 0.5, 25.0);
            tokio::spawn(async move { c.put(url).json(&body).send().await?.error_for_status() })
        })
        .collect();
    loop {
        let v = event(&mut wall, &mut rest).await?;
        if (0..60).all(|i| holds(&v, f64::from(i) + 0.5)) {
            break;
        }
    }
    let burst = 1e3 * start.elapsed().as_secs_f64();
    println!("sixty placed at once are all in the cloud after {burst:.0} ms");
    for a in all {
        a.await??;
    }
    ensure!(burst < 1500.0, "{burst}");
    // what is no place is refused, what is another picture too
    for (az, el) in [(181.0, 0.0), (0.0, 91.0)] {
        refused(&phone, &s, Method::PUT, &live, &place(&players[0], 0, az, el), 400).await?;
    }
    refused(&phone, &s, Method::PUT, &live, &place(&players[0], 1, 0.0, 0.0), 409).await?;
    refused(&phone, &s, Method::PUT, &live, &place(&id, 0, 0.0, 0.0), 404).await?;
    // the cloud can be hidden while they place
    let hidden = ok(&ilse, &s, Method::PATCH, &lead, &json!({"version": 2, "cloud": false})).await?;
    ensure!(hidden["places"] == json!([]) && hidden["placed"] == 60 && hidden["crowd"].is_null());

    // the light: to all; how near each came to them alone; names only where they are wanted
    let told = ok(&ilse, &s, Method::PATCH, &lead, &json!({"version": 3, "stage": "told"})).await?;
    ensure!(told["told"]["lights"][0]["role"] == "key" && told["nearest"] == json!([]), "{told}");
    ensure!(told["crowd"]["median_off_deg"].as_f64().is_some_and(|d| d > 0.0) && !told["told"]["summary"][0].is_null());
    let mine = get(&phone, &s, &format!("{live}?player={}", players[7])).await?;
    ensure!(mine["off"]["angle_deg"].is_number() && mine["mine"]["azimuth_deg"] == 7.5, "{mine}");
    refused(&phone, &s, Method::PUT, &live, &place(&players[0], 0, 1.0, 1.0), 409).await?;
    let named = ok(&ilse, &s, Method::PATCH, &lead, &json!({"version": 4, "names": true})).await?;
    let near = named["nearest"].as_array().context("names")?;
    ensure!(near.len() == 5 && near.windows(2).all(|w| w[0]["angle_deg"].as_f64() <= w[1]["angle_deg"].as_f64()));
    // on to the next picture, whose light nobody knows yet
    let next = ok(&ilse, &s, Method::PATCH, &lead, &json!({"version": 5, "stage": "placing", "at": 1})).await?;
    ensure!(next["placed"] == 0 && next["told"].is_null());
    ensure!(get(&phone, &s, &format!("{live}?player={}", players[7])).await?["told"].is_null());
    refused(&ilse, &s, Method::PATCH, &lead, &json!({"version": 6, "at": 2}), 400).await?;
    ok(&ilse, &s, Method::PATCH, &lead, &json!({"version": 6, "stage": "ended"})).await?;
    refused(&phone, &s, Method::POST, &format!("{live}/players"), &json!({"name": "late"}), 409).await?;
    ok(&ilse, &s, Method::DELETE, &lead, &Value::Null).await?;
    refused(&phone, &s, Method::GET, &format!("{live}?player={}", players[7]), &Value::Null, 404).await?;
    Ok(())
}

fn assignment(more: &Value) -> Value {
    let mut a = json!({"title": "Moon", "brief": "everyday", "late": {"kind": "told"}, "again": true, "rubric": [
        {"id": "place", "name": "Place of the key", "points": 10.0, "by": "measured", "measure": "direction"},
        {"id": "idea", "name": "Idea", "points": 10.0, "by": "judged"}]});
    for (k, v) in more.as_object().into_iter().flatten() {
        a[k] = v.clone();
    }
    a
}

/// A class of an instructor with its students; its path.
async fn class_with(s: &Server, ilse: &Client, students: &[&Client]) -> Result<String> {
    let class = ok(ilse, s, Method::POST, "/api/classes", &json!({"name": "Together"})).await?;
    for c in students {
        ok(c, s, Method::POST, "/api/classes/join", &json!({"code": text(&class, "code")})).await?;
    }
    Ok(format!("/api/classes/{}", text(&class, "id")))
}

async fn set(s: &Server, ilse: &Client, class: &str, reference: &str, more: &Value) -> Result<String> {
    let body = json!({"version": 0, "assignment": assignment(more), "published": true, "reference": reference});
    Ok(text(&ok(ilse, s, Method::POST, &format!("{class}/assignments"), &body).await?, "id"))
}

async fn id_of(c: &Client, s: &Server) -> Result<String> {
    Ok(text(&get(c, s, "/api/session").await?, "id"))
}

/// Groups hand in together, pictures are looked at for each other, graders are held together, the book goes out and comes back.
#[tokio::test]
async fn a_class_works_together() -> Result<()> {
    let s = Server::start("sc_together", true).await?;
    let ilse = person(&s, "ilse@puppets.example").await?;
    let (ana, bo, cy, dan) =
        (newcomer(&s, "Ana").await?, newcomer(&s, "Bo").await?, newcomer(&s, "Cy").await?, newcomer(&s, "Dan").await?);
    let class = class_with(&s, &ilse, &[&ana, &bo, &cy, &dan]).await?;
    let (a, b, c) = (id_of(&ana, &s).await?, id_of(&bo, &s).await?, id_of(&cy, &s).await?);
    let dan_id = id_of(&dan, &s).await?;
    ok(&ilse, &s, Method::PUT, &format!("{class}/members/{dan_id}"), &json!({"seat": "co_teacher"})).await?;
    let reference = picture(&ilse, &s, "reference").await?;

    // groups: nobody in two, nobody from outside; a student sees their own
    let groups = format!("{class}/groups");
    for bad in [
        json!([{"name": "One", "members": [a, a]}]),
        json!([{"name": "One", "members": [dan_id]}]),
        json!([{"name": "One", "members": [a]}, {"name": "One", "members": [b]}]),
        json!([{"name": " ", "members": [a]}]),
    ] {
        refused(&ilse, &s, Method::PUT, &groups, &bad, 400).await?;
    }
    refused(&ana, &s, Method::PUT, &groups, &json!([]), 403).await?;
    ok(&ilse, &s, Method::PUT, &groups, &json!([{"name": "One", "members": [a, b]}, {"name": "Two", "members": [c]}]))
        .await?;
    ensure!(get(&ana, &s, &groups).await?.as_array().is_some_and(|g| g.len() == 1 && g[0]["name"] == "One"));

    // what one of a group hands in is seen by and counts for the other; again by the other takes its place
    let together = set(&s, &ilse, &class, &reference, &json!({"groups": true, "title": "Groups"})).await?;
    let hand = format!("/api/assignments/{together}/submissions");
    let first = ok(&ana, &s, Method::POST, &hand, &json!({"frame": picture(&ana, &s, "hugo").await?})).await?;
    ensure!(text(&get(&bo, &s, &format!("/api/assignments/{together}")).await?, "mine") == text(&first, "id"));
    refused(&cy, &s, Method::GET, &format!("/api/submissions/{}", text(&first, "id")), &Value::Null, 404).await?;
    let second = ok(&bo, &s, Method::POST, &hand, &json!({"frame": picture(&bo, &s, "cilka").await?})).await?;
    ensure!(second["attempt"] == 2 && second["mine"] == true);
    let wall = read_all(&ilse, &s, &together).await?;
    ensure!(wall.as_array().is_some_and(|w| w.len() == 1) && wall[0]["name"] == "One", "{wall}");
    let of_group = format!("/api/submissions/{}", text(&second, "id"));
    ok(&ilse, &s, Method::PUT, &format!("{of_group}/grade"), &json!({"points": {"place": 9.0, "idea": 9.0}})).await?;
    ok(&ilse, &s, Method::POST, &format!("{of_group}/return"), &Value::Null).await?;
    ensure!(get(&ana, &s, &of_group).await?["share"] == 0.9);
    let book = get(&ilse, &s, &format!("{class}/gradebook")).await?;
    let shares: Vec<Value> = book["rows"].as_array().context("rows")?.iter().map(|r| r["total"].clone()).collect();
    ensure!(shares == [json!(0.9), json!(0.9), Value::Null], "{shares:?}");
    let unread = get(&ana, &s, "/api/notices").await?;
    ensure!(unread["notices"].as_array().is_some_and(|n| n.iter().any(|n| text(n, "says").contains("given back"))));

    // pictures dealt: each looks at one of another, who did not agree takes no part, names are not told
    let peers = set(&s, &ilse, &class, &reference, &json!({"peers": 1, "title": "Peers"})).await?;
    let deal = format!("/api/assignments/{peers}/peers");
    refused(&ilse, &s, Method::POST, &deal, &Value::Null, 409).await?;
    for (who, which, agreed) in [(&ana, "ana", true), (&bo, "bruno", true), (&cy, "faro", false)] {
        let body = json!({"frame": picture(who, &s, which).await?, "may_show": agreed});
        ok(who, &s, Method::POST, &format!("/api/assignments/{peers}/submissions"), &body).await?;
    }
    read_all(&ilse, &s, &peers).await?;
    refused(&ana, &s, Method::POST, &deal, &Value::Null, 403).await?;
    let dealt = ok(&ilse, &s, Method::POST, &deal, &Value::Null).await?;
    ensure!(dealt == json!({"take_part": 2, "each": 1, "not_shown": 1}), "{dealt}");
    ensure!(get(&cy, &s, &deal).await? == json!([]));
    let task = get(&ana, &s, &deal).await?[0].clone();
    ensure!(text(&task, "sign").starts_with("Picture ") && !task.to_string().contains("Bo"), "{task}");
    let theirs = format!("/api/submissions/{}", text(&task, "id"));
    ensure!(ana.get(format!("{}{theirs}/picture", s.base)).send().await?.status() == StatusCode::OK);
    ensure!(cy.get(format!("{}{theirs}/picture", s.base)).send().await?.status() == StatusCode::NOT_FOUND);
    refused(&ana, &s, Method::GET, &theirs, &Value::Null, 404).await?;
    let say = format!("{theirs}/review");
    refused(&ana, &s, Method::PUT, &say, &json!({"text": "", "points": {}}), 400).await?;
    refused(&ana, &s, Method::PUT, &say, &json!({"text": "x", "points": {"place": 3.0}}), 400).await?;
    refused(&ana, &s, Method::PUT, &say, &json!({"text": "x", "points": {"idea": 11.0}}), 400).await?;
    refused(&cy, &s, Method::PUT, &say, &json!({"text": "x"}), 404).await?;
    ok(&ana, &s, Method::PUT, &say, &json!({"text": "Higher with the key.", "points": {"idea": 7.0}})).await?;
    let seen = get(&bo, &s, &theirs).await?;
    ensure!(
        seen["reviews"] == json!([{"by": null, "points": {"idea": 7.0}, "text": "Higher with the key."}]),
        "{seen}"
    );
    ensure!(get(&ilse, &s, &theirs).await?["reviews"][0]["by"] == "Ana");
    refused(&ilse, &s, Method::POST, &deal, &Value::Null, 409).await?;

    // a sample is marked without the others' points; then graders are held together
    let path = format!("{theirs}/grade");
    let graders = format!("/api/assignments/{peers}/graders");
    ok(&ilse, &s, Method::PUT, &format!("{theirs}/sample"), &json!({"sample": true})).await?;
    ok(&ilse, &s, Method::PUT, &path, &json!({"points": {"place": 8.0, "idea": 8.0}})).await?;
    let blind = get(&dan, &s, &theirs).await?;
    ensure!(blind["blind"] == true && blind["grades"] == json!([]) && blind["share"].is_null(), "{blind}");
    ensure!(refused(&dan, &s, Method::GET, &graders, &Value::Null, 409).await?.contains("1 of them"));
    ensure!(
        refused(&dan, &s, Method::POST, &format!("{theirs}/return"), &Value::Null, 409)
            .await?
            .contains("give your points")
    );
    let open = ok(&dan, &s, Method::PUT, &path, &json!({"points": {"place": 8.0, "idea": 4.0}})).await?;
    ensure!(open["blind"] == false && open["grades"].as_array().is_some_and(|g| g.len() == 2));
    let lines = get(&dan, &s, &graders).await?;
    // 16 and 12 of 20: a tenth over and under their mean (arithmetic)
    let bias = lines[0]["bias_percent"].as_f64().context("a figure")?;
    ensure!((bias + 10.0).abs() < 1e-6 && text(&lines[1], "says").contains("Idea"), "{lines}");
    refused(&ana, &s, Method::GET, &graders, &Value::Null, 403).await?;
    // phrases with the figures of the picture
    let phrases = get(&ilse, &s, &format!("{theirs}/phrases")).await?;
    let all: Vec<&str> = phrases.as_array().context("phrases")?.iter().filter_map(Value::as_str).collect();
    ensure!(all.iter().any(|p| p.contains("against the reference") && !p.contains('{')), "{all:?}");
    refused(&bo, &s, Method::GET, &format!("{theirs}/phrases"), &Value::Null, 403).await?;

    // the book goes out, is changed in a spreadsheet, is looked at, and comes in
    let book = format!("{class}/gradebook");
    let csv = ilse.get(format!("{}{book}.csv", s.base)).send().await?.text().await?;
    ensure!(ok(&ilse, &s, Method::POST, &book, &json!({"text": csv})).await?["changes"] == json!([]), "{csv}");
    let table = format!("Id,Groups\n{c},40\n{a},95\nnobody,10\n");
    let found = ok(&ilse, &s, Method::POST, &book, &json!({"text": table})).await?;
    ensure!(
        found["changes"].as_array().is_some_and(|f| f.len() == 2)
            && found["problems"][0].as_str().is_some_and(|p| p.contains("Line 4"))
    );
    ensure!(get(&cy, &s, &book).await?["rows"][0]["total"].is_null(), "a look changes nothing");
    ok(&ilse, &s, Method::POST, &book, &json!({"text": table, "apply": true})).await?;
    ensure!(get(&cy, &s, &book).await?["rows"][0]["total"] == 0.4);
    ok(&ilse, &s, Method::POST, &book, &json!({"text": format!("Id,Groups\n{a},-\n"), "apply": true})).await?;
    refused(&ana, &s, Method::POST, &book, &json!({"text": table}), 403).await?;
    refused(&ilse, &s, Method::POST, &book, &json!({"text": "no,table"}), 400).await?;

    // how one comes on: for oneself and for those who teach
    let page = format!("{class}/students/{a}");
    let own = get(&ana, &s, &page).await?;
    ensure!(own["lines"].as_array().is_some_and(|l| l.len() == 2) && own["lines"][0]["cell"]["share"] == 0.9, "{own}");
    let direction = own["course"]["parts"].as_array().and_then(|p| p.iter().find(|p| p["kind"] == "direction"));
    ensure!(
        direction
            .is_some_and(|d| d["values"].as_array().is_some_and(|v| v.len() == 2 && v.iter().all(Value::is_number))),
        "{own}"
    );
    ok(&ilse, &s, Method::GET, &page, &Value::Null).await?;
    refused(&bo, &s, Method::GET, &page, &Value::Null, 404).await?;
    Ok(())
}

/// Who has not handed in is told a day before, once; who has is left alone.
#[tokio::test]
async fn a_date_that_is_near_is_told() -> Result<()> {
    let mut s = Server::start("sc_remind", true).await?;
    let ilse = person(&s, "ilse@puppets.example").await?;
    let (ana, bo) = (newcomer(&s, "Ana").await?, newcomer(&s, "Bo").await?);
    let class = class_with(&s, &ilse, &[&ana, &bo]).await?;
    let reference = picture(&ilse, &s, "reference").await?;
    let near = std::process::Command::new("date").args(["-u", "-d", "+5 hours", "+%Y-%m-%dT%H:%M:%SZ"]).output()?;
    let near = String::from_utf8(near.stdout)?.trim().to_owned();
    let id = set(&s, &ilse, &class, &reference, &json!({"title": "Near", "due": near})).await?;
    set(&s, &ilse, &class, &reference, &json!({"title": "Far", "due": "2126-01-01T12:00:00Z"})).await?;
    let body = json!({"frame": picture(&ana, &s, "ana").await?});
    ok(&ana, &s, Method::POST, &format!("/api/assignments/{id}/submissions"), &body).await?;
    // a server looks when it starts, and every half hour
    for _ in 0..2 {
        s.again().await?;
        tokio::time::sleep(Duration::from_secs(2)).await;
    }
    let told = |n: &Value| {
        n["notices"].as_array().map_or(0, |n| n.iter().filter(|n| text(n, "says").contains("due within a day")).count())
    };
    ensure!(told(&get(&bo, &s, "/api/notices").await?) == 1, "{}", get(&bo, &s, "/api/notices").await?);
    ensure!(told(&get(&ana, &s, "/api/notices").await?) == 0);
    Ok(())
}

/// What a class asks, switches off and says counts whatever the brief says; it changes nothing that is graded.
#[tokio::test]
async fn a_class_has_its_house_rules() -> Result<()> {
    let s = Server::start("sc_house", true).await?;
    let ilse = person(&s, "ilse@puppets.example").await?;
    let ana = newcomer(&s, "Ana").await?;
    let class = class_with(&s, &ilse, &[&ana]).await?;
    let version = async || anyhow::Ok(get(&ilse, &s, &class).await?["version"].clone());
    for (bad, word) in [
        (json!({"off": ["no_such_rule"]}), "off[0]"),
        (json!({"off": ["smeared", "smeared"]}), "off[1]"),
        (json!({"ranges": {"noise_percent": {}}}), "a least or a most"),
        (json!({"ranges": {"noise_percent": {"least": 1.0}}}), "no rule holds that end"),
        (json!({"ranges": {"contrast_stops": {"least": 3.0, "most": 1.0}}}), "more than the most"),
        (json!({"phrases": ["  "]}), "phrases"),
    ] {
        let edit = json!({"version": version().await?, "house": bad});
        let said = refused(&ilse, &s, Method::PATCH, &class, &edit, 400).await?;
        ensure!(said.contains(word), "{word}: {said}");
    }
    let house = json!({"off": ["smeared"], "ranges": {"contrast_stops": {"least": 9.0}}, "ratio": "together", "phrases": ["Mind the {key_up} key."]});
    let now = ok(&ilse, &s, Method::PATCH, &class, &json!({"version": version().await?, "house": house})).await?;
    ensure!(now["house"] == house && get(&ana, &s, &class).await?["house"] == house, "{now}");

    let reference = picture(&ilse, &s, "reference").await?;
    let id = set(&s, &ilse, &class, &reference, &json!({})).await?;
    let path = format!("/api/assignments/{id}");
    let held = get(&ana, &s, &path).await?;
    ensure!(held["ratio"] == "together" && held["brief"]["ranges"]["contrast_stops"]["least"] == 9.0, "{held}");
    ensure!(held["brief"]["off"].as_array().is_some_and(|o| o.contains(&json!("smeared"))), "{held}");
    // what it asks is judged by, and its words are there for notes
    let body = json!({"frame": picture(&ana, &s, "cilka").await?});
    let sub = ok(&ana, &s, Method::POST, &format!("{path}/submissions"), &body).await?;
    read_all(&ilse, &s, &id).await?;
    let sub = format!("/api/submissions/{}", text(&sub, "id"));
    let seen = get(&ilse, &s, &sub).await?;
    let findings = seen["verdict"]["findings"].as_array().cloned().unwrap_or_default();
    let named = |id: &str| findings.iter().find(|f| f["rule"] == id);
    ensure!(named("smeared").is_none() && named("unsharp").is_some(), "{seen}");
    ensure!(named("contrast_low").is_some_and(|f| f["outcome"] == "fault"), "{findings:?}");
    let phrases = get(&ilse, &s, &format!("{sub}/phrases")).await?;
    ensure!(text(&json!({"p": phrases[0]}), "p").starts_with("Mind the "), "{phrases}");

    // before anything is graded a change counts once the assignment is saved again; after that it stays as it was judged
    for (least, graded, then) in [(8.0, false, 8.0), (7.0, true, 8.0)] {
        let house = json!({"ranges": {"contrast_stops": {"least": least}}});
        ok(&ilse, &s, Method::PATCH, &class, &json!({"version": version().await?, "house": house})).await?;
        if graded {
            ok(&ilse, &s, Method::PUT, &format!("{sub}/grade"), &json!({"points": {"place": 1.0}})).await?;
        }
        let v = get(&ilse, &s, &path).await?;
        let edit = json!({"version": v["version"], "assignment": v["assignment"], "published": true});
        let now = ok(&ilse, &s, Method::PUT, &path, &edit).await?;
        ensure!(now["brief"]["ranges"]["contrast_stops"]["least"] == then, "{now}");
    }
    Ok(())
}

/// What is begun is kept for its author alone until it is handed in.
#[tokio::test]
async fn what_is_begun_is_kept() -> Result<()> {
    let s = Server::start("sc_drafts", true).await?;
    let ilse = person(&s, "ilse@puppets.example").await?;
    let (ana, bo) = (newcomer(&s, "Ana").await?, newcomer(&s, "Bo").await?);
    let class = class_with(&s, &ilse, &[&ana, &bo]).await?;
    let reference = picture(&ilse, &s, "reference").await?;
    let id = set(&s, &ilse, &class, &reference, &json!({"title": "Moon"})).await?;
    let closed = json!({"title": "Gone", "due": "2020-01-01T12:00:00Z", "late": {"kind": "closed"}});
    set(&s, &ilse, &class, &reference, &closed).await?;
    let path = format!("/api/assignments/{id}");
    let draft = format!("{path}/draft");
    ensure!(get(&ana, &s, &draft).await?.is_null());
    let frame = picture(&ana, &s, "cilka").await?;
    let body = json!({"frame": frame, "paragraph": "I meant the moon", "who": "a puppet", "may_show": true});
    ok(&ana, &s, Method::PUT, &draft, &body).await?;
    refused(&bo, &s, Method::PUT, &draft, &body, 404).await?;
    let long = json!({"paragraph": "x".repeat(6001)});
    refused(&ana, &s, Method::PUT, &draft, &long, 400).await?;
    let kept = get(&ana, &s, &draft).await?;
    ensure!(kept["frame"] == frame && kept["paragraph"] == "I meant the moon" && kept["may_show"] == true, "{kept}");
    ensure!(get(&bo, &s, &draft).await?.is_null());
    ensure!(get(&ilse, &s, &path).await?["begun"] == 1 && get(&bo, &s, &path).await?["begun"] == 0);
    let open = get(&ana, &s, "/api/assignments/open").await?;
    ensure!(open.as_array().is_some_and(|o| o.len() == 1), "{open}");
    ensure!(open[0]["title"] == "Moon" && open[0]["draft_case"] == kept["case_id"], "{open}");
    // a picture that is taken out leaves the words
    let gone = format!("/api/cases/{}", text(&kept, "case_id"));
    ok(&ana, &s, Method::DELETE, &gone, &Value::Null).await?;
    let kept = get(&ana, &s, &draft).await?;
    ensure!(kept["frame"].is_null() && kept["paragraph"] == "I meant the moon", "{kept}");
    // handed in it is a draft no more, and what was given back is open no more
    let body = json!({"frame": picture(&ana, &s, "cilka").await?, "paragraph": kept["paragraph"]});
    let sub = ok(&ana, &s, Method::POST, &format!("{path}/submissions"), &body).await?;
    ensure!(get(&ana, &s, &draft).await?.is_null());
    ensure!(get(&ana, &s, "/api/assignments/open").await?[0]["mine"] == true);
    read_all(&ilse, &s, &id).await?;
    let sub = format!("/api/submissions/{}", text(&sub, "id"));
    ok(&ilse, &s, Method::PUT, &format!("{sub}/grade"), &json!({"points": {"place": 1.0, "idea": 1.0}})).await?;
    ok(&ilse, &s, Method::POST, &format!("{sub}/return"), &Value::Null).await?;
    ensure!(get(&ana, &s, "/api/assignments/open").await? == json!([]));
    Ok(())
}

/// Pictures are taken away from the wall, all that is kept comes as a file, an account goes with everything; points stay or go as
/// the class keeps them.
#[tokio::test]
async fn people_take_what_is_theirs() -> Result<()> {
    let s = Server::start("sc_rights", true).await?;
    let ilse = person(&s, "ilse@puppets.example").await?;
    let (ana, bo) = (newcomer(&s, "Ana").await?, newcomer(&s, "Bo").await?);
    let class = class_with(&s, &ilse, &[&ana, &bo]).await?;
    let reference = picture(&ilse, &s, "reference").await?;
    let id = set(&s, &ilse, &class, &reference, &json!({})).await?;
    let hand = format!("/api/assignments/{id}/submissions");
    let mut both = Vec::new();
    for (who, which) in [(&ana, "ana"), (&bo, "bruno")] {
        let body = json!({"frame": picture(who, &s, which).await?, "may_show": true, "who": "a puppet", "paragraph": "My own words"});
        both.push(format!("/api/submissions/{}", text(&ok(who, &s, Method::POST, &hand, &body).await?, "id")));
    }
    read_all(&ilse, &s, &id).await?;
    for sub in &both {
        ok(&ilse, &s, Method::PUT, &format!("{sub}/grade"), &json!({"points": {"place": 5.0, "idea": 5.0}})).await?;
        ok(&ilse, &s, Method::POST, &format!("{sub}/return"), &Value::Null).await?;
    }

    // all that is kept of Ana, as a file: her picture and her words, not her password, nothing of Bo
    let job = ok(&ana, &s, Method::POST, "/api/jobs", &json!({"kind": "export"})).await?;
    let path = format!("/api/jobs/{}", text(&job, "id"));
    let begin = Instant::now();
    while get(&ana, &s, &path).await?["state"] != "done" {
        ensure!(begin.elapsed() < Duration::from_secs(60), "{}", get(&ana, &s, &path).await?);
        tokio::time::sleep(Duration::from_millis(200)).await;
    }
    let r = ana.get(format!("{}{path}/result", s.base)).send().await?;
    ensure!(r.headers()["content-type"] == "application/zip");
    let file = r.bytes().await?;
    let has = |word: &[u8]| file.windows(word.len()).any(|w| w == word);
    // stored, not packed: names and texts stand in it as they are (APPNOTE of the zip format)
    ensure!(file.starts_with(b"PK\x03\x04") && has(b"account.json") && has(b"submission.json") && has(b"My own words"));
    let jpeg = std::fs::read(interface_tests::root().join("crates/server/demo/class/ana.jpg"))?;
    ensure!(has(&jpeg[jpeg.len() / 2..jpeg.len() / 2 + 400]), "the picture as it was sent");
    ensure!(!has(b"argon2") && !has(b"bo@term.example") && !has(b"bruno.jpg"));
    refused(&bo, &s, Method::GET, &path, &Value::Null, 404).await?;

    // a picture is taken away: by another student it is not there, by its author it goes from the wall, its points stay
    refused(&bo, &s, Method::DELETE, &both[0], &Value::Null, 404).await?;
    ok(&ana, &s, Method::DELETE, &both[0], &Value::Null).await?;
    let wall = get(&ilse, &s, &format!("/api/assignments/{id}/wall")).await?;
    ensure!(wall.as_array().is_some_and(|w| w.len() == 1 && w[0]["name"] == "Bo"), "{wall}");
    for c in [&ana, &ilse] {
        refused(c, &s, Method::GET, &both[0], &Value::Null, 404).await?;
        ensure!(c.get(format!("{}{}/picture", s.base, both[0])).send().await?.status() == StatusCode::NOT_FOUND);
    }
    let book = get(&ilse, &s, &format!("{class}/gradebook")).await?;
    ensure!(book["rows"].as_array().is_some_and(|r| r.len() == 2 && r.iter().all(|r| r["total"] == 0.5)), "{book}");

    // an account goes: with the right password only; its points stay under its name, nothing else
    let gone = |word: &str| json!({"password": word});
    refused(&bo, &s, Method::DELETE, "/api/account", &gone("a wrong sentence"), 403).await?;
    ensure!(
        refused(&ilse, &s, Method::DELETE, "/api/account", &gone("strings and shadows"), 409)
            .await?
            .contains("no other instructor")
    );
    ok(&bo, &s, Method::DELETE, "/api/account", &gone("a long enough sentence")).await?;
    ensure!(get(&bo, &s, "/api/session").await?.is_null());
    let again = json!({"email": "bo@term.example", "password": "a long enough sentence"});
    refused(&Client::new(), &s, Method::POST, "/api/session", &again, 401).await?;
    ensure!(get(&ilse, &s, &format!("/api/assignments/{id}/wall")).await? == json!([]));
    let book = get(&ilse, &s, &format!("{class}/gradebook")).await?;
    ensure!(
        book["rows"].as_array().is_some_and(|r| r.iter().any(|r| r["name"] == "Bo" && r["total"] == 0.5)),
        "{book}"
    );
    // the address is free again
    let back = newcomer(&s, "Bo").await?;
    ensure!(get(&back, &s, "/api/cases").await? == json!([]));

    // a class that keeps no points: they go with the picture
    let version = get(&ilse, &s, &class).await?["version"].clone();
    ok(&ilse, &s, Method::PATCH, &class, &json!({"version": version, "keep_grades": false, "keep_days": 30})).await?;
    ok(&back, &s, Method::POST, "/api/classes/join", &json!({"code": text(&get(&ilse, &s, &class).await?, "code")}))
        .await?;
    let body = json!({"frame": picture(&back, &s, "emil").await?});
    let third = format!("/api/submissions/{}", text(&ok(&back, &s, Method::POST, &hand, &body).await?, "id"));
    read_all(&ilse, &s, &id).await?;
    ok(&ilse, &s, Method::PUT, &format!("{third}/grade"), &json!({"points": {"place": 1.0, "idea": 1.0}})).await?;
    ok(&ilse, &s, Method::DELETE, &third, &Value::Null).await?;
    let own = get(&back, &s, &format!("{class}/gradebook")).await?;
    ensure!(own["rows"][0]["cells"][0]["handed_in"] == false && own["rows"][0]["total"].is_null(), "{own}");

    // invitations: who runs the place makes them, they are used up, they give the role they were made for
    let desk = person(&s, "desk@puppets.example").await?;
    ok(&desk, &s, Method::PUT, "/api/installation", &json!({"sign_up": "invited"})).await?;
    let new = |name: &str, code: &Value| json!({"name": name, "email": format!("{name}@invited.example"), "password": "a long enough sentence", "invitation": code});
    let fresh = || Client::builder().cookie_store(true).build();
    refused(&fresh()?, &s, Method::POST, "/api/accounts", &new("eve", &Value::Null), 403).await?;
    refused(&fresh()?, &s, Method::POST, "/api/accounts", &new("eve", &json!("ABCDEFGHJKMN")), 403).await?;
    refused(&ilse, &s, Method::POST, "/api/installation/invitations", &json!({"role": "student", "many": 1}), 403)
        .await?;
    refused(
        &desk,
        &s,
        Method::POST,
        "/api/installation/invitations",
        &json!({"role": "administrator", "many": 1}),
        400,
    )
    .await?;
    let made =
        ok(&desk, &s, Method::POST, "/api/installation/invitations", &json!({"role": "instructor", "many": 1})).await?;
    let code = made["invitations"][0]["code"].clone();
    let eve = ok(&fresh()?, &s, Method::POST, "/api/accounts", &new("eve", &code)).await?;
    ensure!(eve["role"] == "instructor");
    refused(&fresh()?, &s, Method::POST, "/api/accounts", &new("mallory", &code), 403).await?;
    let csv = desk.get(format!("{}/api/installation/accounts.csv", s.base)).send().await?.text().await?;
    ensure!(csv.contains("eve@invited.example") && !csv.contains("removed-"), "{csv}");
    let done = get(&desk, &s, "/api/installation/audit").await?;
    ensure!(done.as_array().is_some_and(|d| d.iter().any(|l| text(l, "did").contains("took a picture away"))));
    Ok(())
}

/// Every new route by everyone: who may what.
#[tokio::test]
async fn who_may_what_together() -> Result<()> {
    let s = Server::start("sc_together_may", true).await?;
    let ilse = person(&s, "ilse@puppets.example").await?;
    let desk = person(&s, "desk@puppets.example").await?;
    let (ana, bo, cy, dan, eve) = (
        newcomer(&s, "Ana").await?,
        newcomer(&s, "Bo").await?,
        newcomer(&s, "Cy").await?,
        newcomer(&s, "Dan").await?,
        newcomer(&s, "Eve").await?,
    );
    let class = class_with(&s, &ilse, &[&ana, &bo, &cy, &dan]).await?;
    let (a, b, dan_id) = (id_of(&ana, &s).await?, id_of(&bo, &s).await?, id_of(&dan, &s).await?);
    ok(&ilse, &s, Method::PUT, &format!("{class}/members/{dan_id}"), &json!({"seat": "co_teacher"})).await?;
    ok(&ilse, &s, Method::PUT, &format!("{class}/groups"), &json!([{"name": "One", "members": [a, b]}])).await?;
    let reference = picture(&ilse, &s, "reference").await?;
    let id = set(&s, &ilse, &class, &reference, &json!({"groups": true, "peers": 1})).await?;
    let frame = picture(&ana, &s, "ana").await?;
    let sub = ok(
        &ana,
        &s,
        Method::POST,
        &format!("/api/assignments/{id}/submissions"),
        &json!({"frame": frame, "may_show": true}),
    )
    .await?;
    read_all(&ilse, &s, &id).await?;
    let sub = format!("/api/submissions/{}", text(&sub, "id"));
    let round =
        ok(&ilse, &s, Method::POST, &format!("{class}/rounds"), &json!({"title": "Moon", "frames": [reference]}))
            .await?;
    let round = format!("/api/rounds/{}", text(&round, "id"));
    let teacher = newcomer(&s, "Fay").await?;
    let fay = id_of(&teacher, &s).await?;
    ok(&desk, &s, Method::PUT, &format!("/api/installation/accounts/{fay}"), &json!({"role": "instructor"})).await?;
    let other = ok(&teacher, &s, Method::POST, "/api/classes", &json!({"name": "Other"})).await?;
    let gus = newcomer(&s, "Gus").await?;
    ok(&gus, &s, Method::POST, "/api/classes/join", &json!({"code": other["code"]})).await?;
    let nobody = Client::new();
    let who = [
        ("nobody", &nobody),
        ("stranger", &eve),
        ("instructor of another class", &teacher),
        ("administrator", &desk),
        ("classmate", &cy),
        ("group mate", &bo),
        ("author", &ana),
        ("co-teacher", &dan),
        ("instructor", &ilse),
    ];
    let assignment = format!("/api/assignments/{id}");
    let table: Vec<(Method, String, Value, [u16; 9])> = vec![
        (Method::GET, sub.clone(), Value::Null, [401, 404, 404, 404, 404, 200, 200, 200, 200]),
        (Method::GET, format!("{sub}/picture"), Value::Null, [401, 404, 404, 404, 404, 200, 200, 200, 200]),
        (Method::GET, format!("{class}/groups"), Value::Null, [401, 404, 404, 404, 200, 200, 200, 200, 200]),
        (
            Method::PUT,
            format!("{class}/groups"),
            json!([{"name": "", "members": []}]),
            [401, 404, 404, 404, 403, 403, 403, 400, 400],
        ),
        (Method::GET, format!("{class}/students/{a}"), Value::Null, [401, 404, 404, 404, 404, 404, 200, 200, 200]),
        (
            Method::POST,
            format!("{class}/gradebook"),
            json!({"text": "x"}),
            [401, 404, 404, 404, 403, 403, 403, 400, 400],
        ),
        (Method::GET, format!("{assignment}/peers"), Value::Null, [401, 404, 404, 404, 200, 200, 200, 200, 200]),
        (Method::POST, format!("{assignment}/peers"), Value::Null, [401, 404, 404, 404, 403, 403, 403, 409, 409]),
        (Method::GET, format!("{assignment}/graders"), Value::Null, [401, 404, 404, 404, 403, 403, 403, 200, 200]),
        (Method::PUT, format!("{sub}/review"), json!({"text": "x"}), [401, 404, 404, 404, 404, 404, 404, 404, 404]),
        (Method::PUT, format!("{sub}/sample"), json!({"sample": false}), [401, 404, 404, 404, 404, 403, 403, 200, 200]),
        (Method::GET, format!("{assignment}/draft"), Value::Null, [401, 404, 404, 404, 200, 200, 200, 200, 200]),
        (
            Method::PUT,
            format!("{assignment}/draft"),
            json!({"paragraph": "x", "frame": frame}),
            [401, 404, 404, 404, 404, 404, 200, 403, 403],
        ),
        (Method::GET, "/api/assignments/open".into(), Value::Null, [401, 200, 200, 200, 200, 200, 200, 200, 200]),
        (Method::GET, format!("{sub}/phrases"), Value::Null, [401, 404, 404, 404, 404, 403, 403, 200, 200]),
        (Method::GET, format!("{class}/rounds"), Value::Null, [401, 404, 404, 404, 403, 403, 403, 200, 200]),
        (Method::POST, format!("{class}/rounds"), json!({"title": ""}), [401, 404, 404, 404, 403, 403, 403, 400, 400]),
        (Method::GET, round.clone(), Value::Null, [401, 404, 404, 404, 403, 403, 403, 200, 200]),
        (Method::PATCH, round.clone(), json!({"version": 0}), [401, 404, 404, 404, 403, 403, 403, 409, 409]),
        (Method::GET, format!("{round}/picture"), Value::Null, [401, 404, 404, 404, 403, 403, 403, 404, 404]),
        (
            Method::POST,
            "/api/installation/invitations".into(),
            json!({"role": "student", "many": 0}),
            [401, 403, 403, 400, 403, 403, 403, 403, 403],
        ),
        (
            Method::DELETE,
            "/api/installation/invitations/NONE".into(),
            Value::Null,
            [401, 403, 403, 404, 403, 403, 403, 403, 403],
        ),
        (Method::GET, "/api/installation/audit".into(), Value::Null, [401, 403, 403, 200, 403, 403, 403, 403, 403]),
        (
            Method::GET,
            "/api/installation/accounts.csv".into(),
            Value::Null,
            [401, 403, 403, 200, 403, 403, 403, 403, 403],
        ),
        (
            Method::DELETE,
            "/api/account".into(),
            json!({"password": "wrong"}),
            [401, 403, 403, 403, 403, 403, 403, 403, 403],
        ),
        // what takes things away comes last, the weakest first
        (Method::DELETE, round.clone(), Value::Null, [401, 404, 404, 404, 403, 403, 403, 204, 404]),
        (Method::DELETE, sub.clone(), Value::Null, [401, 404, 404, 404, 404, 404, 204, 404, 404]),
    ];
    for (method, path, body, expect) in &table {
        for ((name, client), status) in who.iter().zip(expect) {
            let r = send(client, &s, method.clone(), path, body).await?;
            ensure!(r.status().as_u16() == *status, "{name} {method} {path}: {} instead of {status}", r.status());
        }
        let (r, status) = (send(&gus, &s, method.clone(), path, body).await?, expect[1]);
        ensure!(
            r.status().as_u16() == status,
            "student of another class {method} {path}: {} instead of {status}",
            r.status()
        );
    }
    Ok(())
}

/// The wall with the round, and a phone that plays it, by hand in the browser.
#[tokio::test]
async fn a_round_in_the_browser() -> Result<()> {
    let s = Server::start("sc_round_ui", true).await?;
    let b = Browser::open(1280, 800).await?;
    b.sign_in(&s.base, "ilse@puppets.example", "strings and shadows").await?;
    b.open_class("live").await?;
    b.fill("round-title", "Where was the moon?").await?;
    b.click("round-choice").await?;
    b.accessible("live rounds").await?;
    b.click("make-round").await?;
    let code = b.text_within("round-code", 20, |t| t.len() == 6).await?;
    b.accessible("round, waiting").await?;
    let address = b.css("[data-test=round-address]").await?.text().await?;
    ensure!(address.ends_with(&format!("/live/{code}")), "{address}");

    // a phone: joins by the code, waits; the wall leads on by a key
    let wall = b.page.window().await?;
    let phone = b.page.new_tab().await?;
    b.page.switch_to_window(phone.clone()).await?;
    b.page.set_window_rect(0, 0, 390, 844).await?;
    b.page.goto(format!("{}/live/{code}", s.base)).await?;
    b.fill("play-name", "Kaja").await?;
    b.click("play-join").await?;
    b.text_within("play-wait", 20, |t| t.contains("You are in")).await?;
    b.accessible("phone, waiting").await?;
    b.page.switch_to_window(wall.clone()).await?;
    b.text_within("round-count", 20, |t| t.starts_with("1 in it")).await?;
    b.css("body").await?.send_keys(" ").await?;
    b.css_within("[data-test=round-picture]", 20).await?;
    b.page.switch_to_window(phone.clone()).await?;
    let halo = b.css_within("[data-test=halo-placer]", 20).await?;
    halo.scroll_into_view().await?;
    // a finger in the upper right of the band
    let size = halo.rect().await?;
    b.page
        .action_chain()
        .move_to_element_with_offset(&halo, (size.width * 0.33) as i64, (-size.height * 0.3) as i64)
        .click()
        .perform()
        .await?;
    let said = b.text_within("play-say", 20, |t| t.contains("sent")).await?;
    ensure!(said.contains("to camera right") && said.contains("up"), "{said}");
    b.accessible("phone, placed").await?;
    b.no_overflow("phone").await?;
    // by keys as well
    halo.focus().await?;
    halo.send_keys(thirtyfour::Key::Left + "").await?;
    b.text_within("play-say", 20, |t| t != said && t.contains("sent")).await?;

    b.page.switch_to_window(wall.clone()).await?;
    b.page.set_window_rect(0, 0, 1280, 800).await?;
    b.text_within("round-count", 20, |t| t.starts_with("1 of 1")).await?;
    b.css_within("[data-test=place]", 20).await?;
    b.css("body").await?.send_keys(" ").await?;
    b.text_within("round-truth", 20, |t| t.contains("It came from")).await?;
    b.accessible("round, told").await?;
    b.page.switch_to_window(phone).await?;
    b.text_within("play-say", 20, |t| t.contains("off")).await?;
    // a page that is loaded again plays on
    b.page.refresh().await?;
    b.text_within("play-say", 20, |t| t.contains("off")).await?;

    // my account: the file of all that is kept
    b.page.switch_to_window(wall).await?;
    b.page.goto(format!("{}/account", s.base)).await?;
    b.click("export").await?;
    b.css_within("[data-test=export-file]", 60).await?;
    b.accessible("account").await?;
    let errors = b.console_errors().await?;
    ensure!(errors.is_empty(), "{errors:?}");
    b.close().await
}
