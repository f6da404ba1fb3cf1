//! Masks that are painted: strokes as areas, light that counts by them, files that hold them.

use crate::merging::entry;
use crate::mixing::{H, LAMPS, W, lit, taken};
use optics::photo::Photo;
use plates::desk::{Desk, DeskPlate, in_camera};
use plates::layers::{Layer, Soft, masks, openraster, recipe_of};
use plates::light::Light;
use plates::mask::{MOST_POINTS, MaskGround, MaskStroke, PlateMask, painted};
use plates::merge::winners;
use plates::mix::mixed;
use proptest::prelude::*;
use std::io::Cursor;

fn stroke(points: &[[f64; 2]], radius: f64, soft: f64, adds: bool) -> MaskStroke {
    MaskStroke { points: points.to_vec(), radius, soft, adds }
}

fn mask(ground: MaskGround, strokes: Vec<MaskStroke>) -> PlateMask {
    PlateMask { ground, strokes }
}

/// What a hard brush covers is the area of a disc, pi r squared, and along a line a rectangle besides, 2 r long (plane geometry). A soft
/// one that fades from its middle by `3 t^2 - 2 t^3` covers 3/10 of the disc: the integral of 2 s (1 - (3 s^2 - 2 s^3)) from nought to one.
#[test]
fn strokes_cover_the_area_of_their_shape() {
    let (w, h) = (400usize, 300usize);
    let sum = |m: &PlateMask| f64::from(m.painted((w, h), None).iter().sum::<f32>());
    let r = 0.1 * w as f64;
    let disc = std::f64::consts::PI * r * r;
    let dab = sum(&mask(MaskGround::None, vec![stroke(&[[0.5, 0.5]], 0.1, 0.0, true)]));
    assert!((dab / disc - 1.0).abs() < 0.002, "{dab} for {disc}");
    let line = sum(&mask(MaskGround::None, vec![stroke(&[[0.3, 0.5], [0.5, 0.5], [0.7, 0.5]], 0.1, 0.0, true)]));
    let want = disc + 2.0 * r * 0.4 * w as f64;
    assert!((line / want - 1.0).abs() < 0.002, "{line} for {want}");
    let soft = sum(&mask(MaskGround::None, vec![stroke(&[[0.5, 0.5]], 0.1, 1.0, true)]));
    assert!((soft / disc - 0.3).abs() < 0.003, "{}", soft / disc);
    // taken away from everywhere the same is missing
    let without = sum(&mask(MaskGround::All, vec![stroke(&[[0.5, 0.5]], 0.1, 0.0, false)]));
    assert!((w as f64 * h as f64 - without - dab).abs() < 1.0);
}

#[test]
fn a_mask_on_a_picture_of_another_size_is_the_same_picture() {
    let m = mask(MaskGround::None, vec![stroke(&[[0.2, 0.3], [0.8, 0.6]], 0.15, 0.6, true)]);
    let (small, large) = (m.painted((200, 150), None), m.painted((400, 300), None));
    for (x, y) in [(40, 45), (100, 68), (150, 80), (60, 100), (199, 149)] {
        let four: f32 =
            [(0, 0), (1, 0), (0, 1), (1, 1)].iter().map(|(i, j)| large[(2 * y + j) * 400 + 2 * x + i]).sum();
        assert!((small[y * 200 + x] - 0.25 * four).abs() < 0.02, "{x} {y}");
    }
}

proptest! {
    #[test]
    fn what_is_painted_stays_within_nought_and_one(
        each in prop::collection::vec((prop::collection::vec([-0.5f64..1.5, -0.5f64..1.5], 1..6), 0.001f64..0.5, 0.0f64..=1.0, any::<bool>()), 0..6),
        none in any::<bool>(),
    ) {
        let strokes = each.into_iter().map(|(p, r, s, adds)| stroke(&p, r, s, adds)).collect();
        let m = mask(if none { MaskGround::None } else { MaskGround::All }, strokes);
        prop_assert!(m.check().is_ok());
        prop_assert!(m.painted((61, 43), None).iter().all(|v| (0.0..=1.0).contains(v)));
    }

    /// A last stroke that adds over all leaves nothing of what was taken before, and the other way round.
    #[test]
    fn the_last_stroke_has_the_last_word(adds in any::<bool>(), x in 0.0f64..1.0, y in 0.0f64..1.0) {
        let over_all = stroke(&[[0.0, 0.0], [1.0, 1.0]], 0.5, 0.0, adds);
        let m = mask(MaskGround::All, vec![stroke(&[[x, y]], 0.2, 0.5, !adds), over_all]);
        let at = m.painted((40, 40), None)[20 * 40 + 20];
        prop_assert_eq!(at, if adds { 1.0 } else { 0.0 });
    }
}

#[test]
fn what_is_no_mask_is_refused_with_the_field() {
    let bad = |m: PlateMask, word: &str| {
        let e = m.check().expect_err(word);
        assert!(e.contains(word), "{e}");
    };
    bad(mask(MaskGround::All, vec![stroke(&[], 0.1, 0.0, true)]), "strokes[0].points");
    bad(mask(MaskGround::All, vec![stroke(&[[f64::NAN, 0.5]], 0.1, 0.0, true)]), "strokes[0].points");
    bad(mask(MaskGround::All, vec![stroke(&[[0.5, 9.0]], 0.1, 0.0, true)]), "strokes[0].points");
    bad(mask(MaskGround::All, vec![stroke(&[[0.5, 0.5]], 0.0, 0.0, true)]), "radius");
    bad(mask(MaskGround::All, vec![stroke(&[[0.5, 0.5]], 0.1, 1.5, true)]), "softness");
    bad(mask(MaskGround::All, vec![stroke(&[[0.5, 0.5]], 0.1, 0.0, true); 401]), "strokes: expected at most 400");
    bad(mask(MaskGround::All, vec![stroke(&vec![[0.5, 0.5]; MOST_POINTS + 1], 0.1, 0.0, true)]), "points together");
    // few enough points, but each goes over the whole picture: what it takes to draw is bounded as well
    bad(mask(MaskGround::All, vec![stroke(&vec![[0.5, 0.5]; 1000], 0.5, 0.0, true)]), "go over the picture 999 times");
    let start = std::time::Instant::now();
    let most = mask(MaskGround::All, vec![stroke(&vec![[0.5, 0.5]; 150], 0.5, 0.5, true)]);
    most.check().expect("as much as may be");
    most.painted((640, 480), None);
    assert!(start.elapsed().as_secs_f64() < 10.0, "{:?}", start.elapsed());
}

fn plates() -> (Vec<Photo>, Photo) {
    let all = LAMPS[..2].iter().map(|l| taken(|x, y| 0.02 + lit(*l, x, y), 1e6, 3)).collect();
    (all, taken(|_, _| 0.02, 1e6, 9))
}

/// Light adds: where a mask leaves a plate out the mix is the others and the dark frame; where it is half, half of the plate.
#[test]
fn a_plate_counts_by_its_mask() {
    let (photos, dark) = plates();
    let lights: Vec<Light> = photos.iter().map(|p| Light::of(p, 2)).collect();
    let dark = Light::of(&dark, 2);
    let size = (lights[0].width, lights[0].height);
    let m = mask(MaskGround::All, vec![stroke(&[[0.0, 0.0], [0.0, 1.0]], 0.25, 0.0, false)]);
    let each = painted(&[Some(&m), None], size, || unreachable!("nothing asks for it"));
    assert!(each[1].is_none());
    let first = each[0].as_ref().expect("a mask");
    let masked = lights[0].masked(first, Some(&dark));
    let mix = mixed(&[&masked, &lights[1]], Some(&dark), &[[1.0; 3]; 2]);
    let whole = mixed(&[&lights[0], &lights[1]], Some(&dark), &[[1.0; 3]; 2]);
    let at = |x: usize, y: usize| y * size.0 + x;
    let left = at(5, 40);
    assert!((mix[left][1] - lights[1].rgb[left][1]).abs() < 1e-4, "left out on the left");
    let right = at(size.0 - 5, 40);
    assert!((mix[right][1] - whole[right][1]).abs() < 1e-6, "untouched on the right");
    let half = lights[0].masked(&vec![0.5; first.len()], Some(&dark));
    for i in (0..half.len()).step_by(97) {
        let want = dark.rgb[i][0] + 0.5 * (lights[0].rgb[i][0] - dark.rgb[i][0]);
        assert!((half.rgb[i][0] - want).abs() < 1e-6);
    }
}

/// Where each counts where it is the lightest the masks are those of a merge by the lighter, and add to one.
#[test]
fn the_lightest_is_a_ground_to_paint_on() {
    let (photos, _) = plates();
    let lights: Vec<Light> = photos.iter().map(|p| Light::of(p, 2)).collect();
    let refs: Vec<&Light> = lights.iter().collect();
    let size = (lights[0].width, lights[0].height);
    let m = mask(MaskGround::Lightest, Vec::new());
    let each = painted(&[Some(&m), Some(&m)], size, || winners(&refs, None, &[1.0; 2]));
    let of = |k: usize| each[k].as_ref().expect("a mask");
    assert!(of(0).iter().zip(of(1)).all(|(a, b)| (a + b - 1.0).abs() < 1e-4));
    assert!(of(0).iter().any(|v| *v > 0.95) && of(0).iter().any(|v| *v < 0.05));
}

#[test]
fn files_hold_what_was_painted() {
    let (photos, _) = plates();
    let layers = ["key", "edge"].map(|n| Layer { name: n.into(), factor: [1.0; 3], mask: None });
    let blocks = (W as usize / 2, H as usize / 2);
    let m = mask(MaskGround::None, vec![stroke(&[[0.25, 0.5]], 0.15, 0.0, true)]);
    let painted = Soft { blocks, each: vec![Some(m.painted(blocks, None)), None] };
    let lightest = Soft { blocks, each: vec![Some(vec![0.5; blocks.0 * blocks.1]); 2] };
    let mut load = |k: usize| Ok(photos[k].clone());
    let mut bytes = Cursor::new(Vec::new());
    masks(&mut bytes, (W, H), &layers, [&painted, &lightest], None, &mut load, &mut |_| {}).expect("written");
    let bytes = bytes.into_inner();
    let recipe = recipe_of(&String::from_utf8(entry(&bytes, "mix.json")).expect("text")).expect("a recipe");
    // the recipe says which plate counts by a mask; the other's file is a suggestion
    assert_eq!(recipe.layers[0].mask.as_deref(), Some("mask01.png"));
    assert_eq!(recipe.layers[1].mask, None);
    let grey = |name: &str, x: u32, y: u32| {
        image::load_from_memory(&entry(&bytes, name)).expect("a picture").to_luma8().get_pixel(x, y)[0]
    };
    assert_eq!((grey("mask01.png", W / 4, H / 2), grey("mask01.png", 3 * W / 4, H / 2)), (255, 0));
    assert_eq!(grey("mask02.png", W / 4, H / 2), 128);
    let mix = image::load_from_memory(&entry(&bytes, "mix.png")).expect("a picture").to_rgb16();
    let coded = |l: f32| 65_535.0 * optics::tone::linear_to_srgb(f64::from(l));
    let inside = photos[0].rgb(W / 4, H / 2)[1] + photos[1].rgb(W / 4, H / 2)[1];
    assert!((f64::from(mix.get_pixel(W / 4, H / 2)[1]) - coded(inside)).abs() < 2.0);
    let outside = photos[1].rgb(3 * W / 4, H / 2)[1];
    assert!((f64::from(mix.get_pixel(3 * W / 4, H / 2)[1]) - coded(outside)).abs() < 2.0);
    // and in layers it is in the layer itself
    let mut bytes = Cursor::new(Vec::new());
    openraster(&mut bytes, (W, H), &layers, &painted, None, &mut load, &mut |_| {}).expect("written");
    let layer = image::load_from_memory(&entry(&bytes.into_inner(), "data/plate01.png")).expect("a picture").to_rgb8();
    assert_eq!(layer.get_pixel(3 * W / 4, H / 2).0, [0, 0, 0]);
    assert!(layer.get_pixel(W / 4, H / 2)[1] > 0);
}

#[test]
fn a_desk_keeps_its_masks_and_says_what_only_the_mix_can_do() {
    let m = mask(MaskGround::None, vec![stroke(&[[0.5, 0.5]], 0.1, 0.5, true)]);
    let plain: DeskPlate = serde_json::from_str(r#"{"frame":"a","name":"key"}"#).expect("a plate of an older desk");
    assert!(plain.mask.is_none());
    let masked = DeskPlate { frame: "b".into(), name: "edge".into(), mask: Some(m.clone()), ..plain.clone() };
    let desk = Desk { plates: vec![plain, masked], ..Desk::default() };
    desk.check().expect("sound");
    let back: Desk = serde_json::from_str(&serde_json::to_string(&desk).expect("text")).expect("read back");
    assert_eq!(back.masks(), [None, Some(&m)]);
    let says = in_camera(&desk, None, &[]);
    assert!(!says[0].says.contains("mask") && says[1].says.contains("flag or a cutter"), "{}", says[1].says);
    // what all masks of a desk take to draw is bounded as well
    let wide = mask(MaskGround::All, vec![stroke(&vec![[0.5, 0.5]; 140], 0.5, 0.0, true)]);
    let many = (0..5).map(|k| DeskPlate { frame: k.to_string(), mask: Some(wide.clone()), ..desk.plates[0].clone() });
    let e = Desk { plates: many.collect(), ..Desk::default() }.check().expect_err("too much together");
    assert!(e.contains("go over the picture 695 times together"), "{e}");
    let mut bad = desk;
    bad.plates[1].mask.as_mut().expect("a mask").strokes[0].radius = 7.0;
    let e = bad.check().expect_err("too large");
    assert!(e.contains("plates[1] (edge): mask: strokes[0]"), "{e}");
}
