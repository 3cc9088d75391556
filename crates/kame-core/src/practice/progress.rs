//! What a person has practised: levels passed, and faults that come back sooner the more often they are missed.

use super::drill::{Drill, LEVELS, fault_name};
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

/// One scene that somebody answered.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Result {
    /// What was practised.
    pub drill: Drill,
    /// At which level.
    pub level: u8,
    /// From 0 to 100.
    pub points: f64,
    /// Everything was right.
    pub clean: bool,
    /// Faults that were known.
    pub known: Vec<String>,
    /// Faults that were missed.
    pub missed: Vec<String>,
    /// Which of the level's scenes it was; not known of results that are older than that.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub seed: Option<u64>,
    /// Number of the job on whose wall it was.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub job: Option<i64>,
}

/// How well a fault is known.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct FaultKnown {
    /// Id of the catalogue.
    pub fault: String,
    /// What people call it.
    pub name: String,
    /// How often it was known.
    pub known: u32,
    /// How often it was missed.
    pub missed: u32,
    /// From 0, missed the last time, to 4: known four times running.
    pub sits: u8,
    /// After how many more scenes it should come back; 0 now.
    pub due_in: u32,
}

/// How far a drill has come.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct LevelKnown {
    /// Which drill.
    pub drill: Drill,
    /// The highest level that was passed: two clean scenes running; 0 where none was.
    pub passed: u8,
    /// The level to practise next.
    pub next: u8,
    /// Scenes answered.
    pub scenes: u32,
    /// Clean scenes running at the next level.
    pub running: u8,
}

/// What a person has practised.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Learnt {
    /// Drill by drill.
    pub levels: Vec<LevelKnown>,
    /// Fault by fault, those first that should come back first.
    pub faults: Vec<FaultKnown>,
    /// The fault that should be in the next scene; `null` where none is due.
    pub focus: Option<String>,
}

/// Clean scenes running that pass a level.
const RUNNING: u8 = 2;
/// A fault comes back after so many scenes, by how often running it was known.
const BACK_AFTER: [u32; 5] = [1, 3, 7, 15, 30];

/// What results in their order come to.
pub fn progress(results: &[Result]) -> Learnt {
    let levels = Drill::ALL.map(|drill| {
        let mine: Vec<&Result> = results.iter().filter(|r| r.drill == drill).collect();
        let mut running = [0_u8; LEVELS as usize + 1];
        let mut passed = 0;
        for r in &mine {
            let at = usize::from(r.level.min(LEVELS));
            running[at] = if r.clean { running[at].saturating_add(1) } else { 0 };
            if running[at] >= RUNNING {
                passed = passed.max(r.level.min(LEVELS));
            }
        }
        let next = (passed + 1).min(LEVELS);
        let scenes = u32::try_from(mine.len()).unwrap_or(u32::MAX);
        LevelKnown { drill, passed, next, scenes, running: running[usize::from(next)] }
    });
    let mut faults: BTreeMap<&str, FaultKnown> = BTreeMap::new();
    let mut since: BTreeMap<&str, u32> = BTreeMap::new();
    for r in results {
        since.values_mut().for_each(|n| *n += 1);
        let said = r.known.iter().map(|f| (f, true)).chain(r.missed.iter().map(|f| (f, false)));
        for (fault, known) in said {
            let Some(name) = fault_name(fault) else { continue };
            let one = faults.entry(fault).or_insert_with(|| FaultKnown {
                fault: fault.clone(),
                name: name.to_owned(),
                known: 0,
                missed: 0,
                sits: 0,
                due_in: 0,
            });
            if known {
                one.known += 1;
                one.sits = (one.sits + 1).min(4);
            } else {
                one.missed += 1;
                one.sits = 0;
            }
            since.insert(fault, 0);
        }
    }
    let mut faults: Vec<FaultKnown> = faults.into_values().collect();
    for f in &mut faults {
        let ago = since.get(f.fault.as_str()).copied().unwrap_or(0);
        f.due_in = BACK_AFTER[usize::from(f.sits)].saturating_sub(ago);
    }
    faults.sort_by(|a, b| (a.due_in, a.sits, &a.fault).cmp(&(b.due_in, b.sits, &b.fault)));
    let focus = faults.iter().find(|f| f.due_in <= 1 && f.sits < 4).map(|f| f.fault.clone());
    Learnt { levels: levels.to_vec(), faults, focus }
}
