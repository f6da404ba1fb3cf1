//! Plates: the mixing desk of a case, whether the sum comes out, mixes that meet a target, merges by the lighter.

use crate::App;
use crate::accounts::Me;
use crate::problem::{Answer, Body, Problem};
use crate::records::cases::{Calibration, CaseView, put_calibration};
use crate::records::cases::{load, must_own};
use crate::records::plates::{Gains, desk_of, light_of, photo_of, put_back, shelf};
use crate::records::versioned::{DESKS, add};
use crate::work::Pace;
use axum::Json;
use axum::body::Body as HttpBody;
use axum::extract::{Path, State};
use axum::http::header;
use axum::response::Response;
use plates::check::{COMES_OUT, SumCheck, check, plate};
use plates::curve::curve_of_sum;
use plates::desk::{Desk, Exposed, InCamera, Tint, in_camera, tints};
use plates::light::{Light, same_size};
use plates::merge::{MergePlan, plan, winners};
use plates::mix::{Mix, PatchWanted, PatchesMet, mixed, solve, solve_patches};
use plates::register::{Lies, in_sum, lies};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;
use uuid::Uuid;

pub(crate) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new()
        .routes(routes!(current_desk, save_desk))
        .routes(routes!(check_plates))
        .routes(routes!(curve_from_sum))
        .routes(routes!(mix_for_frame))
        .routes(routes!(mix_for_patches))
        .routes(routes!(plates_merged))
        .routes(routes!(mix_picture))
        .routes(routes!(winners_picture))
        .routes(routes!(mask_picture))
}

/// A mixing desk with its version.
#[derive(Serialize, ToSchema)]
pub struct DeskView {
    /// Version for the next edit; 0 before the first.
    pub version: i64,
    /// The desk.
    pub desk: Desk,
    /// What the mix asks of lamps and camera.
    pub in_camera: Vec<InCamera>,
    /// Colours to draw while one is turned.
    pub tints: Vec<Tint>,
    /// Pictures that were exposed otherwise than the others, by their settings.
    pub exposed: Vec<Exposed>,
}

/// A desk made on a version.
#[derive(Deserialize, ToSchema)]
pub struct DeskEdit {
    /// Version the edit was made on.
    #[serde(deserialize_with = "crate::problem::version")]
    pub version: i64,
    /// The desk.
    pub desk: Desk,
}

/// A picture that a mix is to meet.
#[derive(Deserialize, ToSchema)]
pub struct MixTarget {
    /// A frame of the case.
    pub frame: Uuid,
}

/// Places that a mix is to bring to levels.
#[derive(Deserialize, ToSchema)]
pub struct MixPatches {
    /// Places with what is wanted there.
    pub patches: Vec<PatchWanted>,
}

async fn view(app: &App, me: Uuid, case: Uuid, version: i64, desk: Desk) -> Answer<DeskView> {
    let Gains { exposed, shutter_s, .. } = Gains::of(app, me, case, &desk).await?;
    let in_camera = in_camera(&desk, shutter_s, &exposed);
    Ok(DeskView { version, desk, in_camera, tints: tints(), exposed })
}

/// The mixing desk of a case; frames that are plates come to it by themselves.
#[utoipa::path(get, path = "/cases/{id}/plates", tag = "plates", params(("id" = Uuid, Path)),
    responses((status = 200, body = DeskView), (status = 404, body = Problem)))]
async fn current_desk(State(app): State<App>, Me(me): Me, Path(case): Path<Uuid>) -> Answer<Json<DeskView>> {
    must_own(&app, me.id, case).await?;
    let (version, desk) = desk_of(&app, me.id, case).await?;
    view(&app, me.id, case, version, desk).await.map(Json)
}

/// Save the mixing desk as a new version.
#[utoipa::path(put, path = "/cases/{id}/plates", tag = "plates", params(("id" = Uuid, Path)), request_body = DeskEdit,
    responses((status = 200, body = DeskView), (status = 400, body = Problem), (status = 404, body = Problem), (status = 409, body = Problem)))]
async fn save_desk(
    State(app): State<App>,
    Me(me): Me,
    Path(case): Path<Uuid>,
    Body(edit): Body<DeskEdit>,
) -> Answer<Json<DeskView>> {
    must_own(&app, me.id, case).await?;
    edit.desk.check().map_err(Problem::bad)?;
    if !add(&app, DESKS, case, me.id, edit.version, &edit.desk).await? {
        let (version, desk) = desk_of(&app, me.id, case).await?;
        let now = view(&app, me.id, case, version, desk).await?;
        return Err(Problem::stale("desk", serde_json::to_value(now).map_err(Problem::internal)?));
    }
    view(&app, me.id, case, edit.version + 1, edit.desk).await.map(Json)
}

/// Whether the plates are of one camera that nobody touched, and add up to the picture with all lights on.
#[utoipa::path(get, path = "/cases/{id}/plates/check", tag = "plates", params(("id" = Uuid, Path)),
    responses((status = 200, body = SumCheck), (status = 400, body = Problem), (status = 404, body = Problem)))]
async fn check_plates(State(app): State<App>, Me(me): Me, Path(case): Path<Uuid>) -> Answer<Json<SumCheck>> {
    must_own(&app, me.id, case).await?;
    let desk = desk_of(&app, me.id, case).await?.1;
    let mut shelf = shelf(&app, me.id, case, &desk).await?;
    let names: Vec<String> = desk.plates.iter().map(|p| p.name.clone()).collect();
    let found: Vec<Option<Lies>> = match shelf.all_on.clone() {
        Some(all) => {
            let (plates, dark) = (shelf.plates.clone(), shelf.dark.clone());
            let lay = move || {
                let refs: Vec<&Light> = plates.iter().map(AsRef::as_ref).collect();
                in_sum(&all, &refs, dark.as_deref())
            };
            app.work.run(Pace::Heavy, lay).await?
        }
        // without it by their edges, against the first
        None => {
            let first = photo_of(&app, me.id, case, shelf.frames[0]).await?;
            let mut found = vec![None];
            for frame in &shelf.frames[1..] {
                let photo = photo_of(&app, me.id, case, *frame).await?;
                let first = first.clone();
                found.push(app.work.run(Pace::Heavy, move || lies(&first, &photo).ok()).await?);
            }
            found
        }
    };
    let each = {
        let dark = shelf.dark();
        let of = |((p, l), n): ((&Light, &Option<Lies>), &String)| plate(p, dark, *l, n);
        shelf.refs().into_iter().zip(&found).zip(&names).map(of).collect()
    };
    let moved = found.iter().any(|l| l.is_some_and(|l| l.moved()));
    let undone = shelf.gains.says(&desk);
    let mut plain = {
        let (plates, dark, all, names) =
            (shelf.plates.clone(), shelf.dark.clone(), shelf.all_on.clone(), names.clone());
        let sum = move || {
            let refs: Vec<&Light> = plates.iter().map(AsRef::as_ref).collect();
            check(all.as_deref(), &refs, dark.as_deref(), each, &names)
        };
        app.work.run(Pace::Heavy, sum).await?.map_err(Problem::bad)?
    };
    plain.says.splice(1.min(plain.says.len())..1.min(plain.says.len()), undone);
    if !moved || shelf.all_on.is_none() {
        return Ok(Json(plain));
    }
    // what is left over once what was moved is put back
    put_back(&app, me.id, case, &mut shelf, &found).await?;
    let back = app
        .work
        .run(Pace::Heavy, move || {
            let all = shelf.all_on.as_deref()?;
            solve(all, &shelf.refs(), shelf.dark()).ok()
        })
        .await?;
    let mut told = plain;
    if let Some(mix) = back {
        told.says.insert(
            1.min(told.says.len()),
            format!("Put back where it belongs, {:.1} % is left over.", 100.0 * mix.residual_share),
        );
        told.mix = Some(mix);
    }
    Ok(Json(told))
}

/// Reads the case's pictures through the tone curve under which its plates add up to the picture with all lights on.
#[utoipa::path(put, path = "/cases/{id}/plates/curve", tag = "plates", params(("id" = Uuid, Path)),
    responses((status = 200, body = CaseView), (status = 400, body = Problem), (status = 404, body = Problem)))]
async fn curve_from_sum(State(app): State<App>, Me(me): Me, Path(case): Path<Uuid>) -> Answer<Json<CaseView>> {
    must_own(&app, me.id, case).await?;
    if load(&app, me.id, case).await?.calibration.is_some() {
        return Err(Problem::bad("The pictures of this case are read through a curve already: take that away first."));
    }
    let desk = desk_of(&app, me.id, case).await?.1;
    let shelf = shelf(&app, me.id, case, &desk).await?;
    let all = shelf
        .all_on
        .clone()
        .ok_or_else(|| Problem::bad("Without a picture with all lights on nothing tells the curve: take one."))?;
    let mut frames = shelf.frames.clone();
    if let Some(id) = &desk.all_on {
        frames.push(id.parse().map_err(Problem::internal)?);
    }
    let found = app.work.run(Pace::Heavy, move || curve_of_sum(&all, &shelf.refs(), shelf.dark())).await?;
    let c = found.ok_or_else(|| Problem::bad("No curve: nowhere in the picture do two lamps add up."))?;
    if c.left_over > COMES_OUT {
        let share = 100.0 * c.left_over;
        return Err(Problem::bad(format!("No curve: {share:.1} % of the picture is left over under the best one.")));
    }
    let made = Calibration {
        by: "sum of plates".into(),
        says: format!(
            "{} plates and their sum; contrast at middle grey {:.2} ± {:.2} of plain sRGB, {:.1} % is left over.",
            frames.len() - 1,
            c.contrast,
            c.contrast_sd,
            100.0 * c.left_over
        ),
        frames,
        encoding: c.encoding,
        spread_stops: c.contrast_sd / c.contrast,
    };
    put_calibration(&app, case, Some(&made)).await?;
    load(&app, me.id, case).await.map(Json)
}

/// The factors with which the plates add up to a picture of the case.
#[utoipa::path(post, path = "/cases/{id}/plates/mix", tag = "plates", params(("id" = Uuid, Path)), request_body = MixTarget,
    responses((status = 200, body = Mix), (status = 400, body = Problem), (status = 404, body = Problem)))]
async fn mix_for_frame(
    State(app): State<App>,
    Me(me): Me,
    Path(case): Path<Uuid>,
    Body(wanted): Body<MixTarget>,
) -> Answer<Json<Mix>> {
    must_own(&app, me.id, case).await?;
    let desk = desk_of(&app, me.id, case).await?.1;
    let mut shelf = shelf(&app, me.id, case, &desk).await?;
    let (target, size) = light_of(&app, me.id, case, wanted.frame).await?;
    let target = shelf.gains.lit(wanted.frame, target);
    same_size(&[(desk.plates[0].name.clone(), shelf.size), ("the target".into(), size)]).map_err(Problem::bad)?;
    let found = {
        let (target, plates, dark) = (target.clone(), shelf.plates.clone(), shelf.dark.clone());
        let lay = move || {
            let refs: Vec<&Light> = plates.iter().map(AsRef::as_ref).collect();
            in_sum(&target, &refs, dark.as_deref())
        };
        app.work.run(Pace::Heavy, lay).await?
    };
    put_back(&app, me.id, case, &mut shelf, &found).await?;
    let mix = app.work.run(Pace::Heavy, move || solve(&target, &shelf.refs(), shelf.dark())).await?;
    mix.map(Json).map_err(Problem::bad)
}

/// The factors that bring places of the picture to levels, and stay near those on the desk otherwise.
#[utoipa::path(post, path = "/cases/{id}/plates/patches", tag = "plates", params(("id" = Uuid, Path)), request_body = MixPatches,
    responses((status = 200, body = PatchesMet), (status = 400, body = Problem), (status = 404, body = Problem)))]
async fn mix_for_patches(
    State(app): State<App>,
    Me(me): Me,
    Path(case): Path<Uuid>,
    Body(wanted): Body<MixPatches>,
) -> Answer<Json<PatchesMet>> {
    must_own(&app, me.id, case).await?;
    let desk = desk_of(&app, me.id, case).await?.1;
    let shelf = shelf(&app, me.id, case, &desk).await?;
    let now: Vec<f64> = desk.factors().iter().map(|f| f[1]).collect();
    let met = move || {
        let plates = shelf.masked(&desk);
        let refs: Vec<&Light> = plates.iter().map(AsRef::as_ref).collect();
        solve_patches(&refs, shelf.dark(), &wanted.patches, &now)
    };
    app.work.run(Pace::Quick, met).await?.map(Json).map_err(Problem::bad)
}

/// What a merge by the lighter gives: what each plate wins, how few do, what no plate lights.
#[utoipa::path(get, path = "/cases/{id}/plates/merge", tag = "plates", params(("id" = Uuid, Path)),
    responses((status = 200, body = MergePlan), (status = 400, body = Problem), (status = 404, body = Problem)))]
async fn plates_merged(State(app): State<App>, Me(me): Me, Path(case): Path<Uuid>) -> Answer<Json<MergePlan>> {
    must_own(&app, me.id, case).await?;
    let desk = desk_of(&app, me.id, case).await?.1;
    let shelf = shelf(&app, me.id, case, &desk).await?;
    let names: Vec<String> = desk.plates.iter().map(|p| p.name.clone()).collect();
    let weights: Vec<f64> = desk.factors().iter().map(|f| f[1]).collect();
    let made = move || plan(&shelf.refs(), shelf.dark(), &weights, &names);
    app.work.run(Pace::Heavy, made).await.map(Json)
}

fn png(bytes: Vec<u8>) -> Answer<Response> {
    Response::builder()
        .header(header::CONTENT_TYPE, "image/png")
        .header(header::CACHE_CONTROL, "private, no-cache")
        .body(HttpBody::from(bytes))
        .map_err(Problem::internal)
}

/// The picture of a desk as it is sent: the sum in linear light, coded in sRGB.
#[utoipa::path(post, path = "/cases/{id}/plates/picture", tag = "plates", params(("id" = Uuid, Path)), request_body = Desk,
    responses((status = 200, content_type = "image/png"), (status = 400, body = Problem), (status = 404, body = Problem)))]
async fn mix_picture(
    State(app): State<App>,
    Me(me): Me,
    Path(case): Path<Uuid>,
    Body(desk): Body<Desk>,
) -> Answer<Response> {
    must_own(&app, me.id, case).await?;
    desk.check().map_err(Problem::bad)?;
    let shelf = shelf(&app, me.id, case, &desk).await?;
    let draw = move || {
        let plates = shelf.masked(&desk);
        let refs: Vec<&Light> = plates.iter().map(AsRef::as_ref).collect();
        let light = mixed(&refs, shelf.dark(), &desk.factors());
        let of = |v: f32| (255.0 * optics::tone::linear_to_srgb(f64::from(v.clamp(0.0, 1.0)))).round() as u8;
        let bytes: Vec<u8> = light.iter().flat_map(|c| c.map(of)).collect();
        pictures::encode_png(shelf.plates[0].width as u32, shelf.plates[0].height as u32, bytes)
    };
    png(app.work.run(Pace::Quick, draw).await?.map_err(|r| Problem::refused(r.to_string()))?)
}

/// Where one plate counts by its mask on a desk as it is sent, white where it does in full.
#[utoipa::path(post, path = "/cases/{id}/plates/mask/{frame}", tag = "plates",
    params(("id" = Uuid, Path), ("frame" = Uuid, Path, description = "frame of the plate")), request_body = Desk,
    responses((status = 200, content_type = "image/png"), (status = 400, body = Problem), (status = 404, body = Problem)))]
async fn mask_picture(
    State(app): State<App>,
    Me(me): Me,
    Path((case, frame)): Path<(Uuid, Uuid)>,
    Body(desk): Body<Desk>,
) -> Answer<Response> {
    must_own(&app, me.id, case).await?;
    desk.check().map_err(Problem::bad)?;
    let frame = frame.to_string();
    let plate = desk.plates.iter().position(|p| p.frame == frame);
    let plate = plate.ok_or_else(|| Problem::bad("That picture is no plate on this desk."))?;
    let shelf = shelf(&app, me.id, case, &desk).await?;
    let draw = move || {
        let (w, h) = (shelf.plates[plate].width, shelf.plates[plate].height);
        let mask = shelf.masks(&desk, |k| k == plate).swap_remove(plate).unwrap_or_else(|| vec![1.0; w * h]);
        let grey = |m: &f32| [(255.0 * m.clamp(0.0, 1.0)).round() as u8; 3];
        pictures::encode_png(w as u32, h as u32, mask.iter().flat_map(grey).collect())
    };
    png(app.work.run(Pace::Heavy, draw).await?.map_err(|r| Problem::refused(r.to_string()))?)
}

/// Which plate is the lightest where: the merged picture, tinted in the colour of the plate that wins.
#[utoipa::path(get, path = "/cases/{id}/plates/winners", tag = "plates", params(("id" = Uuid, Path)),
    responses((status = 200, content_type = "image/png"), (status = 400, body = Problem), (status = 404, body = Problem)))]
async fn winners_picture(State(app): State<App>, Me(me): Me, Path(case): Path<Uuid>) -> Answer<Response> {
    must_own(&app, me.id, case).await?;
    let desk = desk_of(&app, me.id, case).await?.1;
    let shelf = shelf(&app, me.id, case, &desk).await?;
    let draw = move || {
        let weights: Vec<f64> = desk.factors().iter().map(|f| f[1]).collect();
        let w = winners(&shelf.refs(), shelf.dark(), &weights);
        let bytes: Vec<u8> = w
            .plate
            .iter()
            .zip(&w.light)
            .flat_map(|(k, l)| {
                let grey = optics::tone::linear_to_srgb(f64::from(l.clamp(0.0, 1.0)));
                plates::merge::colour_of(usize::from(*k)).map(|c| (255.0 * (0.25 + 0.75 * grey) * c).round() as u8)
            })
            .collect();
        pictures::encode_png(w.size.0 as u32, w.size.1 as u32, bytes)
    };
    png(app.work.run(Pace::Heavy, draw).await?.map_err(|r| Problem::refused(r.to_string()))?)
}
