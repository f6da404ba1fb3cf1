//! Tries to sign in: counted in the database, so that all servers count together.

use crate::App;
use crate::problem::{Answer, Problem};
use sha2::{Digest, Sha256};

/// Sign-ins within the time below, for one address.
pub(crate) const SIGN_INS: i64 = 10;
/// Accounts made within it, by everyone.
pub(crate) const SIGN_UPS: i64 = 120;
/// Seconds in which tries are counted.
const WITHIN_S: f64 = 60.0;
/// Longest address there is (RFC 5321, section 4.5.3.1.3, with a local part and a domain): longer ones are refused unread.
pub(crate) const LONGEST_ADDRESS: usize = 254;

/// One more try for an address: refused if there were too many. What is kept is a digest of fixed length.
pub(crate) async fn allow(app: &App, what: &str, most: i64) -> Answer<()> {
    let key: Vec<u8> = Sha256::digest(what.trim().to_lowercase()).to_vec();
    let tries: i64 = sqlx::query_scalar(
        "with gone as (delete from tries where at < now() - make_interval(secs => $2)),
              one as (insert into tries (key) values ($1))
         select count(*) from tries where key = $1 and at > now() - make_interval(secs => $2)",
    )
    .bind(&key)
    .bind(WITHIN_S)
    .fetch_one(&app.pool)
    .await?;
    // those before this one
    if tries < most { Ok(()) } else { Err(Problem::slow_down()) }
}
