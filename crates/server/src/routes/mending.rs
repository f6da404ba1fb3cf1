//! What to change first in a picture, worked out once for a picture with its marks, brief and set.

use crate::App;
use crate::problem::{Answer, Problem};
use crate::records::frames::Owned;
use crate::records::verdicts::Judged;
use crate::routes::sets::staged_of;
use crate::work::Pace;
use adviser::{Mend, mends};
use lightset::set::LightSet;
use sha2::{Digest, Sha256};
use std::sync::Arc;
use uuid::Uuid;

/// A verdict with the set that its reading makes likely, under the name its changes are kept by.
pub(crate) struct Mending {
    pub set: LightSet,
    size_px: [u32; 2],
    key: String,
}

impl Mending {
    pub async fn of(app: &App, f: &Owned, id: Uuid, j: &Judged) -> Answer<Mending> {
        let set = staged_of(app, f, id, &j.marked).await?;
        let facts = &app.prepared(&f.hash).await?.facts;
        let size_px = [facts.width, facts.height];
        let text = serde_json::to_string(&(&f.hash, &j.marked.marks, &j.marked.readings, &j.brief, &j.series, &set))
            .map_err(Problem::internal)?;
        let key = Sha256::digest(text).iter().map(|b| format!("{b:02x}")).collect();
        Ok(Mending { set, size_px, key })
    }

    /// As it was worked out before.
    pub fn kept(&self, app: &App) -> Option<Arc<Vec<Mend>>> {
        app.mends(&self.key)
    }

    /// Works it out; what was broken off is not kept. To be called where there is time for it.
    pub fn work_out(
        &self,
        app: &App,
        j: &Judged,
        told: &mut dyn FnMut(&Mend) -> bool,
    ) -> Result<Arc<Vec<Mend>>, String> {
        let mut whole = true;
        let mut tell = |m: &Mend| {
            let on = told(m);
            whole &= on;
            on
        };
        let m = &j.marked;
        let all = Arc::new(mends(
            &m.readings,
            &m.marks,
            &j.brief,
            &self.set,
            Some(self.size_px),
            j.series.as_ref(),
            &mut tell,
        )?);
        if whole {
            app.keep_mends(self.key.clone(), all.clone());
        }
        Ok(all)
    }
}

/// What to change first, kept or worked out now; nothing where the set cannot be metered.
pub(crate) async fn mends_of(app: &App, f: &Owned, id: Uuid, j: Judged) -> Answer<(Judged, Mending, Arc<Vec<Mend>>)> {
    let m = Mending::of(app, f, id, &j).await?;
    if let Some(kept) = m.kept(app) {
        return Ok((j, m, kept));
    }
    let own = app.clone();
    let work = move || {
        let all = m.work_out(&own, &j, &mut |_| true).unwrap_or_default();
        (j, m, all)
    };
    app.work.run(Pace::Heavy, work).await
}
