//! A whole term by hand in the browser, in three roles: a class, an assignment, pictures handed in (good, late, again, a wrong file,
//! a copy, nothing), the wall, marking by keys, a second grader, given back, an appeal, the book, a file of all, taking away.

use anyhow::{Context, Result, ensure};
use interface_tests::http::{get, person};
use interface_tests::term::{newcomer, ok, picture, read_all, text};
use interface_tests::{Browser, Server};
use reqwest::{Client, Method};
use serde_json::json;
use std::time::Duration;
use thirtyfour::prelude::*;

const WORDS: &str = "a long enough sentence";

async fn tab(b: &Browser, id: &str) -> Result<()> {
    b.click_at(By::Css(format!("[aria-controls={id}]"))).await?;
    Ok(())
}

async fn join(c: &Client, s: &Server, code: &str) -> Result<()> {
    ok(c, s, Method::POST, "/api/classes/join", &json!({"code": code})).await?;
    Ok(())
}

#[tokio::test]
async fn a_term_in_the_browser() -> Result<()> {
    let s = Server::start("sc_term_ui", true).await?;
    let b = Browser::open(1280, 800).await?;

    // the instructor: a class, its code, two assignments with the same reference
    b.sign_in_to_the_wall(&s.base).await?;
    b.click("tool-class").await?;
    b.fill("class-name", "Winter term").await?;
    b.click("make-class").await?;
    tab(&b, "house").await?;
    b.choose("house-ratio", "together").await?;
    b.choose("house-off", "smeared").await?;
    b.choose("house-more", "contrast_stops").await?;
    b.css_within("[data-test=house-contrast_stops] input[aria-label^=Most]", 20).await?.send_keys("9").await?;
    b.fill("house-phrases", "Mind the {key_up} key.").await?;
    b.accessible("house rules").await?;
    b.click("house-save").await?;
    b.text_within("house-said", 20, |t| t.contains("Kept")).await?;
    tab(&b, "people").await?;
    let code = b.text_within("class-code", 20, |t| t.len() == 8).await?;
    let class = b.page.current_url().await?.path().to_owned();
    tab(&b, "assignments").await?;
    for (title, due) in [("In time", "2099-12-01T12:00"), ("Long ago", "2026-01-05T12:00")] {
        b.click("new-assignment").await?;
        b.fill("assignment-title", title).await?;
        let option = "//select[@data-test='assignment-reference']/option[contains(., 'the reference')]";
        b.click_at(By::XPath(option)).await?;
        let set = "const f = document.querySelector('[data-test=assignment-due]'); f.value = arguments[0]; f.dispatchEvent(new Event('input', {bubbles: true})); f.dispatchEvent(new Event('change', {bubbles: true}))";
        b.page.execute(set, vec![json!(due)]).await?;
        b.click("assignment-save").await?;
        let card = format!("//li[@data-test='assignment-card']//a[contains(., '{title}')]");
        b.page.query(By::XPath(card.as_str())).wait(Duration::from_secs(20), Duration::from_millis(80)).first().await?;
    }
    b.click("sign-out").await?;

    // a student: an account, the class by its link, a wrong file, then a picture of a case
    let ana = newcomer(&s, "Ana").await?;
    picture(&ana, &s, "hugo").await?;
    b.page.goto(format!("{}/classes?code={code}", s.base)).await?;
    b.fill("email", "ana@term.example").await?;
    b.fill("password", WORDS).await?;
    b.click("enter").await?;
    b.click("join").await?;
    let open = "//li[@data-test='assignment-card']//a[contains(., 'In time')]";
    b.click_at(By::XPath(open)).await?;
    b.css_within("[data-test=hand-in-case]", 20).await?;
    b.accessible("handing in").await?;
    let words = std::env::temp_dir().join(format!("slantcast-term-{}.jpg", std::process::id()));
    std::fs::write(&words, "just words")?;
    b.css("[data-test=hand-in-file]").await?.send_keys(words.to_str().unwrap_or_default()).await?;
    b.text_within("hand-in-problem", 20, |t| t.contains("not a picture")).await?;
    std::fs::remove_file(&words)?;
    b.click_at(By::Css("[data-test=hand-in-case] input, input[data-test=hand-in-case]")).await?;
    b.fill("hand-in-words", "The first try").await?;
    // what is begun is there again; from the case itself it is one click to it
    b.text_within("draft-kept", 20, |t| t.contains("Nobody else sees it")).await?;
    b.page.goto(format!("{}/cases", s.base)).await?;
    b.click("case").await?;
    b.click("case-hand-in").await?;
    b.text_within("draft-kept", 20, |t| t.contains("as you left it")).await?;
    ensure!(b.css("[data-test=hand-in-words]").await?.prop("value").await?.as_deref() == Some("The first try"));
    b.click("hand-in").await?;
    b.text_within("submission-state", 60, |t| t.contains("waiting to be graded")).await?;

    // again with a better one; the others by their own clients: good, a copy of hers, late, nothing
    let (bo, cy, dan) = (newcomer(&s, "Bo").await?, newcomer(&s, "Cy").await?, newcomer(&s, "Dan").await?);
    for c in [&bo, &cy, &dan] {
        join(c, &s, &code).await?;
    }
    let all = get(&ana, &s, &format!("/api{class}/assignments")).await?;
    let id = |title: &str| {
        all.as_array()
            .and_then(|a| a.iter().find(|a| a["title"] == title))
            .map(|a| text(a, "id"))
            .context(title.to_owned())
    };
    let (now, ago) = (id("In time")?, id("Long ago")?);
    for (c, which, at) in [(&ana, "cilka", &now), (&bo, "faro", &now), (&cy, "cilka", &now), (&bo, "faro", &ago)] {
        let body = json!({"frame": picture(c, &s, which).await?, "may_show": true});
        ok(c, &s, Method::POST, &format!("/api/assignments/{at}/submissions"), &body).await?;
    }
    let ilse = person(&s, "ilse@puppets.example").await?;
    let wall = read_all(&ilse, &s, &now).await?;
    ensure!(wall.as_array().is_some_and(|w| w.len() == 3));
    b.click("sign-out").await?;

    // the instructor: the wall by distance, copies, marking by keys, giving back
    b.sign_in_to_the_wall(&s.base).await?;
    b.page.goto(format!("{}/assignments/{now}", s.base)).await?;
    b.text_within("wall-count", 30, |t| t == "3 of 3").await?;
    b.choose("wall-order", "distance").await?;
    let names = b.page.find_all(By::Css("[data-test=wall-picture] .name")).await?;
    ensure!(names.last().context("a picture")?.text().await? == "Bo", "the wrong side is the farthest");
    b.choose("wall-groups", "round").await?;
    b.text_within("wall-group", 20, |t| t.contains("° right")).await?;
    ensure!(b.page.find_all(By::Css("[data-test=wall-group]")).await?.len() >= 2, "the two sides are two groups");
    b.choose("wall-groups", "none").await?;
    b.choose("wall-show", "copies").await?;
    b.text_within("wall-count", 20, |t| t == "2 of 3").await?;
    b.choose("wall-show", "all").await?;
    b.page.execute("document.activeElement?.blur()", vec![]).await?;
    let body = b.css("body").await?;
    body.send_keys("n").await?;
    b.text_within("grade-total", 30, |t| t.contains("of 30 points")).await?;
    body.send_keys("6").await?;
    b.click("grade-save").await?;
    // a second grader sees it otherwise: it is told, then they agree
    let seen = b.css("[data-test=grade-panel] h2").await?.text().await?;
    let dan_id = text(&get(&dan, &s, "/api/session").await?, "id");
    ok(&ilse, &s, Method::PUT, &format!("/api{class}/members/{dan_id}"), &json!({"seat": "co_teacher"})).await?;
    let wall = get(&ilse, &s, &format!("/api/assignments/{now}/wall")).await?;
    let own = wall.as_array().and_then(|w| w.iter().find(|p| p["name"] == seen.as_str())).context("the graded one")?;
    let grade = format!("/api/submissions/{}/grade", text(own, "id"));
    let less = json!({"points": {"place": 2.0, "size": 1.0, "contrast": 1.0, "brief": 1.0, "idea": 1.0}});
    ok(&dan, &s, Method::PUT, &grade, &less).await?;
    b.choose("wall-show", "disputed").await?;
    b.page.refresh().await?;
    b.choose("wall-show", "disputed").await?;
    b.text_within("wall-count", 20, |t| t == "1 of 3").await?;
    b.click("graders").await?;
    b.text_within("grader-line", 20, |t| t.contains("Dan gives")).await?;
    ok(&dan, &s, Method::PUT, &grade, &json!({"points": own["points"]})).await?;
    b.choose("wall-show", "all").await?;
    b.choose("wall-order", "name").await?;
    b.page.execute("document.activeElement?.blur()", vec![]).await?;
    let body = b.css("body").await?;
    body.send_keys("n").await?;
    for left in 0..3 {
        b.text_within("grade-total", 30, |t| t.contains("of 30 points")).await?;
        let name = b.css("[data-test=grade-panel] h2").await?.text().await?;
        // those that were not marked yet want their last criterion
        if name != seen {
            body.send_keys("7").await?;
        }
        body.send_keys(Key::Enter + "").await?;
        b.choose("wall-show", "open").await?;
        b.text_within("wall-count", 20, |t| t == format!("{} of 3", 2 - left)).await?;
        b.choose("wall-show", "all").await?;
        b.page.execute("document.activeElement?.blur()", vec![]).await?;
    }

    // the book: late is told, a table comes in
    b.page.goto(format!("{}{class}", s.base)).await?;
    tab(&b, "book").await?;
    b.text_within("gradebook", 20, |t| t.contains("late") && t.contains("Ana")).await?;
    let table = std::env::temp_dir().join(format!("slantcast-term-{}.csv", std::process::id()));
    std::fs::write(&table, "Student,Long ago\nCy,55\nNobody,10\n")?;
    b.css("[data-test=book-file]").await?.send_keys(table.to_str().unwrap_or_default()).await?;
    b.text_within("table-changes", 20, |t| t.contains("Cy") && t.contains("55.0 %")).await?;
    b.text_within("table-problems", 20, |t| t.contains("Line 3")).await?;
    b.accessible("the book").await?;
    b.click("table-apply").await?;
    b.text_within("gradebook", 20, |t| t.contains("by hand")).await?;
    std::fs::remove_file(&table)?;
    b.click("to-student").await?;
    b.css_within("[data-test=course-part]", 20).await?;
    b.accessible("a student's page").await?;
    b.click("sign-out").await?;

    // the student: what came back, an appeal, the file of all, the picture taken away
    b.sign_in(&s.base, "ana@term.example", WORDS).await?;
    b.page.goto(format!("{}/assignments/{now}", s.base)).await?;
    b.text_within("my-submission", 30, |t| t.contains("given back") && t.contains('%')).await?;
    b.fill("appeal-text", "Look at the height again.").await?;
    b.click("appeal").await?;
    b.text_within("my-submission", 20, |t| t.contains("asks to look again")).await?;
    b.click("account").await?;
    b.click("export").await?;
    b.css_within("[data-test=export-file]", 60).await?;
    b.page.goto(format!("{}/assignments/{now}", s.base)).await?;
    b.click("take-away").await?;
    b.page.accept_alert().await?;
    let mut left = 100;
    while !b.page.find_all(By::Css("[data-test=my-submission]")).await?.is_empty() {
        left -= 1;
        ensure!(left > 0, "it is still shown");
        tokio::time::sleep(Duration::from_millis(100)).await;
    }
    b.css_within("[data-test=hand-in-case]", 20).await?;
    let wall = get(&ilse, &s, &format!("/api/assignments/{now}/wall")).await?;
    ensure!(wall.as_array().is_some_and(|w| w.len() == 2), "{wall}");
    let errors = b.console_errors().await?;
    ensure!(errors.iter().all(|e| e.contains("415") || e.contains("422") || e.contains("400")), "{errors:?}");
    b.close().await
}
