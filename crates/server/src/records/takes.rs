//! Takes of a case as they are kept, each following another.

use super::versioned::{LINKS, add, newest};
use crate::App;
use crate::problem::{Answer, Problem};
use judging::compare::Comparison;
use judging::takes::TakeLink;
use lightset::set::LightSet;
use serde::Serialize;
use sqlx::types::Json as Jsonb;
use std::collections::BTreeMap;
use utoipa::ToSchema;
use uuid::Uuid;

/// A take as it is kept.
pub(crate) struct Row {
    pub frame: Uuid,
    pub file_name: String,
    pub version: i64,
    pub link: TakeLink,
    /// The set it was made for, before the take itself corrected it.
    pub planned: Option<LightSet>,
    pub slant: String,
    pub comparison: Option<Comparison>,
}

pub(crate) async fn rows(app: &App, case: Uuid) -> Answer<Vec<Row>> {
    type Kept = (
        Uuid,
        String,
        Option<i64>,
        Option<Jsonb<TakeLink>>,
        Option<Jsonb<TakeLink>>,
        Option<String>,
        Option<Jsonb<Comparison>>,
    );
    let rows: Vec<Kept> = sqlx::query_as(
        "select f.id, f.file_name, l.version, l.body, p.body, r.body->>'slant', c.body
         from frames f
         left join lateral (select version, body from links where owner = f.id order by version desc limit 1) l on true
         left join lateral (select body from links where owner = f.id order by version limit 1) p on true
         left join lateral (select body from readings where frame_id = f.id order by marks_version desc, created_at desc limit 1) r on true
         left join lateral (select id from frames where case_id = f.case_id and role = 'reference'
                            order by created_at desc limit 1) a on true
         left join comparisons c on c.frame_id = f.id and c.core_version = $2 and c.reference_id = a.id
              and c.marks_version = (select max(version) from marks where frame_id = f.id)
              and c.reference_version = (select max(version) from marks where frame_id = a.id)
         where f.case_id = $1 and f.role = 'take' order by f.created_at, f.id",
    )
    .bind(case)
    .bind(evidence::CORE_VERSION)
    .fetch_all(&app.pool)
    .await?;
    Ok(rows
        .into_iter()
        .map(|(frame, file_name, version, link, first, slant, comparison)| Row {
            frame,
            file_name,
            version: version.unwrap_or(0),
            link: link.map(|l| l.0).unwrap_or_default(),
            planned: first.and_then(|l| l.0.set),
            slant: slant.unwrap_or_default(),
            comparison: comparison.map(|c| c.0),
        })
        .collect())
}

pub(crate) async fn tip_of(app: &App, case: Uuid) -> Answer<Option<Uuid>> {
    Ok(sqlx::query_scalar("select tip from cases where id = $1").bind(case).fetch_one(&app.pool).await?)
}

pub(crate) async fn set_tip(app: &App, case: Uuid, tip: Option<Uuid>) -> Answer<()> {
    sqlx::query("update cases set tip = $2, updated_at = now() where id = $1")
        .bind(case)
        .bind(tip)
        .execute(&app.pool)
        .await?;
    Ok(())
}

/// Takes from the first to one, each following the one before; a loop ends it.
pub(crate) fn path_to(rows: &[Row], tip: Uuid) -> Vec<&Row> {
    let by: BTreeMap<Uuid, &Row> = rows.iter().map(|r| (r.frame, r)).collect();
    let mut out = Vec::new();
    let mut next = Some(tip);
    while let Some(r) = next.and_then(|id| by.get(&id)).filter(|_| out.len() <= rows.len()) {
        out.push(*r);
        next = r.link.parent.as_deref().and_then(|p| Uuid::parse_str(p).ok());
    }
    out.reverse();
    out
}

/// Number of a take in its case, from 1.
pub(crate) fn number_of(rows: &[Row], frame: Option<&str>) -> Option<usize> {
    let frame = Uuid::parse_str(frame?).ok()?;
    rows.iter().position(|r| r.frame == frame).map(|n| n + 1)
}

/// A link with its version.
#[derive(Serialize, ToSchema)]
pub struct LinkView {
    /// Version for the next edit.
    pub version: i64,
    /// What is told of the take.
    pub link: TakeLink,
}

pub(crate) async fn link_of(app: &App, id: Uuid) -> Answer<(i64, TakeLink)> {
    Ok(newest(app, LINKS, id).await?.unwrap_or_default())
}

pub(crate) async fn put_link(app: &App, me: Uuid, id: Uuid, on: i64, link: &TakeLink) -> Answer<()> {
    link.check().map_err(Problem::bad)?;
    if !add(app, LINKS, id, me, on, link).await? {
        let (version, link) = link_of(app, id).await?;
        let now = LinkView { version, link };
        return Err(Problem::stale("take", serde_json::to_value(&now).map_err(Problem::internal)?));
    }
    Ok(())
}
