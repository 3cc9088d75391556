//! What to buy and what may touch: the worked examples, nothing lost between plan and order, and nonsense refused.

use kame_core::contact::touching_pairs;
use kame_core::edit::{Edit, apply};
use kame_core::job::{Job, read_job};
use kame_core::kit::{Held, OwnProduct, PairVerdict, SoldSize, products};
use kame_core::length::Length;
use kame_core::nest::Outcome;
use kame_core::nest::sheets;
use kame_core::plan::{Plan, build};
use kame_core::purchase::{Order, OrderLine, Ordering, order};
use kame_core::takeoff::{By, Mix, cost, labour, mix, sums, uses};
use proptest::prelude::*;

fn station() -> Job {
    let path = concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo/heron-spit-station.kame.json");
    let job = read_job(&std::fs::read(path).expect("demo")).unwrap_or_else(|p| panic!("{p:?}"));
    // Prices of its own are no part of these tests.
    Job { kit: Default::default(), ..job }
}

fn plan(job: &Job) -> Plan {
    build(job).unwrap_or_else(|p| panic!("{p:?}"))
}

fn ordered(job: &Job) -> Order {
    order(&plan(job), &job.kit, &Ordering::default())
}

fn line<'a>(order: &'a Order, product: &str) -> &'a OrderLine {
    order.lines.iter().find(|l| l.product == product).unwrap_or_else(|| panic!("no {product}"))
}

fn inch(n: i64) -> Length {
    Length::inch(n)
}

fn roll(width: i64, length: i64, price: Option<&str>) -> SoldSize {
    SoldSize {
        width: Some(inch(width)),
        length: Some(inch(length)),
        price: price.map(Into::into),
        ..SoldSize::default()
    }
}

fn answered(ask: &Mix) -> (String, String) {
    let m = mix(ask).unwrap_or_else(|p| panic!("{p:?}"));
    (m.answer, m.working.join("; "))
}

#[test]
fn a_three_eighths_bead_runs_165_in_from_a_tube_and_327_from_a_sausage() {
    let far = |tube: f64| {
        answered(&Mix::Bead { diameter: Length::inch_fraction(3, 8), length: Length::ZERO, tube, waste: 0.0 })
    };
    assert!(
        far(10.1).0.contains("makes 165 in") && far(10.1).1.contains("0.110 in²") && far(10.1).1.contains("18.2 in³")
    );
    assert!(far(20.0).0.contains("makes 327 in") && far(20.0).1.contains("36.1 in³"));
    let two = Mix::Bead { diameter: Length::inch_fraction(3, 8), length: inch(165), tube: 10.1, waste: 10.0 };
    assert!(answered(&two).0.starts_with("2 tube(s)"));
}

#[test]
fn a_field_coat_of_12_mil_on_860_square_feet_takes_two_pails() {
    let (answer, _) = answered(&Mix::Coverage { ft2: 860.0, mil: 12.0, loss: 10.0, rough: 1.0, pail: 5.0 });
    assert_eq!(answer, "7.15 gal: 2 pail(s) of 5 gal.");
}

#[test]
fn trim_of_three_and_a_half_takes_six_inch_tape() {
    let f = Length::inch_fraction;
    let ask = |stocked: &[i64]| Mix::TapeWidth {
        trim: f(7, 2),
        margin: f(3, 2),
        on_frame: f(1, 4),
        stocked: stocked.iter().map(|w| inch(*w)).collect(),
    };
    let (answer, working) = answered(&ask(&[4, 6, 9]));
    assert!(answer.starts_with("6\"") && working.ends_with("= 5 1/4\""), "{answer} {working}");
    assert!(mix(&ask(&[4])).expect("an answer").remark.contains("two strips"));
}

#[test]
fn a_fastener_goes_through_its_layers_and_into_the_stud() {
    let f = Length::inch_fraction;
    let layers = vec![f(3, 4), f(3, 2), f(7, 16)];
    let (answer, working) = answered(&Mix::FastenerLength { layers, into_stud: f(3, 2), step: f(1, 2) });
    assert!(answer.starts_with("4 1/2\"") && working.contains("4 3/16"), "{answer} {working}");
}

#[test]
fn readings_say_whether_the_liquid_that_is_left_will_do() {
    let ask = |left: f64, readings: &[f64]| Mix::FluidLeft {
        done: 400.0,
        to_do: 200.0,
        used: 4.0,
        left,
        readings: readings.to_vec(),
        asked: [12.0, 25.0],
    };
    assert!(answered(&ask(2.0, &[14.0, 15.0])).0.starts_with("2 gal will do"));
    assert!(answered(&ask(1.5, &[14.0])).0.starts_with("0.50 gal short"));
    assert!(mix(&ask(2.0, &[9.0, 15.0])).expect("an answer").remark.contains("thinnest reading, 9 mil"));
}

#[test]
fn nonsense_is_refused_with_value_and_limits() {
    let said = |ask: Mix| {
        mix(&ask).expect_err("refused").into_iter().map(|p| format!("{} {}", p.path, p.message)).collect::<String>()
    };
    let negative = Mix::Coverage { ft2: 100.0, mil: -12.0, loss: 10.0, rough: 1.0, pail: 5.0 };
    assert!(said(negative).contains("$.mil the wet thickness is -12; it has to be between 1 and 250"));
    let nothing = Mix::Bead { diameter: Length::ZERO, length: inch(10), tube: f64::NAN, waste: 0.0 };
    let nothing = said(nothing);
    assert!(nothing.contains("$.diameter") && nothing.contains("$.tube the tube is NaN"), "{nothing}");
}

#[test]
fn the_whole_station_can_be_ordered_and_every_figure_says_how() {
    let job = station();
    let order = ordered(&job);
    for l in &order.lines {
        assert!(!l.sizes.is_empty(), "{} is in no size: {}", l.product, l.remark);
        assert!(l.sizes.iter().all(|s| s.needed > 0 && s.buy == s.needed), "{:?}", l.sizes);
        assert!(l.uses.iter().all(|u| !u.working.is_empty() && !u.wall.is_empty()), "{:?}", l.uses);
    }
    for product in [
        "Loose barrier sheet",
        "Adhered barrier sheet",
        "Faced sheathing panel",
        "Flat flashing membrane",
        "Sealant, movement class 25 or more",
        "Batten",
        "Gap screen",
        "Weep screed",
        "Cap fastener",
        "Panel fastener",
        "Backer rod",
        "Flanged window",
    ] {
        line(&order, product);
    }
    // Windows are ordered one by one.
    let windows =
        job.openings.iter().filter(|o| o.id.starts_with('W') && !o.schools.contains_key("unit")).count() as u64;
    assert_eq!(line(&order, "Flanged window").sizes[0].needed, windows);
}

#[test]
fn what_is_used_is_in_the_order_once() {
    let plan = plan(&station());
    let order = order(&plan, &Default::default(), &Ordering::default());
    let all = uses(&plan);
    assert_eq!(order.lines.iter().map(|l| l.uses.len()).sum::<usize>(), all.len());
    for (_, a) in plan.actions() {
        use kame_core::trade::Act::{Place, Set};
        let (Place { piece, .. } | Set { piece }) = a.act else { continue };
        let p = &plan.pieces[piece];
        assert!(all.iter().any(|u| u.product == p.product && u.what == p.name), "{} is not in the order", p.name);
    }
}

#[test]
fn own_sizes_and_prices_decide_and_the_truck_is_emptied_first() {
    let job = station();
    let edit = |job: &Job, edit: Edit| apply(job, &edit).unwrap_or_else(|p| panic!("{p:?}")).0;
    let own = OwnProduct {
        name: "Grey tape".into(),
        sizes: vec![
            roll(6, 900, Some("30")),
            roll(6, 450, Some("16")),
            roll(4, 900, Some("20")),
            roll(9, 900, Some("44.50")),
            roll(12, 900, Some("58")),
        ],
        ..OwnProduct::default()
    };
    let priced = edit(&job, Edit::SetProduct { product: "Flashing tape".into(), own: Some(own), stock: None });
    let before = ordered(&priced);
    let tape = line(&before, "Flashing tape");
    assert_eq!(tape.called, "Grey tape");
    let paid: i64 = tape.cents.expect("all priced");
    assert!(paid > 0 && before.total == format!("{}.{:02}", paid / 100, paid % 100));
    let stock = vec![Held { product: "Flashing tape".into(), size: roll(6, 900, None), count: 2 }];
    let stocked = edit(&priced, Edit::SetStock { stock });
    let after = ordered(&stocked);
    assert!(line(&after, "Flashing tape").cents.expect("all priced") < paid);
    assert!(line(&after, "Flashing tape").working.iter().any(|w| w.contains("on the truck")));
    let back = edit(&stocked, Edit::SetProduct { product: "Flashing tape".into(), own: None, stock: None });
    assert_eq!(line(&ordered(&back), "Flashing tape").called, "Flashing tape");
    let refused = |e: Edit| apply(&job, &e).expect_err("refused")[0].message.clone();
    let zero = OwnProduct { sizes: vec![roll(6, 0, None)], ..OwnProduct::default() };
    assert!(
        refused(Edit::SetProduct { product: "Flashing tape".into(), own: Some(zero), stock: None })
            .contains("length of a size is 0\"; it has to be between 6\"")
    );
    let none = Edit::SetProduct { product: "Chewing gum".into(), own: Some(OwnProduct::default()), stock: None };
    assert!(refused(none).contains("no generic product"));
}

#[test]
fn a_spoiled_piece_is_cut_once_more_nested_with_the_rest_and_bought() {
    use kame_core::takeoff::cut_list;
    let job = Job::new("spoiled");
    let piece = "W1/head-flashing";
    let mut job = job;
    job.ticks.push(piece.into());
    let (spoiled, after) =
        apply(&job, &Edit::Spoil { piece: piece.into(), roll: Some(1) }).unwrap_or_else(|p| panic!("{p:?}"));
    assert!(spoiled.ticks.is_empty(), "it is to be cut again");
    let list = cut_list(&after, &spoiled.ticks);
    let group = list.iter().find(|g| g.pieces.iter().any(|p| p.id == piece)).expect("its group");
    let again: Vec<(&str, bool, bool, usize)> = group
        .pieces
        .iter()
        .filter(|p| p.id.starts_with(piece))
        .map(|p| (p.id.as_str(), p.cut, p.spoiled, p.roll))
        .collect();
    assert_eq!(again.len(), 2);
    assert!(
        again.contains(&("W1/head-flashing~1", true, true, 1)) && again.contains(&(piece, false, false, 1)),
        "{again:?}"
    );
    let used = |plan: &Plan| uses(plan).len();
    assert_eq!(used(&after), used(&plan(&job)) + 1);
    assert_eq!(spoiled.bench.rolls.get("W1/head-flashing~1"), Some(&1), "it came from the first roll");
    let unknown = apply(&job, &Edit::Spoil { piece: "W9/pan".into(), roll: None }).expect_err("no such piece");
    assert!(unknown[0].message.contains("no piece \"W9/pan\""));
    let again = Edit::Spoil { piece: "W1/head-flashing~1".into(), roll: None };
    let refused = apply(&spoiled, &again).expect_err("what is spoiled already is not cut again");
    assert!(refused[0].message.contains("no piece \"W1/head-flashing~1\""), "{refused:?}");
    let mut often = spoiled.clone();
    often.bench.spoiled.insert(piece.into(), 21);
    assert!(build(&often).expect_err("too often")[0].message.contains("between 1 and 20"));
}

#[test]
fn a_product_without_a_needed_size_is_said_and_not_counted_wrong() {
    let job = station();
    let only_volume =
        OwnProduct { sizes: vec![SoldSize { fl_oz: Some(10.0), ..SoldSize::default() }], ..OwnProduct::default() };
    let (job, _) = apply(&job, &Edit::SetProduct { product: "Batten".into(), own: Some(only_volume), stock: None })
        .unwrap_or_else(|p| panic!("{p:?}"));
    let order = ordered(&job);
    let batten = line(&order, "Batten");
    assert!(batten.sizes.is_empty() && batten.remark.contains("no length it is sold in"), "{}", batten.remark);
}

#[test]
fn who_touches_whom_follows_from_the_plan_and_unknown_stays_work() {
    let mut job = Job::new("pairs");
    let verdicts = |job: &Job| touching_pairs(&plan(job)).expect("pairs");
    let of = |list: &[kame_core::contact::Pair], upper: &str, lower: &str| {
        list.iter().find(|p| p.upper == upper && p.lower == lower).map(|p| (p.verdict, p.source.clone(), p.places))
    };
    let pairs = verdicts(&job);
    let (tape_on_sheet, _, places) = of(&pairs, "Flashing tape", "Loose barrier sheet").expect("tape on sheet");
    assert!(tape_on_sheet == PairVerdict::Fine && places > 1);
    assert_eq!(of(&pairs, "Flashing tape", "Flanged window").map(|p| p.0), Some(PairVerdict::Fine));
    assert!(of(&pairs, "Loose barrier sheet", "Flashing tape").is_none(), "what is only laid on is no pair");
    let sealant = "Sealant, movement class 25 or more";
    assert_eq!(of(&pairs, sealant, "Flashing tape").map(|p| p.0), Some(PairVerdict::Unknown));
    assert_eq!(pairs[0].verdict, PairVerdict::Unknown, "what is to be done comes first");
    let record = Edit::RecordPair {
        upper: sealant.into(),
        lower: "Flashing tape".into(),
        verdict: Some(PairVerdict::Fine),
        source: "letter of the maker, 3 March".into(),
        hours: None,
    };
    job = apply(&job, &record).unwrap_or_else(|p| panic!("{p:?}")).0;
    let (verdict, source, _) = of(&verdicts(&job), sealant, "Flashing tape").expect("still touching");
    assert_eq!((verdict, source.as_str()), (PairVerdict::Fine, "letter of the maker, 3 March"));
    let unsigned = Edit::RecordPair {
        upper: sealant.into(),
        lower: "Flashing tape".into(),
        verdict: Some(PairVerdict::Fine),
        source: " ".into(),
        hours: None,
    };
    assert!(apply(&job, &unsigned).expect_err("no source")[0].message.contains("who said it"));
}

#[test]
fn asphalt_on_vinyl_is_never_and_a_coat_wants_to_cure_first() {
    let with = |barrier: &str, flange: &str| {
        let mut job = Job::new("pairs");
        job.wall.schools.insert("barrier".into(), barrier.into());
        job.openings[0].schools.insert("flange".into(), flange.into());
        let soft = OwnProduct { attributes: [("face".to_owned(), "vinyl".to_owned())].into(), ..OwnProduct::default() };
        job.kit.products.insert("Flanged window".into(), soft);
        touching_pairs(&plan(&job)).expect("pairs")
    };
    let thick = with("panel", "membrane");
    let worst = thick.first().expect("a pair");
    assert_eq!(
        (worst.verdict, worst.upper.as_str(), worst.lower.as_str()),
        (PairVerdict::Never, "Thick flashing membrane", "Flanged window")
    );
    let coat = with("fluid", "tape");
    let on_coat =
        coat.iter().find(|p| p.lower == "Fluid-applied barrier" && p.upper == "Flashing tape").expect("tape on a coat");
    assert_eq!((on_coat.verdict, on_coat.hours), (PairVerdict::After, Some(24.0)));
}

#[test]
fn every_product_a_plan_can_name_is_in_the_library() {
    let known: Vec<&str> = products().expect("products").iter().map(|p| p.name.as_str()).collect();
    for kind in kame_core::edit::feature_kinds().expect("kinds") {
        let job = Job::new("one");
        let Ok((job, _)) = apply(&job, &Edit::AddFeature { kind: kind.id.clone(), left: None, sill: None }) else {
            continue;
        };
        for p in plan(&job).pieces {
            assert!(known.contains(&p.product.as_str()), "{}", p.product);
        }
    }
}

#[test]
fn panels_share_a_sheet_and_what_cannot_is_proved() {
    let (made, large, outcome) =
        sheets(&[(inch(48), inch(48)), (inch(48), inch(48))], (inch(96), inch(48)), Length::ZERO, false);
    assert_eq!((made.len(), large.len(), outcome), (1, 0, Outcome::Proved));
    let (made, _, outcome) =
        sheets(&[(inch(60), inch(40)), (inch(60), inch(40))], (inch(96), inch(48)), Length::ZERO, false);
    assert_eq!((made.len(), outcome), (2, Outcome::Proved));
    let (_, large, _) = sheets(&[(inch(30), inch(96))], (inch(96), inch(48)), Length::ZERO, false);
    assert_eq!(large, [0], "what has a direction is not turned");
    assert_eq!(sheets(&[(inch(30), inch(96))], (inch(96), inch(48)), Length::ZERO, true).0.len(), 1);
}

proptest! {
    #[test]
    fn panels_never_overlap_nor_leave_their_sheet(
        sizes in prop::collection::vec((1_i64..110, 1_i64..60), 0..40), kerf in 0_i64..2, turn: bool
    ) {
        let pieces: Vec<(Length, Length)> = sizes.iter().map(|(a, b)| (inch(*a), inch(*b))).collect();
        let (made, large, outcome) = sheets(&pieces, (inch(96), inch(48)), inch(kerf), turn);
        let mut seen: Vec<usize> = made.iter().flat_map(|s| s.pieces.iter().map(|p| p.piece)).chain(large).collect();
        seen.sort_unstable();
        prop_assert_eq!(seen, (0..pieces.len()).collect::<Vec<_>>());
        for s in &made {
            let rects: Vec<[Length; 4]> = s.pieces.iter().map(|p| {
                let (a, b) = pieces[p.piece];
                let (a, b) = if p.turned { (b, a) } else { (a, b) };
                [p.u, p.v, p.u + a, p.v + b]
            }).collect();
            for (i, r) in rects.iter().enumerate() {
                prop_assert!(r[2] <= inch(96) && r[3] <= inch(48));
                for q in &rects[..i] {
                    prop_assert!(r[2] <= q[0] || q[2] <= r[0] || r[3] <= q[1] || q[3] <= r[1]);
                }
            }
        }
        if let Outcome::Within { rolls } = outcome {
            prop_assert!(rolls < made.len().max(1));
        }
    }
}

#[test]
fn sums_by_anything_are_sums_of_everything() {
    let plan = plan(&station());
    let all = uses(&plan);
    let begins: Vec<String> = (0..plan.order.len()).map(|n| format!("2026-03-{:02}", n / 40 + 1)).collect();
    for by in [By::Opening, By::Wall, By::Phase, By::Trade, By::Day] {
        let list = sums(&all, by, &begins);
        assert_eq!(list.iter().map(|s| s.uses).sum::<usize>(), all.len(), "{by:?}");
        assert!(list.iter().all(|s| !s.amount.is_empty()), "{by:?}");
    }
    let at = |group: &str| sums(&all, By::Opening, &begins).iter().filter(|s| s.group == group).count();
    assert!(at("W1") > 3 && at("nowhere") == 0);
}

#[test]
fn lapped_area_is_covered_once_and_no_more_is_covered_than_bought() {
    // 38 ft by 19 ft 6 in: 741 ft² of wall, 1 in below the plate and 12 in round both ends.
    let order = ordered(&station());
    for l in order.lines.iter().filter(|l| l.bought_ft2 > 0.0 && l.kind != "fluid") {
        assert!(l.covered_ft2 <= l.bought_ft2 + 1e-6, "{}: {} of {}", l.product, l.covered_ft2, l.bought_ft2);
    }
    let sheet = line(&order, "Loose barrier sheet");
    assert!(sheet.covered_ft2 > 100.0);
}

#[test]
fn an_order_can_be_stopped_and_says_so_and_tells_how_far_it_is() {
    use std::sync::Mutex;
    let job = station();
    let plan = plan(&job);
    let told = Mutex::new(Vec::new());
    let tell = |p: kame_core::purchase::Progress| told.lock().expect("told").push((p.done, p.of));
    let stopped = order(&plan, &job.kit, &Ordering { stop: &|| true, tell: &tell });
    let told = told.into_inner().expect("told");
    assert_eq!(told.len(), stopped.lines.len());
    assert!(told.iter().enumerate().all(|(n, (done, of))| *done == n && *of == told.len()));
    let whole = ordered(&job);
    for (a, b) in stopped.lines.iter().zip(&whole.lines) {
        assert_eq!((a.net.as_str(), a.uses.len()), (b.net.as_str(), b.uses.len()));
        assert!(a.bought_ft2 >= b.bought_ft2 - 1e-6, "{}: what is stopped is never better", a.product);
    }
}

#[test]
fn pieces_narrower_than_a_wide_sheet_share_its_width() {
    let sheet = |n: usize| {
        let pieces = vec![(inch(60), inch(30)); n];
        sheets(&pieces, (inch(1200), inch(108)), Length::ZERO, false).0.len()
    };
    // Three beside each other, twenty times along.
    assert_eq!((sheet(60), sheet(61)), (1, 2));
}

#[test]
fn sealant_is_told_by_bead_size_and_the_sizes_make_up_all_of_it() {
    let order = ordered(&station());
    let sealant = line(&order, "Sealant, movement class 25 or more");
    let told: Vec<&String> = sealant.working.iter().filter(|w| w.contains(" bead: ")).collect();
    assert!(told.len() > 1 && told.iter().any(|w| w.starts_with("3/8\"")), "{told:?}");
    let sum: f64 = told.iter().filter_map(|w| w.rsplit(", ").next()?.strip_suffix(" fl oz")?.parse::<f64>().ok()).sum();
    let net: f64 = sealant.net.strip_suffix(" fl oz").and_then(|n| n.parse().ok()).expect("a volume");
    assert!((sum - net).abs() < 0.1 * told.len() as f64, "{sum} {net}");
}

#[test]
fn a_share_of_a_roll_costs_its_share() {
    let job = Job::new("cost");
    let own = OwnProduct { sizes: vec![roll(6, 900, Some("90"))], ..OwnProduct::default() };
    let edit = Edit::SetProduct { product: "Flashing tape".into(), own: Some(own), stock: None };
    let (_, plan) = apply(&job, &edit).unwrap_or_else(|p| panic!("{p:?}"));
    let all = uses(&plan);
    let wide = |u: &&kame_core::takeoff::Use| matches!(u.amount, kame_core::takeoff::Amount::Piece { stock, .. } if stock == inch(6));
    let tape = || all.iter().filter(|u| u.product == "Flashing tape").filter(wide);
    let length: f64 = tape()
        .map(|u| match u.amount {
            kame_core::takeoff::Amount::Piece { length, .. } => length.to_inches_f64(),
            _ => 0.0,
        })
        .sum();
    let paid = cost(&plan, tape());
    assert_eq!((paid.cents, paid.unpriced.len()), ((length * 10.0).round() as i64, 0), "10 cents an inch");
    assert_eq!(cost(&plan, all.iter().filter(|u| u.product == "Backer rod")).unpriced, ["Backer rod"]);
    let figures = [("crew_rate".to_owned(), "48".to_owned())].into();
    let rated = build(&Job { figures, ..job }).unwrap_or_else(|p| panic!("{p:?}"));
    assert_eq!(labour(&rated, 90.0), 7200, "an hour and a half at 48");
}

#[test]
fn boards_and_mats_are_bought_in_the_pieces_they_are_laid_in() {
    let mut job = Job::new("boards");
    job.wall.schools.extend([("outside", "boards"), ("gap", "mat")].map(|(q, a)| (q.to_owned(), a.to_owned())));
    let order = ordered(&job);
    for (product, one) in [("Insulation board", 32.0), ("Drainage mat", 39.0 * 600.0 / 144.0)] {
        let l = line(&order, product);
        assert!(l.uses.iter().all(|u| matches!(u.amount, kame_core::takeoff::Amount::Piece { .. })), "{product}");
        let units: u64 = l.sizes.iter().map(|s| s.needed).sum();
        assert!(units > 0 && l.outcome.is_some(), "{product}");
        assert!((l.bought_ft2 - units as f64 * one).abs() < 1e-6 && l.covered_ft2 <= l.bought_ft2, "{product}");
    }
}

#[test]
fn panels_on_the_bench_lie_on_their_panel_and_on_nothing_else() {
    use kame_core::takeoff::cut_list;
    let plan = plan(&station());
    let list = cut_list(&plan, &[]);
    let group = list.iter().find(|g| g.unit == "panel").expect("panels");
    assert!(group.rolls == group.bars.len() && group.bound <= group.rolls);
    assert_eq!(group.bars.iter().map(|b| b.pieces.len()).sum::<usize>(), group.pieces.len());
    for b in &group.bars {
        for (i, p) in b.pieces.iter().enumerate() {
            assert!(p.from >= 0.0 && p.to <= b.length + 1e-9 && p.low >= 0.0 && p.high <= b.width + 1e-9, "{p:?}");
            let apart = |q: &kame_core::takeoff::BarPiece| {
                q.to <= p.from + 1e-9 || p.to <= q.from + 1e-9 || q.high <= p.low + 1e-9 || p.high <= q.low + 1e-9
            };
            assert!(b.pieces[..i].iter().all(apart), "{p:?} lies on another");
        }
    }
    let bought: u64 = line(&ordered(&station()), &group.product).sizes.iter().map(|s| s.needed).sum();
    assert_eq!(bought, group.rolls as u64, "the bench cuts what is bought");
}
