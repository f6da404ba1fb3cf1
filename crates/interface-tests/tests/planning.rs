//! A set from nothing: two people to the build sheet, a slash over the eyes, a room that is too small, on a desk and on a phone.

use anyhow::{Result, ensure};
use interface_tests::{Browser, Server};
use thirtyfour::prelude::*;

async fn set_field(b: &Browser, name: &str, text: &str) -> Result<()> {
    let field = b.wait(name).await?;
    field.send_keys(Key::Control + "a").await?;
    field.send_keys(text).await?;
    field.send_keys(Key::Tab + "").await?;
    Ok(())
}

async fn pick(b: &Browser, name: &str, value: &str) -> Result<()> {
    b.choose(name, value).await?;
    Ok(())
}

/// Plans a look and makes a case of the best set, by the keyboard.
async fn plan(b: &Browser, look: &str) -> Result<String> {
    // what was wished last time is planned at once
    b.css_within("[data-test=plan-it]:not([disabled])", 60).await?;
    pick(b, "wish-look", look).await?;
    pick(b, "wish-of", "all").await?;
    // it rests while what was picked before is tried
    b.css_within("[data-test=plan-it]:not([disabled])", 60).await?.send_keys(Key::Enter + "").await?;
    // the button rests while sets are tried
    b.css_within("[data-test=plan-it]:not([disabled])", 60).await?;
    let said = b.text_within("proposal", 60, |t| t.contains("Key to fill")).await?;
    b.wait("take-proposal").await?.send_keys(Key::Enter + "").await?;
    b.text_within("studio-status", 60, |t| t.contains("Drawn")).await?;
    Ok(said)
}

#[tokio::test]
async fn a_set_is_planned_without_a_picture() -> Result<()> {
    let server = Server::start("sc_planning", true).await?;
    let b = Browser::open(1280, 800).await?;
    b.sign_in(&server.base, "tomek@puppets.example", "strings and shadows").await?;
    b.click("tool-plan").await?;
    b.text_within("proposal", 60, |t| t.contains("Key to fill")).await?;
    b.accessible("plan").await?;

    // a room that is too small says by how much, and keeps what was typed
    set_field(&b, "room-depth", "2").await?;
    b.click("plan-it").await?;
    b.text_within("wish-problem", 30, |t| t.contains("m too short")).await?;
    set_field(&b, "room-depth", "8").await?;
    set_field(&b, "room-width", "6").await?;
    set_field(&b, "room-height", "3").await?;

    // two people side by side, to the build sheet
    let said = plan(&b, "pair").await?;
    ensure!(
        said.contains("left person's cheeks") && said.contains("right person's cheeks"),
        "each person is metered: {said}"
    );
    b.css("[data-test=meter-table] summary").await?.send_keys(Key::Enter + "").await?;
    b.text_within("meter-table", 20, |t| t.contains("1: forehead") && t.contains("2: left cheek")).await?;
    b.click("step-build").await?;
    let sheet = b.page.query(By::Css("main")).first().await?;
    for _ in 0..40 {
        if sheet.text().await?.contains("Key 2") {
            break;
        }
        tokio::time::sleep(std::time::Duration::from_millis(250)).await;
    }
    let text = sheet.text().await?;
    ensure!(text.contains("Key alone") && text.contains("Key 2 alone"), "a step for each light: {text}");

    // a slash over the eyes, and a wider one
    b.click("tool-plan").await?;
    plan(&b, "slash").await?;
    b.text_within("leaves-1", 20, |t| t.contains("band 50 mm high of the key")).await?;
    set_field(&b, "band-1", "80").await?;
    b.text_within("leaves-1", 20, |t| t.contains("band 80 mm high")).await?;
    set_field(&b, "edge-1", "2900").await?;
    b.text_within("uncut-1", 20, |t| t.contains("behind the lamp")).await?;
    b.click("keep-recipe").await?;
    b.page.query(By::XPath("//*[contains(., 'Kept among the')]")).first().await?;
    b.click("tool-recipes").await?;
    b.page.query(By::XPath("//*[contains(text(), 'Slash of light, planned')]")).first().await?;

    // what was planned is what a class is asked for: its picture becomes the target, by one press
    b.click("sign-out").await?;
    b.sign_in(&server.base, "ilse@puppets.example", "strings and shadows").await?;
    b.click("tool-plan").await?;
    plan(&b, "slash").await?;
    b.click("give-out").await?;
    b.css_within("[data-test=assignment-title]", 90).await?;
    let title = b.wait("assignment-title").await?.value().await?.unwrap_or_default();
    ensure!(title.contains("Slash of light"), "it is called as the case: {title}");
    let target = b.css("[data-test=assignment-reference] option:checked").await?.text().await?;
    ensure!(target.contains("what its set gives"), "{target}");
    b.click("assignment-save").await?;
    b.page.query(By::XPath("//*[@data-test='assignment-card'][contains(., 'Slash of light')]")).first().await?;

    // the phone: nothing runs out of the page
    b.page.set_window_rect(0, 0, 390, 844).await?;
    b.page.goto(format!("{}/plan", server.base)).await?;
    b.text_within("proposal", 60, |t| t.contains("Key to fill")).await?;
    b.no_overflow("plan").await?;
    // what was refused on purpose above is told by the browser as well
    let errors: Vec<String> = b.console_errors().await?.into_iter().filter(|e| !e.contains("400")).collect();
    ensure!(errors.is_empty(), "{errors:?}");
    b.close().await
}
