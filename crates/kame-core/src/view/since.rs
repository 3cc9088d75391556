//! What of an answer a change has changed: only that needs to travel to who has the rest.

use super::planned::{Planned, Since};
use super::step::StepView;
use super::wall::WallView;
use std::collections::HashMap;
use std::mem::take;

/// Leaves out of an answer what `before` has already, as who asks calls it. All that the plan says is given back.
pub fn leave_out(view: &mut WallView, before: &Planned, have: &str) -> Planned {
    let said = Planned {
        steps: take(&mut view.steps),
        order: take(&mut view.order),
        schools: take(&mut view.schools),
        cut_list: take(&mut view.cut_list),
        courses_why: take(&mut view.courses_why),
        build_ups: take(&mut view.build_ups),
        figures: take(&mut view.figures),
    };
    let mut same = Vec::new();
    let mut part = |name: &str, is: bool| {
        if is {
            same.push(name.to_owned());
        }
        !is
    };
    if part("order", said.order == before.order) {
        view.order = said.order.clone();
    }
    if part("schools", said.schools == before.schools) {
        view.schools.clone_from(&said.schools);
    }
    if part("cut_list", said.cut_list == before.cut_list) {
        view.cut_list.clone_from(&said.cut_list);
    }
    if part("courses_why", said.courses_why == before.courses_why) {
        view.courses_why.clone_from(&said.courses_why);
    }
    if part("build_ups", said.build_ups == before.build_ups) {
        view.build_ups.clone_from(&said.build_ups);
    }
    if part("figures", said.figures == before.figures) {
        view.figures.clone_from(&said.figures);
    }
    let ids = |steps: &'_ [StepView]| steps.iter().map(|s| s.id.clone()).collect::<Vec<_>>();
    let is_same =
        said.steps.len() == before.steps.len() && said.steps.iter().zip(&before.steps).all(|(s, b)| s.id == b.id);
    let known: HashMap<&str, &StepView> = before.steps.iter().map(|s| (s.id.as_str(), s)).collect();
    let changed = said.steps.iter().filter(|s| known.get(s.id.as_str()) != Some(s));
    view.steps = changed.cloned().collect();
    let steps = if is_same { Vec::new() } else { ids(&said.steps) };
    view.since = Some(Since { have: have.to_owned(), same, steps });
    said
}
