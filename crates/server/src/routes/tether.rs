//! Pictures that come by themselves: a folder for each case is watched, and what is put there becomes a take. The
//! simulated camera puts studio pictures there, as a tethered one would.

use crate::App;
use crate::accounts::Me;
use crate::problem::{Answer, Problem};
use crate::records::cases::must_own;
use crate::records::frames::{Sent, add, owned};
use crate::routes::takes::{done_to_tip, join};
use crate::work::Pace;
use adviser::SimulatedCamera;
use axum::Json;
use axum::extract::{Path, State};
use serde::Serialize;
use std::collections::HashMap;
use std::path::{Path as FilePath, PathBuf};
use std::time::Duration;
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;
use uuid::Uuid;

pub(crate) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new().routes(routes!(folder_of)).routes(routes!(shoot))
}

/// How often folders are looked at.
const EVERY: Duration = Duration::from_millis(700);
/// Files of these kinds are taken.
const KINDS: [&str; 9] = ["jpg", "jpeg", "png", "webp", "tif", "tiff", "bmp", "exr", "hdr"];

/// The folder of a case that is watched.
#[derive(Serialize, ToSchema)]
pub struct Watched {
    /// Its name under the watched folder; absent if the server watches none.
    pub folder: Option<String>,
    /// Files that were refused, with the reason.
    pub refused: Vec<String>,
    /// Takes that are in the chain: more than one knew of means that some came in.
    pub takes: i64,
}

fn case_folder(root: &FilePath, case: Uuid) -> PathBuf {
    root.join(case.to_string())
}

/// Files directly in a folder, by name; none if it is not there.
async fn files(folder: &FilePath) -> Vec<PathBuf> {
    let mut out = Vec::new();
    let Ok(mut list) = tokio::fs::read_dir(folder).await else { return out };
    while let Ok(Some(entry)) = list.next_entry().await {
        if entry.file_type().await.is_ok_and(|t| t.is_file()) {
            out.push(entry.path());
        }
    }
    out.sort();
    out
}

/// Where pictures of a case are dropped.
#[utoipa::path(get, path = "/cases/{id}/folder", tag = "takes", params(("id" = Uuid, Path)),
    responses((status = 200, body = Watched), (status = 404, body = Problem)))]
async fn folder_of(State(app): State<App>, Me(me): Me, Path(case): Path<Uuid>) -> Answer<Json<Watched>> {
    must_own(&app, me.id, case).await?;
    let takes: i64 = sqlx::query_scalar(
        "select count(*) from frames f where f.case_id = $1 and f.role = 'take'
         and exists (select 1 from links where owner = f.id)",
    )
    .bind(case)
    .fetch_one(&app.pool)
    .await?;
    let Some(root) = app.tether.as_deref() else {
        return Ok(Json(Watched { folder: None, refused: Vec::new(), takes }));
    };
    let folder = case_folder(root, case);
    tokio::fs::create_dir_all(&folder).await.map_err(Problem::internal)?;
    let mut refused = Vec::new();
    for f in files(&folder.join("refused")).await {
        if f.extension().is_some_and(|e| e == "txt") {
            refused.push(tokio::fs::read_to_string(&f).await.unwrap_or_default());
        }
    }
    let name = root.file_name().unwrap_or_default().to_string_lossy();
    Ok(Json(Watched { folder: Some(format!("{name}/{case}")), refused, takes }))
}

/// What the simulated camera did.
#[derive(Serialize, ToSchema)]
pub struct Shot {
    /// Name of the file.
    pub file_name: String,
    /// It was dropped into the watched folder and becomes a take in a moment; else it is one already.
    pub dropped: bool,
}

/// Take a picture with the simulated camera: of the case's set as it would really stand, with lamps a little elsewhere
/// and dials a little off.
#[utoipa::path(post, path = "/cases/{id}/shoot", tag = "takes", params(("id" = Uuid, Path)),
    responses((status = 200, body = Shot), (status = 404, body = Problem)))]
async fn shoot(State(app): State<App>, Me(me): Me, Path(case): Path<Uuid>) -> Answer<Json<Shot>> {
    must_own(&app, me.id, case).await?;
    let done = done_to_tip(&app, case).await?;
    let now = crate::routes::sets::newest_set(&app, case).await?.1;
    let taken: i64 = sqlx::query_scalar("select count(*) from frames where case_id = $1 and role = 'take'")
        .bind(case)
        .fetch_one(&app.pool)
        .await?;
    let png = app
        .work
        .run(Pace::Heavy, move || -> Result<Vec<u8>, String> {
            let (first, steps) = done.unwrap_or((now, Vec::new()));
            let mut camera = SimulatedCamera::new(&first, case.as_u128() as u64);
            for (before, after) in &steps {
                camera.follow(before, after);
            }
            crate::routes::set_picture::taken(&mut camera.real().clone(), taken as u32 + 1)
        })
        .await?
        .map_err(Problem::bad)?;
    // two shots at once are two files
    let mark = Uuid::new_v4().simple().to_string();
    let file_name = format!("camera-{:03}-{}.png", taken + 1, &mark[..4]);
    if let Some(root) = app.tether.as_deref() {
        let folder = case_folder(root, case);
        tokio::fs::create_dir_all(&folder).await.map_err(Problem::internal)?;
        // whole or not there: written beside, then moved in
        let beside = folder.join(format!(".{file_name}"));
        tokio::fs::write(&beside, png).await.map_err(Problem::internal)?;
        tokio::fs::rename(&beside, folder.join(&file_name)).await.map_err(Problem::internal)?;
        return Ok(Json(Shot { file_name, dropped: true }));
    }
    let sent =
        Sent { id: Uuid::now_v7(), name: file_name.clone(), role: "take".into(), film: None, time_s: None, bytes: png };
    let frame = add(&app, case, me.id, sent, None).await?;
    join(&app, me.id, &owned(&app, me.id, frame.id).await?, frame.id).await?;
    Ok(Json(Shot { file_name, dropped: false }))
}

/// Watches the folders until the server stops. Each file is claimed by moving it, so two servers on one folder do not
/// take it twice; one that is still being written is left until its size rests.
pub(crate) async fn watch(app: App) {
    let Some(root) = app.tether.clone() else { return };
    let mut sizes: HashMap<PathBuf, u64> = HashMap::new();
    loop {
        tokio::time::sleep(EVERY).await;
        let mut seen = HashMap::new();
        let Ok(mut list) = tokio::fs::read_dir(&*root).await else { continue };
        while let Ok(Some(entry)) = list.next_entry().await {
            let Ok(case) = Uuid::parse_str(&entry.file_name().to_string_lossy()) else { continue };
            for left in files(&entry.path().join("claimed")).await.into_iter().filter_map(Claimed::of) {
                if left.age() > CLAIM
                    && let Err(e) = finish(&app, case, &entry.path(), left).await
                {
                    tracing::warn!(%case, "a file left over was not taken: {e}");
                }
            }
            for file in files(&entry.path()).await {
                let name = file.file_name().unwrap_or_default().to_string_lossy().into_owned();
                let kind = file.extension().map(|e| e.to_string_lossy().to_lowercase()).unwrap_or_default();
                if name.starts_with('.') || !KINDS.contains(&kind.as_str()) {
                    continue;
                }
                let size = tokio::fs::metadata(&file).await.map_or(0, |m| m.len());
                if size == 0 || sizes.get(&file) != Some(&size) {
                    seen.insert(file, size);
                    continue;
                }
                if let Err(e) = take_in(&app, case, &entry.path(), &file, &name).await {
                    tracing::warn!(%case, name, "a file of the watched folder was not taken: {e}");
                }
            }
        }
        sizes = seen;
    }
}

/// How long a claimed file may be at work before another server, or this one after a fall, goes on with it.
const CLAIM: Duration = Duration::from_secs(120);

/// A file that someone has claimed: `claimed/ID-NAME`, where ID is the frame it becomes. A server that falls leaves it
/// there; whoever goes on with it makes the same frame, so that none is lost and none is there twice.
struct Claimed {
    id: Uuid,
    name: String,
    path: PathBuf,
}

impl Claimed {
    fn of(path: PathBuf) -> Option<Claimed> {
        let file = path.file_name()?.to_string_lossy().into_owned();
        let (id, name) = file.split_once('-')?;
        Some(Claimed { id: Uuid::parse_str(id).ok()?, name: name.to_owned(), path: path.clone() })
    }

    /// Seconds since it was claimed, by its id.
    fn age(&self) -> Duration {
        let at = self.id.get_timestamp().map_or(0, |t| t.to_unix().0);
        let now = std::time::SystemTime::now().duration_since(std::time::UNIX_EPOCH).unwrap_or_default();
        now.saturating_sub(Duration::from_secs(at))
    }
}

/// Claims one file by moving it: whoever moves it first has it.
async fn take_in(app: &App, case: Uuid, folder: &FilePath, file: &FilePath, name: &str) -> anyhow::Result<()> {
    let at_work = folder.join("claimed");
    tokio::fs::create_dir_all(&at_work).await?;
    let id = Uuid::now_v7();
    let path = at_work.join(format!("{}-{name}", id.simple()));
    if tokio::fs::rename(file, &path).await.is_err() {
        return Ok(());
    }
    finish(app, case, folder, Claimed { id, name: name.to_owned(), path }).await
}

/// Takes a claimed file: into `taken/` once it is a take, into `refused/` with the reason if it cannot be one. What fails
/// for reasons of the server's own stays claimed and is tried again.
async fn finish(app: &App, case: Uuid, folder: &FilePath, claimed: Claimed) -> anyhow::Result<()> {
    let Claimed { id, name, path } = claimed;
    let sent: Answer<Uuid> = async {
        let size = tokio::fs::metadata(&path).await.map_err(Problem::internal)?.len();
        let most = pictures::Limits::default().bytes;
        if size > most {
            let mb = |b: u64| b.div_ceil(1_000_000);
            return Err(Problem::refused(pictures::Refusal::TooHeavy { found: mb(size), most: mb(most) }.to_string()));
        }
        let owner: Option<Uuid> =
            sqlx::query_scalar("select owner from cases where id = $1").bind(case).fetch_optional(&app.pool).await?;
        let owner = owner.ok_or_else(|| Problem::not_found("There is no such case any more."))?;
        let there: bool = sqlx::query_scalar("select exists (select 1 from frames where id = $1)")
            .bind(id)
            .fetch_one(&app.pool)
            .await?;
        if !there {
            let bytes = tokio::fs::read(&path).await.map_err(Problem::internal)?;
            let sent = Sent { id, name: name.clone(), role: "take".into(), film: None, time_s: None, bytes };
            add(app, case, owner, sent, None).await?;
        }
        Ok(owner)
    }
    .await;
    match sent {
        Ok(owner) => {
            let taken = folder.join("taken");
            tokio::fs::create_dir_all(&taken).await?;
            tokio::fs::rename(&path, taken.join(format!("{}-{name}", id.simple()))).await?;
            // it is in the case; what keeps it out of the chain is told where it is taken up by hand
            let joined = async { join(app, owner, &owned(app, owner, id).await?, id).await }.await;
            joined.map(|_| ()).map_err(|p: Problem| anyhow::anyhow!("{}", p.detail))
        }
        Err(p) if p.status >= 500 => anyhow::bail!("{}; it will be tried again", p.detail),
        Err(p) => {
            let refused = folder.join("refused");
            tokio::fs::create_dir_all(&refused).await?;
            tokio::fs::rename(&path, refused.join(&name)).await?;
            Ok(tokio::fs::write(refused.join(format!("{name}.txt")), format!("{name}: {}", p.detail)).await?)
        }
    }
}
