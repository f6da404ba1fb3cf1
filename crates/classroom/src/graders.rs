//! Graders held against each other: over the same pictures, who gives more, and on what.

use crate::rubric::{Given, share_of};
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use utoipa::ToSchema;

/// One grader against the mean of all, over pictures that several graded.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct GraderLine {
    /// Who.
    pub grader: String,
    /// Pictures that others graded too.
    pub pictures: usize,
    /// Mean difference from the mean of all, per cent of all points.
    pub bias_percent: f64,
    /// Standard deviation of those differences, per cent; absent for one picture.
    pub scatter_percent: Option<f64>,
    /// Criterion in which they differ most from the mean, with the mean difference in points.
    pub most: Option<GraderMost>,
    /// In words.
    pub says: String,
}

/// A criterion in which a grader differs.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct GraderMost {
    /// Name of the criterion.
    pub criterion: String,
    /// Points more than the mean.
    pub points: f64,
}

/// A difference under this is none, per cent of all points.
const ALIKE_PERCENT: f64 = 3.0;

fn mean(v: &[f64]) -> f64 {
    v.iter().sum::<f64>() / v.len().max(1) as f64
}

/// Graders over the same pictures: for each picture, what each gave, the newest of each.
pub fn graders(pictures: &[Vec<(String, Given)>]) -> Vec<GraderLine> {
    let mut shares: BTreeMap<&str, Vec<f64>> = BTreeMap::new();
    let mut points: BTreeMap<&str, BTreeMap<String, Vec<f64>>> = BTreeMap::new();
    for all in pictures {
        let whole: Vec<(&str, f64, &Given)> =
            all.iter().filter_map(|(who, g)| Some((who.as_str(), share_of(&g.rubric, &g.points)?, g))).collect();
        if whole.len() < 2 {
            continue;
        }
        let middle = mean(&whole.iter().map(|w| w.1).collect::<Vec<_>>());
        for (who, share, given) in &whole {
            shares.entry(who).or_default().push(100.0 * (share - middle));
            for c in &given.rubric {
                let others: Vec<f64> = whole.iter().filter_map(|w| w.2.points.get(&c.id).copied()).collect();
                if let (Some(own), true) = (given.points.get(&c.id), others.len() == whole.len()) {
                    points.entry(who).or_default().entry(c.name.clone()).or_default().push(own - mean(&others));
                }
            }
        }
    }
    let line = |(who, all): (&str, Vec<f64>)| {
        let bias = mean(&all);
        let n = all.len();
        let scatter = (n > 1).then(|| (all.iter().map(|v| (v - bias).powi(2)).sum::<f64>() / (n - 1) as f64).sqrt());
        let most = points.get(who).and_then(|by| {
            by.iter()
                .map(|(name, v)| GraderMost { criterion: name.clone(), points: mean(v) })
                .max_by(|a, b| a.points.abs().total_cmp(&b.points.abs()))
                .filter(|m| m.points.abs() >= 0.25)
        });
        let word = if bias.abs() < ALIKE_PERCENT {
            "as the others".to_owned()
        } else {
            format!("{:.0} % {} than the mean", bias.abs(), if bias > 0.0 { "more" } else { "less" })
        };
        let where_ = most.as_ref().map_or(String::new(), |m| {
            format!(", most on {} ({} points)", m.criterion, optics::words::signed(m.points, 1))
        });
        let says = format!("{who} gives {word}{where_}; over {n} {}.", if n == 1 { "picture" } else { "pictures" });
        GraderLine { grader: who.to_owned(), pictures: n, bias_percent: bias, scatter_percent: scatter, most, says }
    };
    shares.into_iter().map(line).collect()
}
