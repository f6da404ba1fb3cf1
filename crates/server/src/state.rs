//! What all handlers share.

use crate::Config;
use crate::live::Live;
use crate::prepared::Prepared;
use crate::problem::Problem;
use crate::store::Store;
use crate::work::{Pace, Work};
use adviser::Mend;
use judging::compare::{Alignment, DifferenceMap};
use lightset::meter::SetMeter;
use lightset::set::LightSet;
use lru::LruCache;
use plates::light::Light;
use series::Shown;
use session::{Relightable, laid_over};
use sqlx::PgPool;
use sqlx::postgres::PgPoolOptions;
use std::num::NonZeroUsize;
use std::sync::{Arc, Mutex};
use studio::PlateCache;
use uuid::Uuid;

/// Shared state; cheap to clone.
#[derive(Clone)]
pub struct App {
    /// Database.
    pub pool: PgPool,
    /// Pictures.
    pub store: Store,
    decoded: Arc<Mutex<LruCache<String, Arc<Prepared>>>>,
    /// Plates of the sets people are moving about, by account and case.
    plates: Arc<Mutex<LruCache<(Uuid, Uuid), Arc<Mutex<PlateCache>>>>>,
    /// Where references lie in takes, by the hashes of both.
    lies: Arc<Mutex<LruCache<(String, String), Lies>>>,
    /// Maps of differences, by both pictures and what they are read through.
    maps: Arc<Mutex<LruCache<String, Arc<DifferenceMap>>>>,
    /// References made ready to be relit, by case, marks and set.
    relightable: Arc<Mutex<LruCache<String, Arc<Relightable>>>>,
    /// What sets give, by their text: a chain of takes asks for many again and again.
    meters: Arc<Mutex<LruCache<String, SetMeter>>>,
    /// Linear light of plates in blocks, by picture and what it is read through.
    lights: Arc<Mutex<LruCache<String, Lit>>>,
    /// What pictures of series show, by picture, marks and curve.
    shown: Arc<Mutex<LruCache<String, Arc<Shown>>>>,
    /// What to change first in pictures, by picture, marks, brief and set.
    mends: Arc<Mutex<LruCache<String, Arc<Vec<Mend>>>>>,
    /// Places for heavy work.
    pub(crate) work: Work,
    /// Who watches live rounds.
    pub(crate) live: Live,
    /// Program that decodes pictures apart; without one all are decoded here.
    pub(crate) decoder: Option<std::path::PathBuf>,
    /// Folder whose folders are watched for takes.
    pub tether: Option<Arc<std::path::PathBuf>>,
}

/// Where a reference lies in a take, or why that cannot be told.
type Lies = Arc<Result<Alignment, String>>;

/// The light of a plate with its size in pixels.
pub(crate) type Lit = (Arc<Light>, (u32, u32));

/// Alignments kept: a few numbers each.
const LAID: NonZeroUsize = NonZeroUsize::new(256).unwrap();

/// Maps of differences kept: a few megabytes each.
const MAPPED: NonZeroUsize = NonZeroUsize::new(4).unwrap();

/// Meter readings of sets kept: a few kilobytes each.
const METERED: NonZeroUsize = NonZeroUsize::new(1024).unwrap();

/// Plates kept: four megabytes each at the most.
const LIT: NonZeroUsize = NonZeroUsize::new(44).unwrap();

/// Pictures of series whose measures are kept: a few numbers each.
const SHOWN: NonZeroUsize = NonZeroUsize::new(512).unwrap();

/// Verdicts whose changes are kept: some ten kilobytes each.
const MENDED: NonZeroUsize = NonZeroUsize::new(256).unwrap();

/// References ready to be relit: some six megabytes each.
const RELIT: NonZeroUsize = NonZeroUsize::new(6).unwrap();

/// Decoded pictures kept in memory, and the bytes they may take together: four of 24 megapixels.
const KEPT: NonZeroUsize = NonZeroUsize::new(24).unwrap();
const DECODED_BYTES: usize = 300_000_000;

/// Sets whose plates are kept, and the bytes each may take: a preview's plate is 2 to 4 MB.
const STAGES: NonZeroUsize = NonZeroUsize::new(4).unwrap();
const STAGE_BYTES: usize = 40 << 20;

impl App {
    /// The plates of the set that a person moves about in a case.
    pub fn plates_of(&self, account: Uuid, case: Uuid) -> Arc<Mutex<PlateCache>> {
        let fresh = || Arc::new(Mutex::new(PlateCache::new(STAGE_BYTES)));
        match self.plates.lock() {
            Ok(mut all) => all.get_or_insert((account, case), fresh).clone(),
            Err(_) => fresh(),
        }
    }

    /// Connects and migrates.
    ///
    /// # Errors
    /// If the database or the store cannot be reached.
    pub async fn connect(config: &Config) -> anyhow::Result<Self> {
        let pool = PgPoolOptions::new()
            .max_connections(16)
            .acquire_timeout(std::time::Duration::from_secs(5))
            .connect(&config.database_url)
            .await
            .map_err(|e| anyhow::anyhow!("cannot reach the database: {e}"))?;
        sqlx::migrate!("../../migrations").run(&pool).await?;
        Ok(App {
            pool,
            store: Store::at(&config.store)?,
            decoded: Arc::new(Mutex::new(LruCache::new(KEPT))),
            plates: Arc::new(Mutex::new(LruCache::new(STAGES))),
            lies: Arc::new(Mutex::new(LruCache::new(LAID))),
            maps: Arc::new(Mutex::new(LruCache::new(MAPPED))),
            relightable: Arc::new(Mutex::new(LruCache::new(RELIT))),
            meters: Arc::new(Mutex::new(LruCache::new(METERED))),
            lights: Arc::new(Mutex::new(LruCache::new(LIT))),
            shown: Arc::new(Mutex::new(LruCache::new(SHOWN))),
            mends: Arc::new(Mutex::new(LruCache::new(MENDED))),
            work: Work::default(),
            live: Live::default(),
            decoder: config.decoder.clone(),
            tether: config.tether.clone().map(Arc::new),
        })
    }

    /// A reference that was made ready to be relit.
    pub(crate) fn relightable(&self, key: &str) -> Option<Arc<Relightable>> {
        self.relightable.lock().ok()?.get(key).cloned()
    }

    /// Keeps a reference that was made ready to be relit.
    pub(crate) fn keep_relightable(&self, key: String, ready: Arc<Relightable>) {
        if let Ok(mut all) = self.relightable.lock() {
            all.put(key, ready);
        }
    }

    /// The light of a plate as kept.
    pub(crate) fn light(&self, key: &str) -> Option<Lit> {
        self.lights.lock().ok()?.get(key).cloned()
    }

    /// Keeps the light of a plate.
    pub(crate) fn keep_light(&self, key: String, light: Lit) {
        if let Ok(mut all) = self.lights.lock() {
            all.put(key, light);
        }
    }

    /// What to change first in a picture, if it was worked out before.
    pub(crate) fn mends(&self, key: &str) -> Option<Arc<Vec<Mend>>> {
        self.mends.lock().ok()?.get(key).cloned()
    }

    /// Keeps what to change first in a picture.
    pub(crate) fn keep_mends(&self, key: String, mends: Arc<Vec<Mend>>) {
        if let Ok(mut all) = self.mends.lock() {
            all.put(key, mends);
        }
    }

    /// What a picture of a series shows, as kept.
    pub(crate) fn shown(&self, key: &str) -> Option<Arc<Shown>> {
        self.shown.lock().ok()?.get(key).cloned()
    }

    /// Keeps what a picture of a series shows.
    pub(crate) fn keep_shown(&self, key: String, shown: Arc<Shown>) {
        if let Ok(mut all) = self.shown.lock() {
            all.put(key, shown);
        }
    }

    /// What a set gives at its subject, as kept or worked out now.
    pub fn meter(&self, set: &LightSet) -> Option<SetMeter> {
        let key = serde_json::to_string(set).ok()?;
        if let Some(m) = self.meters.lock().ok().and_then(|mut c| c.get(&key).cloned()) {
            return Some(m);
        }
        let found = studio::meter(set).ok()?;
        if let Ok(mut cache) = self.meters.lock() {
            cache.put(key, found.clone());
        }
        Some(found)
    }

    /// Keeps a picture that was just opened; the ones that were not asked for longest go when all are too large together.
    pub fn remember(&self, hash: &str, prepared: Arc<Prepared>) {
        let Ok(mut cache) = self.decoded.lock() else { return };
        if prepared.bytes() > DECODED_BYTES {
            return;
        }
        cache.put(hash.to_owned(), prepared);
        while cache.iter().map(|(_, p)| p.bytes()).sum::<usize>() > DECODED_BYTES {
            cache.pop_lru();
        }
    }

    /// Where a reference lies in a take, as kept or worked out now.
    pub async fn lies(&self, reference: &str, take: &str) -> Result<Lies, Problem> {
        let key = (reference.to_owned(), take.to_owned());
        if let Some(l) = self.lies.lock().ok().and_then(|mut c| c.get(&key).cloned()) {
            return Ok(l);
        }
        let photos = (self.prepared(reference).await?, self.prepared(take).await?);
        let found = self.work.run(Pace::Heavy, move || laid_over(&photos.0.photo, &photos.1.photo)).await?;
        let found = Arc::new(found);
        if let Ok(mut cache) = self.lies.lock() {
            cache.put(key, found.clone());
        }
        Ok(found)
    }

    /// A map of differences as kept under a name, or worked out now.
    pub async fn map(
        &self,
        name: String,
        work: impl FnOnce() -> DifferenceMap + Send + 'static,
    ) -> Result<Arc<DifferenceMap>, Problem> {
        if let Some(m) = self.maps.lock().ok().and_then(|mut c| c.get(&name).cloned()) {
            return Ok(m);
        }
        let found = Arc::new(self.work.run(Pace::Heavy, work).await?);
        if let Ok(mut cache) = self.maps.lock() {
            cache.put(name, found.clone());
        }
        Ok(found)
    }

    /// The decoded picture with this hash, from memory or the store.
    pub async fn prepared(&self, hash: &str) -> Result<Arc<Prepared>, Problem> {
        if let Some(p) = self.decoded.lock().ok().and_then(|mut c| c.get(hash).cloned()) {
            return Ok(p);
        }
        let bytes = Arc::new(self.store.get(hash, "original").await?.to_vec());
        let prepared = crate::opening::open(self, bytes).await?;
        self.remember(hash, prepared.clone());
        Ok(prepared)
    }
}
