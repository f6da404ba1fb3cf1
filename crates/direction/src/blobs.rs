//! Bright spots: highlights in a mirror ball and catchlights in an eye.
//!
//! Spots are peeled off from the brightest down. Each is cut at half its height above the floor
//! around it, then weighed pixel by pixel with its coverage, so that its centre and area are found
//! to a fraction of a pixel. A clipped spot looks half a pixel too large on every side, because a
//! pixel that it covers by a few per cent is already white; how many half-lit pixels it has left
//! tells by how much.

use optics::photo::Photo;
use optics::solve::median;

/// A bright spot.
#[derive(Debug, Clone)]
pub struct Blob {
    /// Pixels it covers: column, row, coverage in 0..1.
    pub pixels: Vec<(i64, i64, f64)>,
    /// Centre in pixels.
    pub centre: [f64; 2],
    /// Area in pixels, corrected for clipping.
    pub area: f64,
    /// Correction already in `area`, as a factor on the plain sum of coverage.
    pub area_factor: f64,
    /// Standard deviation of the centre in pixels, from how it moves with the height of the cut.
    pub centre_sd: f64,
    /// Standard deviation of the natural log of the radius.
    pub log_radius_sd: f64,
    /// For a clipped spot: natural log of how far over white its top is guessed to be, and the
    /// standard deviation of the guess.
    pub log_over: (f64, f64),
    /// Height over the floor around it, linear luminance.
    pub height: f64,
    /// Mean linear colour over the floor.
    pub rgb: [f64; 3],
    /// Whether its top is clipped, so that `height` is a lower bound.
    pub clipped: bool,
    /// Share of its edge that lies on the border of the region.
    pub at_border: f64,
    /// Polygon around it in pixels.
    pub outline: Vec<[f64; 2]>,
}

/// What is looked at: luminance, or the one channel in which the ground is darkest. A cornea mirrors
/// white light over a coloured iris, so the iris' darkest channel shows it best.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Signal {
    /// Relative luminance.
    Luminance,
    /// The channel with the lowest median inside the region.
    DarkestChannel,
}

/// What to look for.
#[derive(Debug, Clone, Copy)]
pub struct Search {
    /// What is looked at.
    pub signal: Signal,
    /// Radius in pixels of the blur before spots are cut out, so that texture does not break them.
    pub smooth: usize,
    /// A spot must hold at least this part (in stops under the strongest, by area and height).
    pub lowest_stops: f64,
    /// At most this many spots.
    pub most: usize,
    /// A spot must rise over the floor by this factor of it.
    pub contrast: f64,
    /// Spots with more of their edge on the border than this are dropped (lids, white of the eye).
    pub max_border: f64,
}

struct Window {
    x0: i64,
    y0: i64,
    w: usize,
    h: usize,
    value: Vec<f64>,
    /// `value` blurred; spots are cut out on it
    smooth: Vec<f64>,
    clipped: Vec<bool>,
    /// 0 outside, 1 inside, 2 inside and next to the border
    zone: Vec<u8>,
}

/// Bright spots inside the region where `level(x, y) <= 1`, within `reach` pixels of `centre`.
/// `level` is 1 on the border (see [`crate::shapes::Ellipse::level`]).
pub fn find(photo: &Photo, centre: [f64; 2], reach: f64, level: impl Fn(f64, f64) -> f64, search: Search) -> Vec<Blob> {
    let win = window(photo, centre, reach, &level, search);
    let mut inside: Vec<f64> = (0..win.value.len()).filter(|&i| win.zone[i] > 0).map(|i| win.value[i]).collect();
    if inside.len() < 12 {
        return Vec::new();
    }
    let floor = median(&mut inside);
    let mut dev: Vec<f64> = inside.iter().map(|v| (v - floor).abs()).collect();
    let mad = 1.48 * median(&mut dev);
    let threshold = floor + (4.0 * mad).clamp(search.contrast * floor, 3.0 * search.contrast * floor + 0.02).max(0.004);

    let mut bright: Vec<usize> = (0..win.value.len()).filter(|&i| win.smooth[i] > threshold).collect();
    bright.sort_by(|&a, &b| win.smooth[b].total_cmp(&win.smooth[a]));
    let mut candidates = bright.into_iter();
    let mut free: Vec<bool> = win.zone.iter().map(|z| *z > 0).collect();
    let mut blobs = Vec::new();
    for _ in 0..(4 * search.most) {
        if blobs.len() >= search.most {
            break;
        }
        let Some(peak) = candidates.find(|&i| free[i]) else { break };
        let (members, local_floor) = cut(&win, &free, peak, floor, threshold);
        let blob = weigh(photo, &win, &members, &free, local_floor);
        // Whatever it was, take it and its skirt away before looking for the next.
        for i in grown(&win, &members, 3) {
            free[i] = false;
        }
        if let Some(b) = blob
            && b.at_border <= search.max_border
            && b.height > search.contrast * local_floor
            && !is_skirt(&b, &blobs)
        {
            blobs.push(b);
        }
    }
    // A speck far weaker in area than the largest is grain or the skirt of another.
    let largest = blobs.iter().map(|b| b.area * b.height).fold(0.0, f64::max);
    let lowest = search.lowest_stops.exp2();
    // What it looks like counts, not how small it is behind its clipping.
    blobs.retain(|b| b.area * b.height > lowest * largest && b.area > 0.6 * b.area_factor.min(1.0));
    blobs.sort_by(|a, b| (b.area * b.height).total_cmp(&(a.area * a.height)));
    blobs
}

/// A weaker, smaller spot right next to one found before is its uneven rest, not a light.
fn is_skirt(b: &Blob, found: &[Blob]) -> bool {
    found.iter().any(|f| {
        let gap = (b.centre[0] - f.centre[0]).hypot(b.centre[1] - f.centre[1]);
        let radii = (b.area / std::f64::consts::PI).sqrt() + (f.area / std::f64::consts::PI).sqrt();
        gap < 1.25 * radii + 2.0 && b.area < 0.5 * f.area && b.height < 1.2 * f.height
    })
}

fn window(photo: &Photo, centre: [f64; 2], reach: f64, level: &impl Fn(f64, f64) -> f64, search: Search) -> Window {
    let x0 = (centre[0] - reach).floor().max(0.0) as i64;
    let y0 = (centre[1] - reach).floor().max(0.0) as i64;
    let x1 = ((centre[0] + reach).ceil() as i64).min(i64::from(photo.width()));
    let y1 = ((centre[1] + reach).ceil() as i64).min(i64::from(photo.height()));
    let w = usize::try_from(x1 - x0).unwrap_or(0);
    let h = usize::try_from(y1 - y0).unwrap_or(0);
    let mut win = Window {
        x0,
        y0,
        w,
        h,
        value: vec![0.0; w * h],
        smooth: Vec::new(),
        clipped: vec![false; w * h],
        zone: vec![0; w * h],
    };
    let border = 1.0 - 2.0 / reach.max(4.0);
    let mut rgb = vec![[0.0f32; 3]; w * h];
    for row in 0..h {
        for col in 0..w {
            let (px, py) = (x0 + col as i64, y0 + row as i64);
            let l = level(px as f64 + 0.5, py as f64 + 0.5);
            if l <= 1.0
                && let Some(s) = photo.get(px, py)
            {
                let i = row * w + col;
                rgb[i] = s.rgb;
                win.clipped[i] = s.clipped;
                win.zone[i] = if l > border { 2 } else { 1 };
            }
        }
    }
    let channel = match search.signal {
        Signal::Luminance => None,
        Signal::DarkestChannel => {
            let med = |c: usize| {
                let mut v: Vec<f64> =
                    (0..rgb.len()).filter(|&i| win.zone[i] > 0).map(|i| f64::from(rgb[i][c])).collect();
                median(&mut v)
            };
            let m = [med(0), med(1), med(2)];
            // a grey iris gains nothing from one noisy channel
            let darkest = (0..3).min_by(|&a, &b| m[a].total_cmp(&m[b])).unwrap_or(1);
            (m[darkest] < 0.8 * m[1]).then_some(darkest)
        }
    };
    for (v, p) in win.value.iter_mut().zip(&rgb) {
        *v = channel.map_or_else(|| optics::photo::luminance(*p), |c| f64::from(p[c]));
    }
    if search.signal == Signal::DarkestChannel {
        level_pupil(&mut win);
    }
    win.smooth = if search.smooth > 0 { blurred(&win, search.smooth) } else { win.value.clone() };
    win
}

/// Lifts the pupil to the brightness of the iris round it: a catchlight half over either is then one
/// spot, and one inside the pupil stands out as it would on the iris.
fn level_pupil(win: &mut Window) {
    let inside: Vec<usize> = (0..win.value.len()).filter(|&i| win.zone[i] > 0).collect();
    let iris = median(&mut inside.iter().map(|&i| win.value[i]).collect::<Vec<_>>());
    let dark: Vec<usize> = inside.iter().copied().filter(|&i| win.value[i] < 0.45 * iris).collect();
    let share = dark.len() as f64 / inside.len().max(1) as f64;
    if !(0.015..0.4).contains(&share) {
        return;
    }
    let at = |i: usize| [(i % win.w) as f64 + 0.5, (i / win.w) as f64 + 0.5];
    // The middle of its reach, not of its mass: a catchlight that covers a part must not pull.
    let reach = |k: usize| {
        let mut v: Vec<f64> = dark.iter().map(|&i| at(i)[k]).collect();
        v.sort_by(f64::total_cmp);
        let (lo, hi) = (v[v.len() / 50], v[v.len() - 1 - v.len() / 50]);
        (f64::midpoint(lo, hi), (hi - lo) / 2.0)
    };
    let ((cx, rx), (cy, ry)) = (reach(0), reach(1));
    if rx.max(ry) > 1.5 * rx.min(ry) {
        return;
    }
    let radius = rx.max(ry);
    // a pupil is a disc: most of the disc must be dark, or catchlight over dark
    let within = inside.iter().filter(|&&i| (at(i)[0] - cx).hypot(at(i)[1] - cy) < radius).count();
    if (dark.len() as f64) < 0.45 * within as f64 || radius < 2.0 {
        return;
    }
    let floor = median(&mut dark.iter().map(|&i| win.value[i]).collect::<Vec<_>>());
    for &i in &inside {
        if (at(i)[0] - cx).hypot(at(i)[1] - cy) < radius - 0.5 {
            win.value[i] += iris - floor;
        }
    }
}

/// Mean over a square of pixels inside the region.
fn blurred(win: &Window, radius: usize) -> Vec<f64> {
    let r = radius as i64;
    let pass = |from: &[f64], across: bool| -> Vec<f64> {
        let (step, along) = if across { (1, win.w) } else { (win.w as i64, win.h) };
        (0..from.len())
            .map(|i| {
                let at = if across { i % win.w } else { i / win.w } as i64;
                let (mut sum, mut n) = (0.0, 0.0);
                for k in -r..=r {
                    if at + k >= 0 && at + k < along as i64 {
                        let j = (i as i64 + k * step) as usize;
                        if win.zone[j] > 0 {
                            sum += from[j];
                            n += 1.0;
                        }
                    }
                }
                if n > 0.0 { sum / n } else { from[i] }
            })
            .collect()
    };
    let once = pass(&win.value, true);
    pass(&once, false)
}

fn neighbours(win: &Window, i: usize) -> impl Iterator<Item = usize> {
    let (x, y, w, h) = (i % win.w, i / win.w, win.w, win.h);
    [(-1i64, 0i64), (1, 0), (0, -1), (0, 1)].into_iter().filter_map(move |(dx, dy)| {
        let (nx, ny) = (x as i64 + dx, y as i64 + dy);
        (nx >= 0 && ny >= 0 && nx < w as i64 && ny < h as i64).then(|| ny as usize * w + nx as usize)
    })
}

fn flood(win: &Window, free: &[bool], seed: usize, threshold: f64) -> Vec<usize> {
    let mut seen = vec![false; win.value.len()];
    let mut stack = vec![seed];
    let mut out = Vec::new();
    seen[seed] = true;
    while let Some(i) = stack.pop() {
        out.push(i);
        for j in neighbours(win, i) {
            if !seen[j] && free[j] && win.smooth[j] > threshold {
                seen[j] = true;
                stack.push(j);
            }
        }
    }
    out
}

/// The spot around a peak, cut at half its height. If that runs along the border (a catchlight
/// merged with a lid), the cut is raised until the spot comes free or is gone.
fn cut(win: &Window, free: &[bool], peak: usize, floor: f64, threshold: f64) -> (Vec<usize>, f64) {
    let top = win.smooth[peak];
    let mut local_floor = floor;
    let mut members = flood(win, free, peak, f64::midpoint(floor, top).max(threshold.min(0.9 * top)));
    for _ in 0..3 {
        if border_share(win, &members) < 0.12 {
            break;
        }
        let mut values: Vec<f64> = members.iter().map(|&i| win.smooth[i]).collect();
        let m = median(&mut values);
        if top < 1.35 * m {
            break;
        }
        local_floor = m;
        let tighter = flood(win, free, peak, f64::midpoint(m, top));
        if tighter.len() < 2 || tighter.len() == members.len() {
            break;
        }
        members = tighter;
    }
    (members, local_floor)
}

fn border_share(win: &Window, members: &[usize]) -> f64 {
    let border = members.iter().filter(|&&i| win.zone[i] == 2).count() as f64;
    let edge = 2.0 * (std::f64::consts::PI * members.len() as f64).sqrt();
    // the border zone is two pixels deep
    border / 2.0 / edge.max(1.0)
}

/// The members and all pixels within `steps` of them, members first.
fn grown(win: &Window, members: &[usize], steps: usize) -> Vec<usize> {
    let mut seen = vec![false; win.value.len()];
    members.iter().for_each(|&i| seen[i] = true);
    let mut out = members.to_vec();
    let mut from = 0;
    for _ in 0..steps {
        let to = out.len();
        for k in from..to {
            for j in neighbours(win, out[k]) {
                if !seen[j] {
                    seen[j] = true;
                    out.push(j);
                }
            }
        }
        from = to;
    }
    out
}

fn weigh(photo: &Photo, win: &Window, members: &[usize], free: &[bool], floor: f64) -> Option<Blob> {
    let around = grown(win, members, 2);
    let (core, skirt) = around.split_at(members.len());
    let mut values: Vec<f64> = members.iter().map(|&i| win.value[i]).collect();
    values.sort_by(f64::total_cmp);
    let plateau = values[(values.len() * 4 / 5).min(values.len() - 1)];
    let height = plateau - floor;
    if height <= 0.0 {
        return None;
    }
    // The floor next to the spot: the ring around it, if darker than half height.
    let mut ring: Vec<f64> =
        skirt.iter().filter(|&&i| free[i]).map(|&i| win.value[i]).filter(|v| *v < floor + 0.5 * height).collect();
    let near_floor = if ring.len() >= 8 {
        ring.sort_by(f64::total_cmp);
        ring[ring.len() / 4]
    } else {
        floor
    };
    let height = plateau - near_floor;
    let clipped_n = members.iter().filter(|&&i| win.clipped[i]).count();
    let clipped = clipped_n * 5 > members.len() || (members.len() < 6 && clipped_n > 0);
    let mut pixels = Vec::new();
    let (mut sum, mut sx, mut sy, mut mixed) = (0.0, 0.0, 0.0, 0.0);
    let mut rgb = [0.0; 3];
    for &i in core.iter().chain(skirt.iter().filter(|&&i| free[i])) {
        let c = ((win.value[i] - near_floor) / height).clamp(0.0, 1.0);
        if c < 0.02 {
            continue;
        }
        let (px, py) = (win.x0 + (i % win.w) as i64, win.y0 + (i / win.w) as i64);
        sum += c;
        sx += c * (px as f64 + 0.5);
        sy += c * (py as f64 + 0.5);
        mixed += f64::from(u8::from((0.04..0.96).contains(&c)));
        if let Some(s) = photo.get(px, py) {
            for (o, v) in rgb.iter_mut().zip(s.rgb) {
                *o += c * f64::from(v);
            }
        }
        pixels.push((px, py, c));
    }
    if sum < 0.3 {
        return None;
    }
    let ground = ground_colour(photo, win, skirt, floor + 0.5 * (plateau - floor));
    rgb.iter_mut().zip(ground).for_each(|(v, g)| *v = (*v / sum - g).max(0.0));
    let centre = [sx / sum, sy / sum];
    let radius = (sum / std::f64::consts::PI).sqrt();
    let (shift, swell) = steadiness(win, members, free, near_floor, height);
    let mut log_radius_sd = (0.1 / radius).hypot((swell - 0.35 / radius).max(0.0));
    let mut area_factor = 1.0;
    let mut log_over = (0.0, 0.0);
    if clipped {
        let skirt = crate::skirt::fit(&skirt_points(win, centre, radius, near_floor), radius);
        match skirt {
            Some(f) => {
                area_factor = (f.area / sum).clamp(0.03, 1.1);
                // the ellipse stands for shapes that are none, and the lens for one that is not known
                log_radius_sd = log_radius_sd.hypot(f.log_radius_sd).hypot(0.05).hypot(0.12 / radius);
                log_over = f.log_over;
            }
            None => {
                area_factor = declipped(sum, mixed) / sum;
                log_radius_sd = log_radius_sd.hypot(0.4 / radius);
                log_over = (1.5, 1.5);
            }
        }
    }
    Some(Blob {
        centre,
        area: sum * area_factor,
        area_factor,
        centre_sd: (0.05 + 0.1 / radius).hypot(0.5 * shift),
        log_radius_sd,
        log_over,
        height,
        rgb,
        clipped,
        at_border: border_share(win, members),
        outline: hull(&pixels),
        pixels,
    })
}

/// True area of a clipped spot from its measured area and the number of its mixed pixels. An edge
/// crosses 4/pi pixels per unit of length; a source `C` times over clipping leaves `1 / C` of them
/// below white, and adds half of the others to the area.
fn declipped(area: f64, mixed: f64) -> f64 {
    let mut a = area;
    for _ in 0..3 {
        let crossed = 4.0 / std::f64::consts::PI * 2.0 * (std::f64::consts::PI * a).sqrt();
        a = (area - 0.5 * (crossed - mixed).max(0.0)).max(0.25 * area);
    }
    a
}

/// Mean linear colour of the ground next to a spot.
fn ground_colour(photo: &Photo, win: &Window, skirt: &[usize], below: f64) -> [f64; 3] {
    let mut sum = [0.0; 3];
    let mut n = 0.0;
    for &i in skirt.iter().filter(|&&i| win.value[i] < below) {
        if let Some(s) = photo.get(win.x0 + (i % win.w) as i64, win.y0 + (i / win.w) as i64) {
            sum.iter_mut().zip(s.rgb).for_each(|(o, v)| *o += f64::from(v));
            n += 1.0;
        }
    }
    sum.map(|v: f64| if n > 0.0 { v / n } else { 0.0 })
}

/// How the spot changes between a cut at three and one at seven tenths of its height: shift of the
/// centre in pixels, and half the change of the log radius. A sharp-edged spot stays as it is.
fn steadiness(win: &Window, members: &[usize], free: &[bool], floor: f64, height: f64) -> (f64, f64) {
    let Some(&peak) = members.iter().max_by(|&&a, &&b| win.smooth[a].total_cmp(&win.smooth[b])) else {
        return (0.0, 0.0);
    };
    let cut = |share: f64| {
        let m = flood(win, free, peak, floor + share * height);
        let n = m.len().max(1) as f64;
        let x = m.iter().map(|&i| (i % win.w) as f64).sum::<f64>() / n;
        let y = m.iter().map(|&i| (i / win.w) as f64).sum::<f64>() / n;
        (x, y, n)
    };
    let (low, high) = (cut(0.3), cut(0.7));
    ((low.0 - high.0).hypot(low.1 - high.1), 0.25 * (low.2 / high.2).ln().max(0.0))
}

/// Offsets from the centre and heights over the floor, 1 = white, of the pixels near the edge of a
/// clipped spot; at most a few hundred.
fn skirt_points(win: &Window, centre: [f64; 2], radius: f64, floor: f64) -> Vec<[f64; 3]> {
    let reach = radius * 2.2 + 3.5;
    let height = |i: usize| ((win.value[i] - floor) / (1.0 - floor)).clamp(0.0, 1.0);
    let (cx, cy) = (centre[0] - win.x0 as f64, centre[1] - win.y0 as f64);
    let range = |c: f64, top: usize| ((c - reach).max(0.0) as usize)..((c + reach).max(0.0) as usize + 1).min(top);
    let mut points = Vec::new();
    for row in range(cy, win.h) {
        for col in range(cx, win.w) {
            let i = row * win.w + col;
            if win.zone[i] == 0 {
                continue;
            }
            let bright = height(i) > 0.5;
            let near_edge = (-3i64..=3).any(|dy| {
                (-3i64..=3).any(|dx| {
                    let (x, y) = (col as i64 + dx, row as i64 + dy);
                    let inside = x >= 0 && y >= 0 && x < win.w as i64 && y < win.h as i64;
                    inside && (height(y as usize * win.w + x as usize) > 0.5) != bright
                })
            });
            if near_edge {
                points.push([col as f64 + 0.5 - cx, row as f64 + 0.5 - cy, height(i)]);
            }
        }
    }
    let every = points.len().div_ceil(150).max(1);
    points.into_iter().step_by(every).collect()
}

/// Convex hull of the pixels covered by more than half (Andrew 1979, monotone chain).
fn hull(pixels: &[(i64, i64, f64)]) -> Vec<[f64; 2]> {
    let mut pts: Vec<(i64, i64)> = pixels
        .iter()
        .filter(|p| p.2 > 0.5)
        .flat_map(|p| [(p.0, p.1), (p.0 + 1, p.1), (p.0, p.1 + 1), (p.0 + 1, p.1 + 1)])
        .collect();
    pts.sort_unstable();
    pts.dedup();
    let cross = |o: (i64, i64), a: (i64, i64), b: (i64, i64)| (a.0 - o.0) * (b.1 - o.1) - (a.1 - o.1) * (b.0 - o.0);
    let half = |it: &mut dyn Iterator<Item = (i64, i64)>| {
        let mut h: Vec<(i64, i64)> = Vec::new();
        for p in it {
            while h.len() >= 2 && cross(h[h.len() - 2], h[h.len() - 1], p) <= 0 {
                h.pop();
            }
            h.push(p);
        }
        h.pop();
        h
    };
    let mut out = half(&mut pts.iter().copied());
    out.extend(half(&mut pts.iter().rev().copied()));
    out.into_iter().map(|(x, y)| [x as f64, y as f64]).collect()
}

/// A spot from an outline drawn by a person: all pixels whose centre is inside.
pub fn from_outline(photo: &Photo, polygon: &[[f64; 2]]) -> Option<Blob> {
    let pixels = pixels_inside(photo, polygon);
    if pixels.is_empty() {
        return None;
    }
    let n = pixels.len() as f64;
    let area = polygon_area(polygon);
    let centre = polygon_centre(polygon);
    let mut rgb = [0.0; 3];
    let mut clipped = 0;
    let mut sum = 0.0;
    for &(x, y) in &pixels {
        if let Some(s) = photo.get(x, y) {
            clipped += usize::from(s.clipped);
            sum += s.luminance();
            rgb.iter_mut().zip(s.rgb).for_each(|(o, v)| *o += f64::from(v) / n);
        }
    }
    Some(Blob {
        pixels: pixels.iter().map(|&(x, y)| (x, y, 1.0)).collect(),
        centre,
        area,
        area_factor: area / n,
        centre_sd: 0.5,
        log_radius_sd: 0.08,
        log_over: if clipped * 5 > pixels.len() { (1.5, 1.5) } else { (0.0, 0.0) },
        height: sum / n,
        rgb,
        clipped: clipped * 5 > pixels.len(),
        at_border: 0.0,
        outline: polygon.to_vec(),
    })
}

/// Pixels whose centre lies inside a polygon (even-odd rule), clipped to the picture.
pub fn pixels_inside(photo: &Photo, polygon: &[[f64; 2]]) -> Vec<(i64, i64)> {
    let bound = |k: usize, top: u32| {
        let lo = polygon.iter().map(|p| p[k]).fold(f64::MAX, f64::min).floor().max(0.0);
        let hi = polygon.iter().map(|p| p[k]).fold(f64::MIN, f64::max).ceil().min(f64::from(top));
        (lo as i64, hi as i64)
    };
    let (x0, x1) = bound(0, photo.width());
    let (y0, y1) = bound(1, photo.height());
    let mut out = Vec::new();
    for y in y0..y1 {
        let cy = y as f64 + 0.5;
        let mut cross: Vec<f64> = Vec::new();
        for i in 0..polygon.len() {
            let (a, b) = (polygon[i], polygon[(i + 1) % polygon.len()]);
            if (a[1] > cy) != (b[1] > cy) {
                cross.push(a[0] + (cy - a[1]) / (b[1] - a[1]) * (b[0] - a[0]));
            }
        }
        cross.sort_by(f64::total_cmp);
        for pair in cross.as_chunks::<2>().0 {
            let from = ((pair[0] - 0.5).ceil() as i64).max(x0);
            let to = ((pair[1] - 0.5).floor() as i64).min(x1 - 1);
            out.extend((from..=to).map(|x| (x, y)));
        }
    }
    out
}

fn polygon_area(p: &[[f64; 2]]) -> f64 {
    let n = p.len();
    ((0..n).map(|i| p[i][0] * p[(i + 1) % n][1] - p[(i + 1) % n][0] * p[i][1]).sum::<f64>() / 2.0).abs()
}

fn polygon_centre(p: &[[f64; 2]]) -> [f64; 2] {
    let n = p.len();
    let (mut a, mut x, mut y) = (0.0, 0.0, 0.0);
    for i in 0..n {
        let (u, v) = (p[i], p[(i + 1) % n]);
        let c = u[0] * v[1] - v[0] * u[1];
        a += c;
        x += (u[0] + v[0]) * c;
        y += (u[1] + v[1]) * c;
    }
    if a.abs() < 1e-9 {
        let m = 1.0 / n as f64;
        return [p.iter().map(|q| q[0]).sum::<f64>() * m, p.iter().map(|q| q[1]).sum::<f64>() * m];
    }
    [x / (3.0 * a), y / (3.0 * a)]
}
