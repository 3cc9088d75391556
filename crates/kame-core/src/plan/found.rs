//! What was found on the wall as it stood, and its repair: steps like any other, behind the last one that was done by then.

use super::hung::on_walls;
use super::top_beads::bead;
use super::{Cut, CutSize, Flap, Piece, Plan, SurfaceId};
use crate::job::{FoundKind, FoundSpec, Holds, Job, Mend, Place};
use crate::kit::named;
use crate::layup::Bond;
use crate::length::Length;
use crate::problem::Problem;
use crate::profile::fig;
use crate::recipe::Role;
use crate::surface::{FacetId, Rect, Segment};
use crate::trade::{Act, Action, Band, CutId, FlapId, Phase, PieceId, SealId, Step, StepCard, StepId};
use serde::Deserialize;
use std::collections::{HashMap, HashSet};
use std::sync::{Arc, OnceLock};

/// What something that was found does to what lies there.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Effect {
    /// The layers there are gone: nothing keeps water off any more.
    Gone,
    /// What stuck has let go.
    Open,
    /// No piece is hurt.
    None,
}

/// Something that was found, as it lies on the wall.
#[derive(Clone, Debug, PartialEq)]
pub struct Damage {
    /// Its id in the job.
    pub id: String,
    /// The kind of damage or late work.
    pub what: FoundKind,
    /// What it does to the layers it meets.
    pub effect: Effect,
    /// Where on the wall.
    pub rect: Rect,
    /// Ids of the pieces it is about, where it is about some.
    pub pieces: Vec<String>,
    /// Id of the last step that was done by then; `None` where everything was.
    pub after: Option<String>,
    /// True where something is done about it.
    pub mended: bool,
}

/// A kind of thing that is found.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct FoundWords {
    /// The kind that this describes.
    pub id: FoundKind,
    /// What people call it.
    pub name: String,
    /// What it does to the layers it meets.
    pub effect: Effect,
    /// The fault of the catalogue as which it is told, or `S-FOUND`.
    pub fault: String,
    /// What it is, in a sentence.
    pub says: String,
}

/// What stands on the card of a step of a repair.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
struct FoundCard {
    id: String,
    title: String,
    what: String,
    check: String,
    why: String,
    caution: String,
}

#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
struct Words {
    kind: Vec<FoundWords>,
    card: Vec<FoundCard>,
}

fn words() -> Result<&'static Words, String> {
    static WORDS: OnceLock<Result<Words, String>> = OnceLock::new();
    let read = || toml::from_str(include_str!("../../data/repairs.toml")).map_err(|e| e.to_string());
    WORDS.get_or_init(read).as_ref().map_err(Clone::clone)
}

/// Every kind of thing that is found.
///
/// # Errors
/// A sentence if the shipped data were broken; a test keeps it whole.
pub fn found_kinds() -> Result<&'static [FoundWords], String> {
    Ok(&words()?.kind)
}

/// A kind by its name in jobs.
///
/// # Errors
/// A sentence if the shipped data were broken.
pub fn found_kind(what: FoundKind) -> Result<&'static FoundWords, String> {
    found_kinds()?.iter().find(|k| k.id == what).ok_or_else(|| format!("no words for {what:?}"))
}

/// The words of a card with what stands in braces filled in.
fn card(id: &str, said: &[(&str, String)]) -> Result<(String, StepCard), String> {
    let card = words()?.card.iter().find(|c| c.id == id).ok_or_else(|| format!("no card \"{id}\" of a repair"))?;
    let fill = |text: &str| said.iter().fold(text.to_owned(), |t, (name, by)| t.replace(&format!("{{{name}}}"), by));
    let told = StepCard {
        what: fill(&card.what),
        over: String::new(),
        check: fill(&card.check),
        why: fill(&card.why),
        caution: fill(&card.caution),
    };
    Ok((fill(&card.title), told))
}

/// Puts everything that was found on a wall, and its repairs, behind the steps that were done by then.
pub(super) fn place(plan: &mut Plan, job: &Job) -> Result<(), Vec<Problem>> {
    if job.found.is_empty() {
        return Ok(());
    }
    for (i, f) in job.found.iter().enumerate() {
        let rect = on_wall(plan, &f.place);
        let path = format!("$.found[{i}].place");
        let inside = on_walls(plan, rect).iter().map(|(_, r)| *r).reduce(Rect::hull);
        let air = plan.walls.outline.air();
        if inside != Some(rect) || air.iter().any(|a| a.contains(rect)) {
            let message = format!(
                "{} lies outside the wall, {} wide and {} high: measure it from the wall's left end and from the bottom plate",
                f.id, job.wall.width, job.wall.height
            );
            return Err(vec![Problem::new(path, message)]);
        }
        let steps = Repair::new(plan, f, rect).steps(i)?;
        let behind = f.after.as_ref().and_then(|id| plan.steps.position(|s| s.id == *id));
        let mut at = behind.map_or(plan.steps.next_key(), |s| StepId(s.0 + 1));
        // What was found earlier at the same time stands first.
        let earlier: Vec<String> = job.found[..i].iter().map(|f| format!("{}/", f.id)).collect();
        while plan.steps.get(at).is_some_and(|s| earlier.iter().any(|p| s.id.starts_with(p))) {
            at.0 += 1;
        }
        plan.steps.splice(at..at, steps.into_iter().map(Arc::new));
        // What comes next may lie on what was done here.
        plan.put_in_order(&job.sequence);
    }
    Ok(())
}

/// True where what was found is done something about that can mend it; whether it does, the water says. What is wet has to dry.
fn is_mended(f: &FoundSpec) -> bool {
    f.repair.iter().any(|m| match m {
        Mend::Again { dry, .. } => *dry || f.what != FoundKind::Wet,
        Mend::Lay { .. } => f.what != FoundKind::Wet,
        Mend::Open { .. } | Mend::Slit { .. } => false,
    })
}

fn on_wall(plan: &Plan, p: &Place) -> Rect {
    let bottom = p.bottom + plan.walls.plate;
    Rect::new(p.left, bottom, p.left + p.width, bottom + p.height)
}

/// One repair while its steps are made.
struct Repair<'a> {
    plan: &'a mut Plan,
    f: &'a FoundSpec,
    rect: Rect,
    /// What was placed by then, and by which action, in the order of work.
    by_then: Vec<(StepId, usize)>,
    /// The slit made last: its flap, and where that is.
    slit: Option<(FlapId, Rect)>,
}

impl<'a> Repair<'a> {
    fn new(plan: &'a mut Plan, f: &'a FoundSpec, rect: Rect) -> Self {
        let last = f.after.as_ref().and_then(|id| plan.order.iter().position(|s| plan.steps[*s].id == *id));
        let done = last.map_or(plan.order.len(), |at| at + 1);
        let left_out = plan.order[done..].iter().filter(|s| plan.is_removed(&plan.steps[**s].id));
        let by_then: Vec<StepId> = plan.order[..done].iter().chain(left_out).copied().collect();
        let by_then = by_then.into_iter().flat_map(|s| (0..plan.steps[s].actions.len()).map(move |a| (s, a))).collect();
        Self { plan, f, rect, by_then, slit: None }
    }

    fn steps(mut self, i: usize) -> Result<Vec<Step>, Vec<Problem>> {
        let broken = |m: String| vec![Problem::new("$", m)];
        let kind = found_kind(self.f.what).map_err(broken)?;
        let damage = self.plan.departures.damages.len();
        let (id, what, mended) = (self.f.id.clone(), self.f.what, is_mended(self.f));
        let (after, pieces) = (self.f.after.clone(), self.f.pieces.clone());
        self.plan.departures.damages.push(Damage {
            id,
            what,
            effect: kind.effect,
            rect: self.rect,
            pieces,
            after,
            mended,
        });
        let from = kind.name.to_lowercase();
        let found = vec![(Act::Damage { damage }, format!("found: {from}"))];
        let mut steps = vec![self.step("found", "found", &[("from", from)], found).map_err(broken)?];
        let repair = &self.f.repair;
        for (n, mend) in repair.iter().enumerate() {
            let path = || format!("$.found[{i}].repair[{n}]");
            let made = match mend {
                Mend::Open { pieces } => self.open(n, pieces).map(|s| vec![s]),
                Mend::Slit { left, at, width, lift } => {
                    let at = *at + self.plan.walls.plate;
                    self.slit(n, Rect::new(*left, at, *left + *width, at + *lift)).map(|s| vec![s])
                }
                Mend::Lay { .. } => self.lay(n, mend).map(|s| vec![s]),
                Mend::Again { off, pieces, dry } => self.again(n, off, pieces, *dry),
            };
            steps.extend(made.map_err(|m| vec![Problem::new(path(), m)])?);
        }
        for (n, mend) in repair.iter().enumerate().rev() {
            if let Mend::Open { pieces } = mend {
                let made = self.close(n, pieces);
                steps.push(made.map_err(|m| vec![Problem::new(format!("$.found[{i}].repair[{n}]"), m)])?);
            }
        }
        Ok(steps)
    }

    fn step(&self, id: &str, of: &str, said: &[(&str, String)], acts: Vec<(Act, String)>) -> Result<Step, String> {
        let (title, card) = card(of, said)?;
        let id = format!("{}/{id}", self.f.id);
        let action = |(n, (act, label)): (usize, (Act, String))| Action {
            id: format!("{id}/{}", n + 1),
            act,
            label: label.into(),
            checks: Vec::new(),
        };
        let actions = acts.into_iter().enumerate().map(action).collect();
        let phase = if of == "found" { Phase::Check } else { Phase::Barrier };
        let title = format!("{}: {title}", self.f.id);
        Ok(Step { id, title, phase, band: Band::SlitPatches, opening: None, card: card.into(), actions })
    }

    /// The numbers of pieces by their ids.
    fn numbers(&self, ids: &[String]) -> Result<Vec<PieceId>, String> {
        let by_id: HashMap<&str, PieceId> =
            self.plan.pieces.iter_enumerated().map(|(i, p)| (p.id.as_str(), i)).collect();
        let find = |id: &String| {
            by_id.get(id.as_str()).copied().ok_or_else(|| {
                format!("there is no piece \"{id}\"; what was there may have changed: choose a repair anew")
            })
        };
        ids.iter().map(find).collect()
    }

    /// What pieces are called, together.
    fn called(&self, pieces: &[PieceId]) -> Vec<(&'static str, String)> {
        let mut names: Vec<&str> = Vec::new();
        for p in pieces {
            let name = self.plan.pieces[*p].name.as_str();
            if !names.contains(&name) {
                names.push(name);
            }
        }
        let (they, them) = if names.len() == 1 { ("it", "it") } else { ("they", "them") };
        vec![("pieces", names.join(", ")), ("they", they.into()), ("them", them.into())]
    }

    fn removes(&self, pieces: &[PieceId]) -> Vec<(Act, String)> {
        let off =
            |p: &PieceId| (Act::Remove { piece: Some(*p) }, format!("take off the {}", self.plan.pieces[*p].name));
        pieces.iter().map(off).collect()
    }

    /// The actions that placed pieces, in the order in which they did.
    fn placing(&self, pieces: &[PieceId]) -> Vec<Action> {
        let of: HashSet<PieceId> = pieces.iter().copied().collect();
        let all = self.by_then.iter().map(|(s, a)| &self.plan.steps[*s].actions[*a]);
        all.filter(|a| a.act.placed().is_some_and(|p| of.contains(&p))).cloned().collect()
    }

    fn open(&self, n: usize, pieces: &[String]) -> Result<Step, String> {
        let mut pieces: Vec<PieceId> =
            self.placing(&self.numbers(pieces)?).iter().filter_map(|a| a.act.placed()).collect();
        pieces.reverse();
        self.step(&format!("{}", n + 1), "open", &self.called(&pieces), self.removes(&pieces))
    }

    fn close(&self, n: usize, pieces: &[String]) -> Result<Step, String> {
        let placing = self.placing(&self.numbers(pieces)?);
        let pieces: Vec<PieceId> = placing.iter().filter_map(|a| a.act.placed()).collect();
        let mut acts: Vec<(Act, String)> = placing.into_iter().map(|a| (a.act, a.label.to_string())).collect();
        acts.push((Act::Fasten, "as before".into()));
        self.step(&format!("{}-back", n + 1), "close", &self.called(&pieces), acts)
    }

    fn slit(&mut self, n: usize, r: Rect) -> Result<Step, String> {
        let flap = self
            .plan
            .flaps
            .push_and_get_key(Flap { id: format!("{}/flap-{}", self.f.id, n + 1), name: "edge above the slit".into() });
        let (from, to) = ((r.u0, r.v0), (r.u1, r.v0));
        let slit = Segment { facet: FacetId(SurfaceId::WALL.0), from, to };
        let cut = self.plan.cuts.next_key();
        let stretch = super::stretch::at(&self.plan.walls.stretches, r.u0);
        self.plan.cuts.push(Cut {
            away: Vec::new(),
            slits: vec![slit],
            flaps: vec![(flap, r)],
            folds: Vec::new(),
            stretch,
        });
        self.slit = Some((flap, r));
        let said = [
            ("width", r.width().to_string()),
            ("above", (r.v0 - self.rect.v1).to_string()),
            ("lift", r.height().to_string()),
        ];
        let acts =
            vec![(Act::Cut { cut }, "slit the barrier".to_owned()), (Act::Lift { flap }, "lift its edge".to_owned())];
        self.step(&format!("{}", n + 1), "slit", &said, acts)
    }

    fn lay(&mut self, n: usize, mend: &Mend) -> Result<Step, String> {
        let Mend::Lay { product, place, holds, under, under_slit, sealed } = mend else {
            return Err("no piece".into());
        };
        let r = on_wall(self.plan, place);
        let under = self.numbers(under)?;
        let slit = self.slit.filter(|_| *under_slit);
        let piece = self.new_piece(n, (product, *holds), r, slit.map(|(_, lifted)| lifted));
        let named = self.plan.pieces[piece].name.clone();
        let dab = product == named::SEALANT;
        let mut acts = Vec::new();
        if *holds == Holds::Coated {
            let (wet_mil, coats) = (self.plan.basis.figures.number(fig::JOINT_MIL), self.plan.coats(product));
            acts.push((Act::Coat { piece, wet_mil, coats }, format!("coat the {named}")));
            acts.push((Act::Wait { piece: Some(piece) }, format!("let the {named} cure")));
        } else {
            acts.push((Act::Place { piece, under }, format!("lay the {named}")));
        }
        match holds {
            Holds::Loose => acts.push((Act::Fasten, "near its top edge".into())),
            Holds::Stuck => acts.push((
                Act::Press { piece },
                if dab { format!("tool the {named}") } else { format!("roll the {named}") },
            )),
            Holds::Coated => {}
        }
        if let Some((flap, _)) = slit {
            acts.push((Act::Drop { flap }, "drop the edge over it".into()));
        }
        if *sealed {
            acts.push((Act::Seal { seal: self.top_bead(n, piece, r) }, "bead along its top edge".into()));
        }
        let of = match (holds, dab) {
            (_, true) => "dab",
            (Holds::Loose, _) if *under_slit => "tucked",
            (Holds::Loose, _) => "lap",
            (Holds::Stuck, _) => "stuck",
            (Holds::Coated, _) => "coated",
        };
        let past = self.plan.basis.figures.length(if dab { fig::REPAIR_DAB } else { fig::REPAIR_PAST });
        let said = [
            ("size", format!("{} × {}", r.width(), r.height())),
            ("product", product.to_lowercase()),
            ("tuck", self.plan.basis.figures.length(fig::REPAIR_TUCK).to_string()),
            ("past", past.to_string()),
        ];
        self.step(&format!("{}", n + 1), of, &said, acts)
    }

    /// Adds the piece that a repair lays; under a slit it goes up behind the edge that is lifted.
    fn new_piece(&mut self, n: usize, (product, holds): (&str, Holds), r: Rect, lifted: Option<Rect>) -> PieceId {
        let regions = match lifted {
            Some(lifted) => {
                let up = Rect { u0: lifted.u0, u1: lifted.u1, v0: lifted.v0, v1: r.v1 };
                let parts = [Rect { v1: lifted.v0, ..r }, up];
                parts.into_iter().filter(|r| r.has_area()).flat_map(|r| on_walls(self.plan, r)).collect()
            }
            None => on_walls(self.plan, r),
        };
        let bond = match holds {
            Holds::Loose => Bond::None,
            Holds::Stuck => Bond::Full,
            Holds::Coated => Bond::Cured,
        };
        let number = self.plan.pieces.iter().filter(|p| p.id.starts_with(&format!("{}/", self.f.id))).count() + 1;
        let dab = product == named::SEALANT;
        let name = match (self.f.repair.iter().filter(|m| matches!(m, Mend::Lay { .. })).count(), dab) {
            (1, true) => format!("sealant at {}", self.f.id),
            (1, false) => format!("patch at {}", self.f.id),
            _ => format!("patch {number} at {}", self.f.id),
        };
        self.plan.pieces.push_and_get_key(Piece {
            id: format!("{}/{}", self.f.id, n + 1),
            name,
            role: Role::Patch,
            letter: format!("R{number}"),
            product: product.to_owned(),
            bond,
            solid: false,
            grips: false,
            regions,
            cut: (holds != Holds::Coated && !dab).then(|| self.cut_size(product, r)),
            opening: None,
            stretch: super::stretch::at(&self.plan.walls.stretches, r.u0),
            laying: None,
        })
    }

    /// Adds a bead along the top edge of a piece that lies at `r`.
    fn top_bead(&mut self, n: usize, piece: PieceId, r: Rect) -> SealId {
        let wide = self.plan.basis.figures.length(fig::BED_BEAD).min(r.height());
        let rects = on_walls(self.plan, Rect { v0: r.v1 - wide, ..r });
        let id = format!("{}/bead-{}", self.f.id, n + 1);
        let rects = rects.into_iter().map(|(_, r)| r).collect();
        let seal = bead(self.plan, piece, id, "bead along the top", "F17", rects);
        self.plan.seals.push_and_get_key(seal)
    }

    /// What a piece is cut from: the narrowest stocked width that is wide enough, laid either way.
    fn cut_size(&self, product: &str, r: Rect) -> CutSize {
        let sizes = self.plan.product(product).map_or(&[][..], |p| &p.sizes);
        let (short, long) = (r.width().min(r.height()), r.width().max(r.height()));
        let widest = sizes.iter().filter_map(|s| s.width).max();
        let fits = |w: Length| sizes.iter().filter(|s| s.width.is_some_and(|k| k >= w)).min_by_key(|s| s.width);
        let stock = fits(short);
        CutSize {
            length: long,
            width: short,
            stock_width: stock.and_then(|s| s.width).unwrap_or(short),
            roll: stock.and_then(|s| s.length),
            widest,
            taken: None,
        }
    }

    /// Everything that was done to pieces is undone and done once more.
    fn again(&self, n: usize, off: &[String], pieces: &[String], dry: bool) -> Result<Vec<Step>, String> {
        let pieces = self.numbers(pieces)?;
        let of: HashSet<PieceId> = pieces.iter().copied().collect();
        let mut off: Vec<PieceId> = self.placing(&self.numbers(off)?).iter().filter_map(|a| a.act.placed()).collect();
        off.reverse();
        let mut once = HashSet::new();
        off.retain(|p| once.insert(*p));
        let cut_in = |cut: CutId| {
            let c = &self.plan.cuts[cut];
            let around = c.away.iter().chain(c.flaps.iter().map(|(_, r)| r)).copied().reduce(Rect::hull);
            let hit = |p: &PieceId| {
                let p = &self.plan.pieces[*p];
                let on_wall =
                    |(on, r): &(SurfaceId, Rect)| *on == SurfaceId::WALL && around.is_some_and(|a| r.overlaps(a));
                p.role.is_barrier() && p.regions.iter().any(on_wall)
            };
            pieces.iter().any(hit)
        };
        let flaps = self.plan.flaps_at(&pieces);
        let about = |act: &Act| match act {
            Act::Place { piece, .. } | Act::Set { piece } | Act::Press { piece } | Act::Coat { piece, .. } => {
                of.contains(piece)
            }
            Act::Wait { piece: Some(piece) } | Act::Remove { piece: Some(piece) } => of.contains(piece),
            Act::Seal { seal } => of.contains(&self.plan.seals[*seal].behind),
            Act::Cut { cut } => cut_in(*cut),
            Act::Lift { flap } | Act::Drop { flap } => flaps.contains(flap),
            _ => false,
        };
        let none = |act: &Act| {
            matches!(
                act,
                Act::Fasten | Act::Measure | Act::Hold | Act::Wait { piece: None } | Act::Remove { piece: None }
            )
        };
        let mut steps = Vec::new();
        if !off.is_empty() {
            steps.push(self.step(&format!("{}", n + 1), "back", &self.called(&off), self.removes(&off))?);
        }
        if dry {
            let acts = vec![(Act::Wait { piece: None }, "wait until it is dry".to_owned())];
            steps.push(self.step(&format!("{}-dry", n + 1), "dry", &[], acts)?);
        }
        // In the recipes' order: what had been left out or stood the wrong way round is right now.
        let mut by_step: Vec<(StepId, Vec<usize>)> = Vec::new();
        let mut done = self.by_then.clone();
        done.sort_unstable();
        for (s, a) in done {
            match by_step.last_mut() {
                Some((last, list)) if *last == s => list.push(a),
                _ => by_step.push((s, vec![a])),
            }
        }
        for (s, actions) in by_step {
            let step: &Step = &self.plan.steps[s];
            if !actions.iter().any(|a| about(&step.actions[*a].act)) {
                continue;
            }
            let id = format!("{}/{}/{}", self.f.id, n + 1, step.id);
            let once_more = actions.iter().map(|a| &step.actions[*a]).filter(|a| about(&a.act) || none(&a.act));
            let actions =
                once_more.enumerate().map(|(k, a)| Action { id: format!("{id}/{}", k + 1), ..a.clone() }).collect();
            let title = format!("{}: again: {}", self.f.id, step.title);
            steps.push(Step { id, title, actions, ..step.clone() });
        }
        Ok(steps)
    }
}
