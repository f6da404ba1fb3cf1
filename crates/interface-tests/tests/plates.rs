//! Plates from the sum to the file, by the keyboard; one that was moved; one of another size. And what stands before a lamp.

use anyhow::{Result, ensure};
use interface_tests::{Browser, Server};
use thirtyfour::prelude::*;

async fn open_case(b: &Browser, base: &str, title: &str, step: &str) -> Result<()> {
    b.page.goto(format!("{base}/cases")).await?;
    b.click_at(By::XPath(format!("//a[contains(., '{title}')]"))).await?;
    b.wait(&format!("step-{step}")).await?.send_keys(Key::Enter + "").await?;
    Ok(())
}

/// Fetches a file of a link and says how long it is and how it begins.
async fn fetched(b: &Browser, name: &str) -> Result<(u64, String)> {
    let link = b.css_within(&format!("[data-test={name}]"), 60).await?.attr("href").await?.unwrap_or_default();
    let script = "const [url, done] = arguments; fetch(url).then(r => r.arrayBuffer()).then(a => { const v = new Uint8Array(a); \
                  done([v.length, String.fromCharCode(...v.slice(0, 60))]) })";
    let answer = b.page.execute_async(script, vec![serde_json::json!(link)]).await?;
    let (length, head): (u64, String) = answer.convert()?;
    Ok((length, head))
}

/// Pulls the first plate's level for two seconds and waits for each frame to be drawn.
const FOLLOWED: &str = "
    const done = arguments[0], level = document.querySelector('[data-test=stops-0]'), canvas = document.querySelector('canvas')
    const gl = canvas.getContext('webgl2'), pixel = new Uint8Array(4), start = performance.now()
    const named = gl.getExtension('WEBGL_debug_renderer_info')
    let frames = 0
    function step() {
      gl.readPixels(0, 0, 1, 1, gl.RGBA, gl.UNSIGNED_BYTE, pixel)
      level.value = String(-1 + Math.sin(frames / 7))
      level.dispatchEvent(new Event('input', { bubbles: true }))
      frames += 1
      const passed = (performance.now() - start) / 1000
      if (passed < 2) requestAnimationFrame(step)
      else done([frames / passed, canvas.width, canvas.height, document.querySelectorAll('[data-test^=stops-]').length, named ? gl.getParameter(named.UNMASKED_RENDERER_WEBGL) : 'what it does not name'])
    }
    requestAnimationFrame(step)";

#[tokio::test]
async fn plates_add_up_are_mixed_and_written() -> Result<()> {
    let server = Server::start("sc_plates", true).await?;
    let b = Browser::open(1280, 800).await?;
    b.sign_in(&server.base, "tomek@puppets.example", "strings and shadows").await?;

    // one that was moved is named with its shift: the camera was nudged by a few pixels
    open_case(&b, &server.base, "Seven-mile shoe", "plates").await?;
    let said = b.text_within("sum", 60, |t| t.contains("moved")).await?;
    ensure!(said.contains("rim was moved") && said.contains("px left"), "{said}");

    open_case(&b, &server.base, "Elixir for act two", "plates").await?;
    b.text_within("sum", 60, |t| t.contains("add up to the picture with all lights on")).await?;
    b.accessible("plates").await?;

    // a level by the keys is in the mix, in what it asks of the lamp, and still there after the page is opened again
    let slider = b.wait("stops-0").await?;
    for _ in 0..20 {
        slider.send_keys(Key::Left + "").await?;
    }
    b.text_within("plates-saved", 20, |t| t == "Saved").await?;
    b.css("[data-test=in-camera] summary").await?.send_keys(Key::Enter + "").await?;
    b.text_within("in-camera", 20, |t| t.contains("left line: its lamp down 1.0 stops")).await?;

    // the live mix follows the hand: frames a second, each waited for, by whatever draws here
    let followed = b.page.execute_async(FOLLOWED, vec![]).await?.json().clone();
    let of = |k: usize| followed[k].as_f64().unwrap_or_default();
    println!(
        "live mix of {} plates, {} by {} pixels: {:.0} frames a second, drawn by {}",
        of(3),
        of(1),
        of(2),
        of(0),
        followed[4]
    );
    // where it cannot keep pace it is drawn smaller
    ensure!(of(0) > 25.0 || of(1) < 800.0, "{followed}");

    // the picture with all lights on is met with every lamp as it was
    b.click_at(By::XPath("//*[@data-test='target']/option[contains(., 'all.jpg')]")).await?;
    b.wait("solve").await?.send_keys(Key::Enter + "").await?;
    let told = b.text_within("told", 60, |t| t.contains("left over")).await?;
    let level = told.lines().find_map(|l| l.strip_prefix("left line: ")).unwrap_or_default().replace('\u{2212}', "-");
    let stops: f64 = level.split(' ').next().unwrap_or_default().parse()?;
    ensure!(stops.abs() < 0.05, "the plate is in the sum as it was taken: {told}");

    // who wins where
    b.click("shows-winners").await?;
    b.text_within("merge", 60, |t| t.contains("left line") && t.contains('%')).await?;
    b.click("shows-mix").await?;

    // a mask is painted by hand and by keys, kept, drawn by the server as the browser drew it, and taken back
    b.click("mask-0").await?;
    b.wait("mask-layer").await?;
    b.stroke("mask-layer", [0.2, 0.2], [0.2, 0.6]).await?;
    b.text_within("mask-tools", 20, |t| t.contains("1 stroke")).await?;
    b.css("[data-test=mask-layer]").await?.send_keys(" ").await?;
    b.text_within("mask-tools", 20, |t| t.contains("2 strokes")).await?;
    b.text_within("plates-saved", 20, |t| t == "Saved").await?;
    b.accessible("plates, painting").await?;
    let levels: Vec<f64> = b.page.execute_async(MASKED, vec![]).await?.convert()?;
    ensure!(levels[0] < 3.0 && levels[1] > 252.0, "taken away in the stroke, whole beside it: {levels:?}");
    ensure!(levels[2] < 1.0, "the server's mask is the browser's, but for rounding: {levels:?}");
    b.choose("mask-ground", "none").await?;
    b.click("mask-adds").await?;
    b.stroke("mask-layer", [0.6, 0.3], [0.6, 0.5]).await?;
    b.text_within("mask-tools", 20, |t| t.contains("3 strokes")).await?;
    b.text_within("in-camera", 20, |t| t.contains("a flag or a cutter keeps its light off")).await?;
    b.click("mask-without").await?;
    b.text_within("plates-saved", 20, |t| t == "Saved").await?;

    // the file of layers is one
    b.click("file-layers").await?;
    let (length, head) = fetched(&b, "plates-result").await?;
    ensure!(length > 500_000 && head.contains("mimetypeimage/openraster"), "{length} {head}");

    // a picture of another size is refused by name, and nothing is lost
    let script = "const done = arguments[0]; const id = location.pathname.split('/')[2]; const c = document.createElement('canvas'); \
                  c.width = 64; c.height = 48; c.getContext('2d').fillRect(0, 0, 9, 9); c.toBlob(blob => { const f = new FormData(); \
                  f.append('role', 'plate'); f.append('file', blob, 'odd.png'); \
                  fetch(`/api/cases/${id}/frames`, { method: 'POST', body: f }).then(r => done(r.status)) })";
    let status: u16 = b.page.execute_async(script, vec![]).await?.convert()?;
    ensure!(status == 201, "{status}");
    b.page.refresh().await?;
    b.text_within("plates-problem", 60, |t| t.contains("64 × 48") && t.contains("left line")).await?;
    b.wait("plate-4").await?;

    b.page.set_window_rect(0, 0, 390, 844).await?;
    b.no_overflow("plates").await?;
    let errors: Vec<String> = b.console_errors().await?.into_iter().filter(|e| !e.contains("400")).collect();
    ensure!(errors.is_empty(), "{errors:?}");
    b.close().await
}

/// Of the first plate's mask, from the server: in the middle of the stroke, beside it, and how far it is from what the browser hatches.
const MASKED: &str = "
    const done = arguments[0]
    async function run() {
      const id = location.pathname.split('/')[2]
      const { desk } = await (await fetch(`/api/cases/${id}/plates`)).json()
      const answer = await fetch(`/api/cases/${id}/plates/mask/${desk.plates[0].frame}`, { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify(desk) })
      const bitmap = await createImageBitmap(await answer.blob())
      const hatched = document.querySelector('[data-test=mask-layer] canvas')
      const pen = new OffscreenCanvas(hatched.width, hatched.height).getContext('2d')
      pen.drawImage(bitmap, 0, 0, hatched.width, hatched.height)
      const mask = pen.getImageData(0, 0, hatched.width, hatched.height).data
      const own = hatched.getContext('2d').getImageData(0, 0, hatched.width, hatched.height).data
      const at = (x, y) => 4 * (Math.round(y * hatched.height) * hatched.width + Math.round(x * hatched.width))
      let off = 0
      let n = 0
      // stripes are 120 and 170 of 255 where the plate is left out whole
      for (let i = 0; i < mask.length; i += 4) {
        const [x, y] = [(i / 4) % hatched.width, Math.floor(i / 4 / hatched.width)]
        off += Math.abs(mask[i] - (255 - 255 * own[i + 3] / ((x + y) % 8 < 4 ? 120 : 170)))
        n += 1
      }
      return [mask[at(0.2, 0.4)], mask[at(0.9, 0.9)], off / n]
    }
    run().then(done, e => done('failed: ' + e.message))";

/// The plates of the open case again as another camera codes them (a power on the codes), as a case of their own; answers its id.
const ANOTHER_CAMERA: &str = "
    const done = arguments[0]
    const json = async r => (r.ok ? r.json() : Promise.reject(new Error(await r.text())))
    async function run() {
      const old = await json(await fetch(`/api/cases/${location.pathname.split('/')[2]}`))
      const made = await json(await fetch('/api/cases', { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify({ title: 'Another camera', brief: old.brief }) }))
      for (const f of old.frames.filter(f => f.role === 'plate')) {
        const bitmap = await createImageBitmap(await (await fetch(`/api/frames/${f.id}/picture?size=view`)).blob())
        const canvas = document.createElement('canvas')
        canvas.width = bitmap.width; canvas.height = bitmap.height
        const pen = canvas.getContext('2d')
        pen.drawImage(bitmap, 0, 0)
        const pixels = pen.getImageData(0, 0, bitmap.width, bitmap.height)
        for (let i = 0; i < pixels.data.length; i++) if (i % 4 < 3) pixels.data[i] = Math.round(255 * (pixels.data[i] / 255) ** 1.2)
        pen.putImageData(pixels, 0, 0)
        const blob = await new Promise(r => canvas.toBlob(r, 'image/png'))
        const form = new FormData()
        form.append('role', 'plate'); form.append('file', blob, f.file_name.replace('.jpg', '.png'))
        await json(await fetch(`/api/cases/${made.id}/frames`, { method: 'POST', body: form }))
      }
      return made.id
    }
    run().then(done, e => done('failed: ' + e.message))";

/// Says of the first plate that it was exposed for twice as long as the others.
const LONGER: &str = "
    const done = arguments[0]
    const json = async r => (r.ok ? r.json() : Promise.reject(new Error(await r.text())))
    async function run() {
      const id = location.pathname.split('/')[2]
      const desk = (await json(await fetch(`/api/cases/${id}/plates`))).desk
      for (const [k, p] of desk.plates.entries()) {
        const { version, marks } = await json(await fetch(`/api/frames/${p.frame}/marks`))
        const exposure = { f_number: 8, shutter_s: k === 0 ? 1 / 60 : 1 / 125, iso: 100 }
        await json(await fetch(`/api/frames/${p.frame}/marks`, { method: 'PUT', headers: { 'content-type': 'application/json' }, body: JSON.stringify({ version, marks: { ...marks, exposure } }) }))
      }
      return 'done'
    }
    run().then(done, e => done('failed: ' + e.message))";

#[tokio::test]
async fn exposures_are_undone_and_a_cameras_curve_is_told_from_the_sum() -> Result<()> {
    let server = Server::start("sc_plates_curve", true).await?;
    let b = Browser::open(1280, 800).await?;
    b.sign_in(&server.base, "tomek@puppets.example", "strings and shadows").await?;
    open_case(&b, &server.base, "Elixir for act two", "plates").await?;
    b.text_within("sum", 60, |t| t.contains("add up to the picture with all lights on")).await?;
    let case: String = b.page.execute_async(ANOTHER_CAMERA, vec![]).await?.convert()?;
    ensure!(!case.contains("failed"), "{case}");

    // by its settings one was exposed for twice as long: that is undone, and as it was not so the sum is off
    let told: String = b.page.execute_async(LONGER, vec![]).await?.convert()?;
    ensure!(told == "done", "{told}");
    b.page.refresh().await?;
    b.text_within("exposed-0", 60, |t| t.contains("+1.0 stops") && t.contains("undone")).await?;
    b.text_within("sum", 60, |t| t.contains("exposed +1.0 stops") && t.contains("that is undone")).await?;
    // counted as they were taken they add up
    b.click("undo-exposure").await?;
    b.text_within("sum", 60, |t| t.contains("add up to the picture with all lights on")).await?;
    b.text_within("exposed-0", 20, |t| t.contains("as it was")).await?;
    // in one exposure its lamp then has to make up for it
    b.css("[data-test=in-camera] summary").await?.send_keys(Key::Enter + "").await?;
    b.text_within("in-camera", 20, |t| t.contains("left line: its lamp up 1.0 stops")).await?;

    // another camera: the sum names a curve, and through it all adds up
    b.page.goto(format!("{}/cases/{case}/plates", server.base)).await?;
    b.text_within("sum", 90, |t| t.contains("with a tone curve whose contrast at middle grey is")).await?;
    b.accessible("plates, with a curve").await?;
    b.click("take-curve").await?;
    b.text_within("curve", 90, |t| t.contains("sum of plates")).await?;
    b.text_within("sum", 90, |t| t.contains("add up to the picture with all lights on")).await?;
    // and plain again
    b.click("plain-curve").await?;
    b.text_within("sum", 90, |t| t.contains("with a tone curve whose contrast")).await?;
    let errors = b.console_errors().await?;
    ensure!(errors.is_empty(), "{errors:?}");
    b.close().await
}

#[tokio::test]
async fn filters_leaves_walks_and_bags_are_at_hand() -> Result<()> {
    let server = Server::start("sc_before_lamps", true).await?;
    let b = Browser::open(1280, 800).await?;
    b.sign_in(&server.base, "tomek@puppets.example", "strings and shadows").await?;
    open_case(&b, &server.base, "Lamplighter behind the blinds", "rebuild").await?;
    b.text_within("studio-status", 60, |t| t.contains("Drawn")).await?;

    b.choose("gel-0", "blue").await?;
    b.text_within("before-says-0", 20, |t| t.contains("1.5 ± 0.3 stops less")).await?;
    b.click("doors-0").await?;
    b.text_within("before-says-0", 20, |t| t.contains("falls to half")).await?;
    b.css("[data-test=walk] summary").await?.send_keys(Key::Enter + "").await?;
    for _ in 0..2 {
        b.click("add-mark").await?;
    }
    b.text_within("walk-says", 60, |t| t.contains("differs by")).await?;

    // a sun below the horizon is refused with how far, one that is up stands in the set
    b.click("add-sun").await?;
    b.wait("sun-time").await?.send_keys("0200AM").await?;
    b.click_at(By::XPath("//button[contains(., 'Put it into the set')]")).await?;
    b.text_within("sun-problem", 20, |t| t.contains("below the horizon")).await?;
    b.wait("sun-time").await?.send_keys("1200PM").await?;
    b.click_at(By::XPath("//button[contains(., 'Put it into the set')]")).await?;
    b.text_within("sun-says", 20, |t| t.contains("on the compass")).await?;
    // and indoors, through a curtain: the window is a light of its own, in a wall of the set
    b.click("add-sun").await?;
    b.wait("sun-time").await?.send_keys("1200PM").await?;
    b.click("sun-window").await?;
    b.wait("pane-away").await?;
    b.click_at(By::XPath("//button[contains(., 'Put it into the set')]")).await?;
    b.text_within("sun-says", 20, |t| t.contains("wall with the window")).await?;
    b.accessible("rebuild").await?;

    b.click("step-build").await?;
    b.click("packing").await?;
    b.wait("pack-line").await?;
    b.accessible("build").await?;

    // the bottle comes with its outline and lines: each line is a light; straight sides and the traced outline are one press apart
    open_case(&b, &server.base, "Elixir for act two", "read").await?;
    b.text_within("evidence", 60, |t| t.contains("bright lines") && t.contains("over the shoulder")).await?;
    b.css("[data-test=evidence] button.pick").await?.send_keys(Key::Enter + "").await?;
    b.text_within("lines-table", 20, |t| t.contains("or more")).await?;
    b.click("straight").await?;
    b.wait("trace").await?;
    b.text_within("trace", 20, |t| t == "Trace the outline").await?;
    b.click("trace").await?;
    b.text_within("trace", 60, |t| t == "Trace the outline again").await?;
    b.text_within("evidence", 60, |t| t.contains("Surface from the foot")).await?;
    b.accessible("read").await?;

    // a bright line on the bottle: which directions it asks for, and what of the kit gives it
    open_case(&b, &server.base, "Elixir for act two", "rebuild").await?;
    b.text_within("studio-status", 60, |t| t.contains("Drawn")).await?;
    b.click("draw-line").await?;
    b.text_within("line-directions", 20, |t| t.contains("A source must fill")).await?;
    // a stroke over the product makes a new line; its edges are pulled by keys as well
    let before = b.wait("line-directions").await?.text().await?;
    b.stroke("line-product", [0.8, 0.55], [0.8, 0.75]).await?;
    b.text_within("line-directions", 20, |t| t != before && t.contains("A source must fill")).await?;
    let drawn = b.wait("line-directions").await?.text().await?;
    b.wait("line-grip-right").await?.send_keys(Key::Left + "").await?;
    b.text_within("line-directions", 20, |t| t != drawn).await?;
    // a line that fades is given by a sheet with a lamp behind it
    b.choose("line-fade", "right").await?;
    b.text_within("line-way", 20, |t| t.contains("behind the sheet")).await?;
    b.wait("line-grip-fade").await?;
    ensure!(
        !b.page.find_all(By::Css("[data-test=drawing-plan] .reach")).await?.is_empty(),
        "its directions are drawn in plan"
    );
    b.accessible("rebuild").await?;
    b.click("take-line").await?;
    b.text_within("set-saved", 20, |t| t.contains("Saved")).await?;

    // a lamp by the meter: f/5.6 at 1.5 m and two stops less at a quarter
    b.click("tool-kit").await?;
    b.click("figures-panel-60").await?;
    b.click("meter-panel-60").await?;
    b.fill("aperture-1", "2.8").await?;
    b.click("work-out").await?;
    b.text_within("metered", 20, |t| t.contains("lux at 1 m")).await?;
    b.click("keep-metered").await?;
    b.text_within("saved", 20, |t| t.contains("Saved")).await.ok();
    let errors: Vec<String> = b.console_errors().await?.into_iter().filter(|e| !e.contains("400")).collect();
    ensure!(errors.is_empty(), "{errors:?}");
    b.close().await
}
