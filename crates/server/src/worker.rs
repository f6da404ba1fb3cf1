//! Does jobs, one at a time, until it is told to stop.

use crate::App;
use crate::exports::export;
use crate::problem::{Answer, Problem};
use crate::records::frames::owned;
use crate::records::jobs::{self, PlatesFile, ReportFile, Taken, Task};
use crate::records::marks::newest;
use crate::records::plates::{desk_of, id_of, photo_of, shelf};
use crate::records::series::{members, series_of};
use crate::records::submissions::{ReadSubmission, put_failed, put_read, to_read};
use crate::reports::report_of;
use crate::routes::sets::newest_set;
use crate::work::Pace;
use optics::photo::Photo;
use plates::desk::DeskPlate;
use plates::layers::{Layer, Soft, masks, openraster};
use plates::merge::winners;
use report::Paper;
use session::PictureRead;
use std::fs::File;
use std::io::{BufWriter, Seek};
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, AtomicU32, Ordering};
use std::time::Duration;
use studio::PlateCache;
use uuid::Uuid;

/// How often an idle worker looks for a job.
const LOOK_EVERY: Duration = Duration::from_millis(400);
/// How often a worker says that it is alive, and asks whether the job is still wanted.
const ALIVE_EVERY: Duration = Duration::from_secs(2);

/// What a job says that nobody wants any more.
const WITHDRAWN: &str = "withdrawn";

/// How far a job is, and whether it is still wanted.
#[derive(Clone, Default)]
struct Hold {
    stop: Arc<AtomicBool>,
    thousandths: Arc<AtomicU32>,
}

impl Hold {
    fn tell(&self, share: f64) {
        self.thousandths.store((1000.0 * share.clamp(0.0, 1.0)) as u32, Ordering::Relaxed);
    }
}

/// Takes jobs and does them.
pub(crate) async fn work(app: App) {
    let name = format!("{}-{}", std::process::id(), Uuid::new_v4().simple());
    loop {
        match jobs::take(&app, &name).await {
            Ok(Some(job)) => one(&app, &name, job).await,
            Ok(None) => tokio::time::sleep(LOOK_EVERY).await,
            Err(e) => {
                tracing::warn!("jobs cannot be taken: {e}");
                tokio::time::sleep(5 * LOOK_EVERY).await;
            }
        }
    }
}

async fn one(app: &App, name: &str, job: Taken) {
    let id = job.id;
    let hold = Hold::default();
    let alive = {
        let (app, name, hold) = (app.clone(), name.to_owned(), hold.clone());
        tokio::spawn(async move {
            loop {
                tokio::time::sleep(ALIVE_EVERY).await;
                let share = f64::from(hold.thousandths.load(Ordering::Relaxed)) / 1000.0;
                // a database that is away for a moment does not end the work
                if let Ok(false) = jobs::alive(&app, id, &name, share).await {
                    hold.stop.store(true, Ordering::Relaxed);
                    return;
                }
            }
        })
    };
    let done = perform(app, job, &hold).await;
    alive.abort();
    let told = match done {
        Ok(()) => jobs::end(app, id, name, None).await,
        Err(p) if p.status >= 500 => jobs::put_back(app, id, name).await,
        Err(p) => jobs::end(app, id, name, Some(&p.detail)).await,
    };
    if let Err(e) = told {
        tracing::warn!(%id, "how a job ended could not be written down: {e}");
    }
}

async fn perform(app: &App, job: Taken, hold: &Hold) -> Answer<()> {
    match job.task {
        Task::Picture { case, side, samples } => picture(app, job.id, case, side, samples, hold).await,
        Task::Readings { case } => readings(app, owner_of(&job)?, case, hold).await,
        Task::Series { case } => series_file(app, job.id, owner_of(&job)?, case, hold).await,
        Task::Export => export_file(app, job.id, owner_of(&job)?, hold).await,
        Task::Submission { submission } => submitted(app, submission).await,
        Task::Report { case, frame, file, paper, contact } => {
            report_file(app, job.id, [owner_of(&job)?, case, frame], (file, paper, contact), hold).await
        }
        Task::Plates { case, file } => plates_file(app, job.id, owner_of(&job)?, case, file, hold).await,
    }
}

fn owner_of(job: &Taken) -> Answer<Uuid> {
    job.owner.ok_or_else(|| Problem::not_found("Its owner is gone."))
}

/// Pictures of a case as a job loads them, one in memory at a time, and how far it says it is.
struct Reach<'a> {
    load: &'a mut dyn FnMut(Uuid) -> Result<Photo, String>,
    step: &'a mut dyn FnMut(f64),
}

/// A file that a job writes beside the store and then into it.
async fn write_file(
    app: &App,
    [id, owner, case]: [Uuid; 3],
    hold: &Hold,
    write: impl FnOnce(BufWriter<File>, Reach) -> Result<(), String> + Send + 'static,
) -> Answer<()> {
    // a file without a name: gone with whoever holds it, however that ends
    let out = tempfile::tempfile().map_err(Problem::internal)?;
    let mut whole = out.try_clone().map_err(Problem::internal)?;
    let runtime = tokio::runtime::Handle::current();
    let (own, hold) = (app.clone(), hold.clone());
    let made = app
        .work
        .run(Pace::Heavy, move || {
            let mut load = |frame: Uuid| {
                if hold.stop.load(Ordering::Relaxed) {
                    return Err(WITHDRAWN.into());
                }
                runtime.block_on(photo_of(&own, owner, case, frame)).map_err(|p| p.detail)
            };
            write(BufWriter::new(out), Reach { load: &mut load, step: &mut |share| hold.tell(share) })
        })
        .await;
    match made {
        Ok(Ok(())) => {
            whole.rewind().map_err(Problem::internal)?;
            app.store.put_result_file(id, tokio::fs::File::from_std(whole)).await.map_err(Problem::internal)
        }
        Ok(Err(e)) if e == WITHDRAWN => Ok(()),
        Ok(Err(e)) => Err(Problem::bad(e)),
        Err(p) => Err(p),
    }
}

/// All that is kept of a person.
async fn export_file(app: &App, id: Uuid, owner: Uuid, hold: &Hold) -> Answer<()> {
    let out = tempfile::tempfile().map_err(Problem::internal)?;
    let mut whole = out.try_clone().map_err(Problem::internal)?;
    let tell = |share| {
        hold.tell(share);
        !hold.stop.load(Ordering::Relaxed)
    };
    export(app, owner, out, tell).await?;
    if hold.stop.load(Ordering::Relaxed) {
        return Ok(());
    }
    whole.rewind().map_err(Problem::internal)?;
    app.store.put_result_file(id, tokio::fs::File::from_std(whole)).await.map_err(Problem::internal)
}

/// The pictures of a series cropped alike.
async fn series_file(app: &App, id: Uuid, owner: Uuid, case: Uuid, hold: &Hold) -> Answer<()> {
    let series = series_of(app, owner, case).await?.1;
    let (list, members) = members(app, owner, case, &series).await?;
    let frames: Vec<Uuid> = members.iter().map(|m| id_of(&m.frame)).collect::<Answer<_>>()?;
    let write = move |out: BufWriter<File>, from: Reach| {
        let report = series::report(list, &members, &series.ticked);
        let n = members.len() as f64;
        let mut load = |k: usize| (from.load)(frames[k]);
        series::archive(out, list, &members, &report, &mut load, &mut |k| (from.step)(k as f64 / n))
    };
    write_file(app, [id, owner, case], hold, write).await
}

/// What was handed in: judged, held against the reference, with what is proposed.
pub(crate) async fn submitted(app: &App, id: Uuid) -> Answer<()> {
    let done = read_submission(app, id).await;
    if let Err(p) = &done
        && p.status < 500
    {
        put_failed(app, id, &p.detail).await?;
    }
    done
}

async fn read_submission(app: &App, id: Uuid) -> Answer<()> {
    let (_, hash, marks, readings, k) = to_read(app, id).await?;
    let own = app.prepared(&hash).await?;
    let (reference, lies) = match &k.reference {
        Some(r) => (Some(app.prepared(&r.hash).await?), Some(app.lies(&r.hash, &hash).await?)),
        None => (None, None),
    };
    let work = move || {
        let mut readings = readings;
        evidence::placement::by_brief(&mut readings.exposure, k.brief.root(), marks.exposure.as_ref());
        let verdict = judging::critique::judge(&readings, &marks, &k.brief);
        let finger = classroom::finger(&own.photo);
        let distance = k.reference.zip(reference).zip(lies).map(|((r, photo), lies)| {
            let p = PictureRead::kept(&photo.photo, r.marks, r.readings.clone());
            let q = PictureRead::kept(&own.photo, marks, readings.clone());
            let c = session::compared(&p, &q, &|| (*lies).clone());
            classroom::distance(&r.readings, &readings, &c)
        });
        let proposals = classroom::proposals(&k.assignment.rubric, distance.as_ref(), Some(&verdict));
        ReadSubmission { distance, verdict, proposals, finger }
    };
    let read = app.work.run(Pace::Heavy, work).await?;
    put_read(app, id, &read).await
}

/// The verdict on a picture as a file.
async fn report_file(
    app: &App,
    id: Uuid,
    whose: [Uuid; 3],
    (file, paper, contact): (ReportFile, Paper, bool),
    hold: &Hold,
) -> Answer<()> {
    let (report, art) = report_of(app, whose, contact, &|share| hold.tell(share)).await?;
    if hold.stop.load(Ordering::Relaxed) {
        return Ok(());
    }
    let make = move || match file {
        ReportFile::Html => Ok(report::page(&report, &art).into_bytes()),
        ReportFile::Json => serde_json::to_vec_pretty(&report).map_err(|e| e.to_string()),
        ReportFile::Pdf => pictures::pdf_of_pages(&report::sheets(&report, &art, paper), Some(&report.title))
            .map_err(|e| e.to_string()),
    };
    let bytes = app.work.run(Pace::Heavy, make).await?.map_err(Problem::bad)?;
    Ok(app.store.put_result(id, bytes).await?)
}

/// The plates of a case at full size.
async fn plates_file(app: &App, id: Uuid, owner: Uuid, case: Uuid, file: PlatesFile, hold: &Hold) -> Answer<()> {
    let desk = desk_of(app, owner, case).await?.1;
    let shelf = shelf(app, owner, case, &desk).await?;
    let dark = match &desk.dark {
        Some(d) => Some(photo_of(app, owner, case, id_of(d)?).await?.exposed(shelf.gains.on(id_of(d)?))),
        None => None,
    };
    let factors = desk.factors();
    let one = |(p, f): (&DeskPlate, &[f64; 3])| Layer { name: p.name.clone(), factor: *f, mask: None };
    let layers: Vec<Layer> = desk.plates.iter().zip(&factors).map(one).collect();
    let write = move |out: BufWriter<File>, from: Reach| {
        let n = layers.len();
        let mut load = |k: usize| {
            let frame = shelf.frames[k];
            Ok((from.load)(frame)?.exposed(shelf.gains.on(frame)))
        };
        let mut step = |k: usize| (from.step)(k as f64 / n as f64);
        let blocks = (shelf.plates[0].width, shelf.plates[0].height);
        let painted = Soft { blocks, each: shelf.masks(&desk, |_| true) };
        match file {
            PlatesFile::Layers => openraster(out, shelf.size, &layers, &painted, dark.as_ref(), &mut load, &mut step),
            PlatesFile::Masks => {
                let weights: Vec<f64> = factors.iter().map(|f| f[1]).collect();
                let lightest = winners(&shelf.refs(), shelf.dark(), &weights).masks(n);
                let lightest = Soft { blocks, each: lightest.into_iter().map(Some).collect() };
                masks(out, shelf.size, &layers, [&painted, &lightest], dark.as_ref(), &mut load, &mut step)
            }
        }
    };
    write_file(app, [id, owner, case], hold, write).await
}

/// The picture of a case's set; the same for the same set wherever it is made.
async fn picture(app: &App, id: Uuid, case: Uuid, side: u32, samples: u32, hold: &Hold) -> Answer<()> {
    let mut set = newest_set(app, case).await?.1;
    let k = f64::from(side) / f64::from(set.picture.width.max(set.picture.height));
    set.picture.width = (f64::from(set.picture.width) * k).round().max(8.0) as u32;
    set.picture.height = (f64::from(set.picture.height) * k).round().max(8.0) as u32;
    set.picture.samples = samples;
    set.check().map_err(Problem::bad)?;
    let hold = hold.clone();
    let png = app
        .work
        .run(Pace::Heavy, move || -> Result<Option<Vec<u8>>, String> {
            let of = f64::from(samples.next_power_of_two());
            let progress = |p: &studio::Progress| hold.tell(f64::from(p.samples) / of);
            let Some(plates) = studio::trace(&set, &mut PlateCache::default(), &hold.stop, progress) else {
                return Ok(None);
            };
            let rgb = studio::encode(&studio::mix(&set, &plates)?, &set.picture);
            pictures::encode_png(set.picture.width, set.picture.height, rgb).map(Some).map_err(|e| e.to_string())
        })
        .await?
        .map_err(Problem::bad)?;
    if let Some(png) = png {
        app.store.put_result(id, png).await?;
    }
    Ok(())
}

/// Reads what the present core has not read yet.
async fn readings(app: &App, owner: Uuid, case: Uuid, hold: &Hold) -> Answer<()> {
    let frames: Vec<Uuid> = sqlx::query_scalar("select id from frames where case_id = $1 order by created_at")
        .bind(case)
        .fetch_all(&app.pool)
        .await?;
    for (i, frame) in frames.iter().enumerate() {
        if hold.stop.load(Ordering::Relaxed) {
            break;
        }
        let f = owned(app, owner, *frame).await?;
        newest(app, &f.hash, *frame).await?;
        hold.tell((i + 1) as f64 / frames.len() as f64);
    }
    Ok(())
}
