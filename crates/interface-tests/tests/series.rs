//! A series from an empty case to its list, its pictures, what stands out, and files cropped alike.

use anyhow::{Result, ensure};
use interface_tests::{Browser, Server};
use thirtyfour::prelude::*;

async fn open_series(b: &Browser, base: &str, title: &str) -> Result<()> {
    b.page.goto(format!("{base}/cases")).await?;
    b.click_at(By::XPath(format!("//a[contains(., '{title}')]"))).await?;
    b.wait("step-series").await?.send_keys(Key::Enter + "").await?;
    Ok(())
}

#[tokio::test]
async fn a_series_is_compared_corrected_and_cropped() -> Result<()> {
    let server = Server::start("sc_series", true).await?;
    let b = Browser::open(1280, 800).await?;
    b.sign_in(&server.base, "tomek@puppets.example", "strings and shadows").await?;

    // six of nine views; one was taken from further away, one with more light
    open_series(&b, &server.base, "Seven-mile shoe").await?;
    let said = b.text_within("series-report", 60, |t| t.contains("stand out")).await?;
    ensure!(said.contains("6 of 9 views") && said.contains("Detail"), "{said}");
    ensure!(said.contains("smaller than the others") || said.contains("larger than the others"), "{said}");
    ensure!(said.contains("Front") && said.contains("brighter"), "{said}");
    b.accessible("series").await?;

    // a picture that stands for the wrong view changes places; one step back undoes it
    b.click("slot-5").await?;
    b.text_within("chosen-view", 20, |t| t.contains("Front")).await?;
    b.choose("move-to", "back").await?;
    b.text_within("chosen-view", 20, |t| t.contains("Back")).await?;
    b.click("undo").await?;
    b.text_within("series-state", 30, |t| t == "Saved").await?;

    // a check by hand is there after the page is opened again
    b.css("[data-test=check-laces] input").await?.send_keys(" ").await?;
    b.text_within("series-state", 30, |t| t == "Saved").await?;
    b.page.refresh().await?;
    b.text_within("series-report", 60, |t| t.contains("stand out")).await?;
    ensure!(b.css("[data-test=check-laces] input").await?.is_selected().await?, "the tick was lost");

    // a device without a camera says so
    b.click("open-camera").await?;
    b.text_within("camera-problem", 20, |t| t.contains("Choose a picture instead")).await?;
    b.click("camera-close").await?;

    // files cropped alike, and the table
    b.css("[data-test=crop-files]").await?.send_keys(Key::Enter + "").await?;
    let link = b.css_within("[data-test=series-result]", 90).await?.attr("href").await?.unwrap_or_default();
    let script = "const [url, done] = arguments; fetch(url).then(r => r.arrayBuffer()).then(a => { const v = new Uint8Array(a); \
                  const s = new TextDecoder('latin1').decode(v); done([v.length, s.includes('series.json'), s.includes('inner-angle.jpg')]) })";
    let zip: (u64, bool, bool) = b.page.execute_async(script, vec![serde_json::json!(link)]).await?.convert()?;
    ensure!(zip.0 > 100_000 && zip.1 && zip.2, "{zip:?}");
    let table = b.wait("series-csv").await?.attr("href").await?.unwrap_or_default();
    let script = "const [url, done] = arguments; fetch(url).then(r => r.text()).then(done)";
    let table: String = b.page.execute_async(script, vec![serde_json::json!(table)]).await?.convert()?;
    ensure!(table.lines().count() == 7 && table.contains("Scale [%]"), "{table}");

    b.page.set_window_rect(0, 0, 390, 844).await?;
    b.no_overflow("series").await?;
    b.page.set_window_rect(0, 0, 1280, 800).await?;

    // a case of a series alone: a list first, then pictures, one too many, one that is none
    let script = "const done = arguments[0]; fetch('/api/cases', { method: 'POST', headers: { 'content-type': 'application/json' }, \
                  body: JSON.stringify({ title: 'Cans for the foyer', brief: 'prop' }) }).then(r => r.json()).then(c => done(c.id))";
    let case: String = b.page.execute_async(script, vec![]).await?.convert()?;
    b.page.goto(format!("{}/cases/{case}", server.base)).await?;
    b.click("begin-series").await?;
    b.css("[data-test=choose-before-after]").await?.send_keys(Key::Enter + "").await?;
    b.wait("slot-1").await?;
    let script = "const [files, done] = arguments; (async () => { const t = new DataTransfer(); for (const [name, x, tone] of files) { \
                  const c = document.createElement('canvas'); c.width = 400; c.height = 500; const g = c.getContext('2d'); \
                  g.fillStyle = '#b0b0b0'; g.fillRect(0, 0, 400, 500); g.fillStyle = tone; g.fillRect(x, 150, 90, 260); \
                  const b = await new Promise(r => c.toBlob(r, 'image/png')); t.items.add(new File([name === 'text.png' ? 'no picture' : b], name, { type: 'image/png' })); } \
                  const f = document.querySelector('[data-test=add-views]'); f.files = t.files; f.dispatchEvent(new Event('change', { bubbles: true })); done() })()";
    let files = serde_json::json!([["a.png", 150, "#402020"], ["b.png", 150, "#402020"], ["c.png", 150, "#402020"]]);
    b.page.execute_async(script, vec![files]).await?;
    b.text_within("series-problem", 60, |t| t.contains("1 of 3 pictures were left out")).await?;
    b.text_within("series-report", 60, |t| t.contains("All 2 views are there")).await?;
    b.text_within("series-report", 60, |t| t.contains("agree")).await?;
    b.click("take-out").await?;
    b.text_within("series-report", 60, |t| t.contains("1 of 2 views")).await?;
    b.page.execute_async(script, vec![serde_json::json!([["text.png", 0, "#000"]])]).await?;
    b.text_within("series-problem", 60, |t| !t.is_empty()).await?;
    b.text_within("series-report", 60, |t| t.contains("1 of 2 views")).await?;

    let expected = |e: &String| ["422", "400", "camera"].iter().any(|w| e.contains(w));
    let errors: Vec<String> = b.console_errors().await?.into_iter().filter(|e| !expected(e)).collect();
    ensure!(errors.is_empty(), "{errors:?}");
    b.close().await
}
