//! The series of a case, and what each of its pictures shows.

use super::cases::{curve_of_frame, load};
use super::frames::owned;
use super::marks::{newest as newest_marks, told};
use super::versioned::{SERIES, newest};
use crate::App;
use crate::problem::{Answer, Problem};
use crate::work::Pace;
use series::{Member, Series, ShotList, Shown, shot_list, shown};
use std::sync::Arc;
use uuid::Uuid;

/// The series of a case with its version; pictures that are gone have left it.
pub(crate) async fn series_of(app: &App, me: Uuid, case: Uuid) -> Answer<(i64, Series)> {
    let (version, mut series) = newest::<Series>(app, SERIES, case).await?.unwrap_or_default();
    let frames = load(app, me, case).await?.frames;
    series.placed.retain(|p| frames.iter().any(|f| f.id.to_string() == p.frame));
    Ok((version, series))
}

/// What a picture shows, as kept or measured now.
async fn shown_in(app: &App, me: Uuid, case: Uuid, frame: Uuid) -> Answer<Arc<Shown>> {
    let f = owned(app, me, frame).await?;
    if f.case_id != case {
        return Err(Problem::bad("A series is of pictures of its own case."));
    }
    let marked = newest_marks(app, &f.hash, frame).await?;
    let curve = curve_of_frame(app, frame).await?;
    let key = serde_json::to_string(&(&f.hash, &marked.marks, &curve)).map_err(Problem::internal)?;
    if let Some(s) = app.shown(&key) {
        return Ok(s);
    }
    let prepared = app.prepared(&f.hash).await?;
    let marks = told(app, frame, &prepared, &marked.marks).await?;
    let lights = marked.readings.lights;
    let measure = move || shown(&session::as_read(&prepared.photo, &marks), &marks, &lights);
    let found = Arc::new(app.work.run(Pace::Heavy, measure).await?);
    app.keep_shown(key, found.clone());
    Ok(found)
}

/// The list of a series, and its pictures in the order of the list with what they show.
pub(crate) async fn members(
    app: &App,
    me: Uuid,
    case: Uuid,
    series: &Series,
) -> Answer<(&'static ShotList, Vec<Member>)> {
    let list = shot_list(&series.list).ok_or_else(|| Problem::bad("Choose a shot list first."))?;
    let mut out = Vec::new();
    for view in &list.views {
        let those: Vec<_> = series.placed.iter().filter(|p| p.view == view.id).collect();
        for (k, p) in those.iter().enumerate() {
            let frame = super::plates::id_of(&p.frame)?;
            let shown = shown_in(app, me, case, frame).await?;
            let name = if those.len() > 1 { format!("{} {}", view.name, k + 1) } else { view.name.clone() };
            out.push(Member { frame: p.frame.clone(), name, view: view.id.clone(), shown: (*shown).clone() });
        }
    }
    Ok((list, out))
}
