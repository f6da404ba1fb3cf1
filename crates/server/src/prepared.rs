//! A decoded picture, kept in memory while it is worked on.

use evidence::read::Memory;
use lru::LruCache;
use optics::photo::Samples;
use session::Opened;
use std::num::NonZeroUsize;
use std::sync::{Arc, Mutex};
use uuid::Uuid;

/// A decoded picture with its meter, kept while it is worked on.
pub struct Prepared {
    /// Picture, meter, facts.
    pub opened: Opened,
    /// What was read of its marks while they are dragged, by account and frame.
    pub memories: Mutex<LruCache<(Uuid, Uuid), Arc<Mutex<Memory>>>>,
}

/// People who drag marks on one picture at once.
const MEMORIES: NonZeroUsize = NonZeroUsize::new(8).unwrap();

/// Meters a decoded picture and keeps room for what is read of it.
pub(crate) fn prepared_of(d: pictures::Decoded) -> Arc<Prepared> {
    Arc::new(Prepared { opened: d.into(), memories: Mutex::new(LruCache::new(MEMORIES)) })
}

impl Prepared {
    /// Bytes its samples take.
    pub(crate) fn bytes(&self) -> usize {
        let each = match self.photo.samples() {
            Samples::U8(_) => 1,
            Samples::U16(_) => 2,
            Samples::Linear(_) => 4,
        };
        3 * each * self.photo.width() as usize * self.photo.height() as usize
    }
}

impl std::ops::Deref for Prepared {
    type Target = Opened;

    fn deref(&self) -> &Opened {
        &self.opened
    }
}
