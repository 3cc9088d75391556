//! What of an answer a change has changed: only that needs to travel to who has the rest.

use super::planned::{Planned, Since};
use super::schools::OrderView;
use super::step::StepView;
use super::wall::WallView;

/// Leaves out of an answer what `before` has already, as who asks calls it.
pub fn leave_out(view: &mut WallView, before: &Planned, have: &str) {
    let mut same = Vec::new();
    let mut part = |name: &str, is: bool| {
        if is {
            same.push(name.to_owned());
        }
        is
    };
    if part("order", view.order == before.order) {
        view.order = OrderView::default();
    }
    if part("schools", view.schools == before.schools) {
        view.schools.clear();
    }
    if part("cut_list", view.cut_list == before.cut_list) {
        view.cut_list.clear();
    }
    if part("courses_why", view.courses_why == before.courses_why) {
        view.courses_why.clear();
    }
    if part("build_ups", view.build_ups == before.build_ups) {
        view.build_ups.clear();
    }
    if part("figures", view.figures == before.figures) {
        view.figures.clear();
    }
    let ids = |steps: &[StepView]| steps.iter().map(|s| s.id.clone()).collect::<Vec<_>>();
    let (now, was) = (ids(&view.steps), ids(&before.steps));
    let known: std::collections::HashMap<&str, &StepView> = before.steps.iter().map(|s| (s.id.as_str(), s)).collect();
    view.steps.retain(|s| known.get(s.id.as_str()) != Some(&s));
    view.since = Some(Since { have: have.to_owned(), same, steps: if now == was { Vec::new() } else { now } });
}
