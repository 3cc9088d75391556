//! A test with water laid over the drawing: the place as it stands, where water should come out of it, where it gets in, and what was seen held
//! against that.

use super::ask::{Known, Weather, data_problem};
use super::elevation::{Elevation, draw, map};
use super::finding::{DropPoint, drop_of, drop_points};
use crate::findings::{Moment, PondAt, Severity, WayOut, ways_out};
use crate::length::Head;
use crate::plan::{Plan, SurfaceId};
use crate::problem::Problem;
use crate::profile::fig;
use crate::record::{SeenWater, WaterDid};
use serde::Serialize;

/// Where the water of one leak comes out.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct WayOutView {
    /// Which water.
    pub name: String,
    /// In words.
    pub says: String,
    /// Its way, from where it is poured.
    pub drop: Vec<DropPoint>,
    /// The stretches along which it comes out: x1, y1, x2, y2.
    pub along: Vec<[f64; 4]>,
}

/// A place that is tested with water.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct TestPicture {
    /// The wall there as it stands today, with the openings that are near.
    pub elevation: Elevation,
    /// What of it is shown: left, top, width, height.
    pub frame: [f64; 4],
    /// Where spots are counted from: the lower left corner of the place, x and y on the drawing.
    pub origin: [f64; 2],
    /// Where water that is poured into the place should come out.
    pub outs: Vec<WayOutView>,
    /// How rain gets in there as it stands today; empty where it does not.
    pub ins: Vec<Vec<DropPoint>>,
}

/// A spot at which water was seen, held against where it should be.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct SeenJudged {
    /// Whether it is as it should be.
    pub good: bool,
    /// In a sentence.
    pub says: String,
}

/// Drawn round the pieces of a place, in.
const ROOM: f64 = 10.0;
/// Ways in that are drawn: more hide the wall.
const MOST_WAYS_IN: usize = 4;

/// The opening of that name; `None` for the walls themselves.
fn opening_of(plan: &Plan, place: &str) -> Result<Option<usize>, Vec<Problem>> {
    if place.is_empty() {
        return Ok(None);
    }
    let found = plan.openings.iter().position(|o| o.id == place);
    found.map(Some).ok_or_else(|| {
        let message = format!("there is no opening \"{place}\" on this wall; it may have been removed meanwhile");
        vec![Problem::new("$.place", message)]
    })
}

/// The lower left corner of a place on the wall, in.
fn corner(plan: &Plan, opening: Option<usize>) -> [f64; 2] {
    match opening {
        Some(o) => [plan.openings[o].rect.u0, plan.openings[o].rect.v0].map(|l| l.to_inches_f64()),
        None => [0.0, plan.walls.plate.to_inches_f64()],
    }
}

fn drawn(plan: &Plan, out: &WayOut) -> Vec<[f64; 4]> {
    let line = |(on, [u0, v0, u1, v1]): &(SurfaceId, [f64; 4])| {
        let ([x0, y0], [x1, y1]) = (map(plan, *on, *u0, *v0), map(plan, *on, *u1, *v1));
        [x0, y0, x1, y1]
    };
    out.along.iter().map(line).collect()
}

/// What it takes to bring water out.
fn when(head: Head) -> String {
    if head.inches() <= 0.05 {
        "by its own weight".into()
    } else {
        format!("once it stands {:.1} in deep", head.inches())
    }
}

/// The place as it stands after `done` actions, with where water should come out of it.
///
/// # Errors
/// A place that is not on the walls, or that the asker stopped asking.
pub fn test_picture(plan: &Plan, done: usize, place: &str, known: &Known) -> Result<TestPicture, Vec<Problem>> {
    let opening = opening_of(plan, place)?;
    let moment = Moment::with_known(plan, done, &known.water).map_err(data_problem)?;
    let found = moment.findings(plan);
    let mut elevation = draw(plan, &moment, Weather::Dry);
    let frame = match opening.map(|o| plan.openings[o].hull.to_inches()) {
        Some([u0, v0, u1, v1]) => {
            let [x, top] = map(plan, SurfaceId::WALL, u0 - ROOM, v1 + ROOM);
            [x, top, u1 - u0 + 2.0 * ROOM, v1 - v0 + 2.0 * ROOM]
        }
        None => [0.0, 0.0, elevation.width, elevation.height],
    };
    let meets = |x0: f64, y0: f64, x1: f64, y1: f64| {
        x1 >= frame[0] && x0 <= frame[0] + frame[2] && y1 >= frame[1] && y0 <= frame[1] + frame[3]
    };
    elevation.shapes.retain(|s| {
        let all = || s.parts.iter().flatten();
        let least = |i: usize| all().map(|p| p[i]).fold(f64::INFINITY, f64::min);
        let most = |i: usize| all().map(|p| p[i]).fold(f64::NEG_INFINITY, f64::max);
        meets(least(0), least(1), most(0), most(1))
    });
    elevation.openings.retain(|o| meets(o.rect[0], o.rect[1], o.rect[0] + o.rect[2], o.rect[1] + o.rect[3]));
    let outs = opening.map_or_else(Vec::new, |o| ways_out(plan, &moment, o));
    let outs = outs.iter().map(|out| {
        let last = out.way.passages.last().map(|p| plan.pieces[crate::findings::piece_of(p.sheet)].name.clone());
        let past = last.map_or(" over the sill".to_owned(), |name| format!(" past the {name}"));
        WayOutView {
            name: out.leak.map_or("Water on the open sill".to_owned(), |l| plan.water.leaks[l].name.clone()),
            says: format!("comes out{past}, {}", when(out.head)),
            drop: drop_points(plan, &out.way),
            along: drawn(plan, out),
        }
    });
    let near = |d: &Vec<DropPoint>| d.iter().any(|p| meets(p.x, p.y, p.x, p.y));
    let leaks = found.iter().filter(|f| f.severity == Severity::Leak).map(|f| drop_of(plan, f));
    let [u, v] = corner(plan, opening);
    Ok(TestPicture {
        outs: outs.collect(),
        ins: leaks.filter(|d| !d.is_empty() && near(d)).take(MOST_WAYS_IN).collect(),
        origin: map(plan, SurfaceId::WALL, u, v),
        frame,
        elevation,
    })
}

/// How far a point is from a line, in.
fn away([x, y]: [f64; 2], [x0, y0, x1, y1]: [f64; 4]) -> f64 {
    let (dx, dy) = (x1 - x0, y1 - y0);
    let long = dx * dx + dy * dy;
    let t = if long > 0.0 { (((x - x0) * dx + (y - y0) * dy) / long).clamp(0.0, 1.0) } else { 0.0 };
    (x - x0 - t * dx).hypot(y - y0 - t * dy)
}

/// What lies outermost on the wall at a spot, in words.
fn at_words(plan: &Plan, moment: &Moment, [u, v]: [f64; 2]) -> String {
    let here = |on: SurfaceId, r: [f64; 4]| on == SurfaceId::WALL && r[0] <= u && u <= r[2] && r[1] <= v && v <= r[3];
    let laid = moment.stage.layers.iter().rev().find(|l| here(l.on, l.rect.to_inches()));
    let within = plan.openings.iter().find(|o| here(SurfaceId::WALL, o.rect.to_inches()));
    match (laid, within) {
        (Some(l), _) => format!("at the {}", plan.pieces[l.piece].name),
        (None, Some(o)) => format!("in {}", o.name),
        (None, None) => "on the bare wall".into(),
    }
}

/// Holds spots at which water was seen against the wall as it stands after `done` actions.
///
/// # Errors
/// A place that is not on the walls, or that the asker stopped asking.
pub fn seen_judged(
    plan: &Plan,
    done: usize,
    place: &str,
    seen: &[SeenWater],
    known: &Known,
) -> Result<Vec<SeenJudged>, Vec<Problem>> {
    if seen.is_empty() {
        return Ok(Vec::new());
    }
    let opening = opening_of(plan, place)?;
    let moment = Moment::with_known(plan, done, &known.water).map_err(data_problem)?;
    let outs = opening.map_or_else(Vec::new, |o| ways_out(plan, &moment, o));
    let lines: Vec<[f64; 4]> = outs.iter().flat_map(|out| drawn(plan, out)).collect();
    let ponds = moment.ponds(plan);
    let near = plan.basis.figures.length(fig::TEST_NEAR).to_inches_f64();
    let [u0, v0] = corner(plan, opening);
    let judged = seen.iter().map(|s| {
        let [x, y] = s.at();
        let spot = [u0 + x, v0 + y];
        let at = at_words(plan, &moment, spot);
        let on_drawing = map(plan, SurfaceId::WALL, spot[0], spot[1]);
        let away = lines.iter().map(|l| away(on_drawing, *l)).min_by(f64::total_cmp);
        let (good, says) = match (s.did, away) {
            (WaterDid::Out, Some(by)) if by <= near => (true, format!("Water came out {at}, where it should.")),
            (WaterDid::Out, Some(by)) => {
                let words = "It got behind something: find where before it is covered.";
                (false, format!("Water came out {at}, {by:.0} in from where it should. {words}"))
            }
            (WaterDid::Out, None) => (false, format!("Water came out {at}, where no way out is planned. Find how.")),
            (WaterDid::Stands, _) if ponds.iter().any(|p| stands(p, spot, near)) => {
                (false, format!("Water stands {at}, as it has to by the plan: the plan is wrong there."))
            }
            (WaterDid::Stands, _) => (
                false,
                format!("Water stands {at}, where nothing should hold it: a sag, a lap the wrong way, or level."),
            ),
            (WaterDid::In, _) => {
                (false, format!("Water came in {at}. Mend it before it is covered, and test it again."))
            }
        };
        SeenJudged { good, says }
    });
    Ok(judged.collect())
}

/// True where water stands at a spot by the model.
fn stands(pond: &PondAt, [u, v]: [f64; 2], near: f64) -> bool {
    let [u0, v0, u1, v1] = pond.rect;
    pond.on == SurfaceId::WALL && u0 - near <= u && u <= u1 + near && v0 - near <= v && v <= v1 + near
}
