//! Sets from a wish: what was wished is what a meter finds in them, or they say what is in the way.

use adviser::{Proposal, proposals};
use lightset::kit::{Kit, catalogue};
use lightset::set::SubjectKind;
use optics::geometry::Vec3;
use optics::role::Role;
use planning::wish::{WallSide, Wish, WishRoom, WishWindow, looks};

fn wish(look: &str) -> Wish {
    let studio = WishRoom { width_m: 6.0, depth_m: 8.0, height_m: 3.0, walls: [0.25; 3], window: None };
    serde_json::from_value(serde_json::json!({ "look": look, "room": studio })).expect("a wish")
}

fn first(w: &Wish) -> Proposal {
    proposals(w, catalogue()).expect("sets").remove(0)
}

/// In a grey studio with everything there is, the first set of a look gives its ratio within a third of a stop and the exposure
/// the camera is set for (ratios by a meter: common practice).
#[test]
fn a_look_gets_its_ratio_and_exposure() {
    for look in ["loop", "triangle", "split", "talking", "box"] {
        let p = first(&wish(look));
        let ratio = p.meter.ratio.as_ref().expect("a ratio").key_to_fill;
        let own = looks().iter().find(|l| l.id == look).expect("a look").key_to_fill;
        assert_eq!(p.wanted_key_to_fill, own);
        assert!((ratio / own).log2().abs() < 0.34, "{look}: {ratio} for {own}");
        assert!(p.meter.over_stops.abs() < 0.1, "{look}: {} stops over", p.meter.over_stops);
        let key = p.meter.lights.iter().find(|l| l.role == Role::Key).expect("a key");
        assert!(key.azimuth_deg < 0.0, "the key comes from image left: {}", key.azimuth_deg);
        // what stands, stands in the room
        for l in &p.set.lights {
            let at = l.position();
            assert!(at.x.abs() < 3.05 && at.y < 3.0, "{look}: {} at {at:?}", l.name);
        }
    }
}

/// Two to one and eight to one are two to one and eight to one, and the other side is the mirror image.
#[test]
fn a_ratio_and_a_side_are_followed() {
    for (wanted, right) in [(2.0, false), (8.0, true)] {
        let p = first(&Wish { key_to_fill: Some(wanted), from_right: right, ..wish("loop") });
        let got = p.meter.ratio.as_ref().expect("a ratio").key_to_fill;
        assert!((got / wanted).log2().abs() < 0.34, "{got} for {wanted}");
        let key = p.meter.lights.iter().find(|l| l.role == Role::Key).expect("a key");
        assert_eq!(key.azimuth_deg > 0.0, right);
    }
}

/// The slash: a slit across the eyes, where the key's light comes through; forehead and chin are dark.
#[test]
fn a_slash_lies_over_the_eyes() {
    let p = first(&wish("slash"));
    assert_eq!(p.set.flags.len(), 1, "{:?}", p.problems);
    let key = p.set.lights.iter().position(|l| l.name == "key").expect("a key");
    let alone = lightset::set::LightSet {
        lights: vec![p.set.lights[key].clone()],
        boards: Vec::new(),
        walls: Vec::new(),
        subjects: Vec::new(),
        ..p.set.clone()
    };
    let toward = alone.lights[0].position().normalize();
    let at = |y: f64| studio::flat_at(&alone, &[(Vec3::new(0.0, y, 0.0), toward)]).expect("a meter")[0];
    assert!(at(0.0) > 20.0 * at(0.08).max(at(-0.08)), "eyes {}, forehead {}, chin {}", at(0.0), at(0.08), at(-0.08));
}

/// A background's lamp is metered at the background, and its powers come from a lamp of the kit.
#[test]
fn a_background_has_a_lamp_of_its_own() {
    let mut w = wish("high_key");
    w.background = Some([0.2; 3]);
    let p = first(&w);
    let lamp = p.lamps.iter().find(|l| l.light == "background").expect("a lamp for it");
    assert!(lamp.lamp.is_some(), "{}", lamp.says);
    let under = p.meter.background.as_ref().expect("a background").under_stops;
    assert!((under - p.wanted_under_stops).abs() < 0.5, "{under} for {}", p.wanted_under_stops);
}

/// A window that lies about where the key comes from is a way to make it; the rest of the room's figures bound the others.
#[test]
fn a_window_is_used_where_it_is() {
    let mut w = wish("split");
    w.room.window = Some(WishWindow { wall: WallSide::Left, width_m: 1.4, height_m: 1.6 });
    w.room.width_m = 3.0;
    let all = proposals(&w, &Kit::household()).expect("sets");
    let window = all.iter().flat_map(|p| &p.set.lights).find(|l| l.source.is_window()).expect("the window");
    assert!((window.position().x + 1.49).abs() < 0.02, "it is in the left wall: {:?}", window.position());
    // and in the other wall it is no way to make a key from the left
    w.room.window = Some(WishWindow { wall: WallSide::Right, width_m: 1.4, height_m: 1.6 });
    let all = proposals(&w, catalogue()).expect("sets");
    assert!(all.iter().all(|p| p.set.lights.iter().all(|l| l.name != "key" || !l.source.is_window())));
}

/// Bad wishes get a sentence, with by how much.
#[test]
fn what_cannot_be_is_said() {
    let small = Wish { room: WishRoom { depth_m: 2.0, ..WishRoom::default() }, ..wish("loop") };
    let said = proposals(&small, catalogue()).unwrap_err();
    // 2.0 m of lens, 0.5 m behind it, 0.75 m of background: 3.25 m
    assert!(said.contains("1.2 m too short") || said.contains("1.3 m too short"), "{said}");
    let low = Wish { standing: true, room: WishRoom { height_m: 1.6, ..WishRoom::default() }, ..wish("loop") };
    assert!(proposals(&low, catalogue()).unwrap_err().contains("too low"), "a standing sitter");
    assert!(
        proposals(&Wish { look: "nothing".into(), ..wish("loop") }, catalogue())
            .unwrap_err()
            .contains("expected one of flat")
    );
    assert!(proposals(&wish("loop"), &Kit::default()).unwrap_err().contains("kit holds nothing"));
    let odd = Wish { key_to_fill: Some(f64::NAN), ..wish("loop") };
    assert!(proposals(&odd, catalogue()).unwrap_err().contains("key_to_fill"));
    let narrow = Wish {
        room: WishRoom { width_m: 1.2, ..WishRoom::default() },
        subject: Some(SubjectKind::Bottle),
        ..wish("split")
    };
    let told = proposals(&narrow, catalogue()).expect("sets, with what is wrong");
    assert!(
        told.iter().any(|p| p.problems.iter().any(|x| x.contains("too small")))
            || told.iter().all(|p| p.set.lights.iter().all(|l| l.position().x.abs() < 0.65))
    );
}
