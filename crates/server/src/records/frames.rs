//! Frames as they are kept: pictures of a case, from their bytes to the copies that are shown.

use super::cases::FrameView;
use crate::App;
use crate::prepared::Prepared;
use crate::problem::{Answer, Problem};
use crate::work::Pace;
use evidence::marks::Marks;
use sha2::{Digest, Sha256};
use std::sync::Arc;
use uuid::Uuid;

/// Longest sides of the copies.
const SIDES: [(&str, u32); 2] = [("view.jpg", 2000), ("thumb.jpg", 420)];

struct Taken {
    hash: String,
    original: Vec<u8>,
    copies: Vec<pictures::Preview>,
    prepared: Arc<Prepared>,
    media_type: &'static str,
}

/// Strips an opened picture and makes copies; runs on a worker thread.
fn take_in(bytes: &[u8], prepared: Arc<Prepared>) -> Result<Taken, pictures::Refusal> {
    // The copies and what is stored do not wait for each other.
    let (stored, copies) = std::thread::scope(|scope| {
        let stored = scope.spawn(|| {
            let (original, media_type) = pictures::storable(bytes, &prepared.photo)?;
            let hash: String = Sha256::digest(&original).iter().map(|b| format!("{b:02x}")).collect();
            Ok((original, media_type, hash))
        });
        let copies = pictures::previews(&prepared.photo, &SIDES.map(|s| s.1));
        (stored.join(), copies)
    });
    let lost = |_| pictures::Refusal::Damaged("it could not be copied".into());
    let (original, media_type, hash) = stored.map_err(lost)??;
    let copies = copies?;
    Ok(Taken { hash, original, copies, prepared, media_type })
}

/// A picture as it was sent.
pub(crate) struct Sent {
    /// Id of the frame it becomes.
    pub id: Uuid,
    pub name: String,
    pub role: String,
    pub film: Option<String>,
    pub time_s: Option<f64>,
    pub bytes: Vec<u8>,
}

impl Sent {
    /// A reference picture.
    pub fn reference(name: &str, bytes: Vec<u8>) -> Sent {
        Sent { id: Uuid::now_v7(), name: name.into(), role: "reference".into(), film: None, time_s: None, bytes }
    }
}

/// What a picture may be for.
const ROLES: [&str; 6] = ["reference", "take", "plate", "probe", "calibration", "view"];

pub(crate) fn check_role(role: &str) -> Answer<()> {
    if ROLES.contains(&role) {
        return Ok(());
    }
    Err(Problem::bad(format!("role: expected one of {}, found \"{role}\"", ROLES.join(", "))))
}

/// Takes a picture into a case; used by the route and by the demo data. Files first, then the row:
/// a row never points at nothing, and files without a row are swept.
pub(crate) async fn add(app: &App, case: Uuid, author: Uuid, sent: Sent, marks: Option<Marks>) -> Answer<FrameView> {
    let Sent { id, name, role, film, time_s, bytes } = sent;
    let bytes = Arc::new(bytes);
    let prepared = crate::opening::open(app, bytes.clone()).await?;
    let taken = app.work.run(Pace::Heavy, move || take_in(&bytes, prepared)).await?;
    let taken = taken.map_err(|r| Problem::refused(r.to_string()))?;
    let facts = taken.prepared.facts.clone();
    app.store.put(&taken.hash, "original", taken.original).await?;
    for ((name, _), copy) in SIDES.iter().zip(taken.copies) {
        app.store.put(&taken.hash, name, copy.jpeg).await?;
    }
    app.remember(&taken.hash, taken.prepared.clone());
    let mut marks = marks.unwrap_or_default();
    taken.prepared.fill_in(&mut marks);
    let file_name: String = name.chars().filter(|c| !c.is_control()).take(160).collect();
    let mut tx = app.pool.begin().await?;
    sqlx::query("insert into frames (id, case_id, file_name, file_hash, media_type, facts, role, film, time_s) values ($1, $2, $3, $4, $5, $6, $7, $8, $9)")
        .bind(id)
        .bind(case)
        .bind(&file_name)
        .bind(&taken.hash)
        .bind(taken.media_type)
        .bind(sqlx::types::Json(&facts))
        .bind(&role)
        .bind(&film)
        .bind(time_s)
        .execute(&mut *tx)
        .await?;
    sqlx::query("insert into marks (frame_id, version, body, author) values ($1, 1, $2, $3)")
        .bind(id)
        .bind(sqlx::types::Json(&marks))
        .bind(author)
        .execute(&mut *tx)
        .await?;
    sqlx::query("update cases set updated_at = now() where id = $1").bind(case).execute(&mut *tx).await?;
    tx.commit().await?;
    Ok(FrameView { id, role, file_name, facts, film, time_s })
}

/// What is needed of a frame to read it.
pub(crate) struct Owned {
    pub hash: String,
    pub media_type: String,
    pub case_id: Uuid,
    /// Brief of its case.
    pub brief: String,
    /// The brief of the table that it is, or was copied from.
    pub root_brief: String,
}

/// The frame if its case is theirs, else 404.
pub(crate) async fn owned(app: &App, me: Uuid, frame: Uuid) -> Answer<Owned> {
    let row: Option<(String, String, Uuid, String, String)> = sqlx::query_as(
        "select f.file_hash, f.media_type, f.case_id, c.brief, coalesce(h.body->>'based_on', c.brief)
         from frames f join cases c on c.id = f.case_id
         left join house_briefs h on c.brief = 'house:' || h.id::text
         where f.id = $1 and c.owner = $2",
    )
    .bind(frame)
    .bind(me)
    .fetch_optional(&app.pool)
    .await?;
    row.map(|(hash, media_type, case_id, brief, root_brief)| Owned { hash, media_type, case_id, brief, root_brief })
        .ok_or_else(|| Problem::not_found("There is no such picture among yours."))
}
