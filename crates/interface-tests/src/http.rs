//! Requests as tests make them.

use crate::Server;
use anyhow::Result;
use reqwest::{Client, Method, Response, StatusCode};
use serde_json::{Value, json};

/// Password of all demo accounts.
pub const PASSWORD: &str = "strings and shadows";

/// Signs a demo account in.
///
/// # Errors
/// If the server does not answer as it should.
pub async fn person(server: &Server, email: &str) -> Result<Client> {
    let client = Client::builder().cookie_store(true).build()?;
    let r = client
        .post(format!("{}/api/session", server.base))
        .json(&json!({"email": email, "password": PASSWORD}))
        .send()
        .await?;
    assert_eq!(r.status(), StatusCode::OK, "{email}");
    Ok(client)
}

/// The JSON of a route.
///
/// # Errors
/// If the server does not answer as it should.
pub async fn get(c: &Client, server: &Server, path: &str) -> Result<Value> {
    Ok(c.get(format!("{}{path}", server.base)).send().await?.error_for_status()?.json().await?)
}

/// Sends JSON.
///
/// # Errors
/// If the server does not answer as it should.
pub async fn send(c: &Client, server: &Server, method: Method, path: &str, body: &Value) -> Result<Response> {
    Ok(c.request(method, format!("{}{path}", server.base)).json(body).send().await?)
}

/// Sends a picture to a case.
///
/// # Errors
/// If the server does not answer as it should.
pub async fn upload(c: &Client, server: &Server, case: &str, name: &str, bytes: Vec<u8>) -> Result<Response> {
    let part = reqwest::multipart::Part::bytes(bytes).file_name(name.to_owned());
    let form = reqwest::multipart::Form::new().part("file", part);
    Ok(c.post(format!("{}/api/cases/{case}/frames", server.base)).multipart(form).send().await?)
}

/// The problem document of an answer.
///
/// # Errors
/// If the server does not answer as it should.
pub async fn problem(r: Response) -> Result<Value> {
    assert_eq!(r.headers()["content-type"], "application/problem+json");
    let v: Value = r.json().await?;
    assert!(v["detail"].as_str().is_some_and(|d| d.len() > 10), "{v}");
    Ok(v)
}
