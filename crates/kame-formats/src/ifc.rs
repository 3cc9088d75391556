//! Walls, windows and doors out of a building model: IFC 2×3 and 4 in STEP (ISO 10303-21). Only what a wall to be flashed needs is read: where straight
//! walls stand, how long, thick and high they are, whether they are outside, and the holes in them with what fills these.

use ifc_lite_core::{AttributeValue, DecodedEntity, EntityDecoder, EntityScanner};
use kame_core::model::{Fills, Model, ModelOpening, ModelWall};
use kame_core::stop::Stop;
use std::collections::{BTreeMap, HashMap};

/// Things of a model that are looked at.
const MOST_THINGS: usize = 400_000;
/// How deep placements and shapes stand in each other at most.
const DEEPEST: usize = 40;
/// Points of one shape that are looked at, and parts of it: shapes can stand in each other many times over.
const MOST_POINTS: usize = 100_000;
const MOST_PARTS: usize = 5_000;
/// Sentences about what was left out.
const MOST_TOLD: usize = 200;
const INCHES_PER_METRE: f64 = 1.0 / 0.0254;
/// A wall thicker than this for its length is none that runs straight.
const PLUMP: f64 = 0.5;

/// Where something stands: three axes and a place.
#[derive(Clone, Copy)]
struct Frame {
    axes: [[f64; 3]; 3],
    at: [f64; 3],
}

const HERE: Frame = Frame { axes: [[1.0, 0.0, 0.0], [0.0, 1.0, 0.0], [0.0, 0.0, 1.0]], at: [0.0; 3] };

fn dot(a: [f64; 3], b: [f64; 3]) -> f64 {
    a[0] * b[0] + a[1] * b[1] + a[2] * b[2]
}

fn cross(a: [f64; 3], b: [f64; 3]) -> [f64; 3] {
    [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]]
}

fn unit(a: [f64; 3], otherwise: [f64; 3]) -> [f64; 3] {
    let l = dot(a, a).sqrt();
    if l > 1e-9 { a.map(|v| v / l) } else { otherwise }
}

impl Frame {
    /// A direction of this frame in the one around it.
    fn turned(&self, p: [f64; 3]) -> [f64; 3] {
        std::array::from_fn(|i| (0..3).map(|k| self.axes[k][i] * p[k]).sum())
    }

    /// A point of this frame in the one around it.
    fn out(&self, p: [f64; 3]) -> [f64; 3] {
        let t = self.turned(p);
        std::array::from_fn(|i| t[i] + self.at[i])
    }

    /// A point of the one around it in this frame.
    fn into(self, p: [f64; 3]) -> [f64; 3] {
        let d: [f64; 3] = std::array::from_fn(|i| p[i] - self.at[i]);
        self.axes.map(|a| dot(a, d))
    }

    /// This frame, which stands in another.
    fn within(&self, other: &Frame) -> Frame {
        Frame { axes: self.axes.map(|a| other.turned(a)), at: other.out(self.at) }
    }
}

/// What is found in a model by kind.
#[derive(Default)]
struct Found {
    project: Option<u32>,
    walls: Vec<u32>,
    others: BTreeMap<&'static str, usize>,
    /// Openings of each wall, and what fills each opening.
    voids: HashMap<u32, Vec<u32>>,
    fills: HashMap<u32, u32>,
    /// Sets of properties of each thing.
    properties: HashMap<u32, Vec<u32>>,
}

struct Reader<'a> {
    decoder: EntityDecoder<'a>,
    /// Inches in a unit of length.
    scale: f64,
    /// Parts of the shape under way that were looked at.
    parts: usize,
    left_out: Vec<String>,
}

/// Reads a building model.
///
/// # Errors
/// A sentence where it is no IFC file, holds more than is looked at, or nobody waits any more.
pub fn read_ifc(bytes: &[u8], stop: &Stop) -> Result<Model, String> {
    let head = String::from_utf8_lossy(&bytes[..bytes.len().min(4096)]).to_uppercase();
    if !head.contains("ISO-10303-21") {
        return Err("found no IFC file in STEP form (it begins with ISO-10303-21): export the model as IFC 4 or IFC 2x3, not as XML or ZIP".into());
    }
    if !head.contains("IFC2X3") && !head.contains("IFC4") {
        return Err("found a STEP file that is no IFC 2x3 or IFC 4 model: export it so".into());
    }
    let found = scan(bytes, stop)?;
    let mut reader = Reader { decoder: EntityDecoder::new(bytes), scale: 1.0, parts: 0, left_out: Vec::new() };
    reader.scale = reader.decoder.length_unit_scale() * INCHES_PER_METRE;
    if !(1e-6..=1e6).contains(&reader.scale) {
        return Err(format!(
            "found a unit of length of {} m: export the model in millimetres, metres, inches or feet",
            reader.scale / INCHES_PER_METRE
        ));
    }
    let name = found.project.and_then(|p| reader.get(p)).map(|p| reader.text(&p, 2)).unwrap_or_default();
    let mut walls: Vec<(Option<bool>, ModelWall)> = Vec::new();
    for id in &found.walls {
        stop.check()?;
        if let Some(wall) = reader.wall(*id, &found) {
            walls.push(wall);
        }
    }
    // Where the model says which walls are outside the others are not looked at.
    let says = walls.iter().any(|(outside, _)| *outside == Some(true));
    let (outside, inside): (Vec<_>, Vec<_>) = walls.into_iter().partition(|(o, _)| !says || *o == Some(true));
    if !inside.is_empty() {
        let many = if inside.len() == 1 { "1 inner wall".to_owned() } else { format!("{} inner walls", inside.len()) };
        reader.tell(many);
    }
    for (kind, many) in &found.others {
        let plural = if *many == 1 { "" } else { "s" };
        reader.tell(format!("{many} {kind}{plural}: walls and what stands in them are read alone"));
    }
    Ok(Model { name, walls: outside.into_iter().map(|(_, w)| w).collect(), left_out: reader.left_out })
}

fn scan(bytes: &[u8], stop: &Stop) -> Result<Found, String> {
    let mut found = Found::default();
    let decoder = EntityDecoder::new(bytes);
    let mut scanner = EntityScanner::new(bytes);
    let mut things = 0_usize;
    while let Some((id, kind, start, end)) = scanner.next_entity() {
        things += 1;
        if things.is_multiple_of(10_000) {
            stop.check()?;
        }
        let kind = kind.to_uppercase();
        let is_relation = kind.starts_with("IFCREL");
        match kind.as_str() {
            "IFCPROJECT" => found.project = Some(id),
            "IFCWALL" | "IFCWALLSTANDARDCASE" | "IFCWALLELEMENTEDCASE" => found.walls.push(id),
            "IFCCURTAINWALL" => *found.others.entry("curtain wall").or_default() += 1,
            "IFCROOF" => *found.others.entry("roof").or_default() += 1,
            "IFCSLAB" => *found.others.entry("slab").or_default() += 1,
            "IFCRELVOIDSELEMENT" | "IFCRELFILLSELEMENT" | "IFCRELDEFINESBYPROPERTIES" => {}
            _ => continue,
        }
        if found.walls.len() + found.voids.len() + found.fills.len() > MOST_THINGS {
            return Err(format!("found more than {MOST_THINGS} walls and openings: export one building at a time"));
        }
        if !is_relation {
            continue;
        }
        // A relation that does not read says nothing.
        let Ok(e) = decoder.decode_at_uncached(start, end) else { continue };
        match (kind.as_str(), e.get_ref(4), e.get_ref(5)) {
            ("IFCRELVOIDSELEMENT", Some(wall), Some(hole)) => found.voids.entry(wall).or_default().push(hole),
            ("IFCRELFILLSELEMENT", Some(hole), Some(filling)) => {
                found.fills.insert(hole, filling);
            }
            ("IFCRELDEFINESBYPROPERTIES", _, Some(set)) => {
                for of in e.get_refs(4).unwrap_or_default() {
                    found.properties.entry(of).or_default().push(set);
                }
            }
            _ => {}
        }
    }
    Ok(found)
}

impl Reader<'_> {
    fn get(&mut self, id: u32) -> Option<DecodedEntity> {
        self.decoder.decode_by_id(id).ok()
    }

    fn of(&mut self, e: &DecodedEntity, at: usize) -> Option<DecodedEntity> {
        self.get(e.get_ref(at)?)
    }

    fn text(&self, e: &DecodedEntity, at: usize) -> String {
        e.get_string(at).unwrap_or_default().chars().filter(|c| !c.is_control()).take(80).collect()
    }

    fn tell(&mut self, what: String) {
        if self.left_out.len() < MOST_TOLD {
            self.left_out.push(what);
        }
    }

    fn kind(e: &DecodedEntity) -> String {
        e.ifc_type.as_str().to_uppercase()
    }

    /// Numbers of a point or direction, of which the third may not be there.
    fn numbers(e: &DecodedEntity) -> Option<[f64; 3]> {
        let list = e.get_list(0)?;
        let n = |i: usize| list.get(i).and_then(AttributeValue::as_float).unwrap_or(0.0);
        Some([n(0), n(1), n(2)])
    }

    /// A frame from an axis placement, of a plane or of space.
    fn axes(&mut self, e: &DecodedEntity) -> Frame {
        let at = self.of(e, 0).and_then(|p| Self::numbers(&p)).unwrap_or([0.0; 3]);
        let flat = Self::kind(e).ends_with("2D");
        let z = if flat { None } else { self.of(e, 1).and_then(|d| Self::numbers(&d)) };
        let x = self.of(e, if flat { 1 } else { 2 }).and_then(|d| Self::numbers(&d));
        let z = unit(z.unwrap_or([0.0, 0.0, 1.0]), [0.0, 0.0, 1.0]);
        let x = x.unwrap_or([1.0, 0.0, 0.0]);
        // Made square to the axis.
        let over = dot(x, z);
        let x = unit([x[0] - over * z[0], x[1] - over * z[1], x[2] - over * z[2]], [1.0, 0.0, 0.0]);
        Frame { axes: [x, cross(z, x), z], at }
    }

    /// Where a thing stands in the world, in the model's own unit.
    fn placed(&mut self, thing: &DecodedEntity) -> Option<Frame> {
        let mut chain = Vec::new();
        let mut next = self.of(thing, 5);
        while let Some(placement) = next {
            if chain.len() >= DEEPEST || Self::kind(&placement) != "IFCLOCALPLACEMENT" {
                return None;
            }
            let own = self.of(&placement, 1)?;
            chain.push(self.axes(&own));
            next = self.of(&placement, 0);
        }
        Some(chain.into_iter().fold(HERE, |inner, outer| inner.within(&outer)))
    }

    /// Corners of a thing's body in its own frame.
    fn corners(&mut self, thing: &DecodedEntity) -> Vec<[f64; 3]> {
        let mut out = Vec::new();
        self.parts = 0;
        let Some(shape) = self.of(thing, 6) else { return out };
        for representation in shape.get_refs(2).unwrap_or_default() {
            let Some(r) = self.get(representation) else { continue };
            let which = r.get_string(1).unwrap_or_default().to_lowercase();
            if which == "body" || which == "facetation" {
                for item in r.get_refs(3).unwrap_or_default() {
                    self.solid(item, &HERE, 0, &mut out);
                }
            }
        }
        out
    }

    fn solid(&mut self, id: u32, frame: &Frame, depth: usize, out: &mut Vec<[f64; 3]>) {
        self.parts += 1;
        if depth >= DEEPEST || out.len() >= MOST_POINTS || self.parts > MOST_PARTS {
            return;
        }
        let Some(e) = self.get(id) else { return };
        match Self::kind(&e).as_str() {
            "IFCEXTRUDEDAREASOLID" => {
                let own = self.of(&e, 1).map_or(HERE, |p| self.axes(&p)).within(frame);
                let along = self.of(&e, 2).and_then(|d| Self::numbers(&d)).unwrap_or([0.0, 0.0, 1.0]);
                let far = e.get_float(3).unwrap_or(0.0);
                let Some(profile) = self.of(&e, 0) else { return };
                for [x, y] in self.profile(&profile) {
                    let foot = [x, y, 0.0];
                    let head: [f64; 3] = std::array::from_fn(|i| foot[i] + unit(along, [0.0, 0.0, 1.0])[i] * far);
                    out.extend([own.out(foot), own.out(head)]);
                }
            }
            // What is cut off a wall at its top does not move its foot or its ends.
            "IFCBOOLEANCLIPPINGRESULT" | "IFCBOOLEANRESULT" => {
                if let Some(first) = e.get_ref(1) {
                    self.solid(first, frame, depth + 1, out);
                }
            }
            "IFCMAPPEDITEM" => {
                let Some(source) = self.of(&e, 0) else { return };
                let origin = self.of(&source, 0).map_or(HERE, |p| self.axes(&p)).within(frame);
                let Some(mapped) = self.of(&source, 1) else { return };
                for item in mapped.get_refs(3).unwrap_or_default() {
                    self.solid(item, &origin, depth + 1, out);
                }
            }
            "IFCTRIANGULATEDFACESET" | "IFCPOLYGONALFACESET" => {
                let Some(list) = self.of(&e, 0) else { return };
                let triple = |v: &AttributeValue| {
                    let AttributeValue::List(p) = v else { return None };
                    let n = |i: usize| p.get(i).and_then(AttributeValue::as_float);
                    Some([n(0)?, n(1)?, n(2)?])
                };
                let room = MOST_POINTS - out.len();
                out.extend(
                    list.get_list(0).unwrap_or_default().iter().filter_map(triple).take(room).map(|p| frame.out(p)),
                );
            }
            "IFCFACETEDBREP" => {
                let Some(shell) = self.of(&e, 0) else { return };
                for face in shell.get_refs(0).unwrap_or_default() {
                    let bounds = self.get(face).and_then(|f| f.get_refs(0)).unwrap_or_default();
                    for bound in bounds {
                        let Some(ring) = self.get(bound).and_then(|b| self.of(&b, 0)) else { continue };
                        for p in ring.get_refs(0).unwrap_or_default() {
                            let point = self.get(p).and_then(|p| Self::numbers(&p));
                            if let Some(point) = point.filter(|_| out.len() < MOST_POINTS) {
                                out.push(frame.out(point));
                            }
                        }
                    }
                }
            }
            _ => {}
        }
    }

    /// Corners of a flat outline.
    fn profile(&mut self, e: &DecodedEntity) -> Vec<[f64; 2]> {
        match Self::kind(e).as_str() {
            "IFCRECTANGLEPROFILEDEF" => {
                let own = self.of(e, 2).map_or(HERE, |p| self.axes(&p));
                let (x, y) = (e.get_float(3).unwrap_or(0.0) / 2.0, e.get_float(4).unwrap_or(0.0) / 2.0);
                let corner = |sx: f64, sy: f64| {
                    let p = own.out([x * sx, y * sy, 0.0]);
                    [p[0], p[1]]
                };
                vec![corner(-1.0, -1.0), corner(1.0, -1.0), corner(1.0, 1.0), corner(-1.0, 1.0)]
            }
            "IFCARBITRARYCLOSEDPROFILEDEF" | "IFCARBITRARYPROFILEDEFWITHVOIDS" => {
                let Some(curve) = self.of(e, 2) else { return Vec::new() };
                match Self::kind(&curve).as_str() {
                    "IFCPOLYLINE" => {
                        let points = curve.get_refs(0).unwrap_or_default();
                        let point = |p: &u32| self.get(*p).and_then(|p| Self::numbers(&p)).map(|p| [p[0], p[1]]);
                        points.iter().take(MOST_POINTS).filter_map(point).collect()
                    }
                    "IFCINDEXEDPOLYCURVE" => {
                        let Some(list) = self.of(&curve, 0) else { return Vec::new() };
                        let pair = |v: &AttributeValue| {
                            let AttributeValue::List(p) = v else { return None };
                            Some([p.first()?.as_float()?, p.get(1)?.as_float()?])
                        };
                        list.get_list(0).unwrap_or_default().iter().take(MOST_POINTS).filter_map(pair).collect()
                    }
                    _ => Vec::new(),
                }
            }
            _ => Vec::new(),
        }
    }

    /// True or false where a wall's common properties say whether it is outside.
    fn outside(&mut self, id: u32, found: &Found) -> Option<bool> {
        for set in found.properties.get(&id).cloned().unwrap_or_default() {
            let Some(set) = self.get(set).filter(|s| s.get_string(2) == Some("Pset_WallCommon")) else { continue };
            for p in set.get_refs(4).unwrap_or_default() {
                let Some(p) = self.get(p).filter(|p| p.get_string(0) == Some("IsExternal")) else { continue };
                return p.get(2).and_then(AttributeValue::as_bool);
            }
        }
        None
    }

    /// A wall with its holes; where it is none that can be taken it is told.
    fn wall(&mut self, id: u32, found: &Found) -> Option<(Option<bool>, ModelWall)> {
        let e = self.get(id)?;
        let name = self.text(&e, 2);
        let called = if name.is_empty() { format!("wall #{id}") } else { name.clone() };
        let Some(frame) = self.placed(&e) else {
            self.tell(format!("{called}: where it stands cannot be read"));
            return None;
        };
        let corners = self.corners(&e);
        let Some([x, y, z]) = bounds(&corners) else {
            self.tell(format!("{called}: its shape cannot be read; draw it here"));
            return None;
        };
        if frame.axes[2][2] < 0.99 {
            self.tell(format!("{called}: it does not stand upright"));
            return None;
        }
        // It runs along the longer of its sides.
        let along_x = x[1] - x[0] >= y[1] - y[0];
        let (run, thick) = if along_x { (x, y) } else { (y, x) };
        if thick[1] - thick[0] > PLUMP * (run[1] - run[0]) {
            self.tell(format!("{called}: it does not run straight; draw it here"));
            return None;
        }
        let mid = (thick[0] + thick[1]) / 2.0;
        let place = |at: f64| frame.out(if along_x { [at, mid, z[0]] } else { [mid, at, z[0]] });
        let scale = self.scale;
        let end = |at: f64| {
            let p = place(at);
            [p[0] * scale, p[1] * scale]
        };
        let mut wall = ModelWall {
            name: called.clone(),
            ends: [end(run[0]), end(run[1])],
            thickness: (thick[1] - thick[0]) * scale,
            foot: place(run[0])[2] * scale,
            height: (z[1] - z[0]) * scale,
            openings: Vec::new(),
        };
        for hole in found.voids.get(&id).cloned().unwrap_or_default() {
            let Some(h) = self.get(hole) else { continue };
            let (points, within) = (self.corners(&h), self.placed(&h));
            let here: Vec<[f64; 3]> =
                within.iter().flat_map(|w| points.iter().map(|p| frame.into(w.out(*p)))).collect();
            let Some([hx, hy, hz]) = bounds(&here) else {
                self.tell(format!("a hole in {called}: its shape cannot be read"));
                continue;
            };
            let across = if along_x { hx } else { hy };
            let filling = found.fills.get(&hole).and_then(|f| self.get(*f));
            let fills = match filling.as_ref().map(Self::kind).as_deref() {
                Some("IFCWINDOW" | "IFCWINDOWSTANDARDCASE") => Fills::Window,
                Some("IFCDOOR" | "IFCDOORSTANDARDCASE") => Fills::Door,
                _ => Fills::Nothing,
            };
            let named = filling.as_ref().unwrap_or(&h);
            let (tag, own) = (self.text(named, 7), self.text(named, 2));
            wall.openings.push(ModelOpening {
                id: self.text(named, 0),
                name: if own.is_empty() { tag } else { own },
                fills,
                from: (across[0] - run[0]) * scale,
                sill: (hz[0] - z[0]) * scale,
                width: (across[1] - across[0]) * scale,
                height: (hz[1] - hz[0]) * scale,
            });
        }
        let outside = self.outside(id, found);
        Some((outside, wall))
    }
}

/// Least and greatest of points along each axis.
fn bounds(points: &[[f64; 3]]) -> Option<[[f64; 2]; 3]> {
    let first = points.first()?;
    let mut out = first.map(|v| [v, v]);
    for p in points {
        for (b, v) in out.iter_mut().zip(p) {
            *b = [b[0].min(*v), b[1].max(*v)];
        }
    }
    out.iter().flatten().all(|v| v.is_finite()).then_some(out)
}
