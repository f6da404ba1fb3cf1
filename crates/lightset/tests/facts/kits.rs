//! Kits: whatever a person owns survives its table, and every figure out of range is named.

use lightset::kit::{
    Dimming, Kit, KitBoard, Lamp, Modifier, Output, Pulse, Shape, Sheet, Stand, Throw, catalogue, from_csv, to_csv,
};
use lightset::set::BoardFinish;
use optics::power::Control;
use proptest::prelude::*;

/// Names as people type them: any letters, quotes, commas, line ends, and what a spreadsheet would compute.
fn name() -> impl Strategy<Value = String> {
    prop_oneof![
        "[A-Za-z0-9 ,\"';äß\u{5d0}\u{5d1}]{1,30}",
        "[=+@-][A-Z0-9()]{1,12}",
        "'{1,2}[=+]1",
        Just("softbox, 60 x 60\nwith its grid".to_owned()),
    ]
    .prop_map(|n: String| n.trim().to_owned())
    .prop_filter("a name", |n| !n.is_empty())
}

fn control() -> impl Strategy<Value = Control> {
    prop::sample::select(vec![
        Control::Fraction,
        Control::Percent,
        Control::Stops,
        Control::Panel,
        Control::Joules,
        Control::Fixed,
    ])
}

fn output() -> impl Strategy<Value = Output> {
    (0..4, 1.0f64..9000.0, 0.2f64..5.0, 2.0f64..180.0).prop_map(|(kind, v, at_m, beam_deg)| match kind {
        0 => Output::Lux { lux: v, at_m, beam_deg },
        1 => Output::Lumens { lumens: v, beam_deg },
        2 => Output::Guide { guide_number_m: v / 20.0 + 1.0, beam_deg },
        _ => Output::Joules { joules: v, beam_deg },
    })
}

fn pulse() -> impl Strategy<Value = Option<Pulse>> {
    let dimming = prop::sample::select(vec![Dimming::Cut, Dimming::Voltage]);
    let one = (0.0001f64..0.01, dimming, 0.1f64..8.0, prop::option::of(50.0f64..900.0));
    prop::option::of(one.prop_map(|(t01_s, dimming, ready_s, flashes)| Pulse { t01_s, dimming, ready_s, flashes }))
}

fn lamp() -> impl Strategy<Value = Lamp> {
    let figures = (0.01f64..0.6, 2000.0f64..9000.0, 0.0f64..1.0, -9.0f64..0.0, 1.0f64..12.0);
    let flags = (any::<bool>(), any::<bool>(), any::<bool>(), prop::option::of(0.0f64..3000.0));
    (name(), 0u32..9, output(), control(), figures, flags, pulse()).prop_map(
        |(name, count, output, control, (face_m, cct_k, spread_stops, lowest_stops, full_panel), flags, pulse)| Lamp {
            id: String::new(),
            name,
            count,
            output,
            control,
            lowest_stops,
            full_panel,
            face_m,
            cct_k,
            spread_stops,
            takes_modifiers: flags.0,
            draw_w: flags.3,
            pulse,
            hot: flags.1,
            household: flags.2,
        },
    )
}

fn modifier() -> impl Strategy<Value = Modifier> {
    let form = (prop::sample::select(vec![Shape::Disc, Shape::Rectangle]), 0.05f64..2.0, 0.05f64..2.0);
    let throws = vec![Throw::Even, Throw::Octagon, Throw::Umbrella, Throw::Dish, Throw::Bare];
    let throw = (prop::sample::select(throws), 0.2f64..1.0, 1.0f64..9.0, 0.1f64..1.0, prop::option::of(5.0f64..120.0));
    (name(), 0u32..9, form, throw, any::<bool>(), any::<bool>()).prop_map(
        |(name, count, (shape, w, h), (throws, near_m, far_m, share, beam_deg), household, alone)| Modifier {
            id: String::new(),
            name,
            count,
            shape,
            size_m: [w, h],
            near_m,
            far_m,
            throws,
            share,
            beam_deg,
            household,
            alone,
        },
    )
}

fn kit() -> impl Strategy<Value = Kit> {
    let size = || (0.05f64..3.0, 0.05f64..3.0).prop_map(|(w, h)| [w, h]);
    let sheet = (name(), 0u32..9, size(), 0.05f64..1.0, 0.0f64..1.0, any::<bool>()).prop_map(
        |(name, count, size_m, transmission, spread_stops, household)| Sheet {
            id: String::new(),
            name,
            count,
            size_m,
            transmission,
            spread_stops,
            household,
        },
    );
    let finishes =
        vec![BoardFinish::White, BoardFinish::Silver, BoardFinish::Gold, BoardFinish::Black, BoardFinish::Mirror];
    let board = (name(), 0u32..9, size(), prop::sample::select(finishes), any::<bool>()).prop_map(
        |(name, count, size_m, finish, household)| KitBoard {
            id: String::new(),
            name,
            count,
            size_m,
            finish,
            household,
        },
    );
    let stand = (name(), 0u32..9, 0.1f64..1.0, 1.0f64..4.0, any::<bool>(), any::<bool>()).prop_map(
        |(name, count, lowest_m, highest_m, boom, household)| Stand {
            id: String::new(),
            name,
            count,
            lowest_m,
            highest_m,
            boom,
            household,
        },
    );
    let few = 0..4usize;
    (
        prop::collection::vec(lamp(), few.clone()),
        prop::collection::vec(modifier(), few.clone()),
        prop::collection::vec(sheet, few.clone()),
        prop::collection::vec(board, few.clone()),
        prop::collection::vec(stand, few),
    )
        .prop_map(|(lamps, modifiers, sheets, boards, stands)| {
            let mut kit = Kit { lamps, modifiers, sheets, boards, stands, ..Kit::default() };
            // ids a person typed: one starts as a formula would
            let id = |i: usize| if i == 0 { "=1".to_owned() } else { format!("thing {i}") };
            kit.lamps.iter_mut().enumerate().for_each(|(i, x)| x.id = id(i));
            kit.modifiers.iter_mut().enumerate().for_each(|(i, x)| x.id = id(i));
            kit.sheets.iter_mut().enumerate().for_each(|(i, x)| x.id = id(i));
            kit.boards.iter_mut().enumerate().for_each(|(i, x)| x.id = id(i));
            kit.stands.iter_mut().enumerate().for_each(|(i, x)| x.id = id(i));
            kit
        })
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(200))]

    /// A kit written as a table and read again is the same kit, field by field (RFC 4180).
    #[test]
    fn a_kit_survives_its_table(kit in kit()) {
        prop_assert!(kit.check().is_ok(), "{:?}", kit.check());
        let table = to_csv(&kit);
        let empty = kit.lamps.len() + kit.modifiers.len() + kit.sheets.len() + kit.boards.len() + kit.stands.len() == 0;
        prop_assume!(!empty);
        let back = from_csv(&table);
        prop_assert_eq!(back, Ok(kit), "{}", table);
    }

    /// No cell of the table begins as a formula does.
    #[test]
    fn no_cell_is_a_formula(kit in kit()) {
        let table = to_csv(&kit);
        let mut reader = csv::Reader::from_reader(table.as_bytes());
        for row in reader.records() {
            let row = row.unwrap();
            // figures may be negative: only what a person typed is looked at
            for cell in row.iter().filter(|c| c.parse::<f64>().is_err()) {
                prop_assert!(!cell.starts_with(['=', '+', '-', '@']), "{cell}");
            }
        }
    }

    /// What a modifier of a lamp lets out, and how far it must stand: nearer is larger, and the distance for an angle gives that angle.
    #[test]
    fn nearer_is_larger(m in modifier(), d in 0.3f64..4.0, nearer in 0.3f64..0.95) {
        use optics::units::Metres;
        prop_assert!(m.angle_at(Metres(d * nearer)) > m.angle_at(Metres(d)));
        let a = m.angle_at(Metres(d));
        prop_assert!((m.distance_for(a).0 / d - 1.0).abs() < 1e-6);
    }
}

#[test]
fn figures_out_of_range_are_named_with_their_row() {
    let lamp = catalogue().lamps[0].clone();
    let bad = |change: &dyn Fn(&mut Lamp)| {
        let mut l = lamp.clone();
        change(&mut l);
        Kit { lamps: vec![l], ..Kit::default() }.check().expect_err("out of range")
    };
    for (field, change) in [
        ("cct_k", &(|l: &mut Lamp| l.cct_k = 90.0) as &dyn Fn(&mut Lamp)),
        ("cct_k", &|l| l.cct_k = f64::NAN),
        ("spread_stops", &|l| l.spread_stops = -0.1),
        ("lowest_stops", &|l| l.lowest_stops = 1.0),
        ("face_m", &|l| l.face_m = 0.0),
        ("count", &|l| l.count = 100),
        ("draw_w", &|l| l.draw_w = Some(1e6)),
        ("full_panel", &|l| l.full_panel = f64::INFINITY),
        ("lux", &|l| l.output = Output::Lux { lux: -1.0, at_m: 1.0, beam_deg: 60.0 }),
        ("at_m", &|l| l.output = Output::Lux { lux: 1.0, at_m: 0.0, beam_deg: 60.0 }),
        ("joules", &|l| l.output = Output::Joules { joules: 0.0, beam_deg: 60.0 }),
        ("beam_deg", &|l| l.output = Output::Lumens { lumens: 5.0, beam_deg: 400.0 }),
        ("name", &|l| l.name = " ".into()),
        ("name", &|l| l.name = "n".repeat(121)),
    ] {
        let says = bad(change);
        assert!(says.contains(field), "{field}: {says}");
        if field != "name" {
            assert!(says.starts_with(&lamp.name), "{says}");
        }
    }
    let twice = Kit { lamps: vec![lamp.clone(), lamp], ..Kit::default() };
    assert!(twice.check().unwrap_err().contains("twice"));
    let low = Kit { ceiling_m: Some(0.9), ..Kit::default() };
    assert!(low.check().unwrap_err().contains("ceiling_m"));
}

/// A table by hand: few columns, the usual ones filled in, the row and column of what is wrong named.
#[test]
fn a_table_by_hand_is_filled_in_or_named() {
    let kit = from_csv("kind,name,output,measured,width_m\nlamp,Work light,2000,lumens,0.2\n").expect("a kit");
    let l = &kit.lamps[0];
    assert_eq!((l.id.as_str(), l.count, l.cct_k), ("work-light", 1, 5600.0));
    assert_eq!(l.output, Output::Lumens { lumens: 2000.0, beam_deg: 90.0 });
    assert!(!l.is_flash() && l.pulse.is_none());
    for (table, says) in [
        ("kind,name\nlamp,A\n", "line 2 (A): output is missing"),
        ("kind,name,output\nlamp,A,5\n", "measured: expected lux, lumens, guide or joules"),
        ("kind,name,output,measured\nlamp,A,5,lux\n", "width_m is missing"),
        ("kind,name,output,measured,width_m,control\nlamp,A,5,lux,0.1,dial\n", "control: \"dial\" is not known"),
        ("kind,name\ntripod,B\n", "expected lamp, modifier, sheet, board or stand"),
        ("kind,name,width_m\nsheet,C,1\n", "transmission is missing"),
        ("kind,name\nstand,D\n", "highest_m is missing"),
        ("kind,name,width_m,finish\nboard,E,1,purple\n", "finish: \"purple\" is not known"),
        ("kind,name,output\nlamp,A,many\n", "line 2"),
        ("name\nA\n", "no column \"kind\""),
        ("", "no column"),
    ] {
        let e = from_csv(table).expect_err(table);
        assert!(e.contains(says), "{table}: {e}");
    }
    // a byte order mark and spaces do not matter
    let kit = from_csv("\u{feff}kind , name , width_m , finish\nboard , Card , 0.7 , black\n").expect("a kit");
    assert_eq!((kit.boards[0].name.as_str(), kit.boards[0].size_m), ("Card", [0.7, 0.7]));
}
