//! From a reading to a set that is built: candidates and their test, the bench in both directions, the build
//! walked through on a phone, the kit as a table.

use anyhow::{Context, Result, ensure};
use interface_tests::{Browser, Server, root};
use thirtyfour::prelude::*;

/// The first number in a text such as "f/5.6" or "−2.3 stops".
fn number(text: &str) -> Result<f64> {
    let t: String = text
        .replace('−', "-")
        .chars()
        .skip_while(|c| !c.is_ascii_digit() && *c != '-')
        .take_while(|c| c.is_ascii_digit() || *c == '.' || *c == '-')
        .collect();
    t.parse().with_context(|| format!("no number in {text:?}"))
}

async fn open_case(b: &Browser, server: &Server, title: &str, step: &str) -> Result<()> {
    b.page.goto(format!("{}/cases", server.base)).await?;
    b.wait("new-case").await?;
    b.click_at(By::XPath(format!("//a[contains(., '{title}')]"))).await?;
    b.click(&format!("step-{step}")).await
}

async fn set_field(b: &Browser, name: &str, text: &str) -> Result<()> {
    let field = b.wait(name).await?;
    field.send_keys(Key::Control + "a").await?;
    field.send_keys(text).await?;
    field.send_keys(Key::Enter + "").await?;
    Ok(())
}

#[tokio::test]
async fn a_set_is_chosen_calculated_and_built() -> Result<()> {
    let server = Server::start("sc_building", true).await?;
    let b = Browser::open(1280, 800).await?;
    b.sign_in(&server.base, "tomek@puppets.example", "strings and shadows").await?;

    // The bench: the worked walk. f/5.6 here, f/4 a foot and a half on: the light is 3.6 ft away.
    b.click("tool-bench").await?;
    b.click("sum-walk").await?;
    b.click("solve-distance_m").await?;
    set_field(&b, "f-face_w_m", "0.5 cm").await?;
    set_field(&b, "f-face_h_m", "0.5 cm").await?;
    set_field(&b, "f-apart_m", "1 ft 6").await?;
    set_field(&b, "f-first_f", "5.657").await?;
    set_field(&b, "f-second_f", "4").await?;
    let far = b.text_when("f-distance_m", |t| number(t).is_ok_and(|d| (d - 1.10).abs() < 0.02)).await?;
    ensure!(far.contains('±'), "a distance by two meter readings has a spread: {far}");
    // and the other way: the distance given, what does the second mark show?
    b.click("solve-second_f").await?;
    set_field(&b, "f-distance_m", "2").await?;
    b.text_when("f-second_f", |t| number(t).is_ok_and(|f| (f - 5.657 * 2.0 / 2.457).abs() < 0.06)).await?;
    // the same figure stands on the next sum
    b.click("sum-size").await?;
    let kept = b.wait("f-distance_m").await?.prop("value").await?.unwrap_or_default();
    ensure!((number(&kept)? - 2.0).abs() < 0.01, "the distance went with it: {kept}");
    // what cannot be solved says so
    b.click("sum-path").await?;
    set_field(&b, "f-distance_m", "40").await?;
    b.click("solve-power_stops").await?;
    b.text_when("bench-problem", |t| t.contains("Power") && t.contains("nearest")).await?;

    b.accessible("bench").await?;

    // Kit: three umbrellas, kept after a reload.
    b.click("tool-kit").await?;
    let count = b.page.query(By::Css("[aria-label='How many: Umbrella, 1 m']")).first().await?;
    count.send_keys(Key::Control + "a").await?;
    count.send_keys("3").await?;
    count.send_keys(Key::Enter + "").await?;
    b.text_when("kit-saved", |t| t == "Saved").await?;
    b.page.refresh().await?;
    let count = b.page.query(By::Css("[aria-label='How many: Umbrella, 1 m']")).first().await?;
    ensure!(count.prop("value").await?.as_deref() == Some("3"), "the kit was not kept");
    b.wait("substitutes").await?.send_keys(Key::Enter + "").await?;
    b.text_when("substitute", |t| t.contains('°') && t.contains("at")).await?;
    b.accessible("kit").await?;

    // Ways to make a picture, and the test between them.
    open_case(&b, &server, "ferryman", "rebuild").await?;
    b.text_when("candidate", |t| t.contains("key:") && t.contains('%')).await?;
    let first = b.page.query(By::Css("[data-test=candidate]")).all_from_selector().await?.len();
    ensure!(first >= 2, "one candidate is no choice: {first}");
    b.wait("take-1").await?.send_keys(Key::Enter + "").await?;
    b.text_when("set-saved", |t| t == "Saved").await?;
    let test = b.page.query(By::Css("[data-test^=outcome-]")).first().await?;
    let before = b.wait("candidate").await?.text().await?;
    let says = b.wait("separating-test").await?.text().await?;
    // enter what the second foretells: it must gain
    let second = says.split("· B").nth(1).map_or("0", |t| t);
    test.send_keys(format!("{}", number(second)?)).await?;
    test.send_keys(Key::Enter + "").await?;
    b.text_when("candidate", |t| t != before).await?;

    b.accessible("candidates").await?;

    // A light's figures go to the bench and come back nearer.
    b.wait("to-bench").await?.send_keys(Key::Enter + "").await?;
    let far = number(&b.wait("f-distance_m").await?.prop("value").await?.unwrap_or_default())?;
    set_field(&b, "f-distance_m", &format!("{:.2}", far * 0.8)).await?;
    b.wait("put-back").await?.send_keys(Key::Enter + "").await?;
    b.text_when("set-saved", |t| t == "Saved").await?;

    // A take of its own reference: nothing differs. Another picture of the demo: something does.
    open_case(&b, &server, "ferryman", "takes").await?;
    let same = root().join("crates/server/demo/ferryman.jpg").canonicalize()?;
    b.wait("add-takes").await?.send_keys(same.to_str().unwrap_or_default()).await?;
    b.text_when("next-move", |t| t.starts_with("Nothing")).await?;
    b.accessible("takes").await?;
    b.click("mode-wipe").await?;
    b.no_overflow("takes").await?;

    // Build on a phone.
    let phone = Browser::open(390, 844).await?;
    phone.sign_in(&server.base, "tomek@puppets.example", "strings and shadows").await?;
    open_case(&phone, &server, "ferryman", "build").await?;
    phone.text_when("build-saved", |t| t.starts_with("0 of")).await?;
    phone.click("tick").await?;
    phone.text_when("build-saved", |t| t.starts_with("1 of") && t.contains("Saved")).await?;
    let expect = number(&phone.wait("expect").await?.text().await?.replace("f/", ""))?;
    phone.wait("expect-picture").await?;
    // a stop over: what that says
    set_field(&phone, "measured", &format!("{:.1}", expect * std::f64::consts::SQRT_2)).await?;
    phone.text_when("explains", |t| t.contains("stops more")).await?;
    phone.no_overflow("build").await?;
    phone.accessible("build").await?;
    phone.click("first-background").await?;
    phone.text_when("build-saved", |t| t.contains("Saved")).await?;
    phone.page.refresh().await?;
    phone.text_when("build-saved", |t| t.starts_with("1 of")).await?;
    ensure!(phone.console_errors().await?.is_empty(), "{:?}", phone.console_errors().await?);
    phone.close().await?;
    ensure!(b.console_errors().await?.is_empty(), "{:?}", b.console_errors().await?);
    b.close().await
}
