//! The plates of a case: its desk, and the linear light of each of its pictures.

use super::cases::{curve_of_frame, load};
use super::frames::owned;
use super::marks::{newest as newest_marks, told};
use super::versioned::{DESKS, newest};
use crate::App;
use crate::problem::{Answer, Problem};
use crate::state::Lit;
use crate::work::Pace;
use evidence::marks::Marks;
use optics::exposure::Settings;
use optics::photo::Photo;
use plates::desk::{Desk, DeskPlate, Exposed, exposed};
use plates::light::{Light, SHELF_SIDE, cell_of, same_size};
use plates::mask::painted;
use plates::merge::winners;
use plates::register::Lies;
use sqlx::types::Json as Jsonb;
use std::sync::Arc;
use uuid::Uuid;

/// The desk of a case with its version: as saved, or its frames that are plates; frames that are gone have left it, and new plates
/// have come to it.
pub(crate) async fn desk_of(app: &App, me: Uuid, case: Uuid) -> Answer<(i64, Desk)> {
    let (version, mut desk) = newest::<Desk>(app, DESKS, case).await?.unwrap_or_default();
    let frames = load(app, me, case).await?.frames;
    let here = |id: &String| frames.iter().any(|f| f.id.to_string() == *id);
    desk.plates.retain(|p| here(&p.frame));
    desk.dark = desk.dark.filter(here);
    desk.all_on = desk.all_on.filter(here);
    for f in frames.iter().filter(|f| f.role == "plate") {
        let id = f.id.to_string();
        let known =
            desk.plates.iter().any(|p| p.frame == id) || [&desk.dark, &desk.all_on].contains(&&Some(id.clone()));
        if known || desk.plates.len() >= plates::light::MOST_PLATES {
            continue;
        }
        let name = f.file_name.rsplit_once('.').map_or(f.file_name.as_str(), |(n, _)| n);
        let words: String = name.replace(['_', '-'], " ").chars().take(60).collect();
        let is = |word: &str| words.to_lowercase().split_whitespace().any(|w| w == word);
        // a name says what a picture is, if nothing else does
        if desk.dark.is_none() && (is("dark") || is("off")) {
            desk.dark = Some(id);
        } else if desk.all_on.is_none() && is("all") {
            desk.all_on = Some(id);
        } else {
            let name = if words.trim().is_empty() { format!("plate {}", desk.plates.len() + 1) } else { words };
            desk.plates.push(DeskPlate {
                frame: id,
                name,
                lamp: String::new(),
                stops: 0.0,
                mired: 0.0,
                mute: false,
                solo: false,
                mask: None,
            });
        }
    }
    Ok((version, desk))
}

/// What brings each picture of a desk to one exposure.
pub(crate) struct Gains {
    /// Pictures that were exposed otherwise.
    pub exposed: Vec<Exposed>,
    /// How long the others were exposed, where that is known.
    pub shutter_s: Option<f64>,
    as_taken: bool,
}

impl Gains {
    /// Of a desk, by the settings of its pictures, as entered or in their files.
    pub(crate) async fn of(app: &App, me: Uuid, case: Uuid, desk: &Desk) -> Answer<Gains> {
        let frames = load(app, me, case).await?.frames;
        let entered: Vec<(Uuid, Option<Jsonb<Option<Settings>>>)> = sqlx::query_as(
            "select distinct on (frame_id) frame_id, body -> 'exposure' from marks
             where frame_id in (select id from frames where case_id = $1) order by frame_id, version desc",
        )
        .bind(case)
        .fetch_all(&app.pool)
        .await?;
        // what a person entered counts before what the file says
        let settings = |id: &str| {
            let own = entered.iter().find(|e| e.0.to_string() == id).and_then(|e| e.1.as_ref().and_then(|s| s.0));
            own.or_else(|| frames.iter().find(|f| f.id.to_string() == id).and_then(|f| f.facts.settings))
        };
        let exposed = exposed(desk, settings);
        let usual = desk.plates.iter().find(|p| !exposed.iter().any(|e| e.frame == p.frame));
        let shutter_s = usual.and_then(|p| settings(&p.frame)).map(|s| s.shutter_s);
        Ok(Gains { exposed, shutter_s, as_taken: desk.as_taken })
    }

    /// Factor on the light of a picture.
    pub(crate) fn on(&self, frame: Uuid) -> f32 {
        let id = frame.to_string();
        let over = self.exposed.iter().filter(|_| !self.as_taken).find(|e| e.frame == id);
        over.map_or(1.0, |e| (-e.stops).exp2() as f32)
    }

    /// A picture's light at the common exposure.
    pub(crate) fn lit(&self, frame: Uuid, light: Arc<Light>) -> Arc<Light> {
        match self.on(frame) {
            1.0 => light,
            gain => Arc::new(light.exposed(gain)),
        }
    }

    /// What is undone, in sentences.
    pub(crate) fn says(&self, desk: &Desk) -> Vec<String> {
        let name = |frame: &str| match desk.plates.iter().find(|p| p.frame == frame) {
            Some(p) => p.name.clone(),
            None if desk.dark.as_deref() == Some(frame) => "The dark frame".into(),
            None => "The picture with all lights on".into(),
        };
        let ends = if self.as_taken { "it counts as it was taken" } else { "that is undone" };
        let one = |e: &Exposed| {
            format!("{} was exposed {:+.1} stops against the others, by its settings: {ends}.", name(&e.frame), e.stops)
        };
        self.exposed.iter().map(one).collect()
    }
}

/// The linear light of the pictures on a desk.
pub(crate) struct Shelf {
    pub plates: Vec<Arc<Light>>,
    pub dark: Option<Arc<Light>>,
    pub all_on: Option<Arc<Light>>,
    /// Pixels of each.
    pub size: (u32, u32),
    /// Frames of the plates.
    pub frames: Vec<Uuid>,
    /// What brought them to one exposure.
    pub gains: Gains,
}

impl Shelf {
    pub(crate) fn refs(&self) -> Vec<&Light> {
        self.plates.iter().map(AsRef::as_ref).collect()
    }

    pub(crate) fn dark(&self) -> Option<&Light> {
        self.dark.as_deref()
    }

    /// Where plates count by the masks on their desk, in blocks; of those that are `wanted`.
    pub(crate) fn masks(&self, desk: &Desk, wanted: impl Fn(usize) -> bool) -> Vec<Option<Vec<f32>>> {
        let size = self.plates.first().map_or((0, 0), |p| (p.width, p.height));
        let weights: Vec<f64> = desk.factors().iter().map(|f| f[1]).collect();
        let masks: Vec<_> = desk.masks().into_iter().enumerate().map(|(k, m)| m.filter(|_| wanted(k))).collect();
        painted(&masks, size, || winners(&self.refs(), self.dark(), &weights))
    }

    /// The same plates as far as they count.
    pub(crate) fn masked(&self, desk: &Desk) -> Vec<Arc<Light>> {
        let of = |(p, m): (&Arc<Light>, Option<Vec<f32>>)| match m {
            Some(m) => Arc::new(p.masked(&m, self.dark())),
            None => p.clone(),
        };
        self.plates.iter().zip(self.masks(desk, |_| true)).map(of).collect()
    }
}

pub(crate) fn id_of(text: &str) -> Answer<Uuid> {
    text.parse().map_err(|_| Problem::bad(format!("\"{text}\" is not a picture of this case")))
}

/// A picture of a case as it stands in the store, and what it is read through.
struct Kept {
    hash: String,
    marks: Marks,
    /// The same as a name for what is made of it.
    key: String,
}

async fn kept(app: &App, me: Uuid, case: Uuid, frame: Uuid) -> Answer<Kept> {
    let f = owned(app, me, frame).await?;
    if f.case_id != case {
        return Err(Problem::bad("Plates are pictures of their own case."));
    }
    let marks = newest_marks(app, &f.hash, frame).await?.marks;
    let curve = curve_of_frame(app, frame).await?;
    let through = serde_json::to_string(&(&marks.encoding, &curve)).map_err(Problem::internal)?;
    Ok(Kept { key: format!("{} {through}", f.hash), hash: f.hash, marks })
}

/// A picture of a case as it is read: through its case's curve or its own marks.
pub(crate) async fn photo_of(app: &App, me: Uuid, case: Uuid, frame: Uuid) -> Answer<Photo> {
    let kept = kept(app, me, case, frame).await?;
    opened(app, frame, &kept).await
}

async fn opened(app: &App, frame: Uuid, kept: &Kept) -> Answer<Photo> {
    let prepared = app.prepared(&kept.hash).await?;
    let marks = told(app, frame, &prepared, &kept.marks).await?;
    Ok(session::as_read(&prepared.photo, &marks))
}

/// The light of one picture with its size in pixels, as kept or worked out now: a picture whose light is kept is not opened.
pub(crate) async fn light_of(app: &App, me: Uuid, case: Uuid, frame: Uuid) -> Answer<Lit> {
    let kept = kept(app, me, case, frame).await?;
    if let Some(lit) = app.light(&kept.key) {
        return Ok(lit);
    }
    let photo = opened(app, frame, &kept).await?;
    let size = (photo.width(), photo.height());
    let cell = cell_of(size.0, size.1, SHELF_SIDE);
    let made = app.work.run(Pace::Heavy, move || Light::of(&photo, cell)).await?;
    let lit = (Arc::new(made), size);
    app.keep_light(kept.key, lit.clone());
    Ok(lit)
}

/// The light of all pictures on a desk; all of one size.
pub(crate) async fn shelf(app: &App, me: Uuid, case: Uuid, desk: &Desk) -> Answer<Shelf> {
    if desk.plates.is_empty() {
        return Err(Problem::bad("There is no plate yet: send pictures with one lamp each."));
    }
    let gains = Gains::of(app, me, case, desk).await?;
    let mut sizes = Vec::new();
    let mut plates = Vec::new();
    let mut frames = Vec::new();
    for p in &desk.plates {
        let id = id_of(&p.frame)?;
        let (light, size) = light_of(app, me, case, id).await?;
        sizes.push((p.name.clone(), size));
        plates.push(gains.lit(id, light));
        frames.push(id);
    }
    let mut others = [None, None];
    for (slot, (name, id)) in
        others.iter_mut().zip([("The dark frame", &desk.dark), ("The picture with all lights on", &desk.all_on)])
    {
        if let Some(id) = id {
            let id = id_of(id)?;
            let (light, size) = light_of(app, me, case, id).await?;
            sizes.push((name.into(), size));
            *slot = Some(gains.lit(id, light));
        }
    }
    same_size(&sizes).map_err(Problem::bad)?;
    let [dark, all_on] = others;
    Ok(Shelf { plates, dark, all_on, size: sizes[0].1, frames, gains })
}

/// The same with those plates put back that lie beside where they should.
pub(crate) async fn put_back(app: &App, me: Uuid, case: Uuid, shelf: &mut Shelf, lies: &[Option<Lies>]) -> Answer<()> {
    for (k, l) in lies.iter().enumerate().filter_map(|(k, l)| l.filter(Lies::moved).map(|l| (k, l))) {
        let photo = photo_of(app, me, case, shelf.frames[k]).await?;
        let cell = shelf.plates[k].cell;
        let back = app.work.run(Pace::Heavy, move || l.back(&photo, cell)).await?;
        shelf.plates[k] = shelf.gains.lit(shelf.frames[k], Arc::new(back));
    }
    Ok(())
}
