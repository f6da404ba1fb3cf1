//! Drafts: what a student has begun to hand in. Kept until it is handed in; nobody else sees it.

use super::assignments::seen_by;
use super::classes::Seat;
use super::frames::owned;
use super::submissions::LONGEST;
use crate::App;
use crate::problem::{Answer, Problem};
use serde::{Deserialize, Serialize};
use time::OffsetDateTime;
use utoipa::ToSchema;
use uuid::Uuid;

/// What I have begun to hand in.
#[derive(Debug, Serialize, ToSchema, sqlx::FromRow)]
pub struct Draft {
    /// The picture, as long as it is there.
    pub frame: Option<Uuid>,
    /// Its case.
    pub case_id: Option<Uuid>,
    /// In my own words.
    pub paragraph: String,
    /// The people in it agreed that the class may see it.
    pub may_show: bool,
    /// Who is in it.
    pub who: String,
    /// When it was kept last.
    #[serde(with = "time::serde::rfc3339")]
    #[schema(value_type = String)]
    pub updated_at: OffsetDateTime,
}

/// A draft as it is to be kept.
#[derive(Debug, Deserialize, ToSchema)]
pub struct DraftEdit {
    /// A picture of a case of mine; absent while none is chosen.
    #[serde(default)]
    pub frame: Option<Uuid>,
    /// In my own words.
    #[serde(default)]
    pub paragraph: String,
    /// The people in it agreed that the class may see it.
    #[serde(default)]
    pub may_show: bool,
    /// Who is in it.
    #[serde(default)]
    pub who: String,
}

/// An assignment that I can still hand in for.
#[derive(Debug, Serialize, ToSchema, sqlx::FromRow)]
pub struct OpenAssignment {
    /// Id.
    pub id: Uuid,
    /// Title.
    pub title: String,
    /// Name of its class.
    pub class_name: String,
    /// By when.
    #[serde(with = "time::serde::rfc3339::option")]
    #[schema(value_type = Option<String>)]
    pub due: Option<OffsetDateTime>,
    /// The case of my draft.
    pub draft_case: Option<Uuid>,
    /// Something of mine was handed in.
    pub mine: bool,
}

/// My draft for an assignment.
pub(crate) async fn draft(app: &App, me: Uuid, assignment: Uuid) -> Answer<Option<Draft>> {
    Ok(sqlx::query_as(
        "select d.frame_id as frame, f.case_id, d.paragraph, d.may_show, d.who, d.updated_at
         from drafts d left join frames f on f.id = d.frame_id where d.assignment_id = $1 and d.account_id = $2",
    )
    .bind(assignment)
    .bind(me)
    .fetch_optional(&app.pool)
    .await?)
}

/// Keeps a draft.
pub(crate) async fn put_draft(app: &App, me: Uuid, assignment: Uuid, e: &DraftEdit) -> Answer<Draft> {
    let (_, seat) = seen_by(app, me, assignment).await?;
    if seat != Seat::Student {
        return Err(Problem::forbidden("Only students of the class hand in."));
    }
    if e.paragraph.chars().count() > LONGEST || e.who.chars().count() > 400 {
        return Err(Problem::bad(format!("The paragraph has room for {LONGEST} characters.")));
    }
    if let Some(frame) = e.frame {
        owned(app, me, frame).await?;
    }
    sqlx::query(
        "insert into drafts (assignment_id, account_id, frame_id, paragraph, may_show, who) values ($1, $2, $3, $4, $5, $6)
         on conflict (assignment_id, account_id) do update set frame_id = excluded.frame_id, paragraph = excluded.paragraph,
             may_show = excluded.may_show, who = excluded.who, updated_at = now()",
    )
    .bind(assignment)
    .bind(me)
    .bind(e.frame)
    .bind(&e.paragraph)
    .bind(e.may_show)
    .bind(&e.who)
    .execute(&app.pool)
    .await?;
    draft(app, me, assignment).await?.ok_or_else(|| Problem::not_found("There is no such assignment in your classes."))
}

/// Assignments I can still hand in for, the nearest date first.
pub(crate) async fn open_for(app: &App, me: Uuid) -> Answer<Vec<OpenAssignment>> {
    Ok(sqlx::query_as(
        "select a.id, a.body->>'title' as title, c.name as class_name, (a.body->>'due')::timestamptz as due, f.case_id as draft_case,
                s.id is not null as mine
         from class_members m
         join classes c on c.id = m.class_id and c.archived_at is null
         join assignments a on a.class_id = c.id and a.published
         left join drafts d on d.assignment_id = a.id and d.account_id = $1
         left join frames f on f.id = d.frame_id
         left join submissions s on s.assignment_id = a.id and belongs(s, $1) and s.newest and s.state <> 'removed'
         where m.account_id = $1 and m.seat = 'student'
           and (s.id is null or s.state = 'failed' or (a.body->>'again' = 'true' and s.returned_at is null))
           and (a.body->'late'->>'kind' <> 'closed' or coalesce((a.body->>'due')::timestamptz > now(), true))
         order by due nulls last, a.created_at limit 60",
    )
    .bind(me)
    .fetch_all(&app.pool)
    .await?)
}
