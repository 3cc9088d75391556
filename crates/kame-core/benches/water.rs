//! Water on generated walls of 1, 10 and 100 windows, and what an edit costs on a wall with one.
use criterion::{BatchSize, BenchmarkId, Criterion, criterion_group, criterion_main};
use kame_core::edit::{Edit, apply};
use kame_core::findings::{KnownWater, Moment};
use kame_core::job::{CornerKind, CornerSpec, Job, read_job};
use kame_core::layup::{Bond, Glue, Layup, Region, Scenario, Sheet, Source};
use kame_core::length::Length;
use kame_core::nights::{KnownNights, nights};
use kame_core::plan::build;
use kame_core::recipe::schools::Feature;
use kame_core::sequence::{Stage, nearest_working_order};
use kame_core::stop::Stop;
use kame_core::surface::{Facet, FacetId, Patch, Rect};
use kame_core::view::{Ask, Known, Weather, view_plan, view_with_nights};
use kame_core::water::{Arrangement, Bounds, Limits, run, run_within, solve_within};
use std::hint::black_box;
use std::time::{Duration, Instant};

/// As the program itself has it.
#[global_allocator]
static MEMORY: mimalloc::MiMalloc = mimalloc::MiMalloc;

/// A wall with windows in rows of ten, none aligned with another, so that no coordinate is shared.
fn wall(windows: i64) -> Job {
    let mut job = Job::new("bench");
    let like = job.openings[0].clone();
    let rows = (windows + 9) / 10;
    job.wall.width = Length::inch(if windows > 1 { 760 } else { 144 });
    job.wall.height = Length::inch(rows * 70 + 4);
    job.openings.clear();
    for i in 0..windows {
        let (row, column) = (i / 10, i % 10);
        let mut o = like.clone();
        o.id = format!("W{}", i + 1);
        o.left = Length::inch(20 + column * 74) + Length::inch_fraction((i * 7) % 13, 8);
        o.sill = Length::inch(12 + row * 70) + Length::inch_fraction((i * 5) % 11, 8);
        (o.width, o.height) = (Length::inch(30) + Length::inch_fraction(i % 7, 4), Length::inch(36));
        job.openings.push(o);
    }
    job
}

fn water(c: &mut Criterion) {
    let mut group = c.benchmark_group("water");
    group.sample_size(10);
    for windows in [1, 10, 100] {
        let plan = build(&wall(windows)).expect("a plan");
        let asked = Stage::after(&plan, plan.actions().map(|(_, a)| a)).layup(&plan);
        group.bench_with_input(BenchmarkId::new("divide into cells", windows), &asked, |b, asked| {
            b.iter(|| Arrangement::new(black_box(&asked.layup)).expect("cells"));
        });
        let arrangement = Arrangement::new(&asked.layup).expect("cells");
        let mut rain = asked.layup.clone();
        rain.scenarios.truncate(2);
        group.bench_with_input(
            BenchmarkId::new("rain, glue held and lost, without limit", windows),
            &rain,
            |b, rain| {
                b.iter(|| run(black_box(rain), &arrangement));
            },
        );
        group.bench_with_input(BenchmarkId::new("all scenarios of the plan, to 12 in", windows), &asked, |b, asked| {
            let to = Bounds { head: Some(Length::inch(12)), core: None };
            b.iter(|| run_within(black_box(&asked.layup), &arrangement, to));
        });
    }
    group.finish();
}

fn edit(c: &mut Criterion) {
    let mut group = c.benchmark_group("edit");
    for windows in [1, 10] {
        let job = wall(windows);
        group.bench_function(BenchmarkId::new("drag a window and see everything", windows), |b| {
            let ask = Ask { weather: Weather::Rain, ..Ask::default() };
            let change = Edit::SetOpening {
                id: "W1".into(),
                name: None,
                left: None,
                sill: None,
                width: Some(Length::inch_fraction(65, 2)),
                height: None,
                depth: None,
                flange: None,
            };
            b.iter_batched(
                || job.clone(),
                |job| {
                    let (job, plan) = apply(&job, &change).expect("fits");
                    view_plan(&job, &plan, &ask, &Known::default()).expect("a view")
                },
                BatchSize::SmallInput,
            );
        });
    }
    group.finish();
}

/// The demo wall with four openings: one edge moved, and every night of the order rained on again.
fn demo(c: &mut Criterion) {
    let text = include_bytes!("../../../demo/heron-spit-four-openings.kame.json");
    let job = read_job(text).expect("the demo job");
    let change = Edit::SetOpening {
        id: "W1".into(),
        name: None,
        left: None,
        sill: None,
        width: Some(Length::inch_fraction(73, 2)),
        height: None,
        depth: None,
        flange: None,
    };
    let mut group = c.benchmark_group("demo wall, four openings");
    let (moved, plan) = apply(&job, &change).expect("fits");
    group.bench_function("plan", |b| b.iter(|| apply(black_box(&job), &change).expect("fits")));
    group.bench_function("finished wall: water, findings, drawing, cut list", |b| {
        let ask = Ask { weather: Weather::Rain, ..Ask::default() };
        b.iter(|| view_plan(black_box(&moved), &plan, &ask, &Known::default()).expect("a view"));
    });
    let (before, all) = (build(&job).expect("a plan"), Ask { weather: Weather::Rain, ..Ask::default() });
    group.bench_function("every evening with its temporary covers, from nothing", |b| {
        b.iter(|| nights(black_box(&plan), &KnownNights::default()).expect("nights"));
    });
    group.bench_function("an edge moved: plan, finished wall, every evening", |b| {
        let as_it_was = || {
            let known = Known::default();
            nights(&before, &known.nights).expect("nights");
            known
        };
        let answer = |known: Known| {
            let (moved, plan) = apply(black_box(&job), &change).expect("fits");
            (view_with_nights(&moved, &plan, &all, &known).expect("a view"), known)
        };
        b.iter_batched(as_it_was, answer, BatchSize::SmallInput);
    });
    group.finish();
}

/// A building unfolded round its corners: walls of 600 in with windows in two storeys, six where there are many, and pipes between them.
fn unfolded(openings: i64, pipes: i64) -> Job {
    let (wall, storeys) = (600, if openings > 200 { 6 } else { 2 });
    let each = if openings > 200 { 48 } else { 15 };
    let walls = (openings + each - 1) / each;
    let mut job = Job::new("building");
    let like = job.openings[0].clone();
    job.openings.clear();
    (job.wall.width, job.wall.height) = (Length::inch(wall * walls), Length::inch(28 + storeys * 104));
    let corner = |i: i64| CornerSpec {
        at: Length::inch(wall * i),
        kind: CornerKind::Outside,
        name: format!("Wall {}", i + 1),
        schools: Default::default(),
        products: Default::default(),
    };
    job.wall.corners = (1..walls).map(corner).collect();
    for k in 0..openings {
        let (w, row, column) = (k / each, k % each % storeys, k % each / storeys);
        let mut o = like.clone();
        o.id = format!("W{}", k + 1);
        o.left = Length::inch(wall * w + 26 + column * 70) + Length::inch_fraction((k * 7) % 13, 8);
        o.sill = Length::inch(28 + row * 104) + Length::inch_fraction((k * 5) % 11, 8);
        (o.width, o.height) = (Length::inch(28), Length::inch(40));
        job.openings.push(o);
    }
    for k in 0..pipes {
        let (w, i) = (k % walls, k / walls);
        let mut o = like.clone();
        (o.id, o.feature) = (format!("P{}", k + 1), Feature::Penetration);
        o.left = Length::inch(wall * w + 14 + i / 3 * 64) + Length::inch_fraction((k * 3) % 7, 8);
        o.sill = Length::inch([4, 92, 204][(i % 3) as usize]) + Length::inch_fraction(k % 5, 8);
        (o.width, o.height) = (Length::inch(2), Length::inch(2));
        job.openings.push(o);
    }
    job
}

fn building(c: &mut Criterion) {
    let mut group = c.benchmark_group("building, unfolded");
    group.sample_size(10);
    for (openings, pipes) in [(1, 0), (10, 0), (100, 0), (1000, 0), (120, 200)] {
        let job = unfolded(openings, pipes);
        let plan = build(&job).unwrap_or_else(|p| panic!("{p:?}"));
        let name = format!("{openings} openings, {pipes} penetrations");
        group.bench_function(BenchmarkId::new("plan", &name), |b| b.iter(|| build(black_box(&job)).expect("a plan")));
        group.bench_function(BenchmarkId::new("cells and all water from nothing", &name), |b| {
            b.iter(|| Moment::new(black_box(&plan), usize::MAX).expect("a layup"));
        });
        let mut job_after = job.clone();
        let middle = job.openings.len() / 2;
        job_after.openings[middle].width += Length::inch(1);
        let after = build(&job_after).unwrap_or_else(|p| panic!("{p:?}"));
        group.bench_function(BenchmarkId::new("all water after one opening changed", &name), |b| {
            let as_it_was = || {
                let known = KnownWater::default();
                Moment::with_known(&plan, usize::MAX, &known).expect("a layup");
                known
            };
            let again = |known: KnownWater| (Moment::with_known(&after, usize::MAX, &known).expect("a layup"), known);
            b.iter_batched(as_it_was, again, BatchSize::LargeInput);
        });
        if openings <= 120 {
            // One edit after another, each to a width that the opening did not have before.
            let mut turns = 0..;
            let known = Known::default();
            view_plan(&job, &plan, &Ask::default(), &known).expect("a view");
            let name_of_all = "an edit's whole answer: plan, water, findings, drawing";
            group.bench_function(BenchmarkId::new(name_of_all, &name), |b| {
                // As where it is served: an answer stays until the next is there, and goes after that.
                b.iter_custom(|iterations| {
                    let (mut taken, mut last) = (Duration::ZERO, None);
                    for _ in 0..iterations {
                        let edited = Edit::SetOpening {
                            id: job.openings[middle].id.clone(),
                            name: None,
                            left: None,
                            sill: None,
                            width: Some(
                                job.openings[middle].width + Length::inch_fraction(turns.next().unwrap_or(0) % 509, 64),
                            ),
                            height: None,
                            depth: None,
                            flange: None,
                        };
                        let from = Instant::now();
                        let (next, plan) = apply(black_box(&job), &edited).expect("fits");
                        let answer = view_plan(&next, &plan, &Ask::default(), &known).expect("a view");
                        taken += from.elapsed();
                        drop(black_box(last.replace((next, plan, answer))));
                    }
                    taken
                });
            });
            group.bench_function(BenchmarkId::new("findings of a finished wall", &name), |b| {
                let moment = Moment::new(&plan, usize::MAX).expect("a layup");
                b.iter(|| moment.findings(black_box(&plan)));
            });
            group.bench_function(BenchmarkId::new("everything on the screen", &name), |b| {
                b.iter(|| view_plan(black_box(&job), &plan, &Ask::default(), &Known::default()).expect("a view"));
            });
        }
    }
    group.finish();
}

/// Layups as they may come from outside: sheets in steps, each over the one before, so that every one crosses every other's edges.
fn from_outside(c: &mut Criterion) {
    let mut group = c.benchmark_group("layup from outside, sheets in steps");
    group.sample_size(10);
    for n in [25, 50, 100, 200] {
        let mut layup = Layup::default();
        let side = Length::inch(1000);
        layup.facets.push(Facet { id: "w".into(), width: side, height: side, rise: 1.0, exposed: true });
        for i in 0..n {
            let at = Length::inch(2 * i);
            let rect = Rect::new(at, at, at + Length::inch(500), at + Length::inch(500));
            let region = Region { at: Patch { facet: FacetId(0), rect }, rank: i as f64 };
            layup.sheets.push(Sheet {
                id: format!("s{i}"),
                bond: Bond::None,
                cap: false,
                regions: vec![region],
                cuts: vec![],
            });
        }
        let drain_head = Length::inch(1);
        layup.scenarios.push(Scenario { id: "r".into(), source: Source::Rain, glue: Glue::Holds, drain_head });
        group.bench_with_input(BenchmarkId::new("cells", n), &layup, |b, l| {
            b.iter(|| Arrangement::within(black_box(l), Limits::default().layers).expect("cells"));
        });
        group.bench_with_input(BenchmarkId::new("whole answer", n), &layup, |b, l| {
            b.iter(|| solve_within(black_box(l), Limits::default(), &Stop::default()).expect("an answer"));
        });
    }
    group.finish();
}

/// A building of 320 features with one of its steps in the wrong place.
fn wrong_order(c: &mut Criterion) {
    let mut group = c.benchmark_group("320 features in a wrong order");
    group.sample_size(10);
    let plan = build(&unfolded(120, 200)).unwrap_or_else(|p| panic!("{p:?}"));
    let place = |id: &str| plan.steps.iter().position(|s| s.id == id).expect("a step");
    let mut first_last = plan.clone();
    first_last.order.rotate_left(1);
    let mut one = plan.clone();
    let moved = one.order.remove(place("W60/head"));
    one.order.insert(place("W60/jambs"), moved);
    let mut back = plan.clone();
    back.order.reverse();
    for (name, plan) in
        [("one step of a window", &one), ("the first course last", &first_last), ("back to front", &back)]
    {
        group.bench_function(BenchmarkId::new("nearest working order", name), |b| {
            b.iter(|| nearest_working_order(black_box(plan)));
        });
    }
    group.finish();
}

criterion_group!(benches, water, edit, demo, building, from_outside, wrong_order);
criterion_main!(benches);
