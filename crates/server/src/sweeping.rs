//! Removes what belongs to nothing any more: pictures without a frame, results of old jobs.

use crate::App;
use crate::records::pictures::sweep;
use std::time::Duration;

/// Removes pictures no frame points at: left by an upload that was cut off, or by deleted cases.
/// Files come before rows, so a row never points at nothing; what is young is left alone.
///
/// # Errors
/// If the database or the store fails.
pub async fn sweep_orphans(app: &App) -> anyhow::Result<usize> {
    let mut swept = 0;
    for hash in app.store.hashes().await? {
        swept += usize::from(sweep(app, &hash).await?);
    }
    Ok(swept)
}

/// How often orphans are looked for.
const SWEEP_EVERY: Duration = Duration::from_secs(1800);

/// Sweeps until the server stops.
pub async fn keep_swept(app: App) {
    loop {
        if let Err(e) = crate::records::assignments::remind(&app).await {
            tracing::warn!("students were not told of dates that are near: {}", e.detail);
        }
        tokio::time::sleep(SWEEP_EVERY).await;
        if let Err(e) = crate::records::jobs::sweep(&app).await {
            tracing::warn!("old jobs were not removed: {e}");
        }
        if let Err(e) = crate::records::classes::sweep_notices(&app).await {
            tracing::warn!("old notices were not removed: {e}");
        }
        match crate::records::removal::sweep_classes(&app).await {
            Ok(0) => {}
            Ok(many) => tracing::info!(many, "took pictures away of classes that were laid aside long ago"),
            Err(e) => tracing::warn!("pictures of classes that were laid aside were not taken away: {}", e.detail),
        }
        if let Err(e) = crate::records::rounds::sweep_rounds(&app).await {
            tracing::warn!("old live rounds were not removed: {e}");
        }
        match sweep_orphans(&app).await {
            Ok(0) => {}
            Ok(swept) => tracing::info!(swept, "removed picture files that belong to no frame"),
            Err(e) => tracing::warn!("picture files that belong to no frame were not looked for: {e}"),
        }
    }
}
