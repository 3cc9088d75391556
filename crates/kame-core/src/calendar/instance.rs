//! Work to be laid on a calendar, as plain numbers: tasks, crews, places and hours. It says nothing of walls, so that another solver can be asked the
//! same (`kame-days`, docs/DAYS.md). Times are minutes since midnight of the first day.

use crate::problem::Problem;
use serde::{Deserialize, Serialize};

/// Tasks of one instance.
pub const MOST_TASKS: usize = 20_000;
/// Crews of one instance.
pub const MOST_CREWS: usize = 40;
/// Places of one instance.
pub const MOST_PLACES: usize = 2_000;
/// Windows of a crew or a task.
pub const MOST_WINDOWS: usize = 4_000;
/// No time is later, minutes: three years.
pub const LAST: u32 = 3 * 366 * 1440;

/// From a minute to another, without the last.
pub type Window = [u32; 2];

/// Work to be laid on a calendar.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, schemars::JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Instance {
    /// `kame-days`.
    pub format: String,
    /// 1.
    pub version: u32,
    /// Who works, and when.
    pub crews: Vec<Crew>,
    /// Where is worked.
    pub places: Vec<WorkPlace>,
    /// What is done.
    pub tasks: Vec<Task>,
}

/// Who works, and when.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, schemars::JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Crew {
    /// What people call it.
    pub name: String,
    /// Tasks of these trades are theirs.
    pub trades: Vec<String>,
    /// When they work, in order, apart from each other.
    pub works: Vec<Window>,
}

/// Where is worked: one task at a time.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, schemars::JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct WorkPlace {
    /// What people call it.
    pub name: String,
    /// Places at which nobody works while somebody works here: the same bay of a scaffold, or right above.
    #[serde(default)]
    pub apart: Vec<usize>,
}

/// Something that has to be done before, and how long before.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct After {
    /// Index of the task.
    pub task: usize,
    /// Minutes from its end.
    #[serde(default)]
    pub minutes: u32,
}

/// What is done in one go, by one crew, at one place.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, schemars::JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Task {
    /// Id.
    pub id: String,
    /// Whose work it is.
    pub trade: String,
    /// Index of the place; none where it is in nobody's way.
    #[serde(default)]
    pub place: Option<usize>,
    /// How long it takes, minutes.
    pub minutes: u32,
    /// What comes before it.
    #[serde(default)]
    pub after: Vec<After>,
    /// Not before this minute.
    #[serde(default)]
    pub earliest: u32,
    /// Should be done by this minute.
    #[serde(default)]
    pub latest: Option<u32>,
    /// Hours in which it can be done, in order, apart from each other; any where it is left out.
    #[serde(default)]
    pub open: Option<Vec<Window>>,
}

fn bad_windows(path: &str, windows: &[Window]) -> Option<Problem> {
    if windows.len() > MOST_WINDOWS {
        let message = format!("found {} windows, expected at most {MOST_WINDOWS}", windows.len());
        return Some(Problem::new(path, message));
    }
    let wrong = windows.iter().position(|[a, b]| a >= b || *b > LAST);
    let unordered = windows.windows(2).position(|w| w[0][1] > w[1][0]);
    wrong
        .map(|i| {
            Problem::new(
                format!("{path}[{i}]"),
                format!("found {:?}, expected from less than to, up to {LAST}", windows[i]),
            )
        })
        .or_else(|| {
            unordered
                .map(|i| Problem::new(format!("{path}[{}]", i + 1), "begins before the one before it ends".to_owned()))
        })
}

impl Instance {
    /// What cannot be understood of it. Where nothing is wrong, tasks can be ordered: no waits run in a circle.
    pub fn problems(&self) -> Vec<Problem> {
        let mut out = Vec::new();
        let mut many = |path: &str, found: usize, most: usize| {
            if found > most {
                out.push(Problem::new(path, format!("found {found}, expected at most {most}")));
            }
        };
        many("$.tasks", self.tasks.len(), MOST_TASKS);
        many("$.crews", self.crews.len(), MOST_CREWS);
        many("$.places", self.places.len(), MOST_PLACES);
        if !out.is_empty() {
            return out;
        }
        if self.format != "kame-days" || self.version != 1 {
            out.push(Problem::new(
                "$.format",
                format!("found \"{}\" {}, expected \"kame-days\" 1", self.format, self.version),
            ));
        }
        for (i, c) in self.crews.iter().enumerate() {
            out.extend(bad_windows(&format!("$.crews[{i}].works"), &c.works));
            if c.works.is_empty() {
                out.push(Problem::new(
                    format!("$.crews[{i}].works"),
                    format!("{} never works: give them hours, or leave them out", c.name),
                ));
            }
        }
        for (i, p) in self.places.iter().enumerate() {
            if let Some(other) = p.apart.iter().find(|o| **o >= self.places.len() || **o == i) {
                out.push(Problem::new(
                    format!("$.places[{i}].apart"),
                    format!("found place {other}, expected another of {}", self.places.len()),
                ));
            }
        }
        for (i, t) in self.tasks.iter().enumerate() {
            let at = |field: &str| format!("$.tasks[{i}].{field}");
            if t.minutes == 0 || t.minutes > LAST {
                out.push(Problem::new(at("minutes"), format!("found {}, expected 1 to {LAST}", t.minutes)));
            }
            if let Some(p) = t.place.filter(|p| *p >= self.places.len()) {
                out.push(Problem::new(
                    at("place"),
                    format!("found place {p}, expected less than {}", self.places.len()),
                ));
            }
            if let Some(a) = t.after.iter().find(|a| a.task >= self.tasks.len() || a.task == i || a.minutes > LAST) {
                out.push(Problem::new(
                    at("after"),
                    format!("found task {} {} min before, expected another of {}", a.task, a.minutes, self.tasks.len()),
                ));
            }
            out.extend(t.open.as_deref().and_then(|o| bad_windows(&at("open"), o)));
            if t.earliest > LAST || t.latest.is_some_and(|l| l > LAST) {
                out.push(Problem::new(at("earliest"), format!("found a time beyond {LAST}")));
            }
            if !self.crews.iter().any(|c| c.trades.contains(&t.trade)) {
                out.push(Problem::new(at("trade"), format!("nobody does \"{}\": add a crew for {}", t.trade, t.id)));
            }
        }
        if out.is_empty() && self.order().is_none() {
            out.push(Problem::new(
                "$.tasks",
                "tasks wait for each other in a circle: take one of the waits away".to_owned(),
            ));
        }
        out
    }

    /// Tasks so that each comes after what it waits for; `None` where waits run in a circle.
    pub fn order(&self) -> Option<Vec<usize>> {
        let n = self.tasks.len();
        let mut waits: Vec<usize> = self.tasks.iter().map(|t| t.after.len()).collect();
        let mut then: Vec<Vec<usize>> = vec![Vec::new(); n];
        for (i, t) in self.tasks.iter().enumerate() {
            for a in &t.after {
                then[a.task].push(i);
            }
        }
        let mut free: Vec<usize> = (0..n).rev().filter(|i| waits[*i] == 0).collect();
        let mut out = Vec::with_capacity(n);
        while let Some(i) = free.pop() {
            out.push(i);
            for &next in &then[i] {
                waits[next] -= 1;
                if waits[next] == 0 {
                    free.push(next);
                }
            }
        }
        (out.len() == n).then_some(out)
    }
}
