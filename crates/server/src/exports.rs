//! All that is kept of a person as one file (zip): pictures as they were sent, everything else as JSON.

use crate::App;
use crate::problem::{Answer, Problem};
use serde_json::Value;
use std::fs::File;
use std::io::{BufWriter, Write};
use uuid::Uuid;
use zip::ZipWriter;
use zip::write::SimpleFileOptions;

/// Documents about an account; `$1` is the account.
const DOCUMENTS: [(&str, &str); 11] = [
    ("account.json", "select to_jsonb(a) - 'password_hash' from accounts a where id = $1"),
    ("kit.json", "select jsonb_agg(to_jsonb(k) order by version) from kits k where owner = $1"),
    ("recipes.json", "select jsonb_agg(to_jsonb(r) order by created_at) from recipes r where owner = $1"),
    ("briefs.json", "select jsonb_agg(to_jsonb(b)) from house_briefs b where owner = $1"),
    ("phrases.json", "select jsonb_agg(to_jsonb(p) order by version) from phrases p where owner = $1"),
    (
        "drafts.json",
        "select jsonb_agg(to_jsonb(d) - 'account_id' || jsonb_build_object('assignment', a.body->>'title'))
         from drafts d join assignments a on a.id = d.assignment_id where d.account_id = $1",
    ),
    ("notices.json", "select jsonb_agg(to_jsonb(n) order by created_at) from notices n where account_id = $1"),
    (
        "classes.json",
        "select jsonb_agg(jsonb_build_object('class', c.name, 'seat', m.seat, 'joined_at', m.joined_at, 'group',
                (select g.name from class_groups g where g.class_id = c.id and g.account_id = $1)))
         from class_members m join classes c on c.id = m.class_id where m.account_id = $1",
    ),
    (
        "looked-at.json",
        "select jsonb_agg(jsonb_build_object('picture', s.alias, 'points', r.points, 'text', r.body, 'done_at', r.done_at))
         from peer_reviews r join submissions s on s.id = r.submission_id where r.reviewer = $1",
    ),
    (
        "graded.json",
        "select jsonb_agg(jsonb_build_object('picture', s.alias, 'points', g.points, 'note', g.note, 'at', g.created_at) order by g.created_at)
         from grades g join submissions s on s.id = g.submission_id where g.grader = $1",
    ),
    (
        "live-rounds.json",
        "select jsonb_agg(jsonb_build_object('round', r.title, 'name', p.name, 'places',
                (select jsonb_agg(to_jsonb(g) - 'player') from round_guesses g where g.player = p.id)))
         from round_players p join rounds r on r.id = p.round_id where p.account_id = $1",
    ),
];

/// What belongs to one case; `$1` is the case.
const OF_A_CASE: &str = "select jsonb_build_object(
    'case', to_jsonb(c),
    'frames', (select jsonb_agg(to_jsonb(f) order by created_at) from frames f where case_id = c.id),
    'marks', (select jsonb_agg(to_jsonb(m) order by m.version) from marks m join frames f on f.id = m.frame_id where f.case_id = c.id),
    'readings', (select jsonb_agg(to_jsonb(r)) from readings r join frames f on f.id = r.frame_id where f.case_id = c.id),
    'sets', (select jsonb_agg(to_jsonb(s) order by version) from sets s where s.case_id = c.id),
    'builds', (select jsonb_agg(to_jsonb(b) order by version) from builds b where owner = c.id),
    'outcomes', (select jsonb_agg(to_jsonb(o) order by version) from outcomes o where owner = c.id),
    'plans', (select jsonb_agg(to_jsonb(p)) from plans p where p.case_id = c.id),
    'takes', (select jsonb_agg(to_jsonb(l) order by l.version) from links l join frames f on f.id = l.owner where f.case_id = c.id),
    'paragraphs', (select jsonb_agg(to_jsonb(p) order by p.version) from paragraphs p join frames f on f.id = p.owner where f.case_id = c.id),
    'plates', (select jsonb_agg(to_jsonb(d) order by version) from desks d where owner = c.id),
    'series', (select jsonb_agg(to_jsonb(x) order by version) from series x where owner = c.id),
    'remarks', (select jsonb_agg(to_jsonb(r)) from remarks r join frames f on f.id = r.frame_id where f.case_id = c.id))
    from cases c where c.id = $1";

/// What was handed in, with its points once it was given back; `$1` is the submission.
const OF_A_SUBMISSION: &str = "select jsonb_build_object(
    'assignment', a.body->>'title', 'class', c.name,
    'submission', to_jsonb(s) - 'finger' - 'proposals',
    'grades', case when s.state = 'returned' then
        (select jsonb_agg(to_jsonb(g) - 'grader' order by created_at) from grades g where g.submission_id = s.id) end,
    'notes', (select jsonb_agg(to_jsonb(n) - 'author' order by created_at) from submission_notes n where n.submission_id = s.id and n.kind <> 'private'))
    from submissions s join assignments a on a.id = s.assignment_id join classes c on c.id = a.class_id where s.id = $1";

/// A name that every file system takes: what is none is left out.
fn plain(name: &str) -> String {
    let kept: String =
        name.chars().map(|c| if c.is_control() || "/\\:*?\"<>|".contains(c) { '-' } else { c }).take(80).collect();
    let kept = kept.trim().trim_matches('.').trim();
    if kept.is_empty() { "picture".into() } else { kept.to_owned() }
}

struct Pack {
    zip: ZipWriter<BufWriter<File>>,
}

impl Pack {
    fn put(&mut self, name: &str, bytes: &[u8]) -> Answer<()> {
        // pictures are compressed already
        let how = SimpleFileOptions::default().compression_method(zip::CompressionMethod::Stored).large_file(true);
        self.zip.start_file(name, how).map_err(Problem::internal)?;
        self.zip.write_all(bytes).map_err(Problem::internal)
    }

    async fn document(&mut self, app: &App, name: &str, statement: &'static str, of: Uuid) -> Answer<()> {
        let found: Option<Option<Value>> = sqlx::query_scalar(statement).bind(of).fetch_optional(&app.pool).await?;
        match found.flatten() {
            Some(v) => self.put(name, &serde_json::to_vec_pretty(&v).map_err(Problem::internal)?),
            None => Ok(()),
        }
    }

    async fn picture(&mut self, app: &App, name: &str, hash: &str) -> Answer<()> {
        let bytes = app.store.get(hash, "original").await?;
        self.put(name, &bytes)
    }
}

/// Writes all that is kept of a person; `tell` hears how far it is, and says whether it is still wanted.
pub(crate) async fn export(app: &App, owner: Uuid, out: File, tell: impl Fn(f64) -> bool) -> Answer<()> {
    let mut pack = Pack { zip: ZipWriter::new(BufWriter::new(out)) };
    pack.put(
        "read-me.txt",
        b"All that Slant Cast keeps of you: pictures as you sent them, everything else as JSON.\nWhere a picture was taken is never kept. Your password is not in it.\n",
    )?;
    for (name, statement) in DOCUMENTS {
        pack.document(app, name, statement, owner).await?;
    }
    let cases: Vec<(Uuid, String)> = sqlx::query_as("select id, title from cases where owner = $1 order by created_at")
        .bind(owner)
        .fetch_all(&app.pool)
        .await?;
    let handed_in: Vec<(Uuid, String, String, String)> = sqlx::query_as(
        "select s.id, a.body->>'title', s.file_name, s.file_hash from submissions s join assignments a on a.id = s.assignment_id
         where s.author = $1 order by s.handed_in_at",
    )
    .bind(owner)
    .fetch_all(&app.pool)
    .await?;
    let many = (cases.len() + handed_in.len()).max(1) as f64;
    for (i, (id, title)) in cases.iter().enumerate() {
        if !tell(i as f64 / many) {
            return Ok(());
        }
        let folder = format!("cases/{:03} {}", i + 1, plain(title));
        pack.document(app, &format!("{folder}/case.json"), OF_A_CASE, *id).await?;
        let frames: Vec<(String, String)> =
            sqlx::query_as("select file_name, file_hash from frames where case_id = $1 order by created_at, id")
                .bind(id)
                .fetch_all(&app.pool)
                .await?;
        for (j, (name, hash)) in frames.iter().enumerate() {
            pack.picture(app, &format!("{folder}/{:03} {}", j + 1, plain(name)), hash).await?;
        }
    }
    for (i, (id, title, name, hash)) in handed_in.iter().enumerate() {
        if !tell((cases.len() + i) as f64 / many) {
            return Ok(());
        }
        let folder = format!("handed in/{:03} {}", i + 1, plain(title));
        pack.document(app, &format!("{folder}/submission.json"), OF_A_SUBMISSION, *id).await?;
        if !hash.is_empty() {
            pack.picture(app, &format!("{folder}/{}", plain(name)), hash).await?;
        }
    }
    pack.zip.finish().map_err(Problem::internal)?.flush().map_err(Problem::internal)
}

#[cfg(test)]
mod tests {
    use super::plain;

    #[test]
    fn names_of_files_hold_nothing_that_leads_elsewhere() {
        for name in ["../../etc/passwd", "a/b\\c", "..", "", "x\u{0}y", "con:1", &"n".repeat(300)] {
            let p = plain(name);
            assert!(!p.is_empty() && !p.contains(['/', '\\', ':', '\u{0}']) && !p.starts_with('.'), "{name} -> {p}");
            assert!(p.chars().count() <= 80);
        }
        assert_eq!(plain("מפתח.jpg"), "מפתח.jpg");
    }
}
