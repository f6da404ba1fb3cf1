//! Prints how long a person waits, over HTTP, against a running server with the demo data.
//!
//! `target/debug/speed http://127.0.0.1:8080`; with a number after it, also a case with so many takes.

use anyhow::{Context, Result};
use reqwest::Client;
use serde_json::{Value, json};
use std::time::Instant;

struct Person {
    http: Client,
    base: String,
}

impl Person {
    async fn get(&self, path: &str) -> Result<Value> {
        Ok(self.http.get(format!("{}{path}", self.base)).send().await?.error_for_status()?.json().await?)
    }

    async fn post(&self, path: &str, body: &Value) -> Result<Value> {
        let r = self.http.post(format!("{}{path}", self.base)).json(body).send().await?;
        Ok(r.error_for_status()?.json().await?)
    }
}

fn ms(since: Instant) -> f64 {
    since.elapsed().as_secs_f64() * 1000.0
}

fn row(what: &str, mut times: Vec<f64>, aim: &str) {
    times.sort_by(f64::total_cmp);
    let q = |p: f64| times[((times.len() - 1) as f64 * p).round() as usize];
    println!("| {what} | {} | {:.0} | {:.0} | {aim} |", times.len(), q(0.5), q(0.95));
}

/// Moves the first pixel position of a mark.
fn nudge(mark: &mut Value, step: f64) {
    for place in ["/centre/0", "/limbus/centre/0", "/points/nose_tip/0"] {
        if let Some(x) = mark.pointer_mut(place) {
            *x = json!(x.as_f64().unwrap_or(0.0) + step);
        }
    }
}

/// The picture of a case enlarged to 24 megapixels, as a JPEG, with the factor.
fn enlarged(jpeg: &[u8]) -> Result<(Vec<u8>, f64)> {
    let small = pictures::decode(jpeg, pictures::Limits::default())?.photo;
    let (w, h) = (6000u32, 4000u32);
    let k = (f64::from(w) / f64::from(small.width())).min(f64::from(h) / f64::from(small.height()));
    let mut rgb = Vec::with_capacity((w * h * 3) as usize);
    for y in 0..h {
        for x in 0..w {
            let at = small.get((f64::from(x) / k) as i64, (f64::from(y) / k) as i64);
            let c = at.map_or([0.0; 3], |s| s.rgb);
            rgb.extend(c.map(|v| (255.0 * optics::tone::linear_to_srgb(f64::from(v))).round() as u8));
        }
    }
    let photo = optics::photo::Photo::new(w, h, optics::photo::Samples::U8(rgb), &optics::tone::Encoding::Srgb)
        .map_err(anyhow::Error::msg)?;
    Ok((pictures::previews(&photo, &[w])?.remove(0).jpeg, k))
}

/// The stand-in studio: a head, three area lights and a wall, 640 x 480.
async fn studio(me: &Person, cases: &Value) -> Result<()> {
    let case =
        cases.as_array().and_then(|c| c.iter().find(|c| c["title"].as_str().is_some_and(|t| t.contains("ferryman"))));
    let id = case.and_then(|c| c["id"].as_str()).context("the demo case is missing")?.to_owned();
    let light = |name: &str, az: f64, el: f64, w: f64, stops: f64| {
        json!({"name": name, "azimuth_deg": az, "elevation_deg": el, "distance_m": 1.6, "level": {"stops": stops},
               "source": {"kind": "rectangle", "width_m": w, "height_m": 0.7}})
    };
    let mut set = me.get(&format!("/api/cases/{id}/set")).await?["set"].take();
    set["lights"] = json!([
        light("key", -44.0, 32.0, 0.7, 0.0),
        light("fill", 40.0, 5.0, 1.0, -2.0),
        light("rim", 142.0, 26.0, 0.3, -0.3)
    ]);
    set["picture"] = json!({"width": 640, "height": 480, "samples": 4});
    let draw = async |set: &Value| -> Result<(f64, f64)> {
        let start = Instant::now();
        let mut r =
            me.http.post(format!("{}/api/cases/{id}/set/draw", me.base)).json(set).send().await?.error_for_status()?;
        let (mut first, mut text) = (None, String::new());
        while let Some(chunk) = r.chunk().await? {
            text += &String::from_utf8_lossy(&chunk);
            if first.is_none() && text.contains("\"jpeg\"") {
                first = Some(ms(start));
            }
        }
        Ok((first.context("no picture came")?, ms(start)))
    };
    draw(&set).await?;
    let (mut first, mut whole, mut one, mut level) = (Vec::new(), Vec::new(), Vec::new(), Vec::new());
    for i in 0..6u32 {
        // everything new
        for l in set["lights"].as_array_mut().into_iter().flatten() {
            l["distance_m"] = json!(1.6 + 0.01 * f64::from(i + 1));
        }
        let (a, b) = draw(&set).await?;
        first.push(a);
        whole.push(b);
        set["lights"][1]["azimuth_deg"] = json!(40.0 + f64::from(i));
        let (_, b) = draw(&set).await?;
        one.push(b);
        set["lights"][0]["level"] = json!({"stops": -0.1 * f64::from(i)});
        let (_, b) = draw(&set).await?;
        level.push(b);
    }
    row("studio, 640 x 480, three area lights: first picture", first, "150");
    row("the same, whole picture", whole, "1500");
    row("one light moved, whole picture", one, "");
    row("a level changed", level, "30");
    Ok(())
}

/// The verdict on each of the demo's pictures, and what to change first, streamed. The first time only: answers are kept.
async fn verdicts(me: &Person, cases: &Value) -> Result<()> {
    let (mut verdict, mut first, mut all) = (Vec::new(), Vec::new(), Vec::new());
    for frame in cases.as_array().into_iter().flatten().filter_map(|c| c["frame_id"].as_str()) {
        let start = Instant::now();
        me.get(&format!("/api/frames/{frame}/verdict")).await?;
        verdict.push(ms(start));
        let url = format!("{}/api/frames/{frame}/verdict/changes", me.base);
        let text = me.http.get(url).send().await?.error_for_status()?.text().await?;
        let lines: Vec<Value> = text.lines().map(serde_json::from_str).collect::<Result<_, _>>()?;
        let mut told = lines.iter().filter(|l| l["mend"].is_object()).filter_map(|l| l["after_ms"].as_f64());
        let Some(one) = told.next() else { continue };
        first.push(one);
        all.push(told.next_back().unwrap_or(one));
    }
    row("verdict on a picture that was read", verdict, "300");
    row("what to change first, worked out", first, "3000");
    row("the same, with what then", all, "3000");
    Ok(())
}

/// A case with many takes, each taken up into the chain with a set of its own.
async fn many_takes(me: &Person, many: usize) -> Result<()> {
    let cases = me.get("/api/cases").await?;
    let all = cases.as_array().context("no cases")?;
    let found = all.iter().find(|c| c["title"].as_str().is_some_and(|t| t.contains("Light test")));
    let from = found.and_then(|c| c["frame_id"].as_str()).context("the demo case is missing")?.to_owned();
    let url = format!("{}/api/frames/{from}/picture?size=view", me.base);
    let jpeg = me.http.get(url).send().await?.error_for_status()?.bytes().await?;
    let marks = me.get(&format!("/api/frames/{from}/marks")).await?["marks"].take();
    let case = me.post("/api/cases", &json!({"title": "Many takes", "brief": "prop"})).await?;
    let id = case["id"].as_str().context("no id")?.to_owned();
    let add = async |role: &str, k: usize| -> Result<String> {
        // another picture each time: bytes after the end of the image
        let bytes = [jpeg.as_ref(), k.to_string().as_bytes()].concat();
        let part = reqwest::multipart::Part::bytes(bytes).file_name(format!("{role}-{k}.jpg"));
        let form = reqwest::multipart::Form::new().text("role", role.to_owned()).part("file", part);
        let sent = me.http.post(format!("{}/api/cases/{id}/frames", me.base)).multipart(form).send().await?;
        let frame: Value = sent.error_for_status()?.json().await?;
        Ok(frame["id"].as_str().context("no frame")?.to_owned())
    };
    let reference = add("reference", 0).await?;
    let path = format!("/api/frames/{reference}/marks");
    let edit = json!({"version": me.get(&path).await?["version"], "marks": marks});
    me.http.put(format!("{}{path}", me.base)).json(&edit).send().await?.error_for_status()?;
    let mut set = me.get(&format!("/api/cases/{id}/set")).await?;
    let (mut taken, mut last) = (Vec::new(), String::new());
    for k in 0..many {
        set["set"]["lights"][0]["azimuth_deg"] = json!(40.0 - 0.01 * k as f64);
        let put = me.http.put(format!("{}/api/cases/{id}/set", me.base));
        set = put
            .json(&json!({"version": set["version"], "set": set["set"]}))
            .send()
            .await?
            .error_for_status()?
            .json()
            .await?;
        let start = Instant::now();
        last = add("take", k + 1).await?;
        me.post(&format!("/api/frames/{last}/take-up"), &Value::Null).await?;
        taken.push(ms(start));
    }
    let late = taken.split_off(many - many.min(20));
    if !taken.is_empty() {
        row("a take added to few", taken.into_iter().take(20).collect(), "");
    }
    row(&format!("a take added to {many}"), late, "");
    for (what, path) in [
        ("the chain", format!("/api/cases/{id}/takes")),
        ("the chain, by likeness to a slant line", format!("/api/cases/{id}/takes?slant=key%20R40/30%20o20%20%2B0")),
        ("next move after the last", format!("/api/frames/{last}/next")),
    ] {
        let mut times = Vec::new();
        for _ in 0..5 {
            let start = Instant::now();
            me.get(&path).await?;
            times.push(ms(start));
        }
        row(&format!("{what}, {many} takes"), times, "");
    }
    let start = Instant::now();
    me.http.get(format!("{}/api/cases/{id}/takes/table", me.base)).send().await?.error_for_status()?.text().await?;
    row(&format!("the table as CSV, {many} takes"), vec![ms(start)], "");
    me.http.delete(format!("{}/api/cases/{id}", me.base)).send().await?.error_for_status()?;
    Ok(())
}

#[tokio::main(flavor = "current_thread")]
async fn main() -> Result<()> {
    interface_tests::with_tls();
    let base = std::env::args().nth(1).unwrap_or_else(|| "http://127.0.0.1:8080".into());
    let http = Client::builder().cookie_store(true).build()?;
    let me = Person { http, base };
    me.post("/api/session", &json!({"email": "tomek@puppets.example", "password": "strings and shadows"})).await?;
    let cases = me.get("/api/cases").await?;
    let frame_of = |title: &str| -> Result<String> {
        let all = cases.as_array().context("no cases")?;
        let found = all.iter().find(|c| c["title"].as_str().is_some_and(|t| t.contains(title)));
        Ok(found.and_then(|c| c["frame_id"].as_str()).context("the demo case is missing")?.to_owned())
    };
    println!("| what | n | median ms | 95 % ms | aim |");
    println!("|---|---|---|---|---|");
    if let Some(many) = std::env::args().nth(2) {
        return many_takes(&me, many.parse().context("how many takes?")?).await;
    }
    for (what, title, moved) in [
        ("an eye dragged, its new number", "Night ferryman", "eye"),
        ("a landmark of a face dragged", "Night ferryman", "face"),
        ("a matte ball dragged beside a mirror ball", "Light test", "ball-matte"),
        ("a mirror ball dragged beside a matte ball", "Light test", "ball-mirror"),
    ] {
        let frame = frame_of(title)?;
        let mut marks = me.get(&format!("/api/frames/{frame}/marks")).await?["marks"].take();
        let mut times = Vec::new();
        for i in 0..42 {
            let list = marks["marks"].as_array_mut().context("no marks")?;
            let mark = list.iter_mut().find(|m| m["id"].as_str().is_some_and(|id| id.starts_with(moved)));
            nudge(mark.context("no such mark")?, if i % 8 < 4 { 0.7 } else { -0.7 });
            let start = Instant::now();
            me.post(&format!("/api/frames/{frame}/read"), &marks).await?;
            // the first two fill the memories
            if i > 1 {
                times.push(ms(start));
            }
        }
        row(what, times, "50");
    }
    studio(&me, &cases).await?;
    verdicts(&me, &cases).await?;
    let probes = frame_of("Light test")?;
    let url = format!("{}/api/frames/{probes}/picture?size=view", me.base);
    let jpeg = me.http.get(url).send().await?.error_for_status()?.bytes().await?;
    let (big, k) = enlarged(&jpeg)?;
    let mut marks = me.get(&format!("/api/frames/{probes}/marks")).await?["marks"].take();
    for m in marks["marks"].as_array_mut().into_iter().flatten() {
        for place in ["/centre/0", "/centre/1", "/radius_px"] {
            if let Some(v) = m.pointer_mut(place) {
                *v = json!(v.as_f64().unwrap_or(0.0) * k);
            }
        }
    }
    let (mut stored, mut total) = (Vec::new(), Vec::new());
    for i in 0..3u8 {
        let case = me.post("/api/cases", &json!({"title": "Speed", "brief": "prop"})).await?;
        let id = case["id"].as_str().context("no id")?.to_owned();
        // another picture each time: one more byte after the end of the image
        let bytes = [big.as_slice(), &[i]].concat();
        let part = reqwest::multipart::Part::bytes(bytes).file_name("speed.jpg");
        let form = reqwest::multipart::Form::new().part("file", part);
        let start = Instant::now();
        let sent = me.http.post(format!("{}/api/cases/{id}/frames", me.base)).multipart(form).send().await?;
        let frame: Value = sent.error_for_status()?.json().await?;
        stored.push(ms(start));
        let frame = frame["id"].as_str().context("no frame")?;
        me.post(&format!("/api/frames/{frame}/read"), &marks).await?;
        total.push(ms(start));
        me.http.delete(format!("{}/api/cases/{id}", me.base)).send().await?.error_for_status()?;
    }
    row("a 24-megapixel JPEG stored with its copies", stored, "");
    row("the same, upload to first reading of two balls", total, "1500");
    Ok(())
}
