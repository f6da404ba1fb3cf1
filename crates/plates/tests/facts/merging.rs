//! Merging by the lighter, masks, layers that other programs open.

use crate::mixing::{H, LAMPS, W, lit, taken};
use optics::photo::Photo;
use plates::layers::{Layer, Soft, masks, openraster, recipe_of};
use plates::light::Light;
use plates::merge::{guided, plan, winners};
use std::io::{Cursor, Read};

fn three() -> Vec<Photo> {
    // each lights a third of the picture, the bottom is lit by none
    (0..3u32)
        .map(|k| {
            taken(
                move |x, y| {
                    let at = f64::from(k) * 80.0 + 40.0;
                    if y > 150.0 { 0.001 } else { 0.5 * (-((x - at) / 40.0).powi(2)).exp() + 0.01 }
                },
                1e6,
                k,
            )
        })
        .collect()
}

#[test]
fn each_plate_wins_where_it_is_lightest() {
    let lights: Vec<Light> = three().iter().map(|p| Light::of(p, 1)).collect();
    let refs: Vec<&Light> = lights.iter().collect();
    let w = winners(&refs, None, &[1.0; 3]);
    for (x, want) in [(20, 0), (120, 1), (200, 2)] {
        assert_eq!(w.plate[70 * W as usize + x], want, "{x}");
    }
    let names = ["left", "middle", "right"].map(String::from);
    let p = plan(&refs, None, &[1.0; 3], &names);
    assert!((p.wins.iter().sum::<f64>() - 1.0).abs() < 1e-9);
    assert_eq!(p.enough, 3);
    // the dark bottom is named with where it is
    assert!(p.unlit[0].says.contains("the bottom"), "{:?}", p.unlit);
    assert!((p.unlit[0].share - 30.0 / 180.0).abs() < 0.02);
    // one plate turned off wins nothing
    let without = plan(&refs, None, &[1.0, 0.0, 1.0], &names);
    assert!(without.says.iter().any(|s| s.contains("Nowhere the lightest: middle")), "{:?}", without.says);
}

#[test]
fn few_plates_do_what_many_do() {
    let mut photos = three();
    photos.push(taken(
        |x, y| if y > 150.0 { 0.001 } else { 0.3 * (-((x - 40.0) / 40.0).powi(2)).exp() + 0.005 },
        1e6,
        8,
    ));
    let lights: Vec<Light> = photos.iter().map(|p| Light::of(p, 1)).collect();
    let refs: Vec<&Light> = lights.iter().collect();
    let names: Vec<String> = (1..=4).map(|k| format!("plate {k}")).collect();
    let p = plan(&refs, None, &[1.0; 4], &names);
    assert_eq!(p.enough, 3, "{:?}", p.says);
    assert!(!p.order[..3].contains(&3));
}

/// Masks add to one everywhere and keep to an edge of the picture: the guided filter (He, Sun & Tang 2013) of a step along the same step
/// of its guide is that step.
#[test]
fn masks_add_to_one_and_keep_to_edges() {
    let lights: Vec<Light> = three().iter().map(|p| Light::of(p, 1)).collect();
    let refs: Vec<&Light> = lights.iter().collect();
    let m = winners(&refs, None, &[1.0; 3]).masks(3);
    for i in (0..m[0].len()).step_by(17) {
        let sum: f32 = m.iter().map(|m| m[i]).sum();
        assert!((sum - 1.0).abs() < 1e-4, "{sum}");
    }
    let step: Vec<f32> = (0..64 * 8).map(|i| f32::from(u8::from(i % 64 >= 32))).collect();
    let out = guided(&step, &step, (64, 8), 4, 1e-4);
    assert!(out.iter().zip(&step).all(|(a, b)| (a - b).abs() < 0.01));
    let flat = vec![0.5f32; 64 * 8];
    let soft = guided(&flat, &step, (64, 8), 4, 1e-4);
    assert!(soft[4 * 64 + 31] > 0.3 && soft[4 * 64 + 31] < 0.7, "without an edge it is soft: {}", soft[4 * 64 + 31]);
}

/// A file out of a zip.
pub(crate) fn entry(bytes: &[u8], name: &str) -> Vec<u8> {
    let mut zip = zip::ZipArchive::new(Cursor::new(bytes)).expect("a zip");
    let mut out = Vec::new();
    zip.by_name(name).unwrap_or_else(|e| panic!("{name}: {e}")).read_to_end(&mut out).expect("read");
    out
}

/// OpenRaster 0.0.6: the first entry is `mimetype`, stored; `stack.xml` names the layers, topmost first; a merged picture and a
/// thumbnail of at most 256 pixels go with it.
#[test]
fn layers_follow_the_published_format() {
    let photos = three();
    let layers: Vec<Layer> = ["left & low", "middle", "right"]
        .iter()
        .map(|n| Layer { name: (*n).into(), factor: [1.0, 1.0, 0.5], mask: None })
        .collect();
    let mut bytes = Cursor::new(Vec::new());
    let mut steps = Vec::new();
    let none = Soft { blocks: (1, 1), each: vec![None; 3] };
    openraster(&mut bytes, (W, H), &layers, &none, None, &mut |k| Ok(photos[k].clone()), &mut |k| steps.push(k))
        .expect("written");
    let bytes = bytes.into_inner();
    assert_eq!(&bytes[30..38], b"mimetype", "it is the first entry");
    assert_eq!(&bytes[38..54], b"image/openraster", "and not compressed");
    assert_eq!(steps, [1, 2, 3]);
    let xml = String::from_utf8(entry(&bytes, "stack.xml")).expect("text");
    assert!(xml.contains("w=\"240\" h=\"180\"") && xml.contains("svg:lighten"), "{xml}");
    assert!(xml.find("right").expect("right") < xml.find("left &amp; low").expect("left"), "topmost first: {xml}");
    let merged = image::load_from_memory(&entry(&bytes, "mergedimage.png")).expect("a picture").to_rgb8();
    for x in [20, 120, 220] {
        let best = photos.iter().map(|p| p.rgb(x, 70)[0]).fold(0.0, f32::max);
        let want = (255.0 * optics::tone::linear_to_srgb(f64::from(best))).round() as i32;
        assert!((i32::from(merged.get_pixel(x, 70)[0]) - want).abs() <= 1);
        assert!(merged.get_pixel(x, 70)[2] < merged.get_pixel(x, 70)[0], "the colour of the mix is in it");
    }
    let small = image::load_from_memory(&entry(&bytes, "Thumbnails/thumbnail.png")).expect("a picture");
    assert!(small.width() <= 256 && small.height() <= 256);
}

#[test]
fn masks_the_mix_and_its_recipe_are_read_back() {
    let photos: Vec<Photo> = LAMPS[..2].iter().map(|l| taken(|x, y| lit(*l, x, y), 1e6, 3)).collect();
    let lights: Vec<Light> = photos.iter().map(|p| Light::of(p, 2)).collect();
    let refs: Vec<&Light> = lights.iter().collect();
    let layers = [("a", 0.5), ("b", 0.25)].map(|(n, f)| Layer { name: n.into(), factor: [f; 3], mask: None });
    let soft = winners(&refs, None, &[0.5, 0.25]).masks(2);
    let mut bytes = Cursor::new(Vec::new());
    let blocks = (lights[0].width, lights[0].height);
    let none = Soft { blocks, each: vec![None; 2] };
    let lightest = Soft { blocks, each: soft.into_iter().map(Some).collect() };
    masks(&mut bytes, (W, H), &layers, [&none, &lightest], None, &mut |k| Ok(photos[k].clone()), &mut |_| {})
        .expect("written");
    let bytes = bytes.into_inner();
    let recipe = recipe_of(&String::from_utf8(entry(&bytes, "mix.json")).expect("text")).expect("a recipe");
    assert_eq!(recipe.layers, layers);
    let mix = image::load_from_memory(&entry(&bytes, "mix.png")).expect("a picture").to_rgb16();
    // light adds: half of one and a quarter of the other, in sixteen bits
    for (x, y) in [(100, 60), (140, 120)] {
        let sum = 0.5 * photos[0].rgb(x, y)[1] + 0.25 * photos[1].rgb(x, y)[1];
        let want = 65_535.0 * optics::tone::linear_to_srgb(f64::from(sum));
        assert!((f64::from(mix.get_pixel(x, y)[1]) - want).abs() < 2.0);
    }
    let mask = image::load_from_memory(&entry(&bytes, "mask02.png")).expect("a picture");
    assert_eq!((mask.width(), mask.height()), (W, H));
    assert!(recipe_of("{\"format\":\"slant-set/1\"}").is_err());
}
