//! What of a drawing lies in a frame.

/// What of a polygon lies in a frame (left, top, right, bottom); empty where nothing does.
pub(super) fn clipped(points: &[[f64; 2]], [left, top, right, bottom]: [f64; 4]) -> Vec<[f64; 2]> {
    let sides = [(0, left, 1.0), (0, right, -1.0), (1, top, 1.0), (1, bottom, -1.0)];
    sides.into_iter().fold(points.to_vec(), |all, (axis, edge, way)| {
        let within = |p: &[f64; 2]| (p[axis] - edge) * way >= 0.0;
        let mut out = Vec::with_capacity(all.len());
        for (i, q) in all.iter().enumerate() {
            let p = &all[(i + all.len() - 1) % all.len()];
            if within(p) != within(q) {
                let t = (edge - p[axis]) / (q[axis] - p[axis]);
                out.push([0, 1].map(|k| p[k] + (q[k] - p[k]) * t));
            }
            if within(q) {
                out.push(*q);
            }
        }
        out
    })
}

/// What of a line (x1, y1, x2, y2) lies in a frame.
pub(super) fn clipped_line([x1, y1, x2, y2]: [f64; 4], frame: [f64; 4]) -> Option<[f64; 4]> {
    let (mut from, mut to) = (0.0_f64, 1.0_f64);
    let sides = [(x1, x2, frame[0], 1.0), (x1, x2, frame[2], -1.0), (y1, y2, frame[1], 1.0), (y1, y2, frame[3], -1.0)];
    for (a, b, edge, way) in sides {
        let (inside, step) = ((a - edge) * way, (b - a) * way);
        if step == 0.0 {
            if inside < 0.0 {
                return None;
            }
        } else if step > 0.0 {
            from = from.max(-inside / step);
        } else {
            to = to.min(-inside / step);
        }
    }
    let at = |t: f64| [x1 + (x2 - x1) * t, y1 + (y2 - y1) * t];
    (from <= to).then(|| {
        let ([a, b], [c, d]) = (at(from), at(to));
        [a, b, c, d]
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn area(p: &[[f64; 2]]) -> f64 {
        let cross = |i: usize| p[i][0] * p[(i + 1) % p.len()][1] - p[(i + 1) % p.len()][0] * p[i][1];
        (0..p.len()).map(cross).sum::<f64>().abs() / 2.0
    }

    proptest! {
        #[test]
        fn of_a_rectangle_lies_in_a_frame_what_both_share(x in -9.0..9.0, y in -9.0..9.0, w in 0.1..20.0, h in 0.1..20.0) {
            let frame = [-5.0, -4.0, 5.0, 4.0];
            let points = [[x, y], [x + w, y], [x + w, y + h], [x, y + h]];
            let shared = |lo: f64, hi: f64, a: f64, b: f64| (hi.min(b) - lo.max(a)).max(0.0);
            let both = shared(x, x + w, -5.0, 5.0) * shared(y, y + h, -4.0, 4.0);
            prop_assert!((area(&clipped(&points, frame)) - both).abs() < 1e-9);
            // The middle line of the rectangle: so much of it as is shared, where it lies in the frame at all.
            let middle = y + h / 2.0;
            let seen = if (-4.0..=4.0).contains(&middle) { shared(x, x + w, -5.0, 5.0) } else { 0.0 };
            let line = clipped_line([x, middle, x + w, middle], frame);
            prop_assert!((line.map_or(0.0, |l| l[2] - l[0]) - seen).abs() < 1e-9);
        }
    }
}
