//! Who watches live rounds: PostgreSQL tells every server what changed, each tells its own watchers.

use sqlx::postgres::{PgListener, PgPool};
use std::collections::HashMap;
use std::sync::{Arc, Mutex};
use std::time::Duration;
use tokio::sync::watch;
use uuid::Uuid;

/// The channel of the database.
pub(crate) const CHANNEL: &str = "rounds";

/// How often a round changed since this server began to watch.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub(crate) struct Changes {
    /// Its stage, picture or settings.
    pub stage: u64,
    /// A place, or who is in it.
    pub guesses: u64,
}

/// Watched rounds; cheap to clone.
#[derive(Clone, Default)]
pub(crate) struct Live(Arc<Mutex<Watched>>);

#[derive(Default)]
struct Watched {
    rounds: HashMap<Uuid, watch::Sender<Changes>>,
    closed: bool,
}

/// Watchers of one round at one server: phones of a large class, each twice; and room beside them for the wall.
pub(crate) const MOST_PHONES: usize = 700;
pub(crate) const MOST_WATCHERS: usize = 800;

impl Live {
    /// Watches a round; `None` if `most` do already, or the server stops.
    pub(crate) fn watch(&self, round: Uuid, most: usize) -> Option<watch::Receiver<Changes>> {
        let mut all = self.0.lock().ok()?;
        if all.closed {
            return None;
        }
        all.rounds.retain(|_, s| s.receiver_count() > 0);
        let sender = all.rounds.entry(round).or_insert_with(|| watch::Sender::new(Changes::default()));
        (sender.receiver_count() < most).then(|| sender.subscribe())
    }

    fn tell(&self, round: Option<Uuid>, stage: bool) {
        let Ok(all) = self.0.lock() else { return };
        let count = |c: &mut Changes| {
            c.guesses += 1;
            c.stage += u64::from(stage);
        };
        match round {
            Some(id) => all.rounds.get(&id).into_iter().for_each(|s| s.send_modify(count)),
            None => all.rounds.values().for_each(|s| s.send_modify(count)),
        }
    }

    /// Ends all watching: the server stops.
    pub(crate) fn close(&self) {
        if let Ok(mut all) = self.0.lock() {
            all.closed = true;
            all.rounds.clear();
        }
    }

    /// Hears what the database tells, until the server stops.
    pub(crate) async fn hear(self, pool: PgPool) {
        loop {
            let heard = async {
                let mut listener = PgListener::connect_with(&pool).await?;
                listener.listen(CHANNEL).await?;
                // what was told before is not known
                self.tell(None, true);
                loop {
                    match listener.try_recv().await? {
                        Some(n) => {
                            let (kind, id) = n.payload().split_once(' ').unwrap_or_default();
                            if let Ok(id) = id.parse() {
                                self.tell(Some(id), kind == "s");
                            }
                        }
                        // the connection was lost and is there again
                        None => self.tell(None, true),
                    }
                }
                #[allow(unreachable_code)]
                Ok::<(), sqlx::Error>(())
            };
            if let Err(e) = heard.await {
                tracing::warn!("changes of live rounds are not heard: {e}");
                tokio::time::sleep(Duration::from_secs(2)).await;
            }
        }
    }
}
