//! What a report of a verdict is made of.

use crate::App;
use crate::problem::{Answer, Problem};
use crate::records::frames::owned;
use crate::records::takes::rows;
use crate::records::verdicts::{judged, remarks, written_of};
use crate::routes::compare::compared;
use crate::routes::mending::mends_of;
use crate::routes::sets::jpeg_of_set;
use crate::work::Pace;
use adviser::Mend;
use judging::critique::paragraph;
use optics::words::Lengths;
use report::{Art, ContactPicture, FORMAT, Report, ReportRemark};
use studio::PlateCache;
use time::OffsetDateTime;
use uuid::Uuid;

/// Takes on a contact sheet.
const MOST_TAKES: usize = 40;

/// How figures come about, in small type.
const METHOD: [&str; 3] = [
    "Directions are degrees from the lens axis, positive to camera right and up; spreads are one standard deviation. A rule is broken where its figure passes the limit by more than its spread; within it, it cannot be decided.",
    "Levels are stops in linear light through the picture's tone curve; where no curve was declared or measured, sRGB is taken and the spread allows for it.",
    "Changes are tried in a stand-in studio on the set that the reading makes likely; what they give is a reckoning, not a promise.",
];

/// A report with its pictures; `tell` hears how far it is, 0 to 1.
pub(crate) async fn report_of(
    app: &App,
    [owner, case, frame]: [Uuid; 3],
    contact: bool,
    tell: &(dyn Fn(f64) + Sync),
) -> Answer<(Report, Art)> {
    let f = owned(app, owner, frame).await?;
    if f.case_id != case {
        return Err(Problem::bad("A report is of a picture of its own case."));
    }
    let j = judged(app, owner, &f, frame).await?;
    tell(0.2);
    let (title, name, signed): (String, String, String) = sqlx::query_as(
        "select c.title, f.file_name, a.name from frames f join cases c on c.id = f.case_id join accounts a on a.id = c.owner where f.id = $1",
    )
    .bind(frame)
    .fetch_one(&app.pool)
    .await?;
    let facts = app.prepared(&f.hash).await?.facts.clone();
    let (j, m, mends) = mends_of(app, &f, frame, j).await?;
    tell(0.5);
    let first = mends.first().map(|m| m.set.clone());
    let draw = move || {
        let plan = studio::metered(&m.set).ok().map(|m| lightset::paper::svg(&m, "Likely set", Lengths::Metres));
        (plan, first.and_then(|set| jpeg_of_set(&set, &mut PlateCache::default())))
    };
    let (plan, after) = app.work.run(Pace::Heavy, draw).await?;
    tell(0.7);
    let (_, written) = written_of(app, frame).await?;
    let text = written.unwrap_or_else(|| paragraph(&j.verdict, &j.brief, mends.first().map(Mend::promise).as_ref()));
    let title_of = |rule: &String| j.verdict.findings.iter().find(|f| f.rule == *rule).map(|f| f.title.clone());
    let said = remarks(app, owner, frame).await?.into_iter().map(|r| ReportRemark {
        author: r.author,
        stance: r.stance,
        about: r.rule.as_ref().and_then(title_of),
        text: r.text,
        pin: r.pin,
    });
    // the reference itself is held against nothing
    let ledger = compared(app, &f, frame).await.map(|c| c.comparison.ledger).unwrap_or_default();
    let mut takes = Vec::new();
    if contact {
        for (n, row) in rows(app, case).await?.into_iter().take(MOST_TAKES).enumerate() {
            let hash: String = sqlx::query_scalar("select file_hash from frames where id = $1")
                .bind(row.frame)
                .fetch_one(&app.pool)
                .await?;
            let jpeg = app.store.get(&hash, "thumb.jpg").await?.to_vec();
            takes.push(ContactPicture { name: format!("{} \u{b7} {}", n + 1, row.file_name), jpeg });
        }
    }
    let r = &j.marked.readings;
    let report = Report {
        format: FORMAT.into(),
        title,
        picture: name,
        size: [facts.width, facts.height],
        brief: j.brief.name.clone(),
        asks: vec![j.brief.says.clone(), j.brief.school.clone()],
        made: OffsetDateTime::now_utc().date().to_string(),
        signed: Some(signed),
        lights: r.lights.clone(),
        slant: r.slant.clone(),
        reading: r.summary.clone(),
        warnings: r.warnings.iter().map(|w| w.text.clone()).collect(),
        paragraph: text,
        findings: j.verdict.findings.clone(),
        changes: mends.iter().map(Mend::promise).collect(),
        remarks: said.collect(),
        ledger,
        method: METHOD.map(str::to_owned).to_vec(),
        core: evidence::CORE_VERSION.into(),
    };
    let picture = app.store.get(&f.hash, "view.jpg").await?.to_vec();
    tell(0.9);
    Ok((report, Art { picture, plan, after, takes }))
}
