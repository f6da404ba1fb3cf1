//! Groups of a class: students who hand in together.

use super::classes::{audit, must_teach, seat_in};
use crate::App;
use crate::problem::{Answer, Problem};
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use utoipa::ToSchema;
use uuid::Uuid;

/// Groups of a class at most.
const MOST_GROUPS: usize = 200;

/// A group.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Group {
    /// Name.
    pub name: String,
    /// Accounts of its members.
    pub members: Vec<Uuid>,
}

/// The groups of a class: all for those who teach, one's own for a student.
pub(crate) async fn groups(app: &App, me: Uuid, class: Uuid) -> Answer<Vec<Group>> {
    let teaches = seat_in(app, me, class).await?.teaches();
    let rows: Vec<(String, Uuid)> = sqlx::query_as(
        "select name, account_id from class_groups g where class_id = $1 and ($2 or exists (
             select 1 from class_groups o where o.class_id = $1 and o.name = g.name and o.account_id = $3)) order by name, account_id",
    )
    .bind(class)
    .bind(teaches)
    .bind(me)
    .fetch_all(&app.pool)
    .await?;
    let mut all: BTreeMap<String, Vec<Uuid>> = BTreeMap::new();
    for (name, member) in rows {
        all.entry(name).or_default().push(member);
    }
    Ok(all.into_iter().map(|(name, members)| Group { name, members }).collect())
}

/// Sets all groups of a class anew. What was handed in stays with the group's name.
pub(crate) async fn set_groups(app: &App, me: Uuid, class: Uuid, groups: &[Group]) -> Answer<()> {
    must_teach(app, me, class).await?;
    if groups.len() > MOST_GROUPS {
        return Err(Problem::bad(format!("groups: expected at most {MOST_GROUPS}")));
    }
    let students: Vec<Uuid> =
        sqlx::query_scalar("select account_id from class_members where class_id = $1 and seat = 'student'")
            .bind(class)
            .fetch_all(&app.pool)
            .await?;
    let (mut names, mut members) = (Vec::new(), Vec::new());
    for (i, g) in groups.iter().enumerate() {
        let name = g.name.trim();
        if name.is_empty() || name.chars().count() > 60 || groups[..i].iter().any(|o| o.name.trim() == name) {
            return Err(Problem::bad(format!("groups[{i}].name: expected a name of its own of 1 to 60 characters")));
        }
        for m in &g.members {
            if !students.contains(m) {
                return Err(Problem::bad(format!("groups[{i}].members: {m} is no student of this class")));
            }
            if members.contains(m) {
                return Err(Problem::bad(format!("groups[{i}].members: {m} is in two groups")));
            }
            names.push(name.to_owned());
            members.push(*m);
        }
    }
    let mut tx = app.pool.begin().await?;
    sqlx::query("delete from class_groups where class_id = $1").bind(class).execute(&mut *tx).await?;
    sqlx::query("insert into class_groups (class_id, account_id, name) select $1, m, n from unnest($2::uuid[], $3::text[]) as t (m, n)")
        .bind(class)
        .bind(&members)
        .bind(&names)
        .execute(&mut *tx)
        .await?;
    tx.commit().await?;
    audit(app, class, me, "set the groups", serde_json::json!({"groups": groups.len()})).await
}

/// The group somebody hands in with.
pub(crate) async fn group_of(app: &App, class: Uuid, account: Uuid) -> Answer<Option<String>> {
    Ok(sqlx::query_scalar("select name from class_groups where class_id = $1 and account_id = $2")
        .bind(class)
        .bind(account)
        .fetch_optional(&app.pool)
        .await?)
}
