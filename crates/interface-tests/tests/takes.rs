//! Takes: pictures of the simulated camera come through the watched folder, the next move is made, the chain is kept,
//! a take is accepted and its recipe found and set again.

use anyhow::{Context, Result, ensure};
use interface_tests::{Browser, Server, root};
use std::time::{Duration, Instant};
use thirtyfour::prelude::*;

async fn open_takes(b: &Browser, server: &Server, title: &str) -> Result<()> {
    b.page.goto(format!("{}/cases", server.base)).await?;
    b.wait("new-case").await?;
    let link = b.page.query(By::XPath(format!("//a[contains(., '{title}')]"))).first().await?;
    link.send_keys(Key::Enter + "").await?;
    b.wait("step-takes").await?.send_keys(Key::Enter + "").await?;
    Ok(())
}

#[tokio::test]
async fn takes_are_taken_compared_undone_and_accepted() -> Result<()> {
    let server = Server::start_watching("sc_takes", true).await?;
    let b = Browser::open(1280, 900).await?;
    b.sign_in(&server.base, "tomek@puppets.example", "strings and shadows").await?;
    open_takes(&b, &server, "Light test with two balls").await?;
    b.wait("add-takes").await?;
    b.accessible("takes, empty").await?;

    // the simulated camera stands a little otherwise than it is believed to
    b.shoot_take(1).await?;
    b.css(".ledger tbody tr:nth-child(3)").await?;
    for mode in ["wipe", "map", "halo", "beside"] {
        b.click(&format!("mode-{mode}")).await?;
        if mode == "map" {
            b.css_within("[data-test=difference-map]", 20).await?;
        }
    }
    b.accessible("takes").await?;
    b.no_overflow("takes").await?;

    // the move is made in the set, the next picture follows
    let said = b.text_when("next-move", |t| !t.is_empty()).await?;
    if let Ok(make) = b
        .page
        .query(By::Css("[data-test=make-move]"))
        .wait(Duration::from_secs(8), Duration::from_millis(300))
        .first()
        .await
    {
        make.send_keys(Key::Enter + "").await?;
        b.text_when("takes-state", |t| t.contains("next picture")).await?;
    } else {
        ensure!(said.contains("Nothing") || said.contains("nothing"), "neither a move nor none: {said}");
    }
    b.shoot_take(2).await?;
    let details = b.text_when("take-details", |t| t.contains("Take 2 after take 1")).await?;
    ensure!(details.contains("Changed:") || said.contains("othing"), "what was changed is not told: {details}");

    // a note is kept, the change is taken back, and the next picture follows the first
    let note = b.wait("take-note").await?;
    note.send_keys("curtain was open").await?;
    note.send_keys(Key::Enter + "").await?;
    b.wait("kept-undone").await?.send_keys(Key::Enter + "").await?;
    b.text_when("takes-state", |t| t.contains("Taken back")).await?;
    b.shoot_take(3).await?;
    b.text_when("take-details", |t| t.contains("after take 1")).await?;
    b.page.refresh().await?;
    b.wait("take-2").await?.send_keys(Key::Enter + "").await?;
    b.wait("take-note").await?;
    let kept = b.wait("take-note").await?.prop("value").await?.unwrap_or_default();
    ensure!(kept == "curtain was open", "the note is {kept:?}");

    // found by light; the table has a row for each reading
    let find = b.wait("find-slant").await?;
    find.send_keys("key L45/30 o20").await?;
    find.send_keys(Key::Enter + "").await?;
    b.text_when("take-1", |t| t.contains("% like")).await?;
    let link = b.wait("takes-csv").await?.prop("href").await?.context("a link")?;
    let script = "const done = arguments[1]; fetch(arguments[0]).then(r => r.text()).then(done)";
    let table = b
        .page
        .execute_async(script, vec![serde_json::json!(link)])
        .await?
        .json()
        .as_str()
        .unwrap_or_default()
        .to_owned();
    ensure!(table.lines().count() > 6 && table.starts_with("take,follows,file"), "{table}");

    // a file that is no picture is refused with its reason, nothing is lost
    let folder = server.watched_case_folder()?;
    std::fs::write(folder.join("broken.png"), b"this is no picture")?;
    let deadline = Instant::now() + Duration::from_secs(20);
    while !folder.join("refused/broken.png.txt").exists() {
        ensure!(Instant::now() < deadline, "the broken file was not refused");
        tokio::time::sleep(Duration::from_millis(300)).await;
    }
    // a copy of the reference put there is a take with nothing to change
    std::fs::copy(root().join("crates/server/demo/probes.jpg"), folder.join("same.jpg"))?;
    b.css_within("[data-test=take-4]", 60).await?.send_keys(Key::Enter + "").await?;
    b.text_when("take-details", |t| t.contains("Take 4")).await?;
    b.text_when("next-move", |t| t.contains("othing")).await?;

    // accepted, filed, found, set again
    b.wait("accept-open").await?.send_keys(Key::Enter + "").await?;
    b.accessible("takes, accepting").await?;
    b.wait("accept-take").await?.send_keys(Key::Enter + "").await?;
    b.text_when("accept", |t| t.contains("Filed as")).await?;
    b.page.goto(format!("{}/recipes", server.base)).await?;
    b.text_when("recipe", |t| t.contains("Light test")).await?;
    b.accessible("recipes").await?;
    b.no_overflow("recipes").await?;
    let slant = b.wait("recipe-slant").await?;
    slant.send_keys("key L170/-60 o3").await?;
    b.wait("recipe-find").await?.send_keys(Key::Enter + "").await?;
    let gone = b.page.query(By::XPath("//p[contains(., 'No recipe answers')]".to_owned())).first().await;
    ensure!(gone.is_ok(), "a quite different light was found");
    slant.send_keys(Key::Control + "a").await?;
    slant.send_keys(Key::Delete + "").await?;
    b.wait("recipe-find").await?.send_keys(Key::Enter + "").await?;
    b.wait("set-again").await?.send_keys(Key::Enter + "").await?;
    b.css_within("[data-test=together]", 20).await?;
    let errors = b.console_errors().await?;
    ensure!(errors.is_empty(), "console: {errors:?}");
    b.close().await
}

#[tokio::test]
async fn a_phone_shows_takes_and_recipes() -> Result<()> {
    let server = Server::start_watching("sc_takes_phone", true).await?;
    let b = Browser::open(390, 844).await?;
    b.sign_in(&server.base, "tomek@puppets.example", "strings and shadows").await?;
    open_takes(&b, &server, "Light test with two balls").await?;
    b.shoot_take(1).await?;
    b.no_overflow("takes on a phone").await?;
    b.page.goto(format!("{}/recipes", server.base)).await?;
    b.wait("recipe-find").await?;
    b.no_overflow("recipes on a phone").await?;
    let errors = b.console_errors().await?;
    ensure!(errors.is_empty(), "console: {errors:?}");
    b.close().await
}
