//! Whatever a file, a figure or a request says, Kame answers or refuses with a sentence, in bounded time and memory. A sample runs with every test;
//! `make hammer` runs a million inputs (`KAME_CASES` says how many in all) with memory bounded from outside.

use crate::api::Server;
use crate::watch::Watch;
use kame_core::edit::{Edit, apply, read_schedule};
use kame_core::findings::Moment;
use kame_core::job::{
    Job, LINE_HEIGHT, LINE_LENGTH, OPENING_HEIGHT, OPENING_WIDTH, OpeningSpec, PENETRATION_SIZE, WALL_HEIGHT,
    WALL_WIDTH, read_job, write_job,
};
use kame_core::kit::{read_kit_file, read_kit_rows};
use kame_core::layup::from_json;
use kame_core::length::Length;
use kame_core::model::from_model;
use kame_core::plan::build;
use kame_core::profile::{FigureKind, Profile, read_profile_file};
use kame_core::purchase::{Ordering, order};
use kame_core::range::LengthRange;
use kame_core::recipe::schools::{Feature, Schools};
use kame_core::stop::Stop;
use kame_core::takeoff::cut_list_within;
use kame_core::water::{Limits, solve_within};
use kame_formats::{read_ifc, read_table};
use proptest::prelude::*;
use proptest::sample::{Index, select};
use reqwest::Method;
use serde_json::Value;
use std::sync::OnceLock;

/// How many cases of a kind: `usual` where nothing is said, else its share of `KAME_CASES`, in thousandths.
fn cases(usual: u32, share: u32) -> ProptestConfig {
    let all: Option<u64> = std::env::var("KAME_CASES").ok().and_then(|n| n.parse().ok());
    let cases = all.map_or(usual, |all| (all * u64::from(share) / 1000) as u32);
    ProptestConfig { cases, failure_persistence: None, max_shrink_iters: 64, ..ProptestConfig::default() }
}

const MODELS: [&str; 2] = [
    include_str!("../../../kame-formats/tests/formats/models/boat-shed-ifc4.ifc"),
    include_str!("../../../kame-formats/tests/formats/models/boat-shed-ifc2x3.ifc"),
];

fn demo(name: &str) -> String {
    let file = format!("{}/../../demo/{name}.kame.json", env!("CARGO_MANIFEST_DIR"));
    std::fs::read_to_string(file).expect("a demo job")
}

/// Values of figures at the ends of their ranges and between.
fn figures() -> impl Strategy<Value = Vec<(String, String)>> {
    let shipped = &Profile::general_practice().expect("profile data").figures;
    let one = (any::<Index>(), 0..6_u8, 0.0..1.0_f64).prop_map(|(which, how, share)| {
        let f = which.get(shipped);
        let between = |read: &dyn Fn(&str) -> f64, write: &dyn Fn(f64) -> String| {
            let (least, most) = (read(&f.least), read(&f.most));
            write(least + (most - least) * share)
        };
        let value = match (how, f.kind) {
            (0, _) => f.least.clone(),
            (1, _) => f.most.clone(),
            (2, _) => f.value.clone(),
            (_, FigureKind::Length) => {
                between(&|t| Length::parse(t).map_or(0.0, Length::to_inches_f64), &|x| format!("{x:.3}"))
            }
            _ => between(&|t| t.parse().unwrap_or(0.0), &|x| format!("{x:.2}")),
        };
        (f.id.clone(), value)
    });
    prop::collection::vec(one, 0..8)
}

/// Answers to some of the questions of a kind of feature, that can be built together or not.
fn answers(feature: Feature) -> impl Strategy<Value = Vec<(String, String)>> {
    let questions = &Schools::of(feature).expect("school data").questions;
    let one = (any::<Index>(), any::<Index>()).prop_map(|(which, choice)| {
        let asked: Vec<_> = questions.iter().filter(|q| !q.choice.is_empty()).collect();
        let q = which.get(&asked);
        (q.id.clone(), choice.get(&q.choice).id.clone())
    });
    prop::collection::vec(one, 0..4)
}

/// Lengths of a range, often its ends, mostly the smaller ones, as people build.
fn lengths(range: LengthRange) -> impl Strategy<Value = Length> {
    let (least, most) = (range.least.units(), range.most.units());
    let usual = most.min(least + Length::inch(90).units());
    prop_oneof![1 => Just(range.least), 1 => Just(range.most), 2 => (least..=most).prop_map(Length::from_units), 12 => (least..=usual).prop_map(Length::from_units)]
}

/// Like features in a row.
#[derive(Clone, Debug)]
struct Row {
    feature: Feature,
    count: u8,
    /// Left end of the first, from one to the next, height above the plate; in inches.
    place: [i64; 3],
    width: Length,
    height: Length,
    schools: Vec<(String, String)>,
}

fn rows() -> impl Strategy<Value = Row> {
    let feature = select(vec![Feature::Opening, Feature::Penetration, Feature::Penetration, Feature::Line]);
    feature.prop_flat_map(|feature| {
        let (width, height) = match feature {
            Feature::Opening => (OPENING_WIDTH, OPENING_HEIGHT),
            Feature::Penetration => (PENETRATION_SIZE, PENETRATION_SIZE),
            Feature::Line => (LINE_LENGTH, LINE_HEIGHT),
        };
        (1..24_u8, [0..2400_i64, 1..120, -2..120], lengths(width), lengths(height), answers(feature)).prop_map(
            move |(count, place, width, height, schools)| Row { feature, count, place, width, height, schools },
        )
    })
}

/// Walls of all sizes and builds, dense and empty, with figures at the ends of their ranges.
fn walls() -> impl Strategy<Value = Job> {
    let (narrow, low) = (WALL_WIDTH.least.units(), WALL_HEIGHT.least.units());
    let ordinary = |least: i64, most: i64| (least..most).prop_map(Length::from_units);
    let size = (
        prop_oneof![4 => ordinary(narrow, Length::inch(4000).units()), 1 => lengths(WALL_WIDTH)],
        prop_oneof![3 => ordinary(low, Length::inch(240).units()), 1 => lengths(WALL_HEIGHT)],
    );
    let corners = prop::collection::vec(24..600_i64, 0..5);
    (
        size,
        corners,
        answers(Feature::Opening),
        prop::collection::vec(rows(), 0..4),
        figures(),
        prop::option::of(1..144_i64),
    )
        .prop_map(|((width, height), corners, schools, rows, figures, first)| {
            let mut job = Job::new("hammered");
            let like = job.openings.remove(0);
            (job.wall.width, job.wall.height) = (width, height);
            job.wall.first_course = first.filter(|n| n % 3 == 0).map(Length::inch);
            let wall = Schools::of_wall().expect("school data");
            job.wall.schools = schools.into_iter().filter(|(q, _)| wall.question(q).is_some()).collect();
            let mut at = 0;
            for n in corners {
                at += n;
                job.wall.corners.extend((Length::inch(at + 24) < width).then(|| kame_core::job::CornerSpec {
                    at: Length::inch(at),
                    kind: kame_core::job::CornerKind::Outside,
                    name: format!("Wall at {at}"),
                    schools: Default::default(),
                    products: Default::default(),
                }));
            }
            for (r, row) in rows.into_iter().enumerate() {
                let [left, apart, sill] = row.place;
                for i in 0..i64::from(row.count) {
                    let own = row.schools.iter().filter(|(q, _)| wall.question(q).is_none()).cloned();
                    job.openings.push(OpeningSpec {
                        id: format!("F{r}-{i}"),
                        name: format!("Thing {r}.{i}"),
                        feature: row.feature,
                        schools: own.collect(),
                        left: Length::inch(left + i * apart),
                        sill: Length::inch(sill),
                        width: row.width,
                        height: row.height,
                        ..like.clone()
                    });
                }
            }
            job.figures = figures.into_iter().collect();
            job
        })
}

/// Everything that is worked out of a wall is worked out, or refused with sentences.
fn answered_or_refused(job: &Job) -> Result<(), TestCaseError> {
    let plan = match build(job) {
        Ok(plan) => plan,
        Err(problems) => {
            prop_assert!(
                !problems.is_empty() && problems.iter().all(|p| p.path.starts_with('$') && !p.message.is_empty())
            );
            return Ok(());
        }
    };
    // Searches end at once with what they have: how long they may look is not asked here.
    let enough = || true;
    let _ = cut_list_within(&plan, &job.ticks, &enough);
    let _ = order(&plan, &job.kit, &Ordering { stop: &enough, ..Ordering::default() });
    // Water on walls that a test has time for.
    if plan.pieces.len() < 400 {
        let moment = Moment::new(&plan, usize::MAX).map_err(TestCaseError::fail)?;
        let _ = moment.findings(&plan);
    }
    Ok(())
}

/// A text with some of its parts changed, doubled or gone.
fn damaged(text: &str, damage: &[(Index, u8, u8)]) -> Vec<u8> {
    const WORDS: [&str; 12] = [
        "-1",
        "1e308",
        "1e-9",
        "999999999999999999999",
        "null",
        "\"\"",
        "[]",
        "{}",
        "\"\u{FFFF}\"",
        "0",
        "\"500 m\"",
        "true",
    ];
    let mut bytes = text.as_bytes().to_vec();
    for (at, how, what) in damage {
        if bytes.is_empty() {
            break;
        }
        let at = at.index(bytes.len());
        match how % 4 {
            0 => bytes[at] = *what,
            1 => {
                // The value behind the next colon gives way to another.
                let from = bytes[at..].iter().position(|b| *b == b':').map_or(at, |i| at + i + 1);
                let to = bytes[from..].iter().position(|b| matches!(b, b',' | b'}' | b']')).map_or(from, |i| from + i);
                bytes.splice(from..to, WORDS[usize::from(*what) % WORDS.len()].bytes());
            }
            2 => {
                let end = (at + usize::from(*what)).min(bytes.len());
                bytes.drain(at..end);
            }
            _ => {
                let end = (at + usize::from(*what)).min(bytes.len());
                let part = bytes[at..end].to_vec();
                bytes.splice(at..at, part);
            }
        }
    }
    bytes
}

fn damage() -> impl Strategy<Value = Vec<(Index, u8, u8)>> {
    prop::collection::vec((any::<Index>(), any::<u8>(), any::<u8>()), 1..12)
}

fn layups() -> &'static [String] {
    static READ: OnceLock<Vec<String>> = OnceLock::new();
    READ.get_or_init(|| {
        let folder = format!("{}/../kame-core/tests/cases", env!("CARGO_MANIFEST_DIR"));
        let files = std::fs::read_dir(folder).expect("cases").flatten().map(|f| f.path());
        let of = files.filter(|f| f.to_string_lossy().ends_with(".layup.json"));
        of.map(|f| std::fs::read_to_string(f).expect("a case")).collect()
    })
}

/// Sheets, holes and targets in numbers, some of them one in another, some in steps, some anywhere.
fn large_layups() -> impl Strategy<Value = String> {
    (1..400_i64, 0..4_u8, 0..200_i64, 1..40_i64, any::<u32>()).prop_map(|(n, how, holes, scenarios, seed)| {
        let mut random = u64::from(seed) + 1;
        let mut next = |most: i64| {
            random = random.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
            (random >> 33) as i64 % most.max(1)
        };
        let mut rect = |i: i64| match how {
            0 => [i, i, 1000 - i, 1000 - i],
            1 => [i, i, i + 500, i + 500],
            2 => [0, i * 2, 1000, i * 2 + 6],
            _ => {
                let (u, v) = (next(900), next(900));
                [u, v, u + 1 + next(100), v + 1 + next(100)]
            }
        };
        let sheet = |i: i64, r: [i64; 4]| {
            format!("{{\"id\":\"s{i}\",\"bond\":\"{}\",\"regions\":[{{\"facet\":\"w\",\"rect\":{r:?},\"rank\":{i}}}]}}", ["none", "full", "cured"][i as usize % 3])
        };
        let sheets: Vec<String> = (0..n).map(|i| sheet(i, rect(i))).collect();
        let hole = |r: [i64; 4]| format!("{{\"in\":\"s0\",\"facet\":\"w\",\"rect\":{r:?}}}");
        let holes: Vec<String> = (0..holes).map(|i| hole(rect(i))).collect();
        let scenario = |i: i64| {
            let glue = if i % 2 == 0 { "holds" } else { "lost" };
            format!("{{\"id\":\"r{i}\",\"kind\":\"rain\",\"glue\":\"{glue}\"}}")
        };
        let scenarios: Vec<String> = (0..scenarios).map(scenario).collect();
        format!(
            "{{\"format\":\"kame-layup\",\"version\":1,\"units\":\"in\",\"facets\":[{{\"id\":\"w\",\"width\":1000,\"height\":1000,\"rise\":1,\"exposed\":true}}],
             \"sheets\":[{}],\"holes\":[{}],\"targets\":[{{\"id\":\"t\",\"facet\":\"w\",\"rect\":[100,100,900,900],\"at\":\"substrate\"}}],\"scenarios\":[{}]}}",
            sheets.join(","),
            holes.join(","),
            scenarios.join(",")
        )
    })
}

/// Asks a layup as it comes from outside, on a machine with little room.
fn water(bytes: &[u8]) {
    let Ok(doc) = serde_json::from_slice::<Value>(bytes) else { return };
    let Ok(layup) = from_json(&doc) else { return };
    let little = Limits { layers: 60_000, fronts: 60_000 };
    let _ = solve_within(&layup, little, &Stop::default());
}

proptest! {
    #![proptest_config(cases(300, 30))]

    #[test]
    fn every_wall_is_answered_or_refused(job in walls()) {
        let _watch = Watch::over(|| write_job(&job));
        answered_or_refused(&job)?;
    }
}

proptest! {
    #![proptest_config(cases(60, 2))]

    #[test]
    fn every_figure_of_the_demo_s_walls_is_answered_or_refused(which in 0..4_usize, figures in figures()) {
        let name = ["heron-spit", "heron-spit-as-found", "heron-spit-four-openings", "heron-spit-station"][which];
        let mut job = read_job(demo(name).as_bytes()).expect("the demo");
        job.figures.extend(figures);
        let _watch = Watch::over(|| write_job(&job));
        answered_or_refused(&job)?;
    }

    #[test]
    fn every_edit_is_made_or_refused(job in walls(), step in any::<Index>(), to in any::<Index>(), how in 0..6_u8) {
        let Ok(plan) = build(&job) else { return Ok(()) };
        if plan.steps.is_empty() { return Ok(()) }
        let ids: Vec<&String> = plan.steps.iter().map(|s| &s.id).collect();
        let edit = match how {
            0 => Edit::MoveStep { step: step.get(&ids).to_string(), before: Some(to.get(&ids).to_string()) },
            1 => Edit::MoveStep { step: step.get(&ids).to_string(), before: None },
            2 => Edit::RemoveStep { step: step.get(&ids).to_string() },
            3 => Edit::FollowAdvice,
            4 => Edit::CopyOpening { id: job.openings.first().map_or_else(String::new, |o| o.id.clone()), times: 9, step: Length::inch(60) },
            _ => Edit::AddFeature { kind: "pipe".into(), left: None, sill: None },
        };
        let _watch = Watch::over(|| format!("{edit:?}\n{}", write_job(&job)));
        if let Ok((next, plan)) = apply(&job, &edit) {
            prop_assert_eq!(build(&next).map(|p| p.order), Ok(plan.order));
            apply(&next, &Edit::PutRight).map_err(|p| TestCaseError::fail(format!("{p:?}")))?;
        }
    }
}

proptest! {
    #![proptest_config(cases(400, 315))]

    #[test]
    fn every_file_is_read_or_refused(which in 0..3_usize, damage in damage()) {
        let text = [demo("heron-spit"), demo("heron-spit-as-found"), demo("heron-spit-four-openings")][which].clone();
        let bytes = damaged(&text, &damage);
        let _watch = Watch::over(|| String::from_utf8_lossy(&bytes).into_owned());
        if let Ok(job) = read_job(&bytes) {
            answered_or_refused(&job)?;
        }
        let _ = read_kit_file(&bytes);
        let _ = read_profile_file(Profile::general_practice().expect("profile data"), &bytes);
    }

    #[test]
    fn every_model_is_read_or_refused(which in 0..2_usize, damage in damage()) {
        let bytes = damaged(MODELS[which], &damage);
        let _watch = Watch::over(|| String::from_utf8_lossy(&bytes).into_owned());
        let stop = Stop::default();
        if let Ok(model) = read_ifc(&bytes, &stop)
            && let Ok(made) = from_model(&model, &stop)
        {
            prop_assert_eq!(made.job.problems(), []);
            prop_assert!(build(&made.job).is_ok());
        }
    }

    #[test]
    fn every_table_is_read_or_refused(
        lines in prop::collection::vec(prop::collection::vec("[a-zA-Z0-9 '/\".×x-]{0,12}", 0..8), 0..12),
        heads in prop::collection::vec(select(vec!["Mark", "Type", "Width", "Height", "Sill", "Count", "Left", "product", "price", "id", "value"]), 0..8),
    ) {
        let csv = heads.join(",") + "\n" + &lines.iter().map(|l| l.join(",")).collect::<Vec<_>>().join("\n");
        let _watch = Watch::over(|| csv.clone());
        let Ok(rows) = read_table(csv.as_bytes()) else { return Ok(()) };
        let job = Job::new("table");
        let _ = read_schedule(&job, &rows, &Default::default(), "in");
        let _ = read_kit_rows(&job.kit, &rows);
    }

    #[test]
    fn every_layup_is_answered_or_refused(which in any::<Index>(), damage in damage()) {
        let bytes = damaged(&layups()[which.index(layups().len())], &damage);
        let _watch = Watch::over(|| String::from_utf8_lossy(&bytes).into_owned());
        water(&bytes);
    }
}

proptest! {
    #![proptest_config(cases(24, 1))]

    #[test]
    fn every_large_layup_is_answered_or_refused(text in large_layups()) {
        let _watch = Watch::over(|| text.clone());
        water(text.as_bytes());
    }
}

/// Method, job, path, body, revision and query of a request of any kind, on what there is and what there is not.
fn requests() -> impl Strategy<Value = (u8, &'static str, &'static str, &'static str, i64, &'static str)> {
    let ids = ["1", "2", "3", "9", "0", "-1", "x", "99999999999999999999"];
    let paths = [
        "",
        "/file",
        "/nights",
        "/compare",
        "/strategy",
        "/truck",
        "/truck/order.csv",
        "/truck/kit.json",
        "/kit",
        "/profile",
        "/edits",
        "/undo",
        "/redo",
        "/preview",
        "/ticks",
        "/copy",
        "/restore",
        "/cut-list.csv",
        "/drawings/elevation.svg",
        "/drawings/section.dxf",
        "/drawings/folded.svg",
        "/drawings/apart.pdf",
        "/drawings/steps.svg",
        "/layup",
        "/schedule",
    ];
    let bodies = [
        "",
        "{}",
        "[]",
        "null",
        "{\"edit\":\"rename\",\"name\":\"\u{FFFF}\"}",
        "{\"edit\":\"set_figure\",\"id\":\"lap_horizontal\",\"value\":\"24\"}",
        "{\"edit\":\"put_right\"}",
        "{\"edit\":\"follow_advice\"}",
        "{\"edit\":\"set_wall\",\"width\":\"500 m\"}",
        "{\"piece\":\"W1/pan\",\"cut\":true}",
        "{\"opening\":\"W1\",\"sides\":[{},{}]}",
        "{\"edit\":\"set_wall\",\"height\":-1}",
        "{\"edit\":\"add_feature\",\"kind\":\"window\"}",
        "{\"change\":{\"edit\":\"restore_order\"}}",
        "Mark,Width\nA,36",
        "{\"name\":\"a\",\"x\":1}",
    ];
    (
        0..3_u8,
        select(ids.to_vec()),
        select(paths.to_vec()),
        select(bodies.to_vec()),
        0..4_i64,
        select(vec![
            "",
            "?done=3",
            "?done=-1",
            "?weather=rain&section=sill",
            "?nights=true",
            "?by=moon",
            "?at=NaN&section=head",
            "?opening=99&exploded=true",
        ]),
    )
}

#[test]
fn every_request_is_answered_or_refused_and_none_breaks_the_server() {
    let runtime = tokio::runtime::Runtime::new().expect("a runtime");
    let server = runtime.block_on(Server::start());
    let mut runner = proptest::test_runner::TestRunner::new(cases(150, 20));
    runner
        .run(&requests(), |(method, id, path, body, revision, query)| {
            let method = [Method::GET, Method::POST, Method::DELETE][usize::from(method)].clone();
            let _watch = Watch::over(|| format!("{method} {id}{path}{query} {body}"));
            let url = format!("{}/api/jobs/{id}{path}{query}", server.url);
            let sent =
                server.http.request(method, url).header("If-Match", format!("\"{revision}\"")).body(body.to_owned());
            let answer =
                runtime.block_on(async { sent.send().await }).map_err(|e| TestCaseError::fail(e.to_string()))?;
            let status = answer.status().as_u16();
            prop_assert!(status < 500 || status == 503, "{status}");
            if status >= 400 && status != 405 {
                let problem: Value = runtime.block_on(answer.json()).map_err(|e| TestCaseError::fail(e.to_string()))?;
                prop_assert!(problem["detail"].as_str().is_some_and(|d| !d.is_empty()), "{problem}");
            }
            Ok(())
        })
        .unwrap_or_else(|e| panic!("{e}"));
}
