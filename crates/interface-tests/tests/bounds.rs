//! What a stranger may send is bounded in memory, time and count; what several processes share, they share.

use anyhow::{Context, Result};
use interface_tests::bucket::Bucket;
use interface_tests::http::{PASSWORD, get, person, problem, send, upload};
use interface_tests::{Server, root};
use reqwest::{Client, Method, StatusCode};
use serde_json::{Value, json};
use std::time::{Duration, Instant};

/// Memory the server may ever have, megabytes (docs/speed.md).
const MOST_MB: u64 = 1500;

fn text<'v>(v: &'v Value, field: &str) -> &'v str {
    v[field].as_str().unwrap_or_default()
}

async fn new_case(c: &Client, server: &Server) -> Result<String> {
    let r = send(c, server, Method::POST, "/api/cases", &json!({"title": "Bounds", "brief": "everyday"})).await?;
    Ok(text(&r.json().await?, "id").to_owned())
}

/// A TIFF of 26 bytes whose directory names itself as the next.
fn loop_of_26_bytes() -> Vec<u8> {
    let mut file = b"II*\0\x08\0\0\0\x01\0".to_vec();
    file.extend([0x00, 0x01, 4, 0, 1, 0, 0, 0, 1, 0, 0, 0]);
    file.extend(8u32.to_le_bytes());
    file
}

/// A JPEG of one grey in `w` by `h` pixels.
fn grey(w: u32, h: u32) -> Result<Vec<u8>> {
    Ok(pictures::encode_jpeg(w, h, &vec![120; (3 * w * h) as usize], 60)?)
}

#[tokio::test]
async fn what_is_sent_costs_no_more_than_it_may() -> Result<()> {
    let server = Server::start("sc_bounds", true).await?;
    let c = person(&server, "tomek@puppets.example").await?;
    let case = new_case(&c, &server).await?;

    let start = Instant::now();
    let r = upload(&c, &server, &case, "loop.tif", loop_of_26_bytes()).await?;
    assert_eq!(r.status(), StatusCode::UNPROCESSABLE_ENTITY);
    problem(r).await?;
    assert!(start.elapsed() < Duration::from_secs(5), "a refusal comes at once");

    // half a picture is none
    let whole = grey(600, 400)?;
    let r = upload(&c, &server, &case, "half.jpg", whole[..whole.len() / 2].to_vec()).await?;
    assert_eq!(r.status(), StatusCode::UNPROCESSABLE_ENTITY);
    assert!(text(&problem(r).await?, "detail").contains("breaks off"));

    // six of 119 megapixels at once
    let huge = grey(10_900, 10_900)?;
    let all = (0..6).map(|i| {
        let (c, base, case, huge) = (c.clone(), server.base.clone(), case.clone(), huge.clone());
        tokio::spawn(async move {
            let part = reqwest::multipart::Part::bytes(huge).file_name(format!("huge{i}.jpg"));
            let form = reqwest::multipart::Form::new().part("file", part);
            c.post(format!("{base}/api/cases/{case}/frames")).multipart(form).send().await.map(|r| r.status())
        })
    });
    for one in all.collect::<Vec<_>>() {
        let status = one.await??;
        assert!(status == StatusCode::CREATED || status == StatusCode::SERVICE_UNAVAILABLE, "{status}");
    }
    // lists answer while that goes on and after
    get(&c, &server, "/api/cases").await?;
    let peak = server.peak_mb().context("the process is there")?;
    println!("peak memory after six pictures of 119 megapixels at once: {peak} MB");
    assert!(peak < MOST_MB, "{peak} MB");

    // marks without bound
    let frame = text(&get(&c, &server, &format!("/api/cases/{case}")).await?["frames"][0], "id").to_owned();
    let ball =
        |i: usize| json!({"id": format!("b{i}"), "kind": "ball", "finish": "matte", "centre": [9, 9], "radius_px": 5});
    let many = json!({"format": "slant-marks/1", "marks": (0..400).map(ball).collect::<Vec<_>>()});
    let r = send(&c, &server, Method::POST, &format!("/api/frames/{frame}/read"), &many).await?;
    assert_eq!(r.status(), StatusCode::BAD_REQUEST);
    let eye = json!({"format": "slant-marks/1", "marks": [
        {"id": "e", "kind": "eye", "limbus": {"centre": [50, 50], "rx": 9e6, "ry": 9e6}}]});
    let start = Instant::now();
    let r: Value = send(&c, &server, Method::POST, &format!("/api/frames/{frame}/read"), &eye).await?.json().await?;
    assert!(text(&r["by_mark"]["e"], "says").contains("larger than the picture"), "{r}");
    assert!(start.elapsed() < Duration::from_secs(10));
    let frames: Vec<&str> = vec![&frame; 10_000];
    let r =
        send(&c, &server, Method::PUT, &format!("/api/cases/{case}/calibration"), &json!({"frames": frames})).await?;
    assert_eq!(r.status(), StatusCode::BAD_REQUEST);

    // texts and versions that a database cannot keep
    let r = send(&c, &server, Method::POST, "/api/cases", &json!({"title": "a\u{0}b", "brief": "everyday"})).await?;
    assert_eq!(r.status(), StatusCode::BAD_REQUEST);
    problem(r).await?;
    let marks = json!({"version": i64::MAX, "marks": {"format": "slant-marks/1", "marks": []}});
    let r = send(&c, &server, Method::PUT, &format!("/api/frames/{frame}/marks"), &marks).await?;
    assert_eq!(r.status(), StatusCode::BAD_REQUEST);
    assert!(text(&problem(r).await?, "detail").contains("version"));

    // a wrong id answers as everything else does
    let r = c.get(format!("{}/api/cases/not-an-id", server.base)).send().await?;
    assert_eq!(r.status(), StatusCode::BAD_REQUEST);
    problem(r).await?;
    // a move that is not among them any more is not another move
    let take = format!("/api/frames/{frame}/make");
    let r = send(&c, &server, Method::POST, &take, &json!({"id": "0123456789abcdef"})).await?;
    assert!(r.status().is_client_error(), "{}", r.status());
    Ok(())
}

#[tokio::test]
async fn tries_to_sign_in_are_counted_for_the_address_by_all_servers() -> Result<()> {
    let server = Server::start("sc_tries", true).await?;
    let (_beside, other) = server.beside("web")?;
    let nobody = Client::new();
    for _ in 0..100 {
        if nobody.get(format!("{other}/health/ready")).send().await.is_ok_and(|r| r.status().is_success()) {
            break;
        }
        tokio::time::sleep(Duration::from_millis(100)).await;
    }
    let mut statuses = Vec::new();
    for i in 0..14 {
        // leading spaces and capitals are the same address; the other server counts as well
        let email =
            format!("{}{}", " ".repeat(i), if i % 2 == 0 { "tomek@puppets.example" } else { "Tomek@Puppets.example" });
        let base = if i % 2 == 0 { &server.base } else { &other };
        let r = nobody
            .post(format!("{base}/api/session"))
            .json(&json!({"email": email, "password": "wrong and long enough"}))
            .send()
            .await?;
        statuses.push(r.status().as_u16());
    }
    assert_eq!(statuses.iter().filter(|s| **s == 401).count(), 10, "{statuses:?}");
    assert_eq!(statuses.last(), Some(&429), "{statuses:?}");
    // a long address is refused before anything is kept of it or hashed
    let start = Instant::now();
    let long = "x".repeat(1_000_000);
    let r = nobody
        .post(format!("{}/api/session", server.base))
        .json(&json!({"email": long, "password": PASSWORD}))
        .send()
        .await?;
    assert_eq!(r.status(), StatusCode::UNAUTHORIZED);
    assert!(start.elapsed() < Duration::from_millis(1500));
    Ok(())
}

#[tokio::test]
async fn a_linear_file_is_linear_over_http_as_on_the_command_line() -> Result<()> {
    let server = Server::start("sc_linear", true).await?;
    let c = person(&server, "tomek@puppets.example").await?;
    let case = new_case(&c, &server).await?;
    // two halves, 0.5 and 0.125 of white: two stops
    let rgb: Vec<f32> = (0..60 * 40).flat_map(|i| [if i % 60 < 30 { 0.5 } else { 0.125 }; 3]).collect();
    let exr = pictures::encode_exr(60, 40, rgb)?;
    let r = upload(&c, &server, &case, "two.exr", exr.clone()).await?;
    assert_eq!(r.status(), StatusCode::CREATED);
    let frame = text(&r.json().await?, "id").to_owned();
    let patch = |id: &str, role: &str, x: f64| json!({"id": id, "kind": "patch", "role": role, "polygon": [[x, 5], [x + 15.0, 5], [x + 15.0, 30], [x, 30]]});
    let marks = json!({"format": "slant-marks/1", "marks": [patch("l", "lit", 5.0), patch("s", "shadow", 38.0)]});
    let over: Value =
        send(&c, &server, Method::POST, &format!("/api/frames/{frame}/read"), &marks).await?.json().await?;
    let folder = std::env::temp_dir().join(format!("slantcast-linear-{}", std::process::id()));
    std::fs::create_dir_all(&folder)?;
    let (picture, file) = (folder.join("two.exr"), folder.join("marks.json"));
    std::fs::write(&picture, &exr)?;
    std::fs::write(&file, marks.to_string())?;
    let out = std::process::Command::new(root().join("target/debug/slantcast"))
        .arg("read")
        .arg(&picture)
        .arg("--marks")
        .arg(&file)
        .output()?;
    let here: Value = serde_json::from_slice(&out.stdout)?;
    std::fs::remove_dir_all(&folder)?;
    assert_eq!(over["ratios"], here["ratios"]);
    let d = over["ratios"]["lit_to_shadow_stops"].as_f64().unwrap_or_default();
    assert!((d - 2.0).abs() < 0.01, "{d}");
    // calibrated: no warning of an unknown curve
    let codes: Vec<&str> = over["warnings"].as_array().into_iter().flatten().map(|w| text(w, "code")).collect();
    assert!(!codes.contains(&"tone_curve_unknown"), "{codes:?}");
    Ok(())
}

async fn ended(c: &Client, server: &Server, id: &str) -> Result<Value> {
    for _ in 0..300 {
        let job = get(c, server, &format!("/api/jobs/{id}")).await?;
        if !["waiting", "running"].contains(&text(&job, "state")) {
            return Ok(job);
        }
        tokio::time::sleep(Duration::from_millis(200)).await;
    }
    anyhow::bail!("the job does not end")
}

#[tokio::test]
async fn a_worker_beside_the_server_does_the_jobs_and_gives_what_one_process_gives() -> Result<()> {
    let mut server = Server::start("sc_worker", true).await?;
    let c = person(&server, "tomek@puppets.example").await?;
    let ilse = person(&server, "ilse@puppets.example").await?;
    let case = text(&get(&c, &server, "/api/cases").await?[0], "id").to_owned();
    let task = json!({"kind": "picture", "case": case, "side": 160, "samples": 4});
    let ask = async |server: &Server| -> Result<String> {
        let r = send(&c, server, Method::POST, "/api/jobs", &task).await?;
        assert_eq!(r.status(), StatusCode::ACCEPTED);
        Ok(text(&r.json().await?, "id").to_owned())
    };
    let result = async |server: &Server, id: &str| -> Result<Vec<u8>> {
        let r = c.get(format!("{}/api/jobs/{id}/result", server.base)).send().await?.error_for_status()?;
        Ok(r.bytes().await?.to_vec())
    };
    // one process does it itself
    let alone = ask(&server).await?;
    assert_eq!(text(&ended(&c, &server, &alone).await?, "state"), "done");
    let by_one = result(&server, &alone).await?;
    assert!(by_one.starts_with(b"\x89PNG"));
    // others see nothing of it
    let r = ilse.get(format!("{}/api/jobs/{alone}", server.base)).send().await?;
    assert_eq!(r.status(), StatusCode::NOT_FOUND);

    // a server that leaves jobs to workers
    server.leave_jobs();
    server.again().await?;
    let left = ask(&server).await?;
    tokio::time::sleep(Duration::from_secs(2)).await;
    assert_eq!(text(&get(&c, &server, &format!("/api/jobs/{left}")).await?, "state"), "waiting");
    let withdrawn = ask(&server).await?;
    c.delete(format!("{}/api/jobs/{withdrawn}", server.base)).send().await?.error_for_status()?;
    let (worker, _) = server.beside("worker")?;
    assert_eq!(text(&ended(&c, &server, &left).await?, "state"), "done");
    assert!(result(&server, &left).await? == by_one, "two processes give what one gives");
    assert_eq!(text(&get(&c, &server, &format!("/api/jobs/{withdrawn}")).await?, "state"), "cancelled");
    drop(worker);

    // a worker that falls leaves its job to the next
    let long = json!({"kind": "picture", "case": case, "side": 2400, "samples": 256});
    let r = send(&c, &server, Method::POST, "/api/jobs", &long).await?;
    let id = text(&r.json().await?, "id").to_owned();
    let (falls, _) = server.beside("worker")?;
    for _ in 0..100 {
        if text(&get(&c, &server, &format!("/api/jobs/{id}")).await?, "state") == "running" {
            break;
        }
        tokio::time::sleep(Duration::from_millis(100)).await;
    }
    drop(falls);
    assert_eq!(text(&get(&c, &server, &format!("/api/jobs/{id}")).await?, "state"), "running");
    let (_next, _) = server.beside("worker")?;
    let mut attempts = 1;
    for _ in 0..90 {
        attempts = get(&c, &server, &format!("/api/jobs/{id}")).await?["attempts"].as_i64().unwrap_or_default();
        if attempts == 2 {
            break;
        }
        tokio::time::sleep(Duration::from_millis(500)).await;
    }
    assert_eq!(attempts, 2, "taken up again after its worker fell");
    let r = c.delete(format!("{}/api/jobs/{id}", server.base)).send().await?;
    assert_eq!(text(&r.json().await?, "state"), "cancelled");
    Ok(())
}

#[tokio::test]
async fn a_second_server_leaves_uploads_under_way_alone() -> Result<()> {
    let server = Server::start("sc_sweep", false).await?;
    // files whose row has not come yet, as in the middle of an upload
    let folder = server.store().join("pictures/0123456789abcdef");
    std::fs::create_dir_all(&folder)?;
    std::fs::write(folder.join("original"), b"under way")?;
    let (_beside, other) = server.beside("all")?;
    for _ in 0..100 {
        if reqwest::get(format!("{other}/health/ready")).await.is_ok_and(|r| r.status().is_success()) {
            break;
        }
        tokio::time::sleep(Duration::from_millis(100)).await;
    }
    assert!(folder.join("original").exists(), "a second server took another's upload away");
    Ok(())
}

/// The same server with its pictures in a bucket of a service that speaks S3: a stand-in of ours, on loopback.
#[tokio::test]
async fn pictures_may_lie_in_a_bucket() -> Result<()> {
    let bucket = Bucket::open().await?;
    let mut server = Server::start("sc_bucket", true).await?;
    server.store_in(&bucket);
    server.again().await?;
    let c = person(&server, "tomek@puppets.example").await?;
    let case = new_case(&c, &server).await?;
    let r = upload(&c, &server, &case, "grey.jpg", grey(120, 80)?).await?;
    assert_eq!(r.status(), StatusCode::CREATED, "{}", r.text().await?);
    let frame = text(&r.json().await?, "id").to_owned();
    let names = bucket.names();
    assert!(names.iter().any(|n| n.starts_with("slant/pictures/") && n.ends_with("/original")), "{names:?}");
    // what was put there comes back after a hard stop: nothing was kept in the process
    server.again().await?;
    let picture = c.get(format!("{}/api/frames/{frame}/picture", server.base)).send().await?.error_for_status()?;
    assert!(picture.bytes().await?.len() > 100);
    let marks = json!({"format": "slant-marks/1", "marks": []});
    let read = send(&c, &server, Method::POST, &format!("/api/frames/{frame}/read"), &marks).await?;
    assert_eq!(read.status(), StatusCode::OK);
    // an address that is none is said at the start
    let out = std::process::Command::new(root().join("target/debug/slantcast"))
        .args(["serve", "--listen", "127.0.0.1:1", "--store", "s3://", "--database-url", server.database()])
        .output()?;
    assert!(!out.status.success() && String::from_utf8_lossy(&out.stderr).contains("s3://BUCKET"));
    Ok(())
}

/// A plate of 24 megapixels: one lamp's fall-off over a grained grey, 8-bit JPEG.
fn plate(k: u32) -> Result<Vec<u8>> {
    let (w, h) = (6000u32, 4000u32);
    let (cx, cy) = (f64::from(k % 8) * 750.0 + 400.0, f64::from(k / 8) * 800.0 + 400.0);
    let mut rgb = Vec::with_capacity((3 * w * h) as usize);
    let mut seed = 17 + k;
    for y in 0..h {
        for x in 0..w {
            seed = seed.wrapping_mul(1_664_525).wrapping_add(1_013_904_223);
            let d = ((f64::from(x) - cx).powi(2) + (f64::from(y) - cy).powi(2)) / 4e6;
            let v = 30.0 + 190.0 / (1.0 + d) + f64::from(seed >> 29);
            rgb.extend([v as u8, (0.95 * v) as u8, (0.9 * v) as u8]);
        }
    }
    Ok(pictures::encode_jpeg(w, h, &rgb, 90)?)
}

/// Forty plates of 24 megapixels as a layered file: `cargo test -p interface-tests --test bounds forty -- --ignored --nocapture`.
#[tokio::test]
#[ignore = "takes some minutes and a gigabyte of disk"]
async fn forty_plates_of_24_megapixels_become_layers_in_bounded_memory() -> Result<()> {
    let server = Server::start("sc_plates40", true).await?;
    let c = person(&server, "tomek@puppets.example").await?;
    let case = new_case(&c, &server).await?;
    let start = Instant::now();
    for k in 0..40 {
        let part = reqwest::multipart::Part::bytes(plate(k)?).file_name(format!("lamp-{k:02}.jpg"));
        let form = reqwest::multipart::Form::new().text("role", "plate").part("file", part);
        c.post(format!("{}/api/cases/{case}/frames", server.base)).multipart(form).send().await?.error_for_status()?;
    }
    println!("forty plates taken in within {:.0} s", start.elapsed().as_secs_f64());
    let desk = get(&c, &server, &format!("/api/cases/{case}/plates")).await?;
    let plates = desk["desk"]["plates"].as_array().map_or(0, Vec::len);
    assert_eq!(plates, 40, "{desk}");
    for file in ["layers", "masks"] {
        let start = Instant::now();
        let r = send(&c, &server, Method::POST, "/api/jobs", &json!({"kind": "plates", "case": case, "file": file}))
            .await?;
        let id = text(&r.error_for_status()?.json().await?, "id").to_owned();
        let (mut told, mut state) = (Vec::new(), String::new());
        for _ in 0..3000 {
            let job = get(&c, &server, &format!("/api/jobs/{id}")).await?;
            told.push(job["progress"].as_f64().unwrap_or_default());
            state = text(&job, "state").to_owned();
            if !["waiting", "running"].contains(&state.as_str()) {
                break;
            }
            tokio::time::sleep(Duration::from_millis(200)).await;
        }
        assert_eq!(state, "done");
        told.dedup();
        assert!(told.len() > 10 && told.windows(2).all(|p| p[0] <= p[1]), "it says how far it is: {told:?}");
        let mut r = c.get(format!("{}/api/jobs/{id}/result", server.base)).send().await?.error_for_status()?;
        let mut bytes = 0;
        while let Some(chunk) = r.chunk().await? {
            bytes += chunk.len();
        }
        let peak = server.peak_mb().context("the process is there")?;
        println!(
            "forty plates of 24 megapixels as {file}: {:.0} s, {} MB, peak memory {peak} MB",
            start.elapsed().as_secs_f64(),
            bytes / 1_000_000
        );
        assert!(peak < MOST_MB, "{peak} MB");
    }
    Ok(())
}
