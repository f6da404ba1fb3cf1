//! The verdict on a picture: findings, what to change first, beliefs held against it, remarks, the paragraph.

use crate::App;
use crate::accounts::Me;
use crate::problem::{Answer, Body, Problem};
use crate::records::frames::owned;
use crate::records::verdicts::{
    PhraseBook, RemarkEdit, RemarkView, Written, add_remark, change_remark, judged, phrases_of, remarks, remove_remark,
    written_of,
};
use crate::records::versioned::{PARAGRAPHS, PHRASES, add};
use crate::routes::compare::compared;
use crate::routes::mending::{Mending, mends_of};
use crate::routes::sets::{Relighting, StopOnDrop, jpeg_of, relighting, relit_jpeg, staged_of};
use crate::work::Pace;
use adviser::{Mend, Myth};
use axum::Json;
use axum::extract::{Path, State};
use axum::http::{StatusCode, header};
use axum::response::{IntoResponse, Response};
use bytes::Bytes;
use judging::critique::{Differences, Verdict, filled, paragraph};
use lightset::set::LightSet;
use optics::words::Lengths;
use serde::{Deserialize, Serialize};
use std::convert::Infallible;
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};
use std::time::Instant;
use studio::PlateCache;
use tokio_stream::StreamExt;
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;
use uuid::Uuid;

pub(crate) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new()
        .routes(routes!(verdict))
        .routes(routes!(mending))
        .routes(routes!(beliefs))
        .routes(routes!(all_remarks, make_remark))
        .routes(routes!(edit_remark, take_remark_back))
        .routes(routes!(paragraph_now, write_paragraph))
        .routes(routes!(phrases_now, save_phrases))
        .routes(routes!(phrases_for))
}

/// The verdict on a frame by its case's brief.
#[utoipa::path(get, path = "/frames/{id}/verdict", tag = "verdict", params(("id" = Uuid, Path)),
    responses((status = 200, body = Verdict), (status = 404, body = Problem)))]
async fn verdict(State(app): State<App>, Me(me): Me, Path(id): Path<Uuid>) -> Answer<Json<Verdict>> {
    let f = owned(&app, me.id, id).await?;
    Ok(Json(judged(&app, me.id, &f, id).await?.verdict))
}

/// One line of the stream of [`mending`].
#[derive(Default, Serialize, ToSchema)]
pub struct MendingLine {
    /// A change, as soon as it is known: each after the one before it.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub mend: Option<Mend>,
    /// The picture that the first change would give, as the studio draws it; JPEG in base64.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub jpeg: Option<String>,
    /// The picture as it is now, as the studio draws it; JPEG in base64.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub before: Option<String>,
    /// The person of the picture itself under the lights after the first change; JPEG in base64.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub relit: Option<String>,
    /// Milliseconds since the request.
    pub after_ms: f64,
    /// This is the last line.
    pub done: bool,
    /// Why nothing can be worked out.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub problem: Option<String>,
}

/// Samples per pixel of the pictures of a change.
const SAMPLES: u32 = 8;

/// What to change first: each change a hand can make is tried in the studio on the set that the reading makes likely. A stream of
/// JSON lines, the best change first, then the next after it, then pictures of the first. Closing the connection ends the work.
#[utoipa::path(get, path = "/frames/{id}/verdict/changes", tag = "verdict", params(("id" = Uuid, Path)),
    responses((status = 200, body = MendingLine, content_type = "application/x-ndjson"), (status = 404, body = Problem)))]
async fn mending(State(app): State<App>, Me(me): Me, Path(id): Path<Uuid>) -> Answer<Response> {
    let start = Instant::now();
    let f = owned(&app, me.id, id).await?;
    let j = judged(&app, me.id, &f, id).await?;
    let m = Mending::of(&app, &f, id, &j).await?;
    let relight = relighting(&app, f.case_id).await.filter(|r| r.fits(&m.set));
    let cache = app.plates_of(me.id, f.case_id);
    let (tx, rx) = tokio::sync::mpsc::channel::<Bytes>(16);
    let stop = StopOnDrop(Arc::new(AtomicBool::new(false)));
    let cancel = stop.0.clone();
    let after = move || start.elapsed().as_secs_f64() * 1000.0;
    let (work_app, turned_away) = (app.clone(), tx.clone());
    let work = move || {
        // whoever asked may have gone while it waited
        if cancel.load(Ordering::Relaxed) {
            return;
        }
        let send = |line: MendingLine| {
            let mut text = serde_json::to_vec(&MendingLine { after_ms: after(), ..line }).unwrap_or_default();
            text.push(b'\n');
            if tx.blocking_send(text.into()).is_err() {
                cancel.store(true, Ordering::Relaxed);
            }
        };
        let mut told = |m: &Mend| {
            send(MendingLine { mend: Some(m.clone()), ..MendingLine::default() });
            !cancel.load(Ordering::Relaxed)
        };
        let all = match m.kept(&work_app) {
            Some(kept) => {
                let _ = kept.iter().all(&mut told);
                Ok(kept)
            }
            None => m.work_out(&work_app, &j, &mut told),
        };
        match all {
            Err(e) => send(MendingLine { problem: Some(e), done: true, ..MendingLine::default() }),
            Ok(all) => {
                if let Some(first) = all.first() {
                    pictures_of(&m.set, first, relight, &cache, &cancel, &send);
                }
                send(MendingLine { done: true, ..MendingLine::default() });
            }
        }
    };
    let own = app.clone();
    tokio::spawn(async move {
        if let Err(p) = own.work.run(Pace::Heavy, work).await {
            let line = MendingLine { problem: Some(p.detail), done: true, after_ms: after(), ..MendingLine::default() };
            let _ = turned_away.send(serde_json::to_vec(&line).unwrap_or_default().into()).await;
        }
    });
    let lines = tokio_stream::wrappers::ReceiverStream::new(rx).map(move |line| {
        let _held = &stop;
        Ok::<_, Infallible>(line)
    });
    let headers = [(header::CONTENT_TYPE, "application/x-ndjson"), (header::CONTENT_ENCODING, "identity")];
    Ok((headers, axum::body::Body::from_stream(lines)).into_response())
}

/// Draws what a change does.
fn pictures_of(
    set: &LightSet,
    first: &Mend,
    relight: Option<Relighting>,
    cache: &std::sync::Mutex<PlateCache>,
    cancel: &AtomicBool,
    send: &dyn Fn(MendingLine),
) {
    let coarse = |s: &LightSet, part: u32| {
        let mut s = s.clone();
        s.picture.samples = SAMPLES;
        s.picture.width = (s.picture.width / part).max(16);
        s.picture.height = (s.picture.height / part).max(16);
        s
    };
    let (before, after) = (coarse(set, 2), coarse(&first.set, 2));
    // small ones of their own: those of the set that is moved about stay in the cache
    let mut own = PlateCache::default();
    let Some(was) = studio::trace(&before, &mut own, cancel, |_| {}) else { return };
    let Some(plates) = studio::trace(&after, &mut own, cancel, |_| {}) else { return };
    send(MendingLine { jpeg: jpeg_of(&after, &plates), before: jpeg_of(&before, &was), ..MendingLine::default() });
    let ready = match relight {
        Some(Relighting::Kept(r)) => Some(r),
        Some(Relighting::New(n)) => n.ready(cancel),
        None => None,
    };
    let Some(ready) = ready else { return };
    let whole = coarse(&first.set, 1);
    let Ok(mut cache) = cache.lock() else { return };
    let Some(plates) = studio::trace(&whole, &mut cache, cancel, |_| {}) else { return };
    if let Some(relit) = relit_jpeg(&ready, &whole, &plates) {
        send(MendingLine { relit: Some(relit), ..MendingLine::default() });
    }
}

/// Common beliefs about light, held against the set that this picture was read as.
#[utoipa::path(get, path = "/frames/{id}/verdict/beliefs", tag = "verdict", params(("id" = Uuid, Path)),
    responses((status = 200, body = Vec<Myth>), (status = 404, body = Problem)))]
async fn beliefs(State(app): State<App>, Me(me): Me, Path(id): Path<Uuid>) -> Answer<Json<Vec<Myth>>> {
    let f = owned(&app, me.id, id).await?;
    let j = judged(&app, me.id, &f, id).await?;
    let set = staged_of(&app, &f, id, &j.marked).await?;
    app.work.run(Pace::Heavy, move || adviser::myths(&set, Lengths::Metres)).await?.map(Json).map_err(Problem::bad)
}

/// Remarks on a picture, the oldest first.
#[utoipa::path(get, path = "/frames/{id}/remarks", tag = "verdict", params(("id" = Uuid, Path)),
    responses((status = 200, body = Vec<RemarkView>), (status = 404, body = Problem)))]
async fn all_remarks(State(app): State<App>, Me(me): Me, Path(id): Path<Uuid>) -> Answer<Json<Vec<RemarkView>>> {
    owned(&app, me.id, id).await?;
    remarks(&app, me.id, id).await.map(Json)
}

/// Make a remark, or say whether a finding is right.
#[utoipa::path(post, path = "/frames/{id}/remarks", tag = "verdict", params(("id" = Uuid, Path)), request_body = RemarkEdit,
    responses((status = 201, body = Vec<RemarkView>), (status = 400, body = Problem), (status = 404, body = Problem), (status = 409, body = Problem)))]
async fn make_remark(
    State(app): State<App>,
    Me(me): Me,
    Path(id): Path<Uuid>,
    Body(remark): Body<RemarkEdit>,
) -> Answer<(StatusCode, Json<Vec<RemarkView>>)> {
    owned(&app, me.id, id).await?;
    add_remark(&app, me.id, id, &remark).await?;
    Ok((StatusCode::CREATED, Json(remarks(&app, me.id, id).await?)))
}

/// Change words and pin of one's own remark.
#[utoipa::path(put, path = "/frames/{id}/remarks/{remark}", tag = "verdict", params(("id" = Uuid, Path), ("remark" = Uuid, Path)), request_body = RemarkEdit,
    responses((status = 200, body = Vec<RemarkView>), (status = 400, body = Problem), (status = 404, body = Problem)))]
async fn edit_remark(
    State(app): State<App>,
    Me(me): Me,
    Path((id, remark)): Path<(Uuid, Uuid)>,
    Body(edit): Body<RemarkEdit>,
) -> Answer<Json<Vec<RemarkView>>> {
    owned(&app, me.id, id).await?;
    change_remark(&app, me.id, id, remark, &edit).await?;
    remarks(&app, me.id, id).await.map(Json)
}

/// Take one's own remark back.
#[utoipa::path(delete, path = "/frames/{id}/remarks/{remark}", tag = "verdict", params(("id" = Uuid, Path), ("remark" = Uuid, Path)),
    responses((status = 200, body = Vec<RemarkView>), (status = 404, body = Problem)))]
async fn take_remark_back(
    State(app): State<App>,
    Me(me): Me,
    Path((id, remark)): Path<(Uuid, Uuid)>,
) -> Answer<Json<Vec<RemarkView>>> {
    owned(&app, me.id, id).await?;
    remove_remark(&app, me.id, id, remark).await?;
    remarks(&app, me.id, id).await.map(Json)
}

/// The paragraph of a verdict.
#[derive(Serialize, ToSchema)]
pub struct ParagraphView {
    /// Version for the next edit; 0 before the first.
    pub version: i64,
    /// As it was written by hand; absent where the composed one stands.
    pub written: Option<String>,
    /// As it is composed from the findings now.
    pub composed: String,
}

/// A paragraph written on a version.
#[derive(Deserialize, ToSchema)]
pub struct ParagraphEdit {
    /// Version the edit was made on.
    #[serde(deserialize_with = "crate::problem::version")]
    pub version: i64,
    /// The words; `null` to let it be composed again.
    pub text: Option<String>,
}

/// Longest paragraph, characters.
const LONGEST_PARAGRAPH: usize = 6000;

async fn paragraph_view(app: &App, me: Uuid, id: Uuid) -> Answer<ParagraphView> {
    let f = owned(app, me, id).await?;
    let (j, _, mends) = mends_of(app, &f, id, judged(app, me, &f, id).await?).await?;
    let (version, written) = written_of(app, id).await?;
    let composed = paragraph(&j.verdict, &j.brief, mends.first().map(Mend::promise).as_ref());
    Ok(ParagraphView { version, written, composed })
}

/// The verdict in a paragraph: composed from the findings, or as it was written.
#[utoipa::path(get, path = "/frames/{id}/paragraph", tag = "verdict", params(("id" = Uuid, Path)),
    responses((status = 200, body = ParagraphView), (status = 404, body = Problem)))]
async fn paragraph_now(State(app): State<App>, Me(me): Me, Path(id): Path<Uuid>) -> Answer<Json<ParagraphView>> {
    paragraph_view(&app, me.id, id).await.map(Json)
}

/// Write the paragraph oneself.
#[utoipa::path(put, path = "/frames/{id}/paragraph", tag = "verdict", params(("id" = Uuid, Path)), request_body = ParagraphEdit,
    responses((status = 200, body = ParagraphView), (status = 400, body = Problem), (status = 404, body = Problem), (status = 409, body = Problem)))]
async fn write_paragraph(
    State(app): State<App>,
    Me(me): Me,
    Path(id): Path<Uuid>,
    Body(edit): Body<ParagraphEdit>,
) -> Answer<Json<ParagraphView>> {
    owned(&app, me.id, id).await?;
    if edit.text.as_ref().is_some_and(|t| t.chars().count() > LONGEST_PARAGRAPH) {
        return Err(Problem::bad(format!("The paragraph has room for {LONGEST_PARAGRAPH} characters.")));
    }
    let text = edit.text.map(|t| t.trim().to_owned()).filter(|t| !t.is_empty());
    let done = add(&app, PARAGRAPHS, id, me.id, edit.version, &Written { text }).await?;
    let now = paragraph_view(&app, me.id, id).await?;
    if !done {
        return Err(Problem::stale("paragraph", serde_json::to_value(now).map_err(Problem::internal)?));
    }
    Ok(Json(now))
}

/// My phrase book.
#[utoipa::path(get, path = "/phrases", tag = "verdict", responses((status = 200, body = PhraseBook)))]
async fn phrases_now(State(app): State<App>, Me(me): Me) -> Answer<Json<PhraseBook>> {
    phrases_of(&app, me.id).await.map(Json)
}

/// Save my phrase book.
#[utoipa::path(put, path = "/phrases", tag = "verdict", request_body = PhraseBook,
    responses((status = 200, body = PhraseBook), (status = 400, body = Problem), (status = 409, body = Problem)))]
async fn save_phrases(State(app): State<App>, Me(me): Me, Body(book): Body<PhraseBook>) -> Answer<Json<PhraseBook>> {
    if book.phrases.len() > 100 || book.phrases.iter().any(|p| p.trim().is_empty() || p.chars().count() > 400) {
        return Err(Problem::bad("A phrase book has at most 100 phrases of 1 to 400 characters."));
    }
    if !add(&app, PHRASES, me.id, me.id, book.version, &book.phrases).await? {
        let now = phrases_of(&app, me.id).await?;
        return Err(Problem::stale("phrase book", serde_json::to_value(now).map_err(Problem::internal)?));
    }
    Ok(Json(PhraseBook { version: book.version + 1, ..book }))
}

/// My phrases with the figures of this picture filled in; figures of differences where it is a take.
#[utoipa::path(get, path = "/frames/{id}/phrases", tag = "verdict", params(("id" = Uuid, Path)),
    responses((status = 200, body = Vec<String>), (status = 404, body = Problem)))]
async fn phrases_for(State(app): State<App>, Me(me): Me, Path(id): Path<Uuid>) -> Answer<Json<Vec<String>>> {
    let f = owned(&app, me.id, id).await?;
    let j = judged(&app, me.id, &f, id).await?;
    // the reference itself has nothing to be held against
    let against = compared(&app, &f, id).await.map(|c| Differences::of(&c.comparison)).unwrap_or_default();
    let book = phrases_of(&app, me.id).await?.phrases;
    let fill = |p: &String| filled(p, &j.marked.readings, &j.marked.marks, &against);
    Ok(Json(book.iter().map(fill).collect()))
}
