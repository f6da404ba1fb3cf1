//! The verdict on a frame with what people say of it.

use super::briefs::brief_of;
use super::frames::Owned;
use super::marks::{MarkedFrame, briefed, newest};
use super::series::{members, series_of};
use super::versioned::{PARAGRAPHS, PHRASES, newest as newest_version};
use crate::App;
use crate::problem::{Answer, Problem};
use judging::critique::{Brief, InSeries, Verdict, judge_in, phrase_book};
use report::Stance;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use uuid::Uuid;

/// Remarks on one picture.
const MOST_REMARKS: i64 = 300;
/// Longest remark, characters.
const LONGEST_REMARK: usize = 2000;

/// The verdict on a frame with what it was judged by.
pub(crate) struct Judged {
    pub brief: Brief,
    pub marked: MarkedFrame,
    pub series: Option<InSeries>,
    pub verdict: Verdict,
}

/// Judges a frame by its case's brief.
pub(crate) async fn judged(app: &App, owner: Uuid, f: &Owned, id: Uuid) -> Answer<Judged> {
    let brief = brief_of(app, owner, &f.brief).await?;
    let marked = briefed(f, newest(app, &f.hash, id).await?);
    let series = in_series(app, owner, f.case_id, id).await?;
    let verdict = judge_in(&marked.readings, &marked.marks, &brief, series.as_ref());
    Ok(Judged { brief, marked, series, verdict })
}

/// Pictures of a series from which one can stand out.
const FEWEST: usize = 3;

/// How a picture lies in its case's series; `None` where it is in none that can tell.
async fn in_series(app: &App, owner: Uuid, case: Uuid, frame: Uuid) -> Answer<Option<InSeries>> {
    let (_, series) = series_of(app, owner, case).await?;
    let own = frame.to_string();
    // a list that is gone, or not chosen yet, takes nothing from the verdict
    if series::shot_list(&series.list).is_none()
        || series.placed.len() < FEWEST
        || !series.placed.iter().any(|p| p.frame == own)
    {
        return Ok(None);
    }
    let (list, members) = members(app, owner, case, &series).await?;
    let report = series::report(list, &members, &series.ticked);
    // the most comes first
    let worst = report.apart.into_iter().find(|a| a.frame == own && a.pair.is_none());
    Ok(Some(worst.map_or_else(InSeries::default, |a| InSeries { times: a.times, says: a.says })))
}

/// A remark as it is kept.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct RemarkView {
    /// Id.
    pub id: Uuid,
    /// Who made it.
    pub author: String,
    /// It is one's own.
    pub mine: bool,
    /// What it is.
    pub stance: Stance,
    /// The rule whose finding it is about; absent for a note of one's own.
    pub rule: Option<String>,
    /// In words.
    pub text: String,
    /// Where in the picture, pixels.
    #[schema(value_type = Option<optics::geometry::Pair>)]
    pub pin: Option<[f64; 2]>,
}

/// A remark to make or to change.
#[derive(Debug, Clone, Deserialize, ToSchema)]
pub struct RemarkEdit {
    /// What it is.
    pub stance: Stance,
    /// The rule whose finding it is about.
    #[serde(default)]
    pub rule: Option<String>,
    /// In words; may be empty for agreeing or disagreeing.
    #[serde(default)]
    pub text: String,
    /// Where in the picture, pixels.
    #[serde(default)]
    #[schema(value_type = Option<optics::geometry::Pair>)]
    pub pin: Option<[f64; 2]>,
}

fn stance_word(s: Stance) -> &'static str {
    match s {
        Stance::Note => "note",
        Stance::Agrees => "agrees",
        Stance::Disagrees => "disagrees",
    }
}

impl RemarkEdit {
    fn check(&self) -> Answer<()> {
        let n = self.text.trim().chars().count();
        if n > LONGEST_REMARK {
            return Err(Problem::bad(format!("A remark has room for {LONGEST_REMARK} characters.")));
        }
        if n == 0 && self.stance == Stance::Note {
            return Err(Problem::bad("A note needs words."));
        }
        if self.stance != Stance::Note && self.rule.is_none() {
            return Err(Problem::bad("rule: agreeing or disagreeing needs a finding"));
        }
        let known = |r: &String| judging::critique::rule_views().iter().any(|k| k.id == *r);
        if let Some(r) = self.rule.as_ref().filter(|r| !known(r)) {
            return Err(Problem::bad(format!("rule: \"{r}\" is unknown")));
        }
        if self.pin.is_some_and(|p| p.iter().any(|v| !v.is_finite() || v.abs() > 1e6)) {
            return Err(Problem::bad("pin: expected x and y in pixels of the picture"));
        }
        Ok(())
    }
}

type RemarkRow = (Uuid, Uuid, String, String, Option<String>, String, Option<f64>, Option<f64>);

/// Remarks on a frame, the oldest first.
pub(crate) async fn remarks(app: &App, me: Uuid, frame: Uuid) -> Answer<Vec<RemarkView>> {
    let rows: Vec<RemarkRow> = sqlx::query_as(
        "select r.id, r.author, a.name, r.stance, r.rule, r.body, r.pin_x, r.pin_y
         from remarks r join accounts a on a.id = r.author where r.frame_id = $1 order by r.created_at, r.id",
    )
    .bind(frame)
    .fetch_all(&app.pool)
    .await?;
    let view = |(id, author, name, stance, rule, text, x, y): RemarkRow| RemarkView {
        id,
        author: name,
        mine: author == me,
        stance: match stance.as_str() {
            "agrees" => Stance::Agrees,
            "disagrees" => Stance::Disagrees,
            _ => Stance::Note,
        },
        rule,
        text,
        pin: x.zip(y).map(|(x, y)| [x, y]),
    };
    Ok(rows.into_iter().map(view).collect())
}

/// Adds a remark; a second stance on one finding takes the place of the first.
pub(crate) async fn add_remark(app: &App, me: Uuid, frame: Uuid, r: &RemarkEdit) -> Answer<()> {
    r.check()?;
    let n: i64 =
        sqlx::query_scalar("select count(*) from remarks where frame_id = $1").bind(frame).fetch_one(&app.pool).await?;
    if n >= MOST_REMARKS {
        return Err(Problem::conflict(format!(
            "There is room for {MOST_REMARKS} remarks on a picture: remove one first."
        )));
    }
    sqlx::query(
        "insert into remarks (id, frame_id, author, stance, rule, body, pin_x, pin_y) values ($1, $2, $3, $4, $5, $6, $7, $8)
         on conflict (frame_id, author, rule) where stance <> 'note'
         do update set stance = excluded.stance, body = excluded.body, updated_at = now()",
    )
    .bind(Uuid::now_v7())
    .bind(frame)
    .bind(me)
    .bind(stance_word(r.stance))
    .bind(&r.rule)
    .bind(r.text.trim())
    .bind(r.pin.map(|p| p[0]))
    .bind(r.pin.map(|p| p[1]))
    .execute(&app.pool)
    .await?;
    Ok(())
}

/// Changes the words and the pin of one's own remark.
pub(crate) async fn change_remark(app: &App, me: Uuid, frame: Uuid, id: Uuid, r: &RemarkEdit) -> Answer<()> {
    r.check()?;
    let done = sqlx::query(
        "update remarks set body = $4, pin_x = $5, pin_y = $6, updated_at = now() where id = $1 and frame_id = $2 and author = $3",
    )
    .bind(id)
    .bind(frame)
    .bind(me)
    .bind(r.text.trim())
    .bind(r.pin.map(|p| p[0]))
    .bind(r.pin.map(|p| p[1]))
    .execute(&app.pool)
    .await?;
    if done.rows_affected() == 0 { Err(Problem::not_found("There is no such remark of yours.")) } else { Ok(()) }
}

/// Removes one's own remark.
pub(crate) async fn remove_remark(app: &App, me: Uuid, frame: Uuid, id: Uuid) -> Answer<()> {
    let done = sqlx::query("delete from remarks where id = $1 and frame_id = $2 and author = $3")
        .bind(id)
        .bind(frame)
        .bind(me)
        .execute(&app.pool)
        .await?;
    if done.rows_affected() == 0 { Err(Problem::not_found("There is no such remark of yours.")) } else { Ok(()) }
}

/// The paragraph of a verdict as a person wrote it.
#[derive(Debug, Clone, Default, Serialize, Deserialize, ToSchema)]
pub struct Written {
    /// Their words; absent where it is composed.
    pub text: Option<String>,
}

/// The paragraph of a frame as it was written, with its version.
pub(crate) async fn written_of(app: &App, frame: Uuid) -> Answer<(i64, Option<String>)> {
    let (version, written): (i64, Written) = newest_version(app, PARAGRAPHS, frame).await?.unwrap_or_default();
    Ok((version, written.text))
}

/// A phrase book.
#[derive(Serialize, Deserialize, ToSchema)]
pub struct PhraseBook {
    /// Version for the next edit; 0 while it is the one everyone begins with.
    #[serde(deserialize_with = "crate::problem::version")]
    pub version: i64,
    /// Phrases; names in braces are filled with figures of the picture.
    pub phrases: Vec<String>,
}

/// The phrase book of somebody.
pub(crate) async fn phrases_of(app: &App, me: Uuid) -> Answer<PhraseBook> {
    let (version, phrases) = newest_version(app, PHRASES, me).await?.unwrap_or_else(|| (0, phrase_book().to_vec()));
    Ok(PhraseBook { version, phrases })
}
