//! Removes what belongs to nothing any more: pictures without a frame, results of old jobs.

use crate::App;
use std::time::Duration;

/// Files this young may belong to an upload that is under way, here or at another server: its row follows its files.
const UNDER_WAY: Duration = Duration::from_secs(3600);

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

/// Removes one picture if no frame, submission, assignment or live round points at it and it is not young; says whether it did.
///
/// # Errors
/// If the database or the store fails.
pub async fn sweep(app: &App, hash: &str) -> anyhow::Result<bool> {
    let used: bool = sqlx::query_scalar(
        "select exists (select 1 from frames where file_hash = $1)
             or exists (select 1 from submissions where file_hash = $1)
             or exists (select 1 from assignments where reference_hash = $1)
             or exists (select 1 from round_pictures where file_hash = $1)",
    )
    .bind(hash)
    .fetch_one(&app.pool)
    .await?;
    Ok(!used && app.store.remove_older(hash, UNDER_WAY).await?)
}

/// How often orphans are looked for.
const SWEEP_EVERY: Duration = Duration::from_secs(1800);

/// Sweeps until the server stops.
pub async fn keep_swept(app: App) {
    loop {
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
