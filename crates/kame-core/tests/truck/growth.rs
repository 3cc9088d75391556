//! Amounts and minutes grow with what they measure, and one figure stands for one piece wherever it is told.

use kame_core::job::Job;
use kame_core::length::Length;
use kame_core::plan::{Plan, build};
use kame_core::purchase::{Ordering, order};
use kame_core::stop::Stop;
use kame_core::takeoff::{cut_list, step_minutes, uses};
use kame_core::view::{OrderedView, ordered};
use proptest::prelude::*;
use std::collections::{BTreeMap, BTreeSet};

/// A wall of bays, each with one window, answered as told.
fn wall(bays: i64, bay: i64, schools: &[(&str, &str)]) -> Job {
    let mut job = Job::new("growth");
    let like = job.openings[0].clone();
    job.wall.width = Length::inch(bay * bays);
    job.wall.schools = schools.iter().map(|(q, a)| ((*q).to_owned(), (*a).to_owned())).collect();
    job.openings = (0..bays)
        .map(|i| {
            let mut o = like.clone();
            o.id = format!("W{}", i + 1);
            o.left = Length::inch(bay * i + 40);
            o
        })
        .collect();
    job
}

fn plan(job: &Job) -> Plan {
    build(job).unwrap_or_else(|p| panic!("{p:?}"))
}

fn told(job: &Job) -> OrderedView {
    ordered(job, &Stop::default()).unwrap_or_else(|p| panic!("{p:?}"))
}

fn minutes(told: &OrderedView) -> f64 {
    told.minutes.iter().map(|m| m.minutes).sum()
}

fn amounts(told: &OrderedView) -> BTreeMap<&str, f64> {
    let of = told.products.iter().filter_map(|p| Some((p.product.as_str(), p.amount?)));
    of.fold(BTreeMap::new(), |mut sum, (p, a)| {
        *sum.entry(p).or_default() += a;
        sum
    })
}

const WAYS: [&[(&str, &str)]; 5] = [
    &[],
    &[("barrier", "adhered"), ("base", "flashing")],
    &[("barrier", "fluid")],
    &[("barrier", "panel"), ("cladding", "lap"), ("gap", "battens")],
    &[("cladding", "plaster"), ("base", "screed")],
];

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    #[test]
    fn twice_the_wall_takes_about_twice_the_minutes_and_materials(
        bays in 2i64..6,
        bay in 120i64..200,
        way in 0usize..WAYS.len(),
    ) {
        let (one, two) = (told(&wall(bays, bay, WAYS[way])), told(&wall(2 * bays, bay, WAYS[way])));
        let ratio = minutes(&two) / minutes(&one);
        prop_assert!((1.7..=2.1).contains(&ratio), "minutes grow {ratio:.2} times with {way}");
        let (small, large) = (amounts(&one), amounts(&two));
        prop_assert_eq!(small.keys().collect::<Vec<_>>(), large.keys().collect::<Vec<_>>());
        for (product, amount) in &small {
            let ratio = large[product] / amount;
            // What stands at the two ends of a wall alone does not double.
            prop_assert!((0.99..=2.3).contains(&ratio), "{product}: {amount} grows {ratio:.2} times");
        }
        let sheets = ["Loose barrier sheet", "Flashing tape", "Fluid barrier"];
        for product in sheets.iter().filter(|p| small.contains_key(*p)) {
            let ratio = large[product] / small[product];
            prop_assert!((1.8..=2.2).contains(&ratio), "{product} grows {ratio:.2} times");
        }
    }
}

#[test]
fn four_hundred_feet_of_base_flashing_take_the_set_up_and_so_much_a_foot() {
    let of = |feet: i64| {
        let mut job = wall(1, 12 * feet, &[("barrier", "adhered"), ("base", "flashing")]);
        job.openings.clear();
        let plan = plan(&job);
        let all = step_minutes(&plan);
        let base = plan.steps.position(|s| s.id == "base-flashing" || s.id.contains("base")).expect("a base");
        all[base]
    };
    let (short, long) = (of(15), of(400));
    // By the profile 0.4 a foot placed, 0.05 rolled.
    assert!(long - short >= 0.4 * 385.0 && long - short <= 0.6 * 385.0, "{short} and {long}");
}

#[test]
fn a_coat_takes_minutes_by_its_area() {
    let of = |width: i64| {
        let mut job = wall(1, width, &[("barrier", "fluid")]);
        job.openings.clear();
        step_minutes(&plan(&job)).iter().sum::<f64>()
    };
    assert!(of(2400) > 6.0 * of(240), "ten times the wall: {} and {}", of(2400), of(240));
}

#[test]
fn a_joint_inside_is_foam_or_rod_with_sealant_and_never_both() {
    let uses_of = |inside: &str| -> BTreeSet<String> {
        let mut job = wall(1, 160, &[]);
        job.openings[0].schools.insert("inside".into(), inside.into());
        let all = uses(&plan(&job));
        all.into_iter().map(|u| u.product).filter(|p| p == "Backer rod" || p == "Low-expansion foam").collect()
    };
    assert_eq!(uses_of("rod"), BTreeSet::from(["Backer rod".to_owned()]));
    assert_eq!(uses_of("foam"), BTreeSet::from(["Low-expansion foam".to_owned()]));
}

#[test]
fn caps_are_as_many_as_the_field_or_the_edges_ask_whichever_is_more() {
    let caps = |width: i64, height: i64| {
        let mut job = Job::new("caps");
        job.openings.clear();
        (job.wall.width, job.wall.height) = (Length::inch(width), Length::inch(height));
        let n = uses(&plan(&job)).into_iter().filter(|u| u.product == "Cap fastener");
        n.map(|u| match u.amount {
            kame_core::takeoff::Amount::Count { n } => n,
            other => panic!("{other:?}"),
        })
        .sum::<f64>()
    };
    // One sheet of 20 × 4 ft, an inch of it below the wall's foot: 80 ft² / 3 = 27 in the field; (240 + 48) / 16 = 18 along edges.
    assert_eq!(caps(240, 47), 27.0);
    // A strip of 20 ft × 25 in: 42 ft² / 3 = 14, and (240 + 25) / 16 = 17 along edges.
    assert_eq!(caps(240, 24), 17.0);
}

#[test]
fn every_piece_on_a_card_is_on_the_order_in_one_size() {
    for way in WAYS {
        let job = wall(2, 160, way);
        let (plan, told) = (plan(&job), told(&job));
        let bought: BTreeSet<&str> = told.products.iter().map(|p| p.product.as_str()).collect();
        for (_, action) in plan.actions() {
            let Some(piece) = action.act.placed().map(|p| &plan.pieces[p]) else { continue };
            assert!(bought.contains(piece.product.as_str()), "{} of {} is bought nowhere", piece.id, piece.product);
        }
        // The cut list and the order give one figure.
        for cut in cut_list(&plan, &[]).iter().flat_map(|g| &g.pieces) {
            let same = told.pieces.iter().filter(|p| p.id == cut.id);
            let sizes: Vec<_> = same.map(|p| (p.length_in, p.width_in)).collect();
            let listed = (Some(cut.length.to_inches_f64()), Some(cut.width.to_inches_f64()));
            let bar = (listed.0, None);
            assert!(
                !sizes.is_empty() && sizes.iter().all(|s| *s == listed || *s == bar),
                "{}: {listed:?} in the list, {sizes:?}",
                cut.id
            );
        }
        let lines = order(&plan, &job.kit, &Ordering::default()).lines;
        assert!(lines.iter().all(|l| !l.sizes.is_empty() || !l.remark.is_empty()), "a product with no size says why");
    }
}
