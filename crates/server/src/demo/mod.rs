//! Demo data: the photography course of a puppet theatre, invented for the purpose.

mod class;

use crate::App;
use crate::accounts::{NewAccount, create};
use crate::problem::Problem;
use crate::records::frames::Sent;
use crate::records::marks::{MarkedFrame, keep, newest};
use crate::records::versioned::{SERIES as SERIES_TABLE, add};
use evidence::marks::Marks;
use lightset::set::LightSet;
use serde::Deserialize;
use series::{Placed, Series};
use std::collections::HashMap;

#[derive(Deserialize)]
struct Demo {
    account: Vec<DemoAccount>,
    case: Vec<DemoCase>,
}

#[derive(Deserialize)]
struct DemoAccount {
    name: String,
    email: String,
    password: String,
    role: String,
    cases: bool,
}

#[derive(Deserialize)]
struct DemoCase {
    title: String,
    brief: String,
    note: String,
    picture: String,
    /// The set it was taken of is filed with the case.
    #[serde(default)]
    with_set: bool,
}

/// A picture with its marks and the set it was taken of.
struct Shot {
    name: &'static str,
    jpeg: &'static [u8],
    marks: &'static str,
    set: &'static str,
}

macro_rules! shots {
    ($($name:literal),*) => {
        [$(Shot {
            name: $name,
            jpeg: include_bytes!(concat!("../../demo/", $name, ".jpg")),
            marks: include_str!(concat!("../../demo/", $name, ".json")),
            set: include_str!(concat!("../../demo/sets/", $name, ".json")),
        }),*]
    };
}

const SHOTS: [Shot; 13] = shots![
    "ferryman",
    "queen",
    "miller",
    "moon",
    "probes",
    "sister",
    "lamplighter",
    "snow-maiden",
    "elixir",
    "lemonade",
    "seven-mile-shoe",
    "supper",
    "prompter"
];

/// Plates of a case: its picture's name, and each with its own.
macro_rules! plates {
    ($case:literal: $($name:literal),*) => {
        ($case, &[$(($name, include_bytes!(concat!("../../demo/plates/", $case, "-", $name, ".jpg")) as &[u8])),*])
    };
}

const PLATES: [(&str, &[(&str, &[u8])]); 2] = [
    plates!("elixir": "left-line", "right-line", "through", "label", "dark", "all"),
    plates!("seven-mile-shoe": "key", "rim", "dark", "all"),
];

/// The series of a case: its picture's name, its shot list, and a picture for each view.
macro_rules! views {
    ($case:literal, $list:literal: $($view:literal),*) => {
        ($case, $list, &[$(($view, include_bytes!(concat!("../../demo/series/", $case, "-", $view, ".jpg")) as &[u8])),*])
    };
}

const SERIES: [(&str, &str, &[(&str, &[u8])]); 1] =
    [views!("seven-mile-shoe", "footwear": "outer", "inner", "outer-angle", "inner-angle", "front", "back")];

/// Loads the demo data if there is no account yet.
///
/// # Errors
/// If the database or the store fails.
pub async fn load_once(app: &App) -> anyhow::Result<()> {
    let some: bool = sqlx::query_scalar("select exists (select 1 from accounts)").fetch_one(&app.pool).await?;
    if some {
        return Ok(());
    }
    let demo: Demo = toml::from_str(include_str!("../../demo/demo.toml"))?;
    let plain = |p: Problem| anyhow::anyhow!("demo data: {}", p.detail);
    let mut people: Vec<(String, uuid::Uuid)> = Vec::new();
    let mut known: HashMap<&str, MarkedFrame> = HashMap::new();
    for a in demo.account {
        let new = NewAccount { name: a.name, email: a.email, password: a.password, invitation: None };
        let account = create(app, new, &a.role).await.map_err(plain)?;
        people.push((a.role, account.id));
        if !a.cases {
            continue;
        }
        for c in demo.case.iter().rev() {
            let id = crate::records::cases::create_for(app, account.id, &c.title, &c.brief).await.map_err(plain)?;
            sqlx::query("update cases set note = $2 where id = $1").bind(id).bind(&c.note).execute(&app.pool).await?;
            let shot = SHOTS
                .iter()
                .find(|s| s.name == c.picture)
                .ok_or_else(|| anyhow::anyhow!("demo data: no picture {}", c.picture))?;
            let marks = Marks::parse(shot.marks).map_err(|e| anyhow::anyhow!("demo data, {}: {e}", shot.name))?;
            let file = format!("{}.jpg", shot.name);
            let frame = crate::records::frames::add(
                app,
                id,
                account.id,
                Sent::reference(&file, shot.jpeg.to_vec()),
                Some(marks),
            )
            .await
            .map_err(plain)?;
            if c.with_set {
                let set = LightSet::parse(shot.set).map_err(|e| anyhow::anyhow!("demo data, {}: {e}", shot.name))?.set;
                crate::routes::sets::file(app, id, account.id, preview(set)).await?;
            }
            for (name, jpeg) in PLATES.iter().filter(|p| p.0 == shot.name).flat_map(|p| p.1) {
                let sent = Sent { role: "plate".into(), ..Sent::reference(&format!("{name}.jpg"), jpeg.to_vec()) };
                crate::records::frames::add(app, id, account.id, sent, None).await.map_err(plain)?;
            }
            if let Some((_, list, views)) = SERIES.iter().find(|s| s.0 == shot.name) {
                let mut series = Series { list: (*list).into(), ..Series::default() };
                for (view, jpeg) in *views {
                    let sent = Sent { role: "view".into(), ..Sent::reference(&format!("{view}.jpg"), jpeg.to_vec()) };
                    let frame = crate::records::frames::add(app, id, account.id, sent, None).await.map_err(plain)?.id;
                    series.placed.push(Placed { view: (*view).into(), frame: frame.to_string() });
                }
                add(app, SERIES_TABLE, id, account.id, 0, &series).await.map_err(plain)?;
            }
            // one picture with the same marks is read once
            match known.get(shot.name) {
                Some(read) => keep(app, frame.id, read.version, &read.readings).await.map_err(plain)?,
                None => {
                    let f = crate::records::frames::owned(app, account.id, frame.id).await.map_err(plain)?;
                    known.insert(shot.name, newest(app, &f.hash, frame.id).await.map_err(plain)?);
                }
            }
        }
    }
    let of = |role: &str| people.iter().find(|p| p.0 == role).map(|p| p.1);
    if let (Some(teacher), Some(student)) = (of("instructor"), of("student")) {
        class::load(app, teacher, student).await.map_err(plain)?;
    }
    tracing::info!("demo data loaded");
    Ok(())
}

/// The set at the size of a preview.
fn preview(mut set: LightSet) -> LightSet {
    let p = &mut set.picture;
    let k = 560.0 / f64::from(p.width.max(p.height));
    p.width = (f64::from(p.width) * k).round() as u32;
    p.height = (f64::from(p.height) * k).round() as u32;
    p.samples = 16;
    p.full_well = None;
    set
}
