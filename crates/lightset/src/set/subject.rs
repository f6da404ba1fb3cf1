//! What stands before the lens.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// Something to light.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Subject {
    /// What it is.
    pub kind: SubjectKind,
    /// Where its reference point is.
    #[serde(default)]
    #[schema(value_type = optics::geometry::Triple)]
    pub position_m: [f64; 3],
    /// Turn about the vertical, degrees, positive to camera right.
    #[serde(default)]
    pub yaw_deg: f64,
    /// Nod, degrees, positive looks down.
    #[serde(default)]
    pub pitch_deg: f64,
    /// Tilt in the picture, degrees, positive clockwise.
    #[serde(default)]
    pub roll_deg: f64,
    /// Size relative to its usual one.
    #[serde(default = "one", skip_serializing_if = "is_one")]
    pub scale: f64,
    /// Linear RGB of its main surface, in place of its own.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<optics::geometry::Triple>)]
    pub colour: Option<[f64; 3]>,
    /// Where a head's eyes look in the set frame, azimuth and elevation in degrees.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<optics::geometry::Pair>)]
    pub gaze_deg: Option<[f64; 2]>,
    /// Who it is, where the kind is `person`; number 0 if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub person: Option<Person>,
    /// Width, height and depth in metres before `scale`, where the kind is `carton`; 16 by 10 by 6 cm if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<optics::geometry::Triple>)]
    pub size_m: Option<[f64; 3]>,
}

impl Subject {
    /// A subject at the reference point that looks straight ahead.
    pub fn of(kind: SubjectKind) -> Subject {
        Subject {
            kind,
            position_m: [0.0; 3],
            yaw_deg: 0.0,
            pitch_deg: 0.0,
            roll_deg: 0.0,
            scale: 1.0,
            colour: None,
            gaze_deg: None,
            person: None,
            size_m: None,
        }
    }

    /// Half of a carton's width, height and depth, metres, before it is scaled.
    pub fn carton_half_m(&self) -> [f64; 3] {
        self.size_m.unwrap_or(CARTON_M).map(|v| 0.5 * v)
    }

    /// Metres from its reference point down to what it stands or lies on; none of people and hanging things.
    pub fn rests_m(&self) -> Option<f64> {
        let own = match self.kind {
            SubjectKind::Carton => Some(self.carton_half_m()[1]),
            kind => kind.rests_m(),
        };
        own.map(|r| r * self.scale)
    }

    /// Radius in metres of a sphere around the reference point that a light should stay out of.
    pub fn clearance_m(&self) -> f64 {
        let own = match self.kind {
            // no farther out than its nearest side
            SubjectKind::Carton => self.carton_half_m().into_iter().fold(f64::INFINITY, f64::min),
            kind => kind.clearance_m(),
        };
        own * self.scale
    }
}

/// Most people in a set: each has meshes of their own, some ten megabytes.
pub const MOST_PEOPLE: usize = 6;
/// Most weights a head's shape may have.
pub const MOST_SHAPE: usize = 45;

/// A person of the family of heads: all that is not said follows from the number, always the same.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, ToSchema)]
#[schema(as = SetPerson)]
pub struct Person {
    /// Chooses shape, skin, eyes, hair and clothes.
    #[serde(default)]
    pub number: u32,
    /// Shape of the head in place of the number's, as a reading of a face fits it: weights of the family's components, in
    /// standard deviations, at most 45.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub shape: Vec<f64>,
    /// Hair in place of the number's.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub hair: Option<Hair>,
}

/// How somebody wears their hair.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Hair {
    /// None.
    Bald,
    /// A few millimetres.
    Cropped,
    /// A few centimetres.
    Short,
    /// To the shoulders.
    Long,
}

fn one() -> f64 {
    1.0
}
fn is_one(v: &f64) -> bool {
    *v == 1.0
}

/// Radius of the bottle's body, metres.
pub const BOTTLE_RADIUS_M: f64 = 0.0365;
/// Radius of the can's body, metres.
pub const CAN_RADIUS_M: f64 = 0.033;
/// Radius of the ball probes, metres.
pub const BALL_RADIUS_M: f64 = 0.075;
/// Half of the tin's width, height and depth, metres.
pub const TIN_HALF_M: [f64; 3] = [0.08, 0.05, 0.03];
/// Radius of its edges.
pub const TIN_EDGE_M: f64 = 0.010;
/// Half of its lid's width, height and depth.
pub const LID_HALF_M: [f64; 3] = [0.0815, 0.0145, 0.0315];
/// Radius of the lid's edges.
pub const LID_EDGE_M: f64 = 0.009;
/// How far the lid's middle lies over the tin's.
pub const LID_UP_M: f64 = 0.037;

/// Width, height and depth of a carton that says nothing else, metres.
pub const CARTON_M: [f64; 3] = [0.16, 0.10, 0.06];
/// What a side of it measures at least and at most.
pub const SIZES_M: [f64; 2] = [0.005, 5.0];

/// Subjects of the studio.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum SubjectKind {
    /// Carved head with a long face and nose, shoulders, cap. 1.15 of life size; reference between
    /// the eyes.
    HeadLong,
    /// Carved head, broad and round with a small nose, shoulders, hair.
    HeadRound,
    /// Somebody of the family of heads, life size, with shoulders, hair and clothes; reference midway between the corneas.
    Person,
    /// Glass bottle with liquid and a paper label, 30 cm; reference at its centre.
    Bottle,
    /// Drinks can, 12 cm, printed metal.
    Can,
    /// Tin box with rounded edges, 16 by 10 by 6 cm.
    Tin,
    /// Box of lacquered board with sharp edges, of any size; reference at its centre.
    Carton,
    /// Shoe-like form, 29 cm long.
    Shoe,
    /// Fork, 19 cm, lying.
    Fork,
    /// Cloth hanging in folds, 1.2 m wide.
    Drape,
    /// Matte ball, 15 cm, reflectance one half.
    BallMatte,
    /// Mirror ball, 15 cm.
    BallMirror,
    /// Step wedge: eight patches from 0.90 down by half stops, 32 by 6 cm.
    Wedge,
}

impl SubjectKind {
    /// A person's head.
    pub fn is_head(self) -> bool {
        matches!(self, SubjectKind::HeadLong | SubjectKind::HeadRound | SubjectKind::Person)
    }

    /// The same of its usual size.
    fn clearance_m(self) -> f64 {
        match self {
            SubjectKind::HeadLong | SubjectKind::HeadRound | SubjectKind::Person => 0.15,
            SubjectKind::Bottle | SubjectKind::Can => 0.045,
            SubjectKind::Tin | SubjectKind::Carton | SubjectKind::Fork => 0.03,
            SubjectKind::Shoe => 0.05,
            SubjectKind::Drape | SubjectKind::Wedge => 0.02,
            SubjectKind::BallMatte | SubjectKind::BallMirror => BALL_RADIUS_M,
        }
    }

    /// Metres from its reference point down to what it stands or lies on; none of people and hanging things.
    pub fn rests_m(self) -> Option<f64> {
        match self {
            SubjectKind::Bottle => Some(0.15),
            SubjectKind::Can => Some(0.0605),
            SubjectKind::Tin | SubjectKind::Carton => Some(0.05),
            SubjectKind::Shoe => Some(0.068),
            SubjectKind::Fork => Some(0.0035),
            SubjectKind::BallMatte | SubjectKind::BallMirror => Some(0.075),
            SubjectKind::HeadLong
            | SubjectKind::HeadRound
            | SubjectKind::Person
            | SubjectKind::Drape
            | SubjectKind::Wedge => None,
        }
    }
}
