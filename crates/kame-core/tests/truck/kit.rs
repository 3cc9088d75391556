//! The kit as data of a job: attributes of somebody's own are in force everywhere, files read again as they were written, and nonsense is named.

use kame_core::contact::{cure_waits, touching_pairs};
use kame_core::edit::{Edit, apply};
use kame_core::job::Job;
use kame_core::kit::{
    HELD, Held, KitSpec, OwnProduct, PairVerdict, SIZE_LENGTH, SIZE_WIDTH, SoldSize, kit_rows, products, read_kit_file,
    read_kit_rows, write_kit_file,
};
use kame_core::length::Length;
use kame_core::plan::{Plan, build};
use kame_core::range::LengthRange;
use kame_core::takeoff::{temperatures, uses};
use proptest::prelude::*;

fn plan(job: &Job) -> Plan {
    build(job).unwrap_or_else(|p| panic!("{p:?}"))
}

fn with(job: &Job, edit: Edit) -> Job {
    apply(job, &edit).unwrap_or_else(|p| panic!("{p:?}")).0
}

fn attribute(product: &str, id: &str, text: &str) -> Edit {
    let own = OwnProduct { attributes: [(id.to_owned(), text.to_owned())].into(), ..OwnProduct::default() };
    Edit::SetProduct { product: product.into(), own: Some(own), stock: None }
}

#[test]
fn an_attribute_of_one_s_own_is_in_force_in_pairs_temperatures_and_what_is_primed() {
    let job = Job::new("own attributes");
    let verdict = |job: &Job| {
        let pairs = touching_pairs(&plan(job)).expect("pairs");
        let of = |p: &&kame_core::contact::Pair| p.upper == "Flashing tape" && p.lower == "Flanged window";
        pairs.iter().find(of).map(|p| p.verdict)
    };
    assert_eq!(verdict(&job), Some(PairVerdict::Fine));
    let asphalt = with(&job, attribute("Flashing tape", "chemistry", "rubberised asphalt"));
    assert_eq!(verdict(&asphalt), Some(PairVerdict::Unknown), "of rigid vinyl its maker has to say");
    let soft = with(&asphalt, attribute("Flanged window", "face", "vinyl"));
    assert_eq!(verdict(&soft), Some(PairVerdict::Never));
    let nobody_knows = with(&job, attribute("Flashing tape", "chemistry", "pine tar"));
    assert_eq!(verdict(&nobody_knows), Some(PairVerdict::Unknown));
    let cold = with(&job, attribute("Stretch flashing membrane", "least_f", "62"));
    let least = temperatures(&plan(&cold), 0).least.expect("a least");
    assert_eq!((least.degrees, least.product.as_str()), (62.0, "Stretch flashing membrane"));
    let refused = apply(&job, &attribute("Flashing tape", "thickness_mil", "-3")).expect_err("refused");
    assert!(refused[0].path.contains("Flashing tape") && refused[0].message.contains("between 0.5 and 500 mil"));
}

#[test]
fn primer_is_counted_by_what_lies_on_bare_ground_and_covers_what_its_maker_says() {
    let job = Job::new("primer");
    let primed = |job: &Job| -> (usize, f64) {
        let all = uses(&plan(job));
        let of = all.iter().filter(|u| u.product == "Primer for membranes");
        let oz = |u: &&kame_core::takeoff::Use| match u.amount {
            kame_core::takeoff::Amount::Volume { fl_oz } => fl_oz,
            _ => 0.0,
        };
        (of.clone().count(), of.map(|u| oz(&u)).sum())
    };
    let (pieces, usual) = primed(&job);
    assert!(pieces > 0 && usual > 0.0, "the pan lies on bare wood");
    let thirsty = with(&job, attribute("Primer for membranes", "ft2_per_gal", "125"));
    let (_, twice) = primed(&thirsty);
    assert!((twice - 2.0 * usual).abs() < 1e-9, "half the cover is twice the primer: {usual} {twice}");
    let order = |job: &Job| kame_core::purchase::order(&plan(job), &job.kit, &Default::default());
    let unknown = order(&with(&job, attribute("Primer for membranes", "ft2_per_gal", "")));
    let line = unknown.lines.iter().find(|l| l.kind == "primer").expect("still on the order");
    assert!(line.sizes.is_empty() && line.remark.contains("how many ft² a gallon covers is not known"), "{line:?}");
    // Recorded that it holds without, nothing is primed for it.
    let record = |job: &Job, upper: &str, lower: &str| {
        let edit = Edit::RecordPair {
            upper: upper.into(),
            lower: lower.into(),
            verdict: Some(PairVerdict::Fine),
            source: "pull test on site".into(),
            hours: None,
        };
        with(job, edit)
    };
    let mut dry = job.clone();
    for p in touching_pairs(&plan(&job)).expect("pairs").iter().filter(|p| p.verdict == PairVerdict::Primer) {
        dry = record(&dry, &p.upper, &p.lower);
    }
    assert_eq!(primed(&dry).0, 0);
}

#[test]
fn what_lies_on_a_coat_waits_for_its_cure_and_what_is_recorded_decides_how_long() {
    let mut job = Job::new("cure");
    assert!(cure_waits(&plan(&job)).expect("waits").is_empty(), "nothing cures under a loose sheet");
    job.wall.schools.insert("barrier".into(), "fluid".into());
    job.openings[0].schools.insert("flange".into(), "tape".into());
    let tape_waits = |job: &Job| -> Vec<f64> {
        let plan = plan(job);
        let waits = cure_waits(&plan).expect("waits");
        assert!(waits.iter().all(|w| w.after < w.step && w.step < plan.steps.next_key()));
        waits.iter().filter(|w| w.because.starts_with("Flashing tape on Fluid")).map(|w| w.hours).collect()
    };
    let by_rule = tape_waits(&job);
    assert!(!by_rule.is_empty() && by_rule.iter().all(|h| *h == 24.0), "{by_rule:?}");
    let say = |verdict, hours| Edit::RecordPair {
        upper: "Flashing tape".into(),
        lower: "Fluid-applied barrier".into(),
        verdict: Some(verdict),
        source: "data sheet, page 2".into(),
        hours,
    };
    let longer = with(&job, say(PairVerdict::After, Some(48.0)));
    assert!(tape_waits(&longer).iter().all(|h| *h == 48.0) && tape_waits(&longer).len() == by_rule.len());
    assert!(tape_waits(&with(&job, say(PairVerdict::Fine, None))).is_empty());
    let refused = apply(&job, &say(PairVerdict::After, Some(-1.0))).expect_err("refused");
    assert!(refused[0].message.contains("between 0 and 2000: give what its maker says"));
}

/// Quarter inches of a range, its ends among them.
fn within(range: LengthRange) -> impl Strategy<Value = Length> {
    let quarter = Length::inch_fraction(1, 4).units();
    let between = (range.least.units() / quarter..=range.most.units() / quarter)
        .prop_map(move |n| Length::from_units(n * quarter));
    prop_oneof![1 => Just(range.least), 1 => Just(range.most), 6 => between]
}

/// A kit, some of it with a second product of its kind.
fn any_kit() -> impl Strategy<Value = KitSpec> {
    let names: Vec<String> = products().expect("products").iter().map(|p| p.name.clone()).collect();
    let size = (within(SIZE_WIDTH), within(SIZE_LENGTH), prop::option::of(0..=99_999_i64)).prop_map(|(w, l, cents)| {
        SoldSize {
            width: Some(w),
            length: Some(l),
            price: cents.map(|c| format!("{}.{:02}", c / 100, c % 100)),
            ..SoldSize::default()
        }
    });
    let own = (
        "[A-Z][a-z]{0,8}",
        prop::collection::vec(size, 0..4),
        prop::option::of(-20..=60_i32),
        prop::option::of(any::<bool>()),
    )
        .prop_map(|(name, mut sizes, least, dry)| {
            sizes.dedup_by_key(|s| s.measures());
            let mut attributes = std::collections::BTreeMap::new();
            attributes.extend(least.map(|t| ("least_f".to_owned(), t.to_string())));
            attributes.extend(dry.map(|d| ("uv".to_owned(), if d { "yes" } else { "no" }.to_owned())));
            OwnProduct { name, sizes, attributes, ..OwnProduct::default() }
        });
    let chosen = prop::sample::select(names);
    let held = (chosen.clone(), within(SIZE_WIDTH), within(SIZE_LENGTH), 1..=HELD.most);
    let one = (own, prop::option::weighted(0.3, "[A-Z][a-z]{1,8} two"));
    (prop::collection::btree_map(chosen, one, 0..6), prop::collection::vec(held, 0..5)).prop_map(|(own, held)| {
        let beside = |(of, (own, name)): (String, (OwnProduct, Option<String>))| match name {
            Some(name) => (name, OwnProduct { of, ..own }),
            None => (of, own),
        };
        let own = own.into_iter().map(beside).collect();
        let mut stock: Vec<Held> = Vec::new();
        for (product, w, l, count) in held {
            let size = SoldSize { width: Some(w), length: Some(l), ..SoldSize::default() };
            if !stock.iter().any(|h| h.product == product && h.size == size) {
                stock.push(Held { product, size, count });
            }
        }
        KitSpec { products: own, stock, pairs: Vec::new() }
    })
}

/// A kit without what says nothing: what is as the generic one is.
fn told(kit: &KitSpec) -> KitSpec {
    let mut kit = kit.clone();
    for (name, own) in &mut kit.products {
        let base = if own.of.is_empty() { name } else { &own.of };
        let generic = products().expect("products").iter().find(|p| p.name == *base).expect("generic");
        let known = kame_core::kit::known(generic).expect("known");
        own.attributes.retain(|id, text| known.get(id) != Some(text));
        if own.name == *name {
            own.name.clear();
        }
    }
    kit.products.retain(|_, own| *own != OwnProduct::default());
    kit.stock.sort_by(|a, b| (&a.product, a.size.width, a.size.length).cmp(&(&b.product, b.size.width, b.size.length)));
    kit
}

proptest! {
    #[test]
    fn a_kit_reads_again_from_its_file_and_from_its_table(kit in any_kit()) {
        prop_assert!(kit.problems().is_empty(), "{:?}", kit.problems());
        let file = read_kit_file(write_kit_file(&kit).as_bytes());
        prop_assert_eq!(file.as_ref(), Ok(&kit));
        let rows = kit_rows(&kit).expect("rows");
        let read = read_kit_rows(&KitSpec::default(), &rows).map_err(|p| TestCaseError::fail(format!("{p:?}")))?;
        prop_assert_eq!(told(&read), told(&kit));
        // On top of what is there already it changes nothing.
        let again = read_kit_rows(&kit, &rows).map_err(|p| TestCaseError::fail(format!("{p:?}")))?;
        prop_assert_eq!(told(&again), told(&kit));
    }
}

fn rows(text: &str) -> Vec<Vec<String>> {
    text.lines().map(|l| l.split(';').map(str::to_owned).collect()).collect()
}

#[test]
fn a_price_list_with_a_few_columns_changes_those_and_nothing_else() {
    let before = KitSpec {
        products: [("Joint tape".to_owned(), OwnProduct { name: "Seam tape".into(), ..OwnProduct::default() })].into(),
        stock: vec![Held {
            product: "Flashing tape".into(),
            size: SoldSize { width: Some(Length::inch(6)), length: Some(Length::inch(300)), ..SoldSize::default() },
            count: 1,
        }],
        ..KitSpec::default()
    };
    let list = rows("Product;width;length;price\nflashing tape;6 in;75';31.50\nflashing tape;4 in;75';22\n;;;\n");
    let after = read_kit_rows(&before, &list).unwrap_or_else(|p| panic!("{p:?}"));
    assert_eq!(after.stock, before.stock);
    assert_eq!(after.called("Joint tape"), "Seam tape");
    let sizes = &after.products["Flashing tape"].sizes;
    let told: Vec<(Option<Length>, Option<&str>)> = sizes.iter().map(|s| (s.width, s.price.as_deref())).collect();
    assert_eq!(told, [(Some(Length::inch(6)), Some("31.50")), (Some(Length::inch(4)), Some("22.00"))]);
    assert!(after.products["Flashing tape"].attributes.is_empty());
}

#[test]
fn a_size_on_the_truck_is_sold_or_a_leftover_as_the_table_says() {
    let read = |text: &str| read_kit_rows(&KitSpec::default(), &rows(text)).unwrap_or_else(|p| panic!("{p:?}"));
    let sizes = |kit: &KitSpec| kit.products.get("Ledger board").map_or(0, |p| p.sizes.len());
    for (cell, sold) in [("yes", 1), ("No", 0), ("", 0)] {
        let kit = read(&format!("product;width;length;on the truck;sold\nLedger board;10;20';1;{cell}"));
        assert_eq!((sizes(&kit), kit.stock.len()), (sold, 1), "{cell}");
        let again = read_kit_rows(&KitSpec::default(), &kit_rows(&kit).expect("rows")).expect("reads");
        assert_eq!(again, kit, "{cell}");
    }
    assert_eq!(sizes(&read("product;width;length;on the truck;price\nLedger board;10;20';1;12")), 1);
}

#[test]
fn a_table_that_does_not_read_is_named_by_row_and_column_and_nothing_is_taken() {
    let refused = |text: &str| {
        let list = read_kit_rows(&KitSpec::default(), &rows(text)).expect_err("refused");
        list.into_iter().map(|p| format!("{}: {}", p.path, p.message)).collect::<Vec<_>>().join("\n")
    };
    assert!(refused("").contains("the table is empty"));
    assert!(refused("product;colour\nFlashing tape;red").contains("there is no column \"colour\""));
    assert!(refused("product;width\nChewing gum;3").contains("row 2, column \"product\": there is no generic product"));
    let two = refused("product;width;on the truck\nFlashing tape;wide;1.5\nJoint tape;6;-2");
    assert!(two.contains("row 2, column \"width\"") && two.contains("row 3, column \"on the truck\""), "{two}");
    assert!(refused("product;width;length;price\nFlashing tape;6;0;3").contains("length of a size is 0\""));
    let mixed = refused("product;length;price\nFlashing tape;900;3 USD\nJoint tape;900;3 EUR");
    assert!(mixed.contains("one currency"), "{mixed}");
    assert!(refused("product;width;sold\nJoint tape;6;perhaps").contains("found \"perhaps\", expected yes, or no"));
    assert!(refused("product;wet_mil\nLiquid flashing;40-20").contains("two numbers such as 12-25"));
    let file = |text: &str| read_kit_file(text.as_bytes()).expect_err("refused")[0].message.clone();
    assert!(file("{}").contains("not a whole Kame kit file"));
    assert!(file(r#"{"format":"kame-kit","version":9,"kit":{}}"#).contains("found kame-kit 9"));
}

#[test]
fn two_schools_are_compared_in_money_minutes_and_days_at_the_opening_and_on_the_whole_job() {
    use kame_core::recipe::schools::Answers;
    use kame_core::view::compare;
    let mut job = Job::new("money");
    job.figures.insert("crew_rate".into(), "60".into());
    let answers = |barrier: &str| Answers::from([("barrier".to_owned(), barrier.to_owned())]);
    let sides = [answers("loose"), answers("fluid")];
    let bare = compare(&job, "W1", &sides, None).unwrap_or_else(|p| panic!("{p:?}"));
    assert!(bare.sides.iter().all(|s| s.material_cost.is_empty() && !s.unpriced.is_empty()), "no prices, no sum");
    let tape = OwnProduct {
        sizes: [4, 6, 9, 12]
            .map(|w| SoldSize {
                width: Some(Length::inch(w)),
                length: Some(Length::inch(900)),
                price: Some("90.00 USD".into()),
                ..SoldSize::default()
            })
            .to_vec(),
        ..OwnProduct::default()
    };
    let job = with(&job, Edit::SetProduct { product: "Flashing tape".into(), own: Some(tape), stock: None });
    let priced = compare(&job, "W1", &sides, None).unwrap_or_else(|p| panic!("{p:?}"));
    let [loose, fluid] = &priced.sides[..] else { panic!("two sides") };
    assert!(loose.material_cost.ends_with(" USD") && !loose.unpriced.contains(&"Flashing tape".to_owned()));
    // A rate of 60 an hour is one a minute.
    assert_eq!(loose.labour_cost, format!("{:.2} USD", loose.minutes));
    let (a, b) = (loose.whole.as_ref().expect("built"), fluid.whole.as_ref().expect("built"));
    assert_eq!((a.waits, b.waits > 0), (0, true), "what lies on a coat waits for it");
    assert!(b.days > a.days && a.minutes >= loose.minutes);
    assert!(a.order.ends_with(" USD") && a.unpriced > 0);
}

#[test]
fn what_is_spoiled_ticked_and_kept_is_forgotten_with_its_opening() {
    let mut wide = Job::new("forgotten");
    wide.wall.width = Length::inch(400);
    let job = with(&wide, Edit::AddFeature { kind: "window".into(), left: None, sill: None });
    let id = job.openings.last().expect("a second window").id.clone();
    let piece =
        plan(&job).pieces.iter().find(|p| p.cut.is_some() && p.id.starts_with(&id)).expect("a piece").id.clone();
    let job = with(&job, Edit::Spoil { piece: piece.clone(), roll: Some(1) });
    let mut job = job;
    job.ticks.push(piece.clone());
    job.bench.rolls.insert(piece.clone(), 1);
    assert_eq!(job.bench.spoiled.get(&piece), Some(&1));
    assert_eq!(job.ticks, [piece.as_str()]);
    let job = with(&job, Edit::RemoveOpening { id });
    assert!(job.bench.is_empty() && job.ticks.is_empty());
}

#[test]
fn a_product_and_what_is_on_the_truck_of_it_are_set_in_one_change() {
    let held = |product: &str, count| Held {
        product: product.into(),
        size: SoldSize { length: Some(Length::inch(900)), width: Some(Length::inch(4)), ..SoldSize::default() },
        count,
    };
    let set = |stock: Vec<Held>| Edit::SetProduct {
        product: "Joint tape".into(),
        own: Some(OwnProduct { name: "Ours".into(), ..OwnProduct::default() }),
        stock: Some(stock),
    };
    let other = with(&Job::new("kit"), Edit::SetStock { stock: vec![held("Flashing tape", 2), held("Joint tape", 9)] });
    let job = with(&other, set(vec![held("Joint tape", 3)]));
    assert_eq!(job.kit.stock, [held("Flashing tape", 2), held("Joint tape", 3)], "what else is on the truck stays");
    assert_eq!(job.kit.products["Joint tape"].name, "Ours");
    assert_eq!(with(&job, set(Vec::new())).kit.stock, [held("Flashing tape", 2)]);
    let refused = apply(&job, &set(vec![held("Flashing tape", 1)])).expect_err("of another product");
    assert!(refused[0].path == "$.stock" && refused[0].message.contains("Joint tape alone"), "{refused:?}");
}

#[test]
fn a_kit_from_a_file_takes_the_place_of_the_whole_kit_and_a_product_that_says_nothing_is_not_kept() {
    let job = with(&Job::new("kit"), attribute("Liquid flashing", "wet_mil", "25-45"));
    assert_eq!(job.kit.products["Liquid flashing"].attributes["wet_mil"], "25-45");
    // The generic value, however it is written, is no change.
    let same = with(&job, attribute("Liquid flashing", "wet_mil", " 20-40 "));
    assert!(same.kit.is_empty());
    let empty = with(&job, Edit::SetKit { kit: KitSpec::default() });
    assert!(empty.kit.is_empty());
    let wrong = KitSpec { products: [("Sealing wax".to_owned(), OwnProduct::default())].into(), ..KitSpec::default() };
    let refused = apply(&job, &Edit::SetKit { kit: wrong }).expect_err("refused");
    assert!(refused[0].message.contains("no generic product \"Sealing wax\""));
    let many = Held {
        product: "Batten".into(),
        size: SoldSize { length: Some(Length::inch(96)), ..SoldSize::default() },
        count: 100_001,
    };
    let refused = apply(&job, &Edit::SetStock { stock: vec![many] }).expect_err("refused");
    assert!(refused[0].message.contains("between 0 and 100000: count again"));
}

#[test]
fn a_size_too_small_to_cut_from_is_refused_and_the_smallest_that_is_not_is_still_worked_out() {
    let sized = |width: &str, length: &str| {
        let size = SoldSize {
            width: Some(Length::parse(width).expect("a width")),
            length: Some(Length::parse(length).expect("a length")),
            ..SoldSize::default()
        };
        let own = OwnProduct { sizes: vec![size], ..OwnProduct::default() };
        Edit::SetProduct { product: "Insulation board".into(), own: Some(own), stock: None }
    };
    let mut job = Job::new("small");
    job.wall.schools.insert("outside".into(), "boards".into());
    let refused = apply(&job, &sized("1/8", "96")).expect_err("refused");
    assert!(refused[0].message.contains("width of a size is 1/8\"; it has to be between 1/4\""));
    assert!(apply(&job, &sized("48", "3")).expect_err("refused")[0].message.contains("between 6\""));
    job.wall.width = Length::inch(2400);
    let smallest = with(&job, sized("1/4", "6"));
    let boards = uses(&plan(&smallest)).into_iter().filter(|u| u.product == "Insulation board").count();
    assert!((1..=100_000).contains(&boards), "{boards}");
}

/// A job with a second tape and a second sealant in its kit.
fn two_of_a_kind() -> Job {
    let more = |of: &str, attributes: &[(&str, &str)]| OwnProduct {
        of: of.into(),
        attributes: attributes.iter().map(|(k, v)| ((*k).to_owned(), (*v).to_owned())).collect(),
        ..OwnProduct::default()
    };
    let add =
        |job: &Job, name: &str, own| with(job, Edit::SetProduct { product: name.into(), own: Some(own), stock: None });
    let tape = more("Flashing tape", &[("chemistry", "rubberised asphalt"), ("least_f", "50"), ("lap_end", "4")]);
    let job = add(&Job::new("two of a kind"), "Cold tape", tape);
    add(
        &job,
        "Soft sealant",
        more("Sealant, movement class 25 or more", &[("movement", "50"), ("chemistry", "silicone")]),
    )
}

fn use_at(job: &Job, product: &str, other: Option<&str>, opening: Option<&str>, wall: usize) -> Job {
    let (other, opening) = (other.map(str::to_owned), opening.map(str::to_owned));
    with(job, Edit::UseProduct { product: product.into(), other, opening, wall: Some(wall) })
}

#[test]
fn a_second_product_of_a_kind_is_used_where_it_is_chosen_and_all_that_follows_goes_with_it() {
    let mut job = two_of_a_kind();
    job.wall.width = Length::inch(200);
    let second = kame_core::job::OpeningSpec { id: "W2".into(), left: Length::inch(130), ..job.openings[0].clone() };
    job.openings.push(second);
    let tape = "Flashing tape";
    let at = |job: &Job, id: &str| -> Vec<String> {
        let plan = plan(job);
        let mine = plan.pieces.iter().filter(|p| p.id.starts_with(id)).map(|p| p.product.clone());
        mine.filter(|p| p == tape || p == "Cold tape").collect()
    };
    assert!(
        at(&job, "W1").iter().all(|p| p == tape) && !at(&job, "W1").is_empty(),
        "in the kit it is used nowhere yet"
    );
    let one = use_at(&job, tape, Some("Cold tape"), Some("W2"), 0);
    assert!(at(&one, "W1").iter().all(|p| p == tape) && at(&one, "W2").iter().all(|p| p == "Cold tape"));
    // What is bought, at which temperature, and what touches what follow.
    let order = kame_core::purchase::order(&plan(&one), &one.kit, &Default::default());
    let bought = |name: &str| order.lines.iter().any(|l| l.product == name && !l.sizes.is_empty());
    assert!(bought(tape) && bought("Cold tape"));
    let pairs = touching_pairs(&plan(&one)).expect("pairs");
    let with_unit = pairs.iter().find(|p| p.upper == "Cold tape" && p.lower == "Flanged window").expect("they touch");
    assert_ne!(with_unit.verdict, PairVerdict::Fine, "asphalt on vinyl: {with_unit:?}");
    // On all walls, but at one window as it was.
    let all = use_at(&use_at(&job, tape, Some("Cold tape"), None, 0), tape, Some(tape), Some("W1"), 0);
    assert!(at(&all, "W1").iter().all(|p| p == tape) && at(&all, "W2").iter().all(|p| p == "Cold tape"));
    let back = use_at(&use_at(&all, tape, None, None, 0), tape, None, Some("W1"), 0);
    assert_eq!(back.openings, job.openings);
    // Beads, too.
    let sealant = "Sealant, movement class 25 or more";
    let soft = use_at(&job, sealant, Some("Soft sealant"), None, 0);
    let plan_of = plan(&soft);
    assert!(
        plan_of.seals.iter().all(|s| s.product != sealant) && plan_of.seals.iter().any(|s| s.product == "Soft sealant")
    );
    // A copied window keeps what it is made of, and the file does.
    let read = kame_core::job::read_job(kame_core::job::write_job(&one).as_bytes());
    assert_eq!(read.as_ref(), Ok(&one));
}

#[test]
fn what_is_chosen_and_not_in_the_kit_is_refused_with_its_place() {
    let job = use_at(&two_of_a_kind(), "Flashing tape", Some("Cold tape"), Some("W1"), 0);
    let refused =
        |edit: Edit| apply(&job, &edit).expect_err("refused").into_iter().map(|p| p.message).collect::<String>();
    let gone = Edit::SetProduct { product: "Cold tape".into(), own: None, stock: None };
    assert!(refused(gone).contains("\"Cold tape\" is used for Flashing tape at W1, and is not in the kit"));
    let to = |product: &str, other: &str| Edit::UseProduct {
        product: product.into(),
        other: Some(other.into()),
        opening: None,
        wall: None,
    };
    assert!(refused(to("Flashing tape", "Soft sealant")).contains("at the walls, and is not in the kit"));
    assert!(refused(to("Chewing gum", "Cold tape")).contains("no generic product"));
    let more = |name: &str, of: &str| Edit::SetProduct {
        product: name.into(),
        own: Some(OwnProduct { of: of.into(), ..OwnProduct::default() }),
        stock: None,
    };
    assert!(refused(more("Joint tape", "Flashing tape")).contains("is a generic product itself"));
    assert!(refused(more("Third tape", "Chewing gum")).contains("no generic product \"Chewing gum\""));
    assert!(refused(more(" Third tape", "Flashing tape")).contains("blanks at an end"));
    let nowhere = Edit::UseProduct { product: "Flashing tape".into(), other: None, opening: None, wall: Some(7) };
    assert!(refused(nowhere).contains("found wall 7, expected 0 to 0"));
}

#[test]
fn what_a_product_asks_goes_before_the_profile() {
    let lap = |job: &Job| {
        let plan = plan(job);
        let courses = &plan.walls.stretches[0].courses.courses;
        courses[0].top - courses[1].bottom
    };
    let job = Job::new("asks");
    assert_eq!(lap(&job), Length::inch(4));
    let asks = |product: &str, id: &str, value: &str| with(&job, attribute(product, id, value));
    let sheet = asks("Loose barrier sheet", "lap_horizontal", "9");
    assert!(lap(&sheet) >= Length::inch(9), "{}", lap(&sheet));
    let moved = &plan(&sheet).basis.moved;
    assert_eq!((moved[0].figure.as_str(), moved[0].product.as_str()), ("lap_horizontal", "Loose barrier sheet"));
    // Another sheet's asks are nobody's here, and less than the profile asks moves nothing.
    assert!(plan(&asks("Adhered barrier sheet", "lap_horizontal", "9")).basis.moved.is_empty());
    assert!(plan(&asks("Loose barrier sheet", "lap_horizontal", "2")).basis.moved.is_empty());
    // A coat goes on as thick as its product is made for.
    let mut fluid = Job::new("coat");
    fluid.wall.schools.insert("barrier".into(), "fluid".into());
    let mil = |job: &Job, piece: &str| {
        let plan = plan(job);
        let coats = plan.steps.iter().flat_map(|s| &s.actions).filter_map(|a| match a.act {
            kame_core::trade::Act::Coat { piece: p, wet_mil, .. } if plan.pieces[p].id == piece => Some(wet_mil),
            _ => None,
        });
        coats.fold(0.0, f64::max)
    };
    assert_eq!(mil(&fluid, "coat"), 12.0);
    let thick = with(&fluid, attribute("Fluid-applied barrier", "wet_mil", "18-25"));
    assert_eq!(mil(&thick, "coat"), 18.0);
    let view = kame_core::view::view(&thick, &Default::default()).expect("a view");
    let shown = view.figures.iter().find(|f| f.figure.id == "field_mil").expect("shown");
    assert_eq!((shown.in_force.as_str(), shown.asked_by.as_deref()), ("18", Some("Fluid-applied barrier")));
}

#[test]
fn what_is_primed_stands_on_its_step_and_takes_its_minutes() {
    let job = Job::new("primed");
    let view = kame_core::view::view(&job, &Default::default()).expect("a view");
    let pan = view.steps.iter().find(|s| s.id == "W1/pan").expect("the pan");
    assert!(
        pan.primes.len() == 1 && pan.primes[0].starts_with("under the ") && pan.primes[0].ends_with(" ft²"),
        "{:?}",
        pan.primes
    );
    let minutes = |job: &Job| {
        let plan = plan(job);
        let at = plan.steps.position(|s| s.id == "W1/pan").expect("the pan");
        kame_core::takeoff::step_minutes(&plan)[at]
    };
    let mut slow = job.clone();
    slow.figures.insert("min_prime".into(), "13".into());
    assert!((minutes(&slow) - minutes(&job) - 10.0).abs() < 1e-9);
}
