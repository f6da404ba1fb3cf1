//! The server over HTTP: who may do what, stale edits, refused files, restarts.

use anyhow::Result;
use interface_tests::http::{PASSWORD, get, person, problem, send, upload};
use interface_tests::{Server, root};
use reqwest::{Client, Method, StatusCode};
use serde_json::{Value, json};
use std::collections::BTreeSet;

#[tokio::test]
async fn the_server_keeps_its_promises() -> Result<()> {
    let mut server = Server::start("sc_server", true).await?;
    let tomek = person(&server, "tomek@puppets.example").await?;
    let ilse = person(&server, "ilse@puppets.example").await?;
    let desk = person(&server, "desk@puppets.example").await?;
    let nobody = Client::new();

    // Every route, every role: only the owner gets in.
    let cases = get(&tomek, &server, "/api/cases").await?;
    assert_eq!(cases.as_array().map(Vec::len), Some(13));
    let case = cases[0]["id"].as_str().unwrap_or_default().to_owned();
    let frame = cases[0]["frame_id"].as_str().unwrap_or_default().to_owned();
    let marked = get(&tomek, &server, &format!("/api/frames/{frame}/marks")).await?;
    let set = get(&tomek, &server, &format!("/api/cases/{case}/set")).await?;
    let brief = get(&tomek, &server, "/api/briefs").await?[0].clone();
    let marks = json!({"version": marked["version"], "marks": marked["marks"]});
    let routes: Vec<(Method, String, Value, bool)> = vec![
        (Method::GET, "/api/rules".into(), Value::Null, false),
        (Method::GET, "/api/shot-lists".into(), Value::Null, false),
        (Method::GET, "/api/catalogue".into(), Value::Null, false),
        (Method::GET, "/api/gels".into(), Value::Null, false),
        (Method::GET, "/api/sheers".into(), Value::Null, false),
        (Method::POST, "/api/slant".into(), json!({"line": "key R45/39 o21 +0.0"}), false),
        (Method::GET, format!("/api/cases/{case}"), Value::Null, true),
        (Method::PATCH, format!("/api/cases/{case}"), json!({"version": 999, "title": "stolen"}), true),
        (Method::POST, format!("/api/cases/{case}/frames"), Value::Null, true),
        (Method::GET, format!("/api/cases/{case}/plan"), Value::Null, true),
        (Method::PUT, format!("/api/cases/{case}/plan"), json!({"version": 999, "choices": {}}), true),
        (Method::GET, format!("/api/cases/{case}/set"), Value::Null, true),
        (Method::GET, format!("/api/cases/{case}/set/from-reading"), Value::Null, true),
        (Method::PUT, format!("/api/cases/{case}/set"), json!({"version": 0, "set": set["set"]}), true),
        (Method::POST, format!("/api/cases/{case}/set/draw"), set["set"].clone(), true),
        (
            Method::POST,
            format!("/api/cases/{case}/set/cutter"),
            json!({"set": set["set"], "light": 0, "band": {"height_m": 0.05, "edge_m": 0.02}}),
            true,
        ),
        (
            Method::POST,
            format!("/api/cases/{case}/set/gel"),
            json!({"set": set["set"], "light": 0, "gel": "blue"}),
            true,
        ),
        (
            Method::POST,
            format!("/api/cases/{case}/set/doors"),
            json!({"set": set["set"], "light": 0, "open_deg": 70}),
            true,
        ),
        (
            Method::POST,
            format!("/api/cases/{case}/set/line"),
            json!({"set": set["set"], "line": {"from": -0.7, "to": -0.6, "bottom": -0.5, "top": 0.5}}),
            true,
        ),
        (
            Method::POST,
            format!("/api/cases/{case}/set/sun"),
            json!({"sun": {"latitude_deg": 0, "longitude_deg": 0, "heading_deg": 0, "at": "2026-03-20T12:00:00Z"},
                "window": {"set": set["set"], "window": {"wall": "left", "away_m": 2, "width_m": 1, "height_m": 1.4, "sheer": "net"}}}),
            true,
        ),
        (Method::POST, format!("/api/cases/{case}/set/picture"), Value::Null, true),
        (Method::POST, format!("/api/cases/{case}/set/recipe"), json!({"title": "Kept"}), true),
        (Method::GET, format!("/api/frames/{frame}/marks"), Value::Null, true),
        (Method::PUT, format!("/api/frames/{frame}/marks"), marks.clone(), true),
        (Method::POST, format!("/api/frames/{frame}/read"), marked["marks"].clone(), true),
        (Method::GET, format!("/api/frames/{frame}/verdict"), Value::Null, true),
        (Method::GET, format!("/api/frames/{frame}/verdict/changes"), Value::Null, true),
        (Method::GET, format!("/api/frames/{frame}/verdict/beliefs"), Value::Null, true),
        (Method::GET, format!("/api/frames/{frame}/remarks"), Value::Null, true),
        (Method::POST, format!("/api/frames/{frame}/remarks"), json!({"stance": "note", "text": "stolen"}), true),
        (Method::PUT, format!("/api/frames/{frame}/remarks/{case}"), json!({"stance": "note", "text": "x"}), true),
        (Method::DELETE, format!("/api/frames/{frame}/remarks/{case}"), Value::Null, true),
        (Method::GET, format!("/api/frames/{frame}/paragraph"), Value::Null, true),
        (Method::PUT, format!("/api/frames/{frame}/paragraph"), json!({"version": 0, "text": "x"}), true),
        (Method::GET, format!("/api/frames/{frame}/phrases"), Value::Null, true),
        (Method::GET, format!("/api/frames/{frame}/picture"), Value::Null, true),
        (Method::GET, format!("/api/frames/{frame}/map"), Value::Null, true),
        (Method::GET, format!("/api/frames/{frame}/light-map?format=hdr"), Value::Null, true),
        (Method::POST, format!("/api/frames/{frame}/find"), json!({}), true),
        (Method::POST, format!("/api/frames/{frame}/outline"), json!({"axis": [[400, 866], [400, 140]]}), true),
        (Method::PATCH, format!("/api/frames/{frame}"), json!({"role": "take"}), true),
        (Method::DELETE, format!("/api/frames/{frame}"), Value::Null, true),
        (Method::GET, format!("/api/frames/{frame}/compare"), Value::Null, true),
        (Method::POST, format!("/api/frames/{frame}/carry-over"), Value::Null, true),
        (Method::POST, format!("/api/frames/{frame}/take-up"), Value::Null, true),
        (Method::GET, format!("/api/frames/{frame}/alignment"), Value::Null, true),
        (Method::GET, format!("/api/frames/{frame}/difference"), Value::Null, true),
        (Method::GET, format!("/api/frames/{frame}/next"), Value::Null, true),
        (Method::POST, format!("/api/frames/{frame}/make"), json!({"id": "0"}), true),
        (Method::POST, format!("/api/frames/{frame}/go-on"), Value::Null, true),
        (Method::PUT, format!("/api/frames/{frame}/link"), json!({"version": 0, "note": "stolen"}), true),
        (Method::POST, format!("/api/frames/{frame}/accept"), json!({"version": 0, "title": "stolen"}), true),
        (Method::GET, format!("/api/cases/{case}/takes"), Value::Null, true),
        (Method::GET, format!("/api/cases/{case}/takes/table"), Value::Null, true),
        (Method::GET, format!("/api/cases/{case}/folder"), Value::Null, true),
        (Method::POST, format!("/api/cases/{case}/shoot"), Value::Null, true),
        (Method::GET, format!("/api/recipes?like_frame={frame}"), Value::Null, true),
        (Method::GET, format!("/api/cases/{case}/shots"), Value::Null, true),
        (Method::PUT, format!("/api/cases/{case}/calibration"), json!({"frames": [frame]}), true),
        (Method::DELETE, format!("/api/cases/{case}/calibration"), Value::Null, true),
        (Method::POST, format!("/api/cases/{case}/merge"), json!({"frames": [frame]}), true),
        (Method::GET, format!("/api/frames/{frame}/room"), Value::Null, true),
        (Method::GET, format!("/api/frames/{frame}/light-map"), Value::Null, true),
        (Method::GET, "/api/methods".into(), Value::Null, false),
        (Method::GET, format!("/api/frames/{frame}/compare"), Value::Null, true),
        (Method::POST, format!("/api/frames/{frame}/carry-over"), Value::Null, true),
        (Method::GET, "/api/bench".into(), Value::Null, false),
        (Method::POST, "/api/bench".into(), json!({"sum": "walk"}), false),
        (Method::GET, format!("/api/cases/{case}/candidates"), Value::Null, true),
        (Method::PUT, format!("/api/cases/{case}/outcomes"), json!({"version": 0, "outcomes": {"key:hot": 1.0}}), true),
        (
            Method::POST,
            format!("/api/cases/{case}/set/board"),
            json!({"set": {}, "board": 0, "key_to_fill": 2.0}),
            true,
        ),
        (Method::GET, format!("/api/cases/{case}/set/file"), Value::Null, true),
        (Method::GET, format!("/api/cases/{case}/set/file?as=gltf"), Value::Null, true),
        (Method::GET, format!("/api/cases/{case}/series"), Value::Null, true),
        (Method::PUT, format!("/api/cases/{case}/series"), json!({"version": 0, "series": {}}), true),
        (Method::GET, format!("/api/cases/{case}/series/comparison"), Value::Null, true),
        (Method::GET, format!("/api/cases/{case}/series/comparison.csv"), Value::Null, true),
        (Method::GET, format!("/api/cases/{case}/plates"), Value::Null, true),
        (Method::PUT, format!("/api/cases/{case}/plates"), json!({"version": 0, "desk": {"plates": []}}), true),
        (Method::GET, format!("/api/cases/{case}/plates/check"), Value::Null, true),
        (Method::PUT, format!("/api/cases/{case}/plates/curve"), Value::Null, true),
        (Method::POST, format!("/api/cases/{case}/plates/mix"), json!({"frame": frame}), true),
        (
            Method::POST,
            format!("/api/cases/{case}/plates/patches"),
            json!({"patches": [{"at": [0.5, 0.5], "radius": 0.02, "stops": 0}]}),
            true,
        ),
        (Method::GET, format!("/api/cases/{case}/plates/merge"), Value::Null, true),
        (Method::GET, format!("/api/cases/{case}/plates/winners"), Value::Null, true),
        (Method::POST, format!("/api/cases/{case}/plates/picture"), json!({"plates": []}), true),
        (
            Method::POST,
            format!("/api/cases/{case}/plates/mask/{frame}"),
            json!({"plates": [{"frame": frame, "name": "key"}]}),
            true,
        ),
        (Method::GET, format!("/api/cases/{case}/build"), Value::Null, true),
        (Method::GET, format!("/api/cases/{case}/build/one-lamp"), Value::Null, true),
        (Method::PUT, format!("/api/cases/{case}/build"), json!({"version": 0, "log": {"done": ["room"]}}), true),
        (Method::GET, "/api/stops-scale".into(), Value::Null, false),
        (Method::PUT, format!("/api/briefs/{case}"), json!({"version": 1, "brief": brief}), true),
        (Method::DELETE, format!("/api/cases/{case}"), Value::Null, true),
    ];
    for (method, path, body, private) in &routes {
        for (who, client) in [("nobody", &nobody), ("instructor", &ilse), ("administrator", &desk)] {
            let r = if path.ends_with("/frames") {
                upload(client, &server, &case, "x.png", vec![1, 2, 3]).await?
            } else {
                send(client, &server, method.clone(), path, body).await?
            };
            let status = r.status();
            let expect = match (private, who) {
                (false, _) => status == StatusCode::OK,
                (true, "nobody") => status == StatusCode::UNAUTHORIZED,
                (true, _) => status == StatusCode::NOT_FOUND,
            };
            assert!(expect, "{who} {method} {path}: {status}");
            if *private {
                problem(r).await?;
            }
        }
    }
    // routes that show everyone what is their own, and nobody anything
    let job = send(
        &tomek,
        &server,
        Method::POST,
        "/api/jobs",
        &json!({"kind": "picture", "case": case, "side": 64, "samples": 1}),
    )
    .await?;
    assert_eq!(job.status(), StatusCode::ACCEPTED, "{}", job.text().await?);
    let job = job.json::<Value>().await?["id"].as_str().unwrap_or_default().to_owned();
    let of_tomek = [
        (Method::GET, format!("/api/jobs/{job}")),
        (Method::GET, format!("/api/jobs/{job}/result")),
        (Method::DELETE, format!("/api/jobs/{job}")),
        (Method::DELETE, format!("/api/recipes/{case}")),
        (Method::DELETE, format!("/api/briefs/{case}")),
        (Method::POST, format!("/api/recipes/{case}/set-again")),
    ];
    let own: Vec<(Method, String)> = [
        (Method::GET, "/api/cases"),
        (Method::POST, "/api/cases"),
        (Method::GET, "/api/classes"),
        (Method::POST, "/api/classes"),
        (Method::POST, "/api/classes/join"),
        (Method::GET, "/api/notices"),
        (Method::POST, "/api/notices"),
        (Method::GET, "/api/briefs"),
        (Method::POST, "/api/briefs"),
        (Method::GET, "/api/phrases"),
        (Method::PUT, "/api/phrases"),
        (Method::GET, "/api/kit"),
        (Method::PUT, "/api/kit"),
        (Method::GET, "/api/kit/table"),
        (Method::PUT, "/api/kit/table"),
        (Method::POST, "/api/kit/substitutes"),
        (Method::POST, "/api/kit/lamps/metered"),
        (Method::GET, "/api/recipes"),
        (Method::GET, "/api/wishes"),
        (Method::POST, "/api/wishes"),
        (Method::POST, "/api/jobs"),
    ]
    .map(|(m, p)| (m, p.to_owned()))
    .into();
    for (method, path) in own.iter().chain(&of_tomek) {
        let r = send(&nobody, &server, method.clone(), path, &json!({})).await?;
        assert_eq!(r.status(), StatusCode::UNAUTHORIZED, "nobody {method} {path}");
    }
    for (method, path) in &of_tomek {
        for client in [&ilse, &desk] {
            let r = send(client, &server, method.clone(), path, &json!({"case_id": case})).await?;
            assert_eq!(r.status(), StatusCode::NOT_FOUND, "{method} {path}");
            problem(r).await?;
        }
    }
    // what only administrators see and set
    let person_id = get(&ilse, &server, "/api/session").await?["id"].as_str().unwrap_or_default().to_owned();
    let of_desk = [
        (Method::GET, "/api/installation".to_owned(), Value::Null),
        (Method::PUT, "/api/installation".to_owned(), json!({"sign_up": "open"})),
        (Method::PUT, format!("/api/installation/accounts/{person_id}"), json!({"role": "instructor"})),
    ];
    for (method, path, body) in &of_desk {
        for (client, status) in [(&nobody, 401), (&tomek, 403), (&ilse, 403), (&desk, 200)] {
            let r = send(client, &server, method.clone(), path, body).await?;
            assert_eq!(r.status().as_u16(), status, "{method} {path}");
        }
    }
    // the only administrator stays one; a closed door is closed, and opened again
    let desk_id = get(&desk, &server, "/api/session").await?["id"].as_str().unwrap_or_default().to_owned();
    let down = format!("/api/installation/accounts/{desk_id}");
    let r = send(&desk, &server, Method::PUT, &down, &json!({"role": "student"})).await?;
    assert_eq!(r.status(), StatusCode::CONFLICT);
    for (rule, status) in [("closed", 403), ("open", 200)] {
        send(&desk, &server, Method::PUT, "/api/installation", &json!({"sign_up": rule})).await?;
        let new = json!({"name": "Late", "email": "late@puppets.example", "password": "a long enough sentence"});
        let r = send(&nobody, &server, Method::POST, "/api/accounts", &new).await?;
        assert_eq!(r.status().as_u16(), status, "{rule}");
    }
    // tables that anyone may read, and the way in
    let open = ["GET /api/grey-targets", "GET /api/difference-scale", "POST /api/accounts"];
    let session = ["GET /api/session", "POST /api/session", "DELETE /api/session"];
    // no route is forgotten here: what the program says it answers is what was tried
    let shape = |path: &str| {
        path.split('?').next().unwrap_or_default().replace(&case, "{id}").replace(&frame, "{id}").replace(&job, "{id}")
    };
    let mut tried: BTreeSet<String> = routes.iter().map(|(m, p, ..)| format!("{m} {}", shape(p))).collect();
    tried.extend(own.iter().chain(&of_tomek).map(|(m, p)| format!("{m} {}", shape(p))));
    tried.extend(open.iter().chain(&session).map(|r| (*r).to_owned()));
    tried.extend(of_desk.iter().map(|(m, p, _)| format!("{m} {}", p.replace(&person_id, "{id}"))));
    // routes of classes, of live rounds and of what people have a right to: by everyone in files of their own
    let mut elsewhere = String::new();
    for file in ["class.rs", "together.rs"] {
        elsewhere += &std::fs::read_to_string(root().join("crates/interface-tests/tests").join(file))?;
    }
    let elsewhere: String = elsewhere.split_whitespace().collect::<Vec<_>>().join(" ");
    let in_class = |method: &str, path: &str| {
        let folders = ["classes/{id}", "assignments/", "submissions/", "rounds/", "live/", "installation/", "account"];
        let shown = folders.iter().any(|f| path.starts_with(&format!("/api/{f}")));
        let end = path.rsplit('/').next().unwrap_or_default();
        let named = end == "{id}" || elsewhere.contains(&format!("/{end}"));
        shown && named && elsewhere.contains(&format!("Method::{method}, "))
    };
    let api: Value = serde_json::from_str(&std::fs::read_to_string(root().join("web/src/api/openapi.json"))?)?;
    for (path, methods) in api["paths"].as_object().into_iter().flatten() {
        let path = path.split('/').map(|p| if p.starts_with('{') { "{id}" } else { p }).collect::<Vec<_>>().join("/");
        for method in methods.as_object().into_iter().flatten().map(|m| m.0.to_uppercase()) {
            let known = tried.contains(&format!("{method} {path}")) || in_class(&method, &path);
            assert!(known, "{method} {path} is tried by nobody");
        }
    }
    assert_eq!(nobody.get(format!("{}/api/cases", server.base)).send().await?.status(), StatusCode::UNAUTHORIZED);
    assert_eq!(nobody.get(format!("{}/api/nothing", server.base)).send().await?.status(), StatusCode::NOT_FOUND);

    // Cookies and headers.
    let r = nobody
        .post(format!("{}/api/session", server.base))
        .json(&json!({"email": "tomek@puppets.example", "password": PASSWORD}))
        .send()
        .await?;
    let cookie = r.headers()["set-cookie"].to_str()?.to_owned();
    assert!(cookie.contains("HttpOnly") && cookie.contains("SameSite=Strict"), "{cookie}");
    assert!(r.headers()["content-security-policy"].to_str()?.contains("default-src 'self'"));
    let wrong = send(
        &nobody,
        &server,
        Method::POST,
        "/api/session",
        &json!({"email": "tomek@puppets.example", "password": "no"}),
    )
    .await?;
    assert_eq!(wrong.status(), StatusCode::UNAUTHORIZED);
    let cross =
        tomek.delete(format!("{}/api/cases/{case}", server.base)).header("sec-fetch-site", "cross-site").send().await?;
    assert_eq!(cross.status(), StatusCode::FORBIDDEN);

    // A stale edit is refused with the current state, and changes nothing.
    let path = format!("/api/frames/{frame}/marks");
    let first = send(&tomek, &server, Method::PUT, &path, &marks).await?;
    assert_eq!(first.status(), StatusCode::OK);
    let again = send(&tomek, &server, Method::PUT, &path, &marks).await?;
    assert_eq!(again.status(), StatusCode::CONFLICT);
    let p = problem(again).await?;
    assert_eq!(p["current"]["version"].as_i64(), marked["version"].as_i64().map(|v| v + 1));
    let bad = json!({"version": 2, "marks": {"format": "slant-marks/1", "marks": [{"id": "b", "kind": "ball", "finish": "matte", "centre": [1, 1], "radius_px": 0}]}});
    let r = send(&tomek, &server, Method::PUT, &path, &bad).await?;
    assert_eq!(r.status(), StatusCode::BAD_REQUEST);
    assert!(problem(r).await?["detail"].as_str().is_some_and(|d| d.contains("marks[b].radius_px")));
    let stale =
        send(&tomek, &server, Method::PATCH, &format!("/api/cases/{case}"), &json!({"version": 77, "title": "x"}))
            .await?;
    assert_eq!(stale.status(), StatusCode::CONFLICT);

    // Files that are refused, each with its sentence; the case stays as it was.
    let made =
        send(&tomek, &server, Method::POST, "/api/cases", &json!({"title": "Bad files", "brief": "everyday"})).await?;
    let mine: Value = made.json().await?;
    let id = mine["id"].as_str().unwrap_or_default().to_owned();
    let whole = std::fs::read(root().join("tests/fixtures/rendered/matte-00.png"))?;
    for (name, bytes, part) in [
        ("empty.png", vec![], "zero bytes"),
        ("cut.png", whole[..whole.len() / 2].to_vec(), "damaged"),
        ("page.jpg", b"<!doctype html><script>alert(1)</script>".to_vec(), "web page"),
        ("drawing.png", b"<svg xmlns='http://www.w3.org/2000/svg'></svg>".to_vec(), "SVG"),
    ] {
        let r = upload(&tomek, &server, &id, name, bytes).await?;
        assert_eq!(r.status(), StatusCode::UNPROCESSABLE_ENTITY, "{name}");
        assert!(problem(r).await?["detail"].as_str().is_some_and(|d| d.contains(part)), "{name}");
    }
    let r = send(&tomek, &server, Method::POST, "/api/cases", &json!({"title": " ", "brief": "everyday"})).await?;
    assert_eq!(r.status(), StatusCode::BAD_REQUEST);
    let r = send(&tomek, &server, Method::POST, "/api/cases", &json!({"title": "x", "brief": "nonsense"})).await?;
    assert_eq!(r.status(), StatusCode::BAD_REQUEST);

    // What the view shows is what the command line prints.
    let r = upload(&tomek, &server, &id, "matte-00.png", whole).await?;
    assert_eq!(r.status(), StatusCode::CREATED);
    let new: Value = r.json().await?;
    let new_frame = new["id"].as_str().unwrap_or_default().to_owned();
    let case_file: Value =
        serde_json::from_slice(&std::fs::read(root().join("tests/fixtures/rendered/matte-00.json"))?)?;
    let put = json!({"version": 1, "marks": case_file["marks"]});
    let saved: Value =
        send(&tomek, &server, Method::PUT, &format!("/api/frames/{new_frame}/marks"), &put).await?.json().await?;
    let dir = std::env::temp_dir().join(format!("slantcast-same-{}", std::process::id()));
    std::fs::create_dir_all(&dir)?;
    std::fs::write(dir.join("m.json"), case_file["marks"].to_string())?;
    let cli = std::process::Command::new(root().join("target/debug/slantcast"))
        .args(["read", "tests/fixtures/rendered/matte-00.png", "--marks"])
        .arg(dir.join("m.json"))
        .current_dir(root())
        .output()?;
    std::fs::remove_dir_all(&dir)?;
    let printed: Value = serde_json::from_slice(&cli.stdout)?;
    assert_eq!(saved["readings"], printed);

    // Killed hard and started again: everything that was acknowledged is there.
    let plan = send(
        &tomek,
        &server,
        Method::PUT,
        &format!("/api/cases/{id}/plan"),
        &json!({"version": 0, "choices": {"eye_height_m": 1.6}}),
    )
    .await?;
    assert_eq!(plan.status(), StatusCode::OK);
    server.again().await?;
    let after = get(&tomek, &server, &format!("/api/frames/{new_frame}/marks")).await?;
    assert_eq!(after["readings"], printed);
    assert_eq!(after["version"], 2);
    assert_eq!(get(&tomek, &server, &format!("/api/cases/{id}/plan")).await?["plan"]["eye_height_m"], 1.6);
    let picture = tomek.get(format!("{}/api/frames/{new_frame}/picture?size=thumb", server.base)).send().await?;
    assert_eq!(picture.headers()["content-type"], "image/jpeg");

    // Signing up, in and out.
    let fresh = Client::builder().cookie_store(true).build()?;
    for (body, status) in [
        (json!({"name": "A", "email": "not-an-address", "password": "long enough words"}), StatusCode::BAD_REQUEST),
        (json!({"name": "A", "email": "a@b.example", "password": "short"}), StatusCode::BAD_REQUEST),
        (json!({"name": "A", "email": "TOMEK@puppets.example", "password": "long enough words"}), StatusCode::CONFLICT),
        (json!({"name": "A", "email": "a@b.example", "password": "long enough words"}), StatusCode::OK),
    ] {
        assert_eq!(send(&fresh, &server, Method::POST, "/api/accounts", &body).await?.status(), status, "{body}");
    }
    assert_eq!(get(&fresh, &server, "/api/session").await?["role"], "student");
    assert_eq!(get(&fresh, &server, "/api/cases").await?, json!([]));
    send(&fresh, &server, Method::DELETE, "/api/session", &Value::Null).await?;
    assert_eq!(get(&fresh, &server, "/api/session").await?, Value::Null);

    // Guessing is slowed down.
    let mut last = StatusCode::OK;
    for _ in 0..14 {
        last = send(
            &nobody,
            &server,
            Method::POST,
            "/api/session",
            &json!({"email": "desk@puppets.example", "password": "guess"}),
        )
        .await?
        .status();
    }
    assert_eq!(last, StatusCode::TOO_MANY_REQUESTS);
    Ok(())
}

#[tokio::test]
async fn a_set_is_drawn_line_by_line_and_saved_by_version() -> Result<()> {
    let mut server = Server::start("sc_sets", true).await?;
    let tomek = person(&server, "tomek@puppets.example").await?;
    let cases = get(&tomek, &server, "/api/cases").await?;
    let of = |title: &str| {
        let mut all = cases.as_array().into_iter().flatten();
        let found = all.find(|c| c["title"].as_str().is_some_and(|t| t.contains(title)));
        found.and_then(|c| c["id"].as_str()).unwrap_or_default().to_owned()
    };
    // A case without a set of its own gets the one of its reading: two balls, two lights.
    let probes = of("Light test");
    let path = format!("/api/cases/{probes}/set");
    let mut view = get(&tomek, &server, &path).await?;
    assert_eq!(view["version"], 0);
    assert_eq!(view["set"]["subjects"].as_array().map(Vec::len), Some(2));
    assert_eq!(view["meter"]["lights"].as_array().map(Vec::len), Some(2));
    // The demo's key stands 46 degrees to the right and 34 up; the set that follows from the reading says so.
    let key = &view["meter"]["lights"][0];
    assert!((key["azimuth_deg"].as_f64().unwrap_or(0.0) - 46.0).abs() < 1.5, "{key}");
    assert!((key["elevation_deg"].as_f64().unwrap_or(0.0) - 34.0).abs() < 1.5, "{key}");

    // Drawn: the meter first, then the picture, coarse to fine; a second time from the plates.
    view["set"]["picture"] = json!({"width": 320, "height": 240, "samples": 8, "seed": 0});
    let draw = async |set: &Value| -> Result<Vec<Value>> {
        let r = send(&tomek, &server, Method::POST, &format!("{path}/draw"), set).await?;
        assert_eq!(r.status(), StatusCode::OK);
        assert_eq!(r.headers()["content-type"], "application/x-ndjson");
        Ok(r.text().await?.lines().map(serde_json::from_str).collect::<Result<_, _>>()?)
    };
    let lines = draw(&view["set"]).await?;
    assert!(lines[0]["meter"]["slant"].is_string() && lines[0]["jpeg"].is_null());
    assert_eq!(lines[1]["samples"], 0, "a coarse first look");
    let last = lines.last().cloned().unwrap_or_default();
    assert!(
        last["done"] == true && last["samples"] == 8 && last["jpeg"].as_str().is_some_and(|j| j.starts_with("/9j/"))
    );
    view["set"]["lights"][0]["level"] = json!({"stops": -1.3});
    let again = draw(&view["set"]).await?;
    assert_eq!(again.len(), 2, "a level needs no tracing");
    assert!(again[1]["jpeg"] != last["jpeg"]);

    // Saved by version; what was acknowledged survives a hard stop.
    let put = json!({"version": 0, "set": view["set"]});
    let r = send(&tomek, &server, Method::PUT, &path, &put).await?;
    assert_eq!(r.status(), StatusCode::OK);
    let r = send(&tomek, &server, Method::PUT, &path, &put).await?;
    assert_eq!(r.status(), StatusCode::CONFLICT);
    assert_eq!(problem(r).await?["current"]["version"], 1);
    server.again().await?;
    let back = get(&tomek, &server, &path).await?;
    assert_eq!((&back["version"], &back["set"]), (&json!(1), &view["set"]));
    let fresh = get(&tomek, &server, &format!("{path}/from-reading")).await?;
    assert!(fresh["set"] != back["set"] && fresh["version"] == 1);

    // What cannot be drawn is refused in a sentence.
    let mut many = view["set"].clone();
    many["lights"] = json!((0..200).map(|_| view["set"]["lights"][0].clone()).collect::<Vec<_>>());
    let mut large = view["set"].clone();
    large["picture"] = json!({"width": 4000, "height": 4000, "samples": 4});
    let mut flat = view["set"].clone();
    flat["lights"][0]["source"] = json!({"kind": "disc", "diameter_m": 0});
    for (set, part) in [
        (many, "at most 32"),
        (large, "preview"),
        (flat, "diameter_m"),
        (json!({}), "slant-set/1"),
        (json!([]), "slant-set/1"),
    ] {
        let r = send(&tomek, &server, Method::POST, &format!("{path}/draw"), &set).await?;
        assert_eq!(r.status(), StatusCode::BAD_REQUEST, "{part}");
        let p = problem(r).await?;
        assert!(p["detail"].as_str().is_some_and(|d| d.contains(part)), "{p}");
    }
    // Product cases carry the set they were taken of.
    let elixir = get(&tomek, &server, &format!("/api/cases/{}/set", of("Elixir"))).await?;
    assert_eq!(elixir["set"]["subjects"][0]["kind"], "bottle");
    assert_eq!(elixir["version"], 1);
    Ok(())
}

/// A scene of two grey fields 2 stops apart over a run of brightness, through a camera of some contrast, as a PNG.
fn exposed(exposure: f64) -> Result<Vec<u8>> {
    let (w, h) = (200u32, 120u32);
    let mut rgb = Vec::new();
    for y in 0..h {
        for x in 0..w {
            let scene = match (x, y) {
                (20..60, 80..110) => 0.18,
                (100..140, 80..110) => 0.045,
                _ => 0.18 * (7.0 * (f64::from(x) / 200.0 - 0.7) + f64::from(y) / 120.0).exp2(),
            };
            let stops = 1.3 * (scene * exposure / 0.18f64).log2();
            let v = optics::tone::linear_to_srgb((0.18 * stops.exp2()).min(1.0));
            rgb.extend([(255.0 * v).round() as u8; 3]);
        }
    }
    Ok(pictures::encode_png(w, h, rgb)?)
}

#[tokio::test]
async fn a_case_keeps_frames_of_a_film_and_its_camera_s_curve() -> Result<()> {
    let server = Server::start("sc_frames", true).await?;
    let me = person(&server, "ilse@puppets.example").await?;
    let made =
        send(&me, &server, Method::POST, "/api/cases", &json!({"title": "A bracket", "brief": "everyday"})).await?;
    let case = made.json::<Value>().await?["id"].as_str().unwrap_or_default().to_owned();
    let frames = format!("{}/api/cases/{case}/frames", server.base);
    let sent = async |role: &str, time: Option<f64>, bytes: Vec<u8>| -> Result<String> {
        let mut form = reqwest::multipart::Form::new().text("role", role.to_owned());
        if let Some(t) = time {
            form = form.text("film", "walk.webm").text("time_s", t.to_string());
        }
        let form = form.part("file", reqwest::multipart::Part::bytes(bytes).file_name("frame.png"));
        let r = me.post(&frames).multipart(form).send().await?.error_for_status()?;
        Ok(r.json::<Value>().await?["id"].as_str().unwrap_or_default().to_owned())
    };
    let reference = sent("reference", Some(0.5), exposed(1.0)?).await?;
    let path = format!("/api/frames/{reference}/marks");
    let square = |x: u32| json!([[x, 84], [x + 30, 84], [x + 30, 106], [x, 106]]);
    let marks = json!({"format": "slant-marks/1", "marks": [
        {"id": "l", "kind": "patch", "role": "lit", "polygon": square(25)},
        {"id": "s", "kind": "patch", "role": "shadow", "polygon": square(105)}]});
    let plain: Value = send(&me, &server, Method::PUT, &path, &json!({"version": 1, "marks": marks}))
        .await?
        .error_for_status()?
        .json()
        .await?;
    // a contrast of 1.3 makes 2 stops look like 2.6
    let stops = |v: &Value| v["readings"]["ratios"]["lit_to_shadow_stops"].as_f64().unwrap_or_default();
    assert!((stops(&plain) - 2.6).abs() < 0.1, "{}", plain["readings"]["ratios"]);

    // A bracketed series gives the curve, and every frame is read through it.
    let mut series = Vec::new();
    for (i, shutter) in [0.002, 0.004, 0.008, 0.016, 0.032].into_iter().enumerate() {
        let id = sent("calibration", None, exposed(2f64.powi(i as i32 - 2))?).await?;
        let body = json!({"version": 1, "marks": {"format": "slant-marks/1", "marks": [],
            "exposure": {"f_number": 8.0, "shutter_s": shutter, "iso": 100.0}}});
        send(&me, &server, Method::PUT, &format!("/api/frames/{id}/marks"), &body).await?.error_for_status()?;
        series.push(id);
    }
    let calibration = format!("/api/cases/{case}/calibration");
    let none = send(&me, &server, Method::PUT, &calibration, &json!({"frames": [reference]})).await?;
    assert_eq!(none.status(), StatusCode::BAD_REQUEST);
    assert!(problem(none).await?["detail"].as_str().is_some_and(|d| d.contains("grey steps")));
    let done = send(&me, &server, Method::PUT, &calibration, &json!({"frames": series})).await?;
    let view: Value = done.error_for_status()?.json().await?;
    assert_eq!(view["calibration"]["by"], "bracket");
    let read = get(&me, &server, &path).await?;
    assert!((stops(&read) - 2.0).abs() < 0.1, "{}", read["readings"]["ratios"]);
    let range = &read["readings"]["ratios"]["range_stops"];
    assert!(range[1].as_f64().unwrap_or(9.0) - range[0].as_f64().unwrap_or(0.0) < 0.3, "{range}");
    // merged, the series is one linear picture that holds more than any of them, and a picture of the case
    let merge = format!("/api/cases/{case}/merge");
    let made: Value =
        send(&me, &server, Method::POST, &merge, &json!({"frames": series})).await?.error_for_status()?.json().await?;
    let id = made["id"].as_str().unwrap_or_default();
    let file =
        me.get(format!("{}/api/frames/{id}/picture?size=original", server.base)).send().await?.error_for_status()?;
    let whole = pictures::decode(&file.bytes().await?, pictures::Limits::default())?;
    assert!(whole.photo.is_linear() && (whole.photo.width(), whole.photo.height()) == (200, 120));
    let refused = send(&me, &server, Method::POST, &merge, &json!({"frames": [series[0]]})).await?;
    assert_eq!(refused.status(), StatusCode::BAD_REQUEST);
    assert!(problem(refused).await?["detail"].as_str().is_some_and(|d| d.contains("two frames")));
    // the map is a picture of the same size
    let map = me.get(format!("{}/api/frames/{reference}/map", server.base)).send().await?.error_for_status()?;
    let map = pictures::decode(&map.bytes().await?, pictures::Limits::default())?;
    assert_eq!((map.photo.width(), map.photo.height()), (200, 120));
    // forgotten, it is as before
    send(&me, &server, Method::DELETE, &calibration, &Value::Null).await?.error_for_status()?;
    assert!((stops(&get(&me, &server, &path).await?) - 2.6).abs() < 0.1);

    // A second frame of the film: both are one shot, and the lit side is followed.
    let later = sent("reference", Some(2.5), exposed(0.5)?).await?;
    let body = json!({"version": 1, "marks": marks});
    send(&me, &server, Method::PUT, &format!("/api/frames/{later}/marks"), &body).await?.error_for_status()?;
    let shots = get(&me, &server, &format!("/api/cases/{case}/shots")).await?;
    assert_eq!(shots[0]["film"], "walk.webm");
    let at = |i: usize| shots[0]["frames"][i]["stops_from_grey"].as_f64().unwrap_or_default();
    assert!((at(0) - at(1) - 1.3).abs() < 0.1, "{shots}");
    let walk = &shots[0]["walk"];
    let range = &walk["range_stops"];
    assert!((walk["stops"].as_f64().unwrap_or_default() - 1.3).abs() < 0.1, "{walk}");
    // a stop at the camera, and the tone curve is not known: the range holds it
    assert!(range[0].as_f64().unwrap_or(9.0) <= 1.0 && range[1].as_f64().unwrap_or(0.0) >= 1.3, "{walk}");
    let odd =
        reqwest::multipart::Form::new().text("time_s", "soon").part("file", reqwest::multipart::Part::bytes(vec![1]));
    assert_eq!(me.post(&frames).multipart(odd).send().await?.status(), StatusCode::BAD_REQUEST);

    // A linear picture is kept as one, without loss.
    let exr = pictures::encode_exr(4, 2, (0..24).map(|i| i as f32 * 0.2).collect())?;
    let form =
        reqwest::multipart::Form::new().part("file", reqwest::multipart::Part::bytes(exr).file_name("frame.exr"));
    let r = me.post(&frames).multipart(form).send().await?.error_for_status()?.json::<Value>().await?;
    assert_eq!(r["facts"]["linear"], true);
    let id = r["id"].as_str().unwrap_or_default();
    let back = me.get(format!("{}/api/frames/{id}/picture?size=original", server.base)).send().await?;
    let back = pictures::decode(&back.bytes().await?, pictures::Limits::default())?;
    assert!((f64::from(back.photo.rgb(3, 1)[2]) - 4.6).abs() < 1e-5);
    send(&me, &server, Method::DELETE, &format!("/api/frames/{id}"), &Value::Null).await?.error_for_status()?;
    Ok(())
}

/// A take's upload, as several people would send it at once.
async fn take(c: &Client, server: &Server, case: &str, name: &str, bytes: Vec<u8>) -> Result<String> {
    let part = reqwest::multipart::Part::bytes(bytes).file_name(name.to_owned());
    let form = reqwest::multipart::Form::new().text("role", "take").part("file", part);
    let r = c.post(format!("{}/api/cases/{case}/frames", server.base)).multipart(form).send().await?;
    assert_eq!(r.status(), StatusCode::CREATED);
    let v: Value = r.json().await?;
    Ok(v["id"].as_str().unwrap_or_default().to_owned())
}

/// The left part of a picture.
fn cut(jpeg: &[u8], share: f64) -> Result<Vec<u8>> {
    let p = pictures::decode(jpeg, pictures::Limits::default())?.photo;
    let (w, h) = ((share * f64::from(p.width())) as u32, p.height());
    let code = |v: f32| (255.0 * optics::tone::linear_to_srgb(f64::from(v))).round() as u8;
    let rgb: Vec<u8> =
        (0..h).flat_map(|y| (0..w).map(move |x| (x, y))).flat_map(|(x, y)| p.rgb(x, y).map(code)).collect();
    Ok(pictures::encode_png(w, h, rgb)?)
}

#[tokio::test]
async fn takes_of_two_people_at_once_are_all_in_the_chain() -> Result<()> {
    let server = Server::start("sc_chain", true).await?;
    let tomek = person(&server, "tomek@puppets.example").await?;
    let again = person(&server, "tomek@puppets.example").await?;
    let cases = get(&tomek, &server, "/api/cases").await?;
    let case =
        cases.as_array().and_then(|l| l.iter().find(|c| c["title"].as_str().is_some_and(|t| t.contains("two balls"))));
    let case = case.and_then(|c| c["id"].as_str()).unwrap_or_default().to_owned();
    let picture = std::fs::read(root().join("crates/server/demo/probes.jpg"))?;

    // four at once from two sessions: each is taken up, none is lost
    let one = async |c: &Client, k: usize| -> Result<String> {
        let id = take(c, &server, &case, &format!("take-{k}.jpg"), picture.clone()).await?;
        let r = send(c, &server, Method::POST, &format!("/api/frames/{id}/take-up"), &Value::Null).await?;
        assert_eq!(r.status(), StatusCode::OK, "{}", r.text().await?);
        Ok(id)
    };
    let (a, b, c, d) = tokio::join!(one(&tomek, 1), one(&again, 2), one(&tomek, 3), one(&again, 4));
    let ids = [a?, b?, c?, d?];
    let chain = get(&tomek, &server, &format!("/api/cases/{case}/takes")).await?;
    let takes = chain["takes"].as_array().cloned().unwrap_or_default();
    assert_eq!(takes.len(), 4);
    for t in &takes {
        assert!(t["version"].as_i64().is_some_and(|v| v > 0), "{t}");
        assert!(ids.iter().any(|i| Some(i.as_str()) == t["frame"].as_str()));
        // the reference itself: nothing differs
        assert_eq!(t["differs"], 0, "{t}");
    }
    assert!(ids.iter().any(|i| Some(i.as_str()) == chain["tip"].as_str()));

    // its map of differences is a picture, its alignment is exact
    let id = &ids[0];
    let lies = get(&tomek, &server, &format!("/api/frames/{id}/alignment")).await?;
    assert!(lies["alignment"]["agreement"].as_f64().is_some_and(|a| a > 0.99), "{lies}");
    assert!(lies["exposure_stops"].as_f64().is_some_and(|m| m.abs() < 0.01));
    let map = tomek.get(format!("{}/api/frames/{id}/difference?matched=true", server.base)).send().await?;
    assert_eq!(map.headers()["content-type"], "image/png");

    // an edit on an old version is told with both versions
    let edit = |version: i64, note: &str| json!({"version": version, "note": note});
    let path = format!("/api/frames/{id}/link");
    let now: Value = send(&tomek, &server, Method::PUT, &path, &edit(1, "first")).await?.json().await?;
    assert_eq!((now["version"].as_i64(), now["link"]["note"].as_str()), (Some(2), Some("first")));
    let stale = send(&again, &server, Method::PUT, &path, &edit(1, "second")).await?;
    assert_eq!(stale.status(), StatusCode::CONFLICT);
    assert_eq!(problem(stale).await?["current"]["link"]["note"], "first");

    // another subject, a mirrored picture, a half: a sentence, and the picture stays
    let shoe = std::fs::read(root().join("crates/server/demo/seven-mile-shoe.jpg"))?;
    let other = take(&tomek, &server, &case, "shoe.jpg", shoe).await?;
    let r: Value = send(&tomek, &server, Method::POST, &format!("/api/frames/{other}/take-up"), &Value::Null)
        .await?
        .json()
        .await?;
    assert_eq!(r["by_picture"], false, "{r}");
    assert!(r["says"].as_str().is_some_and(|s| s.contains("does not show")), "{r}");

    // cut to half: what is left is laid over and compared, and what is missing is named
    let left = cut(&picture, 0.55)?;
    let half = take(&tomek, &server, &case, "half.jpg", left).await?;
    let r: Value =
        send(&tomek, &server, Method::POST, &format!("/api/frames/{half}/take-up"), &Value::Null).await?.json().await?;
    assert_eq!(r["by_picture"], true, "{r}");
    let c = get(&tomek, &server, &format!("/api/frames/{half}/compare")).await?;
    let warned = c["comparison"]["warnings"]
        .as_array()
        .is_some_and(|w| w.iter().any(|w| w.as_str().is_some_and(|w| w.contains("is not compared"))));
    assert!(warned, "{}", c["comparison"]["warnings"]);
    assert!(c["comparison"]["d_exposure_stops"].as_f64().is_some_and(|e| e.abs() < 0.1), "{}", c["comparison"]);

    // accepted, found by its light and not by another, set again; nobody else sees it
    let accept = json!({"version": 2, "title": "Two balls", "left": [], "tags": ["probe"]});
    let r = send(&tomek, &server, Method::POST, &format!("/api/frames/{id}/accept"), &accept).await?;
    assert_eq!(r.status(), StatusCode::CREATED, "{}", r.text().await?);
    let slant = get(&tomek, &server, &format!("/api/cases/{case}/takes")).await?["takes"][0]["slant"]
        .as_str()
        .unwrap_or_default()
        .to_owned();
    let found = |q: &str| {
        let url = reqwest::Url::parse_with_params(&format!("{}/api/recipes", server.base), &[("slant", q)]);
        let c = tomek.clone();
        async move { Ok::<Value, anyhow::Error>(c.get(url?).send().await?.error_for_status()?.json().await?) }
    };
    assert_eq!(found(&slant).await?.as_array().map(Vec::len), Some(1));
    assert_eq!(found("key R170/-50 o2").await?.as_array().map(Vec::len), Some(0));
    let ilse = person(&server, "ilse@puppets.example").await?;
    assert_eq!(get(&ilse, &server, "/api/recipes").await?.as_array().map(Vec::len), Some(0));
    let recipe = found(&slant).await?[0]["id"].as_str().unwrap_or_default().to_owned();
    let path = format!("/api/recipes/{recipe}/set-again");
    assert_eq!(
        send(&ilse, &server, Method::POST, &path, &json!({"case_id": case})).await?.status(),
        StatusCode::NOT_FOUND
    );
    assert_eq!(send(&tomek, &server, Method::POST, &path, &json!({"case_id": case})).await?.status(), StatusCode::OK);
    Ok(())
}

/// Every sentence of SQL in the server is prepared on the database its migrations make: names and types of columns are
/// checked by PostgreSQL itself.
#[tokio::test]
async fn every_query_fits_the_schema() -> Result<()> {
    let server = Server::start("sc_schema", false).await?;
    let mut queries = Vec::new();
    for file in sources(&root().join("crates/server/src"))? {
        let text = std::fs::read_to_string(&file)?;
        for (at, _) in text.match_indices("sqlx::query") {
            let call = &text[at..];
            // the text of the query is the first thing that is handed over; what is put together is tried elsewhere
            let Some(open) = call.find('(') else { continue };
            let inner = call[open + 1..].trim_start();
            let sql = match inner.strip_prefix('"').map(|t| t.split_once('"')) {
                Some(Some((sql, _))) => sql.replace("\\\n", " "),
                _ => match inner.strip_prefix("r#\"").and_then(|t| t.split_once("\"#")) {
                    Some((sql, _)) => sql.to_owned(),
                    None => continue,
                },
            };
            queries.push((file.clone(), sql));
        }
    }
    assert!(queries.len() > 50, "{} queries", queries.len());
    let script: String = queries.iter().enumerate().map(|(i, (_, q))| format!("prepare q{i} as {q};\n")).collect();
    let file = server.store().join("queries.sql");
    std::fs::create_dir_all(server.store())?;
    std::fs::write(&file, script)?;
    let out = std::process::Command::new("psql")
        .args([server.database(), "-q", "-v", "ON_ERROR_STOP=1", "-f"])
        .arg(&file)
        .output()?;
    assert!(out.status.success(), "{}", String::from_utf8_lossy(&out.stderr));
    Ok(())
}

fn sources(folder: &std::path::Path) -> Result<Vec<std::path::PathBuf>> {
    let mut out = Vec::new();
    for entry in std::fs::read_dir(folder)? {
        let path = entry?.path();
        if path.is_dir() {
            out.extend(sources(&path)?);
        } else if path.extension().is_some_and(|e| e == "rs") {
            out.push(path);
        }
    }
    Ok(out)
}
