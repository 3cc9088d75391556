//! The calendar of 60 windows on one wall with two crews in changeable weather: laid from nothing, and laid again after a delivery comes later.
use criterion::{Criterion, criterion_group, criterion_main};
use kame_core::calendar::{Booking, CalendarQuestion, Effort, Hour, lay};
use kame_core::job::{CrewSpec, Delivery, Job, KeptPlan, SiteSpec};
use kame_core::length::Length;
use kame_core::plan::build;
use kame_core::stop::Stop;
use std::collections::BTreeMap;
use std::hint::black_box;

/// As the program itself has it.
#[global_allocator]
static MEMORY: mimalloc::MiMalloc = mimalloc::MiMalloc;

const PLACES: i64 = 60;

fn wall() -> Job {
    let mut job = Job::new("bench");
    let like = job.openings[0].clone();
    job.wall.width = Length::inch(30 * 60 + 40);
    job.wall.height = Length::inch(200);
    job.openings = (0..PLACES)
        .map(|i| {
            let mut o = like.clone();
            o.id = format!("W{}", i + 1);
            (o.left, o.sill) = (Length::inch(20 + (i % 30) * 60), Length::inch(20 + i / 30 * 90));
            (o.width, o.height) = (Length::inch(30), Length::inch(36));
            o
        })
        .collect();
    job
}

/// Sixty days: cold mornings, rain every fifth afternoon.
fn weather() -> Vec<Hour> {
    (0..60 * 24)
        .map(|h| {
            let (day, of) = (h / 24, f64::from(h % 24));
            let air_f = 50.0 + 12.0 * ((of - 9.0) / 24.0 * std::f64::consts::TAU).sin();
            Hour {
                minute: h * 60,
                air_f,
                dew_f: air_f - 10.0,
                rain_in: if day % 5 == 4 && of >= 13.0 { 0.1 } else { 0.0 },
                wind_mph: 8.0,
                ..Hour::default()
            }
        })
        .collect()
}

fn kept(b: &Booking) -> KeptPlan {
    let mut parts: BTreeMap<&str, Vec<[u32; 2]>> = BTreeMap::new();
    for t in &b.tasks {
        parts.entry(&t.step).or_default().push([t.crew as u32, t.from]);
    }
    let named = |(step, all): (&str, Vec<[u32; 2]>)| {
        let one = all.len() == 1;
        all.into_iter()
            .enumerate()
            .map(move |(n, at)| (if one { step.to_owned() } else { format!("{step} {}", n + 1) }, at))
            .collect::<Vec<_>>()
    };
    let tasks = parts.into_iter().flat_map(named).collect();
    KeptPlan { from: b.from.clone(), crews: b.crews.clone(), tasks, forecast: Vec::new() }
}

fn days(c: &mut Criterion) {
    let plan = build(&wall()).unwrap_or_else(|p| panic!("{p:?}"));
    let hours = weather();
    let mut site = SiteSpec::usual("2026-04-06");
    site.crews.push(CrewSpec { name: "Second".into(), ..site.crews[0].clone() });
    let stop = Stop::default();
    let ask = |site: &SiteSpec, effort: Effort| {
        let asked = CalendarQuestion { plan: &plan, site, hours: &hours, states: &[] };
        lay(&asked, effort, &stop).unwrap_or_else(|p| panic!("{p:?}"))
    };
    let mut group = c.benchmark_group("60 places, two crews");
    group.sample_size(10);
    group.bench_function("from nothing", |b| b.iter(|| black_box(ask(&site, Effort::Full))));
    let mut late = site.clone();
    late.kept = Some(kept(&ask(&site, Effort::Full)));
    late.deliveries.push(Delivery { what: "W30".into(), on: "2026-04-20".into() });
    group.bench_function("a unit comes later, near what was agreed on", |b| {
        b.iter(|| black_box(ask(&late, Effort::Full)))
    });
    group.bench_function("the same while a bar is pulled", |b| b.iter(|| black_box(ask(&late, Effort::Quick))));
    group.finish();
}

criterion_group!(benches, days);
criterion_main!(benches);
