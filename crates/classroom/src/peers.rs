//! Students look at each other's pictures: who gets whose.

/// Reviews one student gives at most.
pub const MOST_PEERS: u32 = 5;

/// Who reviews whom: of `n` authors each gets `k` others, and each is looked at by `k` others (by one less where there are not
/// enough). `order` is the authors in any order, shuffled by who asks. Answers pairs of (reviewer, author) as places in `order`.
///
/// Everybody in a ring looks at the next `k`: nobody gets their own, and no pair comes twice.
pub fn dealt(n: usize, k: usize) -> Vec<(usize, usize)> {
    let k = k.min(n.saturating_sub(1));
    (0..n).flat_map(|i| (1..=k).map(move |d| (i, (i + d) % n))).collect()
}
