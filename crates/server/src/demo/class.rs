//! The demo's class: the puppet theatre's course, two assignments, one marked and one being marked.

use crate::App;
use crate::problem::{Answer, Problem};
use crate::records::assignments::{self, AssignmentEdit};
use crate::records::cases::create_for;
use crate::records::classes;
use crate::records::frames::{Sent, add};
use crate::records::grading::{self, GradeEdit, NoteEdit, NoteKind};
use crate::records::groups::{Group, set_groups};
use crate::records::rounds::{self, NewRound};
use crate::records::submissions::{self, NewSubmission};
use classroom::{Assignment, By, Criterion, HandIn, LateRule, Measure};
use evidence::marks::Marks;
use time::{Duration, OffsetDateTime};
use uuid::Uuid;

/// A picture of the class with its marks.
type Picture = (&'static str, &'static [u8], &'static str);

macro_rules! class_pictures {
    ($($name:literal),*) => {
        [$((
            $name,
            include_bytes!(concat!("../../demo/class/", $name, ".jpg")) as &[u8],
            include_str!(concat!("../../demo/class/", $name, ".json")),
        )),*]
    };
}

const PICTURES: [Picture; 9] =
    class_pictures!["reference", "ana", "bruno", "cilka", "dorota", "emil", "faro", "greta", "hugo"];

/// The others of the class, by the names of their pictures; all invented.
const STUDENTS: [(&str, &str); 11] = [
    ("ana", "Ana Kulissa"),
    ("bruno", "Bruno Schnur"),
    ("cilka", "Cilka Lampe"),
    ("dorota", "Dorota Nitka"),
    ("emil", "Emil Vorhang"),
    ("faro", "Faro Holz"),
    ("greta", "Greta Filz"),
    ("hugo", "Hugo Draht"),
    ("ines", "Ines Leim"),
    ("jarek", "Jarek Stoff"),
    ("kaja", "Kaja Span"),
];

fn rubric() -> Vec<Criterion> {
    let measured = |id: &str, name: &str, points: f64, measure| Criterion {
        id: id.into(),
        name: name.into(),
        points,
        by: By::Measured,
        measure: Some(measure),
    };
    vec![
        measured("place", "Place of the key", 10.0, Measure::Direction),
        measured("size", "Size of the key", 5.0, Measure::Size),
        measured("contrast", "Contrast", 5.0, Measure::Contrast),
        measured("brief", "What the brief asks", 5.0, Measure::Brief),
        Criterion { id: "idea".into(), name: "Idea and care".into(), points: 5.0, by: By::Judged, measure: None },
    ]
}

fn assignment(title: &str, text: &str) -> Assignment {
    Assignment {
        title: title.into(),
        text: text.into(),
        brief: "everyday".into(),
        rubric: rubric(),
        due: None,
        zone: "Europe/Ljubljana".into(),
        late: LateRule::Costs { percent_a_day: 10.0 },
        again: true,
        hand_in: HandIn::default(),
        hidden: false,
        anonymous: false,
        groups: false,
        peers: 2,
        weight: 1.0,
    }
}

/// A case of somebody with one of the pictures; its frame.
async fn frame_of(app: &App, who: Uuid, title: &str, picture: &str) -> Answer<Uuid> {
    let (name, jpeg, marks) =
        PICTURES.iter().find(|p| p.0 == picture).ok_or_else(|| Problem::internal("demo: no such picture"))?;
    let case = create_for(app, who, title, "everyday").await?;
    let marks = Marks::parse(marks).map_err(Problem::internal)?;
    Ok(add(app, case, who, Sent::reference(&format!("{name}.jpg"), jpeg.to_vec()), Some(marks)).await?.id)
}

/// The class of `teacher`, with `student` and eleven others in it.
pub(super) async fn load(app: &App, teacher: Uuid, student: Uuid) -> Answer<()> {
    let class = classes::create(app, teacher, "Light for the puppet stage, autumn").await?;
    let consent = "Pictures of people stay in this class. Say who is in them, and whether they agreed.".to_owned();
    let edit = classes::ClassEdit { version: 1, consent: Some(consent), most: Some(24), ..Default::default() };
    let code = classes::change(app, teacher, class, &edit).await?.code.unwrap_or_default();
    classes::join(app, student, &code).await?;
    let mut ids = std::collections::BTreeMap::from([("tomek", student)]);
    for (sign, name) in STUDENTS {
        let id = Uuid::now_v7();
        // the same password as the student's
        sqlx::query("insert into accounts (id, email, name, role, password_hash) select $1, $2, $3, 'student', password_hash from accounts where id = $4")
            .bind(id)
            .bind(format!("{sign}@puppets.example"))
            .bind(name)
            .bind(student)
            .execute(&app.pool)
            .await?;
        classes::join(app, id, &code).await?;
        ids.insert(sign, id);
    }
    let reference = frame_of(app, teacher, "Moon in a triangle, the reference", "reference").await?;
    let set = |title: &str, text: &str| AssignmentEdit {
        version: 0,
        assignment: assignment(title, text),
        published: true,
        reference: Some(reference),
        anyway: false,
    };
    let first = set(
        "Moon in a triangle, by eye",
        "Light the moon as in the reference without measuring. Hand in what you would show.",
    );
    let second =
        set("Moon in a triangle, by measure", "The same again. Use Read and Takes, and change one thing at a time.");
    let (first, second) = (
        assignments::create(app, teacher, class, first).await?,
        assignments::create(app, teacher, class, second).await?,
    );
    let mut case_of = std::collections::BTreeMap::new();
    // pictures of the class with other lights than the reference's, for the round
    let mut shown = Vec::new();
    for (who, picture, which) in [
        ("ana", "ana", first),
        ("bruno", "bruno", first),
        ("dorota", "dorota", first),
        ("faro", "faro", first),
        ("cilka", "cilka", second),
        ("emil", "emil", second),
        ("greta", "greta", second),
        ("hugo", "hugo", second),
        // somebody handed in what somebody else had made
        ("ines", "greta", second),
    ] {
        let author = ids[who];
        let frame = match case_of.get(&(who, picture)) {
            Some(f) => *f,
            None => frame_of(app, author, "Moon in a triangle", picture).await?,
        };
        case_of.insert((who, picture), frame);
        let new = NewSubmission { frame, paragraph: String::new(), may_show: true, who: "a puppet".into() };
        let id = submissions::hand_in(app, author, which, new).await?;
        crate::worker::submitted(app, id).await?;
        if matches!(who, "bruno" | "dorota" | "faro") {
            shown.push(id);
        }
        if which == first {
            let view = grading::view(app, teacher, id).await?;
            let mut points: classroom::Awarded =
                view.picture.proposals.iter().filter_map(|p| Some((p.criterion.clone(), p.points?))).collect();
            points.insert("idea".into(), 4.0);
            for c in rubric() {
                points.entry(c.id).or_insert(c.points / 2.0);
            }
            let grade = GradeEdit { points, note: "Look at the height of the key before its side.".into() };
            grading::grade(app, teacher, id, &grade).await?;
            grading::give_back(app, teacher, id).await?;
        }
        if who == "hugo" {
            let note = NoteEdit { kind: NoteKind::Private, text: "A bare bulb? Ask him.".into(), pin: None };
            grading::say(app, teacher, id, &note).await?;
        }
    }
    let round =
        NewRound { title: "Where did the moon's light stand?".into(), frames: vec![reference], submissions: shown };
    rounds::create(app, teacher, class, &round).await?;
    let group = |name: &str, who: [&str; 3]| Group { name: name.into(), members: who.map(|w| ids[w]).to_vec() };
    let all = [
        group("Stage left", ["ana", "bruno", "cilka"]),
        group("Stage right", ["dorota", "emil", "faro"]),
        group("Gallery", ["greta", "hugo", "ines"]),
        group("Wings", ["jarek", "kaja", "tomek"]),
    ];
    set_groups(app, teacher, class, &all).await?;
    // dates that make sense on any day the demo is begun
    for (id, days) in [(first, -20), (second, 10)] {
        let due = OffsetDateTime::now_utc() + Duration::days(days);
        let due = due.format(&time::format_description::well_known::Rfc3339).map_err(Problem::internal)?;
        sqlx::query("update assignments set body = jsonb_set(body, '{due}', to_jsonb($2::text)) where id = $1")
            .bind(id)
            .bind(due)
            .execute(&app.pool)
            .await?;
    }
    // their jobs were done here
    sqlx::query("delete from jobs where kind = 'submission'").execute(&app.pool).await?;
    Ok(())
}
