//! Demo data: the photography course of a puppet theatre, invented for the purpose.

use crate::App;
use crate::accounts::{NewAccount, create};
use crate::problem::Problem;
use light::marks::Marks;
use serde::Deserialize;

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
}

const PICTURES: [(&str, &[u8], &str); 6] = [
    ("ferryman", include_bytes!("../demo/ferryman.jpg"), include_str!("../demo/ferryman.json")),
    ("queen", include_bytes!("../demo/queen.jpg"), include_str!("../demo/queen.json")),
    ("miller", include_bytes!("../demo/miller.jpg"), include_str!("../demo/miller.json")),
    ("moon", include_bytes!("../demo/moon.jpg"), include_str!("../demo/moon.json")),
    ("probes", include_bytes!("../demo/probes.jpg"), include_str!("../demo/probes.json")),
    ("twins", include_bytes!("../demo/twins.jpg"), include_str!("../demo/twins.json")),
];

/// Loads the demo data if there is no account yet.
///
/// # Errors
/// If the database or the store fails.
pub async fn load_once(app: &App) -> anyhow::Result<()> {
    let some: bool = sqlx::query_scalar("select exists (select 1 from accounts)").fetch_one(&app.pool).await?;
    if some {
        return Ok(());
    }
    let demo: Demo = toml::from_str(include_str!("../demo/demo.toml"))?;
    let plain = |p: Problem| anyhow::anyhow!("demo data: {}", p.detail);
    for a in demo.account {
        let new = NewAccount { name: a.name, email: a.email, password: a.password };
        let account = create(&app.pool, new, &a.role).await.map_err(plain)?;
        if !a.cases {
            continue;
        }
        for c in demo.case.iter().rev() {
            let id = crate::cases::create_for(app, account.id, &c.title, &c.brief).await.map_err(plain)?;
            sqlx::query("update cases set note = $2 where id = $1").bind(id).bind(&c.note).execute(&app.pool).await?;
            let (name, jpeg, marks) = PICTURES
                .iter()
                .find(|p| p.0 == c.picture)
                .ok_or_else(|| anyhow::anyhow!("demo data: no picture {}", c.picture))?;
            let marks = Marks::parse(marks).map_err(|e| anyhow::anyhow!("demo data, {name}: {e}"))?;
            let frame = crate::frames::add(app, id, account.id, &format!("{name}.jpg"), jpeg.to_vec(), Some(marks))
                .await
                .map_err(plain)?;
            let f = crate::frames::owned(app, account.id, frame.id).await.map_err(plain)?;
            crate::marks::newest(app, &f.hash, frame.id).await.map_err(plain)?;
        }
    }
    tracing::info!("demo data loaded");
    Ok(())
}
