//! A verdict from the findings to the page that is handed over: what to change first, remarks, the paragraph, a brief of one's own.

use anyhow::{Result, ensure};
use interface_tests::{Browser, Server};
use thirtyfour::prelude::*;

async fn open(b: &Browser, base: &str, title: &str) -> Result<()> {
    b.page.goto(format!("{base}/cases")).await?;
    b.click_at(By::XPath(format!("//a[contains(., '{title}')]"))).await?;
    b.wait("step-verdict").await?.send_keys(Key::Enter + "").await?;
    Ok(())
}

async fn tab(b: &Browser, name: &str) -> Result<()> {
    let at = format!("//button[contains(@class,'nav-link') and starts-with(normalize-space(.), '{name}')]");
    b.page.query(By::XPath(at)).first().await?.send_keys(Key::Enter + "").await?;
    Ok(())
}

/// Asks for a report and fetches it.
async fn report(b: &Browser, file: &str) -> Result<(String, String)> {
    b.choose("report-file", file).await?;
    let now = "return document.querySelector('[data-test=report-result]')?.getAttribute('href') ?? ''";
    let before: String = b.page.execute(now, vec![]).await?.convert()?;
    b.css("[data-test=report-make]").await?.send_keys(Key::Enter + "").await?;
    let mut link = String::new();
    for _ in 0..450 {
        link = b.page.execute(now, vec![]).await?.convert()?;
        if !link.is_empty() && link != before {
            break;
        }
        tokio::time::sleep(std::time::Duration::from_millis(200)).await;
    }
    let script = "const [url, done] = arguments; fetch(url).then(async r => done([r.headers.get('content-type'), new TextDecoder('latin1').decode(await r.arrayBuffer())]))";
    Ok(b.page.execute_async(script, vec![serde_json::json!(link)]).await?.convert()?)
}

#[tokio::test]
async fn a_verdict_is_worked_out_answered_written_and_handed_over() -> Result<()> {
    let server = Server::start("sc_verdict", true).await?;
    let b = Browser::open(1280, 800).await?;
    b.sign_in(&server.base, "tomek@puppets.example", "strings and shadows").await?;

    // both lamps equal: the fill goes down, and the picture of that stands beside it
    open(&b, &server.base, "Moon, both lamps equal").await?;
    let says = b.text_within("first-says", 60, |t| !t.is_empty()).await?;
    ensure!(says.contains("fill down"), "{says}");
    let first = b.text_within("first-change", 60, |t| t.contains("rules would hold instead of")).await?;
    ensure!(first.contains("reckoning"), "{first}");
    b.css_within("[data-test=first-picture]", 60).await?;
    b.accessible("verdict").await?;

    // a finding is agreed with; the same again takes it back; it is there after the page is opened again
    b.click("agree").await?;
    b.css_within("[data-test=agree][aria-pressed=true]", 20).await?;
    b.click("disagree").await?;
    b.css_within("[data-test=disagree][aria-pressed=true]", 20).await?;
    // never both, once the answer is there
    let mut left = 50;
    while b.page.query(By::Css("[data-test=agree][aria-pressed=true]")).nowait().first().await.is_ok() {
        left -= 1;
        ensure!(left > 0, "both at once");
        tokio::time::sleep(std::time::Duration::from_millis(100)).await;
    }
    b.page.refresh().await?;
    b.css_within("[data-test=disagree][aria-pressed=true]", 60).await?;
    b.click("disagree").await?;
    b.text_within("first-says", 60, |t| !t.is_empty()).await?;

    // the bench sum that works a finding out
    let link = b.wait("bench-link").await?.attr("href").await?.unwrap_or_default();
    ensure!(link.contains("/bench?sum="), "{link}");

    // a remark with a pin and a phrase with figures of this picture
    tab(&b, "Remarks").await?;
    b.fill("remark-text", "\u{5d4}\u{5e6}\u{5dc} \u{5e0}\u{5de}\u{5d5}\u{5da}. Look at the nose's shadow.").await?;
    b.click("remark-pin").await?;
    let before = b.page.query(By::Css("[data-test=pin]")).all_from_selector().await?.len();
    let halo = b.css("[data-test=halo] image").await?;
    b.page.action_chain().move_to_element_center(&halo).click().perform().await?;
    let pins = b.page.query(By::Css("[data-test=pin]")).all_from_selector().await?.len();
    ensure!(pins == before + 1, "{before} pins, then {pins}");
    b.click("remark-say").await?;
    b.text_within("remark", 20, |t| t.contains("nose's shadow") && t.contains("Tomek")).await?;
    b.accessible("verdict-remarks").await?;

    // the paragraph: composed with what to change first, written by hand, composed again
    tab(&b, "In short").await?;
    let script = "return document.querySelector('[data-test=paragraph]').value";
    let mut composed = String::new();
    for _ in 0..100 {
        composed = b.page.execute(script, vec![]).await?.convert()?;
        if !composed.is_empty() {
            break;
        }
        tokio::time::sleep(std::time::Duration::from_millis(200)).await;
    }
    ensure!(composed.starts_with("Judged as") && composed.contains(&says), "{composed}");
    b.fill("paragraph", "Well seen, and too flat. ").await?;
    b.click("paragraph-save").await?;
    b.css_within("[data-test=paragraph-compose]", 20).await?;

    // the report in three kinds
    let (kind, html) = report(&b, "html").await?;
    ensure!(kind.starts_with("text/html") && html.contains("too flat") && html.contains("nose's shadow"), "{kind}");
    ensure!(!html.contains("<script") && !html.contains("src=\"http"), "it loads something");
    let (kind, pdf) = report(&b, "pdf").await?;
    ensure!(kind == "application/pdf" && pdf.starts_with("%PDF-"), "{kind}");
    let (kind, json) = report(&b, "json").await?;
    ensure!(kind == "application/json" && json.contains("\"slant-report/1\""), "{kind}");

    // beliefs, computed here
    tab(&b, "Beliefs").await?;
    b.text_within("belief", 60, |t| t.contains("Twice the distance") && t.contains("stops less")).await?;

    // a brief of one's own: copied, changed, contradicting itself, removed
    b.click("change-brief").await?;
    b.fill("brief-name", "Foyer portraits").await?;
    let field = |measure: &str, end: &str| format!("[data-test=ask-{measure}] input[aria-label^='{end}']");
    let most = b.css_within(&field("key_over_fill_stops", "Most"), 20).await?;
    most.clear().await?;
    most.send_keys("0.5").await?;
    let least = b.css(&field("contrast_stops", "Least")).await?;
    least.clear().await?;
    least.send_keys(format!("2{}", Key::Tab + "")).await?;
    b.click("brief-save").await?;
    b.text_within("contradictions", 20, |t| t.contains("at most 1.3")).await?;
    b.page.refresh().await?;
    let chosen = "return (s => s && s.options[s.selectedIndex]?.text)(document.querySelector('[data-test=verdict-brief]')) ?? ''";
    let mut name = String::new();
    for _ in 0..100 {
        name = b.page.execute(chosen, vec![]).await?.convert()?;
        if name == "Foyer portraits" {
            break;
        }
        tokio::time::sleep(std::time::Duration::from_millis(200)).await;
    }
    ensure!(name == "Foyer portraits", "{name}");

    b.page.set_window_rect(0, 0, 390, 844).await?;
    b.no_overflow("verdict").await?;

    // the page that was handed over can be read by everyone (WCAG AA by axe)
    let file = std::env::temp_dir().join(format!("slantcast-verdict-{}.html", std::process::id()));
    // Latin-1 characters as the bytes they were
    std::fs::write(&file, html.chars().map(|c| c as u8).collect::<Vec<u8>>())?;
    b.page.goto(format!("file://{}", file.display())).await?;
    b.accessible("verdict-report").await?;
    std::fs::remove_file(&file)?;
    let errors = b.console_errors().await?;
    ensure!(errors.is_empty(), "{errors:?}");
    b.close().await
}
