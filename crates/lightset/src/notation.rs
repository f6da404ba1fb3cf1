//! The slant line: one light set as one line of text.
//!
//! `name side azimuth / elevation o size level [@distance m] [temperature K] [via modifier]`, lights
//! joined by ` | `. `R` camera right, `L` camera left, `C` on the axis in front, `B` on the axis
//! behind; azimuth 0 to 180; elevation signed; `o` full angle in degrees; level in stops, signed.

use optics::geometry::AzEl;
use std::fmt;

/// One light of a slant line.
#[derive(Debug, Clone, PartialEq)]
pub struct SlantLight {
    /// One word: key, fill, rim, ...
    pub name: String,
    /// Degrees, positive to camera right, (-180, 180].
    pub azimuth_deg: f64,
    /// Degrees, positive up.
    pub elevation_deg: f64,
    /// Full angle in degrees, if known.
    pub angular_size_deg: Option<f64>,
    /// Stops relative to the key, if known.
    pub level_stops: Option<f64>,
    /// Metres.
    pub distance_m: Option<f64>,
    /// Kelvin.
    pub cct_k: Option<f64>,
    /// Free text to the end of the light.
    pub via: Option<String>,
}

impl SlantLight {
    /// Where it comes from.
    pub fn at(&self) -> AzEl {
        AzEl { azimuth_deg: self.azimuth_deg, elevation_deg: self.elevation_deg }
    }
}

/// A light set as one line of text.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct SlantLine(pub Vec<SlantLight>);

fn tenth(v: f64) -> String {
    let r = (v * 10.0).round() / 10.0;
    let r = if r == 0.0 { 0.0 } else { r };
    format!("{r}")
}

fn signed(v: f64) -> String {
    let r = (v * 10.0).round() / 10.0;
    format!("{:+.1}", if r == 0.0 { 0.0 } else { r })
}

impl fmt::Display for SlantLight {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let az = (self.azimuth_deg * 10.0).round() / 10.0;
        let side = if az == 0.0 {
            'C'
        } else if az.abs() >= 180.0 {
            'B'
        } else if az > 0.0 {
            'R'
        } else {
            'L'
        };
        write!(f, "{} {side}{}/{}", self.name, tenth(az.abs()), tenth(self.elevation_deg))?;
        if let Some(o) = self.angular_size_deg {
            write!(f, " o{}", tenth(o))?;
        }
        if let Some(l) = self.level_stops {
            write!(f, " {}", signed(l))?;
        }
        if let Some(d) = self.distance_m {
            write!(f, " @{}m", tenth(d))?;
        }
        if let Some(k) = self.cct_k {
            write!(f, " {k:.0}K")?;
        }
        if let Some(v) = &self.via {
            write!(f, " via {v}")?;
        }
        Ok(())
    }
}

impl fmt::Display for SlantLine {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        for (i, l) in self.0.iter().enumerate() {
            if i > 0 {
                f.write_str(" | ")?;
            }
            write!(f, "{l}")?;
        }
        Ok(())
    }
}

fn number(text: &str, what: &str, light: &str) -> Result<f64, String> {
    match text.trim().parse::<f64>() {
        Ok(v) if v.is_finite() => Ok(v),
        _ => Err(format!("slant line, \"{light}\": expected {what}, found \"{text}\"")),
    }
}

fn parse_light(text: &str) -> Result<SlantLight, String> {
    let text = text.trim();
    let fail = |what: &str| format!("slant line, \"{text}\": expected {what}");
    let (head, via) = match text.split_once(" via ") {
        Some((h, v)) if !v.trim().is_empty() => (h, Some(v.trim().to_owned())),
        Some(_) => return Err(fail("a modifier after via")),
        None => (text, None),
    };
    let mut words = head.split_whitespace();
    let name = words.next().ok_or_else(|| fail("a name"))?.to_owned();
    // "@1.5 m" and "5600 K" may be written with a space
    let mut rest: Vec<String> = Vec::new();
    for w in words {
        match (w, rest.last_mut()) {
            ("m", Some(last)) if last.starts_with('@') => last.push('m'),
            ("K", Some(last)) => last.push('K'),
            _ => rest.push(w.to_owned()),
        }
    }
    let mut rest = rest.into_iter();
    let direction = rest.next().ok_or_else(|| fail("a direction such as R45/39"))?;
    let side = direction.chars().next().unwrap_or(' ');
    let body = &direction[side.len_utf8()..];
    let (az, el) = body.split_once('/').ok_or_else(|| fail("a direction such as R45/39"))?;
    let default = match side {
        'C' => Some(0.0),
        'B' => Some(180.0),
        'R' | 'L' => None,
        _ => return Err(fail("R, L, C or B before the azimuth")),
    };
    let az = match (az.is_empty(), default) {
        (true, Some(d)) => d,
        _ => number(az, "an azimuth from 0 to 180", text)?,
    };
    if !(0.0..=180.0).contains(&az) {
        return Err(fail("an azimuth from 0 to 180"));
    }
    let elevation_deg = number(el, "an elevation from -90 to 90", text)?;
    if elevation_deg.abs() > 90.0 {
        return Err(fail("an elevation from -90 to 90"));
    }
    let azimuth_deg = if side == 'L' && az < 180.0 { -az } else { az };
    let azimuth_deg = if azimuth_deg == 0.0 { 0.0 } else { azimuth_deg };
    let mut out = SlantLight {
        name,
        azimuth_deg,
        elevation_deg,
        angular_size_deg: None,
        level_stops: None,
        distance_m: None,
        cct_k: None,
        via,
    };
    for w in rest {
        if let Some(v) = w.strip_prefix('o') {
            let v = number(v, "a size in degrees after o", text)?;
            if !(0.0..=360.0).contains(&v) {
                return Err(fail("a size from 0 to 360 degrees after o"));
            }
            out.angular_size_deg = Some(v);
        } else if let Some(v) = w.strip_prefix('@') {
            out.distance_m = Some(number(v.trim_end_matches('m'), "metres after @", text)?);
        } else if let Some(v) = w.strip_suffix('K') {
            out.cct_k = Some(number(v, "kelvin before K", text)?);
        } else if w.starts_with(['+', '-']) {
            out.level_stops = Some(number(&w, "a level in stops with its sign", text)?);
        } else {
            return Err(fail(&format!("oSIZE, +LEVEL, @DISTANCEm, TEMPERATUREK or via, found \"{w}\"")));
        }
    }
    Ok(out)
}

impl std::str::FromStr for SlantLine {
    type Err = String;

    fn from_str(text: &str) -> Result<Self, String> {
        if text.trim().is_empty() {
            return Ok(SlantLine::default());
        }
        text.split('|').map(parse_light).collect::<Result<_, _>>().map(SlantLine)
    }
}
