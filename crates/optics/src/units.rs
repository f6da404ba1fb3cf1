//! Newtypes for quantities that get mixed up: stops, ratios, angles, lengths, f-numbers, colour
//! temperatures. Adding stops to a ratio does not compile.

use serde::{Deserialize, Serialize};
use std::fmt;
use std::ops::{Add, Div, Mul, Neg, Sub};
use utoipa::ToSchema;

macro_rules! quantity {
    ($(#[$doc:meta])* $name:ident) => {
        $(#[$doc])*
        #[derive(Debug, Clone, Copy, PartialEq, PartialOrd, Default, Serialize, Deserialize, ToSchema)]
        #[serde(transparent)]
        pub struct $name(pub f64);
    };
}

macro_rules! additive {
    ($name:ident) => {
        impl Add for $name {
            type Output = Self;
            fn add(self, other: Self) -> Self {
                Self(self.0 + other.0)
            }
        }
        impl Sub for $name {
            type Output = Self;
            fn sub(self, other: Self) -> Self {
                Self(self.0 - other.0)
            }
        }
        impl Neg for $name {
            type Output = Self;
            fn neg(self) -> Self {
                Self(-self.0)
            }
        }
        impl Mul<f64> for $name {
            type Output = Self;
            fn mul(self, k: f64) -> Self {
                Self(self.0 * k)
            }
        }
        impl Div<f64> for $name {
            type Output = Self;
            fn div(self, k: f64) -> Self {
                Self(self.0 / k)
            }
        }
    };
}

quantity!(
    /// A difference of exposure: the base-2 logarithm of a ratio of light.
    Stops
);
quantity!(
    /// A ratio of two amounts of light (1 = equal).
    Ratio
);
quantity!(
    /// An angle in degrees; used where numbers leave the core.
    Degrees
);
quantity!(
    /// An angle in radians; used inside the core.
    Radians
);
quantity!(
    /// A length in metres.
    Metres
);
quantity!(
    /// A relative aperture: focal length over entrance pupil diameter.
    FNumber
);
quantity!(
    /// A correlated colour temperature in kelvin.
    Kelvin
);
quantity!(
    /// A reciprocal colour temperature, one million over kelvin.
    Mired
);
additive!(Stops);
additive!(Degrees);
additive!(Radians);
additive!(Metres);
additive!(Mired);

impl Stops {
    /// The ratio of light these stops stand for.
    pub fn ratio(self) -> Ratio {
        Ratio(self.0.exp2())
    }
}

impl Ratio {
    /// The ratio in stops; minus infinity for zero.
    pub fn stops(self) -> Stops {
        Stops(self.0.log2())
    }
}

impl Degrees {
    /// The same angle in radians.
    pub fn radians(self) -> Radians {
        Radians(self.0.to_radians())
    }
}

impl Radians {
    /// The same angle in degrees.
    pub fn degrees(self) -> Degrees {
        Degrees(self.0.to_degrees())
    }
}

impl Kelvin {
    /// Reciprocal megakelvin: `1e6 / T`.
    pub fn mired(self) -> Mired {
        Mired(1e6 / self.0)
    }
}

impl Mired {
    /// The colour temperature with this reciprocal.
    pub fn kelvin(self) -> Kelvin {
        Kelvin(1e6 / self.0)
    }
}

/// One foot, exactly (international yard and pound agreement, 1959).
pub const METRES_PER_FOOT: f64 = 0.3048;

impl Metres {
    /// The length in feet.
    pub fn feet(self) -> f64 {
        self.0 / METRES_PER_FOOT
    }

    /// Feet to metres.
    pub fn from_feet(feet: f64) -> Self {
        Self(feet * METRES_PER_FOOT)
    }
}

/// A measured quantity: value, spread and the marks that support it. There is no way to show the
/// value without its spread.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Reading<T> {
    /// Best estimate.
    pub value: T,
    /// One standard deviation, in the unit of the value.
    pub sd: T,
    /// Ids of the marks that say so.
    pub evidence: Vec<String>,
}

impl fmt::Display for Reading<Stops> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{:.1} ± {:.1} stops", self.value.0, self.sd.0.max(0.05))
    }
}

impl fmt::Display for Reading<Degrees> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{:.0}° ± {:.0}°", self.value.0, self.sd.0.max(1.0))
    }
}
