//! Several people in one picture: each face says what lights it, and if they are lit differently the lights that are named are
//! those of one person, whom a person may choose.

use super::{Reader, round};
use crate::marks::{Eye, Face, Mark, MarkKind};
use crate::readings::PersonView;
use direction::fusion::Evidence;
use direction::shapes::Point;
use optics::geometry::angle_between;
use optics::words;

/// Standard deviations by which the keys of two faces must differ to be two lights.
const DIFFERENT: f64 = 2.5;
/// An eye belongs to a face if it lies within this part of the eyes' distance from one of its eyes.
const OF_EYES_APART: f64 = 0.5;

/// The middle of a face and the distance of its eyes, pixels.
fn place(face: &Face) -> Option<(Point, f64)> {
    let at = |name: &str| face.points.get(name).copied();
    let (l, r) = (at("eye_image_left")?, at("eye_image_right")?);
    Some(([f64::midpoint(l[0], r[0]), f64::midpoint(l[1], r[1])], (l[0] - r[0]).hypot(l[1] - r[1])))
}

impl Reader<'_> {
    /// Faces that are read, the largest first.
    fn faces(&self) -> Vec<(&Mark, &Face)> {
        let on = self.marks.marks.iter().filter(|m| !m.off);
        let mut all: Vec<(&Mark, &Face)> = on
            .filter_map(|m| match &m.kind {
                MarkKind::Face(f) => Some((m, f)),
                _ => None,
            })
            .collect();
        all.sort_by(|a, b| {
            let size = |f: &Face| place(f).map_or(0.0, |p| p.1);
            size(b.1).total_cmp(&size(a.1))
        });
        all
    }

    /// The face that a mark belongs to, if it is a face or an eye of one.
    fn owner(&self, mark: &str) -> Option<String> {
        let m = self.marks.marks.iter().find(|m| m.id == mark)?;
        match &m.kind {
            MarkKind::Face(_) => Some(m.id.clone()),
            MarkKind::Eye(Eye { limbus, .. }) => {
                let [x, y] = limbus.centre;
                let reach = |f: &Face| {
                    let apart = place(f)?.1;
                    let eyes = ["eye_image_left", "eye_image_right"].iter().filter_map(|n| f.points.get(*n));
                    let off = eyes.map(|p| (p[0] - x).hypot(p[1] - y)).fold(f64::MAX, f64::min);
                    (off < OF_EYES_APART * apart).then_some(off)
                };
                let own = self.faces().into_iter().filter_map(|(m, f)| Some((reach(f)?, m.id.clone())));
                own.min_by(|a, b| a.0.total_cmp(&b.0)).map(|o| o.1)
            }
            _ => None,
        }
    }

    /// What other marks say that a face may lean on: not the eyes of other people.
    pub(super) fn evidence_for(&self, mark: &Mark) -> Vec<Evidence> {
        if !matches!(mark.kind, MarkKind::Face(_)) || self.faces().len() < 2 {
            return self.evidence.clone();
        }
        let others = |e: &&Evidence| self.owner(&e.mark).is_none_or(|o| o == mark.id);
        self.evidence.iter().filter(others).cloned().collect()
    }

    /// What each of several faces says of its key. Where they are lit differently only one person's marks go on to be lights.
    pub(super) fn people(&mut self) -> Vec<PersonView> {
        let read = |id: &str| self.by_mark.get(id).is_some_and(|m| m.face.is_some());
        let faces: Vec<(String, f64)> = self
            .faces()
            .into_iter()
            .filter(|(m, _)| read(&m.id))
            .filter_map(|(m, f)| Some((m.id.clone(), place(f)?.0[0])))
            .collect();
        if faces.len() < 2 {
            return Vec::new();
        }
        let chosen = self.marks.whose.as_ref().and_then(|w| faces.iter().position(|f| &f.0 == w)).unwrap_or(0);
        let mut across: Vec<f64> = faces.iter().map(|f| f.1).collect();
        across.sort_by(f64::total_cmp);
        let key = |id: &str| {
            let leads = self.arounds.iter().find(|a| a.0 == id).is_none_or(|a| a.1.leads);
            self.by_mark.get(id).and_then(|m| m.lights.first()).filter(|_| leads)
        };
        let ours = key(&faces[chosen].0);
        let mut people: Vec<PersonView> = faces
            .iter()
            .enumerate()
            .map(|(k, (id, x))| {
                let own = key(id);
                let alike = match (own, ours) {
                    (Some(a), Some(b)) => {
                        let sd = a.direction_sd_deg.hypot(b.direction_sd_deg).to_radians();
                        angle_between(&a.at().vector(), &b.at().vector()) < DIFFERENT * sd
                    }
                    (a, b) => a.is_none() && b.is_none(),
                };
                PersonView {
                    face: id.clone(),
                    place: placed(across.iter().position(|a| a == x).unwrap_or(0), across.len()),
                    key_azimuth_deg: own.map(|s| round(s.azimuth_deg, 1)),
                    key_elevation_deg: own.map(|s| round(s.elevation_deg, 1)),
                    key_sd_deg: own.map(|s| round(s.direction_sd_deg, 1)),
                    named: k == chosen || alike,
                    says: own
                        .map_or("no light leads".into(), |s| words::direction_words(s.azimuth_deg, s.elevation_deg)),
                }
            })
            .collect();
        let alike = people.iter().all(|p| p.named);
        if !alike {
            people.iter_mut().enumerate().for_each(|(k, p)| p.named = k == chosen);
        }
        let place = |p: &PersonView| faces.iter().find(|f| f.0 == p.face).map_or(0.0, |f| f.1);
        people.sort_by(|a, b| place(a).total_cmp(&place(b)));
        if alike {
            return people;
        }
        // one person's lights are named, and what other people's marks say is left out
        let ours = &faces[chosen].0;
        let others: Vec<String> =
            self.by_mark.keys().filter(|m| self.owner(m).is_some_and(|o| &o != ours)).cloned().collect();
        self.evidence.retain(|e| !others.contains(&e.mark));
        self.ambient.retain(|a| !others.contains(&a.0));
        self.arounds.retain(|a| !others.contains(&a.0));
        self.shadings.retain(|s| !others.contains(&s.0));
        self.warnings.retain(|w| w.mark.as_ref().is_none_or(|m| !others.contains(m)));
        people
    }
}

/// Where one of several stands in the picture, counted from the left.
fn placed(k: usize, of: usize) -> String {
    const COUNTED: [&str; 6] = ["second", "third", "fourth", "fifth", "sixth", "seventh"];
    match (k, of) {
        (0, _) => "left".into(),
        (k, n) if k + 1 == n => "right".into(),
        (1, 3) => "middle".into(),
        (k, _) => format!("{} from the left", COUNTED.get(k - 1).copied().unwrap_or("farther")),
    }
}
