//! Filling one roll after another as full as it can be (minimum slack, with the longest piece left always in).

use super::{Filled, WholeProblem};

/// How many other orders are tried.
pub(super) const TRIES: u64 = 8;
/// Finds the fullest roll: sums that can be reached as bits, and what each piece reached first.
#[derive(Default)]
pub(super) struct Filler {
    reached: Vec<u64>,
    /// For each piece tried the kind it is of; the bits it reached first stand one after another in `first`.
    tried: Vec<usize>,
    first: Vec<u64>,
    few: Few,
}

const BITS: usize = 64;
/// Up to this many pieces are tried in all their combinations.
const FEW: usize = 12;

/// All combinations of a few pieces, one piece after another: in or out.
#[derive(Default)]
struct Few {
    /// The pieces, and of what kind each is.
    size: Vec<usize>,
    kind: Vec<usize>,
    /// How long all pieces from each on are.
    from: Vec<usize>,
    /// The fullest so far, and of which pieces, as bits.
    best: usize,
    of: u32,
}

impl Few {
    /// Looks at what the pieces from `at` on can add to those of `taken`, until it is full.
    fn look(&mut self, at: usize, sum: usize, taken: u32, free: usize) {
        if sum > self.best {
            (self.best, self.of) = (sum, taken);
        }
        if at == self.size.len() || sum + self.from[at] <= self.best || self.best == free {
            return;
        }
        let with = sum + self.size[at];
        if with <= free {
            self.look(at + 1, with, taken | 1 << at, free);
        }
        self.look(at + 1, sum, taken, free);
    }
}

impl Filler {
    /// The kinds in `order`, at most `left` of each, in `room`, with one of `first` in it where that is given. Stops as soon as it is full.
    /// How many of each kind.
    pub(super) fn fullest(
        &mut self,
        size: &[usize],
        left: &[usize],
        order: &[usize],
        first: Option<usize>,
        room: usize,
    ) -> Vec<(usize, usize)> {
        let start = first.map_or(0, |f| size[f]);
        if start > room {
            return Vec::new();
        }
        let free = room - start;
        if self.gather_few(size, left, order, first, free) {
            self.few.look(0, 0, 0, free);
            let taken = (0..self.few.size.len()).filter(|i| self.few.of >> i & 1 == 1).map(|i| self.few.kind[i]);
            let mut of: Vec<(usize, usize)> = first.map(|f| (f, 1)).into_iter().collect();
            taken.for_each(|kind| one_more(&mut of, kind));
            return of;
        }
        let words = free / BITS + 1;
        self.reached.clear();
        self.reached.resize(words, 0);
        self.reached[0] = 1;
        self.tried.clear();
        self.first.clear();
        let has = |bits: &[u64], at: usize| bits[at / BITS] >> (at % BITS) & 1 == 1;
        'kinds: for &kind in order {
            let n = left[kind] - usize::from(first == Some(kind));
            if size[kind] == 0 || size[kind] > free {
                continue;
            }
            for _ in 0..n {
                let from = self.first.len();
                if !self.shift(size[kind], free) {
                    break;
                }
                self.tried.push(kind);
                if has(&self.first[from..], free) {
                    break 'kinds;
                }
            }
        }
        let mut at = (0..=free).rev().find(|at| has(&self.reached, *at)).unwrap_or(0);
        let mut of: Vec<(usize, usize)> = first.map(|f| (f, 1)).into_iter().collect();
        for (n, &kind) in self.tried.iter().enumerate().rev() {
            if at > 0 && has(&self.first[n * words..(n + 1) * words], at) {
                at -= size[kind];
                one_more(&mut of, kind);
            }
        }
        of
    }

    /// Gathers all pieces that could be added, if they are few.
    fn gather_few(
        &mut self,
        size: &[usize],
        left: &[usize],
        order: &[usize],
        first: Option<usize>,
        free: usize,
    ) -> bool {
        let few = &mut self.few;
        few.size.clear();
        few.kind.clear();
        for &kind in order.iter().filter(|k| size[**k] > 0 && size[**k] <= free) {
            let n = left[kind] - usize::from(first == Some(kind));
            if few.size.len() + n > FEW {
                return false;
            }
            few.size.extend(std::iter::repeat_n(size[kind], n));
            few.kind.extend(std::iter::repeat_n(kind, n));
        }
        few.from.clear();
        few.from.extend_from_slice(&few.size);
        for i in (1..few.from.len()).rev() {
            few.from[i - 1] += few.from[i];
        }
        (few.best, few.of) = (0, 0);
        true
    }

    /// One more piece of that size: what it reaches first. False where that is nothing.
    fn shift(&mut self, size: usize, free: usize) -> bool {
        let (whole, part) = (size / BITS, size % BITS);
        let words = self.reached.len();
        let from = self.first.len();
        self.first.resize(from + words, 0);
        let fresh = &mut self.first[from..];
        let mut any = 0;
        for (w, slot) in fresh.iter_mut().enumerate().skip(whole) {
            let low = self.reached[w - whole] << part;
            let high = if part > 0 && w > whole { self.reached[w - whole - 1] >> (BITS - part) } else { 0 };
            let mut bits = (low | high) & !self.reached[w];
            if w == words - 1 && free % BITS < BITS - 1 {
                bits &= (1 << (free % BITS + 1)) - 1;
            }
            *slot = bits;
            any |= bits;
        }
        if any == 0 {
            self.first.truncate(from);
            return false;
        }
        self.reached.iter_mut().zip(&self.first[from..]).for_each(|(r, f)| *r |= f);
        true
    }
}

/// One more of a kind on a roll.
pub(super) fn one_more(of: &mut Vec<(usize, usize)>, kind: usize) {
    match of.iter_mut().find(|(k, _)| *k == kind) {
        Some((_, n)) => *n += 1,
        None => of.push((kind, 1)),
    }
}

/// Rolls on hand first, the shortest first; then rolls to buy.
pub(super) fn one_after_another(whole: &WholeProblem, count: &[usize]) -> Vec<Filled> {
    let order: Vec<usize> = (0..whole.size.len()).collect();
    filled(whole, count, &order)
}

/// Numbers that look random and are the same each time.
pub(super) struct Dice(u64);

impl Dice {
    pub(super) fn new(seed: u64) -> Self {
        Self(seed.wrapping_mul(0x9E37_79B9_7F4A_7C15) | 1)
    }

    /// From 0 to below 1.
    pub(super) fn share(&mut self) -> f64 {
        self.0 ^= self.0 << 13;
        self.0 ^= self.0 >> 7;
        self.0 ^= self.0 << 17;
        (self.0 >> 11) as f64 / (1_u64 << 53) as f64
    }

    /// From 0 to below `n`.
    pub(super) fn below(&mut self, n: usize) -> usize {
        ((self.share() * n as f64) as usize).min(n.saturating_sub(1))
    }
}

/// The same with the kinds in another order: `spread` 0 is the longest first, 1 near any order at all.
pub(super) fn shuffled(whole: &WholeProblem, count: &[usize], dice: &mut Dice, spread: f64) -> Vec<Filled> {
    let longest = whole.size.first().copied().unwrap_or(1) as f64;
    let mut place = |s: usize| s as f64 / longest * (1.0 - spread) + spread * dice.share();
    let mut order: Vec<(f64, usize)> = whole.size.iter().enumerate().map(|(k, s)| (place(*s), k)).collect();
    order.sort_by(|a, b| b.0.total_cmp(&a.0));
    let order: Vec<usize> = order.into_iter().map(|(_, k)| k).collect();
    filled(whole, count, &order)
}

/// What pieces of each kind count, and how much of that a roll of each stock can hold.
#[derive(Clone)]
pub(super) struct Weights {
    pub(super) of: Vec<u64>,
    pub(super) full: Vec<u64>,
}

impl Weights {
    /// By length.
    pub(super) fn lengths(whole: &WholeProblem) -> Self {
        let plain = |list: &[usize]| list.iter().map(|n| *n as u64).collect();
        Self { of: plain(&whole.size), full: plain(&whole.room) }
    }

    /// The weight of each kind as a share of what it costs: no roll holds more than it costs.
    pub(super) fn each(&self, whole: &WholeProblem) -> Vec<f64> {
        let rates = whole.to_buy().filter(|k| whole.cost[*k] > 0).map(|k| self.full[k] as f64 / whole.cost[k] as f64);
        let most = rates.fold(f64::MIN_POSITIVE, f64::max);
        self.of.iter().map(|w| *w as f64 / most).collect()
    }
}

fn filled(whole: &WholeProblem, count: &[usize], order: &[usize]) -> Vec<Filled> {
    let mut left = count.to_vec();
    let mut filler = Filler::default();
    let mut out = Vec::new();
    let mut on_hand: Vec<(usize, usize)> =
        whole.on_hand.iter().enumerate().filter_map(|(k, n)| Some((k, (*n)?))).collect();
    on_hand.sort_by_key(|(k, _)| whole.room[*k]);
    for (stock, n) in on_hand {
        for _ in 0..n {
            let of = filler.fullest(&whole.size, &left, order, None, whole.room[stock]);
            if of.is_empty() {
                break;
            }
            of.iter().for_each(|(k, n)| left[*k] -= n);
            out.push(Filled { stock, of });
        }
    }
    while let Some(first) = order.iter().copied().find(|k| left[*k] > 0) {
        let rest: usize = left.iter().zip(&whole.size).map(|(n, s)| n * s).sum();
        let can = |k: &usize| whole.room[*k] >= whole.size[first];
        // What holds all that is left, the cheapest; else the one that costs least for what it holds.
        let last = whole.to_buy().filter(|k| whole.room[*k] >= rest).min_by_key(|k| whole.cost[*k]);
        let chosen = match last {
            Some(stock) => Some((stock, filler.fullest(&whole.size, &left, order, Some(first), whole.room[stock]))),
            None => {
                let each = whole.to_buy().filter(can).map(|stock| {
                    let of = filler.fullest(&whole.size, &left, order, Some(first), whole.room[stock]);
                    let used: usize = of.iter().map(|(k, n)| whole.size[*k] * n).sum();
                    (stock, of, used)
                });
                each.min_by(|a, b| {
                    let per = |(stock, used): (usize, usize)| u128::from(whole.cost[stock]) * used as u128;
                    per((a.0, b.2)).cmp(&per((b.0, a.2)))
                })
                .map(|(stock, of, _)| (stock, of))
            }
        };
        // Only rolls on hand could hold it, and they are used up.
        let Some((stock, of)) = chosen else {
            left[first] = 0;
            continue;
        };
        of.iter().for_each(|(k, n)| left[*k] -= n);
        out.push(Filled { stock, of });
    }
    out
}
