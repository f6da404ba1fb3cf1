//! The stand-in studio against closed forms.

use light::geometry::{AzEl, Vec3};
use light::photo::luminance;
use studio::{Lamp, LampShape, Scene, View, ball, encode, render};

fn view() -> View {
    View { width: 60, height: 60, vfov_deg: 3.0, distance: 3.0, rise: 0.0, grid: 6 }
}

fn lamp(az: f64, el: f64, distance: f64, shape: LampShape) -> Lamp {
    Lamp { direction: AzEl { azimuth_deg: az, elevation_deg: el }.vector(), distance, shape, facing: [0.8; 3] }
}

fn centre(pixels: &[f32]) -> f64 {
    // mean of the middle four pixels
    [(29, 29), (30, 29), (29, 30), (30, 30)]
        .iter()
        .map(|(x, y)| luminance([0, 1, 2].map(|c| pixels[3 * (y * 60 + x) + c])) / 4.0)
        .sum()
}

fn wall(lamps: Vec<Lamp>) -> Scene {
    Scene { bodies: vec![], lamps, ambient: [0.0; 3], backdrop: Some((0.0, [1.0; 3])) }
}

#[test]
fn a_white_wall_facing_the_lamp_shows_its_level() {
    // Disc and rectangle are calibrated by their configuration factors (Howell): a facing white surface shows 0.8.
    for shape in [LampShape::Disc(0.4), LampShape::Rectangle(0.3, 0.6)] {
        let v = centre(&render(&wall(vec![lamp(0.0, 0.0, 1.2, shape)]), &view()));
        assert!((v / 0.8 - 1.0).abs() < 0.02, "{shape:?}: {v}");
    }
}

#[test]
fn a_small_lamp_at_sixty_degrees_gives_half() {
    // Cosine law (Lambert 1760).
    let v = centre(&render(&wall(vec![lamp(60.0, 0.0, 4.0, LampShape::Disc(0.05))]), &view()));
    assert!((v / 0.4 - 1.0).abs() < 0.03, "{v}");
}

#[test]
fn light_adds_up() {
    let (a, b) = (lamp(30.0, 20.0, 2.0, LampShape::Disc(0.3)), lamp(-50.0, 0.0, 2.0, LampShape::Disc(0.2)));
    let one = |l: Vec<Lamp>| centre(&render(&wall(l), &view()));
    let both = one(vec![a, b]);
    assert!((both - one(vec![a]) - one(vec![b])).abs() < 0.02 * both);
}

#[test]
fn a_ball_before_the_lamp_casts_its_shadow() {
    let mut scene = wall(vec![lamp(0.0, 45.0, 3.0, LampShape::Disc(0.02))]);
    scene.bodies.push(ball(Vec3::new(0.0, 0.3, 0.3), 0.05, false));
    assert!(centre(&render(&scene, &view())) < 0.01);
}

#[test]
fn the_same_scene_gives_the_same_picture() {
    let scene = wall(vec![lamp(10.0, 20.0, 2.0, LampShape::Disc(0.3))]);
    assert_eq!(encode(&render(&scene, &view())), encode(&render(&scene, &view())));
}
