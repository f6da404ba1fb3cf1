//! Heavy work: bounded in how much runs at once, how much waits, and how much memory it takes.
//!
//! Handlers never compute on the threads that answer. Quick work (a dragged mark, a meter) and heavy work (opening a
//! picture, candidates, a trace) have places of their own, so that lists and drags do not wait behind renders.

use crate::problem::{Answer, Problem};
use std::sync::Arc;
use std::sync::atomic::{AtomicUsize, Ordering};
use std::time::Duration;
use tokio::sync::{OwnedSemaphorePermit, Semaphore};

/// Pieces of heavy work that may wait for a place before new ones are turned away: at a second each a minute of waiting.
const MOST_WAITING: usize = 64;
/// Pieces of quick work: two classes of thirty with a dozen requests each.
const MOST_QUICK: usize = 800;
/// How long a piece of work waits for its place before it is turned away.
const LONGEST_WAIT: Duration = Duration::from_secs(60);
/// Megabytes for pictures that are being opened, all together: one of 120 megapixels, or a handful of usual ones.
pub(crate) const OPENING_MB: u32 = 560;
/// Megabytes of request bodies that are held at once: two of the largest that are taken.
pub(crate) const BODIES_MB: u32 = 170;
/// Passwords hashed at once: each takes 19 MB and most of a processor (argon2id, RFC 9106 second choice).
const HASHING: usize = 2;

/// How work is treated.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Pace {
    /// Someone's finger is on it.
    Quick,
    /// It may take a second or more.
    Heavy,
}

/// Places for work.
#[derive(Clone)]
pub(crate) struct Work {
    quick: Arc<Semaphore>,
    heavy: Arc<Semaphore>,
    hashing: Arc<Semaphore>,
    opening: Arc<Semaphore>,
    bodies: Arc<Semaphore>,
    waiting: Arc<AtomicUsize>,
    quick_waiting: Arc<AtomicUsize>,
}

impl Default for Work {
    fn default() -> Self {
        let places = std::thread::available_parallelism().map_or(2, usize::from).max(2);
        let of = |n: usize| Arc::new(Semaphore::new(n));
        Work {
            quick: of(places),
            heavy: of(places),
            hashing: of(HASHING),
            opening: of(OPENING_MB as usize),
            bodies: of(BODIES_MB as usize),
            waiting: Arc::default(),
            quick_waiting: Arc::default(),
        }
    }
}

/// Counts one that waits, until it is dropped.
struct Waiting(Arc<AtomicUsize>);

impl Drop for Waiting {
    fn drop(&mut self) {
        self.0.fetch_sub(1, Ordering::Relaxed);
    }
}

impl Work {
    async fn places(&self, of: &Arc<Semaphore>, many: u32) -> Answer<OwnedSemaphorePermit> {
        let quick = Arc::ptr_eq(of, &self.quick);
        let (waiting, most) = if quick { (&self.quick_waiting, MOST_QUICK) } else { (&self.waiting, MOST_WAITING) };
        let before = waiting.fetch_add(1, Ordering::Relaxed);
        let _waiting = Waiting(waiting.clone());
        if before >= most {
            return Err(Problem::busy());
        }
        match tokio::time::timeout(LONGEST_WAIT, of.clone().acquire_many_owned(many)).await {
            Ok(Ok(place)) => Ok(place),
            Ok(Err(e)) => Err(Problem::internal(e)),
            Err(_) => Err(Problem::busy()),
        }
    }

    /// Runs work on a thread of its own once there is a place. A request that goes away gives its place up; work that has
    /// begun is let finish, and keeps its place until then.
    pub(crate) async fn run<T: Send + 'static>(
        &self,
        pace: Pace,
        work: impl FnOnce() -> T + Send + 'static,
    ) -> Answer<T> {
        let place = self.places(if pace == Pace::Quick { &self.quick } else { &self.heavy }, 1).await?;
        Ok(tokio::task::spawn_blocking(move || {
            let done = work();
            drop(place);
            done
        })
        .await?)
    }

    /// Hashes or checks a password.
    pub(crate) async fn hash<T: Send + 'static>(&self, work: impl FnOnce() -> T + Send + 'static) -> Answer<T> {
        let place = self.places(&self.hashing, 1).await?;
        Ok(tokio::task::spawn_blocking(move || {
            let done = work();
            drop(place);
            done
        })
        .await?)
    }

    /// Memory to open a picture in; more than there is counts as all of it.
    pub(crate) async fn memory(&self, megabytes: u64) -> Answer<OwnedSemaphorePermit> {
        self.places(&self.opening, u32::try_from(megabytes).unwrap_or(OPENING_MB).clamp(1, OPENING_MB)).await
    }

    /// Memory for a request's body of so many bytes.
    pub(crate) async fn body(&self, bytes: u64) -> Answer<OwnedSemaphorePermit> {
        let megabytes = u32::try_from(bytes.div_ceil(1_000_000)).unwrap_or(BODIES_MB);
        self.places(&self.bodies, megabytes.clamp(1, BODIES_MB)).await
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[tokio::test(flavor = "multi_thread", worker_threads = 2)]
    async fn no_more_runs_at_once_than_there_are_places() {
        let work = Work::default();
        let (now, most) = (Arc::new(AtomicUsize::new(0)), Arc::new(AtomicUsize::new(0)));
        let one = || {
            let (work, now, most) = (work.clone(), now.clone(), most.clone());
            async move {
                work.hash(move || {
                    let n = now.fetch_add(1, Ordering::SeqCst) + 1;
                    most.fetch_max(n, Ordering::SeqCst);
                    std::thread::sleep(Duration::from_millis(20));
                    now.fetch_sub(1, Ordering::SeqCst);
                })
                .await
            }
        };
        let all: Vec<_> = (0..12).map(|_| tokio::spawn(one())).collect();
        for t in all {
            t.await.unwrap().unwrap();
        }
        assert_eq!(most.load(Ordering::SeqCst), HASHING);
    }

    #[tokio::test]
    async fn a_queue_that_is_full_turns_away() {
        let work = Work::default();
        let _held = work.memory(u64::MAX).await.unwrap();
        let waiting: Vec<_> = (0..MOST_WAITING)
            .map(|_| {
                let work = work.clone();
                tokio::spawn(async move { work.memory(1).await.map(drop) })
            })
            .collect();
        tokio::time::sleep(Duration::from_millis(50)).await;
        let turned = work.memory(1).await.expect_err("turned away");
        assert_eq!(turned.status, 503);
        // quick work does not wait behind it
        assert_eq!(work.run(Pace::Quick, || 7).await.unwrap(), 7);
        waiting.iter().for_each(tokio::task::JoinHandle::abort);
        tokio::time::sleep(Duration::from_millis(50)).await;
        // those that went away wait no longer
        assert_eq!(work.run(Pace::Heavy, || 8).await.unwrap(), 8);
    }
}
