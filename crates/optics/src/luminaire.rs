//! Measured lamps: IES LM-63 photometric files.
//!
//! Reads the vertical angles and the candela values, averaged over the horizontal planes. ANSI/IES
//! LM-63-2002 (layout from memory): after `TILT=NONE` come ten numbers, three more, the vertical
//! angles, the horizontal angles, and the candela plane by plane.

/// Relative intensity over the angle from the axis.
#[derive(Debug, Clone, PartialEq)]
pub struct Luminaire {
    /// Angles from the axis in degrees, rising.
    pub angle_deg: Vec<f64>,
    /// Candela at each.
    pub candela: Vec<f64>,
}

impl Luminaire {
    /// Parses the text of a file.
    ///
    /// # Errors
    /// One sentence on what is missing.
    pub fn parse(text: &str) -> Result<Luminaire, String> {
        if text.len() > 2_000_000 {
            return Err("the luminaire file is larger than 2 MB".into());
        }
        let Some((_, rest)) = text.split_once("TILT=") else {
            return Err("not a luminaire file: TILT= is missing".into());
        };
        let Some((tilt, rest)) = rest.split_once('\n') else {
            return Err("the luminaire file ends after TILT=".into());
        };
        if tilt.trim() != "NONE" {
            return Err("only luminaire files with TILT=NONE are read".into());
        }
        let mut numbers = rest.split(|c: char| c.is_whitespace() || c == ',').filter(|t| !t.is_empty()).map(|t| {
            t.parse::<f64>().ok().filter(|v| v.is_finite()).ok_or_else(|| format!("expected a number, found \"{t}\""))
        });
        let mut next =
            |what: &str| numbers.next().unwrap_or_else(|| Err(format!("the luminaire file ends before {what}")));
        next("the number of lamps")?;
        next("the lumens")?;
        let multiplier = next("the candela multiplier")?;
        let count = |v: f64, what: &str| {
            if (1.0..=2000.0).contains(&v) {
                Ok(v as usize)
            } else {
                Err(format!("{what}: expected 1 to 2000, found {v}"))
            }
        };
        let verticals = count(next("the vertical angles")?, "number of vertical angles")?;
        let horizontals = count(next("the horizontal angles")?, "number of horizontal angles")?;
        for _ in 0..8 {
            next("the dimensions")?;
        }
        let angle_deg = (0..verticals).map(|_| next("the vertical angles")).collect::<Result<Vec<f64>, _>>()?;
        for _ in 0..horizontals {
            next("the horizontal angles")?;
        }
        let mut candela = vec![0.0; verticals];
        for _ in 0..horizontals {
            for c in &mut candela {
                *c += next("the candela")? * multiplier / horizontals as f64;
            }
        }
        if angle_deg.windows(2).any(|w| w[1] <= w[0]) {
            return Err("the vertical angles must rise".into());
        }
        if candela.iter().any(|c| *c < 0.0) || candela.iter().all(|c| *c == 0.0) {
            return Err("the candela must be positive".into());
        }
        Ok(Luminaire { angle_deg, candela })
    }

    /// Candela at an angle from the axis, by straight lines; zero outside the measured angles.
    pub fn at(&self, angle_deg: f64) -> f64 {
        let a = &self.angle_deg;
        if angle_deg < a[0] || angle_deg > a[a.len() - 1] {
            return 0.0;
        }
        let i = a.partition_point(|x| *x <= angle_deg).clamp(1, a.len().max(2) - 1).min(a.len() - 1);
        if i == 0 {
            return self.candela[0];
        }
        let t = ((angle_deg - a[i - 1]) / (a[i] - a[i - 1])).clamp(0.0, 1.0);
        self.candela[i - 1] * (1.0 - t) + self.candela[i] * t
    }
}
