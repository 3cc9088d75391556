//! Findings as a person reads them: one line a cause, with every place it shows at.

use kame_core::edit::{Edit, apply};
use kame_core::findings::{Moment, by_cause};
use kame_core::job::Job;
use kame_core::length::Length;
use kame_core::plan::build;

#[test]
fn five_windows_that_lean_on_the_same_glue_are_one_line_with_five_places() {
    let mut job = Job::new("causes");
    job.wall.width = Length::inch(600);
    job.openings[0].left = Length::inch(40);
    let copies = Edit::CopyOpening { id: "W1".into(), times: 4, step: Length::inch(100) };
    let (job, _) = apply(&job, &copies).unwrap_or_else(|p| panic!("{p:?}"));
    let plan = build(&job).unwrap_or_else(|p| panic!("{p:?}"));
    let found = Moment::new(&plan, usize::MAX).expect("a layup").findings(&plan);
    let causes = by_cause(&plan, &found);
    // The head flashings behind the sheet, and the patches over the slits.
    assert_eq!(causes.len(), 2, "{:?}", causes.iter().map(|c| &c.told.reason).collect::<Vec<_>>());
    assert!(causes.iter().all(|c| c.at == ["W1", "W2", "W3", "W4", "W5"]));
    assert_eq!(causes.iter().map(|c| 1 + c.also.len()).sum::<usize>(), found.len(), "nothing is lost");
    // A window that leaks besides is a line of its own.
    let leak = Edit::RemoveStep { step: "W3/patches".into() };
    let (_, plan) = apply(&job, &leak).unwrap_or_else(|p| panic!("{p:?}"));
    let found = Moment::new(&plan, usize::MAX).expect("a layup").findings(&plan);
    let causes = by_cause(&plan, &found);
    assert!(
        causes.len() <= 4 && causes[0].at == ["W3"],
        "{:?}",
        causes.iter().map(|c| (&c.at, &c.told.code)).collect::<Vec<_>>()
    );
}
