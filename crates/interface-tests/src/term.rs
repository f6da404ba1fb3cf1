//! What tests of a class share: asking, refusals, newcomers, pictures.

use crate::Server;
use crate::http::{get, problem, send, upload};
use anyhow::{Context, Result, ensure};
use reqwest::{Client, Method, StatusCode};
use serde_json::{Value, json};
use std::time::{Duration, Instant};

/// Asks and takes the answer, which must be one.
///
/// # Errors
/// If it is refused.
pub async fn ok(c: &Client, s: &Server, m: Method, path: &str, body: &Value) -> Result<Value> {
    let r = send(c, s, m.clone(), path, body).await?;
    let status = r.status();
    let text = r.text().await?;
    ensure!(status.is_success(), "{m} {path}: {status} {text}");
    Ok(if text.is_empty() { Value::Null } else { serde_json::from_str(&text)? })
}

/// Asks and takes the sentence of a refusal with this status.
///
/// # Errors
/// If it is not refused so.
pub async fn refused(c: &Client, s: &Server, m: Method, path: &str, body: &Value, as_: u16) -> Result<String> {
    let r = send(c, s, m.clone(), path, body).await?;
    ensure!(r.status().as_u16() == as_, "{m} {path}: {} instead of {as_}", r.status());
    Ok(problem(r).await?["detail"].as_str().unwrap_or_default().to_owned())
}

/// Somebody who makes an account.
///
/// # Errors
/// If that is refused.
pub async fn newcomer(s: &Server, name: &str) -> Result<Client> {
    let c = Client::builder().cookie_store(true).build()?;
    let body = json!({"name": name, "email": format!("{}@term.example", name.to_lowercase()), "password": "a long enough sentence"});
    let r = c.post(format!("{}/api/accounts", s.base)).json(&body).send().await?;
    ensure!(r.status().is_success(), "{name}: {}", r.text().await?);
    Ok(c)
}

/// A case with one of the class's pictures and its marks; its frame.
///
/// # Errors
/// If it cannot be made.
pub async fn picture(c: &Client, s: &Server, which: &str) -> Result<String> {
    let folder = crate::root().join("crates/server/demo/class");
    let case = ok(c, s, Method::POST, "/api/cases", &json!({"title": which, "brief": "everyday"})).await?["id"]
        .as_str()
        .unwrap_or_default()
        .to_owned();
    let r = upload(c, s, &case, &format!("{which}.jpg"), std::fs::read(folder.join(format!("{which}.jpg")))?).await?;
    ensure!(r.status() == StatusCode::CREATED, "{}", r.text().await?);
    let frame = r.json::<Value>().await?["id"].as_str().unwrap_or_default().to_owned();
    let marks: Value = serde_json::from_str(&std::fs::read_to_string(folder.join(format!("{which}.json")))?)?;
    let version = get(c, s, &format!("/api/frames/{frame}/marks")).await?["version"].clone();
    ok(c, s, Method::PUT, &format!("/api/frames/{frame}/marks"), &json!({"version": version, "marks": marks})).await?;
    Ok(frame)
}

/// A text of an answer; empty if there is none.
pub fn text(v: &Value, name: &str) -> String {
    v[name].as_str().unwrap_or_default().to_owned()
}

/// Waits until nothing of an assignment is being read.
///
/// # Errors
/// If that takes two minutes.
pub async fn read_all(c: &Client, s: &Server, id: &str) -> Result<Value> {
    let begin = Instant::now();
    loop {
        let wall = get(c, s, &format!("/api/assignments/{id}/wall")).await?;
        if wall.as_array().context("a wall")?.iter().all(|p| p["state"] != "reading") {
            return Ok(wall);
        }
        ensure!(begin.elapsed() < Duration::from_secs(120), "still being read: {wall}");
        tokio::time::sleep(Duration::from_millis(300)).await;
    }
}
