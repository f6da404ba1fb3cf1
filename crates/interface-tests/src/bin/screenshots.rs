//! Takes the pictures in docs/screenshots from the demo data of a running server.
//!
//! `cargo run -p interface-tests --bin screenshots -- http://127.0.0.1:8080 docs/screenshots [only]`

use interface_tests::Browser;
use std::path::{Path, PathBuf};
use std::time::Duration;
use thirtyfour::Key;

#[tokio::main(flavor = "current_thread")]
async fn main() -> anyhow::Result<()> {
    let mut args = std::env::args().skip(1);
    let base = args.next().unwrap_or_else(|| "http://127.0.0.1:8080".into());
    let folder = PathBuf::from(args.next().unwrap_or_else(|| "docs/screenshots".into()));
    let only = args.next().unwrap_or_default();
    std::fs::create_dir_all(&folder)?;
    let wanted = |name: &str| only.is_empty() || only.split(',').any(|o| o == name);
    let settle = || tokio::time::sleep(Duration::from_millis(900));

    let b = Browser::open(1280, 800).await?;
    b.page.goto(format!("{base}/sign-in")).await?;
    b.wait("email").await?;
    settle().await;
    b.sign_in(&base, "tomek@puppets.example", "strings and shadows").await?;
    settle().await;
    if wanted("cases") {
        b.shot(&folder.join("cases.png")).await?;
    }
    let cases = b.page.execute("return [...document.querySelectorAll('[data-test=case]')].map(a => [a.innerText.split('\\n')[0], a.getAttribute('href')])", vec![]).await?;
    let cases: Vec<(String, String)> = serde_json::from_value(cases.json().clone())?;
    for (title, step, name) in [
        ("Night ferryman", "look", "look"),
        ("Night ferryman", "read", "read"),
        ("Light test", "read", "read-balls"),
        ("Night ferryman", "rebuild", "rebuild"),
        ("Night ferryman", "rebuild", "ways"),
        ("Night ferryman", "build", "build"),
        ("Moon, both lamps equal", "verdict", "verdict"),
        ("Elixir", "plates", "plates"),
        ("Seven-mile", "series", "series"),
    ] {
        if !wanted(name) {
            continue;
        }
        let Some((_, href)) = cases.iter().find(|c| c.0.contains(title)) else { continue };
        b.page.goto(format!("{base}{}", href.replace("/read", &format!("/{step}")))).await?;
        b.wait("case-title").await?;
        settle().await;
        if step == "rebuild" {
            drawn(&b).await?;
        }
        if step == "plates" {
            b.text_within("sum", 60, |t| t.contains("add up")).await?;
            settle().await;
        }
        if step == "series" {
            b.text_within("series-report", 60, |t| t.contains("stand out")).await?;
            b.click("slot-4").await?;
            settle().await;
        }
        if step == "build" {
            second_step(&b).await?;
        }
        if step == "verdict" {
            b.css_within("[data-test=first-picture]", 60).await?;
            settle().await;
        }
        if name == "ways" {
            b.wait("separating-test").await?;
            b.page.execute("document.querySelector('.ways').scrollIntoView()", vec![]).await?;
            settle().await;
        }
        b.shot(&folder.join(format!("{name}.png"))).await?;
    }
    if wanted("plan") {
        b.page.goto(format!("{base}/plan")).await?;
        b.text_within("proposal", 60, |t| t.contains("Key to fill")).await?;
        b.css_within("[data-test=plan-it]:not([disabled])", 60).await?;
        b.shot(&folder.join("plan.png")).await?;
    }
    if wanted("takes") {
        takes(&b, &base, &cases, &folder).await?;
    }
    if wanted("wall") {
        let b = Browser::open(1280, 800).await?;
        b.sign_in_to_the_wall(&base).await?;
        b.text_within("wall-count", 60, |t| t.starts_with("5 of")).await?;
        b.css("body").await?.send_keys("nn").await?;
        b.text_within("grade-total", 30, |t| t.contains("points")).await?;
        settle().await;
        b.shot(&folder.join("wall.png")).await?;
        b.close().await?;
    }
    if wanted("live") {
        live(&base, &folder).await?;
    }
    for name in ["bench", "kit"] {
        if wanted(name) {
            b.click(&format!("tool-{name}")).await?;
            settle().await;
            b.shot(&folder.join(format!("{name}.png"))).await?;
        }
    }
    if wanted("build-phone") || wanted("read-phone") || wanted("rebuild-phone") {
        let b = Browser::open(390, 844).await?;
        b.sign_in(&base, "tomek@puppets.example", "strings and shadows").await?;
        for (title, step, name) in [
            ("Night ferryman", "read", "read-phone"),
            ("Light test", "rebuild", "rebuild-phone"),
            ("Night ferryman", "build", "build-phone"),
        ] {
            let Some((_, href)) = cases.iter().find(|c| c.0.contains(title)) else { continue };
            if wanted(name) {
                b.page.goto(format!("{base}{}", href.replace("/read", &format!("/{step}")))).await?;
                b.wait("step-read").await?;
                settle().await;
                if step == "rebuild" {
                    drawn(&b).await?;
                }
                if step == "build" {
                    second_step(&b).await?;
                }
                b.shot(&folder.join(format!("{name}.png"))).await?;
            }
        }
        b.close().await?;
    }
    for line in b.console_errors().await? {
        println!("console: {line}");
    }
    b.close().await
}

/// The first light's step of the build, with its picture.
async fn second_step(b: &Browser) -> anyhow::Result<()> {
    b.click("step-1").await?;
    b.wait("expect-picture").await?;
    tokio::time::sleep(Duration::from_secs(3)).await;
    Ok(())
}

/// Waits until the studio has drawn the set.
async fn drawn(b: &Browser) -> anyhow::Result<()> {
    b.text_when("studio-status", |t| t.contains("Drawn in")).await.map(|_| ())
}

/// Two takes of the simulated camera with the move between them, then the second accepted and filed.
async fn takes(b: &Browser, base: &str, cases: &[(String, String)], folder: &Path) -> anyhow::Result<()> {
    let Some((_, href)) = cases.iter().find(|c| c.0.contains("Light test")) else { return Ok(()) };
    b.page.goto(format!("{base}{}", href.replace("/read", "/takes"))).await?;
    let taken = b.wait("takes-state").await.is_ok() && b.css_within("[data-test=take-2]", 3).await.is_ok();
    if !taken {
        b.shoot_take(1).await?;
        if let Ok(make) = b.css_within("[data-test=make-move]", 8).await {
            make.send_keys(Key::Enter + "").await?;
            b.text_when("takes-state", |t| t.contains("next picture")).await?;
        }
        b.shoot_take(2).await?;
    }
    tokio::time::sleep(Duration::from_secs(2)).await;
    b.shot(&folder.join("takes.png")).await
}

/// The live round of the demo once its light is told, placed by a class of twenty-six.
async fn live(base: &str, folder: &Path) -> anyhow::Result<()> {
    let b = Browser::open(1280, 800).await?;
    b.sign_in(base, "ilse@puppets.example", "strings and shadows").await?;
    b.open_class("live").await?;
    b.css_within("[data-test=round-card] a", 20).await?.click().await?;
    let code = b.text_within("round-code", 20, |t| t.len() == 6).await?;
    let phone = reqwest::Client::new();
    let url = format!("{base}/api/live/{code}");
    b.css("body").await?.send_keys(" ").await?;
    b.css_within("[data-test=round-picture]", 20).await?;
    for i in 0..26 {
        let name = serde_json::json!({"name": format!("Student {i}")});
        let p: serde_json::Value = phone.post(format!("{url}/players")).json(&name).send().await?.json().await?;
        // as a class places it: mostly too low, some on the wrong side
        let k = f64::from(i);
        let side = if i % 9 == 4 { -1.0 } else { 1.0 };
        let place = serde_json::json!({"azimuth_deg": side * (38.0 + 17.0 * (k * 2.4).sin()), "elevation_deg": 22.0 + 13.0 * (k * 1.7).cos()});
        let guess = serde_json::json!({"player": p["player"], "at": 0, "place": place});
        phone.put(&url).json(&guess).send().await?.error_for_status()?;
    }
    b.css("body").await?.send_keys(" ").await?;
    b.text_within("round-truth", 20, |t| t.contains("It came from")).await?;
    tokio::time::sleep(Duration::from_millis(900)).await;
    b.shot(&folder.join("live.png")).await?;
    b.close().await
}
