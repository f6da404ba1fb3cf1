//! Pictures in the store: whether anything points at one still.

use crate::App;
use std::time::Duration;

/// Files this young may belong to an upload that is under way, here or at another server: its row follows its files.
const UNDER_WAY: Duration = Duration::from_secs(3600);

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
